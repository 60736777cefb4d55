// envar check: everything that can be known without running a host.
#include "core/check/check.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/version.hpp"
#include "cli/workbench.hpp"
#include "core/check/sarif.hpp"
#include "core/files/watch.hpp"
#include "core/files/write.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;
using Findings = std::vector<text::Finding>;

constexpr int quiet_milliseconds = 100;
constexpr std::size_t most_hints = 20;  // of one sort that are told one by one

ordered_json row_of(const text::Finding& f) {
    return {{"code", f.code},
            {"severity", text::severity_name(f.severity)},
            {"file", f.file},
            {"line", f.position.line},
            {"column", f.position.column},
            {"message", f.message},
            {"hint", f.hint}};
}

ordered_json rows_of(const Findings& findings) {
    ordered_json rows = ordered_json::array();
    for (const auto& f : findings) rows.push_back(row_of(f));
    return rows;
}

Table table_of(const Findings& findings) {
    Table table{{"code", "severity", "file", "line", "column", "message", "hint"}, {}};
    for (const auto& f : findings)
        table.rows.push_back({f.code, std::string(text::severity_name(f.severity)), f.file,
                              std::to_string(f.position.line), std::to_string(f.position.column), f.message, f.hint});
    return table;
}

/// One row for each [[asset]] table of the wanted modules.
ordered_json asset_rows(const model::Space& space, const check::AssetScans& scans,
                        const std::vector<std::string>& wanted) {
    ordered_json rows = ordered_json::array();
    for (const auto& module : space.modules) {
        if (!wanted.empty() && std::find(wanted.begin(), wanted.end(), module.name()) == wanted.end()) continue;
        const auto found = scans.find(&module);
        for (std::size_t i = 0; found != scans.end() && i < found->second.size(); ++i)
            rows.push_back({{"module", module.name()},
                            {"folder", module.manifest.assets[i].folder.value},
                            {"extension", module.manifest.assets[i].extension.value},
                            {"matched", found->second[i].files.size()},
                            {"ignored", found->second[i].ignored}});
    }
    return rows;
}

void tell_assets(Terminal& out, const ordered_json& rows) {
    for (const auto& row : rows)
        out.remark(fmt::format("assets of {}: {} in {}{}", row["module"].get<std::string>(),
                               counted(row["matched"].get<std::size_t>(), "file"), row["folder"].get<std::string>(),
                               row["ignored"].get<std::size_t>() == 0
                                   ? ""
                                   : fmt::format(", {} ignored", row["ignored"].get<std::size_t>())));
}

text::Result<void> leave_sarif(const Invocation& invocation, const Findings& findings) {
    const std::string name = invocation.text("sarif");
    if (name.empty()) return {};
    return files::write_file((invocation.folder / name).lexically_normal(), check::sarif(findings, version));
}

struct Round {
    Findings findings;
    std::size_t modules = 0;
    ordered_json assets;
    std::filesystem::path root;
};

text::Result<Round> one_round(Invocation& invocation) {
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    if (auto known = known_modules(*space, invocation.words); !known) return tl::unexpected(known.error());
    check::AssetScans assets;
    Round round;
    round.findings = check::check(*space, invocation.words, &assets, invocation.environment, invocation.shared.jobs);
    round.modules = invocation.words.empty() ? space->modules.size() : invocation.words.size();
    round.assets = asset_rows(*space, assets, invocation.words);
    round.root = space->root;
    if (auto left = leave_sarif(invocation, round.findings); !left) return tl::unexpected(left.error());
    return round;
}

std::string totals(const Round& round) {
    const auto count = [&](text::Severity severity, std::string_view one) {
        return counted(text::count_severity(round.findings, severity), one);
    };
    const bool hints = text::count_severity(round.findings, text::Severity::hint) != 0;
    return fmt::format("{}{}{}{} in {}", count(text::Severity::error, "error"), hints ? ", " : " and ",
                       count(text::Severity::warning, "warning"),
                       hints ? " and " + count(text::Severity::hint, "hint") : "", counted(round.modules, "module"));
}

/// All but the hints of a sort that there are many of. Of those some are told, and how many more there are.
void tell_findings(Terminal& out, const Findings& findings, bool all) {
    std::map<std::string_view, std::size_t> hints;
    Findings told;
    for (const auto& finding : findings)
        if (all || finding.severity != text::Severity::hint || ++hints[finding.code] <= most_hints)
            told.push_back(finding);
    out.findings(told);
    if (told.size() < findings.size()) out.line();
    for (const auto& [code, count] : hints)
        if (count > most_hints)
            out.line(fmt::format("… {} of {}; `--verbose` shows them, check.json has them",
                                 counted(count - most_hints, "more hint"), code));
}

ordered_json result_of(const Round& round) {
    return {{"findings", rows_of(round.findings)},
            {"errors", text::count_severity(round.findings, text::Severity::error)},
            {"warnings", text::count_severity(round.findings, text::Severity::warning)},
            {"assets", round.assets}};
}

Outcome tell(Invocation& invocation, const Round& round) {
    const Table table = table_of(round.findings);
    auto print = leave_results(invocation, round.root, "check", result_of(round), &table);
    if (!print) return tl::unexpected(print.error());
    const bool trouble = text::count_severity(round.findings, text::Severity::error) +
                             text::count_severity(round.findings, text::Severity::warning) >
                         0;
    const ExitStatus status = trouble ? answer_is_no : fine;
    if (!*print) return status;
    Terminal& out = *invocation.terminal;
    tell_findings(out, round.findings, invocation.flag("verbose"));
    if (!round.findings.empty()) out.remark("");
    tell_assets(out, round.assets);
    if (round.findings.empty()) {
        out.remark(fmt::format("{} checked, nothing found", counted(round.modules, "module")));
    } else {
        out.remark(fmt::format("{}; `envar explain {}` tells more", totals(round), round.findings.front().code));
    }
    return status;
}

/// Those of `some` that `others` does not have; a finding that has only moved to another line is the same.
Findings without(const Findings& some, const Findings& others) {
    Findings out;
    const auto same = [](const text::Finding& a, const text::Finding& b) {
        return a.code == b.code && a.file == b.file && a.message == b.message;
    };
    for (const auto& finding : some)
        if (std::none_of(others.begin(), others.end(), [&](const auto& other) { return same(finding, other); }))
            out.push_back(finding);
    return out;
}

void tell_difference(Invocation& invocation, const Round& before, const Round& after) {
    const Findings fresh = without(after.findings, before.findings);
    const Findings solved = without(before.findings, after.findings);
    if (fresh.empty() && solved.empty()) return;
    Terminal& out = *invocation.terminal;
    if (invocation.shared.json) {
        ordered_json line = {{"new", rows_of(fresh)}, {"solved", rows_of(solved)}};
        line.update(result_of(after));
        line.erase("findings");
        out.raw(line.dump(-1, ' ', false, ordered_json::error_handler_t::replace) + "\n");
        return;
    }
    out.line();
    for (const auto& finding : solved)
        out.line(fmt::format("{} {}: {} [{}]", out.styled("solved", Style::good), finding.file, finding.message,
                             finding.code));
    if (!solved.empty() && !fresh.empty()) out.line();
    out.findings(fresh);
    out.line();
    out.remark(after.findings.empty() ? fmt::format("{} checked, nothing found", counted(after.modules, "module"))
                                      : totals(after));
}

/// Checks again whenever something changes, until it is interrupted.
Outcome keep_watching(Invocation& invocation, Round before) {
    auto watch = files::Watch::start(before.root);
    if (!watch) return tl::unexpected(watch.error());
    invocation.terminal->remark("watching for changes; end with Ctrl-C");
    for (;;) {
        if (!invocation.terminal->flush()) return machine_failed;
        if (auto changed = watch->wait(quiet_milliseconds); !changed) return tl::unexpected(changed.error());
        auto after = one_round(invocation);
        if (!after) {
            invocation.terminal->failure(after.error());
            continue;
        }
        tell_difference(invocation, before, *after);
        before = std::move(*after);
    }
}

Outcome run_check(Invocation& invocation) {
    auto round = one_round(invocation);
    if (!round) return tl::unexpected(round.error());
    auto told = tell(invocation, *round);
    if (!told || !invocation.flag("watch")) return told;
    return keep_watching(invocation, std::move(*round));
}

}  // namespace

Command check_command() {
    return {
        "check",
        "Look",
        "[MODULE…]",
        0,
        10000,
        "find what is wrong, without running a host",
        "Manifests and their fields, names, files, assets, members against source, dependencies and circles, the\n"
        "search path, generated files, the lock. Everything is shown in one run, each finding with its place and\n"
        "what to do. Exit status 1 when there is an error or a warning.\n\n"
        "  envar check\n  envar check star_field\n  envar check --format json\n"
        "  envar check --sarif findings.sarif     for tools that collect results (SARIF 2.1.0)\n"
        "  envar check --watch                    again on every change; tells what is new and what is solved",
        [](options::options_description_easy_init option) {
            option("sarif", options::value<std::string>()->value_name("FILE"),
                   "also write the findings as SARIF 2.1.0");
            option("watch", "check again on every change, until Ctrl-C");
        },
        run_check};
}

}  // namespace envar::cli
