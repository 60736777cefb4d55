// `envar gather` through the built program, and what was gathered in the real hosts: a function that moved out of its
// script behaves as before.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "core/files/read.hpp"
#include "tests/support/driver.hpp"
#include "tests/support/loose_scripts.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

json gathered(const Driver& driver) { return json::parse(driver.read("w/envar-results/gather.json")); }

/// A host, a script for it, a call as it stands in the script, and the same of the module `tools`.
struct Row {
    std::string host, module, file;  // of tests/gather
    std::vector<std::string> run;    // how the host runs a file
    std::string call;                // at the end of the script
    std::string load, module_call;   // a program that loads the module; "" : as `call`
    std::string variable, folder;    // by which it is found
    std::vector<std::string> forms;
};

const std::vector<std::string> both = {"one_file", "file_each"};

const std::vector<Row>& rows() {
    static const std::vector<Row> all = {
        {"bash",
         "tools",
         "night.sh",
         {"bash", "--noprofile", "--norc"},
         "all\nlabel b; plain '$x'\n",
         "source w/shell/load.bash\nload_module tools || exit 1\n",
         "",
         "ENVAR_BASH_PATH",
         "w/shell",
         both},
        {"zsh",
         "tools",
         "night.zsh",
         {"zsh", "-f"},
         "all\nlabel b\n",
         "fpath=($PWD/w/shell/tools/functions $fpath)\nautoload -Uz tools; tools || exit 1\n",
         "",
         "",
         "",
         both},
        {"fish",
         "tools",
         "night.fish",
         {"fish", "--no-config"},
         "all\nlabel x\n",
         "set fish_function_path $PWD/w/shell/tools/functions $fish_function_path\nfunctions -q tools; or exit 1\n",
         "",
         "",
         "",
         both},
        {"lua",
         "tools",
         "night.lua",
         {"lua5.4"},
         "print(all()) print(label('x'))\n",
         "local tools = require('tools')\n",
         "print(tools.all()) print(tools.label('x'))\n",
         "LUA_PATH",
         "w/lua/?.lua;w/lua/?/init.lua;;",
         both},
        {"python",
         "tools",
         "night.py",
         {"python3", "-B"},
         "print(all_of(1, x=2), size(4, more='!'))\n",
         "import tools\n",
         "print(tools.all_of(1, x=2), tools.size(4, more='!'))\n",
         "PYTHONPATH",
         "w/python",
         both},
        {"perl",
         "Tools",
         "night.pl",
         {"perl"},
         "print all_of(), label('x'), qq(\\n);\n",
         "use Tools qw(all_of label);\n",
         "",
         "PERL5LIB",
         "w/perl/Tools/lib",
         {"one_file"}},
        {"tcl",
         "tools",
         "night.tcl",
         {"tclsh"},
         "puts [all x y]; puts [label x 9]\n",
         "package require tools\n",
         "puts [tools all x y]; puts [tools label x 9]\n",
         "TCLLIBPATH",
         "w/tcl",
         both},
        {"guile",
         "tools",
         "night.scm",
         {"guile", "--no-auto-compile"},
         "(write (all 10)) (display (label \"x\")) (newline)\n",
         "(use-modules (tools))\n",
         "",
         "GUILE_LOAD_PATH",
         "w/guile/tools/lib",
         {"one_file"}},
    };
    return all;
}

/// Runs a text in the host, in the scratch folder.
Run in_host(const Driver& driver, const Row& row, const std::string& file, const std::string& text) {
    driver.write(file, text);
    std::vector<std::string> words = {"env", "-C", driver / ""};
    words.insert(words.end(), row.run.begin(), row.run.end());
    words.push_back(file);
    process::Environment variables;
    if (!row.variable.empty()) variables[row.variable] = row.folder;
    return driver.program(words, variables);
}

}  // namespace

TEST_CASE("functions that moved behave as before, in every host and form") {
    for (const Row& row : rows())
        for (const std::string& form : row.forms) {
            CAPTURE(row.host);
            CAPTURE(form);
            const Driver driver;
            const std::string script = *files::read_file(ENVAR_SOURCE_FOLDER "/tests/gather/" + row.file, 1U << 20U);
            driver.write("scripts/" + row.file, script + "\n" + row.call);
            const std::string scripts = driver.read("scripts/" + row.file);
            const auto before = in_host(driver, row, "before", script + "\n" + row.call);
            REQUIRE_MESSAGE(before.status == 0, before.errors);
            REQUIRE(!before.output.empty());
            REQUIRE(driver.envar({"begin", "w"}).status == 0);
            const auto made =
                driver.envar({"gather", row.module, "--host", row.host, "--form", form, "--from", "../scripts"}, "w");
            REQUIRE_MESSAGE(made.status == 0, made.output, made.errors);
            const auto after =
                in_host(driver, row, "after", row.load + (row.module_call.empty() ? row.call : row.module_call));
            CHECK_MESSAGE(after.output == before.output, after.errors, driver.read("after"));
            CHECK(after.status == 0);
            CHECK(driver.read("scripts/" + row.file) == scripts);
            const auto check = driver.envar({"check"}, "w");
            CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
            const auto trial = driver.envar({"trial", "--tests"}, "w");
            CHECK_MESSAGE(trial.status == 0, trial.output, trial.errors);
            const auto members = driver.envar({"members"}, "w");
            CHECK_MESSAGE(members.status == 0, members.output);
            CHECK(driver.envar({"undo"}, "w").status == 0);
        }
}

TEST_CASE("all duplicates that were planted in many scripts are found") {
    const Driver driver;
    const auto planted = tests::write_loose_scripts(driver / "scripts", 60, 7);
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    const auto listed = driver.envar({"gather", "--list", "--host", "bash", "--from", "../scripts"}, "w");
    REQUIRE_MESSAGE(listed.status == 0, listed.errors);
    CHECK(listed.output.find("more duplicates, in the results") != std::string::npos);
    const json result = gathered(driver);
    CHECK(result["functions"].size() == 60 * 10);
    tests::Planted found;
    for (const auto& duplicate : result["duplicates"]) {
        std::set<std::string> names;
        for (const auto& function : duplicate["functions"]) names.insert(function["name"]);
        const std::string kind = duplicate["kind"];
        if (kind == "same") found.same.insert(*names.begin());
        if (kind == "versions" && *names.begin() != "main") found.versions.insert(*names.begin());
        if (kind == "copies") found.copies.insert(names);
        if (kind == "alike") found.alike.insert(names);
        CHECK((kind == "same") == duplicate["difference"].get<std::string>().empty());
    }
    CHECK(found.same == planted.same);
    CHECK(found.versions == planted.versions);
    CHECK(found.copies == planted.copies);
    CHECK(found.alike == planted.alike);
}

TEST_CASE("what is chosen, what comes along and what is warned of") {
    const std::string open =
        "LOG=\"$HOME/night.log\"\nset -u\n# Says the time.\nstamp() { date -u +%H:%M; }\n"
        "_quiet() { :; }\nnote() { printf '%s %s\\n' \"$(stamp)\" \"$1\" >>\"$LOG\"; _quiet; }\n"
        "shutter_open() {\n    clear\n    read -r answer\n    note opening\n    ssh dome@dome.varnhill.example\n    ls /home/dome/x\n"
        "    exit 1\n}\nif true; then maybe() { :; }; fi\nshutter_open\n";
    const std::string close =
        "LOG=/dev/null\n# Says the time and the second.\nstamp() { date -u +%H:%M:%S; }\n"
        "shutter_close() { stamp; maybe; }\na::b() { :; }\n";
    struct Row {
        std::vector<std::string> arguments;
        int status;
        std::string members, helpers;   // as taken, sorted by place
        std::vector<std::string> told;  // in what is said
        std::vector<std::string> untold;
    };
    const std::vector<Row> rows = {
        {{},
         1,
         "",
         "",
         {"`stamp` stands for different things: scripts/close.sh:3, scripts/open.sh:4", "--prefer scripts/close.sh"},
         {}},
        {{"--pick", "note", "--prefer", "open.sh"},
         0,
         "note",
         "stamp _quiet",
         {"open.sh:1: what sets LOG comes along", "statements at the outermost level stay behind"},
         {"shutter_open"}},
        {{"--pick", "shutter_open", "--pick", "close.sh:stamp"},
         0,
         "stamp shutter_open",
         "_quiet note",
         {"clears the screen", "reads from standard input", "ends the whole shell",
          "holds a fixed path: /home/dome/x", "holds a fixed host: dome@dome.varnhill.example",
          "note calls the stamp of scripts/close.sh:3 from now on, which differs from its own"},
         {}},
        {{"--drop", "open.sh:stamp", "--drop", "note", "--drop", "shutter_open"},
         0,
         "stamp shutter_close",
         "",
         {"calls maybe, which is defined in a block", "a::b is left out: its name is none for a member",
          "maybe is left out: it is defined in a block",
          "close.sh could load it, and do without its own stamp, shutter_close: load_module tools"},
         {}},
        {{"--pick", "shuter_open"},
         1,
         "",
         "",
         {"no script defines `shuter_open`", "did you mean `shutter_open`?"},
         {}},
        {{"--pick", "close.sh:note"},
         1,
         "",
         "",
         {"`note` is not defined in close.sh", "it is in scripts/open.sh:6"},
         {}},
        {{"--pick", "a::b"}, 1, "", "", {"its name is none for a member"}, {}},
        {{"--prefer", "none.sh"}, 1, "", "", {"`none.sh` is none of the scripts"}, {}},
        {{"--pick", "note", "--prefer", "open.sh", "--form", "many"},
         1,
         "",
         "",
         {"are not gathered as many", "one_file, file_each"},
         {}},
    };
    for (const Row& row : rows) {
        CAPTURE(fmt::format("{}", fmt::join(row.arguments, " ")));
        const Driver driver;
        driver.write("w/scripts/open.sh", open);
        driver.write("w/scripts/close.sh", close);
        driver.write("w/scripts/broken.sh", std::string("f() { :; }\0", 11));
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        std::vector<std::string> arguments = {"gather", "tools", "--host", "bash", "--from", "scripts"};
        arguments.insert(arguments.end(), row.arguments.begin(), row.arguments.end());
        const auto run = driver.envar(arguments, "w");
        CHECK_MESSAGE(run.status == row.status, run.output, run.errors);
        const std::string said = run.output + run.errors;
        CHECK(said.find("passed over: scripts/broken.sh: it is no text") != std::string::npos);
        for (const auto& text : row.told) CHECK_MESSAGE(said.find(text) != std::string::npos, text, "\n", said);
        CHECK(driver.has("w/shell/tools/tools.bash") == (row.status == 0));
        if (row.status != 0) continue;
        std::map<std::string, std::vector<std::string>> taken;
        const json result = gathered(driver);
        for (const auto& function : result["functions"]) taken[function["taken_as"]].push_back(function["name"]);
        CHECK(fmt::format("{}", fmt::join(taken["member"], " ")) == row.members);
        CHECK(fmt::format("{}", fmt::join(taken["helper"], " ")) == row.helpers);
        const std::string code = driver.read("w/shell/tools/tools.bash");
        for (const auto& text : row.untold) CHECK(code.find(text) == std::string::npos);
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
    }
}

TEST_CASE("with --format json there is one document on standard output") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/a.sh", "f() { g; }\ng() { :; }\n");
    driver.write("w/b.sh", "f() { g 2; }\n");
    driver.write("w/lua/old/init.lua", "local M = {}\nfunction M.f() end\nreturn M\n");
    for (const auto& [arguments, key] : std::vector<std::pair<std::vector<std::string>, std::string>>{
             {{"gather", "--list", "--host", "bash", "--from", "a.sh"}, "functions"},
             {{"gather", "t", "--host", "bash", "--from", "a.sh", "b.sh"}, "clashes"},
             {{"gather", "t", "--host", "bash", "--from", "a.sh"}, "changes"},
             {{"adopt", "lua/old"}, "changes"},
             {{"members"}, "modules"},
             {{"compare", "--record"}, "changes"},
             {{"compare", "old"}, "differences"}}) {
        const std::string about = fmt::format("{}", fmt::join(arguments, " "));
        CAPTURE(about);
        std::vector<std::string> all = arguments;
        all.insert(all.end(), {"--format", "json"});
        const auto run = driver.envar(all, "w");
        REQUIRE_MESSAGE(json::accept(run.output), run.output);
        CHECK(json::parse(run.output).contains(key));
    }
}

TEST_CASE("a script is whose program its first line names") {
    const std::vector<std::pair<std::string, std::string>> scripts = {{"plain.sh", ""},
                                                                      {"posix.sh", "#!/bin/sh -e"},
                                                                      {"small", "#!/usr/bin/env dash"},
                                                                      {"split", "#!/usr/bin/env -S LC_ALL=C bash -e"},
                                                                      {"named.bash", "#!/usr/bin/zsh"},
                                                                      {"other.sh", "#!/usr/bin/env zsh"},
                                                                      {"fishy", "#!/usr/bin/fish"},
                                                                      {"shell.sh", "#!/opt/shell"}};
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    for (const auto& [file, line] : scripts)
        driver.write("w/s/" + file, line + "\nof_" + file.substr(0, file.find('.')) + "() { echo \"$1\"; }\n");
    const Run run = driver.envar({"gather", "--list", "--host", "bash", "--from", "s"}, "w");
    CHECK(run.status == 0);
    std::set<std::string> names;
    const json result = gathered(driver);
    for (const auto& function : result["functions"]) names.insert(function["name"].get<std::string>());
    CHECK(names == std::set<std::string>{"of_named", "of_plain", "of_posix", "of_small", "of_split"});
    CHECK(run.errors.find("passed over: s/other.sh: it is for zsh") != std::string::npos);
    CHECK(run.errors.find("passed over: s/shell.sh: it is for shell") != std::string::npos);
    CHECK(run.errors.find("fishy") == std::string::npos);
    const Run made = driver.envar({"gather", "tools", "--host", "bash", "--from", "s", "--pick", "of_posix"}, "w");
    CHECK_MESSAGE(made.output.find("s/posix.sh could load it where bash runs it, not sh") != std::string::npos,
                  made.output);
    REQUIRE(gathered(driver)["scripts"].size() == 1);
    CHECK(gathered(driver)["scripts"][0]["program"] == "sh");
    // One that is named is taken, whatever it says.
    CHECK(driver.envar({"gather", "--list", "--host", "bash", "--from", "s/other.sh"}, "w").output.find("of_other") !=
          std::string::npos);
}

TEST_CASE("scripts that are none, hostile ones and empty folders") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/empty/readme.txt", "no script");
    driver.write("w/hard/long.sh", "f() { echo " + std::string(3'000'000, 'x') + "; }\n");
    driver.write("w/hard/open.sh", "g() { echo 'never closed\nh() { :; }\n");
    driver.write("w/hard/latin.sh", "k() { echo \xE9\xFF; }\n");
    driver.write("w/hard/deep.sh", "d() { " + std::string(100'000, '{') + "\n");
    driver.write("w/hard/tool", "#!/bin/bash\nl() { echo l; }\n");
    driver.write("w/hard/other", "#!/usr/bin/perl\nsub m { 1 }\n");
    for (const auto& [arguments, status, told] : std::vector<std::tuple<std::vector<std::string>, int, std::string>>{
             {{"--list", "--host", "bash", "--from", "empty"}, 1, "there is no script for bash"},
             {{"--list", "--host", "bash", "--from", "nowhere"}, 1, "neither a script nor a folder"},
             {{"--list", "--host", "bash"}, 2, "needs --from"},
             {{"--list", "--from", "hard"}, 2, "needs --host"},
             {{"--host", "bash", "--from", "hard"}, 2, "needs the name of the new module"},
             {{"--list", "--host", "cmake", "--from", "hard"}, 1, "does not say how functions are gathered"},
             {{"--list", "--host", "bash", "--from", "hard"}, 0, "hard/tool:2"},
             {{"tools", "--host", "bash", "--from", "hard", "--pick", "f", "--pick", "k", "--pick", "l"},
              0,
              "3 members"},
         }) {
        std::vector<std::string> all = {"gather"};
        all.insert(all.end(), arguments.begin(), arguments.end());
        CAPTURE(fmt::format("{}", fmt::join(all, " ")));
        const auto run = driver.envar(all, "w");
        CHECK_MESSAGE(run.status == status, run.output.substr(0, 2000), run.errors.substr(0, 2000));
        CHECK_MESSAGE((run.output + run.errors).find(told) != std::string::npos, run.errors.substr(0, 2000));
        CHECK(run.output.find("hard/other") == std::string::npos);
    }
}
