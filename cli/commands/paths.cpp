// envar paths: a host's search path, entry by entry.
#include <fmt/format.h>

#include <algorithm>

#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/search/declared.hpp"
#include "core/search/search_path.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

/// Hosts that the workspace has to do with, or the one asked for.
text::Result<std::vector<const model::Card*>> cards_of(const Invocation& invocation, const model::Space& space) {
    std::vector<const model::Card*> cards;
    if (invocation.flag("host")) {
        auto card = known_card(space.cards, invocation.text("host"));
        if (!card) return tl::unexpected(card.error());
        cards.push_back(*card);
        return cards;
    }
    for (const auto& card : space.cards)
        for (const auto& search : space.settings.search)
            if (search.host.value == card.name.value) {
                cards.push_back(&card);
                break;
            }
    return cards;
}

Outcome run_paths(Invocation& invocation) {
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    const auto cards = cards_of(invocation, *space);
    if (!cards) return tl::unexpected(cards.error());
    for (auto& card : space->cards)
        if (std::find(cards->begin(), cards->end(), &card) != cards->end()) ask_host(invocation, card);
    Table all{{"host", "position", "folder", "from", "state"}, {}};
    ordered_json hosts = ordered_json::array();
    bool faults = false;
    std::vector<search::SearchPath> paths;
    for (const model::Card* card : *cards) {
        paths.push_back(search::search_path({&*space, card, invocation.environment, invocation.folder}));
        ordered_json entries = ordered_json::array();
        for (auto& entry : paths.back().entries) {
            for (auto& pattern : entry.patterns) pattern = search::shown_pattern(pattern);
            const bool own = !entry.span.empty();
            faults = faults || (own && !entry.fault.empty());
            all.rows.push_back({card->name.value, std::to_string(entry.position), shown(entry.folder, space->root),
                                entry.from, entry.fault.empty() ? "fine" : entry.fault});
            entries.push_back({{"position", entry.position},
                               {"folder", entry.folder},
                               {"from", entry.from},
                               {"exists", entry.exists},
                               {"fault", entry.fault},
                               {"tried", entry.patterns}});
        }
        hosts.push_back({{"host", card->name.value},
                         {"variable", paths.back().variable},
                         {"active", paths.back().active},
                         {"entries", entries}});
    }
    auto print = leave_results(invocation, space->root, "paths", {{"hosts", hosts}}, &all);
    if (!print) return tl::unexpected(print.error());
    const ExitStatus status = faults ? answer_is_no : fine;
    if (!*print) return status;
    Terminal& out = *invocation.terminal;
    bool inactive = false;
    if (cards->empty()) out.remark("the workspace has no [[search]] folder yet; `envar scaffold` adds one");
    for (std::size_t i = 0; i < paths.size(); ++i) {
        if (i > 0) out.line();
        const auto& path = paths[i];
        out.line(fmt::format("{} {}", out.styled(path.host, Style::strong),
                             path.variable.empty() ? "" : "(" + path.variable + ")"));
        Table table{{" ", "folder", "from", "state"}, {}};
        for (const auto& entry : path.entries)
            table.rows.push_back({std::to_string(entry.position), shown(entry.folder, space->root), entry.from,
                                  entry.fault.empty() ? "fine" : entry.fault});
        out.table(table);
        const model::Card& card = *(*cards)[i];
        const bool own_shell = !card.variables.empty() && card.variables.front().own_shell_only;
        inactive = inactive || (!path.active && !path.variable.empty() && !own_shell &&
                                !search::workspace_folders(*space, *(*cards)[i]).empty());
    }
    if (inactive)
        out.remark("\nthis shell does not have the workspace's entries yet: eval \"$(envar session --shell bash)\"");
    return status;
}

}  // namespace

Command paths_command() {
    return {
        "paths",
        "Find and order",
        "",
        0,
        0,
        "show a host's search path, entry by entry",
        "The workspace's own entries come first, as a session puts them; then what the environment holds; then the\n"
        "host's defaults. Exit status 1 when an entry of the workspace is at fault.\n\n"
        "  envar paths\n  envar paths --host lua",
        [](options::options_description_easy_init option) {
            option("host", options::value<std::string>()->value_name("H"), "only this host");
        },
        run_paths};
}

}  // namespace envar::cli
