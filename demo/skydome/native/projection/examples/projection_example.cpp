#include <cstdio>

#include "projection/projection.hpp"

int main() {
    std::printf("projection %s\n", projection::version().c_str());
    return 0;
}
