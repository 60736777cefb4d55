#include <cstdio>

#include "sky_math/sky_math.hpp"

int main() {
    std::printf("sky_math %s\n", sky_math::version().c_str());
    return 0;
}
