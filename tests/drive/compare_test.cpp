// `envar compare` on archives, records and locks, and what `check` makes of a version that promises too much.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

const std::string before =
    "local M = {}\n--- Places.\nfunction M.place(magnitude, epoch) end\nfunction M.count() end\nreturn M\n";

std::string manifest_of(const std::string& version) {
    return "[module]\nname = \"star_field\"\nversion = \"" + version +
           "\"\nhost = \"lua\"\nsummary = \"Stars.\"\n\n[exports]\nmode = \"all\"\n";
}

void make(const Driver& driver) {
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    REQUIRE(driver.envar({"scaffold", "star_field", "--host", "lua"}, "w").status == 0);
    driver.write("w/lua/star_field/init.lua", before);
    driver.write("w/lua/star_field/module.envar.toml", manifest_of("1.2.0"));
    REQUIRE(driver.envar({"emit"}, "w").status == 0);
}

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

}  // namespace

TEST_CASE("a recorded contract, and versions that keep it or do not") {
    struct Row {
        std::string version, code;
        std::string told;     // by check; empty: nothing
        std::string follows;  // by compare
    };
    for (
        const Row& row : std::vector<Row>{
            {"1.2.0", before, "", ""},
            {"1.2.0",
             "local M = {}\n--- Places.\nfunction M.place(magnitude, epoch) return 1 end\nfunction M.count() end\nreturn M\n",
             "", ""},
            {"1.2.1", "local M = {}\n--- Places.\nfunction M.place(magnitude, epoch) end\nreturn M\n",
             "star_field 1.2.1 promises more than it keeps since 1.2.0: function `count` is gone [EV710]", "2.0.0"},
            {"2.0.0", "local M = {}\n--- Places.\nfunction M.place(magnitude, epoch) end\nreturn M\n", "", "2.0.0"},
            {"1.2.1",
             "local M = {}\n--- Places.\nfunction M.place(epoch, magnitude) end\nfunction M.count() end\nreturn M\n",
             "`place` takes its parameters in another order [EV710]", "2.0.0"},
            {"1.2.1", before.substr(0, before.find("return")) + "function M.more() end\nreturn M\n",
             "function `more` is new [EV710]", "1.3.0"},
            {"1.3.0", before.substr(0, before.find("return")) + "function M.more() end\nreturn M\n", "", "1.3.0"},
        }) {
        CAPTURE(row.version);
        CAPTURE(row.code);
        const Driver driver;
        make(driver);
        const Run none = driver.envar({"compare", "star_field"}, "w");
        CHECK(none.status == 1);
        CHECK(has(none.errors, "nothing is recorded of star_field"));
        const Run recorded = driver.envar({"compare", "--record"}, "w");
        CHECK_MESSAGE(recorded.status == 0, recorded.errors);
        CHECK(has(driver.envar({"compare", "--record"}, "w").output, "recorded as they are"));
        driver.write("w/lua/star_field/init.lua", row.code);
        driver.write("w/lua/star_field/module.envar.toml", manifest_of(row.version));
        REQUIRE(driver.envar({"emit"}, "w").status == 0);
        const Run check = driver.envar({"check"}, "w");
        CHECK_MESSAGE((row.told.empty() ? has(check.output, "nothing found") : has(check.output, row.told)),
                      check.output);
        const Run compared = driver.envar({"compare", "star_field"}, "w");
        CHECK(compared.status == (row.told.empty() ? 0 : 1));
        const json result = json::parse(driver.read("w/envar-results/compare.json"));
        if (row.follows.empty()) {
            CHECK(result["differences"].empty());
        } else {
            CHECK(result["follows"] == row.follows);
        }
    }
}

TEST_CASE("archives are compared like folders, and bad ones are refused") {
    const Driver driver;
    make(driver);
    const auto tar = [&](const std::vector<std::string>& words) {
        std::vector<std::string> all = {"tar", "-C", driver / "w/lua"};
        all.insert(all.end(), words.begin(), words.end());
        const Run run = driver.program(all);
        REQUIRE_MESSAGE(run.status == 0, run.errors);
    };
    for (const auto& [kind, name] : std::vector<std::pair<std::string, std::string>>{
             {"-cf", "old.tar"}, {"-czf", "old.tar.gz"}, {"-cJf", "old.tar.xz"}})
        tar({kind, driver / ("w/" + name), "star_field"});
    tar({"-czf", driver / "w/bare.tgz", "-C", "star_field", "."});
    driver.write("w/lua/star_field/init.lua", "local M = {}\nfunction M.place(magnitude) end\nreturn M\n");
    driver.write("w/lua/star_field/module.envar.toml", manifest_of("1.3.0"));
    for (const std::string name : {"old.tar", "old.tar.gz", "old.tar.xz", "bare.tgz"}) {
        CAPTURE(name);
        const Run run = driver.envar({"compare", name, "star_field"}, "w");
        CHECK_MESSAGE(run.status == 1, run.errors);
        for (const std::string part : {"star_field 1.3.0 against star_field 1.2.0", "function `count` is gone",
                                       "`place` takes no `epoch` any more", "2.0.0 follows"})
            CHECK_MESSAGE(has(run.output, part), run.output);
        CHECK(has(run.output, name + ":init.lua:"));
        // Nothing is left behind.
        CHECK(driver.envar({"compare", name, name}, "w").status == 0);
    }
    driver.write("w/broken.tar.gz", driver.read("w/old.tar.gz").substr(0, 60));
    driver.write("w/none.tar", "no archive at all");
    tar({"-cf", driver / "w/evil.tar", "-P", "--transform", "s,.*,../../evil,", driver / "w/none.tar"});
    tar({"-cf", driver / "w/other.tar", "star_field/init.lua"});
    for (const auto& [name, told] : std::vector<std::pair<std::string, std::string>>{
             {"broken.tar.gz", "broken.tar.gz"},
             {"none.tar", "none.tar"},
             {"evil.tar", "which leaves its folder"},
             {"other.tar", "holds no module.envar.toml"},
             {"absent.tar", "neither a module of the workspace nor a folder"}}) {
        const auto& about = name;
        CAPTURE(about);
        const Run run = driver.envar({"compare", name, "star_field"}, "w");
        CHECK(run.status == 1);
        CHECK_MESSAGE(has(run.errors, told), run.errors);
    }
    CHECK_FALSE(driver.has("evil"));
}

TEST_CASE("the lock against what is here") {
    const Driver driver;
    make(driver);
    CHECK(driver.envar({"compare", "--lock"}, "w").status == 1);
    REQUIRE(driver.envar({"resolve"}, "w").status == 0);
    REQUIRE(driver.envar({"compare", "--record"}, "w").status == 0);
    CHECK(driver.envar({"compare", "--lock"}, "w").status == 0);
    driver.write("w/lua/star_field/init.lua",
                 "local M = {}\n--- Places.\nfunction M.place(magnitude, epoch) end\nreturn M\n");
    driver.write("w/lua/star_field/module.envar.toml", manifest_of("1.2.1"));
    const Run run = driver.envar({"compare", "--lock"}, "w");
    CHECK_MESSAGE(run.status == 1, run.output, run.errors);
    const json row = json::parse(driver.read("w/envar-results/compare.json"))["modules"][0];
    CHECK(row["locked"] == "1.2.0");
    CHECK(row["now"] == "1.2.1");
    CHECK(row["follows"] == "2.0.0");
    for (const auto& words : std::vector<std::vector<std::string>>{
             {"compare"}, {"compare", "a", "b", "c"}, {"compare", "--lock", "star_field"}})
        CHECK(driver.envar(words, "w").status == 2);
}

TEST_CASE("what the code does counts, also where the manifest lists its members and was not brought up to date") {
    const std::string head = "'''Counts stars.'''\n__all__ = ['place', 'count', 'Star']\n";
    const std::string code =
        head +
        "def place(a, b=1):\n    return a + b\ndef count(sky, *, deep=False):\n    return len(sky)\n"
        "class Star: pass\n";
    struct Row {
        std::string code;
        std::vector<std::string> expect;  // what is told, all of it
        std::string follows, weight = "breaking";
    };
    const auto with = [&](const std::string& from, const std::string& to) {
        std::string changed = code;
        for (std::size_t at = changed.find(from); at != std::string::npos; at = changed.find(from, at + to.size()))
            changed.replace(at, from.size(), to);
        return changed;
    };
    for (const Row& row : std::vector<Row>{
             {code, {}, "1.2.0"},
             {with("b=1", "b=2"), {"`b` of `place` is 2 when it is left out, and was 1"}, "2.0.0"},
             {with("b=1", "b"), {"`b` of `place` must be given"}, "2.0.0"},
             {with("a, b=1", "a"), {"`place` takes no `b` any more"}, "2.0.0"},
             {with("a, b=1", "b=1, a=2"),
              {"takes its parameters in another order", "`a` of `place` may be left out"},
              "2.0.0"},
             {with("a, b=1", "a, b=1, c=3"), {"`place` takes `c`, which may be left out"}, "1.3.0", "addition"},
             {with("place", "put"), {"function `place` is called `put` now"}, "2.0.0"},
             {head + code.substr(code.find("def count")), {"function `place` is gone"}, "2.0.0"},
             {with("class Star: pass", "def Star(): pass"), {"`Star` is a function and was a class"}, "2.0.0"},
             {with("return a + b", "return b + a"), {"the code of `place` changed"}, "1.2.1", "fix"},
         }) {
        CAPTURE(row.code);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        driver.write("w/python/stars/__init__.py", code);
        REQUIRE(driver.envar({"adopt", "python/stars"}, "w").status == 0);
        std::string manifest = driver.read("w/python/stars/module.envar.toml");
        manifest.replace(manifest.find("0.1.0"), 5, "1.2.0");
        driver.write("w/python/stars/module.envar.toml", manifest);
        driver.write("before/module.envar.toml", manifest);
        driver.write("before/__init__.py", code);
        REQUIRE(driver.envar({"compare", "--record"}, "w").status == 0);
        driver.write("w/python/stars/__init__.py", row.code);
        for (const bool recorded : {false, true}) {
            std::vector<std::string> words = {"compare"};
            if (!recorded) words.emplace_back("../before");
            words.emplace_back("stars");
            const Run run = driver.envar(words, "w");
            const json result = json::parse(driver.read("w/envar-results/compare.json"));
            CAPTURE(result.dump(1));
            std::string told;
            for (const auto& one : result["differences"]) told += one["sentence"].get<std::string>() + "\n";
            CHECK((run.status == 0) == told.empty());
            if (!recorded) {
                CHECK(result["follows"] == row.follows);
                CHECK(told.empty() == row.expect.empty());
                for (const auto& expect : row.expect) CHECK_MESSAGE(has(told, expect), told);
            } else if (!row.expect.empty() && row.weight == "breaking" && !has(row.expect.front(), "was a class")) {
                // Neither bodies nor kinds of code are recorded, so that what is renamed is gone.
                CHECK_MESSAGE(
                    has(told, has(row.expect.front(), "is called") ? "function `place` is gone" : row.expect.front()),
                    told);
            }
        }
    }
}

TEST_CASE("where a module says nothing of what it exports, its files below count, each under its own name") {
    struct Row {
        std::string host, name, entry;
        std::vector<std::pair<std::string, std::string>> before, after;  // file, text
        std::vector<std::string> told;                                   // "weight member sentence place"
        std::string below;  // afterwards, by `members`: "file member…;"
    };
    const std::string lua = "local M = {}\nfunction M.up(a) end\nfunction M.down(a) end\nreturn M\n";
    for (const Row& row : std::vector<Row>{
             {"lua",
              "sky",
              "init.lua",
              {{"init.lua", "require 'sky.set'\n"}, {"set.lua", lua}, {"old/init.lua", lua}, {"tests/a.lua", lua}},
              {{"init.lua", "require 'sky.set'\n"},
               {"set.lua", "local M = {}\nfunction M.up(a, b) end\nreturn M\n"},
               {"new.lua", lua},
               {"tests/b.lua", lua}},
              {"breaking down sky.set: function `down` is gone ../old/sky/set.lua:3",
               "breaking sky.old `sky.old` cannot be loaded any more ../old/sky/old/init.lua:0",
               "breaking up sky.set: `up` takes `b` ../new/sky/set.lua:2",
               "addition sky.new `sky.new` can be loaded too ../new/sky/new.lua:0",
               "fix up sky.set: the code of `up` changed ../new/sky/set.lua:2"},
              "sky.new up down;sky.set up;"},
             {"python",
              "sky",
              "__init__.py",
              {{"__init__.py", ""}, {"set.py", "def up(): pass\n"}, {"_own.py", "def up(): pass\n"}},
              {{"__init__.py", ""}, {"set/__init__.py", "from os import path\ndef up(): pass\ndef _down(): pass\n"}},
              {},
              "sky.set up;"},
             {"perl",
              "Sky",
              "lib/Sky.pm",
              {{"lib/Sky.pm", "package Sky;\n1;\n"}, {"lib/Sky/Set.pm", "package Sky::Set;\nsub up { 1 }\n1;\n"}},
              {{"lib/Sky.pm", "package Sky;\n1;\n"},
               {"lib/Sky/Set.pm",
                "package Sky::Set;\nsub up { 1 }\nsub down { 1 }\npackage Other;\nsub odd { 1 }\n1;\n"}},
              {"addition down Sky::Set: function `down` is new ../new/sky/lib/Sky/Set.pm:3"},
              "Sky::Set up down;"},
             {"guile",
              "sky",
              "lib/sky.scm",
              {{"lib/sky.scm", "(define-module (sky))\n"},
               {"lib/sky/set.scm", "(define-module (sky set) #:export (up))\n(define (up) 1)\n"}},
              {{"lib/sky.scm", "(define-module (sky))\n"}},
              {"breaking sky set `sky set` cannot be loaded any more ../old/sky/lib/sky/set.scm:0"},
              ""},
         }) {
        CAPTURE(row.host);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const auto write = [&](const std::string& folder, const auto& files, const std::string& more) {
            for (const auto& [file, text] : files) driver.write(folder + "/sky/" + file, text);
            driver.write(
                folder + "/sky/module.envar.toml",
                fmt::format("[module]\nname = \"{}\"\nversion = \"1.2.0\"\nhost = \"{}\"\nsummary = \"Sky.\"\n\n"
                            "[entry]\nfile = \"{}\"\n{}",
                            row.name, row.host, row.entry, more));
        };
        write("old", row.before, "");
        write("new", row.after, "");
        const Run run = driver.envar({"compare", "../old/sky", "../new/sky/", "--format", "json"}, "w");
        REQUIRE_MESSAGE(json::accept(run.output), run.errors);
        std::string told, expected;
        const json result = json::parse(run.output);
        for (const auto& one : result["differences"]) {
            const auto sentence = one["sentence"].get<std::string>();
            told +=
                fmt::format("{} {} {} {}:{}\n", one["weight"].get<std::string>(), one["member"].get<std::string>(),
                            sentence, one["file"].get<std::string>(), one["line"].get<int>());
            const std::size_t colon = sentence.find(": ");
            CHECK(one.value("below", "") == (colon == std::string::npos ? "" : sentence.substr(0, colon)));
        }
        for (const auto& one : row.told) expected += one + "\n";
        CHECK(told == expected);
        REQUIRE(driver.program({"mkdir", "-p", driver / ("w/" + row.host)}).status == 0);
        REQUIRE(driver.program({"cp", "-r", driver / "new/sky", driver / ("w/" + row.host)}).status == 0);
        const Run members = driver.envar({"members", row.name, "--below", "--format", "json"}, "w");
        REQUIRE_MESSAGE(json::accept(members.output), members.errors);
        std::string below;
        const json files = json::parse(members.output);
        for (const auto& file : files["modules"]) {
            below += file["module"].get<std::string>();
            for (const auto& one : file["members"]) below += " " + one["name"].get<std::string>();
            below += ";";
        }
        CHECK(below == row.below);
        CHECK(has(driver.envar({"members", row.name}, "w").output, "--below` lists what they have") !=
              row.below.empty());
        // The manifest may lie elsewhere. What lists its members has no others.
        std::string elsewhere = driver.read("new/sky/module.envar.toml");
        elsewhere.insert(elsewhere.find("version"), "folder = \"../new/sky\"\n");
        driver.write("told/module.envar.toml", elsewhere);
        const Run same = driver.envar({"compare", "../told", "../new/sky"}, "w");
        CHECK_MESSAGE(has(same.output, "nothing that dependants could notice changed"), same.output);
        write("old", row.before, "\n[[member]]\nname = \"up\"\n");
        write("new", row.after, "\n[[member]]\nname = \"up\"\n");
        const Run listed = driver.envar({"compare", "../old/sky", "../new/sky"}, "w");
        CHECK_MESSAGE(has(listed.output, "nothing that dependants could notice changed"), listed.output);
    }
}
