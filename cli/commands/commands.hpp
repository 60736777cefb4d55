// The commands, one file each. table.cpp puts them in order.
#pragma once

#include "cli/command.hpp"

namespace envar::cli {

[[nodiscard]] Command begin_command();
[[nodiscard]] Command hosts_command();
[[nodiscard]] Command scaffold_command();
[[nodiscard]] Command adopt_command();
[[nodiscard]] Command modules_command();
[[nodiscard]] Command check_command();
[[nodiscard]] Command explain_command();
[[nodiscard]] Command schema_command();
[[nodiscard]] Command emit_command();
[[nodiscard]] Command depend_command();
[[nodiscard]] Command members_command();
[[nodiscard]] Command compare_command();
[[nodiscard]] Command resolve_command();
[[nodiscard]] Command paths_command();
[[nodiscard]] Command locate_command();
[[nodiscard]] Command order_command();
[[nodiscard]] Command session_command();
[[nodiscard]] Command trial_command();
[[nodiscard]] Command figure_command();
Command gather_command();
[[nodiscard]] Command undo_command();
[[nodiscard]] Command view_command();
[[nodiscard]] Command history_command();

}  // namespace envar::cli
