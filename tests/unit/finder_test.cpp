// What rules places out without running a pattern must never rule out a place where the pattern matches.
#include <doctest/doctest.h>

#include <algorithm>
#include <atomic>
#include <random>
#include <string>
#include <vector>

#include "core/members/definitions.hpp"
#include "core/members/finder.hpp"
#include "core/members/matching.hpp"
#include "core/members/read_in.hpp"
#include "core/text/side_by_side.hpp"

using namespace envar;

namespace {

std::vector<model::Card> shipped() {
    std::vector<text::Finding> findings;
    return model::load_cards({{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, "/", findings);
}

/// A text of the pieces that patterns of languages are made of, so that some of them match.
std::string text_of_pieces(std::mt19937& random, std::size_t pieces) {
    static const std::vector<std::string> known = {
        "function", "local",  "def",      "class", "sub",       "proc",     "(define", "typedef", "struct",
        "return",   "export", "#:export", "place", "M",         ".",        ":",       "::",      "(",
        ")",        "{",      "}",        " ",     "  ",        "\t",       "\n",      "=",       ",",
        ";",        "\"",     "'",        "[",     "]",         "#define",  "<<",      "EOF",     "unset",
        "-f",       "int",    "*",        "&",     "async",     "@",        "x",       "_y",      "const",
        "using",    "extern", "R\"x(",    "--[[",  "namespace", "$",        "$(",      "`",       "\\",
        "\\\n",     "a",      "b",        "3",     "-",         "\xC3\xA4", "\xFF"};
    std::string text;
    for (std::size_t i = 0; i < pieces; ++i) text += known[random() % known.size()];
    return text;
}

/// Of all that patterns are made of, also of what openings do not understand.
std::string pattern_of_pieces(std::mt19937& random, int depth) {
    static const std::vector<std::string> atoms = {
        "a",    "b",     "x",           "\\w",    "\\s",   "\\S",         "\\W",   "\\d",
        "[^a]", "[ab]",  "[^\\s(]",     "[a-c-]", "[]a]",  "[^]\\w]",     ".",     "\xC3\xA4",
        "\\(",  "\\b",   "[\xC3\xA4x]", "^",      "$",     "[^\xC3\xA4]", "\\.",   "\n",
        "(?s)", "(?i)a", "[[:alpha:]]", "\\pL",   "\\x61", "-",           "return"};
    static const std::vector<std::string> repeats = {"", "", "", "", "?", "*", "+", "*?", "+?", "{2}", "{1,3}"};
    std::string out;
    for (std::size_t i = 0, size = 1 + random() % 4; i < size; ++i) {
        const auto kind = random() % 6;
        if (kind == 0 && depth > 0) {
            out += (random() % 2 == 0 ? "(?:" : "(?P<name>") + pattern_of_pieces(random, depth - 1) + ")";
        } else {
            out += atoms[random() % atoms.size()];
        }
        out += repeats[random() % repeats.size()];
        if (kind == 1 && depth > 0) out += "|" + pattern_of_pieces(random, depth - 1);
    }
    return out;
}

/// Places and groups, as RE2 finds them by itself.
std::vector<std::pair<std::size_t, std::string>> found_by_re2(const std::string& pattern, int group,
                                                              const std::string& text) {
    const re2::RE2 compiled("(?m)" + pattern, re2::RE2::Quiet);
    std::vector<std::pair<std::size_t, std::string>> found;
    std::vector<re2::StringPiece> groups(static_cast<std::size_t>(compiled.NumberOfCapturingGroups()) + 1);
    for (std::size_t at = 0; at <= text.size();) {
        if (!compiled.Match(text, at, text.size(), re2::RE2::UNANCHORED, groups.data(),
                            static_cast<int>(groups.size())))
            break;
        const auto& own = groups[static_cast<std::size_t>(group)];
        if (own.data() != nullptr) found.emplace_back(own.data() - text.data(), std::string(own.data(), own.size()));
        at = static_cast<std::size_t>(groups[0].data() - text.data()) + std::max<std::size_t>(1, groups[0].size());
    }
    return found;
}

std::vector<std::pair<std::size_t, std::string>> found_by_finder(const members::Finder& finder,
                                                                 const std::string& text) {
    std::vector<std::pair<std::size_t, std::string>> found;
    finder.each(text, [&](std::string_view one) {
        if (one.data() != nullptr) found.emplace_back(one.data() - text.data(), std::string(one));
    });
    std::sort(found.begin(), found.end());
    return found;
}

}  // namespace

/// What RE2 and an opening say, where that tells it, of the place where the text begins, with all groups.
bool agree(const re2::RE2& pattern, const text::Opening& opening, const std::string& text, std::size_t& told) {
    const auto count = static_cast<std::size_t>(pattern.NumberOfCapturingGroups()) + 1;
    std::vector<re2::StringPiece> expected(count), groups(count);
    const bool match =
        pattern.Match(text, 0, text.size(), re2::RE2::ANCHOR_START, expected.data(), static_cast<int>(count));
    const auto own = opening.match(text, groups.data(), count);
    if (!own) return true;
    ++told;
    if (*own != match) return false;
    const auto same = [](const auto& a, const auto& b) { return a.data() == b.data() && a.size() == b.size(); };
    return !match || std::equal(groups.begin(), groups.end(), expected.begin(), same);
}

TEST_CASE("an opening admits every place where its pattern matches") {
    std::vector<std::string> patterns = {"",
                                         "a",
                                         "^typedef\\b[^;]*;",
                                         "^a\\b",
                                         "a(bc)?",
                                         "(?i)place",
                                         "^(?:x|xy)z",
                                         "[^a]b",
                                         "\\$[&`'\"]",
                                         "\\bplace",
                                         "<<-?[ \\t]*\\w+",
                                         "(?s).",
                                         "a*",
                                         "^(?:async\\s+)?def",
                                         "\xC3\xA4",
                                         "(?:#:|\\()export",
                                         "^\\Bx",
                                         "x{2,3}y",
                                         "R\"(\\w*)\\(",
                                         "--\\[(=*)\\[",
                                         "^(?:class|struct\\b|enum(?:\\s+class)?)\\s+\\w+",
                                         "^(?:[fd]|\\(def)?\\w",
                                         "^(?:local|[^()|]x)[|)]|place",
                                         "^(?:a|)return",
                                         "(?i)LOCAL|Sub",
                                         "def|(?i)CLASS"};
    std::vector<std::string> examples;
    for (const auto& card : shipped()) {
        for (const auto& member : card.members) {
            patterns.push_back(member.pattern);
            examples.push_back(member.example);
        }
        patterns.insert(patterns.end(), card.plain.begin(), card.plain.end());
        patterns.insert(patterns.end(), card.before_patterns.begin(), card.before_patterns.end());
        if (card.parameter_pattern.starts_with('^')) patterns.push_back(card.parameter_pattern);
        if (!card.heredoc.empty()) patterns.push_back(card.heredoc);
        for (const auto& marks : card.long_comments) patterns.push_back(marks.first);
        for (const auto& marks : card.long_strings) patterns.push_back(marks.first);
    }
    CHECK(patterns.size() > 80);
    std::mt19937 random(11);
    for (int i = 0; i < 1000; ++i) patterns.push_back(pattern_of_pieces(random, 2));
    std::size_t matches = 0, ruled_out = 0, told = 0, whole = 0;
    for (const auto& pattern : patterns) {
        const re2::RE2 compiled(pattern, re2::RE2::Quiet);
        if (!compiled.ok()) continue;  // `\n=`, which is a text and no pattern, is one too
        const text::Opening opening(compiled);
        std::vector<std::string> texts = examples;
        for (int i = 0; i < 200; ++i) texts.push_back(text_of_pieces(random, 1 + random() % 6));
        for (const auto& text : texts) {
            const bool match = compiled.Match(text, 0, text.size(), re2::RE2::ANCHOR_START, nullptr, 0);
            matches += match ? 1 : 0;
            ruled_out += opening.admits(text) ? 0 : 1;
            whole += match && opening.is_whole() ? 1 : 0;
            CHECK_MESSAGE(agree(compiled, opening, text, told), pattern, " and ", text);
            if (!match) continue;
            CHECK_MESSAGE(opening.admits(text), pattern, " and ", text);
            if (!text.empty())
                CHECK_MESSAGE(opening.admits(static_cast<unsigned char>(text.front())), pattern, " and ", text);
        }
    }
    CHECK(matches > 20000);    // the texts are such that patterns match
    CHECK(ruled_out > 80000);  // and such that something is gained
    CHECK(told > 50000);
    CHECK(whole > 3000);
}

TEST_CASE("a finder finds what RE2 finds in the whole text") {
    struct Row {
        std::string pattern, groups;
        int group;  // of the pattern as a whole
    };
    const std::vector<Row> rows = {
        {"^return\\s+([A-Za-z_]\\w*)", "", 1},
        {"^__all__\\s*\\+?=\\s*[\\[(](?P<names>[^\\])]*)", "names", 1},
        {"@EXPORT(?:_OK)?\\s*=\\s*(?P<names>\\w+)", "names", 1},
        {"export\\s+(?P<names>\\w*)", "names", 1},
        {"^[ \\t]*proc\\s+(?P<names>\\w+)", "names", 1},
        {"(?:#:export|class)\\s*(?P<names>[^()]*)", "names", 1},
        {"(x)|(y)", "", 1},
        {"[", "", 1},
        {"", "", 1},
    };
    std::mt19937 random(5);
    std::size_t found_at_all = 0;
    for (const Row& row : rows) {
        CAPTURE(row.pattern);
        const members::Finder finder(row.pattern, row.groups);
        CHECK(finder.finds_nothing() == (row.pattern.empty() || row.pattern == "["));
        if (finder.finds_nothing() || row.pattern == "(x)|(y)") continue;
        for (int i = 0; i < 300; ++i) {
            std::string text = text_of_pieces(random, random() % 60);
            for (const std::string more : {"return place\n", "  proc x\n", "__all__ = [a]", "@EXPORT_OK = b\n"})
                if (random() % 3 == 0) text.insert(random() % (text.size() + 1), more);
            const auto expected = found_by_re2(row.pattern, row.group, text);
            found_at_all += expected.size();
            CHECK_MESSAGE(found_by_finder(finder, text) == expected, text);
        }
    }
    CHECK(found_at_all > 300);
}

TEST_CASE("alternatives at the outermost level are looked for one by one") {
    const members::Finder finder(R"(#:export\s*\((?P<names1>[^()|]*)\)|^\(export\s(?P<names2>[^()]*)\))", "names");
    const std::string text = "(define-module (x) #:export (a b))\n(export c)\n (export d)\n#:export (e|f)\n";
    std::vector<std::string> found;
    for (const auto& one : found_by_finder(finder, text)) found.push_back(one.second);
    CHECK(found == std::vector<std::string>{"a b", "c"});
    // A group of one alternative takes no part in the other one.
    std::size_t without = 0;
    members::Finder("(?P<names>a)|b", "names").each("ab", [&](std::string_view one) {
        without += one.empty() ? 1 : 0;
    });
    CHECK(without == 1);
}

TEST_CASE("the last match is the last of all, from wherever it is looked for") {
    std::mt19937 random(23);
    std::size_t found_at_all = 0;
    for (const std::string pattern :
         {"^return\\s+([A-Za-z_]\\w*)", "^[ \\t]*proc\\s+(\\w+)", "^(\\w+)\\s*=", "local\\s+(\\w+)|^def\\s+(\\w+)"}) {
        CAPTURE(pattern);
        const members::Finder finder(pattern, "");
        for (int i = 0; i < 300; ++i) {
            std::string text = text_of_pieces(random, random() % 40);
            for (const std::string more : {"return place\n", "\n  proc x\n", "\ny = 1", "return z"})
                if (random() % 3 == 0) text.insert(random() % (text.size() + 1), more);
            std::string_view last;
            finder.each(text, [&](std::string_view one) {
                if (one.data() != nullptr && (last.data() == nullptr || one.data() >= last.data())) last = one;
            });
            found_at_all += last.data() == nullptr ? 0 : 1;
            CHECK_MESSAGE(finder.last(text).data() == last.data(), text);
            CHECK_MESSAGE(finder.last(text) == last, text);
        }
    }
    CHECK(found_at_all > 150);
    CHECK(members::Finder("", "").last("return x").data() == nullptr);
}

TEST_CASE("patterns are cut where choices are, outside of groups and classes") {
    struct Row {
        std::string pattern;
        std::vector<std::string> alternatives;
    };
    for (const Row& row : std::vector<Row>{{"a", {"a"}},
                                           {"a|b", {"a", "b"}},
                                           {"a|", {"a", ""}},
                                           {"(a|b)|c", {"(a|b)", "c"}},
                                           {"(?:a|(b|c))d", {"(?:a|(b|c))d"}},
                                           {"[|]|[^]|]|x", {"[|]", "[^]|]", "x"}},
                                           {"a\\|b|c", {"a\\|b", "c"}},
                                           {"[\\]|]|\\[|y", {"[\\]|]", "\\[", "y"}}}) {
        CAPTURE(row.pattern);
        CHECK(text::alternatives_of(row.pattern) == row.alternatives);
    }
}

TEST_CASE("the last word of what is declared is its name") {
    struct Row {
        std::string text, type, name;
    };
    for (const Row& row : std::vector<Row>{{"int count", "int ", "count"},
                                           {" const char *sky_name ", "const char *", "sky_name"},
                                           {"std::map<int, int>by", "std::map<int, int>", "by"},
                                           {"Args &&...rest", "Args &&...", "rest"},
                                           {"unsigned\nlong\tx1", "unsigned\nlong\t", "x1"},
                                           {"count", "", ""},
                                           {"Dome::open", "", ""},
                                           {"other.open", "", ""},
                                           {"int 2x", "", ""},
                                           {"int *", "", ""},
                                           {"", "", ""}}) {
        CAPTURE(row.text);
        const auto declared = members::declared_in(row.text);
        CHECK(declared.type == row.type);
        CHECK(declared.name == row.name);
    }
}

TEST_CASE("side by side: everything is done once, whatever the number of threads") {
    for (const std::size_t count : {0U, 1U, 2U, 7U, 1000U})
        for (const std::size_t jobs : {0U, 1U, 2U, 5U, 64U}) {
            std::vector<std::atomic<int>> done(count);
            text::side_by_side(count, jobs, [&](std::size_t i) { ++done[i]; });
            for (const auto& one : done) CHECK(one == 1);
        }
}

TEST_CASE("lists of exports, what is exported under another name, and what is taken from other files") {
    struct Row {
        std::string host, text;
        std::vector<std::string> members, exports, taken;  // taken: "FROM: NAMES"
    };
    const auto cards = shipped();
    for (
        const Row& row : std::vector<Row>{
            {"perl", "our @EXPORT_OK = qw(a b);\nsub a {}\nsub b {}\nsub c {}\n", {"a", "b"}, {"a", "b"}, {}},
            {"perl",
             "our @EXPORT = ('a', \"b\");\npush @EXPORT, qw{c};\nsub c {}\n",
             {"c"},
             {"a", "b", "qw", "c"},
             {}},
            {"perl", "our @EXPORT_OK = 'a';\nsub a {}\nsub b {}\n", {"a"}, {"a"}, {}},
            {"perl",
             "our @API = qw(a b); my @all=(@API, 'c', @all, @none);\nour @EXPORT_OK = (@all, 'd');\n"
             "our %EXPORT_TAGS = (api => \\@API);\nsub a {}\nsub b {}\nsub c {}\nsub d {}\nsub e {}\n",
             {"a", "b", "c", "d"},
             {"@all", "d", "api", "=>", "@API", "@API", "c", "@all", "@none", "a", "b"},
             {}},
            {"perl", "# @EXPORT = qw(b);\nsub a {}\n*b = \\&a;\n", {"a"}, {}, {}},
            {"guile",
             "(define-module (x) #:export ((%a . b) c))\n(define (%a) 1)\n(define (c) 1)\n(define (b) 1)\n",
             {"b", "c", "b"},
             {"b", "c"},
             {}},
            {"guile",
             "(define-module (x)\n #:re-export (a b))\n(re-export c)\n",
             {},
             {"a", "b", "c"},
             {": a b", ": c"}},
            {"tcl",
             "namespace export a \\\n    b\nproc a {} {}\nproc b {} {}\nproc c {} {}\n",
             {"a", "b"},
             {"a", "b"},
             {}},
            {"python",
             "__all__ = ['a', 'B']\n__all__.extend(['c'])\nB = 1\nD = 2\ndef a(): pass\nc = a\n",
             {"B", "a", "c"},
             {"a", "B", "c"},
             {}},
            {"python", "B = 1\ndef a(): pass\nc = a\nd = B\ne = f = a\n", {"a", "c", "e", "f"}, {}, {}},
            {"python", "def _a(): pass\n_b = _a\nc = _b\nd = d\nd = e\nf = no\n", {"c"}, {}, {}},
            {"python",
             "def a(): pass\nif x:\n    a = b\ndef b(): pass\nc = lambda x, y=2: x\nT = n.namedtuple('T', 'a')\n",
             {"a", "b", "c", "T"},
             {},
             {}},
            {"perl",
             "use constant {\n  A => 1, # B => 2\n  C => { D => 3 },\n  E => [F => 4],\n};\nuse constant G => { H => 1 };\n"
             "use constant +{ K => 1, L => 2 };\n",
             {"A", "C", "E", "G", "K", "L"},
             {},
             {}},
            {"tcl",
             "namespace export {[a-b]*} c\\[x\\] [list no\nproc a {} {}\nproc cx {} {}\nproc d {} {}\nproc no {} {}\n",
             {"a", "cx", "no"},
             {"[a-b]*", "c[x]", "list", "no"},
             {}},
            {"python",
             "from .x import (a,\n  b as c)\nfrom y.z import *\ndef f():\n    from .no import n\n",
             {"f"},
             {},
             {".x: a,\n  b as c", "y.z: *"}},
        }) {
        CAPTURE(row.text);
        const auto card =
            std::find_if(cards.begin(), cards.end(), [&](const auto& one) { return one.name.value == row.host; });
        REQUIRE(card != cards.end());
        const members::Patterns patterns(*card);
        members::Outside outside;
        std::vector<std::string> members, taken;
        for (const auto& one :
             members::definitions(text::Source("x", row.text), *card, patterns.compiled(), false, "", &outside))
            members.push_back(one.name);
        for (const auto& one : outside.taken)
            taken.push_back(one.from + ": " + row.text.substr(one.names.begin, one.names.end - one.names.begin));
        CHECK(members == row.members);
        CHECK(outside.exports == row.exports);
        CHECK(outside.lists_exports == !row.exports.empty());
        CHECK(taken == row.taken);
    }
}

TEST_CASE("of a path that code puts together what is written out at its end is known") {
    struct Row {
        std::string path, written;
    };
    for (const Row& row : std::vector<Row>{
             {"\"$(dirname \"${BASH_SOURCE[0]}\")/src/far.sh\" again", "src/far.sh"},
             {"\"$here\"/near.sh", "near.sh"},
             {"\"${BASH_SOURCE%/*}\"/parts/*.bash", "parts/*.bash"},
             {"$0:A:h/lib/x.zsh", "lib/x.zsh"},
             {"${0:A:h}/../x.zsh", "../x.zsh"},
             {"(status dirname)/x.fish", "x.fish"},
             {"`dirname $0`/x.sh;", "x.sh;"},
             {"[file join $top src far.tcl]", "src/far.tcl"},
             {"[file join [file dirname [info script]] \"far.tcl\"]", "far.tcl"},
             {"./a/./b.sh", "a/b.sh"},
             {"'a b.sh' c", "a b.sh"},
             {"$top/'a b.sh'", "a b.sh"},
             {"[file join \"$top\" far.tcl]", "far.tcl"},
             {"[file join $top {a} \"b c.tcl\"]", "b c.tcl"},
             {"\"a.scm\"", "a.scm"},
             // What goes on with a value, is a value, or leads elsewhere.
             {"$dir/${name}-light.sh", ""},
             {"$file", ""},
             {"\"$@\"", ""},
             {"/etc/profile", ""},
             {"~/x.sh", ""},
             {"[file join src far.tcl]", ""},
             {"\"", ""},
             {"", ""},
             {"$(a", ""},
             {"..", ""},
             {"\"${x}/", ""},
         }) {
        CAPTURE(row.path);
        CHECK(members::written_out(row.path) == row.written);
    }
}
