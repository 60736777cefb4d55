// Against the real hosts: what Envar says of them is what they do.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <chrono>

#include <nlohmann/json.hpp>

#include "core/versions/requirement.hpp"
#include "tests/support/driver.hpp"

using namespace envar;
using namespace envar::tests;
using nlohmann::json;

TEST_CASE("the loader of bash judges versions as Envar does") {
    const Driver driver;
    const std::vector<std::string> requirements = {"any",
                                                   "=1",
                                                   "=1.2",
                                                   "=1.2.3",
                                                   "!=1.2",
                                                   "<1.2",
                                                   "<=1.2",
                                                   ">1.2",
                                                   ">=1.2",
                                                   ">1",
                                                   "<=1",
                                                   "compatible 1.2",
                                                   "compatible 0.2",
                                                   "compatible 0.2.3",
                                                   ">=1.1, <2",
                                                   "=1.0.0 | >=1.3",
                                                   ">=1.2.3-rc.1",
                                                   "<1.2.3-rc.2",
                                                   "=1.2.3-rc.1",
                                                   "compatible 1.2.3-beta",
                                                   " >=1 ,<2 | =3",
                                                   ">=1.2.3-alpha.1, <1.2.3"};
    const std::vector<std::string> all = {
        "0.1.0",      "0.2.0",       "0.2.3",      "0.2.9",         "0.3.0",   "1.0.0",      "1.1.9",
        "1.2.0",      "1.2.3",       "1.2.10",     "1.3.0",         "2.0.0",   "3.0.1",      "1.2.3-rc.1",
        "1.2.3-rc.2", "1.2.3-rc.10", "1.2.3-beta", "1.2.3-alpha.1", "1.2.3-1", "2.0.0-rc.1", "1.2.3+build"};
    std::string script =
        "source '" ENVAR_SOURCE_FOLDER
        "/hosts/bash/load.bash.mustache'\nwhile IFS='\t' read -r version requirement; do\n"
        "m_version=$version\n_load_module_meets m \"$requirement\" 2>/dev/null && echo yes || echo no\ndone <<'END'\n";
    std::string expected;
    for (const auto& requirement : requirements)
        for (const auto& version : all) {
            script += version + "\t" + requirement + "\n";
            expected +=
                versions::meets(*versions::parse_version(version), *versions::parse_requirement(requirement)) ||
                        requirement == "any"
                    ? "yes\n"
                    : "no\n";
        }
    driver.write("script", script + "END\n");
    const Run run = driver.program({"bash", "script"});
    std::size_t line = 0;
    for (std::size_t i = 0; i + 1 < expected.size() && i + 1 < run.output.size() && expected[i] == run.output[i]; ++i)
        line += expected[i] == '\n';
    CHECK_MESSAGE(run.output == expected,
                  "first difference: " << all[line % all.size()] << " against "
                                       << requirements[line / all.size() % requirements.size()]);
}

TEST_CASE("a session can be entered twice and left again") {
    const Driver driver;
    driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "it's $(a) `dome` \\ \"x\"");
    const std::string folder = "it's $(a) `dome` \\ \"x\"";
    CHECK(driver.envar({"emit"}, folder).status == 0);
    driver.write("session", driver.envar({"session", "--shell", "bash", "--load", "night_log"}, folder).output);
    const std::string script =
        "export LUA_PATH_5_4='/mine/?.lua'; unset ENVAR_BASH_PATH; source ./session; first=$LUA_PATH_5_4; source ./session;"
        "[[ $first == \"$LUA_PATH_5_4\" ]] || echo not idempotent;"
        "NIGHT_LOG_FILE=$PWD/log NIGHT_LOG_TIME=21:04:00 night_log_write 'shutter open';"
        "LUA_PATH_5_4=\"$LUA_PATH_5_4;;\" lua5.4 -e 'print(#require(\"star_field\").place(6) > 0)';"
        "bash -c 'source ./session; [[ $LUA_PATH_5_4 == \"$0\" ]] || echo not the same in a child' \"$first\";"
        "envar_leave; echo \"$LUA_PATH_5_4\"; echo \"${ENVAR_BASH_PATH-unset}\"; env | grep -c ENVAR";
    const Run run = driver.program({"bash", "--norc", "-c", script});
    CHECK(run.output == "true\n/mine/?.lua\nunset\n0\n");
    CHECK(run.errors.empty());
    CHECK(driver.read("log") == "21:04:00  shutter open\n");
}

TEST_CASE("a trial sees what the prediction does not know") {
    struct Row {
        std::string name, file, find, replace, expect;
        int status;
    };
    const std::vector<Row> rows = {
        {"error while loading", "lua/legends/init.lua", "return M", "error('broken lamp')", "broken lamp", 1},
        {"syntax error", "lua/legends/init.lua", "return M", "return return", "near", 1},
        {"the host is ended", "lua/legends/init.lua", "return M", "os.exit(4)",
         "ended by itself while it loaded legends (exit status 4)", 1},
        {"the host hangs", "lua/legends/init.lua", "return M", "while true do end", "time limit of 1 s", 1},
        {"a flood", "lua/legends/init.lua", "return M", "for i = 1, 1e5 do print(('x'):rep(50)) end return M",
         "7 modules loaded as predicted", 0},
        {"a member made at run time", "lua/legends/init.lua", "return M", "M[\"made\" .. \"_late\"] = print return M",
         "shows `made_late`", 1},
        {"a wrong version", "lua/legends/init.lua", "about.version", "\"9.9.9\"", "tells version 9.9.9", 1},
        {"an undeclared need", "lua/legends/init.lua", "local M", "local _ = require('star_field')\nlocal M",
         "was loaded as number", 1},
        {"an undeclared need of what is loaded already", "lua/star_field/init.lua", "local M",
         "require('legends')\nlocal M", "star_field: loads legends, which its manifest does not declare", 1},
        {"bash: an undeclared need", "shell/night_log/night_log.bash", "night_log_show()",
         "load_module shutter_ops\nnight_log_show()", "night_log: loads shutter_ops, which", 1},
        {"bash: error", "shell/night_log/night_log.bash", "night_log_show()", "return 5\nnight_log_show()",
         "could not be loaded", 1},
        {"bash: ended", "shell/night_log/night_log.bash", "night_log_show()", "exit 6\nnight_log_show()",
         "while it loaded night_log (exit status 6)", 1},
        {"bash: a function made at run time", "shell/night_log/night_log.bash", "night_log_show()",
         "eval 'made_late() { :; }'\nnight_log_show()", "shows `made_late`", 1},
    };
    for (const Row& row : rows) {
        CAPTURE(row.name);
        const Driver driver;
        driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "w");
        CHECK(driver.envar({"emit"}, "w").status == 0);
        std::string text = driver.read("w/" + row.file);
        REQUIRE(text.find(row.find) != std::string::npos);
        text.replace(text.find(row.find), row.find.size(), row.replace);
        driver.write("w/" + row.file, text);
        const Run run = driver.envar(
            {"trial", "--seconds", "1", "shutter_ops", "frame_archive", "constellations", "legends"}, "w");
        CHECK(run.status == row.status);
        CHECK_MESSAGE(run.output.find(row.expect) != std::string::npos, run.output);
    }
}

TEST_CASE("whatever a module does to its host, the trial ends in time with the host's own words") {
    struct Row {
        std::string host, name, file;
        std::string breaks, ends, hangs, floods;  // text put in front of the entry file's
        std::string words;                        // of the host, when it breaks
    };
    const std::vector<Row> rows = {
        {"bash", "lamps", "shell/lamps/lamps.bash", "no_such_command || return 3\n", "exit 7\n",
         "while :; do :; done\n", "for ((i = 0; i < 20000; i++)); do printf '%0100d\\n' 0; done\n",
         "no_such_command: command not found"},
        {"zsh", "lamps", "shell/lamps/functions/lamps", "no_such_command || return 3\n", "exit 7\n",
         "while :; do :; done\n", "repeat 20000 print ${(l:100::x:)}\n", "command not found: no_such_command"},
        {"fish", "lamps", "shell/lamps/functions/lamps.fish", "function (\n", "kill -KILL $fish_pid\n",
         "while true; end\n", "string repeat -n 20000 (string repeat -n 100 x)\n", "function"},
        {"lua", "lamps", "lua/lamps/init.lua", "error('lamp 7 is dark')\n", "os.exit(7)\n", "while true do end\n",
         "for i = 1, 20000 do print(('x'):rep(100)) end\n", "lamp 7 is dark"},
        {"tcl", "lamps", "tcl/lamps/lamps.tcl", "error {lamp 7 is dark}\n", "exit 7\n", "while 1 {}\n",
         "for {set i 0} {$i < 20000} {incr i} {puts [string repeat x 100]}\n", "lamp 7 is dark"},
        {"python", "lamps", "python/lamps/__init__.py", "raise RuntimeError('lamp 7 is dark')\n",
         "import os; os._exit(7)\n", "while True: pass\n", "print(('x' * 100 + '\\n') * 20000)\n",
         "RuntimeError: lamp 7 is dark"},
        {"perl", "Lamps", "perl/Lamps/lib/Lamps.pm", "die 'lamp 7 is dark';\n", "exit 7;\n", "1 while 1;\n",
         "print 'x' x 100, \"\\n\" for 1 .. 20000;\n", "lamp 7 is dark"},
        {"guile", "lamps", "guile/lamps/lib/lamps.scm", "(error \"lamp 7 is dark\")\n", "(primitive-exit 7)\n",
         "(let loop () (loop))\n", "(do ((i 0 (+ i 1))) ((= i 20000)) (display (make-string 100 #\\x)) (newline))\n",
         "lamp 7 is dark"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.host);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        const Run made = driver.envar({"scaffold", row.name, "--host", row.host}, "w");
        CHECK_MESSAGE(made.status == 0, made.errors);
        const std::string text = driver.read("w/" + row.file);
        const auto trial_with = [&](const std::string& front, const std::string& seconds) {
            driver.write("w/" + row.file, front + text);
            const auto start = std::chrono::steady_clock::now();
            const Run run = driver.envar({"trial", "--seconds", seconds}, "w");
            CHECK(std::chrono::steady_clock::now() - start < std::chrono::seconds(60));
            CHECK(run.output.size() < 20000);
            return run;
        };
        const Run broken = trial_with(row.breaks, "60");
        CHECK(broken.status == 1);
        CHECK_MESSAGE(broken.output.find(row.words) != std::string::npos, broken.output);
        const Run ended = trial_with(row.ends, "60");
        CHECK(ended.status == 1);
        CHECK_MESSAGE(
            ended.output.find(row.host == "fish" ? "exit status 137" : "exit status 7") != std::string::npos,
            ended.output);
        const Run hung = trial_with(row.hangs, "2");
        CHECK(hung.status == 1);
        CHECK_MESSAGE(
            hung.output.find("ended while it loaded " + row.name + " by the time limit of 2 s") != std::string::npos,
            hung.output);
        const Run flooded = trial_with(row.floods, "60");
        CHECK_MESSAGE(flooded.status == 0, flooded.output.substr(0, 2000));
        // No trace is left in the workspace, and none of the user's start-up files was read.
        driver.write("w/" + row.file, text);
        const auto before = driver.tree("w");
        for (const std::string startup : {".bashrc", ".bash_profile", ".zshrc", ".zshenv", ".profile",
                                          ".config/fish/config.fish", ".guile", ".tclshrc"})
            driver.write("home/" + startup, "exit 9\n");
        const Run again = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(again.status == 0, again.output);
        CHECK(driver.tree("w") == before);
        const Run missing = driver.envar_with({{"PATH", "/nonexistent"}}, {"trial"}, "w");
        CHECK(missing.status == 3);
        CHECK_MESSAGE(missing.errors.find("install the package ") != std::string::npos, missing.errors);
    }
}

TEST_CASE("of what a host says at length the beginning and the end are told, and where it was asked") {
    struct Row {
        std::string front;               // put in front of the entry file
        std::vector<std::string> lines;  // told, in this order
        bool cut;
    };
    const std::string many = "local t = {}\nfor i = 1, 400 do t[i] = 'line ' .. i .. ' of \u00fc' end\n";
    const std::vector<Row> rows = {
        {"require('nowhere')\n", {"init.lua:1: module 'nowhere' not found:", "no file './nowhere.so'"}, true},
        {many + "error(table.concat(t, '\\n'), 0)\n",
         {"lamps: the host says: line 1 of \u00fc\nline 2 of ", "more lines, in the results", "line 400 of \u00fc\n"},
         true},
        {"error('one\\ntwo\\nthree', 0)\n", {"the host says: one\ntwo\nthree\n"}, false},
        {"error(('\u00fc'):rep(3000), 0)\n",
         {"the host says: \u00fc\u00fc", "bytes left out", "\u00fc\u00fc\n"},
         false},
    };
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    CHECK(driver.envar({"scaffold", "lamps", "--host", "lua"}, "w").status == 0);
    const std::string text = driver.read("w/lua/lamps/init.lua");
    for (const Row& row : rows) {
        driver.write("w/lua/lamps/init.lua", row.front + text);
        const Run run = driver.envar({"trial"}, "w");
        CHECK(run.status == 1);
        std::size_t at = 0;
        for (const std::string& line : row.lines) {
            at = run.output.find(line, at);
            CHECK_MESSAGE(at != std::string::npos, line << "\n" << run.output);
            if (at == std::string::npos) break;
        }
        CHECK((run.output.find("more lines, in the results") != std::string::npos) == row.cut);
        CHECK(run.output.size() < 6000);
        CHECK(run.output.find("\xef\xbf\xbd") == std::string::npos);
    }
    // What is not shown is there.
    driver.write("w/lua/lamps/init.lua", many + "error(table.concat(t, '\\n'), 0)\n" + text);
    CHECK(driver.envar({"trial"}, "w").status == 1);
    CHECK(driver.read("w/envar-results/trial.json").find("line 200 of \u00fc\\nline 201 of") != std::string::npos);
}

TEST_CASE("a host that is not installed, and a host that Envar has never heard of") {
    const Driver driver;
    driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "w");
    CHECK(driver.envar({"emit"}, "w").status == 0);
    const Run none = driver.envar_with({{"PATH", "/nonexistent"}}, {"trial"}, "w");
    CHECK(none.status == 3);
    CHECK(none.errors.find("install the package bash") != std::string::npos);
    // A made-up host, taught by a card alone: `sh` with files of functions.
    driver.write(
        "w/hosts/cue/cue.host.toml",
        "[host]\nname = \"cue\"\nkind = \"script\"\nsummary = \"The cue runner.\"\nprograms = [\"sh\"]\n[naming]\nmodule = '[a-z]+'\nexample = \"dusk\"\n"
        "[layout]\nentry = \"{{name}}.cue\"\nextension = \".cue\"\nmember = \"{{name}}_go\"\n[search]\ncandidates = [\"{{path}}/{{path}}.cue\"]\n"
        "[[search.variable]]\nname = \"CUE_PATH\"\ncannot_hold = \":\"\n[language]\ncomment = \"#\"\nstring = [\"'\", \"'\"]\n"
        "[[language.member]]\npattern = '^(?P<name>\\w+)\\(\\)'\nexample = \"dusk_go()\"\n"
        "[[file]]\npath = \"{{name}}.cue\"\ntemplate = \"entry\"\nownership = \"authored\"\npurpose = \"the cues\"\n"
        "[[blueprint]]\nname = \"plain\"\nsummary = \"one file\"\n[trial]\narguments = [\"{{probe}}\"]\nprobe = \"probe\"\n");
    driver.write("w/hosts/cue/entry",
                 "{{#comment}}{{{summary}}}{{/comment}}\n{{#members}}\n{{{name}}}() { :; }\n{{/members}}\n");
    driver.write(
        "w/hosts/cue/probe",
        "say() { printf '%s\\036\\n' \"$1\" >>'{{{report}}}'; }\nF=$(printf '\\037')\n{{#modules}}\nsay \"begin${F}{{name}}\"\n. \"$CUE_PATH/{{name}}/{{name}}.cue\"\n"
        "say \"member${F}{{name}}${F}{{name}}_go\"\nsay \"loaded${F}{{name}}${F}$CUE_PATH/{{name}}/{{name}}.cue${F}${F}0\"\n{{/modules}}\nsay end\n");
    CHECK(driver.envar({"hosts", "check", "cue"}, "w").status == 0);
    const Run made = driver.envar({"scaffold", "dusk", "--host", "cue"}, "w");
    CHECK_MESSAGE(made.status == 0, made.errors);
    const Run check = driver.envar({"check"}, "w");
    CHECK_MESSAGE(check.status == 0, check.output);
    const Run trial = driver.envar({"trial", "dusk"}, "w");
    CHECK_MESSAGE(trial.output.find("1 module loaded as predicted") != std::string::npos, trial.output);
    CHECK(driver.envar({"session", "--shell", "bash"}, "w").output.find("CUE_PATH") != std::string::npos);
}
