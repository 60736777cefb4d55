#include <doctest/doctest.h>

#include <fmt/format.h>
#include <array>

#include <string>
#include <vector>

#include "core/versions/loose.hpp"
#include "core/versions/requirement.hpp"

using namespace envar::versions;

TEST_CASE("versions are those of Semantic Versioning 2.0.0") {
    for (const std::string good :
         {"0.0.0", "1.2.3", "10.20.30", "1.0.0-alpha", "1.0.0-alpha.1", "1.0.0-0A.is.legal", "1.0.0-x-y-z.--",
          "1.0.0+001", "1.0.0-beta+exp.sha.5114f85", "18446744073709551615.0.0"}) {
        CAPTURE(good);
        const auto version = parse_version(good);
        CHECK(version.has_value());
        if (version) CHECK(version->text() == good);
    }
    for (const std::string bad :
         {"", "1", "1.2", "v1.2.3", "1.2.3.4", "01.2.3", "1.02.3", "1.2.03", "1.2.3-", "1.2.3-01", "1.2.3-a..b",
          "1.2.3+", "1.2.3+a+b", "1.2.3 ", " 1.2.3", "1.2.-3", "1.2.x", "18446744073709551616.0.0", "1.2.3-ä"}) {
        CAPTURE(bad);
        CHECK_FALSE(parse_version(bad).has_value());
    }
}

TEST_CASE("precedence follows section 11 of Semantic Versioning") {
    const std::vector<std::string> ascending = {"0.9.9",
                                                "1.0.0-1",
                                                "1.0.0-2",
                                                "1.0.0-10",
                                                "1.0.0-alpha",
                                                "1.0.0-alpha.1",
                                                "1.0.0-alpha.beta",
                                                "1.0.0-beta",
                                                "1.0.0-beta.2",
                                                "1.0.0-beta.11",
                                                "1.0.0-rc.1",
                                                "1.0.0",
                                                "1.0.1-a",
                                                "1.0.1",
                                                "1.2.0",
                                                "1.10.0",
                                                "2.0.0"};
    for (std::size_t i = 0; i < ascending.size(); ++i)
        for (std::size_t j = 0; j < ascending.size(); ++j) {
            CAPTURE(ascending[i]);
            CAPTURE(ascending[j]);
            const auto order = compare(*parse_version(ascending[i]), *parse_version(ascending[j]));
            CHECK(std::is_lt(order) == (i < j));
            CHECK(std::is_eq(order) == (i == j));
        }
    CHECK(std::is_eq(compare(*parse_version("1.0.0+a"), *parse_version("1.0.0+b"))));
}

TEST_CASE("requirements accept what they say") {
    struct Row {
        std::string requirement;
        std::vector<std::string> meets;
        std::vector<std::string> fails;
    };
    const std::vector<Row> rows = {
        {"any", {"0.0.0", "9.9.9"}, {"1.0.0-rc.1"}},
        {"=1.2", {"1.2.0", "1.2.99"}, {"1.1.9", "1.3.0", "1.2.0-rc.1"}},
        {"=1", {"1.0.0", "1.99.0"}, {"0.9.0", "2.0.0"}},
        {"=1.2.3", {"1.2.3", "1.2.3+build"}, {"1.2.4"}},
        {"!=1.2", {"1.1.0", "1.3.0"}, {"1.2.0", "1.2.7"}},
        {">1.2", {"1.3.0", "2.0.0"}, {"1.2.0", "1.2.9", "1.3.0-rc.1"}},
        {"<1.2", {"1.1.9", "0.0.1"}, {"1.2.0", "1.2.0-rc.1"}},
        {"<=1.2", {"1.2.9", "1.0.0"}, {"1.3.0"}},
        {">=1.2", {"1.2.0", "3.0.0"}, {"1.1.9"}},
        {">=1.1, <2", {"1.1.0", "1.99.0"}, {"1.0.9", "2.0.0", "2.0.0-rc.1"}},
        {"compatible 1.2", {"1.2.0", "1.9.0"}, {"1.1.0", "2.0.0"}},
        {"compatible 0.2", {"0.2.0", "0.2.9"}, {"0.3.0", "0.1.9", "1.0.0"}},
        {"compatible 0.2.3", {"0.2.3", "0.2.9"}, {"0.2.2", "0.3.0"}},
        {"compatible 0", {"0.0.1", "0.9.0"}, {"1.0.0"}},
        {"=1.0.0 | >=1.3", {"1.0.0", "1.3.0", "2.0.0"}, {"1.1.0"}},
        {">=1.2.3-rc.1", {"1.2.3-rc.1", "1.2.3-rc.2", "1.2.3", "1.2.4"}, {"1.2.3-beta", "1.2.4-rc.1"}},
        {"  >=1.1 ,<2 ", {"1.1.0"}, {"2.0.0"}},
    };
    for (const auto& row : rows) {
        CAPTURE(row.requirement);
        const auto requirement = parse_requirement(row.requirement);
        REQUIRE(requirement.has_value());
        for (const auto& version : row.meets) {
            CAPTURE(version);
            CHECK(meets(*parse_version(version), *requirement));
        }
        for (const auto& version : row.fails) {
            CAPTURE(version);
            CHECK_FALSE(meets(*parse_version(version), *requirement));
        }
    }
    CHECK(meets(*parse_version("1.0.0-rc.1"), *parse_requirement("any"), true));
}

TEST_CASE("a requirement that cannot be read tells where") {
    struct Row {
        std::string text;
        std::size_t offset;
    };
    const std::vector<Row> rows = {{"", 0},         {"1.2", 0},         {">= ", 3},      {">=1.1 <2", 6},
                                   {">=1.1,", 6},   {">=1.1, |", 7},    {"=>1.2", 1},    {"compatible", 10},
                                   {"~1.2", 0},     {">=1.2.3.4.5", 2}, {"any, >=1", 0}, {">=v1", 2},
                                   {">=1.2-rc", 2}, {"=01.2", 1}};
    for (const auto& row : rows) {
        CAPTURE(row.text);
        const auto parsed = parse_requirement(row.text);
        CHECK_FALSE(parsed.has_value());
        if (!parsed) {
            CHECK(parsed.error().offset == row.offset);
            CHECK_FALSE(parsed.error().message.empty());
        }
    }
    std::string many = "=1";
    for (int i = 0; i < 64; ++i) many += "|=1";
    CHECK_FALSE(parse_requirement(many).has_value());
}

TEST_CASE("partial comparators agree with the full ones they stand for") {
    // The written meaning, spelt out with full versions, is the oracle.
    struct Row {
        std::string partial;
        std::string full;
    };
    const std::vector<Row> rows = {{"=1.2", ">=1.2.0, <1.3.0"},
                                   {"=1", ">=1.0.0, <2.0.0"},
                                   {">1.2", ">=1.3.0"},
                                   {">1", ">=2.0.0"},
                                   {"<1.2", "<1.2.0"},
                                   {"<=1.2", "<1.3.0"},
                                   {"<=1", "<2.0.0"},
                                   {">=1.2", ">=1.2.0"},
                                   {"compatible 1.2", ">=1.2.0, <2.0.0"},
                                   {"compatible 0.2", ">=0.2.0, <0.3.0"},
                                   {"!=1.2", "<1.2.0 | >=1.3.0"}};
    for (const auto& row : rows)
        for (int major = 0; major < 3; ++major)
            for (int minor = 0; minor < 4; ++minor)
                for (int patch = 0; patch < 3; ++patch) {
                    const Version version = *parse_version(fmt::format("{}.{}.{}", major, minor, patch));
                    CAPTURE(row.partial);
                    CAPTURE(version.text());
                    CHECK(meets(version, *parse_requirement(row.partial)) ==
                          meets(version, *parse_requirement(row.full)));
                }
}

TEST_CASE("a name and its requirement are split") {
    const std::vector<std::vector<std::string>> rows = {{"sidereal >=1.1, <2", "sidereal", ">=1.1, <2"},
                                                        {"sidereal", "sidereal", "any"},
                                                        {"sidereal>=1", "sidereal", ">=1"},
                                                        {"  sidereal   any ", "sidereal", "any"},
                                                        {"x compatible 1", "x", "compatible 1"}};
    for (const auto& row : rows) {
        const auto split = split_named_requirement(row[0]);
        CHECK(split.name == row[1]);
        CHECK(split.versions == row[2]);
    }
}

TEST_CASE("loose versions: what a host that goes by them takes") {
    // Each is preferred to all behind it; those in one row are equal.
    const std::vector<std::vector<std::string>> falling = {{"10"},
                                                           {"2.1"},
                                                           {"2.0.0.1"},
                                                           {"2", "2.0", "2.0.0"},
                                                           {"1.10"},
                                                           {"1.9"},
                                                           {"0.1"},
                                                           {"0"},
                                                           {"3b2"},
                                                           {"3b1"},
                                                           {"3a9"},
                                                           {"2.1a1"},
                                                           {"", "x", "1..2", "1.2-rc.1", "v1", "1c2"}};
    for (std::size_t i = 0; i < falling.size(); ++i)
        for (std::size_t j = 0; j < falling.size(); ++j)
            for (const auto& a : falling[i])
                for (const auto& b : falling[j]) {
                    CAPTURE(a);
                    CAPTURE(b);
                    CHECK(envar::versions::preferred(a, b) == (i < j));
                }
    for (const auto& row : falling)
        for (const auto& text : row) CHECK(envar::versions::is_loose_version(text) == (&row != &falling.back()));
}

TEST_CASE("what was probably meant by a text that is no version") {
    const auto mended = [](const char* text, Scheme scheme) { return mended_version(text, scheme).value_or(""); };
    for (const auto& [text, semantic, dotted] : std::vector<std::array<const char*, 3>>{
             {"1", "1.0.0", "1.0"},
             {"1.2", "1.2.0", "1.2"},
             {"v1.2.3", "1.2.3", "1.2.3"},
             {"1.08", "1.8.0", "1.8"},
             {"2.005005", "2.5005.0", "2.5005"},
             {"0.00", "0.0.0", "0.0"},
             {"01.02.03-rc.01", "", ""},
             {"1.2-rc.1", "", ""},
             {"1.2.3-rc.1", "1.2.3-rc.1", ""},
             {"1.2.3.4", "", "1.2.3.4"},
             {"", "", ""},
             {"one", "", ""},
             {"1.", "", ""},
         }) {
        const char* given = text;
        CAPTURE(given);
        CHECK(mended(given, Scheme::semantic) == semantic);
        CHECK(mended(given, Scheme::dotted) == dotted);
    }
    using envar::versions::nearest_version;
    for (const auto& [text, nearest] : std::vector<std::pair<const char*, const char*>>{{"1.2", "1.2.0"},
                                                                                        {"v1.2.3.4", "1.2.3+4"},
                                                                                        {"1.2.3.0", "1.2.3"},
                                                                                        {"1.2.3.04", "1.2.3+4"},
                                                                                        {"1.2.3.x", ""}}) {
        const char* given = text;
        CAPTURE(given);
        CHECK(nearest_version(given).value_or("") == nearest);
    }
}
