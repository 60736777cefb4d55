// envar check: everything that can be known without running a host.
#include "core/check/check.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

Outcome run(Invocation& invocation) {
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    if (auto known = known_modules(*space, invocation.words); !known) return tl::unexpected(known.error());
    const auto findings = check::check(*space, invocation.words);
    const std::size_t errors = text::count_severity(findings, text::Severity::error);
    const std::size_t warnings = text::count_severity(findings, text::Severity::warning);
    Table table{{"code", "severity", "file", "line", "column", "message", "hint"}, {}};
    ordered_json rows = ordered_json::array();
    for (const auto& f : findings) {
        rows.push_back({{"code", f.code},
                        {"severity", text::severity_name(f.severity)},
                        {"file", f.file},
                        {"line", f.position.line},
                        {"column", f.position.column},
                        {"message", f.message},
                        {"hint", f.hint}});
        table.rows.push_back({f.code, std::string(text::severity_name(f.severity)), f.file,
                              std::to_string(f.position.line), std::to_string(f.position.column), f.message, f.hint});
    }
    auto print = leave_results(invocation, space->root, "check",
                               {{"findings", rows}, {"errors", errors}, {"warnings", warnings}}, &table);
    if (!print) return tl::unexpected(print.error());
    const ExitStatus status = errors + warnings > 0 ? answer_is_no : fine;
    if (!*print) return status;
    Terminal& out = *invocation.terminal;
    out.findings(findings);
    const std::string modules =
        counted(invocation.words.empty() ? space->modules.size() : invocation.words.size(), "module");
    if (findings.empty()) {
        out.remark(fmt::format("{} checked, nothing found", modules));
    } else {
        out.remark(fmt::format("\n{} and {} in {}; `envar explain {}` tells more", counted(errors, "error"),
                               counted(warnings, "warning"), modules, findings.front().code));
    }
    return status;
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
        "Manifests and their fields, names, entry files, members against source, dependencies and circles, the\n"
        "search path, generated files, the lock. Everything is shown in one run, each finding with its place and\n"
        "what to do. Exit status 1 when there is an error or a warning.\n\n"
        "  envar check\n  envar check star_field\n  envar check --format json",
        nullptr,
        run};
}

}  // namespace envar::cli
