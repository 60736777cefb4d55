// envar resolve: chooses versions and writes the lock.
#include "core/resolve/resolve.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/files/read.hpp"
#include "core/model/pc_file.hpp"
#include "core/search/declared.hpp"
#include "core/search/system.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

ordered_json to_json(const resolve::Resolution& resolution) {
    ordered_json selected = ordered_json::array();
    for (const auto& s : resolution.selected)
        selected.push_back({{"module", s.module},
                            {"version", s.version},
                            {"host", s.host},
                            {"origin", s.origin},
                            {"required_by", s.required_by}});
    ordered_json unsolved = nullptr;
    if (resolution.unsolved) {
        ordered_json requirements = ordered_json::array();
        for (const auto& r : resolution.unsolved->requirements)
            requirements.push_back({{"module", r.module},
                                    {"version", r.version},
                                    {"requires", r.requires_module},
                                    {"versions", r.versions},
                                    {"file", r.file},
                                    {"line", r.line}});
        unsolved = {{"sentences", resolution.unsolved->sentences}, {"requirements", requirements}};
    }
    return {{"selected", selected}, {"unsolved", unsolved}};
}

Table table_of(const resolve::Resolution& resolution) {
    Table table{{"module", "version", "host", "origin", "required by"}, {}};
    for (const auto& s : resolution.selected)
        table.rows.push_back(
            {s.module, s.version, s.host, s.origin, fmt::format("{}", fmt::join(s.required_by, ", "))});
    return table;
}

/// What the chosen modules need of the host or the operating system.
struct SystemNeed {
    std::string module;
    std::string host;
    std::string required_by;
    std::string versions;
    std::string place;
    search::SystemModule here;
    bool fits = true;
};

std::vector<SystemNeed> system_needs(const Invocation& invocation, const resolve::Question& question,
                                     const resolve::Resolution& resolution) {
    std::vector<SystemNeed> needs;
    std::map<std::pair<std::string, std::string>, search::SystemModule> asked;
    for (const auto& selected : resolution.selected) {
        const model::Module* module = question.space->module(selected.module);
        const model::Card* card = module == nullptr ? nullptr : question.space->card(module->manifest.host.value);
        if (card == nullptr) continue;
        for (const auto& d : module->manifest.dependencies) {
            if (!d.system || !model::holds(d.when, question.platform, question.target)) continue;
            const auto [at, fresh] = asked.try_emplace({card->name.value, d.module.value});
            if (fresh) at->second = search::system_module(*card, d.module.value, invocation.environment);
            SystemNeed need{
                d.module.value,
                card->name.value,
                module->name(),
                d.versions.is_any() ? "any" : d.versions.text,
                fmt::format("{}:{}", module->source.file(), module->source.position(d.module.span.begin).line),
                at->second};
            const auto version = versions::parse_version(model::plain_version(need.here.version));
            if (need.here.known && !need.here.found) need.fits = d.optional;
            if (version) need.fits = versions::meets(*version, d.versions, true);
            needs.push_back(std::move(need));
        }
    }
    return needs;
}

bool all_fit(const std::vector<SystemNeed>& needs) {
    return std::all_of(needs.begin(), needs.end(), [](const auto& need) { return need.fits; });
}

ordered_json to_json(const std::vector<SystemNeed>& needs) {
    ordered_json list = ordered_json::array();
    for (const auto& need : needs)
        list.push_back({{"module", need.module},
                        {"host", need.host},
                        {"required_by", need.required_by},
                        {"versions", need.versions},
                        {"known", need.here.known},
                        {"found", need.here.found},
                        {"version", need.here.version},
                        {"told_by", need.here.told_by},
                        {"fits", need.fits}});
    return list;
}

void print_system(Terminal& out, const std::vector<SystemNeed>& needs) {
    if (needs.empty()) return;
    Table table{{"of the system", "version", "host", "told by", "required by"}, {}};
    for (const auto& need : needs)
        table.rows.push_back({need.module,
                              !need.here.known            ? "not known"
                              : !need.here.found          ? out.styled("not there", Style::bad)
                              : need.here.version.empty() ? "there"
                              : need.fits                 ? need.here.version
                                                          : out.styled(need.here.version, Style::bad),
                              need.host, need.here.told_by.empty() ? "-" : need.here.told_by,
                              fmt::format("{} ({}, {})", need.required_by, need.versions, need.place)});
    out.line();
    out.table(table);
}

Outcome explain_choice(Invocation& invocation, const resolve::Question& question,
                       const resolve::Resolution& resolution) {
    const std::string name = invocation.text("why");
    const auto lines = resolve::why(question, resolution, name);
    if (lines.empty())
        return text::fail(text::FailureKind::answer_is_no, fmt::format("`{}` was not chosen", name),
                          "nothing that is loaded needs it");
    for (std::size_t i = 0; i < lines.size(); ++i) invocation.terminal->line((i == 0 ? "" : "  ") + lines[i]);
    return fine;
}

/// The lock holds the whole workspace: a look at one target or platform leaves it alone.
Outcome write_lock(Invocation& invocation, const Desk& desk, const resolve::Resolution& resolution) {
    const auto path = desk.space.root / resolve::lock_name;
    const auto before = files::read_file(path, std::size_t{16} << 20U);
    files::Plan plan{desk.space.root, {}};
    plan.add({path, before ? std::optional(*before) : std::nullopt, resolve::lock_text(resolution),
              "the versions that were chosen"});
    plan.drop_idle();
    if (plan.empty()) {
        if (!invocation.shared.json)
            invocation.terminal->remark(fmt::format("{} holds this already", resolve::lock_name));
        return fine;
    }
    if (!invocation.shared.json || invocation.shared.dry_run) return carry_out(invocation, plan, desk.lock, {});
    return files::apply(plan, {invocation.command_line, invocation.time}, *desk.lock).map([] { return fine; });
}

void print_unsolved(Terminal& out, const resolve::Unsolved& unsolved) {
    out.line(out.styled("the requirements cannot be met:", Style::bad));
    for (std::size_t i = 0; i < unsolved.sentences.size(); ++i)
        out.line(fmt::format("  {}. {}", i + 1, unsolved.sentences[i]));
}

/// Without a workspace there is no lock to write.
Outcome resolve_catalogue(Invocation& invocation) {
    auto universe = open_universe(invocation);
    if (!universe) return tl::unexpected(universe.error());
    const resolve::Question& question = (*universe)->question;
    auto resolution = resolve::resolve(question);
    for (auto& selected : resolution.selected) selected.origin = (*universe)->catalogue;
    if (invocation.flag("why") && !resolution.unsolved) return explain_choice(invocation, question, resolution);
    const Table table = table_of(resolution);
    auto print = leave_results(invocation, (*universe)->space.root, "resolve", to_json(resolution), &table);
    if (!print) return tl::unexpected(print.error());
    if (*print && resolution.unsolved) print_unsolved(*invocation.terminal, *resolution.unsolved);
    if (*print && !resolution.unsolved) invocation.terminal->table(table);
    return resolution.unsolved ? answer_is_no : fine;
}

Outcome run_resolve(Invocation& invocation) {
    if (invocation.flag("catalogue") || invocation.flag("root")) return resolve_catalogue(invocation);
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    auto question = question_of(invocation, desk->space);
    if (!question) return tl::unexpected(question.error());
    question->environment = invocation.environment;
    for (auto& card : desk->space.cards)
        if (card.highest && !search::workspace_folders(desk->space, card).empty()) ask_host(invocation, card);
    const auto resolution = resolve::resolve(*question);
    if (invocation.flag("why") && !resolution.unsolved) return explain_choice(invocation, *question, resolution);
    const Table table = table_of(resolution);
    const auto system = system_needs(invocation, *question, resolution);
    ordered_json result = to_json(resolution);
    result["system"] = to_json(system);
    const bool show_diff_only = invocation.shared.json && invocation.shared.dry_run;
    auto print = show_diff_only ? text::Result<bool>(false)
                                : leave_results(invocation, desk->space.root, "resolve", result, &table);
    if (!print) return tl::unexpected(print.error());
    Terminal& out = *invocation.terminal;
    if (resolution.unsolved) {
        if (!*print) return answer_is_no;
        print_unsolved(out, *resolution.unsolved);
        out.remark("the lock is as it was");
        return answer_is_no;
    }
    if (*print) {
        out.table(table);
        print_system(out, system);
        out.remark("");
    }
    if (!all_fit(system)) {
        if (*print) out.remark("what the system has does not do: the lock is as it was");
        return answer_is_no;
    }
    if (!question->target.empty() || !question->platform.empty()) {
        if (*print) out.remark("a look at one target or platform: the lock is as it was");
        return fine;
    }
    return write_lock(invocation, *desk, resolution);
}

}  // namespace

Command resolve_command() {
    return {
        "resolve",
        "Shape",
        "",
        0,
        0,
        "choose versions and write the lock",
        "Takes the modules of the workspace (or what --target loads), follows their dependencies, and checks every\n"
        "requirement and pin. Without --target and --platform the choice is written to lock.envar.toml.\n\n"
        "  envar resolve\n  envar resolve --why sidereal\n  envar resolve --target viewer\n"
        "  envar resolve --catalogue system.jsonl --root \"cairo >=1.14\"",
        [](options::options_description_easy_init option) {
            option("why", options::value<std::string>()->value_name("M"), "who asks for a module, and with what");
            catalogue_options(option);
        },
        run_resolve};
}

}  // namespace envar::cli
