#include "tests/support/loose_scripts.hpp"

#include <fmt/format.h>

#include <fstream>
#include <random>
#include <vector>

namespace envar::tests {
namespace {

/// A body of a few lines that no other number gives.
std::string body_of(std::size_t number, const std::string& last = "") {
    std::string out;
    for (std::size_t line = 0; line < 4; ++line)
        out += fmt::format(
            "    local part_{0}=$(( ${{1:-0}} * {1} + {0} ))\n    printf '%s }} %d\\n' \"step {1}\" \"$part_{0}\"\n",
            line, number);
    return out + last;
}

}  // namespace

Planted write_loose_scripts(const std::filesystem::path& folder, std::size_t count, unsigned seed) {
    std::mt19937 random(seed);
    Planted planted;
    std::filesystem::create_directories(folder);
    std::size_t number = 1;
    for (std::size_t i = 0; i < count; ++i) {
        std::string text = fmt::format("#!/bin/bash\n# Script {}.\nlimit={}\n\n", i, i);
        const auto add = [&](std::string& into, const std::string& name, const std::string& body) {
            into += fmt::format("# Does {}.\n{}() {{ # as planned\n{}}}\n\n", name, name, body);
        };
        for (int f = 0; f < 7; ++f, ++number) add(text, fmt::format("work_{}", number), body_of(number));
        // Of every four scripts one has a sort of duplicate in the script behind it.
        std::string behind;
        const std::string own = fmt::format("twice_{}", number);
        const std::string other = fmt::format("again_{}", number);
        const std::string body = body_of(number++);
        switch (i % 4) {
            case 0:
                add(text, own, body);
                behind = fmt::format("# Said in another way.\n{}()\n{{\n{}}}\n", own, body);
                planted.same.insert(own);
                break;
            case 1:
                add(text, own, body);
                add(behind, own, body_of(number++));
                planted.versions.insert(own);
                break;
            case 2:
                add(text, own, body);
                add(behind, other, "    # no code\n" + body);
                planted.copies.insert({own, other});
                break;
            default:
                add(text, own, body);
                add(behind, other, body + "    sync # and one line more\n");
                planted.alike.insert({own, other});
        }
        text += fmt::format("main() {{\n    work_{} {}\n}}\n\nmain \"$@\"\n", number - 2, random() % 100);
        std::ofstream(folder / fmt::format("script_{:05}.sh", i)) << text;
        std::ofstream(folder / fmt::format("script_{:05}_more.sh", i)) << "#!/bin/bash\n" << behind;
    }
    return planted;
}

}  // namespace envar::tests
