// Cards from strangers: what is wrong in them is told with its place, and nothing in them does harm.
#include <doctest/doctest.h>

#include <chrono>

#include "tests/support/driver.hpp"

using namespace envar::tests;

namespace {

const std::string head =
    "[host]\nname = \"dusk\"\nkind = \"script\"\nsummary = \"A made-up host.\"\nprograms = [\"sh\"]\n"
    "[naming]\nmodule = '[a-z_]+'\nexample = \"lamps\"\n[layout]\nentry = \"main.dusk\"\nmember = \"go\"\n"
    "[language]\ncomment = \"#\"\n";
const std::string entry =
    "[[file]]\npath = \"main.dusk\"\ntemplate = \"main.mustache\"\nownership = \"authored\"\npurpose = \"entry\"\n";
const std::string plain = "[[blueprint]]\nname = \"plain\"\nsummary = \"one file\"\n";

std::string file(const std::string& path, const std::string& template_file = "main.mustache",
                 const std::string& more = "") {
    return "[[file]]\npath = \"" + path + "\"\ntemplate = \"" + template_file +
           "\"\nownership = \"authored\"\npurpose = \"p\"\n" + more;
}

}  // namespace

TEST_CASE("a card's faults are told with code and place") {
    struct Row {
        std::string name, card, main, expect;  // expect: empty for a sound card
    };
    const std::vector<Row> rows = {
        {"sound", head + entry + plain, "{{#comment}}{{{summary}}}{{/comment}}\n", ""},
        {"sound with settings",
         head + entry + plain + "[[blueprint.setting]]\nname = \"part\"\ndefault = \"x\"\nhelp = \"h\"\n",
         "{{part}}\n", ""},
        {"sound with its own delimiters", head + entry + plain, "{{=<% %>=}}<% name %>\n", ""},
        {"unknown field", head + "colour = 1\n" + entry + plain, "",
         "dusk.host.toml:14:1: error: unknown key `colour`"},
        {"pattern refused", head + "internal = '(?=x)'\n" + entry + plain, "",
         "dusk.host.toml:14:12: error: the pattern"},
        {"pattern refused in a list", head + "before = ['x(']\n" + entry + plain, "",
         "dusk.host.toml:14:12: error: the pattern `x(` is refused"},
        {"pattern against example",
         "[host]\nname = \"dusk\"\nkind = \"script\"\nsummary = \"s\"\n[naming]\nmodule = '[a-z]+'\nexample = \"Lamps\"\n",
         "", "dusk.host.toml:6:10: error: the pattern `[a-z]+` does not match `Lamps` [EV802]"},
        {"unknown value", head + entry + plain, "ok\n  {{nmae}}\n",
         "main.mustache:2:3: error: the template names `nmae`, which it is not given [EV805]"},
        {"unknown value in a section", head + entry + plain, "{{#membres}}{{name}}{{/membres}}\n",
         "main.mustache:1:1: error: the template names `membres`"},
        {"partial", head + entry + plain, "{{>other}}\n", "a template cannot take in another one"},
        {"unknown value in a path", head + entry + file("{{colour}}.dusk") + plain, "x\n",
         "names a value that there is not [EV805]"},
        {"path outside", head + entry + file("../x.dusk") + plain, "x\n", "dusk.host.toml"},
        {"path outside by a value",
         head + entry + file("{{part}}/x.dusk") + plain +
             "[[blueprint.setting]]\nname = \"part\"\ndefault = \"../..\"\nhelp = \"h\"\n",
         "x\n", "the path `../../x.dusk` leaves the module"},
        {"template outside", head + entry + file("x", "../../secret") + plain, "x\n", "dusk.host.toml"},
        {"two files at one place", head + entry + file("main.dusk") + plain, "x\n",
         "two files are written to `main.dusk` [EV804]"},
        {"two files at one place by values", head + entry + file("{{name}}.dusk") + file("lamps.dusk") + plain, "x\n",
         "two files are written to `lamps.dusk` [EV804]"},
        {"over the manifest", head + entry + file("module.envar.toml") + plain, "x\n",
         "two files are written to `module.envar.toml` [EV804]"},
        {"no entry file", head + file("other.dusk") + plain, "x\n",
         "does not write the entry file `main.dusk` [EV806]"},
        {"blueprint of a file", head + entry + file("x.dusk", "main.mustache", "blueprints = [\"plane\"]\n") + plain,
         "x\n", "the card has no blueprint `plane` [EV806]"},
        {"default against pattern",
         head + entry + plain +
             "[[blueprint.setting]]\nname = \"part\"\ndefault = \"X\"\nhelp = \"h\"\npattern = '[a-z]+'\n",
         "x\n", "the default `X` of the setting part does not look as it must [EV806]"},
        {"dialect", head + entry + file("x.dusk", "main.mustache", "dialect = \"xml\"\n") + plain, "x\n",
         "the card has no dialect `xml`"},
        {"variable without candidates", head + "[[search.variable]]\nname = \"DUSK_PATH\"\n" + entry + plain, "x\n",
         "[EV807]"},
        {"section not closed", head + entry + plain, "{{#members}}x\n", "does not close the section `members`"},
        {"section closed twice", head + entry + plain, "{{/members}}x\n", "[EV803]"},
        {"a bomb of lists", head + entry + plain,
         "{{#members}}{{#parameters}}{{#members}}{{#parameters}}{{#members}}{{#parameters}}{{#members}}{{#parameters}}"
         "{{#members}}{{#parameters}}{{#members}}{{#parameters}}{{#members}}{{#parameters}}{{#members}}{{#parameters}}"
         "{{#members}}{{#parameters}}{{#members}}{{#parameters}}{{#members}}{{#parameters}}{{#members}}{{#parameters}}"
         "{{#members}}{{#parameters}}{{#members}}{{#parameters}}{{#members}}{{#parameters}}boom"
         "{{/parameters}}{{/members}}{{/parameters}}{{/members}}{{/parameters}}{{/members}}{{/parameters}}{{/members}}"
         "{{/parameters}}{{/members}}{{/parameters}}{{/members}}{{/parameters}}{{/members}}{{/parameters}}{{/members}}"
         "{{/parameters}}{{/members}}{{/parameters}}{{/members}}{{/parameters}}{{/members}}{{/parameters}}{{/members}}"
         "{{/parameters}}{{/members}}{{/parameters}}{{/members}}{{/parameters}}{{/members}}",
         "far more than a file of source text"},
    };
    int sound = 0;
    for (const Row& row : rows) {
        CAPTURE(row.name);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        driver.write("secret", "secret\n");
        driver.write("w/hosts/dusk.host.toml", row.card);
        driver.write("w/hosts/main.mustache", row.main);
        const auto start = std::chrono::steady_clock::now();
        const Run check = driver.envar({"hosts", "check", "dusk"}, "w");
        const Run by_file = driver.envar({"hosts", "check", "w/hosts/dusk.host.toml"});
        CHECK(std::chrono::steady_clock::now() - start < std::chrono::seconds(60));
        CHECK(check.status == (row.expect.empty() ? 0 : 1));
        CHECK_MESSAGE(check.output.find(row.expect) != std::string::npos, check.output);
        CHECK(by_file.status == check.status);
        // Each fault is told once.
        const std::size_t first = check.output.find(row.expect);
        if (!row.expect.empty() && row.expect.find(".toml") == std::string::npos && row.expect != "[EV803]" &&
            row.expect != "[EV807]")
            CHECK_MESSAGE(check.output.find(row.expect, first + 1) == std::string::npos, check.output);
        sound += row.expect.empty();
        // What check refuses, scaffold does not write either, or not outside the module.
        const Run scaffold = driver.envar({"scaffold", "lamps", "--host", "dusk"}, "w");
        CHECK(!std::filesystem::exists(driver / "w/x.dusk"));
        CHECK(!std::filesystem::exists(driver / "x.dusk"));
        if (row.expect.empty()) CHECK_MESSAGE(scaffold.status == 0, scaffold.errors);
        if (std::filesystem::exists(driver / "w/dusk/lamps/x"))
            CHECK(driver.read("w/dusk/lamps/x").find("secret") == std::string::npos);
    }
    CHECK(sound == 3);
}

TEST_CASE("templates that go deep or write without end are refused in bounded time") {
    struct Row {
        std::string name, main;
    };
    std::string deep;
    for (int i = 0; i < 5000; ++i) deep += "{{#members}}";
    std::string wide;
    for (int i = 0; i < 3; ++i) wide += "{{#members}}{{#members}}{{#members}}";
    wide += std::string(100000, 'x');
    for (int i = 0; i < 3; ++i) wide += "{{/members}}{{/members}}{{/members}}";
    const std::vector<Row> rows = {{"deep", deep}, {"wide", wide}, {"long", std::string(std::size_t{1} << 20U, 'x')}};
    for (const Row& row : rows) {
        CAPTURE(row.name);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        driver.write("w/hosts/dusk.host.toml", head + entry + plain);
        driver.write("w/hosts/main.mustache", row.main);
        std::vector<std::string> scaffold = {"scaffold", "lamps", "--host", "dusk"};
        for (int i = 0; i < 20; ++i) scaffold.insert(scaffold.end(), {"--member", "m" + std::to_string(i)});
        const auto start = std::chrono::steady_clock::now();
        const Run run = driver.envar(scaffold, "w");
        CHECK(std::chrono::steady_clock::now() - start < std::chrono::seconds(60));
        CHECK(run.status != 0);
        CHECK(!run.errors.empty());
        CHECK(!std::filesystem::exists(driver / "w/dusk"));
    }
}

TEST_CASE("nothing that a workspace's own card names is run by anything but a trial") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    const std::string trap = "[\"-c\", \"touch " + (driver / "ran").string() + "; echo 1.2.3\"]\n";
    std::string card = head;
    card.replace(card.find("[naming]"), 0, "version_arguments = " + trap + "version_pattern = '(\\d+)'\n");
    driver.write("w/hosts/dusk.host.toml",
                 card + "[search]\ncandidates = [\"{{path}}/main.dusk\"]\n[search.ask]\narguments = " + trap +
                     "[[search.variable]]\nname = \"DUSK_PATH\"\n" + entry + plain +
                     "[trial]\narguments = [\"-c\", \"touch " + (driver / "ran").string() +
                     "\"]\nprobe = \"main.mustache\"\n");
    driver.write("w/hosts/main.mustache", "def go\n");
    CHECK(driver.envar({"scaffold", "lamps", "--host", "dusk"}, "w").status == 0);
    for (const std::vector<std::string>& command : std::vector<std::vector<std::string>>{{"hosts"},
                                                                                         {"hosts", "show", "dusk"},
                                                                                         {"hosts", "check"},
                                                                                         {"paths"},
                                                                                         {"locate", "lamps"},
                                                                                         {"check"},
                                                                                         {"resolve"},
                                                                                         {"order"},
                                                                                         {"modules"},
                                                                                         {"members"},
                                                                                         {"session", "--shell", "sh"},
                                                                                         {"emit"}}) {
        CAPTURE(command.front());
        const Run run = driver.envar(command, "w");
        CHECK(run.status <= 1);
        CHECK(!std::filesystem::exists(driver / "ran"));
    }
    driver.envar({"trial"}, "w");
    CHECK(std::filesystem::exists(driver / "ran"));
}
