// envar hosts: the cards that there are, what one says, whether one is sound.
#include <fmt/format.h>

#include <algorithm>

#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/check/check.hpp"
#include "core/files/read.hpp"
#include "core/process/run.hpp"
#include "core/text/names.hpp"
#include "core/trial/trial.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

std::string installed_text(const model::Card& card, const std::string& path) {
    const auto program = process::find_program(card.programs, path);
    if (!program) return card.package.empty() ? "no" : fmt::format("no (package {})", card.package);
    const std::string version = trial::host_version(card, *program);
    return version.empty() ? program->string() : version;
}

void list(Invocation& invocation, const std::vector<model::Card>& cards) {
    Table table{{"host", "kind", "installed", "card", "summary"}, {}};
    ordered_json rows = ordered_json::array();
    for (const auto& card : cards) {
        const std::string installed = installed_text(card, invocation.variable("PATH"));
        table.rows.push_back({card.name.value, card.kind, installed, card.origin, card.summary});
        rows.push_back({{"host", card.name.value},
                        {"kind", card.kind},
                        {"installed", installed},
                        {"card", card.origin},
                        {"summary", card.summary}});
    }
    if (invocation.shared.json) {
        invocation.terminal->raw(ordered_json{{"hosts", rows}}.dump(2) + "\n");
    } else {
        invocation.terminal->table(table);
        invocation.terminal->remark("\n`envar hosts show HOST` tells what a card says");
    }
}

void show(Invocation& invocation, const model::Card& card) {
    Terminal& out = *invocation.terminal;
    const auto row = [&](std::string_view name, const std::string& value) {
        if (!value.empty()) out.line(fmt::format("  {:<16} {}", name, value));
    };
    out.line(out.styled(card.name.value, Style::strong) + ": " + card.summary);
    row("kind", card.kind);
    row("card", card.origin == "shipped" ? card.origin : fmt::format("{} ({})", card.origin, card.source.file()));
    row("programs", fmt::format("{}", fmt::join(card.programs, ", ")));
    row("installed", installed_text(card, invocation.variable("PATH")));
    row("names like", card.module_example + "   pattern " + card.module_pattern.value);
    row("entry file", card.entry_file);
    row("looked up as", fmt::format("{}", fmt::join(card.candidates, ", then ")));
    for (const auto& variable : card.variables)
        row("search variable",
            fmt::format(
                "{}, entries separated by `{}`{}", variable.name, variable.separator,
                variable.cannot_hold.empty() ? "" : fmt::format("; cannot hold any of `{}`", variable.cannot_hold)));
    row("phases", fmt::format("{}", fmt::join(card.phases, ", ")));
    row("takes notice", card.notice);
    out.line("\nblueprints");
    for (const auto& blueprint : card.blueprints) {
        out.line(fmt::format("  {:<16} {}", blueprint.name, blueprint.summary));
        for (const auto& file : card.files) {
            const bool in = file.blueprints.empty() || std::find(file.blueprints.begin(), file.blueprints.end(),
                                                                 blueprint.name) != file.blueprints.end();
            if (in)
                out.line(fmt::format("    {:<22} {}, {}{}", file.path, file.generated() ? "generated" : "yours",
                                     file.purpose, file.per_search() ? " (once, in the search folder)" : ""));
        }
    }
}

Outcome check_cards(Invocation& invocation, const std::vector<model::Card>& cards,
                    std::vector<text::Finding> findings, const std::string& name) {
    for (const auto& card : cards)
        if (name.empty() || card.name.value == name)
            for (auto& finding : check::check_card(card)) findings.push_back(std::move(finding));
    text::sort_findings(findings);
    invocation.terminal->findings(findings);
    if (findings.empty())
        invocation.terminal->remark(name.empty() ? counted(cards.size(), "card") + " checked, nothing found"
                                                 : fmt::format("the card {} is sound", name));
    return findings.empty() ? fine : answer_is_no;
}

Outcome run(Invocation& invocation) {
    const std::string verb = invocation.words.empty() ? "list" : invocation.words[0];
    const std::string name = invocation.words.size() > 1 ? invocation.words[1] : "";
    std::optional<std::filesystem::path> root;
    if (auto found = workspace_root(invocation)) root = *found;
    std::vector<text::Finding> findings;
    const auto cards = model::load_cards(card_folders(invocation, root), root.value_or(invocation.folder), findings);
    if (verb == "list" && name.empty()) {
        list(invocation, cards);
        if (!findings.empty())
            invocation.terminal->warn("there are cards with faults; `envar hosts check` shows them");
        return fine;
    }
    if (verb != "show" && verb != "check")
        return text::fail(text::FailureKind::wrong_usage, fmt::format("`hosts` knows no `{}`", verb),
                          "use `hosts`, `hosts show HOST` or `hosts check [HOST]`");
    if (!name.empty())
        if (auto card = known_card(cards, name); !card) return tl::unexpected(card.error());
    if (verb == "check") {
        if (!name.empty()) {
            const std::string file = (*known_card(cards, name))->source.file();
            std::erase_if(findings, [&](const text::Finding& f) { return f.file != file; });
        }
        return check_cards(invocation, cards, std::move(findings), name);
    }
    if (name.empty())
        return text::fail(text::FailureKind::wrong_usage, "`hosts show` needs the name of a host",
                          "`envar hosts` lists them");
    show(invocation, **known_card(cards, name));
    return fine;
}

}  // namespace

Command hosts_command() {
    return {
        "hosts",
        "Start",
        "[show|check] [HOST]",
        0,
        2,
        "list, show or check the cards of hosts",
        "A card teaches Envar one host: names, layout, search path, files, trial. Cards come with Envar, from\n"
        "$XDG_DATA_HOME/envar/hosts and from the workspace's folder `hosts`; of two with one name the nearest counts.\n\n"
        "  envar hosts                 the hosts, and which are installed\n"
        "  envar hosts show lua        what the card says, and its blueprints\n"
        "  envar hosts check           patterns, templates and examples of every card",
        nullptr,
        run};
}

}  // namespace envar::cli
