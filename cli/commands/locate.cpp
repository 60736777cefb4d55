// envar locate: where a host finds a name, and where not.
#include "core/search/locate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <optional>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/files/read.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

ordered_json to_json(const search::Located& located) {
    const auto choice = [](const search::Choice& c) {
        return ordered_json{{"file", c.file},
                            {"position", c.position},
                            {"version", c.version.empty() ? ordered_json() : ordered_json(c.version)}};
    };
    ordered_json entries = ordered_json::array();
    for (const auto& entry : located.entries) {
        ordered_json candidates = ordered_json::array();
        for (const auto& c : entry.candidates)
            candidates.push_back({{"file", c.file},
                                  {"exists", c.exists},
                                  {"version", c.version.empty() ? ordered_json() : ordered_json(c.version)}});
        entries.push_back({{"position", entry.position},
                           {"folder", entry.folder},
                           {"from", entry.from},
                           {"exists", entry.exists},
                           {"candidates", candidates}});
    }
    ordered_json shadowed = ordered_json::array();
    for (const auto& c : located.shadowed) shadowed.push_back(choice(c));
    ordered_json misses = ordered_json::array();
    for (const auto& miss : located.near_misses) misses.push_back({{"file", miss.file}, {"why", miss.why}});
    return {{"module", located.module}, {"host", located.host},
            {"entries", entries},       {"chosen", located.chosen ? choice(*located.chosen) : ordered_json()},
            {"shadowed", shadowed},     {"near_misses", misses}};
}

/// The host that is asked: the one given, else the module's own, else the only one with a search path.
text::Result<const model::Card*> card_of(const Invocation& invocation, const model::Space& space,
                                         const std::string& name) {
    if (invocation.flag("host")) return known_card(space.cards, invocation.text("host"));
    if (const model::Module* module = space.module(name)) return known_card(space.cards, module->manifest.host.value);
    const model::Card* only = nullptr;
    for (const auto& search : space.settings.search) {
        const model::Card* card = space.card(search.host.value);
        if (card == nullptr || card == only) continue;
        if (only != nullptr)
            return text::fail(text::FailureKind::wrong_usage,
                              fmt::format("`{}` is no module of the workspace: which host is asked?", name),
                              "say it with --host");
        only = card;
    }
    if (only == nullptr)
        return text::fail(text::FailureKind::wrong_usage, "the workspace has no search folder",
                          "say the host with --host");
    return only;
}

void print_result(Terminal& out, const search::Located& located, const std::filesystem::path& root) {
    const auto version = [](const std::string& v) { return v.empty() ? std::string() : " " + v; };
    if (located.chosen) {
        out.line(fmt::format(
            "{}{} for {}: {}", out.styled(located.module, Style::strong), version(located.chosen->version),
            located.host,
            out.styled(shown(located.chosen->file, root), located.chosen->is_folder ? Style::bad : Style::good)));
    } else {
        out.line(fmt::format("{} for {}: {}", out.styled(located.module, Style::strong), located.host,
                             out.styled("not found", Style::bad)));
    }
    std::vector<TreeItem> items;
    for (const auto& entry : located.entries) {
        out.line(fmt::format("  {}. {}  {}{}", entry.position, shown(entry.folder, root),
                             out.styled(entry.from, Style::quiet),
                             entry.exists ? "" : out.styled("  does not exist", Style::warning)));
        for (const auto& c : entry.candidates) {
            if (!c.exists && !entry.exists) continue;
            const std::string mark = c.chosen   ? out.styled("found    ", Style::good)
                                     : c.exists ? out.styled("shadowed ", Style::warning)
                                                : out.styled("no       ", Style::quiet);
            out.line(fmt::format("       {} {}{}", mark, shown(c.file, root), version(c.version)));
        }
    }
    for (const auto& miss : located.near_misses)
        out.line(fmt::format("  near miss: {} {}", shown(miss.file, root), miss.why));
}

/// Whether a host started in a folder, and a script that lies there but is started elsewhere, find the same.
void print_script_answer(Terminal& out, const search::Located& started, const search::Located& script,
                         const std::filesystem::path& root) {
    const auto file = [&](const search::Located& located) {
        return located.chosen ? shown(located.chosen->file, root) : std::string("not found");
    };
    if (file(started) == file(script)) {
        out.remark(fmt::format("a {} started there and a script that lies there find the same", started.host));
    } else {
        out.line(fmt::format("  for a script that lies there, started elsewhere: {}", file(script)));
    }
}

Outcome run_locate(Invocation& invocation) {
    const std::string& name = invocation.words[0];
    if (!files::stays_inside(name) || name.find('/') != std::string::npos || name.find("..") != std::string::npos)
        return text::fail(text::FailureKind::wrong_usage, fmt::format("`{}` is no module name", name),
                          "a name has no `/` and no `..`");
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    auto card = card_of(invocation, *space, name);
    if (!card) return tl::unexpected(card.error());
    const std::filesystem::path from = invocation.flag("from")
                                           ? (invocation.folder / invocation.text("from")).lexically_normal()
                                           : invocation.folder;
    if (!files::is_folder(from))
        return text::fail(text::FailureKind::wrong_usage, fmt::format("`{}` is no folder", from.string()), "");
    ask_host(invocation, *std::find_if(space->cards.begin(), space->cards.end(),
                                       [&](const model::Card& known) { return &known == *card; }));
    const auto located = search::locate(name, {&*space, *card, invocation.environment, from});
    ordered_json result = to_json(located);
    std::optional<search::Located> script;
    if (invocation.flag("from")) {
        search::PathQuestion question{&*space, *card, invocation.environment, "/"};
        question.script_folder = from;
        script = search::locate(name, question);
        result["script"] = to_json(*script)["chosen"];
    }
    auto print = leave_results(invocation, space->root, "locate", result);
    if (!print) return tl::unexpected(print.error());
    if (*print) {
        print_result(*invocation.terminal, located, space->root);
        if (script) print_script_answer(*invocation.terminal, located, *script, space->root);
        if (located.chosen && !(*card)->notice.empty())
            invocation.terminal->remark(
                fmt::format("a {} that is running already: {}", (*card)->name.value, (*card)->notice));
    }
    return located.chosen && !located.chosen->is_folder ? fine : answer_is_no;
}

}  // namespace

Command locate_command() {
    return {
        "locate",
        "Find and order",
        "NAME",
        1,
        1,
        "show where a name is found, what was tried and what is shadowed",
        "Goes through the host's search path as the host does (in a session of this workspace) and shows every file\n"
        "that was tried, the one that is taken, those that it shadows, and near misses when there are any.\n\n"
        "  envar locate sidereal\n"
        "  envar locate sidereal --host lua --from /tmp    a Lua started in /tmp, and a script that lies there",
        [](options::options_description_easy_init option) {
            option("host", options::value<std::string>()->value_name("H"),
                   "the host that is asked; else the module's own")  //
                ("from", options::value<std::string>()->value_name("FOLDER"),
                 "folder that the host is started in, or that a script lies in; else this one");
        },
        run_locate};
}

}  // namespace envar::cli
