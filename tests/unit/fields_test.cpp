#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <vector>

#include "core/check/check.hpp"
#include "core/model/card.hpp"
#include "core/model/field_values.hpp"
#include "core/model/manifest.hpp"
#include "core/model/workspace_file.hpp"

using namespace envar;
using namespace envar::model;

namespace {

const std::string head = "[module]\nname = \"m\"\nversion = \"1.0.0\"\nhost = \"lua\"\n";

/// "CODE line:column" of each finding.
std::vector<std::string> findings_of(const std::string& text) {
    std::vector<text::Finding> findings;
    (void)read_manifest(parse_document(text::Source("m", text)), findings);
    text::sort_findings(findings);
    std::vector<std::string> out;
    for (const auto& f : findings) {
        CHECK_FALSE(f.message.empty());
        CHECK_FALSE(f.hint.empty());
        out.push_back(f.code + " " + std::to_string(f.position.line) + ":" + std::to_string(f.position.column));
    }
    return out;
}

}  // namespace

TEST_CASE("every slip in a manifest is found at its place, all in one run") {
    struct Row {
        std::string text;
        std::vector<std::string> findings;
    };
    const std::vector<Row> rows = {
        {head, {}},
        {"", {"EV112 1:1"}},
        {"[module]\n", {"EV112 1:1", "EV112 1:1", "EV112 1:1"}},
        {head + "summery = \"x\"\n", {"EV110 5:1"}},
        {head + "summary = 3\n", {"EV111 5:11"}},
        {head + "authors = \"me\"\n", {"EV111 5:11"}},
        {head + "authors = [\"me\", 3]\n", {"EV111 5:18"}},
        {head + "tags = [[1]]\n", {"EV111 5:9"}},
        {head + "identity = \"6f1c\"\n", {"EV114 5:12"}},
        {head + "identity = \"6f1c0c1e-8a54-4f0e-9a53-0b8f6c1b7a10\"\n", {}},
        {head + "license = \"MIT\\nGPL\"\n", {"EV114 5:11"}},
        {"[module]\nname = \"a/b\"\nversion = \"1.2\"\nhost = \"lua\"\n", {"EV114 2:8", "EV114 3:11"}},
        {"[module]\nname = \"..\"\nversion = 1.0\nhost = true\n", {"EV111 3:11", "EV111 4:8", "EV114 2:8"}},
        {head + "[entry]\nfile = \"../x.lua\"\n", {"EV204 6:8"}},
        {head + "[entry]\nfile = \"/etc/passwd\"\n", {"EV204 6:8"}},
        {head + "[entry]\nfile = \"a/../../x\"\n", {"EV204 6:8"}},
        {head + "[entry]\nfile = \"a/../x.lua\"\n", {}},
        {head + "[[dependency]]\n", {"EV112 5:1"}},
        {head + "[dependency]\nmodule = \"x\"\n", {"EV111 5:1"}},
        {head + "[[dependency]]\nmodule = \"x\"\nversions = \">=1.x\"\n", {"EV114 7:15"}},
        {head + "[[dependency]]\nmodule = \"x\"\nvisibility = \"pubic\"\n", {"EV113 7:14"}},
        {head + "[[dependency]]\nmodule = \"x\"\noptional = \"yes\"\n", {"EV111 7:12"}},
        {head + "[[dependency]]\nmodule = \"x\"\nwhen = { platfrom = [\"linux\"] }\n", {"EV110 7:10"}},
        {head + "[[dependency]]\nmodule = \"a\\u001b[31mb\"\n", {"EV114 6:10"}},
        {head + "[entry]\nfile = \"a\\nb\"\n", {"EV114 6:8"}},
        {head + "license = \"a\\u0007\"\nsummary = \"fine\\nhere\"\n", {"EV114 5:11"}},
        {head + "[[member]]\nname = \"f\"\nkind = \"funktion\"\nparameters = [{ type = \"number\" }]\n",
         {"EV112 8:15", "EV113 7:8"}},
        {head + "[[member]]\nname = \"f\"\nparameters = [{ name = \"p\", default = { a = 1 } }]\n", {"EV111 7:39"}},
        {head + "[dependancy]\n", {"EV110 5:2"}},
        {head + "[exports]\nmode = \"some\"\nlist = []\n", {"EV110 7:1", "EV113 6:8"}},
    };
    for (auto row : rows) {
        CAPTURE(row.text);
        std::vector<std::string> found = findings_of(row.text);
        std::sort(found.begin(), found.end());
        std::sort(row.findings.begin(), row.findings.end());
        CHECK(fmt::format("{}", fmt::join(found, ", ")) == fmt::format("{}", fmt::join(row.findings, ", ")));
    }
}

TEST_CASE("a manifest is read in full") {
    std::vector<text::Finding> findings;
    const Manifest m = read_manifest(
        parse_document(text::Source(
            "m", head + "tags = [\"a\"]\n[entry]\nafter = [\"z\"]\n[[dependency]]\nmodule = \"d\"\nversions = "
                        "\">=1\"\nvisibility = \"public\"\nstage = \"test\"\noptional = true\nwhen = { platform = "
                        "[\"!windows\"], target = [\"v\"] }\n[exports]\nmode = \"all\"\n[[member]]\nname = \"f\"\n"
                        "parameters = [{ name = \"p\", required = false, default = 3 }]\n")),
        findings);
    CHECK(findings.empty());
    REQUIRE(m.dependencies.size() == 1);
    CHECK(m.dependencies[0].is_public);
    CHECK(m.dependencies[0].optional);
    CHECK(m.dependencies[0].stage == Stage::test);
    CHECK(m.exports_all);
    CHECK(m.entry.after[0].value == "z");
    CHECK(m.members[0].parameters[0].preset.text == "3");
    struct Row {
        std::string platform, target;
        bool holds;
    };
    for (const Row& row : {Row{"linux", "v", true},
                           {"windows", "v", false},
                           {"linux", "w", false},
                           {"", "", true},
                           {"", "w", false},
                           {"windows", "", false}}) {
        CAPTURE(row.platform);
        CAPTURE(row.target);
        CHECK(holds(m.dependencies[0].when, row.platform, row.target) == row.holds);
    }
}

TEST_CASE("the field tables are sound") {
    for (const auto& table : field_tables()) {
        std::vector<std::string> seen;
        visit_fields(*table.fields, [&](const std::string& path, const Field& field) {
            CAPTURE(path);
            CHECK(std::find(seen.begin(), seen.end(), path) == seen.end());
            seen.push_back(path);
            CHECK(field.help.size() > 2);
            CHECK((field.type == Type::word) == !field.values.empty());
            CHECK(type_info(field.type).type == field.type);
            const bool table_like = field.type == Type::table || field.type == Type::tables;
            CHECK((field.fields != nullptr) == table_like);
            CHECK((field.bound.enter != nullptr) == table_like);
            CHECK((field.bound.set != nullptr) != table_like);
            if (field.fields != nullptr) CHECK(field.fields->size() < 64);
            for (const std::string_view value : {field.example, field.preset}) {
                if (value.empty()) continue;
                const Document example = parse_document(text::Source("example", "x = " + std::string(value) + "\n"));
                CHECK_MESSAGE(example.valid, "not TOML: " << value);
            }
        });
    }
}

TEST_CASE("a workspace file is read in full") {
    std::vector<text::Finding> findings;
    const WorkspaceFile w = read_workspace_file(
        parse_document(text::Source(
            "w",
            "[workspace]\nname = \"s\"\nfolders = [\"a\"]\n[[search]]\nhost = \"lua\"\nfolder = \"a\"\n"
            "[[target]]\nname = \"t\"\nmodules = [\"m\"]\n[[pin]]\nmodule = \"m\"\nversions = \"=1\"\n")),
        findings);
    CHECK(findings.empty());
    CHECK(w.platforms.size() == 3);
    CHECK(w.search[0].folder.value == "a");
    CHECK(w.targets[0].modules[0].value == "m");
    CHECK(w.pins[0].versions.text == "=1");
}

TEST_CASE("faults of a card are told") {
    std::vector<text::Finding> findings;
    const std::string text =
        "[host]\nname = \"x\"\nkind = \"shell\"\nsummary = \"s\"\n[naming]\nmodule = '(?!a)b'\nexample = \"B\"\n"
        "[[language.member]]\npattern = 'f (?P<name>\\w+)'\nexample = \"g h\"\n"
        "[[file]]\npath = \"../a\"\ntemplate = \"none\"\nownership = \"authored\"\npurpose = \"p\"\n"
        "[[file]]\npath = \"b\"\ntemplate = \"../../x\"\nownership = \"authored\"\npurpose = \"p\"\n"
        "[[file]]\npath = \"b\"\ntemplate = \"none\"\nownership = \"generated\"\npurpose = \"p\"\n";
    Card card = read_card(parse_document(text::Source("c", text)), "/nonexistent", "workspace", findings);
    for (auto& finding : check::check_card(card)) findings.push_back(finding);
    std::vector<std::string> codes;
    for (const auto& f : findings) codes.push_back(f.code);
    std::sort(codes.begin(), codes.end());
    CHECK(codes == std::vector<std::string>{"EV204", "EV204", "EV801", "EV802", "EV803", "EV804"});
}
