// Ends with 0 when all is well.
#include <cstdio>

#include "projection/projection.hpp"

int main() {
    if (projection::version() != "0.3.0") {
        std::fprintf(stderr, "version: %s\n", projection::version().c_str());
        return 1;
    }
    return 0;
}
