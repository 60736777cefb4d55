// envar view: folders of links that show hosts just the chosen versions.
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/views.hpp"
#include "cli/workbench.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

ordered_json to_json(const std::vector<search::View>& views, const std::filesystem::path& root) {
    ordered_json list = ordered_json::array();
    for (const auto& view : views) {
        ordered_json links = ordered_json::array();
        for (const auto& link : view.links)
            links.push_back({{"name", link.name},
                             {"module", link.module->name()},
                             {"version", link.module->version()},
                             {"folder", shown(link.module->folder.string(), root)},
                             {"target", shown(link.target.string(), root)}});
        list.push_back({{"host", view.host},
                        {"folder", shown(view.folder.string(), root)},
                        {"needed", view.needed},
                        {"links", links}});
    }
    return {{"views", list}};
}

Outcome run_view(Invocation& invocation) {
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    const model::Space& space = desk->space;
    const std::string only = invocation.text("host");
    if (!only.empty())
        if (auto card = known_card(space.cards, only); !card) return tl::unexpected(card.error());
    const auto lock = resolve::read_lock(space.root);
    auto views = search::views_of(space, locked_modules(space, lock));
    std::erase_if(views, [&](const auto& view) { return only.empty() ? !view.needed : view.host != only; });
    if (views.empty())
        return text::refuse(
            only.empty()
                ? "no host needs a view: no module lies here in several versions"
                : fmt::format("{} needs no view: it tells versions apart by itself, or has no module here", only),
            only.empty() ? "`envar view --host H` makes one all the same" : "");
    Table table{{"host", "link", "version", "leads to", ""}, {}};
    for (const auto& view : views) {
        const bool made = is_made(view);
        if (!made && !invocation.shared.dry_run)
            if (auto done = make_view(view); !done) return tl::unexpected(done.error());
        for (const auto& link : view.links)
            table.rows.push_back({view.host, fmt::format("{}/{}", shown(view.folder.string(), space.root), link.name),
                                  link.module->version(), shown(link.target.string(), space.root),
                                  made                        ? "is so already"
                                  : invocation.shared.dry_run ? "would be made"
                                                              : "made"});
    }
    auto print = leave_results(invocation, space.root, "view", to_json(views, space.root), &table);
    if (!print) return tl::unexpected(print.error());
    if (!*print) return fine;
    invocation.terminal->table(table);
    if (!lock)
        invocation.terminal->remark(
            "there is no lock yet, so these are the newest versions; `envar resolve` chooses");
    return fine;
}

}  // namespace

Command view_command() {
    return {
        "view",
        "Find and order",
        "",
        0,
        0,
        "show hosts just the chosen versions, through links",
        "For modules that lie side by side in several versions, in folders that are called like them, where no host\n"
        "looks: a folder of links in .envar/view/HOST has each under the name by which the host finds it, in the\n"
        "version that the lock holds. It comes first on the search path of sessions and trials. `envar resolve` keeps\n"
        "views up to date; to go back to an older version, pin it and resolve.\n\n"
        "  envar view\n  envar view --host lua --dry-run",
        [](options::options_description_easy_init option) {
            option("host", options::value<std::string>()->value_name("H"), "only of this host, needed or not");
        },
        run_view};
}

}  // namespace envar::cli
