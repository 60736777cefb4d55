// How far definitions reach: what `gather` moves, against the real interpreters and by hand.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <map>
#include <sstream>

#include "core/files/read.hpp"
#include "core/members/definitions.hpp"
#include "core/process/run.hpp"

using namespace envar;
namespace fs = std::filesystem;

namespace {

model::Card card_of(const std::string& name) {
    std::vector<text::Finding> findings;
    for (auto& card : model::load_cards({{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, "/", findings))
        if (card.name.value == name) return card;
    FAIL("no such card");
    return {};
}

/// "first-last" by name, as an interpreter tells.
std::map<std::string, std::string> told_by(const std::string& interpreter, const std::string& script,
                                           const fs::path& file) {
    const auto program = process::find_program({interpreter}, "/usr/local/bin:/usr/bin:/bin");
    REQUIRE(program.has_value());
    process::Command command;
    command.arguments = {program->string(), std::string(ENVAR_SOURCE_FOLDER "/tests/truth/") + script, file.string()};
    command.folder = "/tmp";
    command.environment = {{"PATH", "/usr/local/bin:/usr/bin:/bin"}, {"HOME", "/nonexistent"}};
    const auto run = process::run(command);
    REQUIRE(run.has_value());
    std::map<std::string, std::string> lines;
    std::istringstream in(run->output);
    for (std::string line; std::getline(in, line);) {
        const std::size_t first = line.find('\t'), second = line.find('\t', first + 1);
        if (second == std::string::npos) continue;
        lines[line.substr(0, first)] = line.substr(first + 1, second - first - 1) + "-" + line.substr(second + 1);
    }
    return lines;
}

/// Each definition as "name: code", with `|` for line ends; what defines nothing as "- code".
std::string taken_apart(const std::string& host, const std::string& code) {
    const model::Card card = card_of(host);
    const members::Patterns patterns(card);
    const text::Source source("s", code);
    const auto all = members::everything_in(source, card, patterns.compiled());
    std::map<std::size_t, std::string> pieces;
    for (const auto& one : all.defined)
        pieces[one.top] =
            one.name + (one.nested ? " (nested)" : "") + ": " + code.substr(one.top, one.extent.end - one.top);
    for (const auto& one : all.others)
        pieces[one.span.begin] = "- " + code.substr(one.span.begin, one.span.end - one.span.begin);
    std::string out;
    for (const auto& piece : pieces) {
        for (const char c : piece.second) out += c == '\n' ? '|' : c;
        out += '\n';
    }
    return out;
}

}  // namespace

TEST_CASE("definitions reach as far as the real interpreters say") {
    struct Corpus {
        std::string host, interpreter, script, ending;
        fs::path folder;
        std::size_t least;
    };
    for (const auto& corpus : std::vector<Corpus>{
             {"lua", "lua5.4", "extent.lua", ".lua", "/usr/share/lua/5.4/pl", 400},
             {"python", "python3", "extent.py", ".py", "/usr/lib/python3.11", 1500},
         }) {
        const model::Card card = card_of(corpus.host);
        const members::Patterns patterns(card);
        std::size_t all = 0, wrong = 0, absent = 0;
        std::string some;
        for (const auto& entry : fs::directory_iterator(corpus.folder)) {
            if (entry.path().extension() != corpus.ending || !entry.is_regular_file()) continue;
            const auto text = files::read_file(entry.path(), std::size_t{16} << 20U);
            REQUIRE(text.has_value());
            const text::Source source(entry.path().string(), *text);
            std::map<std::string, std::string> found;
            for (const auto& one : members::everything_in(source, card, patterns.compiled()).defined)
                found[one.name] = fmt::format("{}-{}", source.position(one.extent.begin).line,
                                              source.position(one.extent.end - 1).line);
            for (const auto& [name, lines] : told_by(corpus.interpreter, corpus.script, entry.path())) {
                ++all;
                const auto own = found.find(name);
                if (own == found.end()) {
                    ++absent;
                } else if (own->second != lines) {
                    ++wrong;
                    some += fmt::format("{} {}: {} is {}\n", entry.path().string(), name, own->second, lines);
                }
            }
        }
        CAPTURE(corpus.host);
        CAPTURE(absent);
        CAPTURE(some);
        CHECK(all >= corpus.least);
        // Members that are made by code, or under another name, are none that could be moved.
        CHECK(10 * absent <= all);
        CHECK(100 * wrong <= all);
    }
}

TEST_CASE("what a script is made of, piece by piece") {
    struct Row {
        std::string host, code, pieces;
    };
    for (
        const Row& row : std::vector<Row>{
            // bash: bodies of all forms, what stands behind them, several on a line
            {"bash", "f() { a; }\n", "f: f() { a; }\n"},
            {"bash", "# Doc.\n# More.\nf() { a; } # end\nx=1\n", "f: # Doc.|# More.|f() { a; } # end\n- x=1\n"},
            {"bash", "# Not its own.\n\nf() { a; }\n", "f: f() { a; }\n"},
            {"bash", "f()\n{\n    a\n}\ng() ( b ); h() [[ -n $1 ]]\n",
             "f: f()|{|    a|}\ng: g() ( b )\nh: h() [[ -n $1 ]]\n"},
            {"bash", "function f {\n  if a; then\n    g() { b; }\n  fi\n}\nf\n",
             "f: function f {|  if a; then|    g() { b; }|  fi|}\n- f\n"},
            {"bash", "if true; then\n  f() { a; }\nfi\ng\n",
             "- if true; then|  f() { a; }|fi\nf (nested): f() { a; }\n- g\n"},
            {"bash", "f() { cat <<X\n}\nX\n}\ng() { b; }\n", "f: f() { cat <<X|}|X|}\ng: g() { b; }\n"},
            {"bash", "x='a\nb' y=2\nf() { :; } >&2\n", "- x='a|b' y=2\nf: f() { :; } >&2\n"},
            {"bash", "for i in 1 2; do\n  x=$i\ndone\nf() { :; }\n",
             "- for i in 1 2; do|  x=$i|done\nf: f() { :; }\n"},
            {"bash", "[ -n \"$a\" ] || a=1\nb && c |\n  d=2; e & f=3\n",
             "- [ -n \"$a\" ] || a=1\n- b && c ||  d=2;\n- e &\n- f=3\n"},
            {"bash", "a &&\nb && c && d && e=1\nf &\n", "- a &&|b && c && d && e=1\n- f &\n"},
            {"bash", "while read x; do\n  y=1\ndone < f\n! a; until b; do c; done\n",
             "- while read x; do|  y=1|done < f\n- ! a;\n- until b; do c; done\n"},
            // zsh
            {"zsh", "f() { a }\nfunction g h { b }\n() { c }\n", "f: f() { a }\ng: function g h { b }\n- () { c }\n"},
            // fish
            {"fish", "function f -a x\n    if a\n        b\n    end\nend\nset y 1\n",
             "f: function f -a x|    if a|        b|    end|end\n- set y 1\n"},
            {"fish", "function f; a; end; function g; b; end\n", "f: function f; a; end\ng: function g; b; end\n"},
            // Lua: nested functions, long strings, chunks on one line
            {"lua", "local function f(a)\n  return function() end\nend\nlocal x = 1\n",
             "f: local function f(a)|  return function() end|end\n- local x = 1\n"},
            {"lua", "function f() end function g() end return f\n",
             "f: function f() end\ng: function g() end\n- return f\n"},
            {"lua", "local s = [[\nfunction no() end\n]]\nlocal f = function(a) if a then return 1 end end\n",
             "- local s = [[|function no() end|]]\nf: local f = function(a) if a then return 1 end end\n"},
            {"lua", "do\n  local x = 1\n  function f() return x end\nend\n",
             "- do|  local x = 1|  function f() return x end|end\nf (nested): function f() return x end\n"},
            {"lua", "local t = { f = function() end }\nfunction t.g() end\n",
             "- local t = { f = function() end }\ng: function t.g() end\n"},
            // Python: decorators, docstrings, what is indented, continued lines
            {"python", "@a\n@b(1)\ndef f(x,\n      y):\n    return x\n\n\nz = (1,\n  2)\n",
             "f: @a|@b(1)|def f(x,|      y):|    return x\n- z = (1,|  2)\n"},
            {"python",
             "def f():\n    '''\n    def no(): pass\n    '''\n\n    return 1\n# end\nclass C(A):\n    x = 1\n    def g(self): pass\n",
             "f: def f():|    '''|    def no(): pass|    '''||    return 1\nC: # end|class C(A):|    x = 1|    def g(self): pass\n"},
            {"python", "try:\n    import a\nexcept ImportError:\n    a = None\ndef f(): return a\n",
             "- try:|    import a|except ImportError:|    a = None\nf: def f(): return a\n"},
            // Perl: quotes and documents with braces in them, what stands behind the end
            {"perl",
             "my @a = map { $_ } grep { $_ } sort { 1 } 1 .. 3;\nmy %h = (a => { b => 1 });\nmy $r = { c => 1 };\nf();\n",
             "- my @a = map { $_ } grep { $_ } sort { 1 } 1 .. 3;\n- my %h = (a => { b => 1 });\n- my $r = { c => 1 };\n- f();\n"},
            {"perl", "my $x = q{ } };\nsub f { return q(}) }\nsub g {\n  print <<X;\n}\nX\n}\n__END__\nsub no {}\n",
             "- my $x = q{ } };\nf: sub f { return q(}) }\ng: sub g {|  print <<X;|}|X|}\n"},
            {"perl", "sub f($x, $y = 2) { if ($x =~ /}/) { 1 } }\n$f = 1;\n",
             "f: sub f($x, $y = 2) { if ($x =~ /}/) { 1 } }\n- $f = 1;\n"},
            // Tcl
            {"tcl", "# f --\nproc f {a {b 2}} {\n  if {$a} { return \"\\}\" }\n}\nset x 1\nproc g args { }\n",
             "f: # f --|proc f {a {b 2}} {|  if {$a} { return \"\\}\" }|}\n- set x 1\ng: proc g args { }\n"},
            // Guile
            {"guile",
             "(define x 1)\n;; Doc.\n(define (f a)\n  (define (in) 1)\n  #| (define (no) 1) |#\n  (in))\n(define* (g #:optional b) b)\n",
             "- (define x 1)\nf: ;; Doc.|(define (f a)|  (define (in) 1)|  #| (define (no) 1) |#|  (in))\ng: (define* (g #:optional b) b)\n"},
        }) {
        CAPTURE(row.host);
        CAPTURE(row.code);
        CHECK(taken_apart(row.host, row.code) == row.pieces);
    }
}
