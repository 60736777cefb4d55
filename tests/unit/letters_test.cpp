// Many characters at once, against one after the other; and what patterns begin with, by hand.
#include "core/members/letters.hpp"

#include <doctest/doctest.h>
#include <re2/re2.h>

#include <random>
#include <string>
#include <vector>

#include "core/members/lexer.hpp"
#include "core/text/opening.hpp"

using namespace envar;
using members::Letter;

TEST_CASE("characters are seen as they are, sixty-four at a time") {
    std::mt19937 random(3);
    const std::vector<Letter> kinds = {Letter::ordinary, Letter::blank,     Letter::newline, Letter::special,
                                       Letter::deeper,   Letter::shallower, Letter::word,    Letter::special_word};
    std::size_t compared = 0;
    for (int round = 0; round < 200; ++round) {
        members::Letters letters;
        for (int c = 0; c < 256; ++c) letters.set(static_cast<unsigned char>(c), kinds[random() % kinds.size()]);
        std::string text(random() % 150, '\0');
        for (char& c : text) c = static_cast<char>(random() % 256);
        members::Sight sight;
        letters.see(text, sight);
        for (std::size_t bit = 0; bit < members::Sight::width; ++bit) {
            const bool there = bit < text.size();
            const Letter letter = there ? letters[text[bit]] : Letter::blank;
            const auto is_set = [&](std::uint64_t bits) { return (bits >> bit & 1U) != 0; };
            CHECK(is_set(sight.words) == (letter == Letter::word || letter == Letter::special_word));
            CHECK(is_set(sight.special_words) == (letter == Letter::special_word));
            CHECK(is_set(sight.newlines) == (letter == Letter::newline));
            CHECK(is_set(sight.marks) ==
                  (letter == Letter::special || letter == Letter::deeper || letter == Letter::shallower));
            compared += there ? 1 : 0;
        }
    }
    CHECK(compared > 5000);
}

TEST_CASE("words that lie across what is seen at once are one word") {
    model::Card card;
    card.blocks.resize(1);
    card.blocks[0].open = {"begin"};
    card.blocks[0].close = {"end"};
    const members::Grammar grammar(card);
    // `end` closes the block, `bend` and `ending` do not, wherever the word lies.
    for (std::size_t size = 0; size < 140; ++size) {
        CAPTURE(size);
        const std::string before = "begin " + std::string(size, 'x') + " bend ending ";
        const auto lexed = members::lex(before + "end\nafter\n", grammar);
        REQUIRE(lexed.statements.size() == 2);
        CHECK(lexed.statements[0].begin == 0);
        CHECK(lexed.statements[1].begin == before.size() + 4);
        CHECK(members::lex(before + "\nafter\n", grammar).statements.size() == 1);
        // A word of any length that begins like one that means something, and ends like it.
        const std::string word = "e" + std::string(size, 'n') + "d";
        CHECK(members::lex("begin " + word + "\nafter\n", grammar).statements.size() == (word == "end" ? 2 : 1));
    }
}

TEST_CASE("what a pattern begins with, and whether that is all of it") {
    struct Row {
        std::string pattern, prefix;
        bool whole;
        std::vector<std::string> admitted, ruled_out;
    };
    const std::vector<Row> rows = {
        {R"(^local\s+function\s+(?P<name>\w+))", "local", true, {"local function f"}, {"local f", "local functions"}},
        {R"(^return\s+(?:f\s*\(\s*)?(\w+)\s*(?:[,;]|$))",
         "return",
         true,
         {"return x", "return f(x)"},
         {"return", "returns"}},
        {R"(^(?:local\s+)?function\b)", "", false, {"function", "local function"}, {"local x", "func"}},
        {R"(^(?P<name>[^\s()]+)\s*\(\s*\))", "", true, {"f()", "f ( )", "\xC3\xA4()"}, {"f x()", "f(x)", "()"}},
        {R"(^(?P<table>\w+)\.(?P<name>\w+)\s*=)", "", true, {"M.x =", "M.x="}, {"M.x.y =", "M:x =", "x = M.y"}},
        {R"(^\w*x)", "", false, {"x", "ax", "abc"}, {"", " x"}},
        {R"(^[A-Z_]*(?:SINCE|GONE)\w*\s*\()", "", false, {"SKY_SINCE_2 (", "a("}, {"SKY_SINCE int", "SKY "}},
        {R"(^(?:a|ab)c)", "a", true, {"ac", "abc"}, {"aac", "b"}},
        {R"((?i)local)", "", false, {"LOCAL", "anything"}, {}},
        {R"(^a{2})", "", false, {"aa", "b"}, {}},
        // More different characters than are told apart.
        {"^(?:abcdefgh|ijklmnop|qrstuvwx|yzABCDEF|GHIJKLMN|[0-9]x)",
         "",
         false,
         {"abcdefgh", "GHIJKLMN", "0x", "yzABCDEF"},
         {}},
        {R"(^x*)", "", false, {"", "y"}, {}},
        {R"(^(?:(?:inline|static)\s+)*const\s)",
         "",
         false,
         {"const x", "inline const x", "static inline const x"},
         {"int x", "constant x", "instance"}},
        {R"(^(?:a|bc)*)", "", false, {"", "a", "x"}, {}},
    };
    for (const Row& row : rows) {
        CAPTURE(row.pattern);
        const text::Opening opening{re2::RE2(row.pattern)};
        CHECK(opening.prefix() == row.prefix);
        CHECK(opening.is_whole() == row.whole);
        for (const auto& text : row.admitted) CHECK_MESSAGE(opening.admits(text), text);
        for (const auto& text : row.ruled_out) CHECK_MESSAGE(!opening.admits(text), text);
    }
    CHECK(text::Opening().admits("anything"));
}
