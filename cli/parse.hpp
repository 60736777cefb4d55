// Splitting and parsing the command line. It is cut at the first word that is no option; both halves are
// parsed strictly: no abbreviations, no unknown options.
#pragma once

#include <string>
#include <vector>

#include "cli/command.hpp"

namespace envar::cli {

struct Parsed {
    const Command* command = nullptr;  // null: only shared options, such as --help
    options::variables_map shared;
    options::variables_map values;
    std::vector<std::string> words;
};

/// Fails with `wrong_usage`.
[[nodiscard]] text::Result<Parsed> parse_command_line(const std::vector<std::string>& arguments);

/// The overview, or one command's page.
[[nodiscard]] std::string overview_text();
[[nodiscard]] std::string help_text(const Command& command);

}  // namespace envar::cli
