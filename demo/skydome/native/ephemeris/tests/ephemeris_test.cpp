// Ends with 0 when all is well.
#include <cstdio>

#include "ephemeris/ephemeris.hpp"

int main() {
    if (ephemeris::version() != "1.4.0") {
        std::fprintf(stderr, "version: %s\n", ephemeris::version().c_str());
        return 1;
    }
    return 0;
}
