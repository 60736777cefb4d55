// Three-way merges and ranges of versions against slow, obvious oracles.
#include <doctest/doctest.h>

#include <random>
#include <string>
#include <vector>

#include "core/text/merge.hpp"
#include "core/versions/ranges.hpp"

using namespace envar;

TEST_CASE("merging: the table of what two sides can do to a text") {
    struct Row {
        std::string base, mine, theirs, expect;
        std::size_t conflicts = 0;
    };
    const std::vector<Row> rows = {
        {"", "", "", ""},
        {"a\nb\nc\n", "a\nb\nc\n", "a\nb\nc\n", "a\nb\nc\n"},
        {"a\nb\nc\n", "x\nb\nc\n", "a\nb\nc\n", "x\nb\nc\n"},
        {"a\nb\nc\n", "a\nb\nc\n", "a\nb\nx\n", "a\nb\nx\n"},
        {"a\nb\nc\nd\ne\n", "x\nb\nc\nd\ne\n", "a\nb\nc\nd\ny\n", "x\nb\nc\nd\ny\n"},
        {"a\nb\n", "a\nm\nb\n", "a\nm\nb\n", "a\nm\nb\n"},
        {"a\nb\n", "", "a\nb\n", ""},
        {"a\nb\n", "a\nb\n", "", ""},
        {"", "mine\n", "", "mine\n"},
        {"", "", "theirs\n", "theirs\n"},
        {"a\nb", "a\nb", "a\nb\nc\n", "a\nb\nc\n"},
        {"a\n", "m\n", "t\n", "<<<<<<< M\nm\n=======\nt\n>>>>>>> T\n", 1},
        {"a\n", "a\nm\n", "a\nt\n", "a\n<<<<<<< M\nm\n=======\nt\n>>>>>>> T\n", 1},
        {"a\n", "m", "t", "<<<<<<< M\nm\n=======\nt\n>>>>>>> T\n", 1},
        {"a\nb\nc\n", "a\nc\n", "a\nx\nc\n", "a\n<<<<<<< M\n=======\nx\n>>>>>>> T\nc\n", 1},
        {"a\nb\nc\nd\ne\n", "m\nb\nc\nd\nm\n", "t\nb\nc\nd\nt\n",
         "<<<<<<< M\nm\n=======\nt\n>>>>>>> T\nb\nc\nd\n<<<<<<< M\nm\n=======\nt\n>>>>>>> T\n", 2},
    };
    for (const Row& row : rows) {
        CAPTURE(row.base);
        CAPTURE(row.mine);
        CAPTURE(row.theirs);
        const auto merged = text::merge(row.base, row.mine, row.theirs, "M", "T");
        CHECK(merged.text == row.expect);
        CHECK(merged.conflicts == row.conflicts);
    }
}

TEST_CASE("merging: whatever both sides do, no line that one of them added is lost") {
    std::mt19937 random(20261123);
    const auto number = [&](std::size_t below) { return random() % below; };
    std::size_t clean = 0;
    for (int round = 0; round < 2000; ++round) {
        std::vector<std::string> base;
        for (std::size_t i = 0; i < number(12); ++i) base.push_back("line " + std::to_string(number(6)) + "\n");
        const auto changed = [&](const std::string& side) {
            std::vector<std::string> out = base;
            for (std::size_t i = number(4); i > 0; --i) {
                const std::size_t at = number(out.size() + 1);
                if (number(3) == 0 && at < out.size()) {
                    out.erase(out.begin() + static_cast<std::ptrdiff_t>(at));
                } else {
                    out.insert(out.begin() + static_cast<std::ptrdiff_t>(at),
                               side + " " + std::to_string(round) + "." + std::to_string(i) + "\n");
                }
            }
            return out;
        };
        const auto joined = [](const std::vector<std::string>& lines) {
            std::string out;
            for (const auto& line : lines) out += line;
            return out;
        };
        const auto mine = changed("mine");
        const auto theirs = changed("theirs");
        const auto merged = text::merge(joined(base), joined(mine), joined(theirs), "M", "T");
        for (const auto* side : {&mine, &theirs})
            for (const auto& line : *side)
                if (line.rfind("line", 0) != 0) CHECK(merged.text.find(line) != std::string::npos);
        // Merging with an unchanged side is the other side.
        CHECK(text::merge(joined(base), joined(mine), joined(base), "M", "T").text == joined(mine));
        CHECK(text::merge(joined(base), joined(base), joined(theirs), "M", "T").text == joined(theirs));
        clean += merged.conflicts == 0;
    }
    CHECK(clean > 200);
    CHECK(clean < 2000);
}

TEST_CASE("ranges hold exactly the releases that meet a requirement") {
    const std::vector<std::string> requirements = {"any",
                                                   "=1",
                                                   "=1.2",
                                                   "=1.2.3",
                                                   "!=1.2",
                                                   "!=1.2.3",
                                                   "<1.2",
                                                   "<=1.2",
                                                   ">1.2",
                                                   ">=1.2",
                                                   ">1",
                                                   "<=1",
                                                   "<0.0.1",
                                                   "compatible 1.2",
                                                   "compatible 0.2",
                                                   "compatible 0.2.3",
                                                   ">=1.1, <2",
                                                   "=1.0.0 | >=1.3",
                                                   ">=1, !=1.2, <2",
                                                   "<1 | >=2",
                                                   "=1 | =2",
                                                   ">=1, <1",
                                                   ">=2, <1",
                                                   ">=1, <3 | >=2, <4",
                                                   "!=0"};
    for (const auto& text : requirements) {
        CAPTURE(text);
        const auto requirement = *versions::parse_requirement(text);
        const auto ranges = versions::ranges_of(requirement);
        for (std::size_t i = 1; i < ranges.size(); ++i) {
            CHECK(ranges[i - 1].limit.has_value());
            CHECK(ranges[i - 1].limit->numbers < ranges[i].least.numbers);
        }
        for (int major = 0; major < 4; ++major)
            for (int minor = 0; minor < 4; ++minor)
                for (int patch = 0; patch < 5; ++patch) {
                    const auto version = *versions::parse_version(
                        std::to_string(major) + "." + std::to_string(minor) + "." + std::to_string(patch));
                    bool inside = false;
                    for (const auto& range : ranges)
                        inside = inside || (range.least.numbers <= version.numbers &&
                                            (!range.limit || version.numbers < range.limit->numbers));
                    CAPTURE(version.text());
                    CHECK(inside == versions::meets(version, requirement));
                }
    }
}
