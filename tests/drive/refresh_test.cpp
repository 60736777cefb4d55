// Refreshing modules when a card's templates have changed, and blocks of Envar's in files of the author's.
#include <doctest/doctest.h>

#include <algorithm>

#include "tests/support/driver.hpp"

using namespace envar::tests;

namespace {

const std::string card =
    "[host]\nname = \"dusk\"\nkind = \"script\"\nsummary = \"A made-up host.\"\n"
    "[naming]\nmodule = '[a-z_]+'\nexample = \"lamps\"\n[layout]\nentry = \"main.dusk\"\nmember = \"go\"\n"
    "[language]\ncomment = \"#\"\n"
    "[[language.member]]\npattern = '^def (?P<name>\\w+)'\nexample = \"def go\"\n"
    "[[file]]\npath = \"main.dusk\"\ntemplate = \"main.mustache\"\nownership = \"authored\"\npurpose = \"entry\"\n"
    "[[file]]\npath = \"about.dusk\"\ntemplate = \"about.mustache\"\nownership = \"generated\"\npurpose = \"version\"\n"
    "[[file]]\npath = \"settings\"\ntemplate = \"settings.mustache\"\nownership = \"shared\"\npurpose = \"settings\"\n"
    "[[blueprint]]\nname = \"plain\"\nsummary = \"one file\"\n";

const std::string first_template =
    "{{#comment}}{{{summary}}}{{/comment}}\n\n# setup\nopen lamp\n\n{{#members}}\ndef {{{name}}}\n  light\nend\n{{/members}}\n\n# end\nclose\n";

void make_host(const Driver& driver, const std::string& main_template) {
    driver.write("w/hosts/dusk.host.toml", card);
    driver.write("w/hosts/main.mustache", main_template);
    driver.write("w/hosts/about.mustache", "version {{version}}\n");
    driver.write("w/hosts/settings.mustache", "name = {{name}}\nversion = {{version}}\n");
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    const std::size_t at = text.find(from);
    REQUIRE(at != std::string::npos);
    return text.replace(at, from.size(), to);
}

}  // namespace

TEST_CASE("a refresh merges what is new in the templates and loses no line of the author's") {
    struct Row {
        std::string name;
        std::string author_from, author_to;      // what the author changed; empty: nothing
        std::string template_from, template_to;  // what the card's maker changed
        std::vector<std::string> expect;         // in the file afterwards
        int status = 0;
    };
    const std::vector<Row> rows = {
        {"nothing new", "light", "light slowly", "", "", {"light slowly"}},
        {"template alone", "", "", "open lamp", "open lamp 7", {"open lamp 7", "def go"}},
        {"both, apart", "  light\n", "  light slowly\n", "close\n", "close all\n", {"light slowly", "close all"}},
        {"both, the same", "open lamp", "open lamp 7", "open lamp", "open lamp 7", {"open lamp 7"}},
        {"both, differently",
         "open lamp",
         "open my lamp",
         "open lamp",
         "open lamp 7",
         {"<<<<<<< yours\nopen my lamp\n=======\nopen lamp 7\n>>>>>>> the card's template\n"},
         1},
        {"author removed what changed",
         "# setup\nopen lamp\n",
         "",
         "open lamp",
         "open lamp 7",
         {"<<<<<<< yours\n=======\n", "open lamp 7"},
         1},
        {"author added beside it",
         "open lamp\n",
         "open lamp\nopen door\n",
         "close\n",
         "close\nlog\n",
         {"open lamp\nopen door\n", "close\nlog\n"}},
        {"no last line end", "close\n", "close", "open lamp", "open lamp 7", {"open lamp 7", "close"}},
    };
    for (const Row& row : rows) {
        CAPTURE(row.name);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        make_host(driver, first_template);
        const Run made =
            driver.envar({"scaffold", "lamps", "--host", "dusk", "--set", "summary=It's \"bright\"."}, "w");
        REQUIRE_MESSAGE(made.status == 0, made.errors);
        const std::string file = "w/dusk/lamps/main.dusk";
        std::string mine = driver.read(file);
        if (!row.author_from.empty()) mine = replaced(mine, row.author_from, row.author_to);
        driver.write(file, mine);
        if (!row.template_from.empty())
            make_host(driver, replaced(first_template, row.template_from, row.template_to));
        const std::string dry = driver.envar({"scaffold", "--refresh", "lamps", "--dry-run"}, "w").output;
        CHECK(driver.read(file) == mine);
        const Run refresh = driver.envar({"scaffold", "--refresh", "lamps"}, "w");
        CHECK_MESSAGE(refresh.status == row.status, refresh.output);
        const std::string merged = driver.read(file);
        for (const auto& expect : row.expect) CHECK_MESSAGE(merged.find(expect) != std::string::npos, merged);
        // Every line of the author's is there still.
        for (std::size_t at = 0; at < mine.size();) {
            const std::size_t end = std::min(mine.find('\n', at), mine.size());
            const std::string line = mine.substr(at, end - at);
            const bool own = first_template.find(line) == std::string::npos;
            CHECK((!own || merged.find(line) != std::string::npos));
            at = end + 1;
        }
        // A second time there is nothing to do, and both can be taken back.
        const Run again = driver.envar({"scaffold", "--refresh", "lamps"}, "w");
        CHECK(again.status == 0);
        CHECK(driver.read(file) == merged);
        if (merged != mine) {
            CHECK(driver.envar({"undo"}, "w").status == 0);
            CHECK(driver.read(file) == mine);
        }
    }
}

TEST_CASE("a refresh brings new files, leaves removed ones alone, and says when it knows too little") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    make_host(driver, first_template);
    CHECK(driver.envar({"scaffold", "lamps", "--host", "dusk"}, "w").status == 0);
    const std::string more =
        card +
        "[[file]]\npath = \"help.dusk\"\ntemplate = \"about.mustache\"\nownership = \"authored\"\npurpose = \"help\"\n";
    driver.write("w/hosts/dusk.host.toml", more);
    std::filesystem::remove(driver / "w/dusk/lamps/main.dusk");
    driver.write("w/hosts/main.mustache", first_template + "# more\n");
    const Run refresh = driver.envar({"scaffold", "--refresh", "lamps"}, "w");
    CHECK(refresh.status == 0);
    CHECK(driver.read("w/dusk/lamps/help.dusk") == "version 0.1.0\n");
    CHECK(!std::filesystem::exists(driver / "w/dusk/lamps/main.dusk"));
    CHECK_MESSAGE(refresh.output.find("left alone: dusk/lamps/main.dusk") != std::string::npos, refresh.output);
    std::filesystem::remove_all(driver / "w/.envar/first");
    const Run unknown = driver.envar({"scaffold", "--refresh", "lamps"}, "w");
    CHECK(unknown.status == 1);
    CHECK(unknown.errors.find("is not known here") != std::string::npos);
    CHECK(driver.envar({"scaffold", "--refresh", "lamp"}, "w").errors.find("did you mean `lamps`?") !=
          std::string::npos);
    CHECK(driver.envar({"scaffold", "--refresh", "lamps", "--host", "dusk"}, "w").status == 2);
}

TEST_CASE("a block in a shared file is marked as its own dialect writes comments") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    make_host(driver, first_template);
    const std::string in_xml =
        replaced(card, "ownership = \"shared\"\n", "ownership = \"shared\"\ndialect = \"xml\"\n") +
        "[[dialect]]\nname = \"xml\"\ncomment = \"<!--\"\ncomment_end = \"-->\"\n";
    driver.write("w/hosts/dusk.host.toml", in_xml);
    CHECK(driver.envar({"scaffold", "lamps", "--host", "dusk"}, "w").status == 0);
    const std::string file = driver.read("w/dusk/lamps/settings");
    CHECK(file.rfind("<!-- Envar's block module, ", 0) == 0);
    CHECK(file.find("<!-- Envar's block module ends here -->\n") != std::string::npos);
    CHECK(driver.envar({"check"}, "w").status == 0);
    driver.write("w/dusk/lamps/settings", "");
    CHECK(driver.envar({"emit"}, "w").status == 0);
    CHECK(driver.read("w/dusk/lamps/settings") == file);
}

TEST_CASE("of a shared file only the block is Envar's, and drift of it is told") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    make_host(driver, first_template);
    CHECK(driver.envar({"scaffold", "lamps", "--host", "dusk"}, "w").status == 0);
    const std::string file = "w/dusk/lamps/settings";
    const std::string first = driver.read(file);
    CHECK(first.find("name = lamps\nversion = 0.1.0\n") != std::string::npos);
    CHECK(driver.envar({"check"}, "w").status == 0);
    const auto emitted = [&] { return driver.envar({"emit"}, "w").status; };
    // Text around it is the author's.
    driver.write(file, "mine = 1\n\n" + first + "\nalso mine\n");
    CHECK(driver.envar({"check"}, "w").status == 0);
    // The manifest moves on: check tells, emit mends, the text around stays.
    driver.write("w/dusk/lamps/module.envar.toml",
                 replaced(driver.read("w/dusk/lamps/module.envar.toml"), "0.1.0", "0.2.0"));
    CHECK(driver.envar({"check"}, "w").output.find("out of date") != std::string::npos);
    CHECK(emitted() == 0);
    CHECK(driver.read(file).rfind("mine = 1\n\n# Envar's block", 0) == 0);
    CHECK(driver.read(file).find("version = 0.2.0") != std::string::npos);
    CHECK(driver.read(file).ends_with("\nalso mine\n"));
    CHECK(driver.envar({"check"}, "w").status == 0);
    // Inside it was edited: told, and not overwritten.
    driver.write(file, replaced(driver.read(file), "version = 0.2.0", "version = 9"));
    CHECK(driver.envar({"check"}, "w").output.find("edited by hand") != std::string::npos);
    driver.envar({"emit"}, "w");
    CHECK(driver.read(file).find("version = 9") != std::string::npos);
    CHECK(driver.envar({"emit", "--overwrite"}, "w").status == 0);
    CHECK(driver.read(file).find("version = 0.2.0") != std::string::npos);
    // The block taken out by its author comes back; cleaning takes out nothing but the block.
    driver.write(file, "mine = 1\n");
    CHECK(emitted() == 0);
    CHECK(driver.read(file).rfind("mine = 1\n\n# Envar's block", 0) == 0);
    CHECK(driver.envar({"emit", "--clean"}, "w").status == 0);
    CHECK(driver.read(file) == "mine = 1\n");
    // Torn marks are told and left alone.
    driver.write(file, first.substr(0, first.rfind("# Envar's block")));
    const Run torn = driver.envar({"check"}, "w");
    CHECK_MESSAGE(torn.output.find("do not pair up") != std::string::npos, torn.output);
    driver.envar({"emit"}, "w");
    CHECK(driver.read(file) == first.substr(0, first.rfind("# Envar's block")));
}
