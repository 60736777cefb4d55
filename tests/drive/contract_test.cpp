// What `envar compare` makes of two folders of a module, in languages other than the one that its own tests use: the
// contract is read from the source as that language has it.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

struct Row {
    std::string host, entry, before, after;
    std::vector<std::string> told;  // "weight what member"
    std::string follows;            // after 1.2.3
};

void compare(const std::vector<Row>& rows) {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    for (const Row& row : rows) {
        CAPTURE(row.host);
        CAPTURE(row.before);
        CAPTURE(row.after);
        const std::string name = row.host == "perl" ? "Stars" : "stars";
        for (const bool old : {true, false}) {
            const std::string folder = old ? "old/" : "new/";
            driver.write(folder + row.entry, old ? row.before : row.after);
            driver.write(
                folder + "module.envar.toml",
                fmt::format("[module]\nname = \"{}\"\nversion = \"1.2.3\"\nhost = \"{}\"\nsummary = \"Stars.\"\n\n"
                            "[exports]\nmode = \"all\"\n",
                            name, row.host));
        }
        const Run run = driver.envar({"compare", "../old", "../new", "--format", "json"}, "w");
        REQUIRE_MESSAGE(json::accept(run.output), run.errors);
        const json result = json::parse(run.output);
        std::string told, expected;
        for (const auto& one : result["differences"])
            told += fmt::format("{} {} {}\n", one["weight"].get<std::string>(), one["what"].get<std::string>(),
                                one["member"].get<std::string>());
        for (const auto& one : row.told) expected += one + "\n";
        CHECK(told == expected);
        CHECK(result["follows"] == row.follows);
        // Back again: what broke is broken the other way about, or is new.
        const Run back = driver.envar({"compare", "../new", "../old", "--format", "json"}, "w");
        REQUIRE(json::accept(back.output));
        CHECK(json::parse(back.output)["differences"].empty() == row.told.empty());
        driver.program({"rm", "-rf", driver / "old", driver / "new"});
    }
}

}  // namespace

TEST_CASE("contracts of script modules: what breaks, what is new and what is mended") {
    const std::string lua =
        "local M = {}\n--- Places stars.\nfunction M.place(magnitude, epoch) return magnitude + epoch end\n";
    compare({
        {"lua", "init.lua", lua + "return M\n", lua + "return M\n", {}, "1.2.3"},
        {"lua", "init.lua", lua + "return M\n", lua + "-- more words\n\n\nreturn M\n", {}, "1.2.3"},
        {"lua",
         "init.lua",
         lua + "return M\n",
         lua + "function M.turn(by) end\nreturn M\n",
         {"addition added turn"},
         "1.3.0"},
        {"lua", "init.lua", lua + "return M\n", "local M = {}\nreturn M\n", {"breaking removed place"}, "2.0.0"},
        {"lua",
         "init.lua",
         lua + "return M\n",
         "local M = {}\n--- Places stars.\nfunction M.set(magnitude, epoch) return magnitude + epoch end\nreturn M\n",
         {"breaking renamed place"},
         "2.0.0"},
        {"lua",
         "init.lua",
         lua + "return M\n",
         "local M = {}\n--- Places stars.\nfunction M.place(epoch, magnitude) return magnitude + epoch end\nreturn M\n",
         {"breaking parameters reordered place", "fix changed place"},
         "2.0.0"},
        {"lua",
         "init.lua",
         lua + "M.limit = 6\nreturn M\n",
         lua + "function M.limit() end\nreturn M\n",
         {"breaking kind changed limit", "fix changed limit"},
         "2.0.0"},
        {"lua",
         "init.lua",
         lua + "return M\n",
         "local M = {}\n--- Places stars.\nfunction M.place(bright, epoch) return bright + epoch end\nreturn M\n",
         {"fix changed place", "fix parameter renamed place"},
         "1.2.4"},
        {"python",
         "__init__.py",
         "def place(bright, *, epoch=1, **more): return bright\ndef turn(by, /, *rest): pass\ndef set(a, b): pass\n",
         "def place(bright, *, frame=2, epoch=1, **others): return bright\ndef turn(by, /, *all, up=0): pass\n"
         "def set(a, c): pass\n",
         {"breaking parameter renamed set", "addition parameter added place", "addition parameter added turn",
          "fix changed place", "fix changed set", "fix changed turn"},
         "2.0.0"},
        {"python",
         "__init__.py",
         "from a import *\ndef place(a: t.Union[str, int], b: Optional['Star'] = None, c: t.Dict[str, int] = {}): pass\n"
         "def turn(a: int, b: Union[str, int]): pass\n",
         "from a import *\ndef place(a: int | str, b: Star | None = None, c: dict[str, int] = {}): pass\n"
         "def turn(a: str, b: str | float): pass\n",
         {"breaking type changed place", "breaking type changed turn", "breaking type changed turn",
          "fix changed place", "fix changed turn"},
         "2.0.0"},
        {"python",
         "__init__.py",
         "def place(bright, epoch=1): return bright\ndef turn(by): pass\n",
         "class turn:\n    pass\ndef place(bright, *, epoch=1): return bright\n",
         {"breaking parameter named place", "breaking kind changed turn", "fix changed place", "fix changed turn"},
         "2.0.0"},
        {"bash", "stars.bash", "place() { echo 1; }\n", "place() { echo 2; }\n", {"fix changed place"}, "1.2.4"},
        {"bash",
         "stars.bash",
         "place() { echo 1; }\n",
         "# said now\nplace() { echo 1; }\n_own() { :; }\n",
         {"fix described anew place"},
         "1.2.4"},
        {"bash",
         "stars.bash",
         "place() { echo 1; }\nold() { :; }\n",
         "place() { echo 1; }\n",
         {"breaking removed old"},
         "2.0.0"},
        {"fish",
         "functions/stars.fish",
         "function stars_place -a magnitude\n    echo $magnitude\nend\n",
         "function stars_place -a magnitude epoch\n    echo $magnitude\nend\n",
         {"breaking parameter added stars_place", "fix changed stars_place"},
         "2.0.0"},
        {"tcl",
         "stars.tcl",
         "proc ::stars::place {magnitude} { return $magnitude }\n",
         "proc ::stars::place {magnitude {epoch J2000}} { return $magnitude }\n",
         {"addition parameter added place", "fix changed place"},
         "1.3.0"},
        {"tcl",
         "stars.tcl",
         "proc ::stars::place {magnitude {epoch J2000}} { return $magnitude }\n",
         "proc ::stars::place {magnitude {epoch B1950}} { return $magnitude }\n",
         {"breaking default changed place", "fix changed place"},
         "2.0.0"},
        {"tcl",
         "stars.tcl",
         "proc ::stars::place {magnitude {epoch J2000}} { return $magnitude }\n",
         "proc ::stars::place {magnitude epoch} { return $magnitude }\n",
         {"breaking parameter required place", "fix changed place"},
         "2.0.0"},
        {"guile",
         "lib/stars.scm",
         "(define-module (stars) #:export (place))\n(define* (place bright #:key epoch) bright)\n",
         "(define-module (stars) #:export (place))\n(define* (place bright #:key frame epoch) bright)\n",
         {"addition parameter added place", "fix changed place"},
         "1.3.0"},
        {"guile",
         "lib/stars.scm",
         "(define-module (stars) #:export (place))\n(define* (place magnitude #:optional (epoch 1)) magnitude)\n",
         "(define-module (stars) #:export (place turn))\n(define* (place magnitude #:optional (epoch 1)) magnitude)\n"
         "(define (turn by) by)\n",
         {"addition added turn"},
         "1.3.0"},
        {"guile",
         "lib/stars.scm",
         "(define-module (stars) #:export (place))\n(define* (place magnitude #:optional (epoch 1)) magnitude)\n",
         "(define-module (stars) #:export (place))\n(define (place magnitude epoch) magnitude)\n",
         {"breaking parameter required place", "fix changed place"},
         "2.0.0"},
        {"perl",
         "lib/Stars.pm",
         "package Stars;\nour @EXPORT_OK = qw(place turn);\nsub place($magnitude) { $magnitude }\nsub turn { 1 }\n1;\n",
         "package Stars;\nour @EXPORT_OK = qw(place);\nsub place($magnitude) { $magnitude }\nsub turn { 1 }\n1;\n",
         {"breaking removed turn"},
         "2.0.0"},
    });
}

TEST_CASE("contracts of native modules: what their public headers promise") {
    const std::string head = "#pragma once\n#define STARS_LIMIT 6\n";
    const std::string angle = "double stars_angle(double hours, int unit);\n";
    compare({
        {"cmake",
         "include/stars/stars.hpp",
         head + angle,
         head + "/* words */\n" + angle,
         {"fix described anew stars_angle"},
         "1.2.4"},
        {"cmake",
         "include/stars/stars.hpp",
         head + angle,
         head + angle + "struct Star { int number; };\n",
         {"addition added Star"},
         "1.3.0"},
        {"cmake", "include/stars/stars.hpp", head + angle, head, {"breaking removed stars_angle"}, "2.0.0"},
        {"cmake",
         "include/stars/stars.hpp",
         head + angle,
         head + "double stars_angle(double hours);\n",
         {"breaking parameter removed stars_angle", "fix changed stars_angle"},
         "2.0.0"},
        {"cmake",
         "include/stars/stars.hpp",
         head + angle,
         head + "double stars_angle(double hours, int unit, int more = 0);\n",
         {"addition parameter added stars_angle", "fix changed stars_angle"},
         "1.3.0"},
        {"make",
         "include/stars.h",
         head + angle,
         "#pragma once\n" + angle,
         {"breaking removed STARS_LIMIT"},
         "2.0.0"},
        {"meson",
         "include/stars.h",
         head + "typedef struct star star;\n",
         head + "typedef int star(int by);\n",
         {"fix changed star"},
         "1.2.4"},
    });
}
