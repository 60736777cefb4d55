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
    // A card that came with the workspace may be anybody's: nothing that it names is run here.
    if (card.origin == "workspace") return program->string();
    const std::string version = trial::host_version(card, *program);
    return version.empty() ? program->string() : version;
}

bool runs_tests(const model::Card& card) {
    return std::any_of(card.trial_steps.begin(), card.trial_steps.end(), [](const auto& step) { return step.tests; });
}

void list(Invocation& invocation, const std::vector<model::Card>& cards) {
    Table table{{"host", "kind", "installed", "card", "summary"}, {}};
    ordered_json rows = ordered_json::array();
    for (const auto& card : cards) {
        if (card.is_base()) continue;
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

std::string ownership_text(const model::CardFile& file) {
    const std::string often = file.scope == model::FileScope::search      ? ", once, in the search folder"
                              : file.scope == model::FileScope::member    ? ", once a member"
                              : file.scope == model::FileScope::front     ? ", once a front"
                              : file.scope == model::FileScope::workspace ? ", once, at the root of the workspace"
                                                                          : "";
    switch (file.ownership) {
        case model::Ownership::authored:
            return "yours" + often;
        case model::Ownership::generated:
            return "generated" + often;
        case model::Ownership::shared:
            return "yours, with a block of Envar's" + often;
    }
    return {};
}

ordered_json to_json(const model::Card& card, const std::string& installed) {
    ordered_json blueprints = ordered_json::array();
    for (const auto& blueprint : card.blueprints) {
        ordered_json settings = ordered_json::array();
        for (const auto& setting : blueprint.settings)
            settings.push_back({{"name", setting.name}, {"default", setting.preset}, {"help", setting.help}});
        ordered_json files = ordered_json::array();
        for (const auto& file : card.files)
            if (model::Card::belongs(file, blueprint.name))
                files.push_back(
                    {{"path", file.path}, {"ownership", ownership_text(file)}, {"purpose", file.purpose}});
        blueprints.push_back(
            {{"name", blueprint.name}, {"summary", blueprint.summary}, {"settings", settings}, {"files", files}});
    }
    ordered_json variables = ordered_json::array();
    for (const auto& variable : card.variables) variables.push_back(variable.name);
    return {{"host", card.name.value}, {"kind", card.kind},
            {"summary", card.summary}, {"card", card.origin},
            {"installed", installed},  {"candidates", card.candidates},
            {"variables", variables},  {"phases", card.phases},
            {"notice", card.notice},   {"notice_variables", card.notice_variables},
            {"blueprints", blueprints}};
}

/// One row a variable: what it holds, what it cannot hold, what comes behind.
std::string variable_text(const model::SearchVariable& variable) {
    std::string out = variable.name;
    if (!variable.instead_of.empty()) out += fmt::format(" (unset: {})", variable.instead_of);
    if (variable.form == model::EntryForm::list) out += ", a list";
    if (variable.form == model::EntryForm::templates) out += fmt::format(", patterns with `{}`", variable.mark);
    if (!variable.separator.empty() && variable.separator != " ")
        out += fmt::format(", entries separated by `{}`", variable.separator);
    if (!variable.cannot_hold.empty()) out += fmt::format("; cannot hold any of `{}`", variable.cannot_hold);
    if (variable.utf8_only) out += "; folders must be UTF-8";
    if (variable.empty_is_here) out += "; an empty entry is the present folder";
    if (variable.own_shell_only) out += "; only a session of the shell itself sets it";
    return out;
}

std::string lookup_text(const model::Card& card) {
    std::string out = fmt::format("{}", fmt::join(card.candidates, ", then "));
    if (card.candidates.empty() && !card.index.files.empty())
        out = fmt::format("told by {}", fmt::join(card.index.files, ", then "));
    if (!card.walk.entry.empty()) {
        out = fmt::format("*/{}", card.walk.entry);
        if (!card.walk.file.empty()) out += fmt::format(", by the name in its {}", card.walk.file);
        if (!card.walk.groups.empty())
            out += fmt::format("; a folder with {} is gone into", fmt::join(card.walk.groups, " or "));
    }
    if (!card.inside.empty()) out += fmt::format(" in the folder {} of each module", card.inside);
    if (!card.before.candidates.empty())
        out = fmt::format("{}, and where there is none, {}", fmt::join(card.before.candidates, ", then "), out);
    if (card.highest) out += "; the highest version is taken";
    if (card.script_first) out += "; first in the folder of the script that is run";
    return out;
}

void show_blueprints(Terminal& out, const model::Card& card) {
    if (card.blueprints.empty()) return;
    out.line("\nblueprints");
    for (const auto& blueprint : card.blueprints) {
        out.line(fmt::format("  {} {}", out.styled(fmt::format("{:<10}", blueprint.name), Style::strong),
                             blueprint.summary));
        for (const auto& setting : blueprint.settings)
            out.line(fmt::format("    --set {}={}   {}", setting.name, setting.preset, setting.help));
        for (const auto& file : card.files)
            if (model::Card::belongs(file, blueprint.name))
                out.line(fmt::format("    {:<32} {} ({})", file.path, file.purpose, ownership_text(file)));
    }
}

void show(Invocation& invocation, const model::Card& card) {
    Terminal& out = *invocation.terminal;
    const std::string installed = installed_text(card, invocation.variable("PATH"));
    if (invocation.shared.json) {
        out.raw(to_json(card, installed).dump(2) + "\n");
        return;
    }
    const auto row = [&](std::string_view name, const std::string& value) {
        if (!value.empty()) out.line(fmt::format("  {:<16} {}", name, value));
    };
    out.line(out.styled(card.name.value, Style::strong) + ": " + card.summary);
    row("kind", card.kind);
    row("card", card.origin == "shipped" ? card.origin : fmt::format("{} ({})", card.origin, card.source.file()));
    row("programs", fmt::format("{}", fmt::join(card.programs, ", ")));
    row("installed", installed);
    if (!card.module_pattern.value.empty())
        row("names like", card.module_example + "   pattern " + card.module_pattern.value);
    row("entry file", card.entry_file);
    row("looked up as", lookup_text(card));
    for (const auto& variable : card.variables) row("search variable", variable_text(variable));
    if (!card.blueprints.empty()) row("phases", fmt::format("{}", fmt::join(card.phases, ", ")));
    row("module changed", card.notice);
    row("path changed", card.notice_variables);
    show_blueprints(out, card);
}

/// What Envar does for each host, as a table of Markdown.
void print_page(Invocation& invocation, const std::vector<model::Card>& cards) {
    Terminal& out = *invocation.terminal;
    const auto mark = [](bool yes) { return yes ? "yes" : "–"; };
    out.raw(
        "| host | blueprints | found by | session | trial | tests | a running host takes up a changed module |\n");
    out.raw("|---|---|---|---|---|---|---|\n");
    for (const auto& card : cards) {
        if (card.origin != "shipped" || card.is_base()) continue;
        std::vector<std::string> blueprints;
        for (const auto& blueprint : card.blueprints) blueprints.push_back(blueprint.name);
        std::string found = card.variables.empty() ? "–" : "`" + card.variables.front().name + "`";
        if (card.highest) found += ", highest version";
        out.raw(fmt::format(
            "| {} | {} | {} | {} | {} | {} | {} |\n", card.name.value,
            blueprints.empty() ? "–" : fmt::format("{}", fmt::join(blueprints, ", ")), found,
            mark(!card.session_template.empty()), mark(!card.trial_arguments.empty() || !card.trial_steps.empty()),
            mark(!card.test_arguments.empty() || runs_tests(card)), card.notice.empty() ? "–" : card.notice));
    }
}

/// A card by its file, wherever that lies.
std::optional<model::Card> card_at(const Invocation& invocation, const std::string& name,
                                   const std::optional<std::filesystem::path>& root,
                                   std::vector<text::Finding>& findings) {
    const std::filesystem::path file = (invocation.folder / name).lexically_normal();
    if (!name.ends_with(model::card_suffix) || !files::is_there(file)) return std::nullopt;
    std::vector<text::Finding> of_others;
    const auto known =
        model::load_cards(card_folders(invocation, root), invocation.folder, of_others, invocation.shared.jobs);
    return model::load_card(file, invocation.folder, "file", known, findings);
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

Outcome run_hosts(Invocation& invocation) {
    const std::string verb = invocation.words.empty() ? "list" : invocation.words[0];
    const std::string name = invocation.words.size() > 1 ? invocation.words[1] : "";
    std::optional<std::filesystem::path> root;
    if (auto found = workspace_root(invocation)) root = *found;
    std::vector<text::Finding> findings;
    if (verb == "check" && !name.empty())
        if (auto card = card_at(invocation, name, root, findings))
            return check_cards(invocation, {*card}, std::move(findings), card->name.value);
    auto folders = card_folders(invocation, root);
    if (verb == "check")
        for (auto& folder : folders) folder.tested = false;
    const auto cards = model::load_cards(folders, root.value_or(invocation.folder), findings, invocation.shared.jobs);
    if (invocation.flag("page")) {
        print_page(invocation, cards);
        return fine;
    }
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
        "  envar hosts check           patterns, templates and blueprints of every card\n"
        "  envar hosts check own.host.toml      the same for one that lies anywhere\n"
        "  envar hosts --page          what Envar does for each host, as a table of Markdown",
        [](options::options_description_easy_init option) {
            option("page", "print the table of hosts that the documentation shows");
        },
        run_hosts};
}

}  // namespace envar::cli
