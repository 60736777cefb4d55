#include "core/search/system.hpp"

#include <re2/re2.h>

#include <algorithm>

#include "core/model/pc_file.hpp"
#include "core/process/run.hpp"
#include "core/text/template.hpp"

namespace envar::search {
namespace {

constexpr double time_limit = 10;  // seconds
constexpr std::size_t longest_answer = 4096;

SystemModule from_pc_files(const std::string& name, const std::map<std::string, std::string>& environment) {
    std::vector<text::Finding> of_others;
    const auto files = model::read_pc_folders(model::pc_folders(environment), "/", of_others);
    const auto found = std::find_if(files.begin(), files.end(), [&](const auto& file) { return file.name == name; });
    SystemModule out;
    out.known = true;
    if (found == files.end()) return out;
    out.found = true;
    out.version = found->version;
    out.told_by = "/" + found->source.file();
    return out;
}

/// Parts of letters, digits and `_`, with nothing between them that a language could take for more than a name.
bool is_harmless(const std::string& name) {
    static const re2::RE2 form(R"([A-Za-z_][A-Za-z0-9_]*((-|\.|::)[A-Za-z0-9_]+)*)");
    return re2::RE2::FullMatch(name, form);
}

}  // namespace

SystemModule system_module(const model::Card& card, const std::string& name,
                           const std::map<std::string, std::string>& environment) {
    if (card.is_native()) return from_pc_files(name, environment);
    SystemModule out;
    if (card.system.arguments.empty() || card.origin == "workspace" || !is_harmless(name)) return out;
    const auto path = environment.find("PATH");
    const auto program = process::find_program(card.programs, path == environment.end() ? "" : path->second);
    if (!program) return out;
    process::Command command;
    command.arguments = {program->string()};
    for (const auto& argument : card.system.arguments)
        command.arguments.push_back(text::fill(argument, {{"name", name}}));
    command.input = text::fill(card.system.input, {{"name", name}});
    command.folder = "/";
    command.environment = {{"PATH", "/usr/local/bin:/usr/bin:/bin"}, {"LANG", "C.UTF-8"}, {"HOME", "/nonexistent"}};
    command.time_limit_seconds = time_limit;
    command.output_limit = longest_answer;
    const auto outcome = process::run(command);
    if (!outcome || outcome->timed_out) return out;
    out.known = true;
    out.found = outcome->exit_status == 0;
    out.told_by = program->string();
    const std::string line = outcome->output.substr(0, outcome->output.find('\n'));
    if (out.found) out.version = line.substr(0, line.find_last_not_of(" \t\r") + 1);
    return out;
}

}  // namespace envar::search
