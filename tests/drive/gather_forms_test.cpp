// What `envar gather` brings along with functions: settings of their scripts, and what those call while they are set.
// Each script is run by its real host, then the module made of it is loaded and called: the same comes out.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

/// How a host runs a file, and how a program of its loads the module `tools` and calls `say`.
struct Host {
    std::string name, module, ending;
    std::vector<std::string> run;
    std::string call;  // at the end of a script
    std::string load;  // of a program that loads the module
    std::string module_call;
    std::string variable, folder;
    std::vector<std::string> forms;
};

const std::vector<Host>& hosts() {
    static const std::vector<std::string> both = {"one_file", "file_each"};
    static const std::vector<Host> all = {
        {"bash",
         "tools",
         "sh",
         {"bash", "--noprofile", "--norc"},
         "say",
         "source w/shell/load.bash\nload_module tools || exit 1\n",
         "say",
         "ENVAR_BASH_PATH",
         "w/shell",
         both},
        {"zsh",
         "tools",
         "zsh",
         {"zsh", "-f"},
         "say",
         "fpath=($PWD/w/shell/tools/functions $fpath)\nautoload -Uz tools; tools || exit 1\n",
         "say",
         "",
         "",
         both},
        {"fish",
         "tools",
         "fish",
         {"fish", "--no-config"},
         "say",
         "set fish_function_path $PWD/w/shell/tools/functions $fish_function_path\nfunctions -q tools; or exit 1\n",
         "say",
         "",
         "",
         both},
        {"lua",
         "tools",
         "lua",
         {"lua5.4"},
         "say()",
         "local tools = require('tools')\n",
         "tools.say()",
         "LUA_PATH",
         "w/lua/?.lua;w/lua/?/init.lua;;",
         both},
        {"python",
         "tools",
         "py",
         {"python3", "-B"},
         "say()",
         "import tools\n",
         "tools.say()",
         "PYTHONPATH",
         "w/python",
         both},
        {"tcl",
         "tools",
         "tcl",
         {"tclsh"},
         "say",
         "package require tools\n",
         "tools say",
         "TCLLIBPATH",
         "w/tcl",
         both},
        {"perl",
         "Tools",
         "pl",
         {"perl"},
         "say_it();\n",
         "use Tools qw(say_it);\n",
         "say_it();\n",
         "PERL5LIB",
         "w/perl/Tools/lib",
         {"one_file"}},
        {"guile",
         "tools",
         "scm",
         {"guile", "--no-auto-compile"},
         "(say)",
         "(use-modules (tools))\n",
         "(say)",
         "GUILE_LOAD_PATH",
         "w/guile/tools/lib",
         {"one_file"}},
    };
    return all;
}

Run in_host(const Driver& driver, const Host& host, const std::string& file, const std::string& text) {
    driver.write(file, text + "\n");
    std::vector<std::string> words = {"env", "-C", driver / ""};
    words.insert(words.end(), host.run.begin(), host.run.end());
    words.push_back(file);
    process::Environment variables;
    if (!host.variable.empty()) variables[host.variable] = host.folder;
    return driver.program(words, variables);
}

const Host& host_called(const std::string& name) {
    for (const Host& host : hosts())
        if (host.name == name) return host;
    FAIL("there is no host " << name);
    return hosts().front();
}

/// Gathers all of the script into the module `tools` of a new workspace.
Run gathered(const Driver& driver, const std::string& host, const std::string& script) {
    driver.write("scripts/night." + host_called(host).ending, script);
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    Run run = driver.envar({"gather", "tools", "--host", host, "--from", "../scripts"}, "w");
    REQUIRE_MESSAGE(run.status == 0, run.errors);
    return run;
}

/// Gathers `say` from the script in each form, and compares what it does before and after.
void compare_moved(const Host& host, const std::string& script, const std::string& member,
                   const std::string& helpers) {
    for (const std::string& form : host.forms) {
        CAPTURE(host.name);
        CAPTURE(form);
        const Driver driver;
        driver.write("scripts/night." + host.ending, script);
        const Run before = in_host(driver, host, "before." + host.ending, script + host.call);
        REQUIRE_MESSAGE(before.status == 0, before.errors);
        REQUIRE(!before.output.empty());
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const Run made = driver.envar(
            {"gather", host.module, "--host", host.name, "--form", form, "--from", "../scripts", "--pick", member},
            "w");
        REQUIRE_MESSAGE(made.status == 0, made.output, made.errors);
        std::string found;
        const json result = json::parse(driver.read("w/envar-results/gather.json"));
        for (const auto& function : result["functions"])
            if (function["taken_as"] == "helper") found += function["name"].get<std::string>() + " ";
        CHECK(found == helpers);
        const Run after = in_host(driver, host, "after." + host.ending, host.load + host.module_call);
        CHECK_MESSAGE(after.output == before.output, after.errors);
        CHECK(after.status == 0);
        const Run check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const Run trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.status == 0, trial.output, trial.errors);
    }
}

}  // namespace

TEST_CASE("a setting that calls a function brings it along, and is set behind it") {
    struct Row {
        std::string host, script, member, helpers;
    };
    const std::vector<Row> rows = {
        {"bash",
         "plain='a b'\nlabel() { printf '<%s>' \"$1\"; }\ngreeting=$(label \"$plain\")\nother() { :; }\n"
         "say() { printf '%s\\n' \"$greeting\"; }\n",
         "say", "label "},
        {"zsh",
         "plain='a b'\nlabel() { printf '<%s>' \"$1\" }\ngreeting=$(label $plain)\nother() { : }\n"
         "say() { printf '%s\\n' $greeting }\n",
         "say", "label "},
        {"fish",
         "set plain 'a b'\nfunction label\n    printf '<%s>' $argv[1]\nend\nset -g greeting (label $plain)\n"
         "function other\nend\nfunction say\n    printf '%s\\n' $greeting\nend\n",
         "say", "label "},
        {"lua",
         "local plain = 'a b'\nlocal function label(text) return '<' .. text .. '>' end\nlocal greeting = label(plain)\n"
         "function other() end\nfunction say() print(greeting) end\n",
         "say", "label "},
        {"python",
         "plain = 'a b'\n\n\ndef label(text):\n    return f'<{text}>'\n\n\ngreeting = label(plain)\n\n\n"
         "def other():\n    pass\n\n\ndef say():\n    print(greeting)\n\n\n",
         "say", "label "},
        {"tcl",
         "set plain {a b}\nproc label {text} { return <$text> }\nset greeting [label $plain]\nproc other {} {}\n"
         "proc say {} { puts $::greeting }\n",
         "say", "label "},
        {"perl",
         "my $plain = 'a b';\nsub label { my ($text) = @_; return qq(<$text>); }\nmy $greeting = label($plain);\n"
         "sub other { }\nsub say_it { print qq($greeting\\n); }\n",
         "say_it", "label "},
        {"guile",
         "(define plain \"a b\")\n(define (label text) (string-append \"<\" text \">\"))\n"
         "(define greeting (label plain))\n(define (other) 1)\n(define (say) (display greeting) (newline))\n",
         "say", "label "},
    };
    for (const Row& row : rows) compare_moved(host_called(row.host), row.script, row.member, row.helpers);
}

TEST_CASE("a setting goes along with the condition or the loop that it is set in") {
    const std::string settings =
        "ready() { true; }\n[ -n \"$kept\" ] || kept=1\nfalse && gone=1\nready && set=1\nwhile [ -z \"$loop\" ]; do\n"
        "  loop=1\ndone\nuntil test -n \"$until\"; do until=1; done\nif ready; then branch=1; fi\nsleep 0 & behind=1\n"
        "while read -r line; do read=$line; done < /proc/sys/kernel/ostype\n";
    const std::string say = "say() { echo \"$kept:$gone:$set:$loop:$until:$branch:$behind:$read\"; }\n";
    for (const char* host : {"bash", "zsh"}) compare_moved(host_called(host), settings + say, "say", "ready ");
    const std::string ways =
        ": \"${quoted:=q}\"\n: ${plain:=p}\nx=1 y=2\nreadonly c=3 d=4\nexport e f=5\ne=6\nIFS=: read -r g h <<< 7:8\n"
        "printf -v i '%03d' 9\nlet j=1+1\n(( k = 3 ))\ncase a in a) l=4 ;; esac\n{ m=5; }\nn=(\n  6\n  '7 8'\n)\n";
    const std::string told = "say() { echo \"$quoted$plain$y$d$e$f$h$i$j$k$l$m${n[@]}\"; }\n";
    for (const char* host : {"bash", "zsh"}) compare_moved(host_called(host), ways + told, "say", "");
    compare_moved(host_called("fish"),
                  "function ready; true; end\ntest -z \"$kept\"; or set kept 1\ntest -z \"$set\"; and set set 1\n"
                  "false && set gone 1\nready; and set called 1\nwhile test -z \"$loop\"; set -g loop 1; end\n"
                  "function say; echo \"$kept:$set:$gone:$called:$loop\"; end\n",
                  "say", "ready ");
    compare_moved(host_called("lua"),
                  "local kept\nif not kept then kept = 1 end\nfor i = 1, 3 do count = (count or 0) + i end\n"
                  "do local hidden = 5; shown = hidden end\nfunction say() print(kept, count, shown) end\n",
                  "say", "");
    compare_moved(host_called("lua"),
                  "local M = {}\nif not M.twice then M.twice = function(a) return a * 2 end end\n"
                  "if M.none then kept = 1 else kept = 2 end\nfunction say() print(M.twice(2), kept) end\n",
                  "say", "");
    compare_moved(host_called("tcl"),
                  "if {![info exists kept]} { set kept 1 }\nif {$kept > 1} {set low 0} else {set low 9}\n"
                  "foreach one {1 2} { incr count $one }\nif {$kept} {\n    set deep 3\n}\n"
                  "proc say {} { puts \"$::kept $::low $::deep $::count\" }\n",
                  "say", "");
    compare_moved(host_called("perl"),
                  "my @all = map { my $n = $_; $n * 2 } grep { $_ > 1 } 1 .. 4;\nmy $kept = { a => 1 };\n"
                  "if ($kept->{a}) { $kept->{b} = 2 }\nmy $with = sub { $_[0] + 1 };\n"
                  "sub say_it { print qq(@all $kept->{b} @{[$with->(1)]}\\n); }\n",
                  "say_it", "");
    compare_moved(host_called("python"),
                  "import os\nif os.sep == '/': kept = 1\nelse: kept = 2\nif not os.sep: low = 1\nelse: low = 9\n"
                  "for one in (1, 2): last = one\nwith open(os.devnull) as nothing: read = nothing.read()\n\n\n"
                  "def say():\n    print(kept, low, last, read)\n\n\n",
                  "say", "");
    compare_moved(
        host_called("python"),
        "import os\nif os.sep:\n    kept = 1\nelse:\n    kept = 2\n(a, b), c = (1, 2), 3\nfirst = second = 4\n"
        "try:\n    import missing_thing\nexcept ImportError:\n    missing_thing = None\n\n\n"
        "def say():\n    print(kept, a, b, c, second, missing_thing)\n\n\n",
        "say", "");
}

TEST_CASE("what a script does with its functions stays behind, though it sets names that they use") {
    const Driver driver;
    driver.write(
        "scripts/night.sh",
        "show() { echo \"$level\"; }\nwhile [ $# -gt 0 ]; do\n  case $1 in\n  -v) level=2 ;;\n  -h) show; exit ;;\n"
        "  esac\n  shift\ndone\nif [ -n \"$level\" ]; then\n  level=3\n  show\nfi\n");
    driver.write("w/workspace.envar.toml",
                 "[workspace]\nname = \"w\"\n\n[[search]]\nhost = \"bash\"\nfolder = \".\"\n");
    const Run run = driver.envar({"gather", "tools", "--host", "bash", "--from", "../scripts"}, "w");
    CHECK(run.status == 0);
    for (const char* line : {"night.sh:2: what sets level stays behind in the script, as it calls functions too",
                             "night.sh:9: what sets level stays behind in the script, as it calls functions too"})
        CHECK(run.errors.find(line) != std::string::npos);
    CHECK(driver.read("w/tools/tools.bash").find("level=") == std::string::npos);
}

TEST_CASE("settings that settings need, and what those call, come along however long the chain is") {
    std::string script = "one() { echo 1; }\nv0=$(one)\n";
    std::string helpers = "one ";
    for (int i = 1; i <= 12; ++i) {
        script += fmt::format("f{0}() {{ echo \"$v{1}+\"; }}\nv{0}=$(f{0})\n", i, i - 1);
        helpers += fmt::format("f{} ", i);
    }
    script += "say() { echo \"$v12\"; }\nstray() { echo \"$v3\"; }\n";
    compare_moved(host_called("bash"), script, "say", helpers);
}

TEST_CASE("a module of more functions than a Lua function has local names") {
    std::string script = "local unit = 'mm'\n";
    for (int i = 0; i < 230; ++i)
        script +=
            fmt::format("local function f{0}(n) return n == 0 and unit or f{1}(n - 1) end\n", i, i == 0 ? 0 : i - 1);
    // A chain of local functions: each sees the one before it.
    script = "local unit = 'mm'\nfunction f0(n) return n .. unit end\n";
    for (int i = 1; i < 230; ++i) script += fmt::format("function f{0}(n) return f{1}(n + 1) end\n", i, i - 1);
    script += "function say() print(f229(1)) end\n";
    std::string helpers;
    for (int i = 0; i < 230; ++i) helpers += fmt::format("f{} ", i);
    compare_moved(host_called("lua"), script, "say", helpers);
}

TEST_CASE("names of settings in prose bring nothing along; a redirection ends no statement") {
    // What `level` sets would end the shell; `say` speaks of it, and does not use it.
    const std::string script =
        "level=$(missing_thing) || exit 3\n# Says the level.\n"
        "say() {\n  echo \"the level: $unit ${list[deep]}\" # level\n  echo 'its level'\n}\n"
        "true > /dev/null 2>&1 && unit=mm\ndeep=1; list=(a b)\n[ -z \"$unit\" ] && unit=cm\n";
    for (const std::string host : {"bash", "zsh"}) {
        CAPTURE(host);
        const Driver driver;
        const Run run = gathered(driver, host, script);
        CHECK(run.errors.find("what sets level comes along") == std::string::npos);
        CHECK(run.errors.find("night." + host_called(host).ending + ":7: what sets unit comes along") !=
              std::string::npos);
        const Run after = in_host(driver, host_called(host), "after", host_called(host).load + "say");
        CHECK_MESSAGE(
            after.output == (host == "bash" ? "the level: mm b\nits level\n" : "the level: mm a\nits level\n"),
            after.errors);
    }
    // What is said of functions is said of that too.
    const Driver driver;
    driver.write("scripts/night.sh", "#!/bin/sh\nlevel=$(id -u) || exit 3\nsay() { echo \"$level\\n\"; }\n");
    driver.write("scripts/day.sh", "#!/bin/bash\ntell() { echo \"a\\n\"; }\n");
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    const Run run = driver.envar({"gather", "tools", "--host", "bash", "--from", "../scripts"}, "w");
    CHECK_MESSAGE(run.errors.find("night.sh:3: say writes with `echo` what holds a backslash") != std::string::npos,
                  run.errors);
    CHECK(run.errors.find("tell writes with") == std::string::npos);
    CHECK_MESSAGE(
        run.errors.find("night.sh:2: what comes along ends the whole shell with `exit`, and does so when the "
                        "module is loaded") != std::string::npos,
        run.errors);
}

TEST_CASE("functions in namespaces of others stay there, and come along with those that call them") {
    compare_moved(host_called("tcl"),
                  "namespace eval far {}\nnamespace eval stars { variable count 3 }\n"
                  "proc stars::dim {x} { variable count; return [expr {$x - $count}] }\n"
                  "proc ::far::off {x} { return [stars::dim $x] }\nproc say {} { puts [far::off 9] }\n",
                  "say", "dim off ");
    compare_moved(
        host_called("perl"),
        "package Report;\nsub make { my $of = shift; return bless [], $of; }\n"
        "sub add { my ($self, $line) = @_; return push @$self, $line; }\npackage main;\n"
        "my $report = Report->make();\nsub say_it { $report->add('a'); print $report->add('b'), qq(\\n); }\n",
        "say_it", "make add ");
    // The namespace of the whole script is none of others.
    compare_moved(host_called("perl"), "package Stars;\nsub far { 7 }\nsub say_it { print far(), qq(\\n); }\n",
                  "say_it", "far ");
}

TEST_CASE("a statement over several lines comes along whole; a module has a version of its own") {
    compare_moved(
        host_called("perl"),
        "our $VERSION = '1.2.3';\nmy @all = (1,\n    2,\n);\nmy $text = 'a' .\n    'b';\nuse constant {\n"
        "    ONE => 1,\n};\nsub far { 7 }\n*near = \\&far;\n"
        "sub say_it { print qq(@all $text ), ONE, near(), ($VERSION =~ /1.2.3/ ? qq( fine\\n) : qq(\\n)); }\n",
        "say_it", "far near ");
    compare_moved(host_called("lua"),
                  "local all =\n  1 +\n  2\n  * 3\nlocal text = ('a')\n  :upper()\n  .. 'b'\nlocal low = all\n  and\n"
                  "  text\nlocal kept, \n  more = 4, 5\nfunction say() print(all, text, low, kept, more) end\n",
                  "say", "");
    compare_moved(
        host_called("perl"),
        "my $all = 1\n    + 2;\nmy $text = join('-', 1)\n    . 'b'\n    || 'c';\nmy %of = (a\n    => $all);\n"
        "sub say_it { print qq($all $text $of{a}\\n); }\n",
        "say_it", "");
    // What a script that is a module itself uses, the new one uses too.
    compare_moved(host_called("guile"),
                  "(define-module (night)\n  #:use-module ((srfi srfi-1) #:select (fold))  ; sums\n"
                  "  #:use-module (ice-9 match)\n  #:declarative? #f\n  #:export (say other))\n"
                  "(define (say) (match (list 1 2) ((a b) (display (fold + a (list b 3))))))\n",
                  "say", "");
    // A name that no manifest can list is a helper.
    compare_moved(host_called("guile"), "(define (twice/fast x) (* 2 x))\n(define (say) (display (twice/fast 4)))\n",
                  "say", "twice/fast ");
}

TEST_CASE("here-documents, functions within others, paths and patterns of shells are understood") {
    const std::string script =
        "tmp=$(missing_thing) || exit 3\nread -r -d '' help <<'X'\nthe help\nX\nkept=none\n"
        "for file in /*[!~] \\\n  /b; do\n  kept=file\ndone\n"
        "say() {\n  function inner {\n    cat <<X\n  in\nX\n  }\n  inner\n  ls -d /tmp/. --color=never\n"
        "  echo \"$help $kept\"\n}\n";
    for (const std::string host : {"bash", "zsh"}) {
        CAPTURE(host);
        const Driver driver;
        const Host& called = host_called(host);
        const Run run = gathered(driver, host, script);
        CHECK(run.errors.find("what sets tmp comes along") == std::string::npos);
        const Run after = in_host(driver, called, "after", called.load + "say");
        CHECK_MESSAGE(after.output.ends_with("/tmp/.\nthe help file\n"), after.output, after.errors);
    }
    compare_moved(host_called("perl"),
                  "my $name = 'x';\nmy $text = <<\"END\";\n\nof $name\nEND\nsub far($$);\n"
                  "sub say_it { print $text, far 2, 3; }\nsub far($$) { my ($x, $y) = @_; return $x * $y; }\n",
                  "say_it", "far ");
}

TEST_CASE("scripts whose quotes never end are read as far as they can be") {
    for (const std::string tail :
         {"if \"`\"\nfi\n\"", "\"\"\nif \"```\"\nfi\n\"", "x='", "echo \"$(", "cat <<EOF\n`"}) {
        CAPTURE(tail);
        const Driver driver;
        driver.write("scripts/night.sh", "say() { echo 1; }\n" + tail);
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const Run run = driver.envar({"gather", "tools", "--host", "bash", "--from", "../scripts"}, "w");
        CHECK_MESSAGE(run.status == 0, run.output, run.errors);
        CHECK(driver.read("w/shell/tools/tools.bash").find("say() { echo 1; }") != std::string::npos);
    }
}
