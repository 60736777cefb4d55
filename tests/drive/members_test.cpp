// `envar members` through the built program: what it tells of a source, and what --sync makes of a manifest.
#include <doctest/doctest.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <sstream>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

/// A workspace with one module whose entry file is as given.
void lay_out(const Driver& driver, const std::string& host, const std::string& file, const std::string& code,
             const std::string& members) {
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    REQUIRE(driver.envar({"scaffold", "star_field", "--host", host}, "w").status == 0);
    driver.write("w/" + file, code);
    const std::string folder = file.substr(0, file.find("star_field") + 10);
    driver.write("w/" + folder + "/module.envar.toml",
                 "# kept\n[module]\nname = \"star_field\" # kept too\nversion = \"1.0.0\"\nhost = \"" + host +
                     "\"\nsummary = \"Stars.\"\n\n" + members);
}

}  // namespace

TEST_CASE("members: declared against found, and a sync that keeps what was written") {
    struct Row {
        std::string host, file, code, declared;
        std::vector<std::string> states;  // "name state", in order
        std::vector<std::string> after;   // what the manifest has after the sync
        std::vector<std::string> gone;
    };
    const std::string by_hand =
        "[[member]]\nname = \"place\"\nsummary = \"By hand.\" # why\nparameters = [\n"
        "    { name = \"magnitude\", type = \"number\", summary = \"faintest\" },\n]\nreturns = \"stars\"\n";
    const std::vector<Row> rows = {
        {"lua",
         "lua/star_field/init.lua",
         "local M = {}\n--- Places stars. And more.\n-- @param epoch of which equinox\nfunction M.place(epoch, magnitude) end\n"
         "--- Counts.\nM.count = function(...) end\nreturn M\n",
         by_hand + "\n[[member]]\nname = \"old\"\n\n[[member]]\nname = \"made\"\ndynamic = true\n",
         {"place differs", "count not listed", "old absent", "made dynamic"},
         {"# kept\n", "# kept too", "By hand.", "# why", "returns = \"stars\"",
          "{ name = \"epoch\", summary = \"of which equinox\" }",
          "{ name = \"magnitude\", type = \"number\", summary = \"faintest\" }",
          "name = \"count\"\nsummary = \"Counts.\"", "name = \"made\"\ndynamic = true"},
         {"\"old\"", "\"...\""}},
        {"python",
         "python/star_field/__init__.py",
         "def place(magnitude, epoch='J2000', limit: int = 6, *rest):\n    \"\"\"Places stars.\n\n    :param epoch: of which equinox\n"
         "    \"\"\"\n",
         by_hand,
         {"place differs"},
         {"{ name = \"magnitude\", type = \"number\", summary = \"faintest\" }",
          "{ name = \"epoch\", required = false, default = \"J2000\", summary = \"of which equinox\" }",
          "{ name = \"limit\", type = \"int\", required = false, default = 6 }",
          "{ name = \"rest\", required = false, given = \"rest\" }"},
         {}},
        {"bash",
         "bash/star_field/star_field.bash",
         "# Places stars.\nplace() { :; }\n# Counts.\nfunction count { :; }\n",
         by_hand,
         {"place exported", "count not listed"},
         {by_hand, "name = \"count\"\nsummary = \"Counts.\""},
         {}},
    };
    for (const Row& row : rows) {
        CAPTURE(row.host);
        const Driver driver;
        lay_out(driver, row.host, row.file, row.code, row.declared);
        const Run listed = driver.envar({"members", "--format", "json"}, "w");
        CAPTURE(listed.errors);
        CHECK(listed.status == 1);
        std::vector<std::string> states;
        const json result = json::parse(listed.output);
        for (const auto& member : result["modules"][0]["members"])
            states.push_back(member["name"].get<std::string>() + " " + member["state"].get<std::string>());
        std::string told, expected;
        for (const auto& state : states) told += state + "\n";
        for (const auto& state : row.states) expected += state + "\n";
        CHECK(told == expected);
        const std::string manifest =
            "w/" + row.file.substr(0, row.file.find("star_field") + 10) + "/module.envar.toml";
        const std::string before = driver.read(manifest);
        CHECK(driver.envar({"members", "--sync", "--dry-run", "--drop"}, "w").status == 0);
        CHECK(driver.read(manifest) == before);
        CHECK(driver.envar({"members", "--sync"}, "w").status == 0);
        for (const auto& text : row.gone)  // nothing goes without being told to
            CHECK((driver.read(manifest).find(text) != std::string::npos) ==
                  (before.find(text) != std::string::npos));
        CHECK(driver.envar({"undo"}, "w").status == 0);
        const Run synced = driver.envar({"members", "--sync", "--drop"}, "w");
        CAPTURE(synced.errors);
        CHECK(synced.status == 0);
        const std::string after = driver.read(manifest);
        CAPTURE(after);
        for (const auto& text : row.after) CHECK_MESSAGE(after.find(text) != std::string::npos, text);
        for (const auto& text : row.gone) CHECK_MESSAGE(after.find(text) == std::string::npos, text);
        CHECK(driver.envar({"members"}, "w").status == 0);
        CHECK(driver.envar({"members", "--sync"}, "w").output.find("changed:") == std::string::npos);
        CHECK(driver.read(manifest) == after);
        CHECK(driver.envar({"undo"}, "w").status == 0);
        CHECK(driver.read(manifest) == before);
    }
}

TEST_CASE("members: a module whose host has no card is told of") {
    const Driver driver;
    lay_out(driver, "lua", "lua/star_field/init.lua", "return {}\n", "");
    driver.write("w/lua/night/module.envar.toml",
                 "[module]\nname = \"night\"\nversion = \"1.0.0\"\nhost = \"luu\"\n");
    const Run all = driver.envar({"members"}, "w");
    CHECK(all.status == 0);
    CHECK(all.output.find("left out, as there is no card for the host: night (lua/night/module.envar.toml:4)") !=
          std::string::npos);
    const json result = json::parse(driver.read("w/envar-results/members.json"));
    CHECK(result["left_out"] == json::parse(R"([{"module": "night", "host": "luu",
                                                 "file": "lua/night/module.envar.toml", "line": 4}])"));
    const Run one = driver.envar({"members", "night"}, "w");
    CHECK(one.status == 1);
    CHECK(one.errors.find("lua/night/module.envar.toml:4: there is no card for the host `luu`") != std::string::npos);
}

TEST_CASE("members: the results of many modules are put together in order, whatever their texts hold") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/workspace.envar.toml",
                 driver.read("w/workspace.envar.toml") + "\n[[search]]\nhost = \"lua\"\nfolder = \"lua\"\n");
    // Quotes, marks of CSV, characters of several bytes, control characters, bytes that are no text.
    const std::vector<std::string> texts = {
        "Plain.",         "Says \"place\", twice.", "Gr\xC3\xB6\xC3\x9F\x65, in m.", "A \x01 bell \x07.",
        "Not \xFF text.", "Back\\slash\\n."};
    const std::size_t modules = 37;
    for (std::size_t i = 0; i < modules; ++i) {
        const std::string name = "m" + std::to_string(100 + i);
        driver.write("w/lua/" + name + "/module.envar.toml",
                     "[module]\nname = \"" + name +
                         "\"\nversion = \"1.0.0\"\nhost = \"lua\"\nsummary = \"Stars.\"\n\n" +
                         (i % 3 == 0 ? "[[member]]\nname = \"f0\"\nparameters = [{ name = \"other\" }]\n"
                                     : "[exports]\nmode = \"all\"\n"));
        std::string code = "local M = {}\n";
        for (std::size_t k = 0; k < i % 5; ++k)
            code += "--- " + texts[(i + k) % texts.size()] + "\nfunction M.f" + std::to_string(k) + "(a, b) end\n";
        driver.write("w/lua/" + name + "/init.lua", code + "return M\n");
    }
    const Run run = driver.envar({"members", "--jobs", "2"}, "w");
    CHECK(run.status == 1);  // some differ
    const std::string text = driver.read("w/envar-results/members.json");
    const auto parsed = nlohmann::ordered_json::parse(text);
    REQUIRE(parsed["modules"].size() == modules);
    std::vector<nlohmann::ordered_json> lines;  // that hold a member each
    std::istringstream all(text);
    for (std::string line; std::getline(all, line);)
        if (line.starts_with("        {"))
            lines.push_back(nlohmann::ordered_json::parse(line.substr(0, line.find_last_of('}') + 1)));
    std::size_t rows = 0, differing = 0;
    for (std::size_t i = 0; i < modules; ++i) {
        const auto& module = parsed["modules"][i];
        CHECK(module["module"] == "m" + std::to_string(100 + i));
        for (const auto& member : module["members"]) {
            REQUIRE(rows < lines.size());
            CHECK(lines[rows++] == member);
            differing += member["state"] == "differs" ? 1 : 0;
            const std::string name = member["name"];
            if (!member["found"] || !member["declared"].get<bool>()) continue;
            CHECK(member["source_parameters"] == nlohmann::ordered_json({"a", "b"}));
        }
        CHECK(module["members"].size() >= i % 5);
    }
    CHECK(differing > 5);
    const std::string csv = driver.read("w/envar-results/members.csv");
    CHECK(static_cast<std::size_t>(std::count(csv.begin(), csv.end(), '\n')) == rows + 1);
    // The differences are told below the table, once each.
    std::size_t told = 0;
    for (std::size_t at = run.output.find("the manifest says (other)"); at != std::string::npos;
         at = run.output.find("the manifest says (other)", at + 1))
        ++told;
    CHECK(told == differing);
    CHECK(run.output.find('\x07') == std::string::npos);
}

TEST_CASE("trial: what the host calls members with is compared with what the source says") {
    struct Row {
        std::string host, file;
        std::vector<std::pair<std::string, std::string>> edits;  // of the scaffolded entry file
        std::string member;
        std::vector<std::string> called_with;       // `name` or `name=`, as the host tells
        std::pair<std::string, std::string> twist;  // an edit that defines it anew while the module loads
        std::string difference;
    };
    const std::vector<Row> rows = {
        {"lua",
         "lua/stars/init.lua",
         {{"return M\n", "function M.place(magnitude, ...) end\nfunction M:turn(angle) end\nreturn M\n"}},
         "place",
         {"magnitude", "...="},
         {"return M\n", "for _, name in ipairs({ \"place\" }) do M[name] = function(a) return a end end\nreturn M\n"},
         "`place` is called with (a), the source says (magnitude, ...=)"},
        {"python",
         "python/stars/__init__.py",
         {{"[\"describe\"]", "[\"describe\", \"place\", \"cached\", \"branch\"]"},
          {"def describe",
           "def place(magnitude, epoch='J2000', *rest, limit: int = 6, **more):\n    pass\n\n\n"
           "def loose(f):\n    return lambda *all: f(*all)\n\n\n"
           "@loose\ndef cached(sky):\n    pass\n\n\nif True:\n    def branch(a):\n        pass\n"
           "else:\n    def branch(a, b):\n        pass\n\n\ndef describe"}},
         "place",
         {"magnitude", "epoch=", "rest=", "limit=", "more="},
         {"def describe", "globals()['place'] = lambda epoch: epoch\n\n\ndef describe"},
         "`place` is called with (epoch), the source says (magnitude, epoch=, rest=, limit=, more=)"},
        {"tcl",
         "tcl/stars/stars.tcl",
         {{"export describe", "export describe place"},
          {"# describe --", "proc ::stars::place {magnitude {epoch J2000} args} {}\n# describe --"}},
         "place",
         {"magnitude", "epoch=", "args"},
         {"# describe --", "eval {proc ::stars::place {magnitude epoch} {}}\n# describe --"},
         "`place` is called with (magnitude, epoch), the source says (magnitude, epoch=, args)"},
        {"guile",
         "guile/stars/lib/stars.scm",
         {{"(describe))", "(describe place))"},
          {"(define* (describe)",
           "(define* (place magnitude #:optional epoch (limit 6) #:key deep . rest)\n  magnitude)\n(define* (describe)"}},
         "place",
         {"_", "_=", "_=", "deep=", "_="},
         {"(define* (describe)", "(set! place (lambda (a b) a))\n(define* (describe)"},
         "`place` is called with (_, _), the source says (magnitude, epoch=, limit=, deep=, rest=)"},
        {"fish",
         "shell/stars/functions/stars.fish",
         {{"source (status", "function stars_place -d 'It\\'s placed' -a magnitude epoch\nend\nsource (status"}},
         "stars_place",
         {"magnitude", "epoch"},
         {"source (status", "eval 'function stars_place -a epoch; end'\nsource (status"},
         "`stars_place` is called with (epoch), the source says (magnitude, epoch)"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.host);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        REQUIRE(driver.envar({"scaffold", "stars", "--host", row.host}, "w").status == 0);
        const auto edit = [&](const std::pair<std::string, std::string>& change) {
            std::string text = driver.read("w/" + row.file);
            const std::size_t at = text.find(change.first);
            REQUIRE(at != std::string::npos);
            driver.write("w/" + row.file, text.replace(at, change.first.size(), change.second));
        };
        for (const auto& change : row.edits) edit(change);
        const Run good = driver.envar({"trial", "--format", "json"}, "w");
        CAPTURE(good.output);
        CHECK(good.status == 0);
        std::vector<std::string> called_with;
        const json seen = json::parse(good.output)["hosts"][0]["modules"][0]["seen_parameters"];
        REQUIRE(seen.contains(row.member));
        for (const auto& parameter : seen[row.member])
            called_with.push_back(parameter["name"].get<std::string>() + (parameter["required"] ? "" : "="));
        CHECK(called_with == row.called_with);
        edit(row.twist);
        const Run twisted = driver.envar({"trial"}, "w");
        CAPTURE(twisted.output);
        CHECK(twisted.status == 1);
        CHECK(twisted.output.find(row.difference) != std::string::npos);
    }
}

TEST_CASE("compare: what breaks, what is new, and the version that follows") {
    struct Row {
        std::string before, after;            // Python, of a module that exports all
        std::string more_before, more_after;  // of the manifest
        std::vector<std::string> told;        // "weight what member"
        std::string follows;                  // after 1.2.3
    };
    const std::string f = "def f(a, b=1):\n    \"\"\"Does f.\"\"\"\n    return a + b\n";
    const auto need = [](const std::string& more) { return "\n[[dependency]]\nmodule = \"sky\"\n" + more; };
    const std::vector<Row> rows = {
        {f, f, "", "", {}, "1.2.3"},
        {f, "def f(a, b=1):\n    \"\"\"Does f.\"\"\"\n    return b + a\n", "", "", {"fix changed f"}, "1.2.4"},
        {f, f + "def g(): pass\n", "", "", {"addition added g"}, "1.3.0"},
        {f + "def g(): pass\n", f, "", "", {"breaking removed g"}, "2.0.0"},
        {f, "def h(a, b=1):\n    \"\"\"Does f.\"\"\"\n    return a + b\n", "", "", {"breaking renamed f"}, "2.0.0"},
        {"def f(a, b): return a\n",
         "def f(b, a): return a\n",
         "",
         "",
         {"breaking parameters reordered f", "fix changed f"},
         "2.0.0"},
        {"def f(a, b): return a\n",
         "def f(a): return a\n",
         "",
         "",
         {"breaking parameter removed f", "fix changed f"},
         "2.0.0"},
        {"def f(a): return a\n",
         "def f(a, b): return a\n",
         "",
         "",
         {"breaking parameter added f", "fix changed f"},
         "2.0.0"},
        {"def f(a): return a\n",
         "def f(a, b=1): return a\n",
         "",
         "",
         {"addition parameter added f", "fix changed f"},
         "1.3.0"},
        {"def f(a=1): return a\n",
         "def f(a=2): return a\n",
         "",
         "",
         {"breaking default changed f", "fix changed f"},
         "2.0.0"},
        {"def f(a=1): return a\n",
         "def f(a): return a\n",
         "",
         "",
         {"breaking parameter required f", "fix changed f"},
         "2.0.0"},
        {"def f(a): return a\n", "class f: pass\n", "", "", {"breaking kind changed f", "fix changed f"}, "2.0.0"},
        {f, f, need("visibility = \"public\"\n"), need(""), {"breaking visibility changed sky"}, "2.0.0"},
        {f, f, "", need(""), {"addition dependency added sky"}, "1.3.0"},
        {f, f, need(""), "", {"fix dependency dropped sky"}, "1.2.4"},
        {f, f, "", "\n[entry]\nphase = \"early\"\n", {"breaking phase moved "}, "2.0.0"},
    };
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    for (const Row& row : rows) {
        CAPTURE(row.before);
        CAPTURE(row.after);
        CAPTURE(row.more_after);
        for (const bool old : {true, false}) {
            const std::string folder = old ? "old/" : "new/";
            driver.write(folder + "__init__.py", old ? row.before : row.after);
            driver.write(
                folder + "module.envar.toml",
                "[module]\nname = \"star_field\"\nversion = \"1.2.3\"\nhost = \"python\"\nsummary = \"Stars.\"\n\n"
                "[exports]\nmode = \"all\"\n" +
                    (old ? row.more_before : row.more_after));
        }
        const Run run = driver.envar({"compare", "../old", "../new", "--format", "json"}, "w");
        CAPTURE(run.errors);
        const json result = json::parse(run.output);
        std::string told, expected;
        for (const auto& one : result["differences"])
            told += one["weight"].get<std::string>() + " " + one["what"].get<std::string>() + " " +
                    one["member"].get<std::string>() + "\n";
        for (const auto& one : row.told) expected += one + "\n";
        CHECK(told == expected);
        CHECK(result["follows"] == row.follows);
        CHECK(run.status == (row.told.empty() ? 0 : 1));  // it calls itself what it was
        CHECK(driver.read("w/envar-results/compare.md").find("# star_field 1.2.3\n") == 0);
    }
    CHECK(driver.envar({"compare", "star_field@9.9.9", "../new"}, "w").status == 1);
}
