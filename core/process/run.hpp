// Running another program: no shell in between, the environment given in full, a time limit, and an output
// limit. What the program leaves running in its process group is ended with it.
#pragma once

#include <cstddef>
#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/text/failure.hpp"

namespace envar::process {

/// Variables as name → value; the program sees these and no others.
using Environment = std::map<std::string, std::string>;

struct Command {
    std::vector<std::string> arguments;  // the first is the program's path, used as it is
    std::filesystem::path folder;        // where it is started
    Environment environment;
    double time_limit_seconds = 10;
    std::size_t output_limit = std::size_t{1} << 20U;  // bytes kept of each stream; the rest is dropped
    std::string input = {};                            // on standard input
};

struct Outcome {
    int exit_status = 0;      // 128 + signal number when it was killed by one
    bool timed_out = false;   // the time limit ended it
    bool output_cut = false;  // a stream was longer than the limit
    std::string output;       // standard output
    std::string errors;       // standard error
    double milliseconds = 0;  // wall clock, start to end
};

/// Runs to the end or to the time limit. Fails only when the program cannot be started.
[[nodiscard]] text::Result<Outcome> run(const Command& command);

/// The first of `programs` found in the `:`-separated `path` as an executable file; a name with '/' stands
/// for itself.
[[nodiscard]] std::optional<std::filesystem::path> find_program(const std::vector<std::string>& programs,
                                                                const std::string& path);

}  // namespace envar::process
