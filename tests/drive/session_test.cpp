// Session scripts in the real shells, and what the real hosts make of the variables.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using namespace envar::tests;
using nlohmann::json;

namespace {

struct ShellRow {
    std::string shell;
    std::vector<std::string> command;  // runs a script, without start-up files
    std::string enter;                 // how `session` is taken in
    std::string print;                 // prints the variable VALUE for NAME in the environment, or nothing
    std::string set;                   // exports NAME with VALUE
};

const std::vector<ShellRow> shells = {
    {"bash", {"bash", "--norc"}, "source ./session", "printenv {} || true", "export {}='{}'"},
    {"zsh", {"zsh", "-f"}, "source ./session", "printenv {} || true", "export {}='{}'"},
    {"sh", {"dash"}, ". ./session", "printenv {} || true", "export {}='{}'"},
    {"fish", {"fish", "--no-config"}, "source ./session", "printenv {}; or true", "set -gx {} '{}'"},
    {"csh", {"tcsh", "-f"}, "source ./session", "printenv {} || true", "setenv {} '{}'"},
};

// Names that are hard for some shell, some variable or some host; all can be held by the variables used here.
const std::vector<std::string> hard_names = {
    "plain", "two words", " leading",      "trailing ", "tab\there",   "it's",       "\"quoted\"",
    "$HOME", "${HOME}",   "$(id)",         "`id`",      "back\\slash", "trailing\\", "a!b",
    "!!",    "*",         "[a-z]",         "{a,b}",     "{",           "}",          "~",
    "#hash", "a=b",       "a&b",           "a|b",       "<in>",        "(paren)",    "z\xC3\xA4hler \xE6\x98\x9F",
    "-dash", "%s %d",     "a'b\"c$d`e\\f", "''",        "new\nline",
};

std::string toml_text(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        if (c == '\n') out += "\\n";
        if (c == '\t') out += "\\t";
        if (c != '\n' && c != '\t') out += c;
    }
    return out + "\"";
}

/// A search folder of a workspace cannot have a line end in its name, but the workspace's own folder can.
struct Names {
    explicit Names(const std::string& name)
        : workspace(name.find('\n') == std::string::npos ? "w" : name),
          folder(name.find('\n') == std::string::npos ? name : "modules") {}
    std::string workspace, folder;
};

/// A workspace whose modules for Python, Perl and Tcl lie in a folder of that name.
void make_workspace(const Driver& driver, const std::string& hard_name) {
    const Names names(hard_name);
    const std::string& name = names.folder;
    const std::string w = names.workspace + "/";
    std::string text = "[workspace]\nname = \"w\"\nfolders = []\n";
    for (const std::string host : {"python", "perl", "tcl"})
        text += fmt::format("[[search]]\nhost = \"{}\"\nfolder = {}\n", host, toml_text(name));
    driver.write(w + "workspace.envar.toml", text);
    driver.write(w + name + "/target.py", "where = 'found'\n");
    driver.write(w + name + "/Target/module.envar.toml",
                 "[module]\nname = \"Target\"\nversion = \"1.0\"\nhost = \"perl\"\n");
    driver.write(w + name + "/Target/lib/Target.pm", "package Target; our $where = 'found'; 1;\n");
    driver.write(w + name + "/pkgIndex.tcl",
                 "package ifneeded target 1.0 [list source [file join $dir target.tcl]]\n");
    driver.write(w + name + "/target.tcl", "package provide target 1.0\nset where found\n");
}

std::string run_script(const Driver& driver, const ShellRow& row, const std::string& script,
                       const process::Environment& variables = {}) {
    driver.write("script", script);
    auto command = row.command;
    command.emplace_back("script");
    const Run run = driver.program(command, variables);
    return run.output + run.errors;
}

std::string filled(const std::string& text, const std::string& name, const std::string& value = "") {
    return fmt::format(fmt::runtime(text), name, value);
}

}  // namespace

TEST_CASE("hard folder names arrive unchanged in every shell and in the hosts behind it") {
    for (const ShellRow& row : shells) {
        int held = 0;
        for (const std::string& name : hard_names) {
            CAPTURE(row.shell);
            CAPTURE(name);
            const Driver driver;
            make_workspace(driver, name);
            const Names names(name);
            const Run session = driver.envar({"session", "--shell", row.shell}, names.workspace);
            CHECK_MESSAGE(session.status == 0, session.errors);
            driver.write("session", session.output);
            const std::string folder = (driver / names.workspace).string() + "/" + names.folder;
            const std::string expect = folder + "\n" + folder + "/Target/lib\nfound\nfound\nfound\n";
            const std::string script =
                row.enter + "\n" + filled(row.print, "PYTHONPATH") + "\n" + filled(row.print, "PERL5LIB") +
                "\npython3 -B -c 'import target; print(target.where)'\nperl -e 'require Target; print "
                "\"$Target::where\\n\"'\necho 'package require target; puts $where' | tclsh8.6\n";
            const std::string got = run_script(driver, row, script);
            CHECK(got == expect);
            held += got == expect;
        }
        MESSAGE(row.shell << ": " << held << " of " << hard_names.size() << " names arrive unchanged");
    }
}

TEST_CASE("dotenv and JSON hold the same values, and sh reads the one") {
    for (const std::string& name : hard_names) {
        CAPTURE(name);
        const Driver driver;
        make_workspace(driver, name);
        const Names names(name);
        const process::Environment before = {{"PYTHONPATH", "/old"}};
        const json session = json::parse(
            driver.envar_with(before, {"session", "--shell", "json"}, names.workspace).output, nullptr, false);
        REQUIRE(session.is_object());
        driver.write("session", driver.envar_with(before, {"session", "--shell", "dotenv"}, names.workspace).output);
        for (const auto& variable : session["variables"]) {
            const std::string name_of = variable["name"].get<std::string>();
            driver.write("script", "set -a; . ./session; printf %s \"$" + name_of + "\"");
            CHECK(driver.program({"dash", "script"}).output == variable["value"].get<std::string>());
            if (name_of == "PYTHONPATH")
                CHECK(variable["value"] == (driver / names.workspace).string() + "/" + names.folder + ":/old");
        }
        CHECK(session["variables"].size() == 3);
    }
}

TEST_CASE("a session can be entered twice, and left again with the old values exactly as they were") {
    for (const ShellRow& row : shells)
        for (const bool was_set : {false, true}) {
            CAPTURE(row.shell);
            CAPTURE(was_set);
            const Driver driver;
            make_workspace(driver, "it is");
            driver.write("session", driver.envar({"session", "--shell", row.shell}, "w").output);
            const std::string folder = (driver / "w/it is").string();
            const std::string print = filled(row.print, "PYTHONPATH");
            std::string script;
            if (was_set) script += filled(row.set, "PYTHONPATH", "/old one:/x $y") + "\n";
            script += row.enter + "\n" + print + "\n" + row.enter + "\n" + print + "\nenvar_leave\necho left\n" +
                      print + "\nprintenv | grep -c ENVAR_\n";
            const std::string inside = folder + (was_set ? ":/old one:/x $y" : "") + "\n";
            const std::string got = run_script(driver, row, script);
            CHECK(got == inside + inside + "left\n" + (was_set ? "/old one:/x $y\n" : "") + "0\n");
        }
}

TEST_CASE("a shell's own functions are found in its session, and only in its own") {
    for (const std::string shell : {"zsh", "fish"}) {
        CAPTURE(shell);
        const Driver driver;
        CHECK(driver.envar({"begin", "it's \"w\" $x"}).status == 0);
        const std::string folder = "it's \"w\" $x";
        for (const std::string name : {"night_log", "shutter_ops"})
            CHECK(driver.envar({"scaffold", name, "--host", shell, "--blueprint", "library"}, folder).status == 0);
        driver.write("session", driver.envar({"session", "--shell", shell, "--load", "night_log"}, folder).output);
        const ShellRow& row = shells[shell == "zsh" ? 1 : 3];
        const std::string path = shell == "zsh" ? "print -r -- $fpath" : "echo $fish_function_path";
        const std::string script = path + "\nsource ./session\nsource ./session\nnight_log_describe\n" +
                                   (shell == "zsh" ? "autoload -Uz shutter_ops; shutter_ops\n" : "") +
                                   "shutter_ops_describe\nenvar_leave\n" + path + "\n";
        const std::string got = run_script(driver, row, script);
        const std::string before = run_script(driver, row, path + "\n");
        CHECK(got == before + "night_log 0.1.0\nshutter_ops 0.1.0\n" + before);
        for (const std::string other : {"bash", "sh", "csh"}) {
            const std::string session = driver.envar({"session", "--shell", other}, folder).output;
            CHECK(session.find("# Leaves out " + std::string(shell == "zsh" ? "FPATH" : "fish_function_path")) !=
                  std::string::npos);
        }
    }
}

TEST_CASE("a folder that a variable cannot hold is refused with the reason and the place") {
    struct Row {
        std::string host, folder, reason;
    };
    const std::vector<Row> rows = {
        {"python", "a:b", "PYTHONPATH cannot hold a folder with `:` in its name (workspace.envar.toml:6)"},
        {"lua", "what?", "LUA_PATH_5_4 cannot hold a folder with `?` in its name (workspace.envar.toml:6)"},
        {"lua", "a;b", "LUA_PATH_5_4 cannot hold a folder with `;` in its name (workspace.envar.toml:6)"},
        {"bash", "a:b", "ENVAR_BASH_PATH cannot hold a folder with `:` in its name (workspace.envar.toml:6)"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.folder);
        const Driver driver;
        driver.write("w/workspace.envar.toml", "[workspace]\nname = \"w\"\nfolders = []\n[[search]]\nhost = \"" +
                                                   row.host + "\"\nfolder = \"" + row.folder + "\"\n");
        driver.write("w/" + row.folder + "/x", "");
        for (const std::string shell : {"bash", "fish", "json", "dotenv"}) {
            const Run run = driver.envar({"session", "--shell", shell}, "w");
            CHECK(run.status == 1);
            CHECK(run.output.empty());
            CHECK_MESSAGE(run.errors.find(row.reason.substr(0, row.reason.find(" (work"))) != std::string::npos,
                          run.errors);
        }
    }
}

TEST_CASE("a folder whose name is not UTF-8 is refused for the host that cannot read it") {
    const Driver driver;
    const std::string w = "w\xE4";
    CHECK(driver.envar({"begin", w}).status == 0);
    CHECK(driver.envar({"scaffold", "star-field", "--host", "guile"}, w).status == 0);
    const Run run = driver.envar({"session", "--shell", "bash"}, w);
    CHECK(run.status == 1);
    CHECK_MESSAGE(
        run.errors.find("GUILE_LOAD_PATH cannot hold a folder whose name is not UTF-8") != std::string::npos,
        run.errors);
}

TEST_CASE("a start-up file gets one block, which is brought up to date, told when edited, and taken back") {
    for (const std::string before : {"", "# mine\nalias ll='ls -l'\n", "no last line end"}) {
        CAPTURE(before);
        const Driver driver;
        make_workspace(driver, "modules");
        if (!before.empty()) driver.write("home/startup", before);
        driver.write("home/.keep", "");
        const std::string file = (driver / "home/startup").string();
        const std::vector<std::string> install = {"session", "--shell", "bash", "--install", file};
        auto dry = install;
        dry.emplace_back("--dry-run");
        CHECK(driver.envar(dry, "w").status == 0);
        CHECK(std::filesystem::exists(file) == !before.empty());
        const Run first = driver.envar(install, "w");
        CHECK_MESSAGE(first.status == 0, first.errors);
        CHECK(first.output.find("+export ENVAR_SESSION=") != std::string::npos);  // the difference is shown
        const std::string installed = driver.read("home/startup");
        CHECK(installed.rfind(before, 0) == 0);
        CHECK(driver.envar(install, "w").output.find("nothing to change") != std::string::npos);
        CHECK(driver.read("home/startup") == installed);
        CHECK(driver.program({"bash", "--norc", "-c", "source home/startup; printf %s \"$PYTHONPATH\""}).output ==
              (driver / "w/modules").string());
        // What lies around the block stays; the block follows the workspace.
        driver.write("home/startup", installed + "# behind\n");
        driver.write("w/workspace.envar.toml",
                     driver.read("w/workspace.envar.toml") + "[[search]]\nhost = \"python\"\nfolder = \".\"\n");
        CHECK(driver.envar(install, "w").status == 0);
        const std::string updated = driver.read("home/startup");
        CHECK(updated.find("modules:" + (driver / "w").string()) != std::string::npos);
        CHECK(updated.find("# behind\n") != std::string::npos);
        CHECK(updated.find("export ENVAR_SESSION=") == updated.rfind("export ENVAR_SESSION="));
        CHECK(driver.envar({"undo"}, "w").status == 0);
        CHECK(driver.read("home/startup") == installed + "# behind\n");
        // An edited block is the user's work.
        std::string edited = driver.read("home/startup");
        edited.insert(edited.find("export ENVAR_SESSION="), "# my own line\n");
        driver.write("home/startup", edited);
        const Run refused = driver.envar(install, "w");
        CHECK(refused.status == 1);
        CHECK(refused.errors.find("was edited by hand") != std::string::npos);
        CHECK(driver.read("home/startup") == edited);
        // Torn marks are not guessed at.
        driver.write("home/startup", edited.substr(0, edited.find("# Envar's block session of",
                                                                  10 + edited.find("# Envar's block session of"))));
        CHECK(driver.envar(install, "w").errors.find("do not pair up") != std::string::npos);
    }
}

TEST_CASE("undo does not touch a file outside the workspace that holds nothing of Envar's") {
    const Driver driver;
    make_workspace(driver, "modules");
    driver.write("home/startup", "old\n");
    const std::string file = (driver / "home/startup").string();
    CHECK(driver.envar({"session", "--shell", "bash", "--install", file}, "w").status == 0);
    // A journal from elsewhere may say anything.
    const std::string record = "w/.envar/journal/00000001/record.json";
    json journal = json::parse(driver.read(record));
    driver.write("home/startup", "something else\n");
    journal["changes"][0]["after"] =
        driver.program({"sh", "-c", "printf 'something else\\n' | sha256sum | cut -c1-64 | tr -d '\\n'"}).output;
    driver.write(record, journal.dump());
    const Run undo = driver.envar({"undo"}, "w");
    CHECK(undo.status == 1);
    CHECK_MESSAGE(undo.errors.find("holds nothing of Envar's") != std::string::npos, undo.errors);
    CHECK(driver.read("home/startup") == "something else\n");
}
