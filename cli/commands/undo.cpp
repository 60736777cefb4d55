// envar undo: takes the last change back.
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/views.hpp"
#include "cli/workbench.hpp"

namespace envar::cli {
namespace {

Outcome run_undo(Invocation& invocation) {
    auto root = workspace_root(invocation);
    if (!root) return tl::unexpected(root.error());
    auto lock = hold(invocation, *root);
    if (!lock) return tl::unexpected(lock.error());
    auto plan = files::undo_plan(*root);
    if (!plan) return tl::unexpected(plan.error());
    if (invocation.shared.dry_run) return carry_out(invocation, *plan, *lock, {});
    auto undone = files::undo(*root, **lock);
    if (!undone) return tl::unexpected(undone.error());
    Terminal& out = *invocation.terminal;
    if (auto space = open_space(invocation)) {  // links follow the lock
        const auto renewed = renew_views(*space, resolve::read_lock(*root));
        if (!renewed) out.warn(renewed.error().message);
    }
    if (invocation.shared.json) {
        out.raw(
            nlohmann::ordered_json{{"undone", undone->number}, {"command", undone->command}, {"files", undone->files}}
                .dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) +
            "\n");
        return fine;
    }
    if (out.quiet()) return fine;
    std::vector<TreeItem> items;
    out.line(fmt::format("took back: {} ({})", undone->command, undone->time));
    for (const auto& change : plan->changes) {
        const std::string now = !change.after ? "removed again" : !change.before ? "back again" : "as it was before";
        if (change.outside) out.line(fmt::format("{}  {}", change.path.string(), now));
        if (!change.outside && !files::is_note(change.path, *root))
            items.push_back({change.path.lexically_relative(*root).generic_string(), now});
    }
    if (!items.empty()) out.tree(root->filename().string() + "/", items);
    return fine;
}

}  // namespace

Command undo_command() {
    return {
        "undo",
        "Take back",
        "",
        0,
        0,
        "take the last change back",
        "Every command that writes is one change, recorded with what the files held before. `undo` takes back the\n"
        "newest one that is not taken back yet. It refuses when a file was changed since, so that nothing is lost.\n\n"
        "  envar undo --dry-run\n  envar undo\n  envar history",
        nullptr,
        run_undo};
}

}  // namespace envar::cli
