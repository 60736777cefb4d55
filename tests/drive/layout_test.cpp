// The search path: where Envar says that a host finds a name, and what the host really loads, in every layout.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using namespace envar::tests;
using nlohmann::json;

namespace {

/// How one host is asked for the file that it really loads for the name `target`.
struct HostRow {
    std::string host;
    std::vector<std::string> forms;  // files that make the module, in a search folder, in the host's order
    std::string content;             // of such a file
    std::string beside;              // a further file in the same folder, with its content behind a newline
    std::string variable;            // that the environment holds
    std::string extra;               // its value for one folder
    std::string shell;               // whose session is used
    std::string ask;                 // run by that shell in the start folder; prints the file
};

const std::string tcl_ask =
    "rename source _source; proc source args { set ::f [lindex $args end]; uplevel 1 [linsert $args 0 _source] }; "
    "set ::f {}; if {![catch {package require target}]} { puts -nonewline [file normalize $::f] }";

const std::vector<HostRow> hosts = {
    {"lua",
     {"target.lua", "target/init.lua"},
     "return {}\n",
     "",
     "LUA_PATH_5_4",
     "{}/?.lua;;",
     "sh",
     "lua5.4 -e 'local fine, result, file = pcall(require, \"target\"); io.write(fine and file or "
     "(tostring(result):match(\"error loading[^\\n]*file .([^\\n]-).:\") or \"\"))'"},
    {"bash",
     {"target/target.bash", "target.bash"},
     ":\n",
     "",
     "ENVAR_BASH_PATH",
     "{}",
     "bash",
     "source '" ENVAR_SOURCE_FOLDER
     "/hosts/bash/load.bash.mustache'; load_module target 2>/dev/null; printf %s \"${load_module_files[target]-}\""},
    {"zsh",
     {"functions/target"},
     ":\n",
     "",
     "FPATH",
     "{}",
     "zsh",
     "autoload -Uz +X target 2>/dev/null && print -rn -- $functions_source[target]"},
    {"fish",
     {"functions/target.fish"},
     "function target; end\n",
     "",
     "",
     "",
     "fish",
     "functions -q target; set -l file (functions --details target 2>/dev/null); test -f \"$file\"; and printf %s "
     "\"$file\""},
    {"python",
     {"target/__init__.py", "target.py"},
     "\n",
     "",
     "PYTHONPATH",
     "{}",
     "sh",
     "python3 -B -c 'import os\ntry:\n  import target\n  print(os.path.abspath(target.__file__) if target.__file__ else "
     "str(), end=str())\nexcept ImportError: pass'"},
    {"perl",
     {"lib/target.pm"},
     "1;\n",
     "",
     "PERL5LIB",
     "{}",
     "sh",
     "perl -e 'eval { require target; 1 } and print $INC{\"target.pm\"}'"},
    {"guile",
     {"lib/target.scm"},
     "(define-module (target))\n",
     "",
     "GUILE_LOAD_PATH",
     "{}",
     "sh",
     "guile --no-auto-compile -q -c '(when (false-if-exception (resolve-interface (list (quote target)))) (display "
     "(%search-load-path (module-filename (resolve-module (list (quote target)))))))'"},
    {"tcl",
     {"target/pkgIndex.tcl", "pkgIndex.tcl"},
     "package ifneeded target 1.0 [list source [file join $dir target.tcl]]\n",
     "target.tcl\npackage provide target 1.0\n",
     "TCLLIBPATH",
     "{}",
     "sh",
     "printf '%s' '" + tcl_ask + "' | tclsh8.6"},
};

struct Layout {
    std::string name;
    std::vector<std::string> files;  // "FOLDER": the module's first form there, "FOLDER:N": its Nth form, "FOLDER/":
                                     // a folder in its place, "FOLDER -> TO": a link to a file outside
    std::vector<std::string> folders;  // search folders
    std::string environment;           // a further folder, in the variable
};

const std::vector<Layout> layouts = {
    {"one", {"a"}, {"a"}, ""},
    {"last form", {"a:9"}, {"a"}, ""},
    {"all forms", {"a", "a:1"}, {"a"}, ""},
    {"shadowing", {"a", "b"}, {"a", "b"}, ""},
    {"the other way round", {"a", "b"}, {"b", "a"}, ""},
    {"first entry empty", {"b"}, {"a", "b"}, ""},
    {"missing", {}, {"a"}, ""},
    {"entry missing", {"b"}, {"nowhere", "b"}, ""},
    {"same entry twice", {"a"}, {"a", "a"}, ""},
    {"case", {"a^", "b"}, {"a", "b"}, ""},
    {"folder for a file", {"a/", "b"}, {"a", "b"}, ""},
    {"link", {"a -> real"}, {"a"}, ""},
    {"dangling link", {"a -> nowhere", "b"}, {"a", "b"}, ""},
    {"blanks and quotes", {"it's a \"folder\" $x"}, {"it's a \"folder\" $x"}, ""},
    {"braces and brackets", {"a {b} [c] #d; e\\f"}, {"a {b} [c] #d; e\\f"}, ""},
    {"in the present folder", {"start"}, {"a"}, ""},
    {"from the environment", {"extra"}, {"a"}, "extra"},
    {"workspace before environment", {"extra", "a"}, {"a"}, "extra"},
};

std::string toml_text(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        out += c;
    }
    return out + "\"";
}

bool one_a_module(const HostRow& row) {
    return row.forms.front().rfind("functions/", 0) == 0 || row.forms.front().rfind("lib/", 0) == 0;
}

/// Makes the file of one form; hosts that search each module's own folder get a module around it.
void put(const Driver& driver, const HostRow& row, const std::string& spec) {
    const std::size_t arrow = spec.find(" -> ");
    std::string folder = spec.substr(0, arrow);
    std::size_t form = 0;
    const bool in_place_of_file = folder.back() == '/';
    const bool other_case = folder.back() == '^';
    if (in_place_of_file || other_case) folder.pop_back();
    if (const std::size_t colon = folder.find(':'); colon != std::string::npos) {
        form = std::min<std::size_t>(std::stoul(folder.substr(colon + 1)), row.forms.size() - 1);
        folder.resize(colon);
    }
    std::string file = row.forms[form];
    std::string name = "target";
    if (other_case) file.replace(file.find("target") == std::string::npos ? 0 : file.find("target"), 0, "");
    std::string content = row.content;
    if (other_case) {
        const std::size_t at = file.find("target");
        if (at != std::string::npos) file[at] = 'T';
        const std::size_t inside = content.find("target");
        if (row.host == "tcl" && inside != std::string::npos) content[inside] = 'T';
    }
    // A folder of the present one, or of the environment, is searched as it is.
    const bool bare = one_a_module(row) && (folder == "start" || folder == "extra");
    if (bare) file = file.substr(file.find('/') + 1);
    std::string base = "w/" + folder + "/";
    if (one_a_module(row) && !bare) {
        base += "holder_" + std::string(folder == "b" ? "b" : "a") + "/";
        driver.write(base + "module.envar.toml",
                     fmt::format("[module]\nname = \"holder_{}\"\nversion = \"1.0.0\"\nhost = \"{}\"\n",
                                 folder == "b" ? "b" : "a", row.host));
        driver.write(base + file.substr(0, file.find('/')) + "/.keep", "");
    }
    if (in_place_of_file) {
        driver.write(base + file + "/x", "");
    } else if (arrow != std::string::npos) {
        const std::string to = spec.substr(arrow + 4);
        if (to != "nowhere") driver.write("w/" + to, content);
        driver.write(base + file + "~", "");
        std::filesystem::create_symlink((driver / ("w/" + to)).string(), driver / (base + file));
    } else {
        driver.write(base + file, content);
    }
    if (!row.beside.empty()) {
        const std::size_t end = row.beside.find('\n');
        driver.write(base + file.substr(0, file.rfind('/') + 1) + row.beside.substr(0, end),
                     row.beside.substr(end + 1));
    }
}

std::string told_by_envar(const Driver& driver, const HostRow& row, const process::Environment& variables) {
    const Run run = driver.envar_with(
        variables,
        {"locate", "target", "--host", row.host, "--from", (driver / "w/start").string(), "--format", "json"}, "w");
    const json result = json::parse(run.output, nullptr, false);
    REQUIRE_MESSAGE(result.is_object(), run.errors);
    if (result["chosen"].is_null()) return "";
    const std::string file = result["chosen"]["file"].get<std::string>();
    return file.front() == '/' ? file : (driver / "w/start" / file).lexically_normal().string();
}

std::string loaded_by_host(const Driver& driver, const HostRow& row, const process::Environment& variables) {
    driver.write("session", driver.envar_with(variables, {"session", "--shell", row.shell}, "w").output);
    const std::string script =
        (row.shell == "fish" ? "source ./session 2>/dev/null\n" : ". ./session 2>/dev/null\n") +
        ("cd w/start\n" + row.ask + "\n");
    driver.write("script", script);
    std::vector<std::string> command = {"dash", "script"};
    if (row.shell == "bash") command = {"bash", "--norc", "script"};
    if (row.shell == "zsh") command = {"zsh", "-f", "script"};
    if (row.shell == "fish") command = {"fish", "--no-config", "script"};
    const std::string file = driver.program(command, variables).output;
    return file.empty() || file.front() == '/' ? file : (driver / "w/start" / file).lexically_normal().string();
}

}  // namespace

TEST_CASE("locate agrees with what the hosts load, in every layout") {
    for (const HostRow& row : hosts) {
        int agree = 0;
        for (const Layout& layout : layouts) {
            CAPTURE(row.host);
            CAPTURE(layout.name);
            const Driver driver;
            std::string workspace = "[workspace]\nname = \"w\"\nfolders = []\n";
            for (const auto& folder : layout.folders)
                workspace += fmt::format("[[search]]\nhost = \"{}\"\nfolder = {}\n", row.host, toml_text(folder));
            driver.write("w/workspace.envar.toml", workspace);
            driver.write("w/start/here", "");
            for (const auto& file : layout.files) put(driver, row, file);
            driver.envar({"emit"}, "w");
            process::Environment variables;
            if (!layout.environment.empty() && !row.variable.empty())
                variables[row.variable] =
                    fmt::format(fmt::runtime(row.extra), (driver / "w").string() + "/" + layout.environment);
            const std::string real = loaded_by_host(driver, row, variables);
            const std::string told = told_by_envar(driver, row, variables);
            CHECK(told == real);
            agree += told == real;
            // The layouts are not about nothing: a plain one is found.
            if (layout.name == "one") CHECK(!real.empty());
        }
        MESSAGE(row.host << ": " << agree << " of " << layouts.size() << " agree");
    }
}

TEST_CASE("Tcl takes the highest version, wherever it lies, and stable before unstable") {
    struct Row {
        std::string a, b, c;
        std::string expect;  // whose file is loaded
    };
    const std::vector<Row> rows = {
        {"1.0", "1.1", "1.0.5", "b"}, {"1.9", "1.10", "1.2", "b"},      {"1.0", "1.0", "1.0.0", "a"},
        {"2.0a1", "1.5", "1.0", "b"}, {"2.0a1", "2.0b1", "2.0a2", "b"}, {"0.9", "1.0.0.1", "1", "b"},
        {"3", "2.9.9", "3.0", "a"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.a);
        CAPTURE(row.b);
        const Driver driver;
        std::string workspace = "[workspace]\nname = \"w\"\nfolders = []\n";
        driver.write("w/start/here", "");
        for (const auto& [folder, version] : {std::pair{"a", row.a}, {"b", row.b}, {"c", row.c}}) {
            workspace += fmt::format("[[search]]\nhost = \"tcl\"\nfolder = \"{}\"\n", folder);
            const std::string at = std::string("w/") + folder + "/target/";
            driver.write(at + "pkgIndex.tcl",
                         "package ifneeded target " + version + " [list source [file join $dir target.tcl]]\n");
            driver.write(at + "target.tcl", "package provide target " + version + "\n");
        }
        driver.write("w/workspace.envar.toml", workspace);
        const auto& tcl = hosts.back();
        const std::string real = loaded_by_host(driver, tcl, {});
        CHECK(real == (driver / ("w/" + row.expect + "/target/target.tcl")).string());
        CHECK(told_by_envar(driver, tcl, {}) == real);
    }
}

TEST_CASE("Tcl takes a package that is one file before any list, and follows lists that extend the path") {
    struct Row {
        std::string name;
        std::vector<std::pair<std::string, std::string>> files;
        std::string tm_path;  // folders, joined by ':'
        std::string expect;
    };
    const std::string index = "package ifneeded target 9.0 [list source [file join $dir target.tcl]]\n";
    const std::string body = "package provide target 9.0\n";
    const std::vector<Row> rows = {
        {"one file against a list",
         {{"a/target/pkgIndex.tcl", index}, {"a/target/target.tcl", body}, {"x/target-1.5.tm", ""}},
         "x",
         "x/target-1.5.tm"},
        {"the highest of several", {{"x/target-1.5.tm", ""}, {"y/target-1.10.tm", ""}}, "x:y", "y/target-1.10.tm"},
        {"the last folder of equals", {{"x/target-1.5.tm", ""}, {"y/target-1.5.tm", ""}}, "x:y", "y/target-1.5.tm"},
        {"another name is none",
         {{"x/targets-1.5.tm", ""},
          {"x/target-.tm", ""},
          {"a/target/pkgIndex.tcl", index},
          {"a/target/target.tcl", body}},
         "x",
         "a/target/target.tcl"},
        {"a list that extends the path",
         {{"a/many/pkgIndex.tcl",
           "if {[lsearch -exact $::auto_path $dir] == -1} {\n    lappend ::auto_path $dir\n}\n"},
          {"a/many/target/pkgIndex.tcl", index},
          {"a/many/target/target.tcl", body}},
         "",
         "a/many/target/target.tcl"},
        {"a folder too deep", {{"a/many/target/pkgIndex.tcl", index}, {"a/many/target/target.tcl", body}}, "", ""},
    };
    for (const Row& row : rows) {
        CAPTURE(row.name);
        const Driver driver;
        driver.write("w/workspace.envar.toml",
                     "[workspace]\nname = \"w\"\nfolders = []\n[[search]]\nhost = \"tcl\"\nfolder = \"a\"\n");
        driver.write("w/start/here", "");
        driver.write("w/a/here", "");
        for (const auto& [file, content] : row.files) driver.write("w/" + file, content);
        process::Environment variables;
        std::string path;
        for (const char c : row.tm_path) path += c == ':' ? ":" : (driver / "w").string() + "/" + c;
        if (!path.empty()) variables["TCL8_6_TM_PATH"] = path;
        const std::string real = loaded_by_host(driver, hosts.back(), variables);
        CHECK(real == (row.expect.empty() ? "" : (driver / ("w/" + row.expect)).string()));
        CHECK(told_by_envar(driver, hosts.back(), variables) == real);
    }
}

TEST_CASE("the search path that Envar tells is the host's own") {
    struct Row {
        std::string host;
        std::vector<std::string> command;  // prints the entries one a line
        process::Environment variables;
        bool first_is_present_folder = false;
    };
    const std::string lua = "io.write((package.path:gsub(';', '\\n')))";
    const std::string python = "import sys; print('\\n'.join(p for p in sys.path[1:]), end='')";
    const std::string perl = "print join \"\\n\", @INC";
    const std::string guile = "(display (string-join %load-path \"\\n\"))";
    const std::vector<Row> rows = {
        {"lua", {"lua5.4", "-e", lua}, {}},
        {"lua", {"lua5.4", "-e", lua}, {{"LUA_PATH", "/x/?.lua"}}},
        {"lua", {"lua5.4", "-e", lua}, {{"LUA_PATH", "/x/?.lua"}, {"LUA_PATH_5_4", "/y/?.lua;;/z/?.lua"}}},
        {"lua", {"lua5.4", "-e", lua}, {{"LUA_PATH_5_4", ""}}},
        {"python", {"python3", "-c", python}, {}, true},
        {"python", {"python3", "-c", python}, {{"PYTHONPATH", "/x:/y z"}}, true},
        {"python", {"python3", "-c", python}, {{"PYTHONPATH", ""}}, true},
        {"perl", {"perl", "-e", perl}, {}},
        {"perl", {"perl", "-e", perl}, {{"PERLLIB", "/x"}}},
        {"perl", {"perl", "-e", perl}, {{"PERLLIB", "/x"}, {"PERL5LIB", "/y::/z"}}},
        {"perl", {"perl", "-e", perl}, {{"PERLLIB", "/x"}, {"PERL5LIB", ""}}},
        {"guile", {"guile", "--no-auto-compile", "-q", "-c", guile}, {}},
        {"guile", {"guile", "--no-auto-compile", "-q", "-c", guile}, {{"GUILE_LOAD_PATH", "/x:/y"}}},
        {"guile", {"guile", "--no-auto-compile", "-q", "-c", guile}, {{"GUILE_LOAD_PATH", "/x:...:/y"}}},
        {"zsh", {"zsh", "-fc", "print -rn -- ${(F)fpath}"}, {}},
        {"zsh", {"zsh", "-fc", "print -rn -- ${(F)fpath}"}, {{"FPATH", "/x:/y"}}},
        {"fish", {"fish", "-c", "string join \\n $fish_function_path | string collect"}, {}},
    };
    for (const Row& row : rows) {
        CAPTURE(row.host);
        for (const auto& variable : row.variables) CAPTURE(variable.second);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        auto variables = row.variables;
        variables["HOME"] = "/nonexistent";
        std::string real = driver.program(row.command, variables).output;
        while (!real.empty() && real.back() == '\n') real.pop_back();
        const json result =
            json::parse(driver.envar_with(variables, {"paths", "--host", row.host, "--format", "json"}, "w").output);
        std::string told;
        bool first = row.first_is_present_folder;
        for (const auto& entry : result["hosts"][0]["entries"]) {
            if (std::exchange(first, false)) continue;
            const auto put = [&](const std::string& text) { told += (told.empty() ? "" : "\n") + text; };
            if (row.host == "lua") {
                for (const auto& pattern : entry["tried"]) put(pattern.get<std::string>());
            } else {
                put(entry["folder"].get<std::string>());
            }
        }
        CHECK(told == real);
    }
}
