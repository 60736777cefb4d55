// What a full disk, a failing disk and a killed process leave behind: the state before or the state after,
// never anything between, and a workspace that goes on working.
#include <doctest/doctest.h>

#include <set>

#include "tests/support/driver.hpp"

using namespace envar::tests;

namespace {

using Tree = std::map<std::string, std::string>;

struct Command {
    std::string name;
    std::vector<std::string> arguments;
};

const std::vector<Command> commands = {
    {"scaffold", {"scaffold", "moon_phase", "--host", "lua", "--depend", "sidereal >=1"}},
    {"depend", {"depend", "star_field", "legends >=0.1", "--public"}},
    {"schema", {"schema", "--point"}},
    {"emit", {"emit"}},
    {"clean", {"emit", "--clean"}},
    {"undo", {"undo"}},
    {"resolve", {"resolve"}},
};

/// The demo workspace with some history, as the command finds it.
void prepare(const Driver& driver, const std::string& name) {
    driver.remove("start");
    driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "start");
    // Without compiled modules and engines: each file more is a dozen moments more, at each of which each command
    // runs.
    for (const auto* folder : {"native", "dome", "mods"}) driver.remove(std::string("start/") + folder);
    std::string workspace = driver.read("start/workspace.envar.toml");
    for (const std::string word : {", \"native\"", ", \"projection\"", ", \"refraction\"", ", \"dome\", \"mods\"",
                                   ", \"caption_overlay\", \"star_pool\"", "\"show_runner\", \"caption_overlay\", ",
                                   ", \"show_runner\"", "[[search]]\nhost = \"dome\"\nfolder = \"dome\"\n\n",
                                   "[[search]]\nhost = \"minetest\"\nfolder = \"mods\"\n\n"})
        workspace.erase(workspace.find(word), word.size());
    driver.write("start/workspace.envar.toml", workspace);
    if (name == "schema") {
        const std::string manifest = driver.read("start/lua/legends/module.envar.toml");
        driver.write("start/lua/legends/module.envar.toml", manifest.substr(manifest.find('\n') + 1));
    }
    if (name != "emit") CHECK(driver.envar({"emit"}, "start").status == 0);
    if (name == "undo") CHECK(driver.envar({"depend", "legends", "sidereal any"}, "start").status == 0);
}

void begin_again(const Driver& driver) {
    driver.remove("w");
    driver.copy_from(driver / "start", "w");
}

Tree without_identities(Tree tree) {
    for (auto& [name, text] : tree) {
        const std::size_t at = text.find("identity = \"");
        if (name.find("moon_phase") != std::string::npos && at != std::string::npos) text.replace(at + 12, 36, "-");
    }
    return tree;
}

}  // namespace

TEST_CASE("whatever goes wrong at whatever moment, a change happens whole or not at all") {
    const Driver driver;
    for (const Command& command : commands) {
        prepare(driver, command.name);
        begin_again(driver);
        const Tree before = without_identities(driver.tree("w"));
        REQUIRE(driver.envar(command.arguments, "w").status == 0);
        const Tree after = without_identities(driver.tree("w"));
        CHECK((before != after || command.name == "resolve"));
        for (const std::string mode : {"full", "fail", "kill"}) {
            int faults = 0;
            for (int at = 1; at < 400; ++at) {
                CAPTURE(command.name);
                CAPTURE(mode);
                CAPTURE(at);
                begin_again(driver);
                driver.remove("fault");
                const Run run = driver.envar_with({{"LD_PRELOAD", ENVAR_FAULTS},
                                                   {"ENVAR_FAULT_AT", std::to_string(at)},
                                                   {"ENVAR_FAULT_MODE", mode},
                                                   {"ENVAR_FAULT_LOG", (driver / "fault").string()}},
                                                  command.arguments, "w");
                if (!driver.has("fault")) break;
                ++faults;
                if (mode == "kill") {
                    CHECK(run.status == 137);
                    CHECK(driver.envar({"modules"}, "w").status == 0);  // the next command puts things right
                } else if (run.status != 0) {
                    CHECK(run.status == 3);
                    CHECK(run.errors.find("error:") != std::string::npos);
                }
                const Tree now = without_identities(driver.tree("w"));
                const bool whole = now == before || now == after;
                CHECK_MESSAGE(whole, "the workspace is neither as before nor as after");
                if (run.status == 0) CHECK(now == after);
                if (mode != "kill" && run.status != 0) CHECK_MESSAGE(now == before, run.errors);
                if (now == before && before != after) CHECK(driver.envar(command.arguments, "w").status == 0);
            }
            CHECK_MESSAGE(faults > 8, "the faults did not come about: " << command.name << " " << mode);
        }
    }
}

TEST_CASE("many at once wait for each other") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    std::string script;
    for (int i = 0; i < 12; ++i)
        script += std::string(ENVAR_PROGRAM) + " --workspace w scaffold m" + std::to_string(i) + " --host lua >out" +
                  std::to_string(i) + " 2>&1 & ";
    CHECK(driver.program({"sh", "-c", script + "wait"}).status == 0);
    const Run modules = driver.envar({"modules", "--quiet"}, "w");
    CHECK(std::count(modules.output.begin(), modules.output.end(), '\n') == 13);
    CHECK(driver.envar({"check"}, "w").status == 0);
    const Run history = driver.envar({"history", "--quiet"}, "w");
    CHECK(std::count(history.output.begin(), history.output.end(), '\n') == 14);
}
