// What comments say of a definition: summary, description, parameters, what is returned.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <string>
#include <vector>

#include "core/members/definitions.hpp"

using namespace envar;

namespace {

const std::vector<model::Card>& cards() {
    static const std::vector<model::Card> all = [] {
        std::vector<text::Finding> findings;
        return model::load_cards({{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, "/", findings);
    }();
    return all;
}

/// "summary / description / returns / parameter: what it is; … / told", of the first definition.
std::string documented(const std::string& host, const std::string& code) {
    for (const auto& card : cards()) {
        if (card.name.value != host) continue;
        const members::Patterns patterns(card);
        const text::Source source("s", code);
        const auto found = members::definitions(source, card, patterns.compiled(), true, "");
        if (found.empty()) return "nothing";
        const members::FoundMember& one = found.front();
        std::string parameters, told;
        for (const auto& p : one.parameters)
            if (!p.summary.empty() || !p.type.empty())
                parameters += fmt::format("{}{}{}: {}", parameters.empty() ? "" : "; ", p.name,
                                          p.type.empty() ? "" : " " + p.type, p.summary);
        for (const auto& name : one.told) told += (told.empty() ? "" : ", ") + name;
        std::string description = one.description;
        for (char& c : description)
            if (c == '\n') c = '|';
        return fmt::format("{} / {} / {} / {} / {}", one.summary, description, one.returns, parameters, told);
    }
    return "no such card";
}

}  // namespace

TEST_CASE("comments and docstrings say what a definition is for") {
    struct Row {
        std::string host, code, said;
    };
    const std::string lua = "function M.f(a, b) end\nreturn M\n";
    for (
        const Row& row : std::vector<Row>{
            {"lua", "local M = {}\n--- Does it.\n" + lua, "Does it. /  /  /  / "},
            {"lua", "local M = {}\n--- Does it. And more of it.\n-- Even more.\n" + lua,
             "Does it. / And more of it.|Even more. /  /  / "},
            {"lua", "local M = {}\n--- Tells sizes (e.g. 10 kB). Also i.e.\n-- this one.\n" + lua,
             "Tells sizes (e.g. 10 kB). / Also i.e.|this one. /  /  / "},
            {"lua", "local M = {}\n--- Needs 2.5. More, i.e.\n-- that.\n" + lua,
             "Needs 2.5. / More, i.e.|that. /  /  / "},
            {"lua", "local M = {}\n--- One of a vs. b, e.g.\n-- this. More.\n" + lua,
             "One of a vs. b, e.g. this. / More. /  /  / "},
            {"lua", "local M = {}\n--- Does\n-- it\n-- well.\n" + lua, "Does it well. /  /  /  / "},
            {"lua", "local M = {}\n--- Does it\n--\n-- In detail:\n--    f(1)\n" + lua,
             "Does it / In detail:|   f(1) /  /  / "},
            {"lua",
             "local M = {}\n--- Does it.\n-- @param a the first\n-- @tparam number b the second\n-- @return what came\n" +
                 lua,
             "Does it. /  / what came / a: the first; b number: the second / "},
            {"lua", "local M = {}\n--- Does it.\n-- @param c gone\n-- @treturn string text\n" + lua,
             "Does it. /  / string text /  / c"},
            {"lua", "local M = {}\n--[[ Does it.\n  More. ]]\n" + lua, "Does it. / More. /  /  / "},
            {"lua", "local M = {}\n--- Not its own.\n\n" + lua, " /  /  /  / "},
            {"lua", "local M = {} -- no comment of the function\n" + lua, " /  /  /  / "},
            {"lua", "local M = {}\n-------------\n--- Does it.\n-------------\n" + lua, "Does it. /  /  /  / "},
            {"python",
             "def f(a, b):\n    \"\"\"Does it.\n\n    More of it.\n\n    :param a: the first\n    :param int b: the second\n    :returns: what came\n    \"\"\"\n",
             "Does it. / More of it. / what came / a: the first; b int: the second / "},
            {"python",
             "def f(type_, in_):\n    r\"\"\"Does it.\n\n    :param type\\_: the first\n    :param int in\\_: the second\n    \"\"\"\n",
             "Does it. /  /  / type_: the first; in_ int: the second / "},
            {"python", "def f(a):\n    '''Does it.'''\n    return a\n", "Does it. /  /  /  / "},
            {"python", "def f(a: int) -> str:\n    r\"\"\"Does \\d.\"\"\"\n", "Does \\d. /  /  / a int:  / "},
            {"python", "# Does it.\ndef f(a):\n    return 'no docstring'\n", "Does it. /  /  /  / "},
            {"python", "@once\n# Does it.\ndef f(a): pass\n", "Does it. /  /  /  / "},
            {"bash", "# Does it.\n# More.\n#\n#   f 1\nf() { :; }\n", "Does it. / More.||  f 1 /  /  / "},
            {"bash", "#!/bin/bash\nf() { :; }\n", " /  /  /  / "},
            {"tcl", "# f --\n#\n#   Does it.\n#\n# Results:\n#   none\nproc f {a} {}\n",
             "Does it. / Results:|  none /  /  / "},
            {"guile", "(define (f a)\n  \"Does it. More.\"\n  a)\n", "Does it. / More. /  /  / "},
            {"guile", ";;; Does it.\n(define (f a) a)\n", "Does it. /  /  /  / "},
            {"perl", "# Does it.\n# Returns: one\nsub f { 1 }\n", "Does it. /  / one /  / "},
            {"fish", "# Does it.\nfunction f -a a\nend\n", "Does it. /  /  /  / "},
            {"zsh", "# Does it.\nf() { : }\n", "Does it. /  /  /  / "},
            {"cmake", "/// Does it.\n/// \\param a the first\n/// \\return what came\nint f(int a);\n",
             "Does it. /  / what came / a int: the first / "},
            {"cmake", "/**\n * Does it.\n *\n * More.\n * @param b gone\n */\nint f(int a);\n",
             "Does it. / More. /  / a int:  / b"},
            {"cmake", "/* Does it. */\nint f(int a);\n", "Does it. /  /  / a int:  / "},
        }) {
        CAPTURE(row.host);
        CAPTURE(row.code);
        CHECK(documented(row.host, row.code) == row.said);
    }
}

TEST_CASE("documentation of any length and kind is read") {
    const std::string end = "local M = {}\nfunction M.f(a) end\nreturn M\n";
    for (const std::string& text : {std::string(200'000, '-'), std::string(100'000, '@'),
                                    std::string("--- \xFF\xFE\n"), "---" + std::string(300'000, ' ') + "x\n",
                                    std::string("--- @param\n--- @param \n--- @param a\n--- @return\n"),
                                    "--[[" + std::string(100'000, '\n') + "]]\n"}) {
        std::string code = end;
        code.insert(code.find("function"), text + "\n");
        CHECK(documented("lua", code) != "nothing");
    }
}

TEST_CASE("lines on parameters and on what is returned, in the notations that are in use") {
    struct Row {
        std::string line, said;  // " / description / returns / parameters / told", behind the summary
    };
    const std::vector<Row> rows = {
        {"@param a the first", " /  /  / a: the first / "},
        {"@param a - the first", " /  /  / a: the first / "},
        {"@param a: the first", " /  /  / a: the first / "},
        {"@param  a", " /  /  /  / "},
        {"\\param a the first", " /  /  / a: the first / "},
        {"@param {number} a the first", " /  /  / a number: the first / "},
        {"@param {number|text} a - the first", " /  /  / a number|text: the first / "},
        {"@param[in] a the first", " /  /  / a: the first / "},
        {"@tparam number a the first", " /  /  / a number: the first / "},
        {"@tparam[opt] number a the first", " /  /  / a number: the first / "},
        {"@tparam[opt=1] number b", " /  /  / b number:  / "},
        {"\\tparam number a", " /  /  / a number:  / "},
        {":param a: the first", " /  /  / a: the first / "},
        {":param number a: the first", " /  /  / a number: the first / "},
        {":param a the first", " /  /  /  / the"},  // a type and a name
        {"@param c not there", " /  /  /  / c"},
        {"@param a.field of it", " /  /  /  / a.field"},
        {"@param", " /  /  /  / "},
        {"@param {number", " /  /  /  / "},
        {"@parameter a no tag", " /  /  /  / "},
        {"@params a no tag", " /  /  /  / "},
        {"@return how many", " /  / how many /  / "},
        {"@returns how many", " /  / how many /  / "},
        {"@treturn number how many", " /  / number how many /  / "},
        {":returns: how many", " /  / how many /  / "},
        {":return: how many", " /  / how many /  / "},
        {"\\return how many", " /  / how many /  / "},
        {"Returns: how many", " /  / how many /  / "},
        {"Result: how many", " /  / how many /  / "},
        {"Returning is no tag", " / Returning is no tag /  /  / "},
        {"Reset: no tag", " / Reset: no tag /  /  / "},
        {"@returned nothing", " /  /  /  / "},
        {"@return", " /  /  /  / "},
        {"@see other", " /  /  /  / "},
    };
    for (const Row& row : rows) {
        CAPTURE(row.line);
        const std::string said =
            documented("lua", "local M = {}\n--- Does it.\n-- " + row.line + "\nfunction M.f(a, b) end\nreturn M\n");
        REQUIRE(said.starts_with("Does it."));
        CHECK(said.substr(8) == row.said);
    }
}

TEST_CASE("a summary has an end, and ends with a whole character") {
    const std::string lua = "\nfunction M.f(a, b) end\nreturn M\n";
    std::string words;
    for (int i = 0; i < 200; ++i) words += "word ";
    const std::string of_words = documented("lua", "local M = {}\n--- " + words + lua);
    CHECK(of_words.starts_with("word word"));
    CHECK(of_words.find("word … /") != std::string::npos);
    CHECK(of_words.size() < 450);
    std::string letters;
    for (int i = 0; i < 400; ++i) letters += "ä";
    const std::string of_letters = documented("lua", "local M = {}\n--- x" + letters + lua);
    CHECK(of_letters.find("ä … /") != std::string::npos);
    CHECK(of_letters.size() < 450);
}

TEST_CASE("sections on parameters and on what is returned, and lines that go on further in") {
    struct Row {
        std::vector<std::string> lines;
        std::string said;  // "description / returns / parameters / told", behind the summary
    };
    const std::vector<Row> rows = {
        {{"Args:", "    a (int): one", "    b: two", "        and more", "", "        of it",
          "Returns:", "    int: how", "      many", "Raises:", "    Far: no"},
         " / Raises:|    Far: no / int: how many / a int: one; b: two and more of it / "},
        {{"Arguments:", "  a (list[int], optional): one", "  *b (optional):", "    two", "  c: none", "More."},
         " / More. /  / a list[int]: one; b: two / c"},
        {{"Parameters", "----------", "a, *b : {1, 2}, optional", "    both", "", "    of them", "Returns", "-------",
          "int", "    how many", "Notes", "-----", "More."},
         " / Notes|-----|More. / int how many / a {1, 2}: both of them; b {1, 2}: both of them / "},
        {{"Keyword Args:", "  a: one", "Yields:", "  each"}, " /  / each / a: one / "},
        {{"Parameters:", "  a: one", "  is no name: b"}, " /   is no name: b /  / a: one / "},
        // What only looks like one.
        {{"Args:", "a: no, as it stands no further in"}, " / Args:|a: no, as it stands no further in /  /  / "},
        {{"Args: a"}, " / Args: a /  /  / "},
        {{"Args:"}, " / Args: /  /  / "},
        {{"Args:", "  of a, or b"}, " / Args:|  of a, or b /  /  / "},
        {{"Parameters", "a : b"}, " / Parameters|a : b /  /  / "},
        {{"Example:", "    a: 1"}, " / Example:|    a: 1 /  /  / "},
        // Lines on a parameter go on further in.
        {{":param a: one,", "    and more", ":returns: this", "  and that", "Then."},
         " / Then. / this and that / a: one, and more / "},
        {{"@param a one", "  @param b two", "@return this", "More."}, " / More. / this / a: one; b: two / "},
        {{"@param c one", "  of none", "More."}, " /   of none|More. /  /  / c"},
    };
    for (const Row& row : rows) {
        std::string python = "def f(a, *b):\n    '''Does it.\n\n", lua = "local M = {}\n--- Does it.\n--\n";
        for (const std::string& line : row.lines) {
            python += line.empty() ? "\n" : "    " + line + "\n";
            lua += "-- " + line + "\n";
        }
        CAPTURE(python);
        CHECK(documented("python", python + "    '''\n") == "Does it." + row.said);
        CHECK(documented("lua", lua + "function M.f(a, b) end\nreturn M\n") == "Does it." + row.said);
    }
}
