#include <doctest/doctest.h>

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/text/template.hpp"

using namespace envar::text;
using nlohmann::json;

namespace {
const Dialect lua_like = {"--", "", "---", "\"", "\"", {{"\\", "\\\\"}, {"\"", "\\\""}, {"\n", "\\n"}}, {}, {}};
}

TEST_CASE("templates follow the Mustache spec, lone section tags vanish with their line") {
    const json values = {{"name", "m"},
                         {"empty", ""},
                         {"none", json::array()},
                         {"yes", true},
                         {"list", {{{"n", "a"}, {"last", false}}, {{"n", "b"}, {"last", true}}}}};
    struct Row {
        std::string text, rendered;
    };
    const std::vector<Row> rows = {
        {"{{name}}", "m"},
        {"a{{unknown}}b", "ab"},
        {"({{#list}}{{n}}{{^last}}, {{/last}}{{/list}})", "(a, b)"},
        {"[\n{{#none}}\n x\n{{/none}}\n]\n", "[\n]\n"},
        {"[\n{{#list}}\n {{n}}\n{{/list}}\n]\n", "[\n a\n b\n]\n"},
        {"[\n{{#list}}\n\n{{n}}\n{{/list}}\n]\n", "[\n\na\n\nb\n]\n"},
        {"[\n{{#list}}\n{{#last}}\nlast {{n}}\n{{/last}}\n{{^last}}\n{{n}}\n{{/last}}\n{{/list}}\n]",
         "[\na\nlast b\n]"},
        {"{{#empty}}no{{/empty}}{{^empty}}yes{{/empty}}", "yes"},
        {"{{! remark }}\nx\n", "x\n"},
        {"{{#yes}}{{#name}}{{name}}{{/name}}{{/yes}}", "m"},
    };
    for (const auto& row : rows) {
        CAPTURE(row.text);
        const auto rendered = render(row.text, values, lua_like);
        REQUIRE(rendered.has_value());
        CHECK(*rendered == row.rendered);
    }
    for (const std::string bad : {"{{#open}}", "{{/close}}", "{{name", "{{#a}}{{/b}}"}) {
        CAPTURE(bad);
        CHECK_FALSE(render(bad, values, lua_like).has_value());
    }
}

TEST_CASE("what goes into a template is escaped for its language") {
    const std::string hard = "a \"b\" \\ {{c}} ]] */ \n-- d\\";
    const json values = {{"x", hard}};
    CHECK(*render("\"{{x}}\"", values, lua_like) == "\"a \\\"b\\\" \\\\ {{c}} ]] */ \\n-- d\\\\\"");
    CHECK(*render("{{#string}}{{{x}}}{{/string}}", values, lua_like) == *render("\"{{x}}\"", values, lua_like));
    CHECK(*render("{{#comment}}{{{x}}}{{/comment}}", values, lua_like) == "-- a \"b\" \\ {{c}} ]] */\n-- -- d");
    CHECK(*render("{{#doc}}{{{x}}}{{/doc}}", values, lua_like) == "--- a \"b\" \\ {{c}} ]] */\n-- -- d");
    CHECK(*render("{{#comment}}{{{y}}}{{/comment}}", values, lua_like) == "--");
    CHECK(comment_lines(lua_like, "a\r\nb\rc\n") == "-- a\n-- b\n-- c\n--");
}

TEST_CASE("one-line texts are filled without an engine") {
    CHECK(fill("{{a}}/{{b}}/{{c}}{", {{"a", "x"}, {"b", "{{a}}"}}) == "x/{{a}}/{{c}}{");
    CHECK(fill("{{a", {{"a", "x"}}) == "{{a");
}
