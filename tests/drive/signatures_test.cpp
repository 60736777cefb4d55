// What `envar members` tells of a definition in each language: kind, place, parameters with types, defaults and
// whether they can be left out, and what is said of them and of the whole. One row a way of writing.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

/// "type name?=default -- summary": `?` where it can be left out.
std::string told(const json& parameter) {
    const auto text = [&](const char* key) { return parameter[key].get<std::string>(); };
    std::string out = text("type").empty() ? "" : text("type") + " ";
    out += text("name") + (parameter["required"].get<bool>() ? "" : "?");
    if (!text("default").empty()) out += "=" + text("default");
    if (!text("summary").empty()) out += " -- " + text("summary");
    return out;
}

/// "function place:3(a; b?=1) Places stars.", a line each; only what the source has.
std::string members_of(const Driver& driver) {
    const Run run = driver.envar({"members", "--format", "json"}, "w");
    REQUIRE_MESSAGE(json::accept(run.output), run.errors);
    const json result = json::parse(run.output);
    std::string out;
    for (const auto& member : result["modules"][0]["members"]) {
        if (!member["found"].get<bool>()) continue;
        std::vector<std::string> parameters;
        for (const auto& parameter : member["parameters"]) parameters.push_back(told(parameter));
        out +=
            fmt::format("{} {}:{}({}) {}\n", member["kind"].get<std::string>(), member["name"].get<std::string>(),
                        member["line"].get<int>(), fmt::join(parameters, "; "), member["summary"].get<std::string>());
    }
    return out;
}

struct Row {
    std::string host, file, code, expected;
};

void compare(const std::vector<Row>& rows) {
    for (const Row& row : rows) {
        CAPTURE(row.host);
        CAPTURE(row.code);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const bool native = row.host == "cmake";
        const Run made = driver.envar({"scaffold", row.host == "perl" ? "Stars" : "stars", "--host", row.host}, "w");
        REQUIRE_MESSAGE(made.status == 0, made.errors);
        REQUIRE_MESSAGE((native || driver.has("w/" + row.file)), row.file);
        driver.write("w/" + row.file, row.code);
        const std::string found = members_of(driver);
        CHECK_MESSAGE((native ? found.find(row.expected) != std::string::npos : found == row.expected), found);
    }
}

}  // namespace

TEST_CASE("signatures and documentation: shells") {
    compare({
        {"bash", "shell/stars/stars.bash",
         "# Places stars.\n#\n# More on it.\nplace() {\n    :\n}\n\nplain() { :; } # no documentation\n"
         "# Above an empty line.\n\nalone() { :; }\nfunction named { :; }\n",
         "function place:4() Places stars.\nfunction plain:8() \nfunction alone:11() \nfunction named:12() \n"},
        {"bash", "shell/stars/stars.bash",
         "if [[ $OSTYPE == darwin* ]]; then\n    # Opens it there.\n    open_it() { :; }\nelse\n    # Opens it here.\n"
         "    open_it() { :; }\nfi\n_hidden() { :; }\nopen_it2() (:)\n",
         "function open_it:6() Opens it here.\nfunction open_it2:9() \n"},
        {"zsh", "shell/stars/functions/stars",
         "# Places stars. And more.\nplace() {\n  :\n}\n(( $+functions[other] )) ||\nother () { : }\n",
         "function place:2() Places stars.\nfunction other:6() \n"},
        {"fish", "shell/stars/functions/stars.fish",
         "# Places stars.\nfunction stars_place -d 'Places stars.' --argument-names magnitude epoch\nend\n"
         "function stars_none --description 'None'\nend\nalias stars_all 'ls stars'\n",
         "function stars_place:2(magnitude; epoch) Places stars.\nfunction stars_none:4() \nfunction stars_all:6() \n"},
    });
}

TEST_CASE("signatures and documentation: Lua") {
    const std::string file = "lua/stars/init.lua";
    compare({
        {"lua", file,
         "local M = {}\n--- Places stars.\n-- More words.\n-- @param magnitude faintest shown\n-- @tparam string epoch of "
         "which equinox\n-- @return how many\nfunction M.place(magnitude, epoch, ...)\nend\nreturn M\n",
         "function place:7(magnitude -- faintest shown; string epoch -- of which equinox; ...?) Places stars.\n"},
        {"lua", file,
         "local M = { limit = 6 }\nlocal function turn(angle) end\nM.turn = turn\nM.spin = M.turn\nM['odd name'] = 1\n"
         "function M:open(by) end\nM.close = function() end\nfunction other.no() end\nreturn M\n",
         "variable limit:1() \nfunction turn:2(angle) \nfunction spin:2(angle) \nfunction open:6(by) \n"
         "function close:7() \n"},
        {"lua", file,
         "--[[ A long\nfunction M.no() end ]]\nlocal M = {}\n--[==[ Opens it.\nAll of it. ]==]\nfunction M.open() end\n"
         "M.text = [[\nfunction M.no() end\n]]\nreturn setmetatable(M, {})\n",
         "function open:6() Opens it.\nvariable text:7() \n"},
    });
}

TEST_CASE("signatures and documentation: Python") {
    const std::string file = "python/stars/__init__.py";
    compare({
        {"python", file,
         "def place(magnitude: float, epoch='J2000', *rest, limit: int = 6, **more):\n    \"\"\"Places stars.\n\n"
         "    :param magnitude: faintest shown\n    :param str epoch: of which equinox\n    \"\"\"\n",
         "function place:1(float magnitude -- faintest shown; str epoch?='J2000' -- of which equinox; rest?; int "
         "limit?=6; more?) Places stars.\n"},
        {"python", file,
         "import functools\n\n\n# Above the decorators.\n@functools.cache\n@other(1, (2, 3))\ndef cached(a, /, b, *, c):\n"
         "    return a\n\n\nasync def later(x: dict[str, list[int]] = {'a': [1, 2]}) -> None:\n    'One line.'\n",
         "function cached:7(a; b; c) Above the decorators.\nfunction later:11(dict[str, list[int]] x?={'a': [1, 2]}) "
         "One line.\n"},
        {"python", file,
         "class Star(Body, metaclass=Kind):\n    \"\"\"A star.\"\"\"\n\n    def turn(self):\n        pass\n\n\n"
         "def _hidden():\n    pass\n\n\n__all__ = ['Star', \"go\"]\n\n\ndef go(text=')(', more=\"\"\"\ndef no():\n\"\"\"):\n"
         "    pass\n\n\ndef unlisted():\n    pass\n",
         "class Star:1() A star.\nfunction go:15(text?=')('; more?=\"\"\"\ndef no():\n\"\"\") \n"},
        {"python", file,
         "def shown(size, K=1 << 10, M=1<<20, least=1 < 2, *, most=2 >= 1, sizes: dict[str, int] = {}):\n    pass\n",
         "function shown:1(size; K?=1 << 10; M?=1<<20; least?=1 < 2; most?=2 >= 1; dict[str, int] sizes?={}) \n"},
    });
}

TEST_CASE("signatures and documentation: Perl, Tcl, Guile") {
    compare({
        {"perl", "perl/Stars/lib/Stars.pm",
         "package Stars;\nuse Exporter 'import';\nour @EXPORT_OK = qw(place turn\n  open_it);\n# Places stars.\n"
         "sub place {\n    my ($magnitude) = @_;\n}\nsub turn($angle, $by = 1, @rest) { 1 }\nsub open_it { q{sub no {} } }\n"
         "sub unlisted { 1 }\n1;\n",
         "function place:6() Places stars.\nfunction turn:9(angle; by?=1; rest) \nfunction open_it:10() \n"},
        {"tcl", "tcl/stars/stars.tcl",
         "namespace eval ::stars {\n    namespace export place t*\n}\n# place --\n#     Places stars.\n"
         "proc ::stars::place {magnitude {epoch J2000} args} {\n    # a brace \\{ here\n}\nproc ::stars::turn angle {}\n"
         "proc ::stars::unlisted {} {}\n",
         "function place:6(magnitude; epoch?=J2000; args) Places stars.\nfunction turn:9(angle) \n"},
        {"guile", "guile/stars/lib/stars.scm",
         "(define-module (stars) #:export (place turn limit with-dome))\n;; Places stars.\n"
         "(define* (place magnitude #:optional (epoch \"J2000\") deep #:key (limit 6) . rest)\n  \"Places all stars.\"\n"
         "  magnitude)\n(define turn (lambda (angle by) angle))\n(define limit 6)\n"
         "(define-syntax-rule (with-dome body ...) (begin body ...))\n(define (unlisted) 1)\n",
         "function place:3(magnitude; epoch?=\"J2000\"; deep?; limit?=6; rest?) Places all stars.\n"
         "function turn:6(angle; by) \nvariable limit:7() \ncommand with-dome:8() \n"},
        {"perl", "perl/Stars/lib/Stars.pm",
         "package Stars::Near;\nsub open_it { 1 }\npackage Stars 1.2;\nsub place { 1 }\n{\n    package Stars::Far;\n"
         "    sub far { 1 }\n}\nsub turn { 1 }\npackage Moons { sub rise { 1 } }\nsub set { 1 }\nsub Moons::eclipse { 1 }\n"
         "1;\n",
         "function place:4() \nfunction turn:9() \nfunction set:11() \n"},
        {"perl", "perl/Stars/lib/Stars.pm",
         "package Stars;\nuse Exporter 'import';\n@Stars::EXPORT_OK = qw(place);\nsub place { 1 }\nsub turn { 1 }\n1;\n",
         "function place:4() \n"},
        {"tcl", "tcl/stars/stars.tcl", "::proc ::stars::turn {angle {by 1}} {}\n",
         "function turn:1(angle; by?=1) \n"},
        {"guile", "guile/stars/lib/stars.scm",
         "( define-module (stars) #:export (place turn all any))\n( define ( place magnitude ) magnitude)\n"
         "(define* (turn angle #:optional (by 1)(back #f)(about \"x y\"))\n  angle)\n(define all (lambda stars stars))\n"
         "(define any (case-lambda ((a) a) ((a b) b)))\n",
         "function place:2(magnitude) \nfunction turn:3(angle; by?=1; back?=#f; about?=\"x y\") \n"
         "function all:5(stars?) \nfunction any:6() \n"},
    });
}

TEST_CASE("signatures and documentation: public headers") {
    compare({
        {"cmake", "cmake/stars/include/stars/stars.hpp",
         "#pragma once\n#define STARS_LIMIT 6\nnamespace stars {\n/// Where a star stands.\n///\n/// @param hours since "
         "the epoch\ndouble angle(double hours, int unit = 0);\n/** A star. */\nstruct Star { int number; };\n"
         "using Angle = double;\ninline constexpr double pi = 3.14;\ntemplate <class T>\nT turned(T by, const "
         "std::map<int, T>& all = {});\n}\n",
         "macro STARS_LIMIT:2() \nfunction angle:7(double hours -- since the epoch; int unit?=0) Where a star stands.\n"
         "type Star:9() A star.\ntype Angle:10() \nconstant pi:11() \n"
         "function turned:13(T by; const std::map<int, T>& all?={}) \n"},
    });
}

TEST_CASE("signatures: what is said twice is told once, the later one") {
    compare({
        {"bash", "shell/stars/stars.bash", "# One.\nplace() { :; }\n# Two.\nplace() { :; }\n",
         "function place:4() Two.\n"},
        {"python", "python/stars/__init__.py", "def place(a): pass\n\n\ndef place(b): pass\n",
         "function place:4(b) \n"},
        {"lua", "lua/stars/init.lua", "local M = {}\nfunction M.f(a) end\nM.f = function(b) end\nreturn M\n",
         "function f:3(b) \n"},
    });
}
