// dome: a small engine that loads modules for a target in the order of a plan.
#include <cstdlib>
#include <fstream>
#include <iostream>
#include <optional>
#include <sstream>

#include "standin/dome/engine.hpp"
#include "standin/dome/plan.hpp"
#include "standin/dome/report.hpp"

namespace {

const char* const usage =
    "usage: dome PLAN [--path FOLDER]... [--json FILE] [--rounds N] [--quiet]\n"
    "       dome --alone MODULE [--path FOLDER]...\n"
    "       dome --version\n\n"
    "Loads the modules that the plan names, phase by phase, calls their start hooks, then stops them in reverse.\n"
    "A module lies at FOLDER/NAME/VERSION; further folders are taken from the variable DOME_PATH.\n\n"
    "  --path FOLDER   look for modules here first; may be given several times\n"
    "  --json FILE     also write what was done as JSON; - is standard output\n"
    "  --rounds N      do all of it N times, unloading in between\n"
    "  --alone MODULE  load this module and nothing else\n"
    "  --quiet         tell nothing but trouble\n\n"
    "Exit status: 0 all were started; 1 something went wrong; 2 wrong usage.\n";

struct Options {
    std::string plan;
    std::string alone;
    std::vector<std::filesystem::path> path;
    std::string json;
    std::size_t rounds = 1;
    bool quiet = false;
};

std::optional<Options> parse(int count, char** words) {
    Options options;
    for (int i = 1; i < count; ++i) {
        const std::string word = words[i];
        const bool more = i + 1 < count;
        if (word == "--quiet") {
            options.quiet = true;
        } else if (word == "--path" && more) {
            options.path.emplace_back(words[++i]);
        } else if (word == "--alone" && more) {
            options.alone = words[++i];
        } else if (word == "--json" && more) {
            options.json = words[++i];
        } else if (word == "--rounds" && more) {
            options.rounds = std::strtoul(words[++i], nullptr, 10);
            if (options.rounds == 0) return std::nullopt;
        } else if (word.rfind("--", 0) != 0 && options.plan.empty()) {
            options.plan = word;
        } else {
            return std::nullopt;
        }
    }
    if (options.plan.empty() == options.alone.empty()) return std::nullopt;
    if (const char* further = std::getenv("DOME_PATH")) {
        std::istringstream parts(further);
        for (std::string part; std::getline(parts, part, ':');)
            if (!part.empty()) options.path.emplace_back(part);
    }
    return options;
}

}  // namespace

int main(int count, char** words) {
    const std::string first = count > 1 ? words[1] : "";
    if (first == "--version") {
        std::cout << "dome " << DOME_VERSION << "\n";
        return 0;
    }
    if (first == "--help") {
        std::cout << usage;
        return 0;
    }
    const auto options = parse(count, words);
    if (!options) {
        std::cerr << usage;
        return 2;
    }
    std::vector<dome::Problem> problems;
    const dome::Plan plan = options->alone.empty() ? dome::read_plan(options->plan, problems)
                                                   : dome::plan_for(options->alone, options->path);
    dome::Round round;
    round.problems = problems;
    for (std::size_t i = 0; problems.empty() && i < options->rounds; ++i) {
        round = dome::run_round(plan, options->path);
        if (round.loaded.size() != round.stopped.size()) round.problems.push_back({"", "the hooks are not in pairs"});
        if (!round.problems.empty()) break;
    }
    if (!options->quiet || !round.problems.empty()) dome::print(std::cout, plan, round);
    if (!options->json.empty()) {
        const std::string text = dome::to_json(plan, round, options->rounds);
        if (options->json == "-") {
            std::cout << text;
        } else if (!(std::ofstream(options->json, std::ios::binary) << text).flush()) {
            std::cerr << "dome: cannot write " << options->json << "\n";
            return 1;
        }
    }
    return round.problems.empty() ? 0 : 1;
}
