// However many threads do the work, the same bytes come out; and a result that says the same is not written anew.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <thread>

#include "tests/support/driver.hpp"

using namespace envar;
using tests::Driver;
using tests::Run;

namespace {

/// Sixty modules of three hosts, every third of which has something to be told.
void lay_out(const Driver& driver) {
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    std::string searches;
    for (const std::string host : {"lua", "python", "bash"}) {
        searches += fmt::format("\n[[search]]\nhost = \"{0}\"\nfolder = \"{0}\"\n", host);
        const std::string entry = host == "lua" ? "init.lua" : host == "python" ? "__init__.py" : "";
        for (int i = 0; i < 20; ++i) {
            const std::string name = fmt::format("{}_m{}", host, i);
            const std::string folder = fmt::format("w/{}/{}/", host, name);
            std::string members;
            if (i % 3 != 0) members = "\n[[member]]\nname = \"place\"\nsummary = \"Places.\"\n";
            driver.write(folder + "module.envar.toml",
                         fmt::format("[module]\nname = \"{}\"\nversion = \"1.{}.0\"\nhost = \"{}\"\nsummary = "
                                     "\"Stars.\"\n{}",
                                     name, i, host, members));
            std::string code;
            for (int f = 0; f < 1 + i * 5; ++f)
                code += host == "lua"      ? fmt::format("function M.f{}(a, b) end\n", f)
                        : host == "python" ? fmt::format("def f{}(a, b=1):\n    pass\n\n", f)
                                           : fmt::format("f{}() {{ :; }}\n", f);
            code += host == "lua"      ? "function M.place() end\nreturn M\n"
                    : host == "python" ? "def place():\n    pass\n"
                                       : "place() { :; }\n";
            driver.write(folder + (entry.empty() ? name + ".bash" : entry),
                         (host == "lua" ? "local M = {}\n" : "") + code);
        }
    }
    driver.write("w/workspace.envar.toml", "[workspace]\nname = \"w\"\n" + searches);
    for (int i = 0; i < 40; ++i)
        driver.write(fmt::format("scripts/s{}.sh", i),
                     fmt::format("f{0}() {{ g{1}; echo {0}; }}\ng{1}() {{ echo same; }}\n", i, i % 7));
}

}  // namespace

TEST_CASE("the same bytes with one thread and with many") {
    const Driver driver;
    lay_out(driver);
    for (const auto& command :
         std::vector<std::vector<std::string>>{{"check"},
                                               {"members"},
                                               {"members", "--internal"},
                                               {"members", "--sync", "--dry-run"},
                                               {"modules"},
                                               {"order"},
                                               {"gather", "--list", "--host", "bash", "--from", "../scripts"}}) {
        CAPTURE(fmt::format("{}", fmt::join(command, " ")));
        std::vector<std::string> outputs, results;
        for (const std::string jobs : {"1", "2", "3", "16"}) {
            std::vector<std::string> arguments = command;
            arguments.insert(arguments.end(), {"--jobs", jobs});
            const Run run = driver.envar(arguments, "w");
            CHECK_MESSAGE(run.status <= 1, run.errors);
            CHECK(!run.output.empty());
            outputs.push_back(run.output + run.errors);
            const std::string result = "w/envar-results/" + command[0] + ".json";
            results.push_back(driver.has(result) ? driver.read(result) : "");
        }
        for (std::size_t i = 1; i < outputs.size(); ++i) {
            CHECK(outputs[i] == outputs[0]);
            CHECK(results[i] == results[0]);
        }
    }
}

TEST_CASE("a result that says the same is not written anew, and no part of one is ever seen") {
    const Driver driver;
    lay_out(driver);
    const std::filesystem::path result = driver / "w/envar-results/members.json";
    CHECK(driver.envar({"members"}, "w").status == 1);
    const auto first = std::filesystem::last_write_time(result);
    const std::string before = driver.read("w/envar-results/members.json");
    std::this_thread::sleep_for(std::chrono::milliseconds(20));
    CHECK(driver.envar({"members"}, "w").status == 1);
    CHECK(std::filesystem::last_write_time(result) == first);
    driver.write("w/lua/lua_m1/init.lua", "local M = {}\nfunction M.other() end\nreturn M\n");
    CHECK(driver.envar({"members"}, "w").status == 1);
    CHECK(std::filesystem::last_write_time(result) != first);
    CHECK(driver.read("w/envar-results/members.json") != before);
    // What was left of a run that was ended stands in nobody's way.
    driver.write("w/envar-results/.members.json.envar-new", "half of a");
    driver.write("w/envar-results/members.json", "{\"damaged\":");
    CHECK(driver.envar({"members"}, "w").status == 1);
    CHECK(driver.read("w/envar-results/members.json").starts_with("{\n  \"modules\""));
    CHECK(!driver.has("w/envar-results/.members.json.envar-new"));
}
