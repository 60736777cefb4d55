// envar history: the changes that were made.
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"

namespace envar::cli {
namespace {

Outcome run_history(Invocation& invocation) {
    auto root = workspace_root(invocation);
    if (!root) return tl::unexpected(root.error());
    Table table{{"number", "time", "files", "state", "command"}, {}};
    nlohmann::ordered_json rows = nlohmann::ordered_json::array();
    for (const auto& entry : files::history(*root)) {
        table.rows.push_back({std::to_string(entry.number), entry.time, std::to_string(entry.files.size()),
                              entry.undone ? "taken back" : "done", entry.command});
        rows.push_back({{"number", entry.number},
                        {"time", entry.time},
                        {"command", entry.command},
                        {"files", entry.files},
                        {"undone", entry.undone}});
    }
    auto print = leave_results(invocation, *root, "history", {{"changes", rows}}, &table);
    if (!print) return tl::unexpected(print.error());
    if (!*print) return fine;
    if (table.rows.empty()) {
        invocation.terminal->remark("nothing was changed yet");
    } else {
        invocation.terminal->table(table);
    }
    return fine;
}

}  // namespace

Command history_command() {
    return {"history", "Take back", "", 0, 0, "list the changes that were made", "The newest change comes first.",
            nullptr,   run_history};
}

}  // namespace envar::cli
