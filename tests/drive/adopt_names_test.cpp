// Modules whose names are told by who loads them, and files that links lead to.
#include <doctest/doctest.h>

#include <algorithm>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;

namespace {

namespace fs = std::filesystem;

/// With one blank between words, as if a table's columns were as wide as what they hold.
std::string without_columns(std::string text) {
    text.erase(std::unique(text.begin(), text.end(), [](char a, char b) { return a == ' ' && b == ' '; }),
               text.end());
    return text;
}

/// Code that lies in a folder which is no module: each file is loaded by a name that begins with the folder's.
void write_sky(const Driver& driver) {
    driver.write("given/sky/find.lua",
                 "--\n\nlocal names = require(\"sky.names\")\nlocal M = {}\n"
                 "function M.find(x) return names.of(x) end\nreturn M\n");
    driver.write("given/sky/names.lua",
                 "-- Names of what is up there.\nlocal M = {}\n"
                 "function M.of(x) return require(\"sky.names.long\").of(x) end\nreturn M\n");
    driver.write("given/sky/names/long.lua",
                 "local moon = require(\"moon\")\nreturn { of = function(x) return moon.of(x) end }\n");
    driver.write("given/sky/deep/far.lua", "local f = require \"sky.find\"\nreturn { far = f.find }\n");
}

}  // namespace

TEST_CASE("files that load each other by names with several parts are modules of those names") {
    for (const bool by_its_folder : {true, false}) {
        CAPTURE(by_its_folder);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        write_sky(driver);
        driver.write("given/other/none.lua", "return {}\n");
        driver.write("w/lua/moon/init.lua", "return { of = function(x) return x end }\n");
        REQUIRE(driver.envar({"adopt", "lua/moon"}, "w").status == 0);
        const auto run =
            driver.envar({"adopt", by_its_folder ? "../given/sky" : "../given", "--into", "mods", "--copy"}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        for (const std::string told : {"sky.deep.far 0.1.0 for lua, 1 member, needs 1 module",
                                       "sky.find 0.1.0 for lua, 1 member, needs 1 module",
                                       "sky.names 0.1.0 for lua, 1 member, needs 1 module"})
            CHECK_MESSAGE(run.output.find(told) != std::string::npos, run.output);
        const bool tells_others = run.output.find("other: a file of lua, and none tells") != std::string::npos;
        CHECK_MESSAGE(tells_others == !by_its_folder, run.output);
        // What lies below a module's name comes along with it, and with what it loads.
        CHECK(driver.has("w/mods/sky-names/sky/names/long.lua"));
        CHECK(!driver.has("w/mods/sky-find/sky/names.lua"));
        CHECK(driver.read("w/mods/sky-names/module.envar.toml").find("module = \"moon\"") != std::string::npos);
        // A line that is empty but for its mark says nothing.
        CHECK(driver.read("w/mods/sky-find/module.envar.toml").find("local names") == std::string::npos);
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const auto trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.output.find("4 modules loaded as predicted") != std::string::npos, trial.output);
    }
}

TEST_CASE("files that load each other so are modules by themselves, and the folder is none") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    write_sky(driver);
    fs::rename(driver / "given", driver / "w/given");
    const auto refused = driver.envar({"adopt", "given/sky"}, "w");
    CHECK(refused.status == 1);
    CHECK_MESSAGE(
        refused.errors.find("3 modules, each a file by itself: sky.deep.far, sky.find, sky.names; each gets "
                            "a manifest with `--into FOLDER`") != std::string::npos,
        refused.errors);
    // Where a file is called like the folder, the folder's files are that module's.
    driver.write("w/given/sky.lua", "return { find = require(\"sky.find\").find }\n");
    const auto run = driver.envar({"adopt", "given", "--into", "mods", "--format", "json"}, "w");
    REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
    const json adopted = json::parse(driver.read("w/envar-results/adopt.json"));
    REQUIRE(adopted["modules"].size() == 1);
    CHECK(adopted["modules"][0]["module"] == "sky");
}

TEST_CASE("a folder further down is found out by how its files load each other too") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("given/sky/far/one.lua", "return { one = require(\"sky.far.two\").two }\n");
    driver.write("given/sky/far/two.lua", "return { two = function() return 2 end }\n");
    const auto run = driver.envar({"adopt", "../given/sky/far", "--into", "mods", "--copy"}, "w");
    REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
    CHECK_MESSAGE(run.output.find("sky.far.one 0.1.0 for lua, 1 member, needs 1 module") != std::string::npos,
                  run.output);
    CHECK(driver.envar({"check"}, "w").status == 0);
    CHECK(driver.envar({"trial"}, "w").output.find("2 modules loaded as predicted") != std::string::npos);
}

TEST_CASE("code that lies elsewhere than its host looks is adopted as a copy that lies right") {
    struct Row {
        const char* about;
        std::map<std::string, std::string> files;
        std::string folder, where;                // where it lies, as it is told
        std::string told;                         // of the module
        std::vector<std::string> copied, beside;  // files of the copy; those that stay where they are
    };
    const std::string names = "local M = {}\nfunction M.of(x) return x end\nreturn M\n";
    const std::string finds = "local names = require \"star_chart.names\"\nreturn { find = names.of }\n";
    const std::string chart =
        "package Star::Chart;\nuse Star::Chart::Frame;\nour $VERSION = '0.31';\n"
        "sub draw { return Star::Chart::Frame::around($_[0]) }\n1;\n";
    const std::string frame = "package Star::Chart::Frame;\nsub around { return \"[$_[0]]\" }\n1;\n";
    const std::vector<Row> rows = {
        {"a folder for code that stands for the name",
         {{"src/init.lua", finds}, {"src/names.lua", names}, {"spec/init_spec.lua", "return 1\n"}},
         "star_chart-1.2.0",
         "loaded as `star_chart`, so that its code would have to lie in `star_chart`; it lies in `src`",
         "star_chart 1.2.0 for lua, 1 member",
         {"star_chart/init.lua", "star_chart/names.lua"},
         {"spec/init_spec.lua"}},
        {"nothing but an entry file in it",
         {{"src/init.lua", names}},
         "star_chart-1.2.0",
         "it lies in `src`",
         "star_chart 1.2.0 for lua, 1 member",
         {"star_chart/init.lua"},
         {}},
        {"a folder that is called otherwise, and many of its files tell it",
         {{"init.lua", finds + "-- \n"},
          {"names.lua", names},
          {"more.lua", "local i = require(\"star_chart.names\")\nreturn { more = i.of }\n"},
          {"far.lua", "local m = require(\"star_chart.more\")\nreturn { far = m.more }\n"}},
         "given",
         "it lies in the folder itself",
         "star_chart 0.1.0 for lua, 1 member",
         {"star_chart/init.lua", "star_chart/far.lua"},
         {}},
        {"files that say what they are called",
         {{"Chart.pm", chart},
          {"Chart/Frame.pm", frame},
          {"t/draws.t", "use Star::Chart;\n"},
          {"Makefile.PL", "use ExtUtils::MakeMaker;\n"}},
         "Star-Chart-0.31",
         "loaded as `Star::Chart`, so that its code would have to lie in `Star`; it lies in the folder itself",
         "Star::Chart 0.31 for perl, 1 member",
         {"Star/Chart.pm", "Star/Chart/Frame.pm"},
         {"t/draws.t", "Makefile.PL"}},
    };
    for (const Row& row : rows) {
        CAPTURE(row.about);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        for (const auto& [file, text] : row.files) driver.write("there/" + row.folder + "/" + file, text);
        const auto refused = driver.envar({"adopt", "../there/" + row.folder, "--into", "mods"}, "w");
        CHECK(refused.status == 1);
        CHECK_MESSAGE(refused.errors.find(row.where) != std::string::npos, refused.errors);
        CHECK_MESSAGE(refused.errors.find("--copy") != std::string::npos, refused.errors);
        const auto run = driver.envar({"adopt", "../there/" + row.folder, "--into", "mods", "--copy"}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        CHECK_MESSAGE(run.output.find(row.told) != std::string::npos, run.output);
        const std::string home = "w/mods/" + row.folder + "/";
        for (const auto& file : row.copied) CHECK_MESSAGE(driver.has(home + file), run.output);
        for (const auto& file : row.beside) CHECK_MESSAGE(driver.has(home + file), run.output);
        for (const auto& [file, text] : row.files) CHECK(driver.read("there/" + row.folder + "/" + file) == text);
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const auto trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.output.find("1 module loaded as predicted") != std::string::npos, trial.output);
    }
}

TEST_CASE("names that only look like those of a folder's files place nothing") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    // `socket.url` is someone else's, and what is there is called as it lies.
    driver.write("there/moon/moon.lua", "local url = require(\"socket.url\")\nreturn { rise = url.parse }\n");
    driver.write("there/moon/url.lua", "return { url = 1 }\n");
    driver.write("there/sky/lib/sky/init.lua", "return { names = require(\"sky.names\") }\n");
    driver.write("there/sky/lib/sky/names.lua", "return {}\n");
    for (const std::string name : {"moon", "sky"}) {
        const auto run = driver.envar({"adopt", "../there/" + name, "--into", "mods"}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        CHECK_MESSAGE(run.output.find(name + " 0.1.0 for lua, 1 member") != std::string::npos, run.output);
        CHECK_MESSAGE(run.output.find("is copied to") == std::string::npos, run.output);
    }
}

TEST_CASE("names that lead out of the workspace place nothing") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("there/Chart/Chart.pm", "package ::above::Chart;\nsub draw { 1 }\n1;\n");
    driver.write("there/moon/src/rise.lua", "local set = require(\"..set\")\nreturn { rise = set.set }\n");
    driver.write("there/moon/src/set.lua", "local rise = require(\"..rise\")\nreturn { set = rise.rise }\n");
    for (const std::string name : {"Chart", "moon"}) {
        CAPTURE(name);
        const auto run =
            driver.envar({"adopt", "../there/" + name, "--into", "mods", "--copy", "--format", "json"}, "w");
        CHECK((run.status == 0 || run.status == 1));
        CHECK_MESSAGE(run.output.find("copied to") == std::string::npos, run.output);
    }
    CHECK(!fs::exists("/above"));
    CHECK(!driver.has("above"));
    CHECK(!driver.has("w/mods/set.lua"));
}

TEST_CASE("a link to a file means the file") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("given/5.1/moon.lua", "return { rises = function() return 18 end }\n");
    fs::create_directories(driver / "given/5.2");
    fs::create_symlink("../5.1/moon.lua", driver / "given/5.2/moon.lua");
    const auto folder = driver.envar({"adopt", "../given/5.2", "--into", "mods", "--copy"}, "w");
    CHECK(folder.status == 1);
    CHECK_MESSAGE(folder.errors.find("`moon.lua` is a link that leads out of the folder") != std::string::npos,
                  folder.errors);
    const auto run = driver.envar({"adopt", "../given/5.2/moon.lua", "--into", "mods", "--copy"}, "w");
    REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
    CHECK(fs::is_regular_file(fs::symlink_status(driver / "w/mods/moon/moon.lua")));
    CHECK(driver.envar({"trial"}, "w").status == 0);
}

TEST_CASE("of needs in a circle the one goes that few files have, and none at once") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("given/sky/__init__.py", "def up():\n    return 1\n");
    driver.write("given/sky/plots.py", "import sky_extras.lines\n");
    driver.write("given/sky_extras/__init__.py", "def more():\n    return 2\n");
    for (const std::string file : {"lines", "circles"})
        driver.write("given/sky_extras/" + file + ".py", "import sky\n\n\ndef draw():\n    return sky.up()\n");
    // A file among folders that are modules is one by itself.
    driver.write("given/night.py", "from sky import up\n");
    const auto run = driver.envar({"adopt", "../given", "--into", "mods", "--copy"}, "w");
    REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
    for (const std::string told : {"sky does not load sky_extras at once, and sky_extras needs sky in turn",
                                   "night 0.1.0 for python, 0 members, needs 1 module",
                                   "sky_extras 0.1.0 for python, 1 member, needs 1 module"})
        CHECK_MESSAGE(run.output.find(told) != std::string::npos, run.output);
    CHECK(!driver.has("w/mods/night/sky"));
    CHECK(driver.envar({"check"}, "w").output.find("nothing found") != std::string::npos);
    const auto trial = driver.envar({"trial"}, "w");
    CHECK_MESSAGE(trial.output.find("3 modules loaded as predicted") != std::string::npos, trial.output);
}

TEST_CASE("the version stands in the code as a text, with its type, or as a list of numbers") {
    struct Row {
        std::string file, line, version;
    };
    for (const Row& row :
         {Row{"sky/__init__.py", "__version__: str = \"1.2.3\"", "1.2.3"},
          {"sky/__init__.py", "VERSION = 1, 45\n__version__ = '.'.join(map(str, VERSION))", "1.45.0"},
          {"sky/__init__.py", "Version = '3.6.12'\n__version__ = Version", "3.6.12"},
          {"sky/__meta__.py", "__version_info__ = (3, 4, 1, 'final', 0)", "3.4.1"},
          {"sky/version.py", "version = '6.1'", "6.1.0"},
          {"sky/__init__.py", "PROTOCOL_VERSION = '9.9'\nversion = None", "0.1.0"}}) {
        CAPTURE(row.line);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        driver.write("given/sky/__init__.py", "def up():\n    return 1\n");
        driver.write("given/" + row.file, row.line + "\n");
        const auto run = driver.envar({"adopt", "../given/sky", "--into", "mods", "--copy"}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        CHECK_MESSAGE(run.output.find("sky " + row.version + " for python") != std::string::npos, run.output);
        CHECK(driver.envar({"trial"}, "w").status == 0);
    }
}

TEST_CASE("what only helps to build and to place scripts is none of them") {
    struct Row {
        std::map<std::string, std::string> files;
        std::string told;
        std::string folder = "orbit-1.3.4";
    };
    const std::string makefile = "PREFIX = /usr\ninstall:\n\tcp lua/orbit.lua $(PREFIX)/share\n";
    for (const Row& row : std::vector<Row>{
             // Scripts with a Makefile are no compiled module, and may lie in a folder called like their language.
             {{{"Makefile", makefile},
               {"lua/orbit.lua", "local M = {}\nfunction M.turn(x) return x end\nreturn M\n"},
               {"lua/orbit/deep.lua", "return {}\n"}},
              "orbit 1.3.4 for lua, 1 member"},
             {{{"Makefile", makefile}, {"orbit/__init__.py", "def turn(x):\n    return x\n"}},
              "orbit 1.3.4 for python, 1 member"},
             // Of Perl's folders the one for the code counts, though names in others have fewer parts.
             {{{"inc/MakeTests.pm", "package inc::MakeTests;\nsub make { 1 }\n1;\n"},
               {"lib/Orbit/Turn/Sky.pm",
                "package Orbit::Turn::Sky;\nour $VERSION = '1.3.4';\nuse Exporter 'import';\n"
                "our @EXPORT_OK = qw(turn again all);\nsub turn { 1 }\n{ *again = \\ &turn; }\n"
                "*all = sub { 2 };\n1;\n"}},
              "Orbit::Turn::Sky 1.3.4 for perl, 3 members"},
             {{{"orbit.zsh-theme", "turn() { print -r -- $1 }\n"}, {"README.md", "# Orbit\n"}},
              "orbit 1.3.4 for zsh, 1 member"},
             // What tells its name counts for more than a script of whatever name, and the host that the folder is
             // called after for more than another that could read the same.
             {{{"prepare.sh", "prepare() { :; }\n"},
               {"orbit.scm", "(define-module (orbit) #:export (turn))\n(define (turn x) x)\n"}},
              "orbit 1.3.4 for guile, 1 member"},
             {{{"bash_orbit",
                "turn() { echo \"$1\"; }\nfor one in \"${ORBITS:-/none}\"/*; do . \"$one\"; done 2>/dev/null\n"},
               {"orbit.cmake.in", "endif ()\n"}},
              "bash_orbit 1.3.4 for bash, 1 member",
              "bash-orbit-1.3.4"}}) {
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        for (const auto& [file, text] : row.files) driver.write("given/" + row.folder + "/" + file, text);
        const auto run = driver.envar({"adopt", "../given/" + row.folder, "--into", "mods", "--copy"}, "w");
        CHECK_MESSAGE(run.output.find("\n" + row.told) != std::string::npos, row.told, run.output, run.errors);
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const auto trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.output.find("1 module loaded as predicted") != std::string::npos, trial.output);
    }
}

TEST_CASE("a script that ends whoever reads it in is a program, and no module") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("given/orbit/installer.sh", "#!/bin/sh\nplace() { :; }\ncase $1 in\n-h) exit 1 ;;\nesac\nexit 0\n");
    const auto refused = driver.envar({"adopt", "../given/orbit", "--into", "mods", "--copy"}, "w");
    CHECK_MESSAGE(refused.status == 1, refused.output);
    driver.write("given/orbit/installer.sh", "place() { :; }\n[ -n \"$HOME\" ] || exit 1\n");
    const auto run = driver.envar({"adopt", "../given/orbit", "--host", "bash", "--into", "mods", "--copy"}, "w");
    CHECK_MESSAGE(run.output.find("installer 0.1.0 for bash, 1 member") != std::string::npos, run.output, run.errors);
}

TEST_CASE("an entry file that gives back the table of another file has what that has") {
    struct Case {
        std::string entry, members;
    };
    for (const Case& one : std::vector<Case>{
             {"return require(\"star_chart.core\")\n", "3 members"},
             {"return require(... .. \".core\")\n", "3 members"},
             {"local M = require \"star_chart.core\"\nfunction M.more() end\nreturn M\n", "4 members"},
             {"local M = require \"star_chart.core\"\nfunction M.draw(all) end\nreturn M\n", "3 members"},
             {"local core = require \"star_chart.core\"\nreturn { draw = core.draw }\n", "1 member"},
             {"if jit then return require(\"star_chart.core\") end\nlocal M = {}\nfunction M.draw() end\nreturn M\n",
              "1 member"},
             {"return require(\"star_chart.core\").inner\n", "1 member"},
         }) {
        CAPTURE(one.entry);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        driver.write("given/star_chart/init.lua", one.entry);
        driver.write("given/star_chart/core.lua",
                     "local M = require(\"star_chart.places\")\nfunction M.draw(stars, scale) return stars end\n"
                     "M.inner = { far = 1 }\nreturn M\n");
        driver.write("given/star_chart/places.lua",
                     "local P = {}\nfunction P.place(star) return star end\nfunction P._own() end\nreturn P\n");
        const auto run = driver.envar({"adopt", "../given/star_chart", "--into", "mods", "--copy"}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        const bool is_of_value = one.entry.find(").inner") != std::string::npos;  // only running it tells
        if (!is_of_value) CHECK_MESSAGE(run.output.find("for lua, " + one.members) != std::string::npos, run.output);
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const auto trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE((trial.status == 0) == !is_of_value, trial.output);
    }
}

TEST_CASE("of several packages in a file the one counts that its host finds there") {
    for (const std::string folder : {"given", "given/lib", "given/Star/lib"}) {
        CAPTURE(folder);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        for (const std::string name : {"Star", "Star::Light_Box"})
            driver.write(folder + (name == "Star" ? "/Star.pm" : "/Star/Light_Box.pm"),
                         "package " + name + "::Piece;\nuse strict;\nsub new { return 1 }\n\npackage " + name +
                             ";\nuse version; our $VERSION = qv(\"v0.2.1\");\nsub open { return 2 }\n1;\n");
        const auto run = driver.envar({"adopt", "../given", "--into", "mods", "--copy"}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        CHECK_MESSAGE(run.output.find("Star 0.2.1 for perl, 1 member") != std::string::npos, run.output);
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const auto trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.output.find("1 module loaded as predicted") != std::string::npos, trial.output);
    }
}

TEST_CASE("what a list of exports names counts, though only running the code makes it") {
    struct Case {
        std::string file, text, told, seen;
    };
    for (const Case& one : std::vector<Case>{
             {"Star.pm",
              "package Star;\nuse Exporter 'import';\nour @EXPORT_OK = qw(\n\tplace draw\n);\n"
              "our @more = ('far', # near\n  '&wide', '$Epoch');\n"
              "our %EXPORT_TAGS = ('all' => [@EXPORT_OK, @more]);\npush @EXPORT_OK, @more;\n"
              "push @EXPORT_OK, 'clock' if $^O eq 'none';\nour $Epoch = 2000;\n"
              "sub place { 1 }\nfor my $name (qw(draw far wide)) { no strict 'refs'; *$name = sub { $name } }\n1;\n",
              "4 members", "draw function mods/given/Star.pm:4"},
             {"Star.pm",
              "package Star;\nuse Exporter 'import';\nour @EXPORT = qw(FAR NEAR);\nour $AUTOLOAD;\n"
              "sub AUTOLOAD { my $name = $AUTOLOAD; return length $name }\n1;\n",
              "2 members", "FAR function mods/given/Star.pm:3"},
             {"Star.pm",  // there is no code that makes any
              "package Star;\nuse Exporter 'import';\nour @EXPORT_OK = qw(place gone);\n"
              "sub place { return eval { 1 } }\n1;\n",
              "1 member", "place function mods/given/Star.pm:4"},
             {"Star.pm",  // what Envar writes from the manifest does not tell what the code makes
              "package Star;\nuse Exporter 'import';\n# Envar's block exports, 00: yours is around it\n"
              "our @EXPORT_OK = qw(place gone);\n# Envar's block exports ends here\n"
              "sub place { return eval \"1\" }\n1;\n",
              "1 member", "place function mods/given/Star.pm:6"},
             {"star.scm",
              "(define-module (star)\n  :use-module (ice-9 format)\n  :export (;; places\n           place\n"
              "           (far* . far) %own))\n(define (place x) x)\n"
              "(define-syntax-rule (make name) (begin (define (name) 1)))\n(make far*)\n(make %own)\n",
              "3 members", "far function mods/given/star.scm:5"},
             {"star/__init__.py",
              "__all__ = [\"place\", 'far',  # 'near'\n           \"charts\"]\n__all__ += [n for n in ('draw',)]\n"
              "(south, north) = (-1, 1)\n__all__.extend([\"north\"])\ndef place(x): pass\n"
              "globals().update(far=1, draw=2)\n",
              "3 members", "far function mods/star/__init__.py:1"},
         }) {
        CAPTURE(one.text);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        driver.write("given/" + one.file, one.text);
        if (one.file.ends_with(".py")) driver.write("given/star/charts.py", "x = 1\n");
        const auto run = driver.envar({"adopt", "../given", "--into", "mods", "--copy"}, "w");
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
        CHECK_MESSAGE(run.output.find(", " + one.told) != std::string::npos, run.output);
        const auto members = driver.envar({"members"}, "w");
        CHECK_MESSAGE(without_columns(members.output).find(one.seen) != std::string::npos, members.output);
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const auto trial = driver.envar({"trial"}, "w");
        const bool is_of_expression = one.text.find("for n in") != std::string::npos;  // only running it tells `draw`
        CHECK_MESSAGE((trial.status == 0) == !is_of_expression, trial.output);
    }
}
