// The smaller rules that reading stands on: licences, patterns of names, hints for keys; and writing what was read.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <string>
#include <vector>

#include "core/model/manifest.hpp"
#include "core/model/schema.hpp"
#include "core/model/workspace_file.hpp"
#include "core/text/glob.hpp"
#include "core/text/spdx.hpp"
#include "core/versions/version.hpp"

using namespace envar;
using namespace envar::model;

TEST_CASE("licence expressions") {
    for (const char* fine :
         {"MIT", "Apache-2.0", "GPL-2.0+", "MIT OR Apache-2.0", "(MIT)", "MIT AND (ISC OR (BSD-2-Clause AND Zlib))",
          "GPL-3.0-only WITH GCC-exception-3.1", "LicenseRef-varnhill", "DocumentRef-a:LicenseRef-b", "((MIT))",
          "GPL-2.0-only WITH Classpath-exception-2.0 OR MIT"}) {
        CAPTURE(std::string(fine));
        CHECK_FALSE(text::license_error(fine).has_value());
    }
    struct Row {
        std::string written;
        std::size_t begin, end;
        std::string hint;
    };
    const std::vector<Row> rows = {{"", 0, 0, "MIT"},
                                   {"   ", 0, 3, "MIT"},
                                   {"Apache 2", 0, 8, "Apache-2.0"},
                                   {"GPLv3", 0, 5, "GPL-3.0-only"},
                                   {"MIT License", 0, 11, "MIT"},
                                   {"MIT or ISC", 4, 6, "did you mean `OR`?"},
                                   {"MIT OR", 4, 6, "MIT"},
                                   {"MIT OR GPLv3", 7, 12, "GPL-3.0-only"},
                                   {"OR MIT", 0, 2, "MIT"},
                                   {"MIT ISC", 4, 7, "MIT"},
                                   {"(MIT", 1, 4, "MIT"},
                                   {"MIT)", 3, 4, "MIT"},
                                   {"()", 1, 2, "MIT"},
                                   {"(MIT OR ISC) WITH x", 13, 17, "MIT"},
                                   {"MIT WITH (x)", 9, 10, "MIT"},
                                   {"MIT/ISC", 3, 4, "MIT"},
                                   {"a+b", 0, 3, "MIT"},
                                   {"+", 0, 1, "MIT"},
                                   {std::string(400, '('), 0, 0, ""}};
    for (const Row& row : rows) {
        CAPTURE(row.written);
        const auto error = text::license_error(row.written);
        REQUIRE(error.has_value());
        CHECK_FALSE(error->message.empty());
        CHECK(error->hint.find(row.hint) != std::string::npos);
        if (row.hint.empty()) continue;
        CHECK(error->begin == row.begin);
        CHECK(error->end == row.end);
    }
}

TEST_CASE("patterns of names") {
    struct Row {
        std::string pattern;
        std::string path;
        bool matches;
        bool sets = false;
    };
    const std::vector<Row> rows = {
        {"[a-z]*", "place", true, true},
        {"[a-z]*", "Place", false, true},
        {"x[^\\[]", "x^", true, true},
        {"x[^\\[]", "xa", false, true},
        {"x[]", "x[]", true, true},
        {"x[a", "x[a", true, true},
        {"x[z-a]", "xb", false, true},
        {"*.tmp", "a.tmp", true},
        {"*.tmp", "deep/er/a.tmp", true},
        {"*.tmp", "a.tmpx", false},
        {"a?c", "abc", true},
        {"a?c", "ac", false},
        {"a?c", "a/c", false},
        {"old", "old/x.txt", true},
        {"old", "older/x.txt", false},
        {"old/*", "old/x", true},
        {"old/*", "old/x/y", true},
        {"old/*", "very/old/x", false},
        {"*", "x", true},
        {"*", "", true},
        {"", "x", false},
        {"a.b", "axb", false},
        {"[a]", "a", false},
        {"[a]", "[a]", true},
        {"a+", "aa", false},
        {"*a*a*a*a*a*b", std::string(5000, 'a'), false},
        {"gr\xC3\xB6*", "gr\xC3\xB6\xC3\x9F", true},
        {"*.\xFF", "x.\xFF", true},
        {"*/x", "a/x", true},
        {"*/x", "a/b/x", false},
    };
    for (const Row& row : rows) {
        CAPTURE(row.pattern);
        CAPTURE(row.path.substr(0, 40));
        CHECK(text::Globs({row.pattern}, row.sets).match(row.path) == row.matches);
    }
    CHECK_FALSE(text::Globs({}).match("x"));
    CHECK(text::Globs({"a", "b"}).match("b"));
}

TEST_CASE("an unknown key gets the hint that helps most") {
    struct Row {
        std::string text;
        std::string hint;
    };
    const std::string head = "[module]\nname = \"m\"\nversion = \"1.0.0\"\nhost = \"lua\"\n";
    const std::vector<Row> rows = {
        {head + "sumary = \"x\"\n", "did you mean `summary`?"},
        {head + "Host-Versions = \"x\"\n", "did you mean `host_versions`?"},
        {head + "hostVersions = \"x\"\n", "did you mean `host_versions`?"},
        {head + "description = \"x\"\n", "did you mean `summary`? ("},
        {head + "author = \"x\"\n", "did you mean `authors`?"},
        {head + "licence = \"x\"\n", "did you mean `license`?"},
        {head + "uuid = \"x\"\n", "did you mean `identity`?"},
        {head + "recursive = true\n", "it belongs to `[asset]`"},
        {head + "catalogue = true\n", "keys here are: name, version"},
        {head + "zzz = true\n", "keys here are: name, version"},
        {head + "[dependencies]\n", "did you mean `dependency`?"},
        {head + "[[requires]]\n", "did you mean `dependency`?"},
        {head + "[[dependency]]\nmodule = \"a\"\nwhy = \"x\"\n", "did you mean `reason`?"},
        {head + "[[dependency]]\nmodule = \"a\"\nwhen = { os = [] }\n", "did you mean `platform`?"},
        {head + "[[member]]\nname = \"a\"\nargs = []\n", "did you mean `parameters`?"},
        {head + "[[parameter]]\nname = \"a\"\nmax = 3\n", "did you mean `most`?"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.text);
        std::vector<text::Finding> findings;
        (void)read_manifest(parse_document(text::Source("m", row.text)), findings);
        REQUIRE(findings.size() == 1);
        CHECK(findings[0].code == "EV110");
        CHECK_MESSAGE(findings[0].hint.rfind(row.hint, 0) == 0, findings[0].hint);
    }
}

TEST_CASE("what is written from typed values reads back the same") {
    Manifest m;
    m.name.value = "m";
    m.version_text.value = "1.0.0";
    m.host.value = "lua";
    m.summary = "quotes \" and \\ and\nlines";
    m.tags = {"a", "b\"c"};
    m.platforms = {{"linux", {}}};
    Dependency& d = m.dependencies.emplace_back();
    d.module.value = "d";
    d.versions = versions::parse_requirement(">=1, <2").value();
    d.is_public = true;
    d.stage = Stage::test;
    d.optional = true;
    d.system = true;
    d.when.targets = {{"viewer", {}}};
    m.exports_all = true;
    Member& member = m.members.emplace_back();
    member.name.value = "f";
    member.kind = "class";
    Parameter& parameter = member.parameters.emplace_back();
    parameter.name.value = "p";
    parameter.required = false;
    parameter.preset = {NodeKind::number, "6.5", {}};
    member.parameters.emplace_back().name.value = "q";
    m.native.kind = NativeKind::headers;
    m.native.standard = "c++20";
    m.fronts.emplace_back().kind = FrontKind::plugin;
    m.release.leave_out = {{"*.tmp", {}}};
    const std::string text = document_text(manifest_fields(), &m);
    CAPTURE(text);
    std::vector<text::Finding> findings;
    const Manifest back = read_manifest(parse_document(text::Source("m", text)), findings);
    for (const auto& f : findings) CHECK_MESSAGE(false, f.message);
    CHECK(document_text(manifest_fields(), &back) == text);
    CHECK(back.summary == m.summary);
    CHECK(back.tags == m.tags);
    CHECK(back.dependencies[0].stage == Stage::test);
    CHECK(back.dependencies[0].is_public);
    CHECK(back.dependencies[0].system);
    CHECK(back.dependencies[0].when.targets[0].value == "viewer");
    CHECK(back.exports_all);
    CHECK(back.members[0].parameters[0].preset.text == "6.5");
    CHECK(back.members[0].parameters[1].required);
    CHECK(back.native.kind == NativeKind::headers);
    CHECK(back.fronts[0].kind == FrontKind::plugin);
    // A preset is not written, so that a file says what is special about its module.
    CHECK(text.find("private") == std::string::npos);
    CHECK(text.find("required = true") == std::string::npos);
    CHECK(text.find("[entry]") == std::string::npos);
}

TEST_CASE("versions in each scheme") {
    using versions::Scheme;
    struct Row {
        std::string text;
        bool semantic, integer, dotted;
    };
    const std::vector<Row> rows = {{"1.2.3", true, false, true},       {"1", false, true, false},
                                   {"0", false, true, false},          {"1.2", false, false, true},
                                   {"1.2.3.4", false, false, true},    {"1.2.3.4.5", false, false, false},
                                   {"01", false, false, false},        {"1.02", false, false, false},
                                   {"1.2.3-rc.1", true, false, false}, {"", false, false, false},
                                   {".", false, false, false},         {"1.", false, false, false},
                                   {"v1", false, false, false},        {"99999999999999999999", false, false, false}};
    for (const Row& row : rows) {
        CAPTURE(row.text);
        const auto read = [&](Scheme scheme, bool expected) {
            const auto version = versions::parse_version(row.text, scheme);
            CHECK(version.has_value() == expected);
            if (version) CHECK(version->text() == row.text);
        };
        read(Scheme::semantic, row.semantic);
        read(Scheme::integer, row.integer);
        read(Scheme::dotted, row.dotted);
    }
    const auto dotted = [](const char* text) { return *versions::parse_version(text, Scheme::dotted); };
    CHECK(dotted("1.2") < dotted("1.2.0.1"));
    CHECK(dotted("1.9") < dotted("1.10"));
    CHECK_FALSE(dotted("1.2.0") < dotted("1.2"));
}

TEST_CASE("the schema comment in every kind of text") {
    const std::string right = "#:schema ../.envar/schema/module.schema.json\n";
    CHECK(schema_directive("/w", "/w/m", "module") == right);
    CHECK(schema_directive("/w", "/w", "workspace") == "#:schema .envar/schema/workspace.schema.json\n");
    struct Row {
        std::string before, after;
    };
    for (const Row& row : {Row{"", right},
                           {"x = 1\n", right + "x = 1\n"},
                           {"# a\r\nx = 1\r\n", "#:schema ../.envar/schema/module.schema.json\r\n# a\r\nx = 1\r\n"},
                           {"#:schema old.json\nx = 1\n", right + "x = 1\n"},
                           {"#:schema   old.json  \r\nx", "#:schema   ../.envar/schema/module.schema.json  \r\nx"},
                           {"#:schema\nx", right + "x"},
                           {"#:schema old.json", right.substr(0, right.size() - 1)},
                           {"\xEF\xBB\xBFx", "\xEF\xBB\xBF" + right + "x"}}) {
        CAPTURE(row.before);
        CHECK(with_directive(row.before, right) == row.after);
        CHECK(with_directive(row.after, right) == row.after);
    }
}
