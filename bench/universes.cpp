// Makes large catalogues for measuring.
//
//   universes random MODULES VERSIONS NEEDS WIDTH CLASH SEED NAME
//                                  a random universe, VERSIONS of each module and NEEDS of each version as in 15-25:
//                                  NAME.jsonl, NAME.cnf, NAME.roots. WIDTH: of ranges, in percent; or 4-blocks for
//                                  ranges that end with each quarter of the versions. NEEDS 1-4-down: only of modules
//                                  with higher numbers
//   universes lines COUNT NAME                                layers of modules with 20 versions each: NAME.jsonl
//   universes edges MODULES EACH NAME                         one version each: NAME.jsonl, and NAME.edges for tsort
//   universes chain MODULES NAME                              each needs the next one
#include <fmt/format.h>

#include <cstdlib>
#include <fstream>
#include <random>
#include <string>
#include <string_view>

#include "tests/support/random_universe.hpp"

namespace {

using envar::testing::RandomUniverse;

/// "15-25", or "20" for 20-20.
void range(const std::string& word, std::size_t& fewest, std::size_t& most) {
    const std::size_t dash = word.find('-');
    fewest = std::stoul(word);
    most = dash == std::string::npos ? fewest : std::stoul(word.substr(dash + 1));
}

void random_universe(char** arguments) {
    envar::testing::UniverseShape shape;
    shape.modules = std::stoul(arguments[0]);
    range(arguments[1], shape.fewest, shape.versions);
    range(arguments[2], shape.least, shape.needs);
    shape.layered = std::string_view(arguments[2]).ends_with("-down");
    shape.width = static_cast<unsigned>(std::stoul(arguments[3]));
    if (std::string_view(arguments[3]).ends_with("-blocks")) shape.blocks = shape.width;
    shape.clash = std::stoul(arguments[4]);
    shape.roots = 10;
    const RandomUniverse universe(shape, std::stoull(arguments[5]));
    const std::string name = arguments[6];
    std::ofstream(name + ".jsonl") << universe.catalogue();
    std::ofstream(name + ".cnf") << universe.formula();
    std::ofstream roots(name + ".roots");
    for (const std::size_t root : universe.roots) roots << "--root " << RandomUniverse::name(root) << " ";
}

void lines(std::size_t count, const std::string& name) {
    std::mt19937_64 random(1);
    std::ofstream out(name + ".jsonl");
    const std::size_t modules = count / 20;
    for (std::size_t i = 0; i < count; ++i) {
        const std::size_t module = i / 20, version = i % 20;
        std::string needs;
        for (std::size_t n = 0; n < 3 && module + 1 < modules; ++n) {
            const std::size_t to = module + 1 + random() % std::min<std::size_t>(modules - module - 1, 500);
            needs += fmt::format(R"({}{{"module":"module_{}","versions":">=1.{}, <3","visibility":"{}"}})",
                                 needs.empty() ? "" : ",", to, random() % (version / 2 + 1),
                                 n == 0 ? "public" : "private");
        }
        out << fmt::format(
            R"({{"module":"module_{}","version":"{}.{}.0","dependencies":[{}],"archive":"module_{}-{}.tar.gz"}})"
            "\n",
            module, 1 + version / 12, version % 12, needs, module, version);
    }
}

void edges(std::size_t modules, std::size_t each, const std::string& name) {
    std::mt19937_64 random(2);
    std::ofstream out(name + ".jsonl"), text(name + ".edges");
    for (std::size_t module = 0; module < modules; ++module) {
        std::string needs;
        for (std::size_t n = 0; n < each && module > 0; ++n) {
            const std::size_t to = random() % module;
            needs += fmt::format(R"({}{{"module":"m{}"}})", needs.empty() ? "" : ",", to);
            text << fmt::format("m{} m{}\n", to, module);
        }
        out << fmt::format(R"({{"module":"m{}","version":"1.0.0","dependencies":[{}]}})"
                           "\n",
                           module, needs);
    }
}

}  // namespace

int main(int count, char** arguments) {
    const std::string kind = count > 1 ? arguments[1] : "";
    if (kind == "random" && count == 9) {
        random_universe(arguments + 2);
    } else if (kind == "lines" && count == 4) {
        lines(std::stoul(arguments[2]), arguments[3]);
    } else if (kind == "edges" && count == 5) {
        edges(std::stoul(arguments[2]), std::stoul(arguments[3]), arguments[4]);
    } else if (kind == "chain" && count == 4) {
        std::ofstream out(std::string(arguments[3]) + ".jsonl");
        for (std::size_t i = 0, all = std::stoul(arguments[2]); i < all; ++i)
            out << (i + 1 == all
                        ? fmt::format(R"({{"module":"m{}","version":"1.0.0"}})"
                                      "\n",
                                      i)
                        : fmt::format(R"({{"module":"m{}","version":"1.0.0","dependencies":[{{"module":"m{}"}}]}})"
                                      "\n",
                                      i, i + 1));
    } else {
        std::fputs("usage: universes random|lines|edges|chain …; see the head of its source\n", stderr);
        return 2;
    }
    return 0;
}
