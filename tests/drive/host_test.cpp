// Against the real hosts: what Envar says of them is what they do.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "core/versions/requirement.hpp"
#include "tests/support/driver.hpp"

using namespace envar;
using namespace envar::tests;
using nlohmann::json;

namespace {

const std::string hard = "It's \"hard\": \\ ]] --[[ */ $HOME `id` #{x} {{y}} %s\tz\xC3\xA4\nsecond line\\";

}  // namespace

TEST_CASE("a scaffolded module is clean and loads with no edit in between") {
    for (const std::string host : {"bash", "lua"})
        for (const bool hard_summary : {false, true}) {
            CAPTURE(host);
            const Driver driver;
            CHECK(driver.envar({"begin", "w"}).status == 0);
            std::vector<std::string> scaffold = {"scaffold", "star_field", "--host",   host,
                                                 "--member", "place",      "--member", "count"};
            if (hard_summary)
                scaffold.insert(scaffold.end(),
                                {"--set", "summary=" + hard, "--set", "author=" + hard, "--set", "license=MIT"});
            const Run made = driver.envar(scaffold, "w");
            CHECK_MESSAGE(made.status == 0, made.errors);
            CHECK(
                driver.envar({"scaffold", "user", "--host", host, "--depend", "star_field >=0.1, <1"}, "w").status ==
                0);
            const Run check = driver.envar({"check"}, "w");
            CHECK_MESSAGE(check.status == 0, check.output);
            const Run trial = driver.envar({"trial"}, "w");
            CHECK_MESSAGE(trial.status == 0, trial.output);
            CHECK(trial.output.find("2 modules loaded as predicted") != std::string::npos);
        }
}

TEST_CASE("the search path of Lua is the interpreter's own") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    const std::string real = driver.program({"lua5.4", "-e", "io.write(package.path)"}).output;
    const json result = json::parse(driver.envar({"paths", "--host", "lua", "--format", "json"}, "w").output);
    std::string told;
    for (const auto& entry : result["hosts"][0]["entries"])
        for (const auto& pattern : entry["tried"]) told += (told.empty() ? "" : ";") + pattern.get<std::string>();
    CHECK(told == real);
}

TEST_CASE("locate agrees with what the hosts load, in every layout") {
    struct Layout {
        std::string name;
        std::vector<std::string> files;    // relative to the workspace; "/" at the end: a folder; "a -> b": a link
        std::vector<std::string> folders;  // search folders
        std::string environment;           // further entries in the variable
    };
    for (const std::string host : {"lua", "bash"}) {
        const std::string ext = host == "lua" ? ".lua" : ".bash";
        const std::string inner = host == "lua" ? "target/init.lua" : "target/target.bash";
        const std::string flat = "target" + ext;
        const std::vector<Layout> layouts = {
            {"one", {"a/" + inner}, {"a"}, ""},
            {"flat", {"a/" + flat}, {"a"}, ""},
            {"both forms", {"a/" + flat, "a/" + inner}, {"a"}, ""},
            {"shadowing", {"a/" + inner, "b/" + flat}, {"a", "b"}, ""},
            {"first entry empty", {"a/other" + ext, "b/" + flat}, {"a", "b"}, ""},
            {"missing", {"a/other" + ext}, {"a"}, ""},
            {"entry missing", {"b/" + flat}, {"nowhere", "b"}, ""},
            {"same entry twice", {"a/" + inner}, {"a", "a"}, ""},
            {"case", {"a/Target" + ext, "b/" + flat}, {"a", "b"}, ""},
            {"folder for a file", {"a/" + flat + "/", "b/" + flat}, {"a", "b"}, ""},
            {"link", {"real" + ext, "a/" + flat + " -> ../real" + ext}, {"a"}, ""},
            {"dangling link", {"a/" + flat + " -> nowhere", "b/" + flat}, {"a", "b"}, ""},
            {"blanks and quotes", {"it's a \"folder\" $x/" + flat}, {"it's a \"folder\" $x"}, ""},
            {"in the present folder", {"start/" + flat}, {"a"}, ""},
            {"from the environment", {"extra/" + flat, "a/other" + ext}, {"a"}, "extra"},
            {"workspace before environment", {"extra/" + flat, "a/" + flat}, {"a"}, "extra"},
        };
        int agree = 0;
        for (const Layout& layout : layouts) {
            CAPTURE(host);
            CAPTURE(layout.name);
            const Driver driver;
            std::string workspace = "[workspace]\nname = \"w\"\nfolders = []\n";
            for (const auto& folder : layout.folders) {
                std::string quoted;
                for (const char c : folder) quoted += c == '"' ? std::string("\\\"") : std::string(1, c);
                workspace += fmt::format("[[search]]\nhost = \"{}\"\nfolder = \"{}\"\n", host, quoted);
            }
            driver.write("w/workspace.envar.toml", workspace);
            driver.write("w/start/here", "");
            for (const auto& file : layout.files) {
                const std::size_t arrow = file.find(" -> ");
                if (file.back() == '/') {
                    driver.write("w/" + file + "x", "");
                } else if (arrow != std::string::npos) {
                    driver.write("w/" + file.substr(0, arrow) + "~", "");
                    std::filesystem::create_symlink(file.substr(arrow + 4), driver / ("w/" + file.substr(0, arrow)));
                } else {
                    driver.write("w/" + file, host == "lua" ? "return {}\n" : ":\n");
                }
            }
            driver.envar({"emit"}, "w");
            process::Environment variables;
            if (!layout.environment.empty()) {
                const std::string folder = (driver / "w").string() + "/" + layout.environment;
                if (host == "lua") variables["LUA_PATH_5_4"] = folder + "/?.lua;;";
                if (host == "bash") variables["ENVAR_BASH_PATH"] = folder;
            }
            const std::string session = driver.envar({"session", "--shell", "bash"}, "w").output;
            driver.write("session", session);
            const std::string code =
                host == "lua"
                    ? "cd w/start && lua5.4 -e 'local fine, result, file = pcall(require, \"target\"); io.write(fine and file or "
                      "(tostring(result):match(\"error loading[^\\n]*file .([^\\n]-).:\") or \"\"))'"
                    : "cd w/start && load_module target 2>/dev/null; printf %s \"${load_module_files[target]-}\"";
            const std::string loader =
                host == "bash" ? "source '" + std::string(ENVAR_SOURCE_FOLDER) + "/hosts/bash/load.bash.mustache'; "
                               : "";
            const std::string real =
                driver.program({"bash", "--norc", "-c", "source ./session 2>/dev/null; " + loader + code}, variables)
                    .output;
            process::Environment seen = variables;
            const Run run = driver.envar_with(
                variables,
                {"locate", "target", "--host", host, "--from", (driver / "w/start").string(), "--format", "json"},
                "w");
            const json result = json::parse(run.output, nullptr, false);
            REQUIRE(result.is_object());
            const std::string told = result["chosen"].is_null() ? "" : result["chosen"]["file"].get<std::string>();
            CHECK(told == real);
            agree += told == real;
            if (layout.name == "folder for a file" && host == "lua")
                CHECK(run.status == 1);  // found, but it cannot be loaded
        }
        MESSAGE(host << ": " << agree << " of " << layouts.size() << " agree");
    }
}

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
        const Run run = driver.envar({"trial", "--seconds", "1"}, "w");
        CHECK(run.status == row.status);
        CHECK_MESSAGE(run.output.find(row.expect) != std::string::npos, run.output);
    }
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
