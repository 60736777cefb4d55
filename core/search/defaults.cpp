#include "core/search/defaults.hpp"

#include <fmt/format.h>
#include <sys/stat.h>

#include <nlohmann/json.hpp>

#include "core/files/digest.hpp"
#include "core/files/read.hpp"
#include "core/files/write.hpp"
#include "core/process/run.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;

constexpr std::size_t largest_answer = std::size_t{256} << 10U;

/// What the answer depends on: the program's file and what it is asked.
std::string stamp_of(const model::SearchAsk& ask, const fs::path& program) {
    struct stat state {};
    if (::stat(program.c_str(), &state) != 0) return {};
    json asked = {program.string(), state.st_size, state.st_mtim.tv_sec, state.st_mtim.tv_nsec, ask.input};
    for (const auto& argument : ask.arguments) asked.push_back(argument);
    return files::sha256(asked.dump(-1, ' ', false, json::error_handler_t::replace));
}

std::optional<std::vector<std::string>> cached(const fs::path& file) {
    const auto content = files::read_file(file, largest_answer);
    if (!content) return std::nullopt;
    const json entries = json::parse(*content, nullptr, false);
    if (!entries.is_array()) return std::nullopt;
    std::vector<std::string> out;
    for (const auto& entry : entries)
        if (entry.is_string()) out.push_back(entry.get<std::string>());
    return out;
}

std::optional<std::vector<std::string>> asked(const model::SearchAsk& ask, const fs::path& program,
                                              double time_limit) {
    process::Command command;
    command.arguments = ask.arguments;
    command.arguments.insert(command.arguments.begin(), program.string());
    command.input = ask.input;
    command.folder = "/";
    command.environment = {{"PATH", "/usr/local/bin:/usr/bin:/bin"}, {"LANG", "C.UTF-8"}, {"HOME", "/nonexistent"}};
    command.time_limit_seconds = time_limit;
    command.output_limit = largest_answer;
    const auto outcome = process::run(command);
    if (!outcome || outcome->exit_status != 0 || outcome->timed_out) return std::nullopt;
    std::vector<std::string> out;
    for (std::size_t at = 0; at < outcome->output.size();) {
        const std::size_t end = std::min(outcome->output.find('\n', at), outcome->output.size());
        if (end > at) out.push_back(outcome->output.substr(at, end - at));
        at = end + 1;
    }
    return out;
}

}  // namespace

std::optional<std::vector<std::string>> ask_defaults(const model::Card& card, const model::SearchAsk& ask,
                                                     const DefaultsQuestion& question) {
    if (ask.arguments.empty()) return std::nullopt;
    const auto program = process::find_program(card.programs, question.program_path);
    if (!program) return std::nullopt;
    const std::string stamp = stamp_of(ask, *program);
    const fs::path kept =
        question.cache_folder.empty() || stamp.empty() ? fs::path() : question.cache_folder / (stamp + ".json");
    if (!kept.empty())
        if (auto known = cached(kept)) return known;
    auto answer = asked(ask, *program, question.time_limit);
    if (answer && !kept.empty() && files::make_folders(question.cache_folder)) {
        // Only a cache: what cannot be kept is asked again.
        const auto written = files::write_file(
            kept, json(*answer).dump(2, ' ', false, json::error_handler_t::replace) + "\n", files::Sync::none);
        static_cast<void>(written);
    }
    return answer;
}

void fill_defaults(model::Card& card, const DefaultsQuestion& question) {
    if (auto answer = ask_defaults(card, card.ask, question)) {
        card.defaults = std::move(*answer);
        card.defaults_asked = true;
    }
    if (auto answer = ask_defaults(card, card.before.ask, question)) card.before.entries = std::move(*answer);
}

}  // namespace envar::search
