#include <doctest/doctest.h>
#include <fmt/format.h>

#include <random>
#include <string>

#include "core/model/document.hpp"
#include "core/model/limits.hpp"
#include "core/model/manifest.hpp"
#include "core/model/toml_layout.hpp"

using namespace envar;
using namespace envar::model;

namespace {

const std::string sample =
    "# a comment\n"
    "[module]\n"
    "name = \"star_field\"   # behind\n"
    "'odd key' = 'it''s'\n"
    "\n"
    "list = [\n"
    "    1, # one ]\n"
    "    \"]\",\n"
    "]\n"
    "text = \"\"\"\n"
    "[not.a.header]\n"
    "\"\"\"\n"
    "[[dependency]]\r\n"
    "a.b . \"c\" = { x = 1, y = [2] }\r\n"
    "open = \"no end\n"
    "[last]";

}  // namespace

TEST_CASE("the layout covers the text without a gap, valid or not") {
    std::mt19937 random(11);
    for (int round = 0; round < 400; ++round) {
        std::string text = sample;
        for (int slips = round == 0 ? 0 : 3; slips > 0; --slips) {
            const std::size_t at = random() % text.size();
            if (random() % 2 == 0) {
                text.erase(at, 1 + random() % 3);
            } else {
                text.insert(at, 1, "[]{}\"'=#\n.\\,"[random() % 12]);
            }
        }
        std::size_t at = 0;
        for (const Statement& s : toml_layout(text)) {
            CHECK(s.whole.begin == at);
            CHECK(s.whole.end > at);
            at = s.whole.end;
            if (s.kind == StatementKind::assignment) CHECK(s.value.end <= s.whole.end);
        }
        CHECK(at == text.size());
    }
}

TEST_CASE("the layout finds headers, keys and values") {
    const auto statements = toml_layout(sample);
    const auto value = [&](std::size_t i) {
        return sample.substr(statements[i].value.begin, statements[i].value.end - statements[i].value.begin);
    };
    REQUIRE(statements.size() == 11);
    CHECK(statements[0].kind == StatementKind::comment);
    CHECK(statements[1].kind == StatementKind::table);
    CHECK(value(2) == "\"star_field\"");
    CHECK(statements[4].kind == StatementKind::blank);
    CHECK(value(5) == "[\n    1, # one ]\n    \"]\",\n]");
    CHECK(value(6) == "\"\"\"\n[not.a.header]\n\"\"\"");
    CHECK(statements[7].kind == StatementKind::table_array);
    CHECK(statements[8].path == std::vector<std::string>{"a", "b", "c"});
    CHECK(value(8) == "{ x = 1, y = [2] }");
    CHECK(statements[10].path == std::vector<std::string>{"last"});
}

TEST_CASE("documents keep the order of the file and every place") {
    const Document document =
        parse_document(text::Source("m", "b = 1\na = \"\xC3\xA4\"\n[z]\nq = true\n[[y]]\n[[y]]\nk = [1, 'x']\n"));
    REQUIRE(document.valid);
    CHECK(document.root.entries[0].key == "b");
    CHECK(document.root.entries[1].key == "a");
    const Node* a = document.root.find("a");
    REQUIRE(a != nullptr);
    CHECK(a->text == "\xC3\xA4");
    CHECK(document.source.text().substr(a->span.begin, a->span.end - a->span.begin) == "\"\xC3\xA4\"");
    REQUIRE(document.root.find("y")->items.size() == 2);
    CHECK(document.root.find("y")->items[1].find("k")->items[1].text == "x");
    CHECK(document.root.find("nothing") == nullptr);
}

TEST_CASE("what is no TOML is told with its place, and the rest is read") {
    struct Row {
        std::string text;
        std::string code;
        std::size_t line;
        std::size_t column;
        std::string left;  // the keys that are read all the same
    };
    std::string deep = "k = ";
    for (int i = 0; i < 2000; ++i) deep += "[";
    std::string dotted = "a";
    for (int i = 0; i < 100000; ++i) dotted += ".a";
    const std::vector<Row> rows = {
        {"[module\nname = 1\n[b]\n", "EV102", 1, 1, "b"},
        {"x = [1, 2\ny = 3\n", "EV102", 1, 5, "y"},
        {"x = [1, 2\n[y]\nz = 3\n", "EV102", 1, 5, "y"},
        {"x = { a = 1\n[[y]]\nz = 3\n", "EV102", 1, 5, "y"},
        {"x = \"open\ny = 1\n", "EV102", 1, 5, "y"},
        {"x = 'open\ny = 1\n", "EV102", 1, 5, "y"},
        {"x = 1\nx = 2\n", "EV102", 2, 1, "x"},
        {"nested = 1\nnested = 2\n", "EV102", 2, 1, "nested"},
        {"[a]\n[a]\nb = 1\n", "EV102", 2, 1, "a"},
        {"[[a]]\n[a]\nb = 1\n", "EV102", 2, 1, "a"},
        {"= 1\ny = 2\n", "EV102", 1, 1, "y"},
        {"x = \ny = 2\n", "EV102", 1, 1, "y"},
        {"x = 1 2\ny = 2\n", "EV102", 1, 5, "y"},
        {"x = 1.2.3\ny = 2\n", "EV102", 1, 5, "y"},
        {"x = plain\ny = 2\n", "EV102", 1, 5, "y"},
        {"x = \"a\" \"b\"\ny = 2\n", "EV102", 1, 9, "y"},
        {"x = \"\\q\"\ny = 2\n", "EV102", 1, 7, "y"},
        {"x = 01\ny = 2\n", "EV102", 1, 5, "y"},
        {"just words\ny = 2\n", "EV102", 1, 6, "y"},
        {"x = 1\na\xE4 = 1\n", "EV103", 2, 2, ""},
        {"x = \"\xFF\"\n", "EV103", 1, 6, ""},
        {deep, "EV105", 1, 1, ""},
        {deep + "\ny = 1\n", "EV105", 1, 1, "y"},
        {dotted + " = 1\ny = 1\n", "EV105", 1, 1, "y"},
        {"[" + dotted + "]\n[b]\n", "EV105", 1, 1, "b"},
        {std::string((1U << 20U) + 1, '#'), "EV104", 1, 1, ""},
    };
    for (const auto& row : rows) {
        CAPTURE(row.text.substr(0, 40));
        const Document document = parse_document(text::Source("m", row.text));
        CHECK_FALSE(document.valid);
        std::string left;
        for (const Entry& entry : document.root.entries) left += (left.empty() ? "" : " ") + entry.key;
        CHECK(left == row.left);
        REQUIRE(document.findings.size() == 1);
        CHECK(document.findings[0].code == row.code);
        CHECK(document.findings[0].position == text::Position{row.line, row.column});
        CHECK_FALSE(document.findings[0].hint.empty());
    }
}

TEST_CASE("every syntax error of a file is told, up to a limit, and never as a missing key") {
    std::vector<text::Finding> findings;
    const Manifest manifest =
        read_manifest(parse_document(text::Source(
                          "m",
                          "[module]\nname = \"m\"\nversion = 1.0.0\nhost = \"lua\nsummary = \"s\"\n\n"
                          "[entry\nfile = \"x\"\n\n[[dependency]]\nmodule = d\n\n[[member]]\nname = \"f\"\n")),
                      findings);
    std::string told;
    for (const auto& f : findings) told += fmt::format("{} {}; ", f.code, f.position.line);
    CHECK(told == "EV102 3; EV102 4; EV102 7; EV102 11; ");
    CHECK(manifest.name.value == "m");
    CHECK(manifest.summary == "s");
    CHECK(manifest.members.size() == 1);
    // Beyond the limit they are counted, and what is right among them is read all the same.
    std::string many = "a = 1\n";
    for (int i = 0; i < 500; ++i) many += "x = = 1\n";
    const Document document = parse_document(text::Source("m", many + "b = 1\n"));
    CHECK(document.findings.size() == most_syntax_errors);
    CHECK(document.findings.back().hint.find("480 more syntax errors") != std::string::npos);
    CHECK(document.root.entries.size() == 2);
}

TEST_CASE("texts written as TOML strings come back the same") {
    const std::vector<std::string> texts = {
        "", "plain", "quote \" and \\ back", "line\nbreak\ttab\r", std::string("bell \x07 del \x7F"), "\xC3\xA4 '''"};
    for (const std::string& text : texts) {
        CAPTURE(text);
        const Document document =
            parse_document(text::Source("m", "x = " + toml_string(text) + "\n" + toml_key(text) + "2 = 1\n"));
        if (document.valid) CHECK(document.root.find("x")->text == text);
        const Document alone = parse_document(text::Source("m", "x = " + toml_string(text) + "\n"));
        REQUIRE(alone.valid);
        CHECK(alone.root.find("x")->text == text);
    }
}
