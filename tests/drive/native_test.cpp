// Native modules, driven through the real build systems: what is scaffolded builds, is tested, installed and found.
#include <doctest/doctest.h>

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "tests/support/native.hpp"

using namespace envar::tests;
using nlohmann::json;

TEST_CASE("every native blueprint builds, passes its tests, is installed and is found, in every build system") {
    for (const auto& host : systems) {
        CAPTURE(host);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const std::string hard = "summary=\"quoted\" 'twice' \\ $HOME ${x} #no */ @at@ {{y}}\nnext; line";
        scaffold(driver, "plain", host, "library",
                 {"--set", "kind=static", "--set", hard, "--member", "turn(angle)"});
        scaffold(driver, "joint", host, "library", {"--set", "kind=shared", "--set", hard, "--member", "bend(a, b)"});
        scaffold(driver, "folded", host, "headers", {"--set", hard, "--member", "fold(a)"});
        scaffold(driver, "tool", host, "program", {"--set", hard});
        scaffold(driver, "guest", host, "plugin", {"--set", hard});
        scaffold(driver, "heart", host, "core", {"--set", "kind=static", "--set", hard});
        scaffold(driver, "soul", host, "core", {"--set", "kind=shared", "--set", hard});
        const Run check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.status == 0, check.output);
        const auto before = driver.tree("w/native");
        const Run trial = driver.envar_with({{"CXXFLAGS", strict}}, {"trial", "--tests", "--format", "json"}, "w");
        CHECK_MESSAGE(trial.status == 0, trial.errors);
        const json result = json::parse(trial.output, nullptr, false);
        REQUIRE(result.is_object());
        const json& modules = result["hosts"][0]["modules"];
        CHECK(modules.size() == 7);
        for (const auto& module : modules) {
            CHECK_MESSAGE(module["agrees"] == true, module.dump());
            const std::string name = module["module"];
            const bool library = name != "tool" && name != "guest";
            CHECK_MESSAGE(module["version"] == (library ? "0.1.0" : ""), name);
            CHECK_MESSAGE((module["picked_file"].get<std::string>().find(name) != std::string::npos) == library,
                          name);
        }
        CHECK(result["hosts"][0]["tests"].size() == 7);
        for (const auto& test : result["hosts"][0]["tests"]) CHECK_MESSAGE(test["passed"] == true, test.dump());
        CHECK(driver.tree("w/native") == before);  // nothing was built in the source tree
    }
}

TEST_CASE("a public dependency reaches who uses the installed module, a private one does not") {
    for (const auto& host : systems)
        for (const std::string kind : {"static", "shared"}) {
            CAPTURE(host);
            CAPTURE(kind);
            const Driver driver;
            chain(driver, host, kind);
            const Run check = driver.envar({"check"}, "w");
            CHECK_MESSAGE(check.status == 0, check.output);
            // Each into a prefix of its own, so that no header is found by luck.
            std::string paths, configs;
            for (const std::string name : {"near", "middle", "far"}) {
                const std::string source = path_of(driver, "w/native/" + name);
                const std::string build = path_of(driver, "b/" + name);
                const std::string prefix = path_of(driver, "p/" + name);
                const envar::process::Environment with = {{"PKG_CONFIG_PATH", paths}, {"CXXFLAGS", strict}};
                const auto step = [&](const std::vector<std::string>& words) {
                    const Run run = driver.program(words, with);
                    CHECK_MESSAGE(run.status == 0, words[0], " ", name, ": ", run.output, run.errors);
                };
                if (host == "cmake") {
                    step({"cmake", "-S", source, "-B", build, "-DCMAKE_INSTALL_PREFIX=" + prefix,
                          "-DCMAKE_INSTALL_LIBDIR=lib", "-DCMAKE_PREFIX_PATH=" + configs, "-DBUILD_TESTING=OFF"});
                    step({"cmake", "--build", build});
                    step({"cmake", "--install", build});
                } else if (host == "meson") {
                    step({"meson", "setup", build, source, "--prefix", prefix, "--libdir", "lib"});
                    step({"meson", "install", "-C", build});
                } else {
                    step({"make", "-C", source, "BUILD=" + build, "PREFIX=" + prefix, "install"});
                }
                paths += (paths.empty() ? "" : ":") + prefix + "/lib/pkgconfig";
                configs += (configs.empty() ? "" : ";") + prefix;
            }
            struct Row {
                std::string name, header;
                bool reached;
            };
            for (const Row& row : {Row{"middle", "near/near.hpp", true}, Row{"far", "middle/middle.hpp", false}}) {
                CAPTURE(row.name);
                const std::string main = "#include <" + row.name + "/" + row.name + ".hpp>\n#include <" + row.header +
                                         ">\nint main() { return " + row.name + "::version().empty(); }\n";
                driver.write("c/main.cpp", main);
                if (host == "cmake") {
                    driver.write("c/CMakeLists.txt",
                                 "cmake_minimum_required(VERSION 3.23)\nproject(c CXX)\nfind_package(" + row.name +
                                     " 0.1 CONFIG REQUIRED)\nadd_executable(c main.cpp)\n"
                                     "target_link_libraries(c " +
                                     row.name + "::" + row.name + ")\n");
                    driver.remove("c/b");
                    const Run found = driver.program({"cmake", "-S", path_of(driver, "c"), "-B",
                                                      path_of(driver, "c/b"), "-DCMAKE_PREFIX_PATH=" + configs});
                    CHECK_MESSAGE(found.status == 0, found.errors);
                    const Run built = driver.program({"cmake", "--build", path_of(driver, "c/b")});
                    CHECK_MESSAGE((built.status == 0) == row.reached, built.output);
                    if (row.reached) CHECK(driver.program({path_of(driver, "c/b/c")}).status == 0);
                    continue;
                }
                const envar::process::Environment with = {{"PKG_CONFIG_PATH", paths}};
                const Run flags = driver.program({"pkg-config", "--cflags", row.name}, with);
                CHECK(flags.status == 0);
                const bool reached =
                    flags.output.find(path_of(driver, "p/" + row.header.substr(0, row.header.find('/')))) !=
                    std::string::npos;
                // What a .pc file requires privately for a static library is public to the compiler all the same.
                if (row.reached || kind == "shared") CHECK_MESSAGE(reached == row.reached, flags.output);
            }
        }
}

TEST_CASE("a version that does not fit is refused by each build system itself") {
    for (const auto& host : systems) {
        CAPTURE(host);
        const Driver driver;
        chain(driver, host, "static");
        replace_in(driver, "w/native/middle/module.envar.toml", ">=1.1, <2", ">=1.3, <2");
        CHECK(driver.envar({"emit"}, "w").status == 0);
        CHECK(has(codes_of(driver), "EV304"));
        // In one tree, where build systems tend to be silent.
        const std::string root = path_of(driver, "w");
        const std::string build = path_of(driver, "b");
        const Run run = host == "cmake"   ? driver.program({"cmake", "-S", root, "-B", build})
                        : host == "meson" ? driver.program({"meson", "setup", build, root})
                                          : driver.program({"make", "-C", root, "BUILD=" + build});
        CHECK(run.status != 0);
        const std::string said = run.output + run.errors;
        CHECK_MESSAGE(said.find("near") != std::string::npos, said);
        CHECK_MESSAGE(said.find("1.2.0") != std::string::npos, said);
        // And alone, against what is installed.
        const std::string prefix = path_of(driver, "p");
        const envar::process::Environment with = {{"PKG_CONFIG_PATH", prefix + "/lib/pkgconfig"}};
        const auto install = [&](const std::string& name) {
            const std::string source = path_of(driver, "w/native/" + name);
            const std::string at = path_of(driver, "alone/" + name);
            if (host == "make")
                return driver.program({"make", "-C", source, "BUILD=" + at, "PREFIX=" + prefix, "install"}, with);
            const Run set =
                host == "cmake"
                    ? driver.program({"cmake", "-S", source, "-B", at, "-DCMAKE_PREFIX_PATH=" + prefix,
                                      "-DCMAKE_INSTALL_PREFIX=" + prefix, "-DCMAKE_INSTALL_LIBDIR=lib"})
                    : driver.program({"meson", "setup", at, source, "--prefix", prefix, "--libdir", "lib"}, with);
            if (set.status != 0) return set;
            if (host == "meson") return driver.program({"meson", "install", "-C", at}, with);
            const Run built = driver.program({"cmake", "--build", at});
            return built.status != 0 ? built : driver.program({"cmake", "--install", at});
        };
        const Run near = install("near");
        CHECK_MESSAGE(near.status == 0, near.output, near.errors);
        const Run middle = install("middle");
        CHECK(middle.status != 0);
        const std::string refused = middle.output + middle.errors;
        CHECK_MESSAGE(refused.find("near") != std::string::npos, refused);
        CHECK_MESSAGE(refused.find("1.2.0") != std::string::npos, refused);
    }
}

TEST_CASE(
    "the workspace's descriptor builds all modules or those of one target, and a second emit rebuilds nothing") {
    for (const auto& host : systems) {
        CAPTURE(host);
        const Driver driver;
        chain(driver, host, "static");
        scaffold(driver, "aside", host, "program");
        driver.write("w/workspace.envar.toml", driver.read("w/workspace.envar.toml") +
                                                   "\n[[target]]\nname = \"viewer\"\nmodules = [\"middle\"]\n");
        CHECK(driver.envar({"emit"}, "w").status == 0);
        CHECK(driver.envar({"check"}, "w").status == 0);
        const std::string root = path_of(driver, "w");
        const auto build = [&](const std::string& folder, const std::string& target) {
            const std::string at = path_of(driver, folder);
            if (host == "cmake") {
                const std::string name = "-DW_TARGET=" + target;
                CHECK(driver.program({"cmake", "-S", root, "-B", at, name}).status == 0);
                return driver.program({"cmake", "--build", at});
            }
            if (host == "meson") {
                const Run set =
                    driver.program({"meson", "setup", at, root, "-Dtarget=" + (target.empty() ? "all" : target)});
                CHECK_MESSAGE(set.status == 0, set.output);
                return driver.program({"meson", "compile", "-C", at});
            }
            return driver.program({"make", "-C", root, "BUILD=" + at, "TARGET=" + target});
        };
        const Run all = build("all", "");
        CHECK_MESSAGE(all.status == 0, all.output, all.errors);
        const Run one = build("one", "viewer");
        CHECK_MESSAGE(one.status == 0, one.output, one.errors);
        const auto made = [&](const std::string& folder, const std::string& file) {
            for (const auto& entry : std::filesystem::recursive_directory_iterator(driver.folder() / folder))
                if (entry.path().filename() == file) return true;
            return false;
        };
        CHECK(made("all", "libfar.a"));
        CHECK(made("all", "aside"));
        CHECK(made("one", "libmiddle.a"));
        CHECK(made("one", "libnear.a"));
        CHECK(!made("one", "libfar.a"));
        // A second emit leaves every file's time alone, so that nothing is built again.
        const auto object = std::filesystem::last_write_time(driver.folder() / "w/native/near" /
                                                             (host == "cmake"   ? "CMakeLists.txt"
                                                              : host == "meson" ? "meson.build"
                                                                                : "Makefile"));
        const Run again = driver.envar({"emit"}, "w");
        CHECK(again.output.find("nothing to change") != std::string::npos);
        CHECK(std::filesystem::last_write_time(driver.folder() / "w/native/near" /
                                               (host == "cmake"   ? "CMakeLists.txt"
                                                : host == "meson" ? "meson.build"
                                                                  : "Makefile")) == object);
        const Run idle = host == "cmake"   ? driver.program({"cmake", "--build", path_of(driver, "all")})
                         : host == "meson" ? driver.program({"meson", "compile", "-C", path_of(driver, "all")})
                                           : driver.program({"make", "-C", root, "BUILD=" + path_of(driver, "all")});
        CHECK(idle.status == 0);
        for (const auto* word : {"Building CXX", "Compiling", "g++", "c++ "})
            CHECK_MESSAGE(idle.output.find(word) == std::string::npos, idle.output);
    }
}

TEST_CASE("one manifest is emitted for all three build systems, with conditions and further sources") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    scaffold(driver, "base", "cmake", "library", {"--module-version", "2.1.0"});
    scaffold(driver, "clock", "cmake", "library", {"--depend", "base compatible 2.0"});
    driver.write("w/workspace.envar.toml",
                 driver.read("w/workspace.envar.toml") + "\n[[target]]\nname = \"viewer\"\nmodules = [\"clock\"]\n");
    replace_in(driver, "w/workspace.envar.toml", "[workspace]\n",
               "[workspace]\nplatforms = [\"linux\", \"windows\"]\n");
    for (const std::string name : {"base", "clock"})
        replace_in(driver, "w/native/" + name + "/module.envar.toml", "kind = \"static\"",
                   "kind = \"static\"\ndescriptors = [\"meson\", \"make\"]");
    driver.write("w/native/clock/module.envar.toml",
                 driver.read("w/native/clock/module.envar.toml") +
                     "\n[[native.part]]\nwhen = { platform = [\"windows\"] }\nsources = [\"src/clock_windows.cpp\"]\n"
                     "\n[[native.part]]\nwhen = { platform = [\"linux\"], target = [\"!none\"] }\n"
                     "sources = [\"src/clock_linux.cpp\"]\ndefines = [\"HAS_CLOCK=1\"]\n");
    replace_in(driver, "w/native/clock/module.envar.toml", "!none", "viewer");
    driver.write("w/native/clock/src/clock_windows.cpp", "#error this is no Windows\n");
    driver.write("w/native/clock/src/clock_linux.cpp",
                 "#include \"base/base.hpp\"\nint clock_ticks() { return HAS_CLOCK; }\n");
    replace_in(driver, "w/native/clock/src/clock.cpp", "return \"0.1.0\"",
               "return clock_ticks() == 1 ? \"0.1.0\" : \"\"");
    replace_in(driver, "w/native/clock/src/clock.cpp", "namespace clock {",
               "int clock_ticks();\n\nnamespace clock {");
    for (const std::string name : {"base", "clock"})
        for (const std::string& file :
             std::vector<std::string>{"include/" + name + "/" + name + ".hpp", "src/" + name + ".cpp",
                                      "tests/" + name + "_test.cpp", "examples/" + name + "_example.cpp"}) {
            // `clock` is a function of the C library, so the namespace needs another name.
            std::string text = driver.read("w/native/" + name + "/" + file);
            for (std::size_t at = text.find("clock::"); at != std::string::npos; at = text.find("clock::", at + 8))
                text.replace(at, 7, "ticker::");
            for (std::size_t at = text.find("namespace clock"); at != std::string::npos;
                 at = text.find("namespace clock"))
                text.replace(at, 15, "namespace ticker");
            driver.write("w/native/" + name + "/" + file, text);
        }
    CHECK(driver.envar({"emit"}, "w").status == 0);
    const Run check = driver.envar({"check"}, "w");
    CHECK_MESSAGE(check.status == 0, check.output);
    const std::string root = path_of(driver, "w");
    const auto fine = [&](const std::vector<std::string>& words) {
        const Run run = driver.program(words, {{"CXXFLAGS", strict}});
        CHECK_MESSAGE(run.status == 0, words[0], ": ", run.output, run.errors);
    };
    fine({"cmake", "-S", root, "-B", path_of(driver, "b1"), "-DW_TARGET=viewer"});
    fine({"cmake", "--build", path_of(driver, "b1")});
    fine({"ctest", "--test-dir", path_of(driver, "b1"), "--output-on-failure"});
    fine({"meson", "setup", path_of(driver, "b2"), root, "-Dtarget=viewer"});
    fine({"meson", "test", "-C", path_of(driver, "b2")});
    fine({"make", "-C", root, "BUILD=" + path_of(driver, "b3"), "TARGET=viewer", "check"});
}

TEST_CASE("a parameter that changes in the manifest changes in every front, and values out of bounds are refused") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    scaffold(driver, "heart", "make", "core");
    replace_in(driver, "w/native/heart/module.envar.toml", "name = \"factor\"", "name = \"gain\"");
    replace_in(driver, "w/native/heart/module.envar.toml", "least = 0\n", "least = 0\nmost = 10\n");
    replace_in(driver, "w/native/heart/src/heart.cpp", "settings.factor", "settings.gain");
    replace_in(driver, "w/native/heart/tests/heart_test.cpp", "settings.factor", "settings.gain");
    CHECK(has(codes_of(driver), "EV502"));
    CHECK(driver.envar({"emit"}, "w").status == 0);
    const std::string source = path_of(driver, "w/native/heart");
    const std::string build = path_of(driver, "b");
    const Run made = driver.program({"make", "-C", source, "BUILD=" + build, "check"}, {{"CXXFLAGS", strict}});
    CHECK_MESSAGE(made.status == 0, made.output, made.errors);
    struct Row {
        std::vector<std::string> words;
        int status;
        std::string says;
    };
    for (const Row& row : std::vector<Row>{{{"--value", "3", "--gain=2"}, 0, "result 6"},
                                           {{"--value=3"}, 0, "result 3"},
                                           {{"--gain", "2"}, 2, "--value must be given"},
                                           {{"--value", "3", "--gain", "11"}, 2, "--gain must be at most 10"},
                                           {{"--value", "x"}, 2, "`x` is no value for --value"},
                                           {{"--factor", "3"}, 2, "there is no option `--factor`"},
                                           {{"--value"}, 2, "--value needs a value"},
                                           {{"--help"}, 0, "--gain number"}}) {
        std::vector<std::string> words = {build + "/command/heart"};
        words.insert(words.end(), row.words.begin(), row.words.end());
        const Run run = driver.program(words);
        CHECK_MESSAGE(run.status == row.status, run.output, run.errors);
        CHECK_MESSAGE((run.output + run.errors).find(row.says) != std::string::npos, run.output, run.errors);
    }
    for (const auto& [call, says] : std::map<std::string, std::string>{
             {"print(h.run{value = 3, gain = 2}.result)", "6.0"},
             {"print(pcall(h.run, {value = 3, gain = 11}))", "false\t`gain` must be at most 10"},
             {"print(pcall(h.run, {gain = 1}))", "false\t`value` must be given"},
             {"print(pcall(h.run, {value = 'x'}))", "false\t`value` is unknown or of another type"},
             {"print(pcall(h.run, 7))", "false\tbad argument #1"},
             {"print(h.version)", "0.1.0"}}) {
        const Run run = driver.program(
            {"lua5.4", "-e", "package.cpath = '" + build + "/binding/?.so' local h = require 'heart' " + call});
        CHECK_MESSAGE(run.status == 0, run.errors);
        const auto& about = call;
        CHECK_MESSAGE(run.output.find(says) == 0, about, ": ", run.output);
    }
}
