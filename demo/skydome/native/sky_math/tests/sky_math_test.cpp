// Ends with 0 when all is well.
#include <cstdio>

#include "sky_math/sky_math.hpp"

int main() {
    if (sky_math::version() != "1.2.0") {
        std::fprintf(stderr, "version: %s\n", sky_math::version().c_str());
        return 1;
    }
    return 0;
}
