// The algebra of version sets against asking each version.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <random>
#include <vector>

#include "core/versions/bounds.hpp"
#include "core/versions/ranges.hpp"

using namespace envar::versions;

namespace {

/// All versions of small numbers, with pre-releases, and some of four numbers.
std::vector<Version> all_versions() {
    std::vector<Version> all;
    for (const std::string major : {"0", "1", "2", "18446744073709551615"})
        for (const std::string minor : {"0", "1", "2", "18446744073709551615"})
            for (const std::string patch : {"0", "1", "18446744073709551615"}) {
                const std::string numbers = fmt::format("{}.{}.{}", major, minor, patch);
                for (const std::string tail : {"", "-0", "-a", "-a.0", "-a.1", "-b", "+x"})
                    all.push_back(*parse_version(numbers + tail));
                all.push_back(*parse_version(numbers + ".1", Scheme::dotted));
            }
    return all;
}

std::string random_requirement(std::mt19937& random) {
    const auto one_of = [&](const std::vector<std::string>& words) { return words[random() % words.size()]; };
    std::string text;
    for (auto alternatives = 1 + random() % 3; alternatives > 0; --alternatives) {
        for (auto comparators = 1 + random() % 3; comparators > 0; --comparators) {
            text += one_of({"=", "!=", "<", "<=", ">", ">=", "compatible "});
            text += one_of({"0", "1", "2", "18446744073709551615"});
            const auto numbers = random() % 4;
            for (std::size_t i = 0; i < numbers; ++i) text += "." + one_of({"0", "1", "2"});
            if (numbers == 2) text += one_of({"", "", "", "-0", "-a", "-a.1", "-b"});
            if (comparators > 1) text += ", ";
        }
        if (alternatives > 1) text += " | ";
    }
    return random() % 20 == 0 ? "any" : text;
}

bool in_normal_form(const std::vector<Range>& ranges) {
    for (std::size_t i = 0; i < ranges.size(); ++i) {
        if (ranges[i].limit && !(ranges[i].least < *ranges[i].limit)) return false;
        if (i > 0 && (!ranges[i - 1].limit || !(*ranges[i - 1].limit < ranges[i].least))) return false;
    }
    return true;
}

}  // namespace

TEST_CASE("sets of versions hold what the requirement accepts, and nothing else") {
    const auto all = all_versions();
    std::mt19937 random(11);
    int bounded = 0;
    for (int round = 0; round < 1500; ++round) {
        const std::string text = random_requirement(random);
        const auto requirement = parse_requirement(text);
        CAPTURE(text);
        REQUIRE(requirement.has_value());
        for (const bool prereleases : {false, true}) {
            const RangeSet set = set_of(*requirement, prereleases);
            CHECK(in_normal_form(set.releases()));
            CHECK(in_normal_form(set.prereleases()));
            std::string wrong;
            for (const Version& version : all)
                if (set.contains(version) != meets(version, *requirement, prereleases)) wrong += version.text() + " ";
            CHECK(wrong == "");
        }
        const auto bounds = release_bounds(text);
        bounded += bounds ? 1 : 0;
        std::string wrong;
        for (const Version& version : bounds ? all : std::vector<Version>())
            if ((version.prerelease.empty() && version.numbers >= bounds->least &&
                 (!bounds->limit || version.numbers < *bounds->limit)) != meets(version, *requirement))
                wrong += version.text() + " ";
        CHECK(wrong == "");
    }
    CHECK(bounded > 200);
}

TEST_CASE("bounds are read from requirements alone, whatever a text is turned into") {
    std::mt19937 random(13);
    const std::string_view put = "01239.,|<>=! \tany-c";
    int read = 0;
    for (int round = 0; round < 20'000; ++round) {
        std::string text = round % 9 == 0 ? "any" : random_requirement(random);
        for (auto edits = random() % 2; edits > 0 && !text.empty(); --edits) {
            const std::size_t at = random() % text.size();
            if (random() % 2 == 0) text.erase(at, 1);
            text.insert(at, 1, put[random() % put.size()]);
        }
        const auto bounds = release_bounds(text);
        if (!bounds) continue;
        ++read;
        CAPTURE(text);
        const auto requirement = parse_requirement(text);
        REQUIRE(requirement.has_value());
        const auto ranges = ranges_of(*requirement);
        const bool none = bounds->limit && *bounds->limit <= bounds->least;
        REQUIRE(ranges.size() == (none ? 0 : 1));
        if (none) continue;
        CHECK(ranges[0].least.numbers == bounds->least);
        CHECK((ranges[0].limit ? std::optional(ranges[0].limit->numbers) : std::nullopt) == bounds->limit);
    }
    CHECK(read > 1500);
}

TEST_CASE("union, intersection, complement and containment are those of the versions") {
    const auto all = all_versions();
    std::mt19937 random(12);
    for (int round = 0; round < 1000; ++round) {
        const std::string a_text = random_requirement(random), b_text = random_requirement(random);
        CAPTURE(a_text);
        CAPTURE(b_text);
        const RangeSet a = set_of(*parse_requirement(a_text), round % 2 == 0), b = set_of(*parse_requirement(b_text));
        const RangeSet both = a & b, either = a | b, others = ~a;
        bool same = true, within = true;
        std::string wrong;
        for (const Version& version : all) {
            const bool in_a = a.contains(version), in_b = b.contains(version);
            if (both.contains(version) != (in_a && in_b) || either.contains(version) != (in_a || in_b) ||
                others.contains(version) == in_a)
                wrong += version.text() + " ";
            same = same && in_a == in_b;
            within = within && (!in_b || in_a);
        }
        CHECK(wrong == "");
        CHECK(~others == a);
        CHECK((a & others).empty());
        CHECK((a | others) == RangeSet::all());
        CHECK(~(a | b) == (~a & ~b));
        if (a == b) CHECK(same);
        if (a.contains(b)) CHECK(within);
        if (!within) CHECK_FALSE(a.contains(b));
        for (const auto* set : {&both, &either, &others}) {
            CHECK(in_normal_form(set->releases()));
            CHECK(in_normal_form(set->prereleases()));
        }
    }
    for (const Version& version : all) {
        const RangeSet one = RangeSet::only(version);
        std::string held;
        for (const Version& other : all)
            if (one.contains(other) != std::is_eq(compare(version, other))) held += other.text() + " ";
        CHECK_MESSAGE(held == "", version.text());
    }
}
