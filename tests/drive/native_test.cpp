// Native modules, driven through the real build systems: what is scaffolded builds, is tested, installed and found;
// and what build systems are silent about is told by check.
#include <doctest/doctest.h>

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

const std::vector<std::string> systems = {"cmake", "meson", "make"};
const std::string strict = "-Wall -Wextra -Werror";

void scaffold(const Driver& driver, const std::string& name, const std::string& host, const std::string& blueprint,
              const std::vector<std::string>& more = {}) {
    std::vector<std::string> words = {"scaffold", name, "--host", host, "--blueprint", blueprint, "--in", "native"};
    words.insert(words.end(), more.begin(), more.end());
    const Run run = driver.envar(words, "w");
    CHECK_MESSAGE(run.status == 0, name, ": ", run.errors);
}

void replace_in(const Driver& driver, const std::string& file, const std::string& from, const std::string& to) {
    std::string text = driver.read(file);
    REQUIRE_MESSAGE(text.find(from) != std::string::npos, file, " holds no ", from);
    text.replace(text.find(from), from.size(), to);
    driver.write(file, text);
}

/// near ← middle (public) ← far (private), each using the one before.
void chain(const Driver& driver, const std::string& host, const std::string& kind) {
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    const std::string set = "kind=" + kind;
    scaffold(driver, "near", host, "library", {"--set", set, "--module-version", "1.2.0"});
    scaffold(driver, "middle", host, "library", {"--set", set, "--depend", "near >=1.1, <2"});
    scaffold(driver, "far", host, "library", {"--set", set, "--depend", "middle any"});
    CHECK(driver.envar({"depend", "middle", "near >=1.1, <2", "--public"}, "w").status == 0);
    replace_in(driver, "w/native/middle/include/middle/middle.hpp", "#include <string>",
               "#include <string>\n\n#include \"near/near.hpp\"");
    replace_in(driver, "w/native/middle/src/middle.cpp", "return \"0.1.0\"",
               "return near::version().empty() ? \"\" : \"0.1.0\"");
    replace_in(driver, "w/native/far/src/far.cpp", "#include \"far/far.hpp\"",
               "#include \"far/far.hpp\"\n\n#include \"middle/middle.hpp\"");
    replace_in(driver, "w/native/far/src/far.cpp", "return \"0.1.0\"",
               "return middle::version().empty() ? \"\" : \"0.1.0\"");
    CHECK(driver.envar({"emit"}, "w").status == 0);
}

std::vector<std::string> codes_of(const Driver& driver) {
    const Run run = driver.envar({"check", "--format", "json"}, "w");
    const json result = json::parse(run.output, nullptr, false);
    REQUIRE_MESSAGE(result.is_object(), run.output, run.errors);
    std::vector<std::string> codes;
    for (const auto& finding : result["findings"]) codes.push_back(finding["code"]);
    return codes;
}

bool has(const std::vector<std::string>& codes, const std::string& code) {
    return std::find(codes.begin(), codes.end(), code) != codes.end();
}

std::string path_of(const Driver& driver, const std::string& inner) { return (driver.folder() / inner).string(); }

}  // namespace

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
        CHECK_MESSAGE(run.output.find(says) == 0, call, ": ", run.output);
    }
}

TEST_CASE("what build systems are silent about is told") {
    struct Row {
        std::string what, code;
        std::function<void(const Driver&)> plant;
    };
    const std::string middle = "w/native/middle/";
    const std::vector<Row> rows = {
        {"a dependency that is not declared", "EV901",
         [&](const Driver& d) {
             replace_in(d, "w/native/near/src/near.cpp", "#include", "#include \"far/far.hpp\"\n#include");
         }},
        {"a public dependency made private", "EV902",
         [&](const Driver& d) { replace_in(d, middle + "module.envar.toml", "visibility = \"public\"\n", ""); }},
        {"a private dependency made public", "EV903",
         [&](const Driver& d) {
             replace_in(d, "w/native/far/module.envar.toml", "module = \"middle\"",
                        "module = \"middle\"\nvisibility = \"public\"");
         }},
        {"a dependency that is not used", "EV904",
         [&](const Driver& d) { replace_in(d, "w/native/far/src/far.cpp", "#include \"middle/middle.hpp\"", ""); }},
        {"a header that is nowhere", "EV905",
         [&](const Driver& d) { replace_in(d, middle + "src/middle.cpp", "middle.hpp\"", "midle.hpp\""); }},
        {"a private header of another module", "EV906",
         [&](const Driver& d) {
             d.write("w/native/near/src/table.hpp", "#ifndef NEAR_TABLE_HPP\n#define NEAR_TABLE_HPP\n#endif\n");
             replace_in(d, middle + "src/middle.cpp", "#include", "#include \"../../near/src/table.hpp\"\n#include");
         }},
        {"a source that no list has", "EV907",
         [&](const Driver& d) { d.write(middle + "src/more.cpp", "int more() { return 1; }\n"); }},
        {"a source that the manifest does not list", "EV907",
         [&](const Driver& d) {
             d.write(middle + "src/more.cpp", "int more() { return 1; }\n");
             replace_in(d, middle + "module.envar.toml", "kind = \"static\"",
                        "kind = \"static\"\nsources = [\"src/middle.cpp\"]");
         }},
        {"a public header that the manifest does not list", "EV907",
         [&](const Driver& d) {
             d.write(middle + "include/middle/more.hpp", "#pragma once\n");
             replace_in(d, middle + "module.envar.toml", "kind = \"static\"",
                        "kind = \"static\"\npublic_headers = [\"include/middle/middle.hpp\", \"include/middle.hpp\", "
                        "\"include/middle/export.hpp\"]");
         }},
        {"a source that is gone", "EV908",
         [&](const Driver& d) {
             d.write(middle + "src/more.cpp", "int more() { return 1; }\n");
             CHECK(d.envar({"emit"}, "w").status == 0);
             d.remove(middle + "src/more.cpp");
         }},
        {"a listed source that is gone", "EV209",
         [&](const Driver& d) {
             replace_in(d, middle + "module.envar.toml", "kind = \"static\"",
                        "kind = \"static\"\nsources = [\"src/middle.cpp\", \"src/gone.cpp\"]");
         }},
        {"one program file of two modules", "EV909",
         [&](const Driver& d) {
             for (const std::string name : {"near", "far"})
                 d.write("w/native/" + name + "/module.envar.toml",
                         d.read("w/native/" + name + "/module.envar.toml") +
                             "\n[[front]]\nkind = \"command\"\nname = \"sky\"\n");
         }},
        {"a guard that was kept", "EV909",
         [&](const Driver& d) {
             d.write(middle + "include/middle/more.hpp", "#ifndef NEAR_NEAR_HPP\n#define NEAR_NEAR_HPP\n#endif\n");
         }},
        {"a header path that was kept", "EV909",
         [&](const Driver& d) { d.write(middle + "include/near/near.hpp", "#pragma once\n"); }},
        {"a macro that was kept", "EV909",
         [&](const Driver& d) { d.write(middle + "include/middle/more.hpp", "#pragma once\n#define NEAR_API\n"); }},
        {"a namespace that was kept", "EV909",
         [&](const Driver& d) {
             d.write(middle + "include/middle/more.hpp", "#pragma once\nnamespace far { int more(); }\n");
         }},
        {"an old name in a descriptor", "EV910",
         [&](const Driver& d) { d.write(middle + "cmake/extra.cmake", "# of old\nset(x far)\n"); }},
        {"an old name in the code", "EV910",
         [&](const Driver& d) {
             replace_in(d, "w/native/near/src/near.cpp", "namespace near {", "int FAR_count = 0;\nnamespace near {");
         }},
        {"a system module that is not here", "EV915",
         [&](const Driver& d) {
             d.write(middle + "module.envar.toml",
                     d.read(middle + "module.envar.toml") +
                         "\n[[dependency]]\nmodule = \"dome_light\"\norigin = \"system\"\n");
         }},
        {"a name that CMake cannot list", "EV916",
         [&](const Driver& d) { d.write(middle + "src/a;b.cpp", "int more() { return 1; }\n"); }},
        {"a copied identity", "EV911",
         [&](const Driver& d) {
             const std::string of = d.read(middle + "module.envar.toml");
             const std::string line = of.substr(of.find("identity"), 50);
             std::string to = d.read("w/native/far/module.envar.toml");
             to.replace(to.find("identity"), 50, line);
             d.write("w/native/far/module.envar.toml", to);
         }},
        {"a version in the tree that is too old", "EV304",
         [&](const Driver& d) { replace_in(d, middle + "module.envar.toml", ">=1.1", ">=1.3"); }},
        {"a circle of static libraries", "EV305",
         [&](const Driver& d) {
             d.write("w/native/near/module.envar.toml",
                     d.read("w/native/near/module.envar.toml") + "\n[[dependency]]\nmodule = \"far\"\n");
         }},
    };
    const Driver clean;
    chain(clean, "cmake", "static");
    CHECK(codes_of(clean).empty());
    for (const Row& row : rows) {
        CAPTURE(row.what);
        const Driver driver;
        driver.copy_from(clean.folder() / "w", "w");
        row.plant(driver);
        const auto codes = codes_of(driver);
        CHECK_MESSAGE(has(codes, row.code), row.what, ": ", driver.envar({"check"}, "w").output);
    }
    // What stands under an #if is a hint, and a dependency that is only linked says so.
    const Driver driver;
    driver.copy_from(clean.folder() / "w", "w");
    replace_in(driver, "w/native/near/src/near.cpp", "#include",
               "#ifdef WITH_FAR\n#include \"far/far.hpp\"\n#endif\n#include");
    replace_in(driver, "w/native/far/src/far.cpp", "#include \"middle/middle.hpp\"", "");
    replace_in(driver, "w/native/far/module.envar.toml", "module = \"middle\"",
               "module = \"middle\"\nuses = \"link\"");
    const Run hints = driver.envar({"check"}, "w");
    CHECK_MESSAGE(hints.status == 0, hints.output);
    CHECK(hints.output.find("hint: `far/far.hpp` is of far") != std::string::npos);
}

TEST_CASE("what a script asks for must be declared") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    CHECK(driver.envar({"scaffold", "dusk", "--host", "lua"}, "w").status == 0);
    CHECK(driver.envar({"scaffold", "dawn", "--host", "lua"}, "w").status == 0);
    CHECK(codes_of(driver).empty());
    const std::string entry = driver.read("w/lua/dawn/init.lua");
    driver.write("w/lua/dawn/init.lua", "-- require 'dusk' is no code\nlocal s = [[require 'dusk']]\n" + entry);
    CHECK(codes_of(driver).empty());
    driver.write("w/lua/dawn/init.lua", "local dusk = require 'dusk'\n" + entry);
    CHECK(codes_of(driver) == std::vector<std::string>{"EV901"});
    CHECK(driver.envar({"depend", "dawn", "dusk any"}, "w").status == 0);
    CHECK(codes_of(driver).empty());
}

TEST_CASE("a build that fails is told in the build system's words, beside the manifest's line") {
    for (const auto& host : systems) {
        CAPTURE(host);
        const Driver driver;
        chain(driver, host, "static");
        replace_in(driver, "w/native/middle/module.envar.toml", "kind = \"static\"",
                   "kind = \"static\"\nsources = [\"src/middle.cpp\"]");
        replace_in(driver, "w/native/middle/src/middle.cpp", "namespace middle {",
                   "#error the dome is dark\nnamespace middle {");
        CHECK(driver.envar({"emit"}, "w").status == 0);
        const Run run = driver.envar({"trial"}, "w");
        CHECK(run.status == 1);
        CHECK_MESSAGE(run.output.find("the dome is dark") != std::string::npos, run.output);
        CHECK_MESSAGE(
            run.output.find("native/middle/module.envar.toml:16: the source `src/middle.cpp`") != std::string::npos,
            run.output);
        CHECK_MESSAGE(run.output.find("not built, since middle was not") != std::string::npos, run.output);
        const Run broken = driver.envar_with({{"CXX", "/nonexistent/c++"}}, {"trial", "near"}, "w");
        CHECK(broken.status == 1);
        CHECK_MESSAGE(broken.output.find("/nonexistent/c++") != std::string::npos, broken.output);
        const Run missing = driver.envar_with({{"PATH", "/nonexistent"}}, {"trial"}, "w");
        CHECK(missing.status == 3);
        CHECK_MESSAGE(missing.errors.find("install the package " + host) != std::string::npos, missing.errors);
    }
}

TEST_CASE("a system's library graph is read from its `.pc` files, resolved, ordered and drawn") {
    const Driver driver;
    // 500 files, each requiring the four before it: a walk that goes down every path would never end.
    for (int i = 0; i < 500; ++i) {
        std::string needs;
        for (int j = std::max(0, i - 4); j < i; ++j) needs += " m" + std::to_string(j) + " >= 1.0,";
        driver.write("pc/m" + std::to_string(i) + ".pc", "Name: m\nDescription: of the dome\nVersion: 1.2." +
                                                             std::to_string(i) + "\nRequires:" + needs + "\n");
    }
    driver.write("first/m3-uninstalled.pc", "Version: 7.0\n");
    driver.write("first/m3.pc", "Version: 6.0\n");
    const auto start = std::chrono::steady_clock::now();
    const Run adopted = driver.envar({"adopt", "--catalogue", "c.jsonl", "first", "pc"});
    CHECK_MESSAGE(adopted.status == 0, adopted.errors);
    const Run order = driver.envar({"order", "--catalogue", "c.jsonl", "--root", "m499 >=1.2", "--format", "json"});
    CHECK_MESSAGE(order.status == 0, order.errors);
    const Run resolved = driver.envar({"resolve", "--catalogue", "c.jsonl", "--root", "m4", "--format", "json"});
    CHECK_MESSAGE(resolved.status == 0, resolved.output, resolved.errors);
    CHECK(std::chrono::steady_clock::now() - start < std::chrono::seconds(60));  // it ends; how fast is for bench/
    const json placed = json::parse(order.output, nullptr, false)["order"];
    REQUIRE(placed.size() == 500);
    std::map<std::string, std::size_t> position;
    for (const auto& one : placed) position[one["module"]] = one["position"];
    for (int i = 0; i < 500; ++i)
        for (int j = std::max(0, i - 4); j < i && i != 3; ++j)  // the first m3 needs nothing
            CHECK(position["m" + std::to_string(i)] > position["m" + std::to_string(j)]);
    const json selected = json::parse(resolved.output, nullptr, false)["selected"];
    REQUIRE(selected.size() == 5);
    CHECK(selected[3]["version"] == "7.0.0");
    CHECK(selected[3]["origin"] == "c.jsonl");
    const Run link = driver.envar({"order", "--catalogue", "c.jsonl", "--root", "m2", "--link"});
    CHECK(link.output.find("m2 ") < link.output.find("m1 "));
    const Run figure = driver.envar({"figure", "dependencies", "--catalogue", "c.jsonl", "--root", "m9"});
    CHECK_MESSAGE(figure.status == 0, figure.errors);
    CHECK(driver.has("envar-results/dependencies.svg"));
    // The file is the user's once it is there.
    driver.write("c.jsonl", "mine\n");
    CHECK(driver.envar({"adopt", "--catalogue", "c.jsonl", "pc"}).status == 1);
    CHECK(driver.read("c.jsonl") == "mine\n");
    CHECK(driver.envar({"adopt", "--catalogue", "d.jsonl", "nowhere"}).status == 1);
    CHECK(driver.envar({"order", "--catalogue", "nowhere.jsonl"}).status == 3);
    CHECK(driver.envar({"order", "--catalogue", "c.jsonl", "--root", "m2"}).status == 1);
    CHECK(driver.envar({"order", "--root", "m2"}).status == 2);
    // Circles, self-requirements, strange comparators and missing versions are told, and end nothing.
    driver.write("odd/a.pc", "Version: 1\nRequires: b, a\n");
    driver.write("odd/b.pc", "Version: 1\nRequires: c => 2\n");
    driver.write("odd/c.pc", "Requires: a\n");
    const Run odd = driver.envar({"adopt", "--catalogue", "odd.jsonl", "odd"});
    CHECK(odd.status == 0);
    for (const auto* told : {"`a` requires itself", "`=>` is no comparator"})
        CHECK_MESSAGE((odd.output + odd.errors).find(told) != std::string::npos, odd.output);
    const Run circle = driver.envar({"order", "--catalogue", "odd.jsonl"});
    CHECK(circle.status == 1);
    CHECK_MESSAGE(circle.output.find("a needs b needs c needs a") != std::string::npos, circle.output);
}

TEST_CASE("what the host brings along is asked of the host, and a name that is none is not handed to it") {
    struct Row {
        std::string host, name, versions;
        bool known, found, fits;
    };
    for (const Row& row : std::vector<Row>{{"python", "json", ">=2, <3", true, true, true},
                                           {"python", "json", ">=3", true, true, false},
                                           {"perl", "Scalar::Util", ">=1", true, true, true},
                                           {"tcl", "msgcat", ">=1, <2", true, true, true},
                                           {"lua", "string", "any", true, true, true},
                                           {"lua", "dome_light", "any", true, false, false},
                                           {"lua", "x') io.open('hacked', 'w') print('1", "any", false, false, true},
                                           {"make", "lua5.4", ">=5.4, <6", true, true, true},
                                           {"make", "lua5.4", "<5", true, true, false},
                                           {"make", "dome_light", "any", true, false, false}}) {
        CAPTURE(row.host);
        CAPTURE(row.name);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const std::string name = row.host == "perl" ? "Lamp" : "lamp";
        const Run made = driver.envar({"scaffold", name, "--host", row.host, "--in", "m"}, "w");
        REQUIRE_MESSAGE(made.status == 0, made.errors);
        const std::string file = "w/m/" + name + "/module.envar.toml";
        driver.write(file, driver.read(file) + "\n[[dependency]]\nmodule = \"" + row.name +
                               "\"\norigin = \"system\"\nversions = \"" + row.versions + "\"\n");
        const Run run = driver.envar({"resolve", "--format", "json"}, "w");
        CHECK_MESSAGE(run.status == (row.fits ? 0 : 1), run.output, run.errors);
        const json result = json::parse(run.output, nullptr, false);
        REQUIRE_MESSAGE(result.is_object(), run.output, run.errors);
        REQUIRE(result["system"].size() == 1);
        const json& need = result["system"][0];
        CHECK_MESSAGE(need["known"] == row.known, need.dump());
        CHECK_MESSAGE(need["found"] == row.found, need.dump());
        CHECK_MESSAGE(need["fits"] == row.fits, need.dump());
        CHECK(!driver.has("w/hacked"));
        CHECK(!std::filesystem::exists("/hacked"));
        CHECK(driver.has("w/lock.envar.toml") == row.fits);
    }
}
