#include "cli/commands/commands.hpp"

namespace envar::cli {

const std::vector<Command>& command_table() {
    static const std::vector<Command> table = {
        begin_command(),   hosts_command(),   scaffold_command(), adopt_command(),   gather_command(),
        modules_command(), check_command(),   explain_command(),  schema_command(),  emit_command(),
        depend_command(),  members_command(), compare_command(),  resolve_command(), paths_command(),
        locate_command(),  order_command(),   view_command(),     session_command(), trial_command(),
        figure_command(),  undo_command(),    history_command(),
    };
    return table;
}

}  // namespace envar::cli
