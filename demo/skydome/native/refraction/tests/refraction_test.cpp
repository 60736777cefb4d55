// At the horizon the air lifts a star by a little more than half a degree.
#include <cstdio>

#include "refraction/refraction.hpp"

int main() {
    refraction::Inputs inputs;
    inputs.altitude = 0;
    const double lift = refraction::run(inputs, {}).lift;
    if (lift > 33 && lift < 36) return 0;
    std::fprintf(stderr, "lift: %g\n", lift);
    return 1;
}
