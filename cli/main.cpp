// The program: gathers what the outside world says (arguments, environment, clock, present folder), runs one
// command, and turns its outcome into an exit status.
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>
#include <csignal>
#include <ctime>
#include <exception>
#include <thread>

#include "cli/parse.hpp"
#include "cli/version.hpp"

extern char** environ;  // NOLINT(readability-redundant-declaration)

namespace envar::cli {
namespace {

using text::Failure;
using text::FailureKind;
using text::Result;

std::map<std::string, std::string> read_environment() {
    std::map<std::string, std::string> variables;
    for (char** entry = environ; *entry != nullptr; ++entry) {
        const std::string_view text(*entry);
        const std::size_t equals = text.find('=');
        if (equals != std::string_view::npos) variables.emplace(text.substr(0, equals), text.substr(equals + 1));
    }
    return variables;
}

std::string time_now() {
    const std::time_t now = std::time(nullptr);
    std::tm parts = {};
    ::gmtime_r(&now, &parts);
    return fmt::format("{:04}-{:02}-{:02}T{:02}:{:02}:{:02}Z", parts.tm_year + 1900, parts.tm_mon + 1, parts.tm_mday,
                       parts.tm_hour, parts.tm_min, parts.tm_sec);
}

std::string typed(const std::vector<std::string>& arguments) {
    std::string line = "envar";
    for (const auto& argument : arguments) {
        const bool plain = !argument.empty() && argument.find_first_of(" \t\n'\"\\$`*?<>|&;()") == std::string::npos;
        line += plain ? " " + argument : " '" + argument + "'";
    }
    return line;
}

Result<Shared> shared_values(const options::variables_map& values) {
    Shared shared;
    const auto text = [&](const char* name) {
        return values.count(name) != 0 ? values[name].as<std::string>() : std::string();
    };
    shared.workspace = text("workspace");
    shared.target = text("target");
    shared.platform = text("platform");
    shared.results = text("results");
    shared.dry_run = values.count("dry-run") != 0;
    const std::string format = text("format");
    if (!format.empty() && format != "text" && format != "json")
        return text::fail(FailureKind::wrong_usage, fmt::format("`{}` is no format", format), "use text or json");
    shared.json = format == "json";
    shared.jobs = std::max(1U, std::thread::hardware_concurrency());
    if (const std::string jobs = text("jobs"); !jobs.empty()) {
        const auto [end, error] = std::from_chars(jobs.data(), jobs.data() + jobs.size(), shared.jobs);
        if (error != std::errc() || end != jobs.data() + jobs.size() || shared.jobs == 0 || shared.jobs > 256)
            return text::fail(FailureKind::wrong_usage, fmt::format("`{}` is no number of jobs", jobs),
                              "use 1 to 256");
    }
    return shared;
}

Result<Terminal::Settings> terminal_settings(const options::variables_map& values,
                                             const std::map<std::string, std::string>& environment) {
    const std::string color = values.count("color") != 0 ? values["color"].as<std::string>() : "auto";
    if (color != "auto" && color != "always" && color != "never")
        return text::fail(FailureKind::wrong_usage, fmt::format("`{}` is no choice of colour", color),
                          "use auto, always or never");
    const auto no_color = environment.find("NO_COLOR");
    const bool refused = no_color != environment.end() && !no_color->second.empty();
    const auto term = environment.find("TERM");
    const bool dumb = term != environment.end() && term->second == "dumb";
    const auto wanted = [&](int stream) {
        return color == "always" || (color == "auto" && !refused && !dumb && ::isatty(stream) == 1);
    };
    Terminal::Settings settings;
    settings.color_out = wanted(STDOUT_FILENO);
    settings.color_errors = wanted(STDERR_FILENO);
    settings.quiet = values.count("quiet") != 0;
    settings.verbose = values.count("verbose") != 0;
    return settings;
}

int failed(Terminal& terminal, const Failure& failure) {
    terminal.failure(failure);
    return static_cast<int>(failure.kind);
}

std::filesystem::path own_program() {
    std::error_code error;
    return std::filesystem::read_symlink("/proc/self/exe", error);
}

int run(const std::vector<std::string>& arguments) {
    Terminal plain({});
    const auto environment = read_environment();
    auto parsed = parse_command_line(arguments);
    if (!parsed) return failed(plain, parsed.error());
    const auto settings = terminal_settings(parsed->shared, environment);
    if (!settings) return failed(plain, settings.error());
    Terminal terminal(*settings);
    const auto finished = [&](int status) {
        if (terminal.flush()) return status;
        return failed(plain, {FailureKind::machine_failed, "cannot write to standard output", ""});
    };
    if (parsed->shared.count("version") != 0) {
        terminal.line(fmt::format("envar {}", version));
        return finished(fine);
    }
    if (parsed->shared.count("help") != 0 || parsed->command == nullptr) {
        terminal.raw(parsed->command != nullptr ? help_text(*parsed->command) : overview_text());
        return finished(parsed->shared.count("help") != 0 ? fine : wrong_usage);
    }
    auto shared = shared_values(parsed->shared);
    if (!shared) return failed(terminal, shared.error());
    std::error_code error;
    Invocation invocation{*shared,
                          std::move(parsed->values),
                          std::move(parsed->words),
                          &terminal,
                          environment,
                          std::filesystem::current_path(error),
                          own_program(),
                          typed(arguments),
                          time_now()};
    if (error)
        return failed(terminal,
                      {FailureKind::machine_failed, "the present folder is gone", "change to another folder"});
    const Outcome outcome = parsed->command->run(invocation);
    if (!outcome) return failed(terminal, outcome.error());
    return finished(*outcome);
}

}  // namespace
}  // namespace envar::cli

int main(int count, char** arguments) {
    std::signal(SIGPIPE, SIG_DFL);
    try {
        return envar::cli::run({arguments + 1, arguments + count});
    } catch (const std::exception& error) {
        std::fputs(fmt::format("envar: error: this is a defect in Envar: {}\n", error.what()).c_str(), stderr);
        return envar::cli::machine_failed;
    }
}
