#include <doctest/doctest.h>
#include <fmt/format.h>

#include <random>
#include <set>
#include <string>
#include <vector>

#include "core/files/read.hpp"
#include "core/process/run.hpp"
#include "core/text/codes.hpp"
#include "core/text/diff.hpp"
#include "core/text/finding.hpp"
#include "core/text/names.hpp"
#include "core/text/utf8.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;
using namespace envar::text;

TEST_CASE("UTF-8 is told from what is not") {
    struct Row {
        std::string bytes;
        std::optional<std::size_t> bad;
    };
    const std::vector<Row> rows = {{"", {}},
                                   {"plain", {}},
                                   {"\xC3\xA4", {}},
                                   {"\xF0\x9F\x94\xAD", {}},
                                   {"a\xE4", 1},             // Latin-1
                                   {"\xC0\xAF", 0},          // overlong
                                   {"\xED\xA0\x80", 0},      // surrogate
                                   {"\xF4\x90\x80\x80", 0},  // above U+10FFFF
                                   {"ab\x80", 2},            // stray continuation
                                   {"ab\xE2\x82", 2},        // cut off
                                   {"\xFF\xFE", 0}};
    for (const auto& row : rows) {
        CAPTURE(row.bytes);
        CHECK(first_invalid_utf8(row.bytes) == row.bad);
    }
    CHECK(printable("a\n\x01\xE4z\xC3\xA4") == "a\\n\\x01\\xE4z\xC3\xA4");
    CHECK(shortened("abcdefgh", 6) == "abc...");
    CHECK(shortened("\xC3\xA4\xC3\xA4\xC3\xA4\xC3\xA4", 4) == "\xC3\xA4\xC3\xA4\xC3\xA4\xC3\xA4");
}

TEST_CASE("offsets and positions are each other's inverse") {
    const Source source("f", "first\nz\xC3\xA4hl\r\n\n\tlast");
    for (const std::size_t offset : {0U, 3U, 5U, 6U, 7U, 9U, 11U, 13U, 14U, 18U}) {
        CAPTURE(offset);
        CHECK(source.offset(source.position(offset)) == offset);
        CHECK(source.line_of(offset) == source.position(offset).line);
    }
    CHECK(source.position(9) == Position{2, 3});  // a letter of two bytes is one column
    CHECK(source.line(2) == "z\xC3\xA4hl");
    CHECK(source.line(3).empty());
    CHECK(source.line(99).empty());
    CHECK(source.position(999) == Position{4, 6});
    CHECK(source.line_of(999) == 4);
    const Finding finding = source.finding("EV110", {6, 14}, "m");
    CHECK(finding.position == Position{2, 1});
    CHECK(finding.width == 4);  // only the first line of the span
}

TEST_CASE("findings are sorted and none is shown twice") {
    const Source a("a", "x\ny\n");
    const Source b("b", "x\n");
    std::vector<Finding> findings = {b.finding("EV110", {0, 1}, "m"), a.finding("EV110", {2, 3}, "m"),
                                     a.finding("EV110", {0, 1}, "m"), a.finding("EV110", {2, 3}, "m")};
    sort_findings(findings);
    REQUIRE(findings.size() == 3);
    CHECK(findings[0].file == "a");
    CHECK(findings[1].position.line == 2);
    CHECK(findings[2].file == "b");
}

TEST_CASE("names take every form") {
    struct Row {
        std::string name, snake, kebab, camel, pascal, upper;
    };
    const std::vector<Row> rows = {
        {"star_field", "star_field", "star-field", "starField", "StarField", "STAR_FIELD"},
        {"StarField", "star_field", "star-field", "starField", "StarField", "STAR_FIELD"},
        {"star-field 2", "star_field_2", "star-field-2", "starField2", "StarField2", "STAR_FIELD_2"},
        {"HTTPServer", "httpserver", "httpserver", "httpserver", "Httpserver", "HTTPSERVER"},
        {"", "", "", "", "", ""}};
    for (const auto& row : rows) {
        CAPTURE(row.name);
        CHECK(in_form(row.name, NameForm::snake) == row.snake);
        CHECK(in_form(row.name, NameForm::kebab) == row.kebab);
        CHECK(in_form(row.name, NameForm::camel) == row.camel);
        CHECK(in_form(row.name, NameForm::pascal) == row.pascal);
        CHECK(in_form(row.name, NameForm::upper) == row.upper);
    }
}

TEST_CASE("a wrong word is led to the right one, a foreign one to none") {
    const std::vector<std::string> known = {"recursive", "folder", "extension", "versions", "visibility", "module"};
    const std::vector<std::pair<std::string, std::string>> rows = {{"recursiv", "recursive"},
                                                                   {"rescursive", "recursive"},
                                                                   {"foldre", "folder"},
                                                                   {"Module", "module"},
                                                                   {"versoins", "versions"},
                                                                   {"version", "versions"},
                                                                   {"zebra", ""},
                                                                   {"x", ""},
                                                                   {"", ""},
                                                                   {std::string(500, 'r'), ""}};
    for (const auto& [word, meant] : rows) {
        const std::string& given = word;
        CAPTURE(given);
        CHECK(nearest(given, known).value_or("") == meant);
    }
    CHECK(edit_distance("kitten", "sitting", 10) == 3);
    CHECK(edit_distance("ab", "ba", 10) == 1);
    CHECK(edit_distance("abcdef", "uvwxyz", 2) == 3);
}

TEST_CASE("applying a diff to the old text gives the new one") {
    std::mt19937 random(7);
    const auto some_text = [&](int most) {
        std::string text;
        const int lines = static_cast<int>(random() % static_cast<unsigned>(most));
        for (int i = 0; i < lines; ++i) text += fmt::format("line {}\n", random() % 6);
        if (random() % 4 == 0 && !text.empty()) text.pop_back();
        return text;
    };
    const tests::Scratch scratch;
    const auto patch = process::find_program({"patch"}, "/usr/bin:/bin");
    REQUIRE_MESSAGE(patch.has_value(), "the program patch is needed");
    for (int round = 0; round < 60; ++round) {
        const std::string before = some_text(40);
        const std::string after = some_text(40);
        if (before.empty() || after.empty()) continue;
        const std::string diff = unified_diff(before, after, "a/file", "b/file");
        CHECK(diff.empty() == (before == after));
        if (diff.empty()) continue;
        scratch.write("file", before);
        scratch.write("diff", diff);
        const auto outcome = process::run({{patch->string(), "-p1", "-s", "-i", "diff"}, scratch.folder(), {}, 5});
        REQUIRE(outcome.has_value());
        CHECK_MESSAGE(outcome->exit_status == 0, outcome->output << outcome->errors << diff);
        CHECK(scratch.read("file") == after);
    }
    CHECK(unified_diff("", "a\n", "/dev/null", "b/x") == "--- /dev/null\n+++ b/x\n@@ -0,0 +1 @@\n+a\n");
}

TEST_CASE("a large difference is told without much memory") {
    std::string before;
    std::string after;
    for (int i = 0; i < 20000; ++i) {
        before += fmt::format("a{}\n", i);
        after += fmt::format("b{}\n", i);
    }
    CHECK(unified_diff(before, after, "a", "b").find("@@ -1,20000 +1,20000 @@") != std::string::npos);
}

TEST_CASE("every code has a page, and every page is needed") {
    std::set<std::string> used;
    for (const std::string part :
         {"model", "search", "resolve", "order", "members", "emit", "check", "life", "trial"})
        for (const auto& file : files::list_folder(ENVAR_SOURCE_FOLDER "/core/" + part)) {
            const std::string text = *files::read_file(ENVAR_SOURCE_FOLDER "/core/" + part + "/" + file, 1U << 20U);
            for (std::size_t at = text.find("\"EV"); at != std::string::npos; at = text.find("\"EV", at + 1))
                if (text.size() > at + 6 && text[at + 6] == '"') used.insert(text.substr(at + 1, 5));
        }
    CHECK(used.size() > 20);
    std::string last;
    for (const Code& code : codes()) {
        CAPTURE(std::string(code.code));
        CHECK(std::string(code.code) > last);
        last = code.code;
        CHECK(code.title.size() > 5);
        CHECK(code.explanation.size() > 30);
        CHECK_FALSE(code.example.empty());
        CHECK_MESSAGE(used.count(std::string(code.code)) == 1, "nothing reports this code");
    }
    for (const auto& code : used) {
        CAPTURE(code);
        CHECK(find_code(code) != nullptr);
    }
}
