#include "standin/dome/report.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <ostream>

namespace dome {

void print(std::ostream& out, const Plan& plan, const Round& round) {
    const auto count = [](std::size_t number, const char* what) {
        return std::to_string(number) + " " + what + (number == 1 ? "" : "s");
    };
    out << "dome: " << (plan.target.empty() ? "no target" : plan.target) << ", "
        << count(round.loaded.size(), "module") << "\n";
    for (const auto& phase : plan.phases) {
        bool first = true;
        for (const Loaded& loaded : round.loaded) {
            if (loaded.phase != phase) continue;
            out << "  " << (first ? phase : std::string(phase.size(), ' ')) << "  " << loaded.module << " "
                << loaded.version;
            if (!loaded.assets.empty()) out << ", " << count(loaded.assets.size(), "asset");
            out << "\n";
            for (const auto& text : loaded.said) out << "      " << loaded.module << ": " << text << "\n";
            first = false;
        }
    }
    if (!round.stopped.empty()) {
        out << "  stopped:";
        for (const auto& module : round.stopped) out << " " << module;
        out << "\n";
    }
    for (const Problem& problem : round.problems)
        out << "  trouble: " << (problem.module.empty() ? "" : problem.module + ": ") << problem.what << "\n";
}

std::string to_json(const Plan& plan, const Round& round, std::size_t rounds) {
    using nlohmann::ordered_json;
    ordered_json loaded = ordered_json::array();
    for (const Loaded& one : round.loaded)
        loaded.push_back({{"position", loaded.size() + 1},
                          {"module", one.module},
                          {"version", one.version},
                          {"phase", one.phase},
                          {"descriptor", one.descriptor.string()},
                          {"library", one.library.string()},
                          {"assets", one.assets},
                          {"said", one.said},
                          {"milliseconds", one.milliseconds}});
    ordered_json problems = ordered_json::array();
    for (const Problem& problem : round.problems)
        problems.push_back({{"module", problem.module}, {"what", problem.what}});
    const ordered_json result = {{"target", plan.target},
                                 {"loaded", loaded},
                                 {"stopped", round.stopped},
                                 {"problems", problems},
                                 {"rounds", rounds}};
    return result.dump(2, ' ', false, ordered_json::error_handler_t::replace) + "\n";
}

}  // namespace dome
