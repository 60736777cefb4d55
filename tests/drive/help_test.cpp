// Reference pages, their translations, and what `check` says of documentation and of names.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

const std::string stars =
    "local M = {}\n"
    "--- Places the *bright* stars. As `place(6)` does,\n"
    "-- up to <six>.\n"
    "--\n"
    "--     star_field.place(6)\n"
    "--\n"
    "-- # no heading\n"
    "-- @param magnitude faintest magnitude\n"
    "-- @return number of stars\n"
    "function M.place(magnitude, epoch) end\n"
    "return M\n";

void must(const Driver& driver, const std::vector<std::string>& arguments, const std::string& folder = "w") {
    const Run run = driver.envar(arguments, folder);
    REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
}

/// A workspace with one Lua module; `more` is added to the workspace file.
void make(const Driver& driver, const std::string& more, const std::string& code = stars,
          const std::string& members = "[[member]]\nname = \"place\"\nsince = \"1.0.0\"\n") {
    must(driver, {"begin", "w"}, ".");
    must(driver, {"scaffold", "star_field", "--host", "lua"});
    driver.write("w/lua/star_field/init.lua", code);
    driver.write(
        "w/lua/star_field/module.envar.toml",
        "[module]\nname = \"star_field\"\nversion = \"1.2.0\"\nhost = \"lua\"\nsummary = \"Stars.\"\n\n" + members);
    driver.write("w/workspace.envar.toml", driver.read("w/workspace.envar.toml") + more);
}

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

}  // namespace

TEST_CASE("reference pages come from manifest and comments, and a translator's work is never lost") {
    const Driver driver;
    make(driver, "\n[help]\nlanguages = [\"de\"]\n");
    must(driver, {"emit"});
    const std::string page = driver.read("w/help/star_field.md");
    for (const std::string part :
         {"# star_field 1.2.0\n\nStars.\n", "    local star_field = require(\"star_field\")\n",
          "### `place(magnitude, epoch)`\n\nPlaces the \\*bright\\* stars.\n",
          "As `place(6)` does,\nup to \\<six>.\n", "\n    star_field.place(6)\n", "\\# no heading",
          "- `magnitude`: faintest magnitude\n- `epoch`\n", "Returns: number of stars", "Since 1.0.0"})
        CHECK_MESSAGE(has(page, part), part, "\n---\n", page);
    CHECK(has(driver.read("w/help/index.md"), "- [star_field](star_field.md) 1.2.0: Stars."));
    // The real programs take what was written.
    for (const std::string file : {"help.pot", "po/de.po"}) {
        const Run run = driver.program({"msgfmt", "--check-format", "-o", "/dev/null", driver / ("w/help/" + file)});
        CHECK_MESSAGE(run.status == 0, run.errors);
    }
    const Run man =
        driver.program({"env", "MANWIDTH=80", "MAN_KEEP_FORMATTING=", "man", "-M", driver / "w/help", "star_field"});
    CHECK_MESSAGE(man.status == 0, man.errors);
    for (const std::string part :
         {"star_field - Stars.", "Places the *bright* stars.", "up to <six>.", "star_field.place(6)"})
        CHECK_MESSAGE(has(man.output, part), part, "\n", man.output);
    // A translator works, in her own way.
    std::string po = driver.read("w/help/po/de.po");
    const auto translate = [&](const std::string& text, const std::string& to) {
        const std::string entry = "msgid \"" + text + "\"\nmsgstr \"\"\n";
        const std::size_t at = po.find(entry);
        REQUIRE_MESSAGE(at != std::string::npos, text, "\n", po);
        po.replace(at, entry.size(), "# mine\nmsgid \"" + text + "\"\nmsgstr \"" + to + "\"\n");
    };
    translate("Stars.", "Sterne \\\"am\\\" Himmel.");
    translate("Members", "Was es gibt");
    translate("faintest magnitude", "die \"\n\"schwächste Größe");
    po += "\n#~ msgid \"old\"\n#~ msgstr \"alt\"\n";
    driver.write("w/help/po/de.po", po);
    driver.write("w/help/po/fr.po",
                 "msgid \"Stars.\"\nmsgstr \"Étoiles.\"\n\n#, fuzzy\nmsgid \"Members\"\nmsgstr \"Rien\"\n");
    driver.write("w/lua/star_field/init.lua",
                 stars.substr(0, stars.find("return M")) + "--- Counts.\nM.count = function() end\nreturn M\n");
    must(driver, {"members", "--sync"});
    CHECK(has(driver.envar({"check"}, "w").output, "reference pages are missing or out of date [EV506]"));
    must(driver, {"emit"});
    const std::string german = driver.read("w/help/de/star_field.md");
    for (const std::string part :
         {"Sterne \"am\" Himmel.", "## Was es gibt", "die schwächste Größe", "`count()`\n\nCounts."})
        CHECK_MESSAGE(has(german, part), part, "\n---\n", german);
    CHECK(driver.read("w/help/po/de.po").substr(0, po.size()) == po);
    CHECK(has(driver.read("w/help/po/de.po").substr(po.size()), "msgid \"Counts.\"\nmsgstr \"\"\n"));
    CHECK(has(driver.read("w/help/fr/star_field.md"), "Étoiles."));
    CHECK(has(driver.read("w/help/fr/star_field.md"), "## Members"));
    CHECK(has(driver.envar({"emit"}, "w").output, "nothing to change"));
    // Clearing away takes the pages, and not the translations.
    must(driver, {"emit", "--clean"});
    CHECK_FALSE(driver.has("w/help/star_field.md"));
    CHECK(driver.has("w/help/po/de.po"));
}

TEST_CASE("lists and examples in documentation are lists and examples on the page") {
    struct Row {
        std::string comment, page;
    };
    for (const Row& row : std::vector<Row>{
             {"One.  Two\nthree.", "One.\n\nTwo\nthree.\n"},
             {"One.\nThese:\n\n* a *b*\n  and c\n* d\n\n  more\nafter",
              "These:\n\n- a \\*b\\*\n  and c\n- d\n\n  more\n\nafter\n"},
             {"One.\nThese:\n  - a\n    - b\n  - c", "These:\n\n- a\n  - b\n- c\n"},
             {"One.\n 1. a\n 2) b\n1986. was\n-5 is\n--", "\n1. a\n2. b\n\n1986. was\n\\-5 is\n"},
             {"One.\nSo:\n\n    class A\n      - b = `c` * 2\n\n    end\n- item",
              "So:\n\n    class A\n      - b = `c` * 2\n\n    end\n\n- item\n"},
             {"One.\nSo:\n>>> f(*a)\n6 <\n\nend", "So:\n\n    >>> f(*a)\n    6 <\n\nend\n"},
             {"One.\n\tx = 1\n\t\ty = 2\n\nend", "\n    x = 1\n        y = 2\n\nend\n"},
         }) {
        const Driver driver;
        make(driver, "\n[help]\n");
        std::string comment = "--- " + row.comment;
        for (std::size_t at = 0; (at = comment.find('\n', at)) != std::string::npos; at += 4)
            comment.replace(at, 1, "\n-- ");
        driver.write("w/lua/star_field/init.lua",
                     "local M = {}\n" + comment + "\nfunction M.place() end\nreturn M\n");
        must(driver, {"emit"});
        const std::string page = driver.read("w/help/star_field.md");
        CHECK_MESSAGE(has(page, row.page), row.comment, "\n---\n", page);
    }
}

TEST_CASE("of hints of one sort some are told, and how many more there are") {
    const Driver driver;
    std::string code = "local M = {}\n";
    for (int i = 0; i < 33; ++i) code += "function M.f" + std::to_string(i) + "() end\n";
    make(driver, "\n[help]\n", code + "return M\n", "");
    must(driver, {"members", "--sync"});
    const auto count = [](const std::string& text, const std::string& part) {
        std::size_t found = 0;
        for (std::size_t at = 0; (at = text.find(part, at)) != std::string::npos; at += part.size()) ++found;
        return found;
    };
    const Run some = driver.envar({"check"}, "w");
    CHECK(count(some.output, "hint: `f") == 20);
    CHECK(has(some.output, "\n… 13 more hints of EV706; `--verbose` shows them, check.json has them\n"));
    CHECK(has(some.output, " and 34 hints in 1 module"));
    CHECK(count(driver.read("w/envar-results/check.json"), "\"EV706\"") == 33);
    CHECK(count(driver.envar({"check", "--verbose"}, "w").output, "hint: `f") == 33);
}

TEST_CASE("documentation that speaks of what is not there is told") {
    struct Row {
        std::string comment, code, told;  // empty: nothing is told
    };
    const std::string pages = "\n[help]\n";
    for (const Row& row : std::vector<Row>{
             {"--- Stars.\n-- @param magnitude faintest\n-- @param epoch when\n",
              "function M.place(magnitude, epoch) end", ""},
             {"--- Stars.\n-- @param magnitud faintest\n-- @param epoch when\n",
              "function M.place(magnitude, epoch) end",
              "`place` is documented to take `magnitud`, which it does not [EV705]"},
             {"--- Stars.\n-- @param o options\n-- @param o.color of them\n", "function M.place(o) end", ""},
             {"--- Stars.\n-- @param more of them\n", "function M.place(...) end", ""},
             {"--- Stars. As in `star_field.plaec(6)`.\n", "function M.place() end",
              "the documentation of `place` calls `plaec` of star_field, which is not there [EV708]"},
             {"--- Stars. As in `star_field.place(6)` or `other.thing(1)`.\n", "function M.place() end", ""},
             {"\n", "function M.place() end", "`place` has no summary [EV706]"},
             {"--- Stars.\n", "function M.place(magnitude) end", "`magnitude` of `place` is not described [EV707]"},
         }) {
        CAPTURE(row.comment);
        const Driver driver;
        make(driver, pages, "local M = {}\n" + row.comment + row.code + "\nreturn M\n", "");
        must(driver, {"members", "--sync"});
        if (row.comment == "\n") {  // what a sync cannot know stays open
            std::string manifest = driver.read("w/lua/star_field/module.envar.toml");
            CHECK_FALSE(has(manifest, "summary = \"\""));
        }
        must(driver, {"emit"});
        const Run run = driver.envar({"check"}, "w");
        CHECK_MESSAGE((row.told.empty() ? has(run.output, "nothing found") : has(run.output, row.told)), run.output);
    }
}

TEST_CASE("names are advised by card and workspace, and a good one is offered") {
    struct Row {
        std::string host, module, advice;
        std::vector<std::string> members;
        std::vector<std::string> told;
        std::size_t count;
    };
    const std::string verbs =
        "\n[[words]]\nname = \"verbs\"\nwords = [\"open\", \"close\", \"write\", \"read\"]\ninstead = [[\"shut\", \"close\"]]\n";
    for (
        const Row& row : std::vector<Row>{
            {"bash",
             "night_log",
             verbs +
                 "\n[[advice]]\nhost = \"bash\"\nprefix = \"{{name}}_\"\nfirst = \"verbs\"\nreason = \"house style\"\n",
             {"night_log_write", "night_log_shut", "wirte", "log_read", "night_log_banana"},
             {"the name of the function `night_log_shut` begins with `shut`, which is none of the verbs [EV709]",
              "`night_log_close` would do: house style", "`wirte` does not begin with `night_log_`",
              "`night_log_write` would do", "`night_log_read_log` would do",
              "names begin with: open, close, write, read"},
             4},
            {"lua",
             "stars",
             "\n[[advice]]\nof = \"parameter\"\npattern = '[a-z_]+'\n",
             {"place(Magnitude, epoch)"},
             {"the name of the parameter `Magnitude` looks different from the others", "`magnitude` would do"},
             1},
            {"lua",
             "stars",
             "\n[[advice]]\nof = \"module\"\nprefix = \"dome_\"\n",
             {"place"},
             {"the name of the module `stars` does not begin with `dome_`", "`dome_stars` would do"},
             1},
            {"lua", "stars", "\n[[advice]]\nhost = \"bash\"\nprefix = \"dome_\"\n", {"place"}, {}, 0},
            {"lua", "stars", "\n[[advice]]\nkinds = [\"class\"]\nprefix = \"dome_\"\n", {"place"}, {}, 0},
        }) {
        CAPTURE(row.advice);
        const Driver driver;
        must(driver, {"begin", "w"}, ".");
        std::vector<std::string> arguments = {"scaffold", row.module, "--host", row.host};
        for (const auto& member : row.members) arguments.insert(arguments.end(), {"--member", member});
        must(driver, arguments);
        driver.write("w/workspace.envar.toml", driver.read("w/workspace.envar.toml") + row.advice);
        const Run run = driver.envar({"check"}, "w");
        CHECK(run.status == 0);
        for (const auto& text : row.told) CHECK_MESSAGE(has(run.output, text), text, "\n", run.output);
        std::size_t count = 0;
        for (std::size_t at = run.output.find("hint: the name of"); at != std::string::npos;
             at = run.output.find("hint: the name of", at + 1))
            ++count;
        CHECK_MESSAGE(count == row.count, run.output);
    }
}

TEST_CASE("the host's own list of what is exported is written into a block, and the host goes by it") {
    struct Row {
        std::string host, module, file, code, block, loads;
        std::vector<std::string> ask;
    };
    for (
        const Row& row : std::vector<Row>{
            {"python",
             "stars",
             "w/python/stars/__init__.py",
             "def place():\n    return 1\n\n\ndef count():\n    return 2\n",
             "__all__ = [\"place\", \"count\"]",
             "from stars import *; print(place() + count())",
             {"python3", "-B", "-c"}},
            {"perl",
             "Stars",
             "w/perl/Stars/lib/Stars.pm",
             "package Stars;\nuse Exporter 'import';\nuse Stars::About;\nour $VERSION = $Stars::About::VERSION;\nsub place { 1 }\nsub count { 2 }\n1;\n",
             "our @EXPORT_OK = qw(place count);",
             "use Stars qw(place count); print place() + count(), qq(\\n)",
             {"perl", "-e"}},
            {"guile",
             "stars",
             "w/guile/stars/lib/stars.scm",
             "(define-module (stars))\n(define (place) 1)\n(define (count) 2)\n",
             "(export place count)",
             "(use-modules (stars)) (display (+ (place) (count))) (newline)",
             {"guile", "--no-auto-compile", "-c"}},
        }) {
        CAPTURE(row.host);
        const Driver driver;
        must(driver, {"begin", "w"}, ".");
        must(driver, {"scaffold", row.module, "--host", row.host, "--member", "place", "--member", "count"});
        driver.write(row.file, row.code);
        const std::string manifest_file = "w/" + row.host + "/" + row.module + "/module.envar.toml";
        driver.write(manifest_file, driver.read(manifest_file) + "\n[exports]\nwritten = true\n");
        CHECK(has(driver.envar({"check"}, "w").output, "generated file is missing"));
        must(driver, {"emit"});
        const std::string code = driver.read(row.file);
        CHECK_MESSAGE(has(code, row.block), code);
        CHECK(code.substr(0, row.code.size()) == row.code);
        const std::string below = row.host == "python" ? "" : "/" + row.module + "/lib";
        const Run run = driver.program(
            [&] {
                auto words = row.ask;
                words.push_back(row.loads);
                return words;
            }(),
            {{"PYTHONPATH", driver / ("w/python" + below)},
             {"PERL5LIB", driver / ("w/perl" + below)},
             {"GUILE_LOAD_PATH", driver / ("w/guile" + below)}});
        CHECK_MESSAGE(run.output == "3\n", run.errors);
        CHECK_MESSAGE(has(driver.envar({"check"}, "w").output, "nothing found"), driver.envar({"check"}, "w").output);
        CHECK(driver.envar({"members"}, "w").status == 0);
        // Another list, and the block follows; a hand in it is told.
        std::string manifest = driver.read(manifest_file);
        manifest.replace(manifest.find("name = \"count\""), 14, "name = \"total\"");
        driver.write(manifest_file, manifest);
        must(driver, {"emit"});
        CHECK(has(driver.read(row.file), "total"));
        driver.write(row.file, [&] {
            std::string text = driver.read(row.file);
            return text.replace(text.rfind("total"), 5, "mine");
        }());
        CHECK(has(driver.envar({"check"}, "w").output, "edited by hand"));
    }
}

TEST_CASE("what only the running host shows is listed as dynamic") {
    const Driver driver;
    make(driver, "",
         "local M = {}\nfor _, n in ipairs({ 'red', 'blue' }) do M['paint_' .. n] = function() end end\n"
         "function M.place() end\nreturn M\n",
         "");
    CHECK(has(driver.envar({"trial"}, "w").output, "the host shows `paint_blue`, which was not expected"));
    const Run run = driver.envar({"members", "--from-host"}, "w");
    CHECK_MESSAGE(run.status == 0, run.output, run.errors);
    const std::string manifest = driver.read("w/lua/star_field/module.envar.toml");
    CHECK(has(manifest, "name = \"paint_blue\"\ndynamic = true"));
    CHECK(has(manifest, "name = \"place\"\n"));
    CHECK(driver.envar({"trial"}, "w").status == 0);
    CHECK(driver.envar({"members"}, "w").status == 0);
    CHECK(has(driver.envar({"members", "--from-host"}, "w").output, "declare what the sources define"));
    driver.write("w/lua/star_field/init.lua", "error('no')\n");
    const Run broken = driver.envar({"members", "--from-host"}, "w");
    CHECK(broken.status == 1);
    CHECK_MESSAGE(has(broken.errors, "star_field does not load"), broken.errors);
}

TEST_CASE("a sync brings members into the order of the source, with what stands beside them") {
    const Driver driver;
    make(
        driver, "", "local M = {}\nfunction M.a() end\nfunction M.b() end\nfunction M.c() end\nreturn M\n",
        "# of c\n[[member]]\nname = \"c\" # last\n\n# stays between\n\n[[member]]\nname = \"made\"\ndynamic = true\n\n"
        "[tests]\nfolder = \"tests\"\n\n# of a\n[[member]]\nname = \"a\"\nsummary = \"First.\"\n");
    const Run run = driver.envar({"members", "--sync"}, "w");
    CHECK_MESSAGE(run.status == 0, run.output, run.errors);
    const std::string manifest = driver.read("w/lua/star_field/module.envar.toml");
    CHECK_MESSAGE(
        has(manifest,
            "# of a\n[[member]]\nname = \"a\"\nsummary = \"First.\"\n\n# stays between\n\n[[member]]\nname = \"made\"\n"
            "dynamic = true\n\n[tests]\nfolder = \"tests\"\n\n[[member]]\nname = \"b\"\n\n# of c\n[[member]]\nname = \"c\" # last\n"),
        manifest);
    CHECK(has(run.output, "in the order of the source now"));
    must(driver, {"undo"});
    CHECK(
        has(driver.read("w/lua/star_field/module.envar.toml"), "# of c\n[[member]]\nname = \"c\" # last\n\n# stays"));
}
