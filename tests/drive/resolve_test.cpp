// Choosing versions and load order through the built program: the same bytes from any order of lines, locks, limits.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <random>
#include <regex>

#include "tests/support/driver.hpp"
#include "tests/support/random_universe.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;

namespace {

std::string joined(const std::vector<std::string>& lines) {
    std::string out;
    for (const auto& line : lines) out += line + "\n";
    return out;
}

/// A workspace with a Lua module that needs two others, which lie in its catalogue.
void make_workspace(const Driver& driver) {
    driver.write("w/workspace.envar.toml",
                 "[workspace]\nname = \"w\"\nfolders = [\"lua\"]\n\n[[search]]\nhost = \"lua\"\nfolder = \"lua\"\n\n"
                 "[[origin]]\ncatalogue = \"c.jsonl\"\n");
    driver.write("w/lua/star_field/module.envar.toml",
                 "[module]\nname = \"star_field\"\nversion = \"1.0.0\"\nhost = \"lua\"\n\n[[dependency]]\nmodule = "
                 "\"sidereal\"\nversions = \">=1, <3\"\n");
    driver.write("w/lua/star_field/init.lua", "return {}\n");
    driver.write("w/c.jsonl",
                 R"({"module":"sidereal","version":"1.0.0","host":"lua","dependencies":[{"module":"clock"}]})"
                 "\n"
                 R"({"module":"clock","version":"1.0.0","host":"lua"})"
                 "\n");
}

const std::string newer =
    R"({"module":"sidereal","version":"2.0.0","host":"lua","dependencies":[{"module":"clock","versions":">=2"}]})"
    "\n"
    R"({"module":"clock","version":"2.0.0","host":"lua"})"
    "\n"
    R"({"module":"sidereal","version":"3.0.0","host":"lua"})"
    "\n";

/// `module version` of all that resolve.json holds.
std::string selected(const Driver& driver, const std::string& folder) {
    std::string out;
    const auto result = json::parse(driver.read(folder + "/envar-results/resolve.json"));
    for (const auto& one : result["selected"])
        out += one["module"].get<std::string>() + " " + one["version"].get<std::string>() + "; ";
    return out;
}

}  // namespace

TEST_CASE("the order of lines and the number of threads change no byte") {
    const Driver driver;
    std::mt19937 random(5);
    for (std::size_t seed = 0; seed < 8; ++seed) {
        testing::UniverseShape shape;
        shape.modules = 300;
        shape.versions = 8;
        shape.width = 90;
        shape.optional = 10;
        shape.layered = seed % 2 == 0;
        const testing::RandomUniverse universe(shape, seed);
        auto lines = universe.lines();
        auto arguments = universe.root_arguments();
        std::string resolved, ordered, printed;
        for (int round = 0; round < 4; ++round) {
            driver.write("c.jsonl", joined(lines));
            std::vector<std::string> resolve = {"resolve", "--catalogue", "c.jsonl", "--jobs",
                                                std::to_string(1 + round % 2)};
            resolve.insert(resolve.end(), arguments.begin(), arguments.end());
            const auto run = driver.envar(resolve);
            REQUIRE(run.status == 0);
            auto order = resolve;
            order.front() = "order";
            CHECK(driver.envar(order).status <= 1);
            if (round > 0) CHECK(run.output == printed);
            if (round > 0) CHECK(driver.read("envar-results/resolve.json") == resolved);
            const auto now = json::parse(driver.read("envar-results/order.json"));
            if (round > 0) CHECK(now["order"].dump() + now["skipped"].dump() + now["cycles"].dump() == ordered);
            printed = run.output;
            resolved = driver.read("envar-results/resolve.json");
            ordered = now["order"].dump() + now["skipped"].dump() + now["cycles"].dump();
            std::shuffle(lines.begin(), lines.end(), random);
        }
    }
}

TEST_CASE("why there is no solution, and what would help, does not hang on the order of lines") {
    const Driver driver;
    std::mt19937 random(7);
    std::size_t unsolvable = 0;
    for (std::size_t seed = 0; seed < 40 && unsolvable < 6; ++seed) {
        testing::UniverseShape shape;
        shape.modules = 60;
        shape.versions = 6;
        shape.width = 25;
        const testing::RandomUniverse universe(shape, seed);
        auto lines = universe.lines();
        auto resolve = universe.root_arguments();
        resolve.insert(resolve.begin(), {"resolve", "--catalogue", "c.jsonl"});
        std::string told;
        for (int round = 0; round < 3; ++round) {
            driver.write("c.jsonl", joined(lines));
            const auto run = driver.envar(resolve);
            if (run.status == 0) break;
            unsolvable += round == 0 ? 1 : 0;
            REQUIRE(run.status == 1);
            const std::string without_places =
                std::regex_replace(run.output, std::regex(R"( \(c\.jsonl:[^)]*\))"), "");
            if (round > 0) CHECK(without_places == told);
            told = without_places;
            std::shuffle(lines.begin(), lines.end(), random);
        }
    }
    CHECK(unsolvable == 6);
}

TEST_CASE("the lock keeps what fits, tells what moved, and fails a build that would change it") {
    const Driver driver;
    make_workspace(driver);
    CHECK(driver.envar({"resolve"}, "w").status == 0);
    CHECK(selected(driver, "w") == "clock 1.0.0; sidereal 1.0.0; star_field 1.0.0; ");
    const std::string first = driver.read("w/lock.envar.toml");
    driver.write("w/c.jsonl", driver.read("w/c.jsonl") + newer);
    CHECK(driver.envar({"resolve", "--locked"}, "w").output.find("lock.envar.toml holds this already\n") !=
          std::string::npos);
    driver.write("w/lua/star_field/more.lua", "return {}\n");
    const auto edited = driver.envar({"resolve", "--locked"}, "w");
    CHECK(edited.status == 1);
    CHECK_MESSAGE(
        edited.output.find("holds these versions; since it was written, the content changed of star_field\n") !=
            std::string::npos,
        edited.output);
    CHECK(edited.errors.find("lock.envar.toml would change") != std::string::npos);
    CHECK(driver.read("w/lock.envar.toml") == first);
    CHECK(driver.envar({"resolve"}, "w").status == 0);
    CHECK(driver.envar({"resolve", "--locked"}, "w").status == 0);
    driver.remove("w/lua/star_field/more.lua");
    CHECK(driver.envar({"resolve"}, "w").status == 0);
    CHECK(driver.read("w/lock.envar.toml") == first);

    const auto why = driver.envar({"resolve", "--why", "sidereal"}, "w").output;
    CHECK_MESSAGE(why.find("not 2.0.0: the lock holds 1.0.0; `envar resolve --refresh sidereal` lets it move") !=
                      std::string::npos,
                  why);
    CHECK_MESSAGE(why.find("not 3.0.0: ") != std::string::npos, why);
    CHECK_MESSAGE(
        why.find("star_field 1.0.0 needs sidereal >=1, <3 (lua/star_field/module.envar.toml:8)") != std::string::npos,
        why);

    const auto diff = driver.envar({"resolve", "--refresh", "sidereal", "--diff"}, "w");
    CHECK(diff.status == 0);
    CHECK(diff.output.find("breaking") != std::string::npos);
    CHECK(driver.read("w/lock.envar.toml") == first);
    CHECK(driver.envar({"resolve", "--refresh", "sidereal", "--locked"}, "w").status == 1);
    CHECK(driver.envar({"resolve", "--refresh", "sidereal"}, "w").status == 0);
    CHECK(selected(driver, "w") == "clock 2.0.0; sidereal 2.0.0; star_field 1.0.0; ");
    CHECK(driver.envar({"check"}, "w").output.find("EV601") == std::string::npos);
    CHECK(driver.envar({"undo"}, "w").status == 0);
    CHECK(driver.read("w/lock.envar.toml") == first);
    CHECK(driver.envar({"resolve", "--refresh", "nobody"}, "w").status == 1);
}

TEST_CASE("check tells a lock that does not fit any more") {
    for (const auto& [from, to, message] : std::vector<std::tuple<std::string, std::string, std::string>>{
             {"\">=1, <3\"", "\">=2, <3\"", "the lock holds sidereal 1.0.0, but star_field 1.0.0 needs >=2, <3"},
             {"name = \"star_field\"\nversion = \"1.0.0\"", "name = \"star_field\"\nversion = \"1.1.0\"",
              "the lock holds star_field 1.0.0, the workspace has 1.1.0"},
             {"\"star_field\"", "\"star_fields\"", "the lock holds `star_field`, which is gone"},
             {"\"clock\",\"version\":\"1.0.0\"", "\"clock\",\"version\":\"1.0.1\"",
              "the lock holds clock 1.0.0, which is gone; there is 1.0.1"},
             {"[[origin]]", "[[pin]]\nmodule = \"clock\"\nversions = \">1\"\n[[origin]]",
              "but the workspace pins it to >1"},
             {"[module]\nclock", "[moduls]\nclock", "the lock has no table of modules"},
             {"star_field = {", "star_field = ", "EV102"}}) {
        const auto& about = message;
        CAPTURE(about);
        const Driver driver;
        make_workspace(driver);
        REQUIRE(driver.envar({"resolve"}, "w").status == 0);
        REQUIRE(driver.envar({"check"}, "w").output.find("EV601") == std::string::npos);
        std::size_t changed = 0;
        for (const std::string file :
             {"w/lua/star_field/module.envar.toml", "w/c.jsonl", "w/workspace.envar.toml", "w/lock.envar.toml"}) {
            std::string text = driver.read(file);
            const std::size_t at = text.find(from);
            if (at == std::string::npos || (changed++ > 0)) continue;
            driver.write(file, text.replace(at, from.size(), to));
        }
        REQUIRE(changed > 0);
        const auto run = driver.envar({"check"}, "w");
        CHECK_MESSAGE(run.output.find(message) != std::string::npos, run.output);
    }
}

TEST_CASE("no solution: the reasons, and what would help, with places") {
    const Driver driver;
    make_workspace(driver);
    driver.write("w/c.jsonl", R"({"module":"sidereal","version":"3.0.0","host":"lua"})"
                              "\n");
    const auto run = driver.envar({"resolve"}, "w");
    CHECK(run.status == 1);
    CHECK(
        run.output ==
        "the requirements cannot be met:\n"
        "  1. star_field is a module of the workspace (lua/star_field/module.envar.toml:2)\n"
        "  2. star_field 1.0.0 needs sidereal >=1, <3 (lua/star_field/module.envar.toml:8), but there is only sidereal 3.0.0\n"
        "this would help (it was tried):\n"
        "  - relax the requirement of star_field 1.0.0 on sidereal to `>=1, <4` (lua/star_field/module.envar.toml:8)\n"
        "the lock is as it was\n");
    const auto result = json::parse(driver.read("w/envar-results/resolve.json"));
    CHECK(result["unsolved"]["requirements"].size() == 2);
    CHECK(result["unsolved"]["advice"][0][0]["versions"] == ">=1, <4");
    CHECK_FALSE(driver.has("w/lock.envar.toml"));
}

TEST_CASE("a long explanation is cut for people, not for programs") {
    const Driver driver;
    std::string lines = R"({"module":"c130","version":"1.0.0"})"
                        "\n";
    for (std::size_t i = 0; i < 130; ++i)
        lines +=
            fmt::format(R"({{"module":"c{}","version":"1.0.0","dependencies":[{{"module":"c{}","versions":"={}"}}]}})"
                        "\n",
                        i, i + 1, i == 129 ? 2 : 1);
    driver.write("c.jsonl", lines);
    const auto shown = driver.envar({"resolve", "--catalogue", "c.jsonl", "--root", "c0"});
    CHECK(shown.status == 1);
    CHECK(shown.output.find("\n  … 31 more; `--verbose` shows them, resolve.json has them\n") != std::string::npos);
    CHECK(shown.output.find("\n  90. c88 1.0.0 needs c89 =1 ") != std::string::npos);
    CHECK(shown.output.find("\n  91. ") == std::string::npos);
    CHECK(shown.output.find("\n  122. c120 1.0.0 needs c121 =1 ") != std::string::npos);
    CHECK(shown.output.find("relax the requirement of c129 1.0.0 on c130 to `") != std::string::npos);
    const auto all = driver.envar({"resolve", "--catalogue", "c.jsonl", "--root", "c0", "--verbose"});
    CHECK(all.output.find(" more; ") == std::string::npos);
    CHECK(all.output.find("\n  91. c89 1.0.0 needs c90 =1 ") != std::string::npos);
    const json unsolved = json::parse(driver.read("envar-results/resolve.json"))["unsolved"];
    CHECK(unsolved["sentences"].size() == 131);
    CHECK_FALSE(unsolved.contains("minimal"));
}

TEST_CASE("no advice names a range that only a pre-release would meet") {
    const Driver driver;
    driver.write(
        "c.jsonl",
        "{\"module\":\"a\",\"version\":\"1.0.0\",\"dependencies\":[{\"module\":\"b\",\"versions\":\">=2, <3\"}]}\n"
        "{\"module\":\"b\",\"version\":\"3.0.0-rc.1\"}\n");
    CHECK(driver.envar({"resolve", "--catalogue", "c.jsonl", "--root", "a"}).status == 1);
    const json unsolved = json::parse(driver.read("envar-results/resolve.json"))["unsolved"];
    REQUIRE(!unsolved["advice"].empty());
    for (const auto& together : unsolved["advice"])
        for (const auto& one : together) CHECK(one["change"] == "drop");
}

TEST_CASE("a long search ends by its limit, or by the user, cleanly") {
    const Driver driver;
    std::string text;  // thirteen guests, twelve chairs
    std::vector<std::string> arguments = {"resolve", "--catalogue", "c.jsonl"};
    for (int p = 0; p < 13; ++p) {
        arguments.insert(arguments.end(), {"--root", fmt::format("p{}", p)});
        for (int v = 1; v <= 12; ++v)
            text += fmt::format(
                R"({{"module":"p{}","version":"{}.0.0","dependencies":[{{"module":"h{}","versions":"={}"}}]}})"
                "\n",
                p, v, v, p + 1);
    }
    for (int h = 1; h <= 12; ++h)
        for (int v = 1; v <= 13; ++v)
            text += fmt::format(R"({{"module":"h{}","version":"{}.0.0"}})"
                                "\n",
                                h, v);
    driver.write("c.jsonl", text);
    auto limited = arguments;
    limited.insert(limited.end(), {"--steps", "500"});
    const auto given_up = driver.envar(limited);
    CHECK(given_up.status == 3);
    CHECK(given_up.errors.find("the search was given up after the steps that --steps allows") != std::string::npos);
    const auto stopped =
        driver.envar_with({}, arguments, ".", {"/usr/bin/timeout", "--preserve-status", "-s", "INT", "3"});
    CHECK(stopped.status == 3);
    CHECK_MESSAGE(stopped.errors.find("the search was stopped") != std::string::npos, stopped.errors);
}

TEST_CASE("a choice stands though it was left open whether newer versions would do, and that is told") {
    testing::UniverseShape shape;
    shape.modules = 300, shape.fewest = 15, shape.versions = 25, shape.needs = 4, shape.width = 20, shape.roots = 10;
    const testing::RandomUniverse universe(shape, 2);
    const Driver driver;
    auto lines = universe.lines();
    std::vector<std::string> arguments = {"resolve", "--catalogue", "c.jsonl"};
    for (const auto& one : universe.root_arguments()) arguments.push_back(one);
    const auto results = [&](const std::vector<std::string>& more) {
        auto all = arguments;
        all.insert(all.end(), more.begin(), more.end());
        driver.write("c.jsonl", joined(lines));
        const auto outcome = driver.envar(all);
        CHECK(outcome.status == 0);
        CHECK((outcome.errors.find("modules may fit too: the search for them was ended after 130 wrong turns") !=
               std::string::npos) == (more.size() > 1));
        return driver.read("envar-results/resolve.json");
    };
    const std::string limited = results({"--steps", "130"});
    std::reverse(lines.begin(), lines.end());
    CHECK(results({"--steps", "130", "--jobs", "1"}) == limited);
    const json with = json::parse(limited), newest = json::parse(results({}));
    CHECK(with["unproven"] > 0);
    CHECK(!newest.contains("unproven"));
    CHECK(with["selected"] != newest["selected"]);
    // What is open for a module is told where one asks why.
    std::size_t told = 0;
    for (const json& one : with["selected"]) {
        if (told > 0 ||
            std::find(newest["selected"].begin(), newest["selected"].end(), one) != newest["selected"].end())
            continue;
        auto all = arguments;
        all.insert(all.end(), {"--steps", "130", "--why", one["module"].get<std::string>()});
        const auto outcome = driver.envar(all);
        if (outcome.output.find(": it may fit too: the search ended before that was known") != std::string::npos)
            ++told;
    }
    CHECK(told > 0);
}

TEST_CASE("an optional module is left out when finding out whether it fits takes too long, and that is told") {
    // `many` wants one more module than there are versions of which no two modules may have the same.
    const auto catalogue = [](int versions) {
        const auto need = [](const std::string& module) { return fmt::format(R"({{"module":"{}"}})", module); };
        const auto optional = [](const std::string& module) {
            return fmt::format(R"({{"module":"{}","optional":true}})", module);
        };
        const auto line = [](const std::string& module, int version, const std::vector<std::string>& needs,
                             const std::vector<std::string>& conflicts) {
            return fmt::format(R"({{"module":"{}","version":"{}.0.0","dependencies":[{}],"conflicts":[{}]}})", module,
                               version, fmt::join(needs, ","), fmt::join(conflicts, ","));
        };
        std::vector<std::string> lines = {line("app", 1, {optional("many"), optional("few")}, {}),
                                          line("few", 1, {need("place0"), optional("many")}, {})};
        std::vector<std::string> all;
        for (int i = 0; i <= versions; ++i) {
            all.push_back(need(fmt::format("place{}", i)));
            for (int version = 1; version <= versions; ++version) {
                std::vector<std::string> others;
                for (int other = 0; other <= versions; ++other)
                    if (other != i)
                        others.push_back(
                            fmt::format(R"({{"module":"place{}","versions":"={}.0.0"}})", other, version));
                lines.push_back(line(fmt::format("place{}", i), version, {}, others));
            }
        }
        lines.push_back(line("many", 1, all, {}));
        return joined(lines);
    };
    for (const auto& [versions, steps, is_open] :
         std::vector<std::tuple<int, std::string, bool>>{{4, "", false}, {14, "", true}, {14, "5", true}}) {
        const Driver driver;
        driver.write("c.jsonl", catalogue(versions));
        std::vector<std::string> arguments = {"resolve", "--catalogue", "c.jsonl", "--root", "app"};
        if (!steps.empty()) arguments.insert(arguments.end(), {"--steps", steps});
        const auto run = driver.envar(arguments);
        CHECK(run.status == 0);
        CHECK((run.errors.find("optional modules (many) may fit too") != std::string::npos) == is_open);
        const json resolved = json::parse(driver.read("envar-results/resolve.json"));
        CHECK(resolved.value("unproven", 0) == (is_open ? 1 : 0));
        CHECK(resolved["selected"].size() == 3);  // app, few, place0
        CHECK(resolved["selected"][2]["version"] == fmt::format("{}.0.0", versions));
    }
    // Who stops it meanwhile gets nothing that depends on when that was.
    const Driver driver;
    driver.write("c.jsonl", catalogue(14));
    const auto stopped =
        driver.envar_with({}, {"resolve", "--catalogue", "c.jsonl", "--root", "app", "--steps", "1000000000"}, ".",
                          {"/usr/bin/timeout", "--preserve-status", "-s", "INT", "2"});
    CHECK(stopped.status == 3);
    CHECK_MESSAGE(stopped.errors.find("the search was stopped") != std::string::npos, stopped.errors);
}

TEST_CASE("what a catalogue gets wrong is told with its line, and the rest is used") {
    const Driver driver;
    driver.write("c.jsonl", R"({"module":"a","version":"1.0.0","dependencies":[{"module":"b","versions":">=1"}]})"
                            "\n"
                            R"({"module":"b","version":"1.0.0"})"
                            "\n"
                            R"({"module":"b","version":"2.0.0","dependencies":[{"module":"c)"
                            "\n"
                            R"({"module":"b","version":"1.0.0","colour":"red"})"
                            "\n"
                            R"({"module":"b","version":"1.x"})"
                            "\n");
    const auto run = driver.envar({"resolve", "--catalogue", "c.jsonl", "--root", "a"});
    CHECK(run.status == 0);
    for (const std::string message : {"c.jsonl:3: the line is no whole JSON object [EV914]",
                                      "c.jsonl:4: `colour` is no key of a catalogue line [EV917]",
                                      "c.jsonl:5: `1.x` is no version of b [EV914]", "b 1.0.0 stands twice [EV918]"})
        CHECK_MESSAGE(run.errors.find(message) != std::string::npos, run.errors);
    for (const auto& [arguments, status, message] :
         std::vector<std::tuple<std::vector<std::string>, int, std::string>>{
             {{"--root", "nobody"}, 1, "the catalogue holds no module `nobody`"},
             {{"--root", "a =>1"}, 2, "in `a =>1`"},
             {{"--root", "a >=2"}, 1, "but there is only a 1.0.0"},
             {{"--root", "a =2 | =3"}, 1, "ask for a `=1.0.0`"},
             {{"--stage", "run"}, 2, "`run` is no stage"},
             {{"--prefer", "best"}, 2, "`best` is neither newest nor oldest"}}) {
        auto all = std::vector<std::string>{"resolve", "--catalogue", "c.jsonl"};
        all.insert(all.end(), arguments.begin(), arguments.end());
        const auto bad = driver.envar(all);
        CHECK(bad.status == status);
        CHECK_MESSAGE((bad.output + bad.errors).find(message) != std::string::npos, bad.output, bad.errors);
    }
    CHECK(driver.envar({"resolve", "--catalogue", "nobody.jsonl"}).status == 3);
    CHECK(driver.envar({"resolve", "--catalogue", "."}).status == 3);
}

TEST_CASE("order: the reverse, circles with their places, the longest chain, a deep one") {
    const Driver driver;
    driver.write("c.jsonl", R"({"module":"a","version":"1.0.0","dependencies":[{"module":"b"}]})"
                            "\n"
                            R"({"module":"b","version":"1.0.0","dependencies":[{"module":"c"}]})"
                            "\n"
                            R"({"module":"c","version":"1.0.0"})"
                            "\n"
                            R"({"module":"x","version":"1.0.0","dependencies":[{"module":"y"}]})"
                            "\n"
                            R"({"module":"y","version":"1.0.0","dependencies":[{"module":"x"},{"module":"z"}]})"
                            "\n"
                            R"({"module":"z","version":"1.0.0","dependencies":[{"module":"y"},{"module":"a"}]})"
                            "\n");
    CHECK(driver.envar({"order", "--catalogue", "c.jsonl", "--root", "a", "--stop"}).status == 0);
    auto result = json::parse(driver.read("envar-results/order.json"));
    CHECK(result["order"][0]["module"] == "a");
    CHECK(result["order"][0]["position"] == 1);
    const auto run = driver.envar({"order", "--catalogue", "c.jsonl"});
    CHECK(run.status == 1);
    CHECK_MESSAGE(run.output.find("circle: x needs y needs x\n  x needs y (c.jsonl:4)\n  y needs x (c.jsonl:5)\n"
                                  "  the shortest circle of 3 modules that need each other") != std::string::npos,
                  run.output);
    CHECK(run.output.find("longest chain: c → b → a") != std::string::npos);
    std::string text;
    for (int i = 0; i < 200000; ++i)
        text += fmt::format(R"({{"module":"m{}","version":"1.0.0","dependencies":[{{"module":"m{}"}}]}})"
                            "\n",
                            i, i + 1);
    driver.write("deep.jsonl", text + R"({"module":"m200000","version":"1.0.0"})"
                                      "\n");
    CHECK(driver.envar({"order", "--catalogue", "deep.jsonl", "--root", "m0", "--quiet"}).status == 0);
    result = json::parse(driver.read("envar-results/order.json"));
    CHECK(result["order"].size() == 200001);
    CHECK(result["longest"].size() == 200001);
}
