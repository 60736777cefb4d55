// Modules made without Envar, adopted, checked and loaded in their hosts.
#include <doctest/doctest.h>

#include <map>
#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

struct Row {
    std::string host, folder;
    std::vector<std::pair<std::string, std::string>> files;  // below the folder
    std::vector<std::string> expect;                         // in the manifest
};

const std::vector<Row> rows = {
    {"lua",
     "lua/old_stars",
     {{"init.lua",
       "--- Places old stars.\nlocal M = { _VERSION = \"2.1.0\" }\nlocal base = require(\"base_stars\")\nfunction M.place(m) "
       "return m end\nlocal function hidden() end\nreturn M\n"}},
     {"name = \"old_stars\"", "version = \"2.1.0\"", "summary = \"Places old stars.\"", "emits = \"none\"",
      "module = \"base_stars\"", "name = \"place\""}},
    {"bash",
     "shell/old_log",
     {{"old_log.bash", "# Writes the old log.\nold_log_version=1.4.2\nold_log_write() { :; }\n"}},
     {"version = \"1.4.2\"", "summary = \"Writes the old log.\"", "name = \"old_log_write\""}},
    {"zsh",
     "zsh/old_log",
     {{"functions/old_log", "# Writes the old log.\nold_log_version=1.4.2\nold_log_write() { :; }\n"}},
     {"version = \"1.4.2\"", "name = \"old_log_write\""}},
    {"fish",
     "fish/old_log",
     {{"functions/old_log.fish",
       "function old_log -d 'Writes the old log.'\nend\nfunction old_log_write; end\nset -g old_log_version 1.4.2\n"}},
     {"version = \"1.4.2\"", "summary = \"Writes the old log.\"", "name = \"old_log_write\""}},
    {"tcl",
     "tcl/old_log",
     {{"old_log.tcl",
       "# Writes the old log.\npackage provide old_log 1.4\nnamespace eval ::old_log { }\nproc ::old_log::write {text} {}\n"
       "namespace eval ::old_log {\n    namespace export write\n}\n"},
      {"pkgIndex.tcl", "package ifneeded old_log 1.4 [list source [file join $dir old_log.tcl]]\n"}},
     {"version = \"1.4\"", "summary = \"Writes the old log.\"", "name = \"write\""}},
    {"python",
     "python/old_log",
     {{"__init__.py",
       "\"\"\"Writes the old log.\"\"\"\n__version__ = '1.4.2'\n__all__ = ['write']\ndef write(text):\n    pass\ndef other():\n    pass\n"}},
     {"version = \"1.4.2\"", "summary = \"Writes the old log.\"", "name = \"write\""}},
    {"perl",
     "perl/OldLog",
     {{"lib/OldLog.pm",
       "package OldLog;\nuse Exporter 'import';\nour $VERSION = '1.4';\nour @EXPORT_OK = qw(write_line);\n\n=head1 NAME\n\n"
       "OldLog - writes the old log\n\n=cut\n\nsub write_line { 1 }\n1;\n"}},
     {"name = \"OldLog\"", "version = \"1.4\"", "summary = \"writes the old log\"", "name = \"write_line\""}},
    {"guile",
     "guile/old-log",
     {{"lib/old-log.scm",
       ";; Writes the old log.\n(define-module (old-log) #:export (write-line))\n(define version \"1.4.2\")\n(define (write-line text) text)\n"}},
     {"version = \"1.4.2\"", "summary = \"Writes the old log.\"", "name = \"write-line\""}},
};

}  // namespace

TEST_CASE("a module made without Envar is adopted, is clean and loads, and none of its files is touched") {
    for (const Row& row : rows) {
        CAPTURE(row.host);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        if (row.host == "lua") CHECK(driver.envar({"scaffold", "base_stars", "--host", "lua"}, "w").status == 0);
        for (const auto& [file, content] : row.files) driver.write("w/" + row.folder + "/" + file, content);
        const Run dry = driver.envar({"adopt", row.folder, "--dry-run"}, "w");
        CHECK_MESSAGE(dry.status == 0, dry.errors);
        CHECK(!std::filesystem::exists(driver / ("w/" + row.folder + "/module.envar.toml")));
        const Run adopt = driver.envar({"adopt", row.folder}, "w");
        CHECK_MESSAGE(adopt.status == 0, adopt.errors);
        CHECK(adopt.output.find("do not tell") == std::string::npos);
        const std::string manifest = driver.read("w/" + row.folder + "/module.envar.toml");
        for (const auto& expect : row.expect)
            CHECK_MESSAGE(manifest.find(expect) != std::string::npos, expect << " in " << manifest);
        CHECK(manifest.find("hidden") + manifest.find("other") == 2 * std::string::npos);
        const Run check = driver.envar({"check"}, "w");
        if (row.host != "bash") CHECK_MESSAGE(check.status == 0, check.output);
        CHECK(driver.envar({"emit"}, "w").status == 0);
        const Run trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.output.find("was not expected") == std::string::npos, trial.output);
        CHECK_MESSAGE(trial.output.find("not visible") == std::string::npos, trial.output);
        CHECK(trial.output.find("was not loaded") == std::string::npos);
        for (const auto& [file, content] : row.files) CHECK(driver.read("w/" + row.folder + "/" + file) == content);
        CHECK(driver.envar({"undo"}, "w").status == 0);
    }
}

TEST_CASE("what cannot be adopted is said, and nothing is written") {
    struct Refusal {
        std::string folder, host, expect;
    };
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/a/empty/x.txt", "");
    driver.write("w/a/both/init.lua", "return {}\n");
    driver.write("w/a/both/__init__.py", "");
    driver.write("w/lua/known/init.lua", "return {}\n");
    driver.write("elsewhere/init.lua", "return {}\n");
    driver.write("elsewhere/far-lib/init.bash", "far() { :; }\n");
    driver.write("elsewhere/plain/plain", "plain_on() { :; }\n");
    driver.write("elsewhere/data/data", "plain text ( {\n");
    driver.write("w/a/near-lib/load.bash", "near() { :; }\n");
    driver.write("w/a/1st/load.bash", "first() { :; }\n");
    driver.write("w/a/sea-lib/init.bash", "sea() { :; }\n");
    driver.write("w/a/sea-lib/sea_lib.bash/x", "");
    CHECK(driver.envar({"adopt", "lua/known"}, "w").status == 0);
    const auto before = driver.tree("w");
    for (const Refusal& row :
         std::vector<Refusal>{{"a/empty", "", "no module that a card knows how to adopt"},
                              {"a/both", "", "may be a module for lua or for python"},
                              {"a/both", "perl", "no module that a card knows how to adopt"},
                              {"lua/known", "", "has a manifest already"},
                              {"nowhere", "", "there is no `nowhere`"},
                              {"../elsewhere", "", "does not lie inside the workspace"},
                              {"../elsewhere/far-lib", "", "needs an entry file that reads in"},
                              {"../elsewhere/plain", "bash", "needs an entry file that reads in"},
                              {"../elsewhere/plain", "zsh", "needs an entry file that reads in"},
                              {"../elsewhere/data", "bash", "no module that a card knows how to adopt"},
                              {"a/near-lib", "", "has a file `load.bash`, where one would go"},
                              {"a/1st", "", "is called `1st`, which is no module name for bash"},
                              {"a/sea-lib", "", "has a file `sea_lib.bash` that is none of bash"},
                              {"a/both", "pearl", "did you mean `perl`?"}}) {
        CAPTURE(row.folder);
        std::vector<std::string> words = {"adopt", row.folder};
        if (row.folder.starts_with("../elsewhere/")) words.insert(words.end(), {"--into", "known"});
        if (!row.host.empty()) words.insert(words.end(), {"--host", row.host});
        const Run run = driver.envar(words, "w");
        CHECK(run.status != 0);
        CHECK_MESSAGE(run.errors.find(row.expect) != std::string::npos, run.errors);
        CHECK(driver.tree("w") == before);
    }
    CHECK(driver.envar({"adopt", "../elsewhere/far-lib", "a/near-lib", "--into", "own", "--copy"}, "w").status == 0);
    for (const std::string name : {"far_lib", "near_lib"})
        CHECK(std::filesystem::exists(driver / ("w/own/" + name + "/" + name + ".bash")));
    // What a host loads as it is goes before what another one would want an entry file for.
    driver.write("w/a/tide/init.lua", "return {}\n");
    driver.write("w/a/tide/functions/LICENSE", "Free.\n");
    driver.write("w/a/tide/tide.sh", "tide() { :; }\n");
    const Run tide = driver.envar({"adopt", "a/tide"}, "w");
    CHECK_MESSAGE(tide.output.find("tide 0.1.0 for lua") != std::string::npos, tide.errors);
    driver.write("elsewhere/stars/star-near.bash", "star_near() { :; }\n");
    driver.write("elsewhere/stars/star-far.bash", "star_far() { :; }\n");
    const Run alone = driver.envar({"adopt", "../elsewhere/stars", "--into", "stars"}, "w");
    CHECK_MESSAGE(alone.errors.find("needs an entry file") != std::string::npos, alone.errors);
    CHECK(driver.envar({"adopt", "../elsewhere/stars", "--into", "stars", "--copy"}, "w").status == 0);
    CHECK(driver.read("w/stars/star_far/star_far.bash").find("/'star-far.bash'") != std::string::npos);
    CHECK(driver.envar({"trial"}, "w").status == 0);
    const Run several = driver.envar({"adopt", "a/empty", "lua/known", "a/both", "--host", "lua"}, "w");
    CHECK(several.status == 0);
    for (const char* passed : {"passed over: `a/empty` is no module", "passed over: `lua/known` has a manifest"})
        CHECK_MESSAGE((several.output + several.errors).find(passed) != std::string::npos, several.errors);
    CHECK(std::filesystem::exists(driver / "w/a/both/module.envar.toml"));
}

TEST_CASE("modules of several hosts and places are adopted in one go, and two of one name are not") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    std::vector<std::string> words = {"adopt"};
    for (const Row& row : rows) {
        if (row.host == "lua" || row.folder.find("old_log") == std::string::npos || row.host == "bash") {
            for (const auto& [file, content] : row.files) driver.write("w/" + row.folder + "/" + file, content);
            words.push_back(row.folder);
        }
    }
    CHECK(words.size() == 5);  // lua, bash, perl, guile
    const Run adopt = driver.envar(words, "w");
    CHECK_MESSAGE(adopt.status == 0, adopt.errors);
    const Run check = driver.envar({"check"}, "w");
    CHECK_MESSAGE(check.output.find("[EV402]") == std::string::npos, check.output);
    CHECK(driver.envar({"trial"}, "w").output.find("was not loaded") == std::string::npos);
    driver.write("w/lua/twice/init.lua", "return {}\n");
    driver.write("w/more/twice/init.lua", "return {}\n");
    const Run twice = driver.envar({"adopt", "lua/twice", "more/twice"}, "w");
    CHECK(twice.status == 1);
    CHECK(twice.errors.find("there is a module `twice` already") != std::string::npos);
    CHECK(!std::filesystem::exists(driver / "w/lua/twice/module.envar.toml"));
}

TEST_CASE("sources of a build system are adopted: headers, sources, needs by their includes, and how sure each is") {
    struct Row {
        std::string host, file, near, far;  // the build system's file of two modules
        std::string kind;                   // of the far one
    };
    for (
        const Row& row : std::vector<Row>{
            {"cmake", "CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(near VERSION 1.4 LANGUAGES CXX)\n"
             "add_library(near STATIC near.cpp)\ntarget_include_directories(near PUBLIC $<BUILD_INTERFACE:${CMAKE_CURRENT_SOURCE_DIR}> "
             "$<INSTALL_INTERFACE:include>)\ninstall(TARGETS near EXPORT near_t)\ninstall(FILES near.hpp DESTINATION include)\n"
             "install(EXPORT near_t FILE near-config.cmake NAMESPACE near:: DESTINATION lib/cmake/near)\n",
             "cmake_minimum_required(VERSION 3.16)\nproject(far VERSION 2.0.1 DESCRIPTION \"Far away.\" LANGUAGES CXX)\n"
             "set(CMAKE_CXX_STANDARD 17)\nfind_package(near REQUIRED)\nadd_library(far SHARED src/far.cpp)\n"
             "target_include_directories(far PUBLIC include)\ntarget_link_libraries(far PUBLIC near::near)\n",
             "shared"},
            {"meson", "meson.build",
             "project('near', 'cpp', version: '1.4')\nlib = static_library('near', 'near.cpp', install: true)\n"
             "install_headers('near.hpp')\nimport('pkgconfig').generate(lib, name: 'near')\n",
             "project('far', 'cpp', version: '2.0.1', default_options: ['cpp_std=c++17'])\n"
             "shared_library('far', 'src/far.cpp', dependencies: dependency('near'), include_directories: 'include', install: true)\n",
             "shared"},
            {"make", "Makefile",
             "NAME = near\nVERSION = 1.4\nPREFIX ?= /usr/local\nall: libnear.a\nlibnear.a: near.cpp near.hpp\n\t$(CXX) $(CXXFLAGS) -fPIC -c near.cpp -o near.o\n"
             "\t$(AR) rcs $@ near.o\ninstall: all\n\tinstall -D -m644 near.hpp $(DESTDIR)$(PREFIX)/include/near.hpp\n"
             "\tinstall -D -m644 libnear.a $(DESTDIR)$(PREFIX)/lib/libnear.a\ncheck:\n",
             "NAME = far\nVERSION = 2.0.1\nPREFIX ?= /usr/local\nall: libfar.so\nlibfar.so: src/far.cpp\n"
             "\t$(CXX) -std=c++17 -shared -fPIC -Iinclude -I$(PREFIX)/include $(CPPFLAGS) $(CXXFLAGS) src/far.cpp -o $@\n"
             "install: all\n\tinstall -D libfar.so $(DESTDIR)$(PREFIX)/lib/libfar.so\ncheck:\n",
             "shared"},
        }) {
        CAPTURE(row.host);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        driver.write("w/near/" + row.file, row.near);
        driver.write("w/near/near.hpp",
                     "#pragma once\n/// Says how near.\nint near_by(int steps);\n#define NEAR_LIMIT 5\n");
        driver.write(
            "w/near/near.cpp",
            "#include \"near.hpp\"\n#include \"deep/own.hpp\"\nint near_by(int steps) { return steps + own; }\n");
        driver.write("w/near/deep/own.hpp", "#pragma once\nconst int own = 1;\n");
        driver.write("w/near/tests/no.cpp", "int main() {}\n");
        driver.write("w/far/" + row.file, row.far);
        driver.write(
            "w/far/include/far/far.hpp",
            "#pragma once\n#include \"near.hpp\"\nnamespace far { struct Star { int x; }; int away(int a, int b = 2); }\n");
        driver.write("w/far/src/far.cpp",
                     "#include \"far/far.hpp\"\nint far::away(int a, int b) { return near_by(a) + b; }\n");
        const Run run = driver.envar({"adopt", "near", "far"}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        const json result = json::parse(driver.read("w/envar-results/adopt.json"));
        std::map<std::string, std::string> sure;
        for (const auto& module : result["modules"])
            for (const auto& known : module["known"])
                sure[module["module"].get<std::string>() + " " + known["what"].get<std::string>()] =
                    known["value"].get<std::string>() + " " + known["sureness"].get<std::string>();
        CHECK(sure["near name"] == "near sure");
        CHECK(sure["near version"] == "1.4.0 sure");
        CHECK(sure["near summary"] == " guess");
        CHECK(sure["near files"] == "listed one by one likely");
        CHECK(sure["far files"] == "include, src sure");
        CHECK(sure["far needs near"] == "public sure");
        CHECK(sure["far members"] == "2 likely");
        const std::string near = driver.read("w/near/module.envar.toml"),
                          far = driver.read("w/far/module.envar.toml");
        for (const std::string part :
             {"public_headers = [\"near.hpp\"]", "private_headers = [\"deep/own.hpp\"]", "sources = [\"near.cpp\"]",
              "name = \"near_by\"\nsummary = \"Says how near.\"", "name = \"NEAR_LIMIT\"\nkind = \"macro\""})
            CHECK_MESSAGE(near.find(part) != std::string::npos, part, "\n", near);
        for (const std::string& part : {"kind = \"" + row.kind + "\"", std::string("standard = \"c++17\""),
                                        std::string("visibility = \"public\"")})
            CHECK_MESSAGE(far.find(part) != std::string::npos, part, "\n", far);
        const Run check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const Run trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.status == 0, trial.output);
        CHECK(driver.envar({"emit"}, "w").output == "nothing to change\n");
        REQUIRE(driver.envar({"undo"}, "w").status == 0);
        CHECK_FALSE(driver.has("w/near/module.envar.toml"));
    }
}

TEST_CASE("one file of a folder full of modules is adopted by itself, and the folder stays as it is") {
    struct Row {
        std::string host, module;
        std::vector<std::string> files;  // of a folder outside the workspace
        std::vector<std::string> made;   // below the folder that is given, besides the manifest
        std::string text;
    };
    const std::vector<Row> rows = {
        {"lua",
         "night",
         {"night.lua", "day.lua", "dusk.txt"},
         {"night.lua"},
         "--- Tells stars.\nlocal M = {}\nfunction M.shine() end\nreturn M\n"},
        {"bash",
         "night_log",
         {"night-log.sh", "day-log.sh", "other.bash"},
         {"night-log.sh", "night_log.bash"},
         "# Tells stars.\nnight_log_show() { :; }\n"},
        {"python",
         "night",
         {"night.py", "day.py"},
         {"night.py"},
         "\"\"\"Tells stars.\"\"\"\n\n\ndef shine():\n    \"\"\"Shines.\"\"\"\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.host);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        for (const std::string& file : row.files) driver.write("old/" + file, row.text);
        const auto before = driver.tree("old");
        const std::string file = "../old/" + row.files.front();
        const Run refused = driver.envar({"adopt", file}, "w");
        CHECK(refused.status == 1);
        CHECK_MESSAGE(refused.errors.find("with --into") != std::string::npos, refused.errors);
        const Run made = driver.envar({"adopt", file, "--into", "m", "--copy"}, "w");
        REQUIRE_MESSAGE(made.status == 0, made.errors);
        CHECK_MESSAGE(made.output.find(row.module + " 0.1.0 for " + row.host + ", 1 member") != std::string::npos,
                      made.output);
        CHECK(driver.tree("old") == before);
        std::vector<std::string> names;
        for (const auto& [name, text] : driver.tree("w/m/" + row.module)) names.push_back(name);
        std::vector<std::string> expected = row.made;
        expected.emplace_back("module.envar.toml");
        std::sort(names.begin(), names.end());
        std::sort(expected.begin(), expected.end());
        CHECK(names == expected);
        CHECK(driver.envar({"check"}, "w").status == 0);
        const Run trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.status == 0, trial.output);
        const Run again = driver.envar({"adopt", file, "--into", "m", "--copy"}, "w");
        CHECK(again.status == 1);
        CHECK_MESSAGE(again.errors.find("there is a module `" + row.module + "` already") != std::string::npos,
                      again.errors);
        const Run other = driver.envar({"adopt", "../old/" + row.files[1], "--into", "m"}, "w");
        CHECK_MESSAGE(other.status == (row.host == "bash" ? 1 : 0), other.errors);
    }
}
