// Makes loose shell scripts for measuring: `loose_scripts COUNT FOLDER` writes twice as many files, with a planted
// duplicate in each pair.
#include "tests/support/loose_scripts.hpp"

#include <cstdlib>

int main(int count, char** arguments) {
    if (count != 3) return 2;
    envar::tests::write_loose_scripts(arguments[2], std::strtoul(arguments[1], nullptr, 10), 1);
}
