// Reads every manifest of a workspace into typed values, with validation and places, as each command does before
// its own work.
//
//   read_manifests WORKSPACE JOBS
#include <cstdio>
#include <cstdlib>

#include "core/model/space.hpp"

int main(int count, char** arguments) {
    if (count != 3) return 2;
    const auto space =
        envar::model::load_space(arguments[1], {}, static_cast<unsigned>(std::strtoul(arguments[2], nullptr, 10)));
    if (!space) return 3;
    std::printf("%zu modules, %zu findings\n", space->modules.size(), space->findings.size());
    std::fflush(stdout);
    std::_Exit(space->findings.empty() ? 0 : 1);
}
