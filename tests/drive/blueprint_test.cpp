// Every blueprint of every shipped card, in the real host: what is scaffolded is clean, loads as predicted and passes
// its own tests; and a test that must fail does.
#include <doctest/doctest.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <tuple>

#include "tests/support/driver.hpp"

using namespace envar;
using namespace envar::tests;
using nlohmann::json;

namespace {

// A text that is special somewhere in every one of the languages.
const std::string hard =
    "It's \"hard\": \\ ]] --[[ ]==] */ <!-- --> $HOME `id` ${x} [exec id] #{x} {{y}} {{{z}}} {%} %s @x =cut\n=cut\n"
    "=head1 x\n%d\tz\xC3\xA4 \"\"\" ''' #| |# ;; \x7f } { ) (\n\x01\x02\x03\x04\x05\x06\a\b\t\v\f\r\x0e\x0f"
    "\x10\x11\x12\x13\x14\x15\x16\x17\x18\x19\x1a\x1b\x1c\x1d\x1e\x1f!&?^~ \xE2\x80\xA8 \xC2\x85 \xEF\xBB\xBF\n\n\\";

struct HostRow {
    std::string host;
    std::string first, second;  // module names
    std::string member;         // with parameters
    std::string plain_member;
};

const std::vector<HostRow> hosts = {
    {"bash", "star_field", "sky_user", "star_field_place(magnitude:number, epoch=J2000)", "sky_user_count"},
    {"zsh", "star_field", "sky_user", "star_field_place(magnitude:number, epoch=J2000)", "sky_user_count"},
    {"fish", "star_field", "sky_user", "star_field_place(magnitude:number, epoch=J2000)", "sky_user_count"},
    {"lua", "star_field", "sky_user", "place(magnitude:number, epoch=J2000, twice=false)", "count"},
    {"tcl", "star_field", "sky_user", "place(magnitude:number, epoch=J2000)", "count"},
    {"python", "star_field", "sky_user", "place(magnitude:number, epoch=J2000, twice=false)", "count"},
    {"perl", "StarField", "SkyUser", "place(magnitude:number, epoch=J2000)", "count"},
    {"guile", "star-field", "sky-user", "place(magnitude:number, epoch=J2000, twice=false)", "count"},
};

std::set<std::string> blueprints_of(const Driver& driver, const std::string& host) {
    std::set<std::string> names;
    const json card = json::parse(driver.envar({"hosts", "show", host, "--format", "json"}).output);
    for (const auto& blueprint : card["blueprints"]) names.insert(blueprint["name"].get<std::string>());
    return names;
}

/// A workspace with two modules, the second of which depends on the first.
void make_workspace(const Driver& driver, const HostRow& row, const std::string& blueprint, bool hard_texts) {
    CHECK(driver.envar({"begin", "w"}).status == 0);
    std::vector<std::string> first = {"scaffold", row.first, "--host", row.host, "--blueprint", blueprint};
    std::vector<std::string> second = {"scaffold",    row.second, "--host",
                                       row.host,      "--depend", row.first + " >=0.1, <1 | =3",
                                       "--blueprint", blueprint};
    if (blueprint != "command" || row.host == "lua" || row.host == "python" || row.host == "perl" ||
        row.host == "tcl" || row.host == "guile") {
        first.insert(first.end(), {"--member", row.member});
        second.insert(second.end(), {"--member", row.plain_member});
    }
    if (hard_texts) {
        first.insert(first.end(), {"--set", "summary=" + hard, "--set", "author=" + hard, "--set", "license=MIT"});
    } else if (blueprint == "nested") {
        first.insert(first.end(), {"--set", row.host == "perl" ? "part=Catalogue" : "part=catalogue"});
    }
    for (const auto& command : {first, second}) {
        const Run made = driver.envar(command, "w");
        CHECK_MESSAGE(made.status == 0, made.errors);
    }
}

}  // namespace

TEST_CASE("every blueprint of every host is clean, loads and passes its tests with no edit in between") {
    const Driver cards;
    for (const HostRow& row : hosts) {
        const auto blueprints = blueprints_of(cards, row.host);
        CHECK(blueprints.count("minimal") + blueprints.count("library") + blueprints.count("nested") == 3);
        for (const std::string& blueprint : blueprints)
            for (const bool hard_texts : {false, true}) {
                CAPTURE(row.host);
                CAPTURE(blueprint);
                CAPTURE(hard_texts);
                const Driver driver;
                make_workspace(driver, row, blueprint, hard_texts);
                const Run check = driver.envar({"check"}, "w");
                CHECK_MESSAGE(check.status == 0, check.output);
                const Run trial = driver.envar({"trial", "--tests"}, "w");
                CHECK_MESSAGE(trial.status == 0, trial.output);
                CHECK_MESSAGE(
                    trial.output.find("2 modules loaded as predicted; 2 tests passed, 0 failed") != std::string::npos,
                    trial.output);
            }
    }
}

TEST_CASE("a function that is added to a library needs no mention, and a test that must fail does") {
    struct Row {
        std::string host, file, text, member;
        std::string broken, find, replace;  // a file, and what makes its function give nothing
    };
    const std::vector<Row> rows = {
        {"bash", "shell/star_field/functions/late.bash", "star_field_late() { echo late; }\n", "star_field_late",
         "shell/star_field/functions/star_field_place.bash", "printf '%s'", ": '%s'"},
        {"zsh", "shell/star_field/functions/star_field_late", "print late\n", "star_field_late",
         "shell/star_field/functions/star_field_place", "print -r", ": -r"},
        {"fish", "shell/star_field/functions/star_field_late.fish", "function star_field_late; echo late; end\n",
         "star_field_late", "shell/star_field/functions/star_field_place.fish", "echo star_field", "true star_field"},
        {"lua", "lua/star_field/functions/late.lua", "return function() return 'late' end\n", "late",
         "lua/star_field/functions/place.lua", "return table.concat", "local _ = table.concat"},
        {"tcl", "tcl/star_field/functions/late.tcl", "proc ::star_field::late {} { return late }\n", "late",
         "tcl/star_field/functions/place.tcl", "return \"", "return \"\" ;# \""},
        {"python", "python/star_field/functions/late.py", "def late():\n    return 'late'\n", "late",
         "python/star_field/functions/place.py", "return f", "None and f"},
        {"perl", "perl/StarField/lib/StarField/functions/late.pl", "package StarField; sub late { 'late' } 1;\n",
         "late", "perl/StarField/lib/StarField/functions/place.pl", "return join", "return; join"},
        {"guile", "guile/star-field/lib/star-field/functions/late.scm",
         "(define-module (star-field functions late) #:export (late))\n(define (late) \"late\")\n", "late",
         "guile/star-field/lib/star-field/functions/place.scm", "(format #f", "(list #f"},
    };
    CHECK(rows.size() == hosts.size());
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const Row& row = rows[i];
        CAPTURE(row.host);
        REQUIRE(row.host == hosts[i].host);
        const Driver driver;
        make_workspace(driver, hosts[i], "library", false);
        driver.write("w/" + row.file, row.text);
        const Run members = driver.envar({"check"}, "w");
        CHECK(members.output.find("`" + row.member + "` is exported, but the manifest does not list it") !=
              std::string::npos);
        const json trial = json::parse(driver.envar({"trial", "--format", "json"}, "w").output);
        const auto seen = trial["hosts"][0]["modules"][0]["seen_members"].get<std::set<std::string>>();
        CHECK_MESSAGE((row.host == "lua" || seen.count(row.member) == 1), trial.dump(1));
        std::string text = driver.read("w/" + row.broken);
        REQUIRE(text.find(row.find) != std::string::npos);
        driver.write("w/" + row.broken, text.replace(text.find(row.find), row.find.size(), row.replace));
        const Run broken = driver.envar({"trial", "--tests"}, "w");
        CHECK(broken.status == 1);
        CHECK_MESSAGE(broken.output.find("1 test passed, 1 failed") != std::string::npos, broken.output);
    }
}

TEST_CASE("words of a language are no names of members or parameters") {
    for (const auto& [host, module, word] :
         std::vector<std::tuple<std::string, std::string, std::string>>{{"bash", "lamps", "done"},
                                                                        {"zsh", "lamps", "path"},
                                                                        {"fish", "lamps", "end"},
                                                                        {"lua", "lamps", "end"},
                                                                        {"tcl", "lamps", "return"},
                                                                        {"python", "lamps", "class"},
                                                                        {"perl", "Lamps", "qw"},
                                                                        {"guile", "lamps", "lambda"}}) {
        const auto& about = host;
        CAPTURE(about);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        const auto before = driver.tree("w");
        for (const std::string& member : {word, "go(" + word + ")"}) {
            const Run run = driver.envar({"scaffold", module, "--host", host, "--member", member}, "w");
            CHECK(run.status == 1);
            CHECK_MESSAGE(run.errors.find("`" + word + "` is a word of " + host + "'s own") != std::string::npos,
                          run.errors);
            CHECK(driver.tree("w") == before);
        }
    }
}
