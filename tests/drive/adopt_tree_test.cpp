// Source trees of build systems: what their own statements, and the files beside them, tell.
#include <doctest/doctest.h>

#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

using Files = std::map<std::string, std::string>;

/// "WHAT = VALUE (SURENESS, BY)" of the only module adopted.
std::map<std::string, std::string> known_of(const Driver& driver) {
    std::map<std::string, std::string> out;
    const json result = json::parse(driver.read("w/envar-results/adopt.json"));
    for (const auto& known : result["modules"][0]["known"])
        out[known["what"].get<std::string>()] = known["value"].get<std::string>() + " (" +
                                                known["sureness"].get<std::string>() + ", " +
                                                known["by"].get<std::string>() + ")";
    return out;
}

}  // namespace

TEST_CASE("what a tree's build files install is public; its version, name and summary are found where they stand") {
    struct Row {
        std::string host;
        Files files;
        std::string open;  // the manifest's public headers
        std::map<std::string, std::string> told;
    };
    const std::string header = "#pragma once\nint f(int x);\n";
    for (
        const Row& row : std::vector<Row>{
            // Lists, added to, below folders that are only known as it is built.
            {"cmake",
             {{"CMakeLists.txt",
               "project(SKY_MAP VERSION 2.3)\nset(HEADERS src/a.h # not src/d.h\n)\nlist(APPEND HEADERS ${X_DIR}/src/b.h)\n"
               "add_library(sky-map src/a.c)\ninstall(FILES ${HEADERS} DESTINATION include)\nfind_package(Threads)\n"},
              {"src/a.h", header},
              {"src/b.h", header},
              {"src/c.h", header},
              {"src/d.h", header},
              {"src/a.c", ""},
              {"README.md", "Sky map\n=======\n\n[![built](x.svg)](y)\n\nDraws `maps` of the [sky](z). And more.\n"}},
             R"(["src/a.h", "src/b.h"])",
             {{"name", "sky-map (sure, CMakeLists.txt)"},
              {"version", "2.3.0 (sure, CMakeLists.txt)"},
              {"summary", "Draws maps of the sky. (guess, README.md)"},
              {"members", "1 (likely, the headers that it installs)"}}},
            // A list that is worked out while it is built tells nothing; what is called like the module is public.
            {"cmake",
             {{"CMakeLists.txt",
               "project(dial)\ntake_from(MAKE_headers)\nset(ALL src/x.h ${MAKE_headers})\ninstall(FILES ${ALL} DESTINATION i)\n"},
              {"src/dial.h", "#define DIAL_VER_MAJOR 4\n#define DIAL_VER_MINOR 1\n#define DIAL_VER_PATCH 7\n"},
              {"src/x.h", header},
              {"src/x.c", ""}},
             R"(["src/dial.h"])",
             {{"name", "dial (sure, CMakeLists.txt)"},
              {"version", "4.1.7 (likely, src/dial.h)"},
              {"members", "3 (likely, its public headers)"}}},
            // What is made as it is built is none of the tree's, though one there is called alike.
            {"cmake",
             {{"CMakeLists.txt", "project(dam)\ninstall(FILES ${BUILD}/include/set.h dam.h DESTINATION include)\n"},
              {"src/dam/dam.h", header},
              {"other/set.h", "#define DAM_SET 1\n"}},
             R"(["src/dam/dam.h"])",
             {{"members", "1 (likely, the headers that it installs)"}}},
            // A whole folder, and one of several descriptions.
            {"cmake",
             {{"CMakeLists.txt", "project(orb)\ninstall(DIRECTORY api/ DESTINATION include)\n"},
              {"api/orb/orb.h", "#define ORB_VERSION 30102\n"},
              {"top.h", header},
              {"pc/orb-extra.pc.in", "Name: orb-extra\nDescription: More.\n"},
              {"pc/orb.pc.in", "Name: orb\nDescription: Turns.\nVersion: @V@\n"}},
             R"(["api/orb/orb.h"])",
             {{"version", "3.1.2 (likely, api/orb/orb.h)"}, {"summary", "Turns. (likely, pc/orb.pc.in)"}}},
            {"meson",
             {{"meson.build", "project('tide', 'c')\nsubdir('lib')\n"},
              {"lib/meson.build",
               "base = files(\n  'tide.h',\n)\nmore_headers = base + ['deep.h']\n"
               "install_headers(more_headers, subdir: meson.project_name())\npkg.generate(l, description: 'Tells tides')\n"},
              {"lib/tide.h", "#define TIDE_VERSION_MAJOR \"5\"\n#define TIDE_VERSION_MINOR \"2\"\n"},
              {"lib/deep.h", header},
              {"lib/own.h", header},
              {"lib/tide.c", ""}},
             R"(["lib/deep.h", "lib/tide.h"])",
             {{"version", "5.2.0 (likely, lib/tide.h)"}, {"summary", "Tells tides (likely, lib/meson.build)"}}},
            {"make",
             {{"Makefile",
               "TO_INC = horn.h \\\n  blow.h\nall:\n\t@true\ninstall:\n\tcd src && install -m644 $(TO_INC) $(PREFIX)/include\n"},
              {"src/horn.h", header},
              {"src/blow.h", "int g(void);\n"},
              {"src/inner.h", header},
              {"src/horn.c", ""},
              {"configure.ac", "AC_INIT([horn], [1.6.1-dev], [x@example.org])\n"},
              {"README", "Please read all.\n\nBuilt in 1999 or so by hand.\n\nThe m module blows a horn.\n"}},
             R"(["src/blow.h", "src/horn.h"])",
             {{"name", "m (likely, the folder's name)"},
              {"version", "1.6.1 (sure, configure.ac)"},
              {"summary", "The m module blows a horn. (guess, README)"}}},
            {"make",
             {{"Makefile", "all:\n\t@true\n"},
              {"Makefile.am", "include_HEADERS = in.h\nnoinst_HEADERS = out.h\n"},
              {"in.h", header},
              {"out.h", header},
              {"m.c", ""}},
             R"(["in.h"])",
             {{"version", "0.1.0 (guess, nothing)"}, {"summary", " (guess, nothing)"}}},
        }) {
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        for (const auto& [file, text] : row.files) driver.write("w/m/" + file, text);
        const Run run = driver.envar({"adopt", "m", "--host", row.host}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        const std::string manifest = driver.read("w/m/module.envar.toml");
        CHECK_MESSAGE(manifest.find("public_headers = " + row.open) != std::string::npos, manifest);
        auto known = known_of(driver);
        for (const auto& told : row.told) CHECK_MESSAGE(known[told.first] == told.second, row.open, " ", told.first);
        CHECK(driver.envar({"check"}, "w").status == 0);
    }
}

TEST_CASE("lists that lead on and on, and statements that never end, are not followed for ever") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    std::string chain = "install:\n\tinstall $(A0) $(PREFIX)/include\n", open = "project(b)\n";
    for (int i = 0; i < 20'000; ++i) {
        chain += "A" + std::to_string(i) + " = $(A" + std::to_string(i + 1) + ")\n";
        open += "install(FILES ";
    }
    driver.write("w/a/Makefile", chain + "A20000 = a.h\nA20001 = $(A20001)\n");
    driver.write("w/b/CMakeLists.txt", open);
    for (const std::string name : {"a", "b"}) {
        driver.write("w/" + name + "/" + name + ".h", "int f(int x);\n");
        const Run run = driver.envar({"adopt", name}, "w");
        CHECK_MESSAGE(run.status == 0, run.errors);
        CHECK_MESSAGE(run.output.find("its public headers") != std::string::npos, run.output);
    }
}

TEST_CASE("more members than a manifest can hold are taken from the files") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    std::string header;
    for (int i = 0; i < 40'000; ++i) header += "#define A_LONG_NAME_OF_A_MACRO_" + std::to_string(i) + " 1\n";
    driver.write("w/m/CMakeLists.txt", "project(m VERSION 1.0)\n");
    driver.write("w/m/m.h", header);
    const Run run = driver.envar({"adopt", "m"}, "w");
    CHECK_MESSAGE(run.output.find("m: too many members to list") != std::string::npos, run.output, run.errors);
    CHECK(driver.read("w/m/module.envar.toml").find("mode = \"all\"") != std::string::npos);
    CHECK(driver.envar({"check"}, "w").output.find("nothing found") != std::string::npos);
    CHECK(driver.envar({"members", "m"}, "w").status == 0);
    CHECK(driver.read("w/envar-results/members.json").find("A_LONG_NAME_OF_A_MACRO_39999") != std::string::npos);
    const Run sync = driver.envar({"members", "--sync"}, "w");
    CHECK(sync.status == 1);
    CHECK_MESSAGE(sync.errors.find("the manifest of m would be larger than 1024 KiB") != std::string::npos,
                  sync.errors);
}

TEST_CASE("what a tree's build files ask for is told in one line, without what the host brings") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/m/meson.build",
                 "project('m', 'c')\nd = [dependency('threads'), dependency('orbit'), dependency('tide')]\n");
    driver.write("w/m/m.h", "#pragma once\n");
    const Run run = driver.envar({"adopt", "m"}, "w");
    CHECK_MESSAGE(run.output.find("asks for 2 things that are no modules of the workspace: `orbit`, `tide`; ") !=
                      std::string::npos,
                  run.output);
}

TEST_CASE("headers of a tree with build files of its own are looked for everywhere in it, and told once") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/m/CMakeLists.txt", "project(m)\n");
    driver.write("w/m/m.h", "#include \"deep/made.h\"\n#include \"own.h\"\n#include <../inc/own.h>\n");
    driver.write("w/m/x/deep/made.h.cmake.in", "");
    driver.write("w/m/inc/own.h", "#include <nowhere_at_all.h>\n#include \"own/inc.h\"\n");
    driver.write("w/m/m.c", "#include <nowhere_at_all.h>\nint font(int *a UNUSED_HERE, int *b UNUSED_HERE);\n");
    REQUIRE(driver.envar({"adopt", "m"}, "w").status == 0);
    const Run run = driver.envar({"check"}, "w");
    CHECK(run.status == 0);
    CHECK_MESSAGE(run.output.find("hint: there is no header `nowhere_at_all.h`, here and in 1 more place [EV905]") !=
                      std::string::npos,
                  run.output);
    CHECK(run.output.find("no header `own/inc.h` [EV905]") != std::string::npos);
    for (const std::string name : {"made.h`", "`own.h`"}) CHECK(run.output.find(name) == std::string::npos);
    // A module whose files Envar writes is told of each, as its folders are known.
    std::string manifest = driver.read("w/m/module.envar.toml");
    manifest.erase(manifest.find("emits = \"none\"\n"), 15);
    driver.write("w/m/module.envar.toml", manifest);
    const Run emitted = driver.envar({"check"}, "w");
    CHECK_MESSAGE(emitted.output.find("warning: there is no header `nowhere_at_all.h` [EV905]") != std::string::npos,
                  emitted.output);
}

TEST_CASE("nothing is written outside the workspace, also where the host wants a file beside its modules") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("old/share/logs/logs.bash", "log_say() { echo \"$1\"; }\n");
    const auto refused = driver.envar({"adopt", "../old/share/logs", "--into", "shell"}, "w");
    CHECK(refused.status == 1);
    CHECK_MESSAGE(
        refused.errors.find("bash would need a file that Envar makes\n  hint: add --copy") != std::string::npos,
        refused.errors);
    const auto copied = driver.envar({"adopt", "../old/share/logs", "--into", "shell", "--copy"}, "w");
    CHECK_MESSAGE(copied.status == 0, copied.output, copied.errors);
    CHECK(driver.envar({"trial"}, "w").status == 0);
    CHECK_FALSE(driver.has("old/share/load.bash"));
}

TEST_CASE("a source tree as it was unpacked tells its name and its version by its folder") {
    struct Row {
        std::string folder, entry, text, told;
    };
    for (const Row& row : std::vector<Row>{
             {"sky-map-1.4.2", "Makefile", "all:\n\ttrue\n", "sky-map 1.4.2 for make"},
             {"sky-3", "Makefile", "all:\n\ttrue\n", "sky-3 0.0.1 for make"},
             {"sky-map-1.4.2", "src/Makefile", "all:\n\ttrue\n", "sky-map 1.4.2 for make"},
             {"sky-1.4.2", "CMakeLists.txt", "project(libsky)\nadd_library(libsky src/sky.c)\n",
              "libsky 1.4.2 for cmake"},
             {"sky-1.4", "meson.build", "project('sky', 'c', version: '1.9.5.3')\n", "sky 1.9.5+3 for meson"},
             // A script that prepares what is compiled is no module.
             {"sky-1.4.2", "prepare.sh", "prepare() { :; }\n", ""}}) {
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const std::string inside = row.entry.starts_with("src/") ? "src/" : "";
        driver.write("w/" + row.folder + "/" + row.entry, row.text);
        driver.write("w/" + row.folder + "/" + inside + "include/sky.h",
                     "#define SKY_VERSION \"0.0.1\"\nint f(const char *_Nonnull, int *_Nonnull);\n");
        driver.write("w/" + row.folder + "/src/sky.c", "int f(const char *a, int *b) { return *b; }\n");
        const Run run = driver.envar({"adopt", row.folder}, "w");
        CHECK_MESSAGE(run.status == (row.told.empty() ? 1 : 0), row.folder, run.output, run.errors);
        CHECK_MESSAGE(run.output.find(row.told) != std::string::npos, row.told, run.output, run.errors);
        if (row.told.empty())
            CHECK_MESSAGE(
                run.errors.find("hint: there is C or C++ code in it, but no descriptor") != std::string::npos,
                run.errors);
        CHECK(driver.envar({"check"}, "w").status == 0);
    }
}

namespace {

/// A library with a switch for tests that are not there, and a script that makes one of its sources.
struct Switched {
    std::string host;
    Files files;
    std::string off;
};

const std::vector<Switched> switched = {
    {"cmake",
     {{"CMakeLists.txt",
       "cmake_minimum_required(VERSION 3.20)\nproject(sky VERSION 1.2.0 LANGUAGES C)\n"
       "option(SKY_BUILD_TESTS \"Its tests.\" ON)\noption(SKY_TEST_MODE \"What it is.\" ON)\n"
       "if(NOT SKY_TEST_MODE OR NOT SKY_SHINES)\n  message(FATAL_ERROR told)\nendif()\n"
       "execute_process(COMMAND ${CMAKE_SOURCE_DIR}/make.sh OUTPUT_FILE ${CMAKE_BINARY_DIR}/n.h RESULT_VARIABLE bad)\n"
       "if(bad)\n  message(FATAL_ERROR ${bad})\nendif()\n"
       "add_library(sky sky.c)\ntarget_include_directories(sky PRIVATE ${CMAKE_BINARY_DIR})\n"
       "if(SKY_BUILD_TESTS)\n  add_subdirectory(tests)\nendif()\n"}},
     "SKY_BUILD_TESTS = OFF"},
    {"meson",
     {{"meson.build",
       "project('sky', 'c', version: '1.2.0')\nif not get_option('SKY_SHINES')\n  error('told')\nendif\n"
       "n = custom_target(output: 'n.h', command: [files('make.sh')], capture: true)\n"
       "static_library('sky', 'sky.c', n)\nif get_option('unit-tests')\n  subdir('tests')\nendif\n"},
      {"meson_options.txt",
       "option('SKY_SHINES', type: 'boolean', value: false)\n"
       "option('unit-tests', type: 'boolean', description: 'Its tests (many).', value: true)\n"}},
     "unit-tests = false"}};

}  // namespace

TEST_CASE("a tree is built without its tests, as its manifest tells its build files, and keeps its scripts' bits") {
    for (const Switched& row : switched) {
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        for (const auto& [file, text] : row.files) driver.write("old/sky/" + file, text);
        driver.write("old/sky/sky.h", "int sky(void);\n");
        driver.write("old/sky/sky.c", "#include \"n.h\"\nint sky(void) { return N; }\n");
        driver.write("old/sky/make.sh", "#!/bin/sh\necho '#define N 1'\n");
        std::filesystem::permissions(driver / "old/sky/make.sh", std::filesystem::perms(0755));
        REQUIRE(driver.envar({"adopt", "../old/sky", "--into", ".", "--copy"}, "w").status == 0);
        CHECK_MESSAGE(known_of(driver)["without tests"] == row.off + " (likely, what its build can be told)",
                      row.host);
        std::string manifest = driver.read("w/sky/module.envar.toml");
        const std::size_t native = manifest.find("[native]\n");
        REQUIRE_MESSAGE(native != std::string::npos, manifest);
        // The build says by itself what else it wants to be told.
        CHECK_MESSAGE(driver.envar({"trial"}, "w").status == 1, row.host);
        manifest.insert(native + 9, "settings = [[\"SKY_SHINES\", \"true\"]]\n");
        driver.write("w/sky/module.envar.toml", manifest);
        CHECK(driver.envar({"check"}, "w").status == 0);
        const Run run = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(run.status == 0, run.output, run.errors);
        const Run tests = driver.envar({"trial", "--tests"}, "w");
        CHECK_MESSAGE(tests.status == 1, row.host, tests.output);
        CHECK_MESSAGE(tests.output.find("tests") != std::string::npos, tests.output);
    }
}

TEST_CASE("of several build systems the one that tells most counts, and the others are named") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/sky/Makefile", "all:\n\ttrue\n");
    driver.write("w/sky/CMakeLists.txt", "project(sky)\nadd_library(sky sky.c)\n");
    driver.write("w/sky/meson.build", "project('sky', 'c', version: '1.2.0')\n");
    driver.write("w/sky/sky.c", "int sky(void) { return 1; }\n");
    // A macro with parameters that others may have set before is no guard, a template's parameter no function's, and
    // one that is only documented has no name that could be another.
    for (const std::string name : {"sky", "air"})
        driver.write("w/sky/" + name + ".h",
                     "#ifndef EACH_ONE\n#define EACH_ONE(x)\n#endif\n"
                     "/** Makes one.\n * @tparam Kind kind of it\n * @param size how large\n */\n"
                     "template <class Kind> Kind " +
                         name + "(int size);\n/** Makes two.\n * @param size how large\n */\nint " + name +
                         "_two(int, char *);\n");
    const Run run = driver.envar({"adopt", "sky"}, "w");
    CHECK_MESSAGE(run.output.find("sky 1.2.0 for meson") != std::string::npos, run.output, run.errors);
    CHECK(run.output.find("cmake or make could build it too; `--host cmake` takes that") != std::string::npos);
    CHECK_MESSAGE(driver.envar({"check"}, "w").output.find("nothing found") != std::string::npos,
                  driver.envar({"check"}, "w").output);
}
