// What catalogues can say, one feature a row, and what is chosen; the lock, the views' folder, and advice in words.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <random>

#include "core/resolve/resolve.hpp"
#include "core/versions/widen.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;

namespace {

/// A short hand for catalogue lines: "a 1 b>=1,c?,!d<2,^e=2" is version 1.0.0 of a with a need, an optional one, one
/// it cannot be with, and one it provides.
std::string line_of(const std::string& text) {
    const auto words = [&](char separator, const std::string& of) {
        std::vector<std::string> out(1);
        for (const char c : of) {
            if (c == separator) {
                out.emplace_back();
            } else {
                out.back() += c;
            }
        }
        return out;
    };
    const auto parts = words(' ', text);
    const auto version = [](const std::string& v) { return v.find('.') == std::string::npos ? v + ".0.0" : v; };
    std::string needs, bars, offers;
    const auto put = [](std::string& list, std::string item) { list += (list.empty() ? "" : ",") + std::move(item); };
    for (std::string one :
         parts.size() > 2 && !parts[2].empty() ? words(',', parts[2]) : std::vector<std::string>()) {
        const char mark = one.front();
        if (mark == '!' || mark == '^') one.erase(0, 1);
        const std::size_t end = std::min(one.find_first_of("<>=?@"), one.size());
        const std::string name = one.substr(0, end);
        const bool optional = end < one.size() && one[end] == '?';
        const std::string rest = one.substr(std::min(one.size(), end + (optional ? 1 : 0)));
        const std::size_t at = rest.find('@');
        const std::string range = rest.empty() || at == 0 ? "any" : rest.substr(0, at);
        if (mark == '^') {
            put(offers,
                fmt::format(R"({{"module":"{}"{}}})", name,
                            range == "any" ? "" : fmt::format(R"(,"version":"{}")", version(range.substr(1)))));
        } else {
            std::string more = optional ? R"(,"optional":true)" : "";
            if (at != std::string::npos)
                more += rest[at + 1] == '+' ? fmt::format(R"(,"stage":"{}")", rest.substr(at + 2))
                                            : fmt::format(R"(,"when":{{"platform":["{}"]}})", rest.substr(at + 1));
            put(mark == '!' ? bars : needs, fmt::format(R"({{"module":"{}","versions":"{}"{}}})", name, range, more));
        }
    }
    return fmt::format(R"({{"module":"{}","version":"{}","dependencies":[{}],"conflicts":[{}],"provides":[{}]{}}})",
                       parts[0], version(parts[1]), needs, bars, offers,
                       parts.size() > 3 ? R"(,"withdrawn":true)" : "");
}

struct Asked {
    std::vector<std::string> lines;
    std::vector<std::string> roots;
    std::string answer;  // "a 1.0.0, b 2.0.0"; or, when there is none, the sentences
    std::vector<std::string> locked = {};
    std::vector<std::string> refresh = {};
    std::function<void(resolve::Request&)> more = nullptr;
};

resolve::Wanted wanted(const std::string& text) {
    const auto named = versions::split_named_requirement(text);
    return {named.name, *versions::parse_requirement(named.versions), text + " is asked for", "", 0};
}

std::string answer(const Asked& row) {
    const tests::Scratch scratch;
    std::string text;
    for (const auto& line : row.lines) text += line_of(line) + "\n";
    scratch.write("c.jsonl", text);
    const auto supply = resolve::supply_of_catalogue(scratch / "c.jsonl", "c", nullptr, 1);
    REQUIRE(supply.has_value());
    for (const auto& finding : supply->findings) FAIL_CHECK(finding.message);
    resolve::Request request;
    for (const auto& root : row.roots) request.roots.push_back(wanted(root));
    for (const auto& one : row.locked) {
        const auto named = versions::split_named_requirement(one);
        request.locked.push_back({named.name, named.versions + ".0.0", "", "c", "", {}});
    }
    request.refresh = row.refresh;
    if (row.more) row.more(request);
    const auto resolution = resolve::resolve(*supply, request);
    if (resolution.unsolved) return fmt::format("{}", fmt::join(resolution.unsolved->sentences, " / "));
    std::string out;
    for (const auto& one : resolution.selected)
        out += fmt::format("{}{} {}", out.empty() ? "" : ", ", one.module, one.version);
    return resolution.stopped ? "stopped" : out;
}

}  // namespace

TEST_CASE("what catalogue lines say is what is chosen") {
    const auto prereleases = [](resolve::Request& r) { r.setting.prereleases = true; };
    const auto oldest = [](resolve::Request& r) { r.setting.oldest_first = true; };
    const auto on = [](const std::string& platform) {
        return [=](resolve::Request& r) { r.setting.platform = platform; };
    };
    const auto pin = [](const std::string& text) {
        return [=](resolve::Request& r) {
            r.pins.push_back(wanted(text));
            r.pins.back().sentence = "the workspace pins " + text;
            r.pins.back().file = "w";
            r.pins.back().line = 3;
        };
    };
    for (
        const Asked& row : std::vector<Asked>{
            {{"a 1", "a 2"}, {"a"}, "a 2.0.0"},
            {{"a 1", "a 2"}, {"a <2"}, "a 1.0.0"},
            {{"a 1", "a 2", "b 1"}, {"a"}, "a 2.0.0"},                           // nobody needs b
            {{"a 2 b=1", "a 1", "b 1", "b 2"}, {"a", "b"}, "a 2.0.0, b 1.0.0"},  // who is asked for first goes first
            {{"a 2 b=1", "a 1", "b 1", "b 2"}, {"b", "a"}, "a 1.0.0, b 2.0.0"},
            {{"a 1", "a 2.0.0-rc.1"}, {"a"}, "a 1.0.0"},
            {{"a 1", "a 2.0.0-rc.1"}, {"a >=2.0.0-rc.1"}, "a 2.0.0-rc.1"},
            {{"a 1", "a 2.0.0-rc.1"}, {"a"}, "a 2.0.0-rc.1", {}, {}, prereleases},
            {{"a 1", "a 2"}, {"a"}, "a 1.0.0", {}, {}, oldest},
            // withdrawn versions count only for those who have them
            {{"a 1", "a 2  gone"}, {"a"}, "a 1.0.0"},
            {{"a 1", "a 2  gone"}, {"a"}, "a 2.0.0", {"a 2"}},
            {{"a 1", "a 2  gone"},
             {"a >=2"},
             "a >=2 is asked for, but there is only a 1.0.0; a 2.0.0 was withdrawn (c:2)"},
            {{"a 1 b=2", "b 1", "b 2  gone", "b 2.0.0-rc.1"},
             {"a"},
             "a is asked for / a 1.0.0 needs b =2 (c:1), but there are only b 1.0.0 and 2.0.0-rc.1; b 2.0.0 was "
             "withdrawn (c:3); b 2.0.0-rc.1 is a pre-release, taken only where one is asked for"},
            {{"a 1", "a 2.0.0-rc.1", "a 3 b", "b 1"},
             {"a >=1.5, <3"},
             "a >=1.5, <3 is asked for, but there are only a 1.0.0 to 3.0.0; a 2.0.0-rc.1 is a pre-release, taken only "
             "where one is asked for"},
            // optional ones come along where they fit, and must fit where they come along
            {{"a 1 b?", "b 1"}, {"a"}, "a 1.0.0, b 1.0.0"},
            {{"a 1 b?>=2", "b 1"}, {"a"}, "a 1.0.0"},
            {{"a 1 b?", "b 1 c", "c 1 nobody"}, {"a"}, "a 1.0.0"},
            {{"a 1 b?", "b 1", "b 2 c=2", "c 1"}, {"a", "c"}, "a 1.0.0, b 1.0.0, c 1.0.0"},
            {{"a 1 b?>=2", "b 1"},
             {"a", "b"},
             "a is asked for / b is asked for / a 1.0.0 takes b only as >=2 (c:1), but there is only b 1.0.0"},
            // conflicts, and standing in for another one
            {{"a 1 !b<2", "b 1", "b 2"}, {"a", "b"}, "a 1.0.0, b 2.0.0"},
            {{"a 1 !b", "b 1"},
             {"a", "b"},
             "a is asked for / b is asked for / a 1.0.0 cannot be with b (c:1), but there is only b 1.0.0"},
            {{"a 1 n", "p 1 ^n"}, {"a"}, "a 1.0.0, p 1.0.0"},
            {{"a 1 n>=2", "p 1 ^n=1", "q 1 ^n=2"}, {"a"}, "a 1.0.0, q 1.0.0"},
            {{"a 1 n>=2", "n 1", "n 3", "q 1 ^n=2"}, {"a"}, "a 1.0.0, n 3.0.0"},
            {{"a 1 n", "p 1 ^n,!n", "b 1 p"}, {"a", "b"}, "a 1.0.0, b 1.0.0, p 1.0.0"},
            // stages and platforms
            {{"a 1 b@+test,c@+build", "b 1", "c 1"}, {"a"}, "a 1.0.0, c 1.0.0"},
            {{"a 1 b@linux", "b 1"}, {"a"}, "a 1.0.0, b 1.0.0", {}, {}, on("linux")},
            {{"a 1 b@linux", "b 1"}, {"a"}, "a 1.0.0", {}, {}, on("windows")},
            {{"a 1 b@!windows", "b 1"}, {"a"}, "a 1.0.0", {}, {}, on("windows")},
            // locked versions stay where they fit; what is refreshed moves, others as little as can be
            {{"a 1", "a 2"}, {"a"}, "a 1.0.0", {"a 1"}},
            {{"a 1", "a 2"}, {"a"}, "a 2.0.0", {"a 1"}, {"a"}},
            {{"a 1 b=1", "a 2 b=2", "b 1", "b 2", "c 1", "c 2"},
             {"a", "c"},
             "a 2.0.0, b 2.0.0, c 1.0.0",
             {"a 1", "b 1", "c 1"},
             {"a"}},
            {{"a 1", "a 2", "b 1", "b 2"}, {"a >=2", "b"}, "a 2.0.0, b 1.0.0", {"a 1", "b 1"}},
            {{"a 1", "a 2"}, {"a"}, "a 2.0.0", {"a 7", "gone 1"}},
            // pins
            {{"a 1", "a 2"}, {"a"}, "a 1.0.0", {}, {}, pin("a <2")},
            {{"a 1"}, {"a"}, "a 1.0.0", {}, {}, pin("b <2")},
            {{"a 1", "a 2"},
             {"a"},
             "a is asked for / the workspace pins a >=3 (w:3), but there are only a 1.0.0 and 2.0.0",
             {},
             {},
             pin("a >=3")},
            // circles are no trouble for versions
            {{"a 1 b", "b 1 a=1"}, {"a"}, "a 1.0.0, b 1.0.0"},
            {{"a 1 a>=1"}, {"a"}, "a 1.0.0"},
            {{"a 1 a>=2"}, {"a"}, "a is asked for / a 1.0.0 needs a >=2 (c:1), but there is only a 1.0.0"},
            // no solution
            {{"a 1"}, {"b"}, "b is asked for, but there is no module b"},
            {{"a 1 b", "a 2 b"},
             {"a"},
             "a is asked for / a 1.0.0 and 2.0.0 need b (c:1 and 2), but there is no module b"},
            {{"a 1 b>=2", "b 1"}, {"a"}, "a is asked for / a 1.0.0 needs b >=2 (c:1), but there is only b 1.0.0"},
            {{"a 1 c=1", "b 1 c=2", "c 1", "c 2", "c 3"},
             {"a", "b"},
             "a is asked for / b is asked for / a 1.0.0 needs c =1 (c:1); that leaves c 1.0.0 / b 1.0.0 needs c =2 (c:2), but c 1.0.0 is what is left"},
        }) {
        CAPTURE(fmt::format("{}", fmt::join(row.lines, "; ")));
        CHECK(answer(row) == row.answer);
    }
}

TEST_CASE("a search that is to be stopped stops, and says so") {
    std::atomic<bool> stop = true;
    Asked hard;
    hard.roots = {"p0", "p1", "p2", "p3", "p4", "p5", "p6"};
    for (int p = 0; p < 7; ++p)  // seven guests, six chairs
        for (int v = 1; v <= 6; ++v) hard.lines.push_back(fmt::format("p{} {} h{}={}", p, v, v, p + 1));
    for (int h = 1; h <= 6; ++h)
        for (int v = 1; v <= 7; ++v) hard.lines.push_back(fmt::format("h{} {}", h, v));
    hard.more = [&](resolve::Request& r) { r.limits.conflicts = 3; };
    CHECK(answer(hard) == "stopped");
    hard.more = [&](resolve::Request& r) { r.limits.stop = &stop; };
    CHECK(answer(hard) == "stopped");
    hard.more = nullptr;
    CHECK(answer(hard).find("so whichever") != std::string::npos);
}

TEST_CASE("a smallest set takes something from every list") {
    using Lists = std::vector<std::vector<std::uint32_t>>;
    const auto hits_all = [](const Lists& lists, const std::vector<std::uint32_t>& set) {
        return std::all_of(lists.begin(), lists.end(), [&](const auto& list) {
            return std::any_of(list.begin(), list.end(), [&](std::uint32_t one) {
                return std::find(set.begin(), set.end(), one) != set.end();
            });
        });
    };
    std::mt19937 random(3);
    for (int i = 0; i < 300; ++i) {
        Lists lists(random() % 7);
        for (auto& list : lists)
            for (std::size_t size = 1 + random() % 4; size > 0; --size)
                list.push_back(100 * static_cast<std::uint32_t>(random() % 10));
        std::size_t least = 10;
        for (unsigned bits = 0; bits < 1U << 10U; ++bits) {
            std::vector<std::uint32_t> set;
            for (std::uint32_t one = 0; one < 10; ++one)
                if ((bits >> one & 1U) != 0) set.push_back(100 * one);
            if (hits_all(lists, set)) least = std::min(least, set.size());
        }
        const auto found = resolve::smallest_hit(lists);
        CHECK(hits_all(lists, found));
        CHECK(found.size() == least);
    }
    // Many lists with nothing in common: trying all ways would take for ever.
    Lists apart(40);
    for (std::uint32_t i = 0; i < 800; ++i) apart[i % 40].push_back(i);
    apart.push_back({0, 1, 2, 3});
    CHECK(resolve::smallest_hit(apart).size() == 40);
}

TEST_CASE("ranges are widened by as little as lets a version in") {
    for (const auto& [range, version, wanted] : std::vector<std::tuple<std::string, std::string, std::string>>{
             {">=1.1, <2", "2.3.0", ">=1.1, <3"},
             {">=1.2, <2", "1.1.4", ">=1.1.4, <2"},
             {"compatible 1.2", "2.0.1", ">=1.2, <3"},
             {"compatible 1.2", "1.0.0", ">=1.0.0, <2"},
             {"compatible 0.3.1", "0.4.0", ">=0.3.1, <0.5"},
             {"=1.2.0", "2.0.0", "=1.2.0 | =2.0.0"},
             {"<1 | =2.0.0", "1.5.0", "<1 | =2.0.0 | =1.5.0"},
             {">=1, !=1.5.0", "1.5.0", ">=1"},
             {"!=1.5.0", "1.5.0", "any"},
             {">1", "1.0.0", ">=1.0.0"},
             {"<=1.4", "1.9.0", "<2"},
             {">=1", "2.0.0-rc.1", ">=1 | =2.0.0-rc.1"},
             {"any", "2.0.0-rc.1", "=2.0.0-rc.1"}}) {
        const std::string& required = range;
        CAPTURE(required);
        const std::string text =
            versions::widened(*versions::parse_requirement(range), *versions::parse_version(version));
        CHECK(text == wanted);
        const auto parsed = versions::parse_requirement(text);
        REQUIRE(parsed.has_value());
        CHECK(versions::meets(*versions::parse_version(version), *parsed));
    }
}

TEST_CASE("moves between locks are told by what they promise") {
    const auto module = [](const std::string& version, const std::string& origin = "c",
                           const std::string& digest = "") {
        return resolve::LockedModule{"m", version, "lua", origin, digest, {}};
    };
    for (const auto& [before, after, kind] :
         std::vector<std::tuple<resolve::LockedModule, resolve::LockedModule, std::string>>{
             {module("1.2.0"), module("1.2.1"), "fix"},
             {module("1.2.0"), module("1.3.0"), "feature"},
             {module("1.2.0"), module("2.0.0"), "breaking"},
             {module("0.2.0"), module("0.3.0"), "breaking"},
             {module("0.2.0"), module("0.2.1"), "fix"},
             {module("2.0.0"), module("1.9.0"), "older"},
             {module("7"), module("8"), "breaking"},
             {module("1.2.0", "c"), module("1.2.0", "d"), "origin"},
             {module("1.2.0", "c", "aa"), module("1.2.0", "c", "bb"), "content"},
             {module("1.2.0", "workspace", "aa"), module("1.2.0", "workspace", "bb"), ""},
             {module("1.2.0", "c", ""), module("1.2.0", "c", "bb"), ""},
             {module("1.2.0"), module("1.2.0"), ""}}) {
        const std::string move = before.version + " " + after.version;
        CAPTURE(move);
        const auto moves = resolve::moves({before}, {after});
        CHECK((moves.empty() ? "" : moves.front().kind) == kind);
    }
    CHECK(resolve::moves({}, {module("1.0.0")}).front().kind == "added");
    CHECK(resolve::moves({module("1.0.0")}, {}).front().kind == "removed");
}
