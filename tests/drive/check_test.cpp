// What check tells beyond one document: assets, contradicting values, files that are named, the schema comment; and
// the forms in which it tells: SARIF, and again and again while files change.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/model/fields.hpp"
#include "core/text/codes.hpp"
#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

const std::string head = "[module]\nname = \"m\"\nversion = \"1.0.0\"\nhost = \"lua\"\n";

/// A workspace with one sound Lua module `m`, whose manifest gets `more` behind it.
void prepare(const Driver& driver, const std::string& more) {
    driver.remove("w");
    driver.write("w/workspace.envar.toml", "[workspace]\nname = \"w\"\n[[search]]\nhost = \"lua\"\nfolder = \".\"\n");
    driver.write("w/m/module.envar.toml", head);
    driver.write("w/m/init.lua", "return {}\n");
    CHECK(driver.envar({"emit"}, "w").status == 0);
    driver.write("w/m/module.envar.toml", head + more);
}

struct Found {
    std::string code;
    std::string message;
    std::string hint;
};

std::vector<Found> check(const Driver& driver) {
    std::vector<Found> out;
    const json result = json::parse(driver.envar({"check", "--format", "json"}, "w").output, nullptr, false);
    REQUIRE(result.is_object());
    for (const auto& f : result["findings"])
        if (f["code"] != "EV502") out.push_back({f["code"], f["message"], f["hint"]});
    return out;
}

}  // namespace

TEST_CASE("assets: what matches, what nearly does, what leaves the module") {
    struct Row {
        std::string table;
        std::string findings;       // codes
        std::string hint_or_words;  // in a message or a hint
        std::size_t matched;
    };
    const std::vector<Row> rows = {
        {"folder = \"images\"\nextension = \".sprite.toml\"", "", "", 2},
        {"folder = \"images\"\nextension = \".sprite.toml\"\nrecursive = true", "", "", 4},
        {"folder = \"images\"\nextension = \".sprite.toml\"\nrecursive = true\nignore = [\"deep\"]", "", "", 2},
        {"folder = \"images\"\nextension = \".sprite.toml\"\nrecursive = true\nignore = [\"deep/*\", \"*.b.*\"]", "",
         "", 2},
        {"folder = \"images\"\nextension = \".sprite.toml\"\nignore = [\"*\"]", "EV210", "ignore", 0},
        {"folder = \"images/deep\"", "", "", 2},
        {"folder = \"images\"\nextension = \".png\"", "EV210", ".toml", 0},
        {"folder = \"image\"", "EV209", "did you mean `images`?", 0},
        {"folder = \"images\"\nextension = \".SPRITE.toml\"", "EV210", "did you mean `.sprite.toml`?", 0},
        {"folder = \"slips\"\nextension = \".sprite.toml\"", "EV211 EV211", "moon.sprite.tml", 1},
        {"folder = \"below\"\nextension = \".txt\"", "EV210", "`recursive = true` would take in one file", 0},
        {"folder = \"empty\"", "EV210", "it holds no file that counts", 0},
        {"folder = \"linked\"", "EV204", "leaves the module", 0},
        {"folder = \"linked\"\nextension = \".txt\"", "EV210", "it holds no file that counts", 0},
        {"folder = \"linked\"\nignore = [\"secret\"]", "EV210", "it holds no file that counts", 0},
        {"folder = \"around\"", "", "", 1},
        {"folder = \"around\"\nrecursive = true", "EV204", "`around/out` leaves the module", 1},
        {"folder = \"way_out\"", "EV204", "leaves the module", 0},
        {"folder = \"round\"\nrecursive = true", "", "", 1},
        {"folder = \"images\"\n[[asset]]\nfolder = \"images\"\nextension = \".sprite.toml\"", "EV212",
         "2 files are declared twice", 5},
    };
    const Driver driver;
    for (const Row& row : rows) {
        CAPTURE(row.table);
        prepare(driver, "[[asset]]\n" + row.table + "\n");
        for (const char* file :
             {"images/a.sprite.toml", "images/b.sprite.toml", "images/deep/c.sprite.toml",
              "images/deep/d.sprite.toml", "images/note.md", "slips/sun.sprite.toml", "slips/moon.sprite.tml",
              "slips/mars.Sprite.toml", "slips/x.toml", "below/in/a.txt", "round/a", "around/x"})
            driver.write(std::string("w/m/") + file, "x");
        driver.write("outside/secret", "x");
        std::filesystem::create_directories(driver / "w/m/empty");
        std::filesystem::create_directories(driver / "w/m/linked");
        std::filesystem::create_symlink(driver / "outside/secret", driver / "w/m/linked/secret");
        std::filesystem::create_directory_symlink(driver / "outside", driver / "w/m/way_out");
        std::filesystem::create_directory_symlink(driver / "outside", driver / "w/m/around/out");
        std::filesystem::create_directory_symlink(driver / "w/m/round", driver / "w/m/round/again");
        std::string codes;
        std::string words;
        for (const Found& f : check(driver)) {
            codes += (codes.empty() ? "" : " ") + f.code;
            words += f.message + " " + f.hint + "\n";
        }
        CHECK(codes == row.findings);
        CHECK_MESSAGE(words.find(row.hint_or_words) != std::string::npos, words);
        const Run listed = driver.envar({"members", "m", "--assets", "--format", "json"}, "w");
        const json result = json::parse(listed.output, nullptr, false);
        REQUIRE(result.is_object());
        CHECK(result["modules"][0]["assets"].size() == row.matched);
        CHECK(listed.status == (row.matched == 0 ? 1 : 0));
        std::size_t counted = 0;
        const json left = json::parse(driver.read("w/envar-results/check.json"));
        for (const auto& table : left["assets"]) counted += table["matched"].get<std::size_t>();
        CHECK(counted == row.matched);
    }
}

TEST_CASE("files that a manifest names, and values that its host decides") {
    struct Row {
        std::string manifest;
        std::string findings;
    };
    const std::vector<Row> rows = {
        {"[native]\nsources = [\"init.lua\"]\n", ""},
        {"[native]\nsources = [\"src/no.cpp\"]\n", "EV209"},
        {"[native]\npublic_headers = [\"ini.lua\"]\n", "EV209"},
        {"[native]\nsources = [\"init.lua\", \"init.lua\"]\n", "EV115"},
        {"[tests]\nfolder = \"tests\"\n", "EV209"},
        {"[release]\nlicense_file = \"LICENSE\"\n", "EV209"},
        {"[native]\n[[front]]\nkind = \"binding\"\nhost = \"lua\"\n", ""},
        {"[native]\n[[front]]\nkind = \"binding\"\nhost = \"luna\"\n", "EV207"},
        {"[native]\n[[front]]\nkind = \"command\"\nhost = \"lua\"\n", "EV115"},
        {"[native]\n[[front]]\nkind = \"command\"\n[[front]]\nkind = \"command\"\n", "EV115"},
        {"[[provides]]\nmodule = \"m\"\n", "EV115"},
        {"[[conflict]]\nmodule = \"x\"\n[[dependency]]\nmodule = \"x\"\norigin = \"system\"\n", "EV115"},
        {"[[conflict]]\nmodule = \"x\"\nversions = \"<1\"\n[[dependency]]\nmodule = \"x\"\norigin = \"system\"\n",
         ""},
        {"[[parameter]]\nname = \"p\"\n[[parameter]]\nname = \"p\"\n", "EV115"},
        {"[[parameter]]\nname = \"p\"\ntype = \"integer\"\ndefault = 1_000\nmost = 1e3\n", ""},
        {"[[parameter]]\nname = \"p\"\ntype = \"integer\"\ndefault = 1.5\n", "EV115"},
        {"[[parameter]]\nname = \"p\"\ntype = \"boolean\"\nvalues = [\"a\"]\n", "EV115"},
    };
    const Driver driver;
    for (const Row& row : rows) {
        CAPTURE(row.manifest);
        prepare(driver, row.manifest);
        std::string codes;
        for (const Found& f : check(driver)) codes += (codes.empty() ? "" : " ") + f.code;
        CHECK(codes == row.findings);
    }
    // Another host, another way to write versions.
    const std::string card =
        "[host]\nname = \"dial\"\nkind = \"script\"\nsummary = \"s\"\nversions = \"{}\"\n[[blueprint]]\nname = "
        "\"plain\"\nsummary = \"s\"\n";
    struct Scheme {
        std::string scheme, version, others;
    };
    for (const Scheme& s : {Scheme{"integer", "42", "4.2 4.2.0"},
                            {"dotted", "4.2", "42 4.2.0-rc.1"},
                            {"dotted", "4.2.0.1", "4"},
                            {"semantic", "4.2.0", "42 4.2 4.2.0.1"}}) {
        CAPTURE(s.version);
        driver.remove("w");
        driver.write("w/workspace.envar.toml", "[workspace]\nname = \"w\"\n");
        driver.write("w/hosts/dial.host.toml", fmt::format(fmt::runtime(card), s.scheme));
        CHECK(driver.envar({"scaffold", "good", "--host", "dial", "--module-version", s.version}, "w").status == 0);
        CHECK(check(driver).empty());
        CHECK(driver.envar({"modules"}, "w").output.find(s.version) != std::string::npos);
        for (std::size_t at = 0; at < s.others.size();) {
            const std::size_t end = std::min(s.others.find(' ', at), s.others.size());
            const std::string other = s.others.substr(at, end - at);
            CAPTURE(other);
            CHECK(driver.envar({"scaffold", "bad", "--host", "dial", "--module-version", other}, "w").status == 2);
            driver.write("w/dial/bad/module.envar.toml",
                         "[module]\nname = \"bad\"\nversion = \"" + other + "\"\nhost = \"dial\"\n");
            REQUIRE(check(driver).size() == 1);
            CHECK(check(driver)[0].code == "EV114");
            driver.remove("w/dial/bad");
            at = end + 1;
        }
    }
}

TEST_CASE("the schema comment is right wherever a module lies, and a wrong one is told with the right path") {
    struct Row {
        std::string line;
        std::string hint;  // empty: nothing is found
    };
    const std::vector<Row> rows = {
        {"#:schema ../../../.envar/schema/module.schema.json", ""},
        {"#:schema   ../../../.envar/schema/module.schema.json  ", ""},
        {"# schema ../.envar/schema/module.schema.json", ""},
        {"#:schema https://schemas.varnhill.example/module.json", ""},
        {"#:schema ../own.json", ""},
        {"#:schema ../../../../.envar/schema/module.schema.json", "the schema lies three folders up, not four"},
        {"#:schema .envar/schema/module.schema.json", "the schema lies three folders up, not none"},
        {"#:schema ../../../.envar/schema/modul.schema.json", "envar schema --point"},
        {"#:schema", "envar schema --point"},
    };
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    CHECK(driver.envar({"scaffold", "m", "--host", "lua", "--in", "one/two"}, "w").status == 0);
    const std::string made = driver.read("w/one/two/m/module.envar.toml");
    CHECK(made.rfind("#:schema ../../../.envar/schema/module.schema.json\n", 0) == 0);
    CHECK(std::filesystem::is_regular_file(driver / "w/.envar/schema/module.schema.json"));
    driver.write("w/one/two/own.json", "{}");
    const std::string rest = made.substr(made.find('\n') + 1);
    for (const Row& row : rows) {
        CAPTURE(row.line);
        const std::string text = row.line + "\n" + rest;
        driver.write("w/one/two/m/module.envar.toml", text);
        const auto found = check(driver);
        CHECK(found.size() == (row.hint.empty() ? 0 : 1));
        if (found.size() == 1) {
            CHECK(found[0].code == "EV213");
            CHECK_MESSAGE(found[0].hint.find(row.hint) != std::string::npos, found[0].hint);
            CHECK(driver.envar({"schema", "--point"}, "w").status == 0);
            CHECK(driver.read("w/one/two/m/module.envar.toml") == made);
            CHECK(check(driver).empty());
            CHECK(driver.envar({"undo"}, "w").status == 0);
            CHECK(driver.read("w/one/two/m/module.envar.toml") == text);
        }
    }
    driver.write("w/one/two/m/module.envar.toml", "\xEF\xBB\xBF" + rest);
    CHECK(driver.envar({"schema", "--point"}, "w").status == 0);
    CHECK(driver.read("w/one/two/m/module.envar.toml") == "\xEF\xBB\xBF" + made);
}

TEST_CASE("SARIF: the structure that the standard asks for") {
    const Driver driver;
    prepare(driver, "smumary = \"\xC3\xA4\"\n[[dependency]]\nmodule = \"nowhere\"\nversions = \">=1.x\"\n");
    CHECK(driver.envar({"check", "--sarif", "out dir/x.sarif"}, "w").status == 3);
    CHECK(driver.envar({"check", "--sarif", "x.sarif", "--quiet"}, "w").status == 1);
    const json log = json::parse(driver.read("w/x.sarif"));
    CHECK(log["version"] == "2.1.0");
    CHECK(log["$schema"].get<std::string>().find("sarif-schema-2.1.0.json") != std::string::npos);
    REQUIRE(log["runs"].size() == 1);
    const json& run = log["runs"][0];
    const json& rules = run["tool"]["driver"]["rules"];
    CHECK(run["tool"]["driver"]["name"] == "Envar");
    CHECK(run["columnKind"] == "unicodeCodePoints");
    std::set<std::string> ids;
    const std::set<std::string> levels = {"none", "note", "warning", "error"};
    for (const auto& rule : rules) {
        CHECK(ids.insert(rule["id"]).second);
        CHECK(rule["shortDescription"]["text"].get<std::string>().size() > 5);
        CHECK(rule["help"]["text"].get<std::string>().size() > 40);
        CHECK(levels.count(rule["defaultConfiguration"]["level"]) == 1);
    }
    const json findings = json::parse(driver.read("w/envar-results/check.json"))["findings"];
    CHECK(findings.size() >= 3);
    REQUIRE(run["results"].size() == findings.size());
    for (std::size_t i = 0; i < findings.size(); ++i) {
        const json& result = run["results"][i];
        CHECK(result["ruleId"] == findings[i]["code"]);
        CHECK(rules[result["ruleIndex"].get<std::size_t>()]["id"] == result["ruleId"]);
        CHECK(levels.count(result["level"]) == 1);
        CHECK(result["message"]["text"].get<std::string>().rfind(findings[i]["message"], 0) == 0);
        const json& place = result["locations"][0]["physicalLocation"];
        CHECK(place["artifactLocation"]["uri"] == findings[i]["file"]);
        CHECK(run["originalUriBaseIds"].contains(place["artifactLocation"]["uriBaseId"].get<std::string>()));
        if (!place.contains("region")) continue;
        CHECK(place["region"]["startLine"] == findings[i]["line"]);
        CHECK(place["region"]["startColumn"] == findings[i]["column"]);
        CHECK(place["region"]["endColumn"] > place["region"]["startColumn"]);
    }
}

TEST_CASE("watching tells what is new and what is solved, and nothing else") {
    const Driver driver;
    prepare(driver, "");
    driver.write("watch.sh", R"sh(cd w
envar=$1
"$envar" check --watch >../told 2>&1 &
watcher=$!
touch ../size
wait_for() { for ((i = 0; i < 200; i++)); do grep -qF -- "$1" ../told && return; sleep 0.05; done; echo "never told: $1"; }
wait_for 'watching for changes'
cp m/module.envar.toml ../before
sed -i 's/host = "lua"/host = "luna"/' m/module.envar.toml
wait_for 'EV207'
echo 'summery = "x"' >>m/module.envar.toml
wait_for 'EV110'
mkdir -p fresh/inner
printf '[module]\nname = "inner"\nversion = "1.0.0"\nhost = "nope"\n' >fresh/inner/module.envar.toml
wait_for 'nope'
echo '[work' >workspace.envar.toml
wait_for 'EV112'
printf '[workspace]\nname = "w"\n[[search]]\nhost = "lua"\nfolder = "."\n' >workspace.envar.toml
rm -r fresh
cp ../before m/module.envar.toml
wait_for 'nothing found'
until [[ $(wc -c <../told) == "$(cat ../size)" ]]; do wc -c <../told >../size; sleep 0.5; done
touch m/module.envar.toml
sleep 0.6
[[ $(wc -c <../told) == "$(cat ../size)" ]] || echo 'told something about nothing'
kill "$watcher"
wait "$watcher"
)sh");
    const Run run = driver.program(
        {"bash", "-c", "cd \"$0\" && exec bash watch.sh \"$1\"", driver.folder().string(), ENVAR_PROGRAM});
    CHECK(run.output == "");
    const std::string told = driver.read("told");
    CAPTURE(told);
    const std::size_t fresh = told.find("there is no card for the host `luna`");
    const std::size_t second = told.find("unknown key `summery`");
    const std::size_t solved = told.find("solved m/module.envar.toml: there is no card for the host `luna` [EV207]");
    CHECK(fresh < second);
    CHECK(second < solved);
    CHECK(solved != std::string::npos);
    // The first finding is not told again with the second.
    CHECK(told.find("there is no card for the host `luna`", fresh + 1) >= solved);
}

TEST_CASE("every field, every code and every other word for a field is explained") {
    const Driver driver;
    std::size_t fields = 0;
    for (const auto& table : envar::model::field_tables())
        envar::model::visit_fields(*table.fields, [&](const std::string& path, const envar::model::Field& field) {
            CAPTURE(path);
            const Run run = driver.envar({"explain", path});
            CHECK(run.status == 0);
            CHECK(run.output.find(path) != std::string::npos);
            CHECK(run.output.find(std::string(field.help)) != std::string::npos);
            ++fields;
        });
    CHECK(fields > 150);
    for (const auto& code : envar::text::codes()) {
        const Run run = driver.envar({"explain", std::string(code.code)});
        CHECK(run.status == 0);
        CHECK(run.output.find(std::string(code.title)) != std::string::npos);
    }
    for (const auto& [word, field] :
         std::vector<std::pair<std::string, std::string>>{{"description", "module.summary"},
                                                          {"keywords", "module.tags"},
                                                          {"catalog", "origin.catalogue"},
                                                          {"recursiv", "recursive"},
                                                          {"EV10", "EV10"},
                                                          {"no such thing at all", "envar explain"}}) {
        const Run run = driver.envar({"explain", word});
        CHECK(run.status == 1);
        CHECK(run.errors.find(field) != std::string::npos);
    }
}

TEST_CASE("an entry file that its host would not take is told before it is loaded") {
    struct Row {
        std::string host, name, file, find, replace, expect;
    };
    const std::vector<Row> rows = {
        {"lua", "lamps", "lua/lamps/init.lua", "return M\n", "", "returns nothing"},
        {"perl", "Lamps", "perl/Lamps/lib/Lamps.pm", "package Lamps;", "package Lamp;", "declares no package"},
        {"guile", "lamps", "guile/lamps/lib/lamps.scm", "(define-module (lamps)", "(define-module (lamp)",
         "defines no module"},
        {"tcl", "lamps", "tcl/lamps/lamps.tcl", "package provide lamps", "package provide lamp",
         "provides no package"},
        {"fish", "lamps", "shell/lamps/functions/lamps.fish", "function lamps -d", "function lamp -d",
         "defines no function"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.host);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        CHECK(driver.envar({"scaffold", row.name, "--host", row.host}, "w").status == 0);
        std::string text = driver.read("w/" + row.file);
        REQUIRE(text.find(row.find) != std::string::npos);
        driver.write("w/" + row.file, text.replace(text.find(row.find), row.find.size(), row.replace));
        const Run check = driver.envar({"check"}, "w");
        CHECK(check.status == 1);
        CHECK_MESSAGE(check.output.find(row.expect) != std::string::npos, check.output);
        CHECK(check.output.find("[EV214]") != std::string::npos);
    }
}
