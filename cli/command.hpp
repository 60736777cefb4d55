// A command of the command line, and what it is run with.
//
// Each command lives in a file of its own under commands/ and gives one Command; table.cpp lists them all.
#pragma once

#include <boost/program_options.hpp>
#include <filesystem>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "cli/terminal.hpp"
#include "core/text/failure.hpp"

namespace envar::cli {

namespace options = boost::program_options;

/// Exit statuses, for all commands.
enum ExitStatus { fine = 0, answer_is_no = 1, wrong_usage = 2, machine_failed = 3 };

/// Values of the options that every command takes.
struct Shared {
    std::string workspace;
    std::string target;
    std::string platform;
    std::string results;
    unsigned jobs = 1;
    bool json = false;
    bool dry_run = false;
};

struct Invocation {
    Shared shared;
    options::variables_map values;   // the command's own options
    std::vector<std::string> words;  // what is no option
    Terminal* terminal = nullptr;
    std::map<std::string, std::string> environment;
    std::filesystem::path folder;      // where Envar was started
    std::filesystem::path executable;  // this program
    std::string command_line;          // as typed, for the history
    std::string time;                  // RFC 3339, UTC

    [[nodiscard]] std::string text(const char* option) const {
        return values.count(option) != 0 ? values[option].as<std::string>() : std::string();
    }
    [[nodiscard]] bool flag(const char* option) const { return values.count(option) != 0; }
    [[nodiscard]] std::vector<std::string> texts(const char* option) const {
        return values.count(option) != 0 ? values[option].as<std::vector<std::string>>() : std::vector<std::string>();
    }
    [[nodiscard]] std::string variable(const std::string& name) const {
        const auto found = environment.find(name);
        return found == environment.end() ? std::string() : found->second;
    }
};

using Outcome = text::Result<ExitStatus>;

struct Command {
    std::string_view name;
    std::string_view group;  // heading in the overview
    std::string_view words;  // synopsis of what is no option: "[MODULE…]"
    std::size_t least_words = 0;
    std::size_t most_words = 0;
    std::string_view summary;                                        // one line
    std::string_view help;                                           // paragraphs and examples
    void (*declare)(options::options_description_easy_init option);  // may be null
    Outcome (*run)(Invocation& invocation);
};

/// All commands in the order of the work.
[[nodiscard]] const std::vector<Command>& command_table();

}  // namespace envar::cli
