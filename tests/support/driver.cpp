#include "tests/support/driver.hpp"

#include <re2/re2.h>

#include <cstdlib>
#include <stdexcept>

namespace envar::tests {

namespace {

/// The program under test: the one built beside the tests, or another build of it that the environment names.
std::string program_under_test() {
    const auto* other = std::getenv("ENVAR_TEST_PROGRAM");
    return other != nullptr ? other : ENVAR_PROGRAM;
}

}  // namespace

Driver::Driver() {
    environment_ = {
        {"PATH", "/usr/local/bin:/usr/bin:/bin"}, {"HOME", (*this / "home").string()}, {"LANG", "C.UTF-8"}};
    std::filesystem::create_directories(*this / "home");
}

Run Driver::envar_with(const process::Environment& variables, const std::vector<std::string>& arguments,
                       const std::string& folder, const std::vector<std::string>& launcher) const {
    process::Command command;
    command.arguments = launcher;
    command.arguments.push_back(program_under_test());
    command.arguments.insert(command.arguments.end(), arguments.begin(), arguments.end());
    command.folder = *this / folder;
    command.environment = environment_;
    for (const auto& [name, value] : variables) command.environment[name] = value;
    command.time_limit_seconds = 60;
    const auto outcome = process::run(command);
    if (!outcome) throw std::runtime_error(outcome.error().message);
    if (outcome->timed_out) throw std::runtime_error("envar did not end");
    return {outcome->exit_status, outcome->output, outcome->errors};
}

Run Driver::envar(const std::vector<std::string>& arguments, const std::string& folder) const {
    return envar_with({}, arguments, folder);
}

Run Driver::dome(const std::vector<std::string>& arguments, const process::Environment& variables) const {
    process::Command command;
    command.arguments = {(std::filesystem::path(program_under_test()).parent_path() / "dome").string()};
    command.arguments.insert(command.arguments.end(), arguments.begin(), arguments.end());
    command.folder = *this / ".";
    command.environment = environment_;
    for (const auto& [name, value] : variables) command.environment[name] = value;
    command.time_limit_seconds = 60;
    const auto outcome = process::run(command);
    if (!outcome) throw std::runtime_error(outcome.error().message);
    if (outcome->timed_out) throw std::runtime_error("dome did not end");
    return {outcome->exit_status, outcome->output, outcome->errors};
}

Run Driver::program(const std::vector<std::string>& arguments, const process::Environment& variables) const {
    process::Command command;
    const auto found = process::find_program({arguments.at(0)}, environment_.at("PATH"));
    if (!found) throw std::runtime_error("not installed: " + arguments.at(0));
    command.arguments = arguments;
    command.arguments[0] = found->string();
    command.folder = folder();
    command.environment = environment_;
    for (const auto& [name, value] : variables) command.environment[name] = value;
    command.time_limit_seconds = 60;
    const auto outcome = process::run(command);
    if (!outcome) throw std::runtime_error(outcome.error().message);
    return {outcome->exit_status, outcome->output, outcome->errors};
}

std::string Driver::neutral(std::string text) const {
    for (std::size_t at = text.find(folder().string()); at != std::string::npos; at = text.find(folder().string()))
        text.replace(at, folder().string().size(), "<here>");
    re2::RE2::GlobalReplace(&text, R"(/tmp/envar-\w{6})", "<sandbox>");
    re2::RE2::GlobalReplace(&text, ENVAR_SOURCE_FOLDER, "<source>");
    re2::RE2::GlobalReplace(&text, R"(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ)", "<time>");
    re2::RE2::GlobalReplace(&text, R"([0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12})",
                            "<identity>");
    re2::RE2::GlobalReplace(&text, R"(Envar digest: [0-9a-f]{64})", "Envar digest: <digest>");
    re2::RE2::GlobalReplace(&text, R"(, \d+ ms)", ", <ms>");
    re2::RE2::GlobalReplace(&text, R"x(( +\d+\.\d)( +)(shell|lua|-))x", R"( <ms>\2\3)");
    re2::RE2::GlobalReplace(&text, R"((bash|lua) \d+\.\d+\.\d+ \()", R"(\1 <version> ()");
    // What else a machine has installed is not our business.
    re2::RE2::GlobalReplace(&text, R"((installed +)\d+\.\d+\.\d+)", R"(\1<version>)");
    re2::RE2::GlobalReplace(&text, R"((\d\. /usr/\S+  the host's own)(?:  does not exist|(?:\n +no +/usr/\S+)+))",
                            R"(\1  <state>)");
    re2::RE2::GlobalReplace(&text, R"((/usr/\S+ +the host's own +)(?:does not exist|fine))", R"(\1<state>)");
    return text;
}

}  // namespace envar::tests
