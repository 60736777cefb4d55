#include <cstdio>

#include "ephemeris/ephemeris.hpp"

int main() {
    std::printf("ephemeris %s\n", ephemeris::version().c_str());
    return 0;
}
