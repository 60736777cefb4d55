#include <doctest/doctest.h>

#include <algorithm>
#include <random>
#include <string>
#include <vector>

#include "core/members/definitions.hpp"
#include "core/members/masked.hpp"
#include "core/members/scan.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;

namespace {

model::Card shipped(const std::string& name) {
    std::vector<text::Finding> findings;
    const auto cards = model::load_cards({{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, "/", findings);
    CHECK(findings.empty());
    const auto found = std::find_if(cards.begin(), cards.end(), [&](const auto& c) { return c.name.value == name; });
    REQUIRE(found != cards.end());
    return *found;
}

/// "name(parameters):line" of each member.
std::string members_of(const std::string& host, const std::string& code) {
    const tests::Scratch scratch;
    scratch.write("m/code", code);
    model::Module module;
    module.manifest.name.value = "m";
    module.manifest.entry.file.value = "code";
    module.folder = scratch / "m";
    std::string out;
    for (const auto& m : members::scan(module, shipped(host), scratch.folder()).members) {
        std::string parameters;
        for (const auto& p : m.parameters) parameters += (parameters.empty() ? "" : ",") + p.name;
        out += m.name + "(" + parameters + "):" + std::to_string(m.line) + "\n";
    }
    return out;
}

std::string joined(const std::vector<std::string>& lines) {
    std::string out;
    for (const auto& line : lines) out += line + "\n";
    return out;
}

}  // namespace

TEST_CASE("members of Lua modules are found where they are defined") {
    struct Row {
        std::string code;
        std::vector<std::string> members;
    };
    const std::vector<Row> rows = {
        {"local M = {}\nfunction M.a(x, y) end\nreturn M\n", {"a(x,y):2"}},
        {"local M = {}\nM.a = function(x) return x end\nfunction M:b() end\nM.limit = 3\nreturn M\n",
         {"a(x):2", "b():3", "limit():4"}},
        {"local mod = {}\nfunction mod.a() end\nfunction other.b() end\nreturn mod", {"a():2"}},
        {"local M = {}\n-- function M.no() end\n--[[\nfunction M.no() end\n]]\nfunction M.yes() end\nreturn M\n",
         {"yes():6"}},
        {"local M = {}\nlocal s = [[\nfunction M.no() end\n]]\nlocal t = \"function M.no()\"\nreturn M\n", {}},
        {"local M = {}\nfunction M.a()\n  function M.inner() end\nend\nif x then\n  M.maybe = 1\nend\nM.b = 1\nreturn M\n",
         {"a():2", "maybe():6", "b():8"}},
        {"local M = {}\nM._hidden = 1\nfunction M._private() end\nM.x == 3\nreturn M\n", {"x():4"}},
        {"---[[ a line comment\nlocal M = {}\nfunction M.a() end\nreturn M\n", {"a():3"}},
        {"return { a = function() end }\n", {"a():1"}},
        // Another name of the table, before and behind; what is no other name of it.
        {"local sky = {}\nlocal M, x = sky, 1\nlocal N = sky\nfunction N.a() end\nfunction x.b() end\nreturn sky\n",
         {"a():4"}},
        {"local sky = {}\nfunction sky.a() end\nlocal M = sky\nfunction sky.b() end\nreturn M\n", {"b():4"}},
        // With a metatable; what that has is no member.
        {"local function f(x) end\nreturn setmetatable({ a = f, b = function() end }, { __call = f })\n",
         {"a(x):1", "b():2"}},
        {"local M = setmetatable(\n{\n  a = function(x) end,\n},\n{ __index = y })\nfunction M.b() end\nreturn M\n",
         {"a(x):3", "b():6"}},
        // Names that are given their functions later, or are fields of other tables, or are words of the language.
        {"local M = {}\nlocal f\nf = function(x) end\nM.f = f\nreturn M\n", {"f(x):3"}},
        {"local M, own = {}, {}\nfunction own.f(x) end\nown.g = function(y) end\nM.a = own.f\nM.b = own.g\n"
         "M.c = os.exit\nos.exit = function(z) end\nreturn M\n",
         {"a(x):2", "b(y):3", "c():6"}},
        {"local M = {}\nM[\"or\"] = function(x) end\nreturn M\n", {"or(x):2"}},
        {"", {}},
        {std::string("\0\xFF\xFE binary", 10), {}},
    };
    for (const auto& row : rows) {
        CAPTURE(row.code);
        CHECK(members_of("lua", row.code) == joined(row.members));
    }
}

TEST_CASE("functions of bash modules are found where they are defined") {
    struct Row {
        std::string code;
        std::vector<std::string> members;
    };
    const std::vector<Row> rows = {
        {"a() {\n  :\n}\nfunction b {\n  :\n}\nfunction c() {\n  :\n}\n", {"a():1", "b():4", "c():7"}},
        {"# a() {\nb() { :; }\n", {"b():2"}},
        {"a() {\n  inner() { :; }\n}\nb() (\n  :\n)\n", {"a():1", "b():4"}},
        {"_private() { :; }\necho 'x() {'\n", {}},
        {"if true; then\n  maybe() { :; }\nfi\nsure() { :; }\n", {"maybe():2", "sure():4"}},
        {"a() { { :; }; }\nb() { if x; then y; fi }\nc() { :; }\n", {"a():1", "b():2", "c():3"}},
        {"x=${#list}; y() { :; }\n", {"y():1"}},
        {"case $1 in\n  a) b() { :; } ;;\nesac\nz() { :; }\n", {"b():2", "z():4"}},
    };
    for (const auto& row : rows) {
        CAPTURE(row.code);
        CHECK(members_of("bash", row.code) == joined(row.members));
    }
}

TEST_CASE("what looks like code and is none, and code that looks like something else") {
    struct Row {
        std::string host;
        std::string code;
        std::vector<std::string> members;
    };
    const std::vector<Row> rows = {
        {"lua",
         "local M = {}\nlocal s = [==[\n]] function M.no() end\n]==]\nfunction M.a() end\nreturn M\n",
         {"a():5"}},
        {"lua", "local M = {}\n--[=[ ]] function M.no() end ]=] function M.a() end\nreturn M\n", {"a():2"}},
        {"lua",
         "local M = {}\nlocal s = 'it\\'s' .. \"\\z\n  function M.no()\"\nfunction M.a() end\nreturn M\n",
         {"a():4"}},
        {"lua", "local M = {}\nlocal function f(x) end\nM.c = f\nM.d = M.c\nreturn M\n", {"c(x):2", "d(x):2"}},
        {"lua",
         "local M = {\n  a = function(x) return { b = 1 } end,\n  limit = 3,\n}\nreturn M\n",
         {"a(x):2", "limit():3"}},
        {"lua", "local function f(x, ...) end\nreturn { a = f, b = 2 }\n", {"a(x,...):1", "b():2"}},
        {"lua",
         "local next, last <const> = next, 1\nlocal later\nlocal _ENV = {}\nlocal function f(x) end\n"
         "function a(x) b = x end\nc = function(y) end\nd = f\ne = a\nlater = 3\nfunction next() end\nlimit = 6\n"
         "if limit == 6 then f() end\ng = last\nreturn _ENV\n",
         {"d(x):4", "a(x):5", "e(x):5", "c(y):6", "limit():11", "g():13"}},
        {"lua", "function no() end\nlocal M = {}\nlocal _ENV = M\nfunction a() end\nreturn M\n", {"a():4"}},
        {"bash", "cat <<EOF <<-'X Y'\na() { :; }\nEOF\nb() { :; }\n\tX Y\nc() { :; }\n", {"c():6"}},
        {"bash", "x=$((1 << 2)); ((y << z))\na() { :; }\ncat <<< b\nc() { :; }\n", {"a():2", "c():4"}},
        {"bash", "x=\"$(echo \"a() {\" 'b)' `c`)\"; y=\"${x%\\}}\"\nd() { :; }\n", {"d():2"}},
        {"bash",
         "a()\n{\n  inner() { :; }\n}\nb() ( c() { :; } )\nf() [[ -n $1 ]]\nns::g() if x; then y; fi\n",
         {"a():1", "b():5", "f():6", "ns::g():7"}},
        {"bash",
         "echo if; echo { ; echo done\na() { x=\\\\\n  case $y in (b) c;; d) e;; esac; }\nf() { :; }\n",
         {"a():2", "f():4"}},
        {"bash", "a() { :; }; b() { :; }\nunset -f a\n(c() { :; })\n", {"b():1"}},
        {"bash", "a() { :; }\nunset -f a\na() { :; }\n", {"a():3"}},
        {"bash", "a() { :; }\nb() { :; }\nc() { :; }\nunset -f a c # both\n", {"b():2"}},
        {"bash", "a() { :; }\nif x; then\n  unset -f a\n  b() { :; }\n  unset -f b\nfi\n", {"a():1"}},
        {"zsh", "if true\nthen\n() {\n  local x\n}\nfi\n{ echo; }\n() {\n}\na () {\n}\n", {"a():10"}},
        {"zsh",
         "function a b.c { :; }\nfunction -T d() { :; }\nfunction e f # two\n{\n}\nunfunction b.c e\n",
         {"a():1", "d():2", "f():3"}},
        {"lua", "local M = {}\nM.a, M.b = 1, 2\nN.c, M.d = 3, 4\nreturn M\n", {"a():2", "b():2", "d():3"}},
        {"bash", "a() { echo $'it\\'s {'; echo ${#x} $#; }\nb() { :; }\n", {"a():1", "b():2"}},
        {"bash", "x=\"$y`echo \"it's (\"`\"\na() { :; }\n", {"a():2"}},
        {"bash", "x=(\n    if do case\n    [a]=1\n)\na() { y+=(fi then); }\nb() { :; }\n", {"a():5", "b():6"}},
        {"bash", "x=${y//(/} z=${y/ #it/)}\na() { :; } # it's\nb() { :; }\n", {"a():2", "b():3"}},
        {"zsh",
         "a() {\n  [[ -n $1(#qN) ]] && x=( ${y//#\\(/(* } ${z/(#b) #(a)/$match} )\n}\nb() { :; }\n",
         {"a():1", "b():4"}},
        {"zsh",
         "(( $+functions[a] )) ||\na () {\n  for ((i=2; i <= 3; i++)) { x }\n}\nfunction b () { :; }\n",
         {"a():2", "b():5"}},
        {"zsh",
         "a() { print \"${1:-it's} ${${2:-it's}#\"}\"} $(print '\"}' ${3:-'}'})\"; }\nb() { print ${1:-'}'}; }\nc() { :; }\n",
         {"a():1", "b():2", "c():3"}},
        {"zsh",
         "a() { if [[ a &&\n b ]] { x } elif (( 1 )) { y } else { z }; }\nb() { if (( 1 )) return; case x { y) z;; } }\n"
         "c() { if ! [[ a ]] || (b) then; d() { e; }; fi }\nf() { if { a } { b }; if (a) b; }\n"
         "g() { if [[ a ]] # b\n then c; fi; case a in (b) c;; esac }\nh() { :; }\n",
         {"a():1", "b():3", "c():4", "f():5", "g():6", "h():8"}},
        {"guile",
         "(define* (unget string #:optional (start 0) (count (- (length (car string)) start)))\n  1)\n(define (b) 1)\n",
         {"unget(string,start,count):1", "b():3"}},
        {"guile",
         "(define-module (x) #:export (place? b*))\n(define (place) 1)\n(define (place?) 1)\n(define (best) 1)\n(define (b*) 1)\n",
         {"place?():3", "b*():5"}},
        // Of a module with a namespace of its own what is in that, and what is called like it.
        {"tcl",
         "namespace eval ::m {\n  proc a {} {}\n  namespace eval inner {\n    proc b {} {}\n    proc a x {}\n  }\n"
         "  if 1 {\n    proc e {} {}\n  }\n}\nproc ::m::c {} {}\nproc d {} {}\nproc ::n::a {y} {}\nproc m {} {}\n",
         {"a():2", "e():8", "c():11", "m():14"}},
        {"tcl", "proc ::n::a {} {}\nproc ::o::a {x} {}\nproc ::n::b {} {}\n", {"a(x):2", "b():3"}},
        {"tcl",
         "if {[catch {\n  package require x\n}]} {\n  proc a {b \"c\" {\"d\" 1}} {}\n}\nif 1 {\n  proc e f {}\n} elseif "
         "{$x} {\n  proc g {} {}\n}\nproc h {} {\n  if 1 {\n    proc i {} {}\n  }\n}\n",
         {"a(b,c,d):4", "e(f):7", "g():9", "h():11"}},
        {"tcl",
         "namespace eval a { namespace export p* }\nproc ::a::place {x} {}\nproc ::a::b::push y {}\nproc ::a::other {} {}\n",
         {"place(x):2", "push(y):3"}},
        {"zsh",
         "function a b c { :; }\nfunction { d() { :; } }\n() { e() { :; } }\nf() { :; }\n",
         {"a():1", "b():1", "c():1", "f():4"}},
        {"fish",
         "function a -d 'x; end' -a b c\n  if true; else if false; end\nend\nif status is-login\n  function d; end\nend\n",
         {"a(b,c):1", "d():5"}},
        {"fish",
         "alias a 'b c'\nalias --save d=e\nfunctions -c a f\nfunctions --copy a g; alias\nfunctions -e d\n# alias no x\n",
         {"a():1", "f():3", "g():4"}},
        {"fish", "echo function end; echo (function_x)\nfunction e --argument-names f g\nend\n", {"e(f,g):2"}},
        {"tcl",
         "proc a {x {y 1} args} {\n  # a brace { in a comment }\n  puts \"}{\"\n}\nproc b args { }\n",
         {"a(x,y,args):1", "b(args):5"}},
        {"tcl",
         "# a comment goes on \\\nproc no {} {}\nnamespace eval ns {\n  proc c {} {}\n}\nproc ::ns::d? {} {}\n",
         {"c():4", "d?():6"}},
        {"python",
         "def a(x, /, y: dict[str, int] = {'b': (1, 2)}, *args, k=')', **rest):\n    def inner(): pass\nif a:\n"
         "    def b(): ...\nelse:\n    @c\n    def d(): ...\n",
         {"a(x,y,args,k,rest):1", "b():4", "d():7"}},
        {"python",
         "s = '''\ndef no(): pass\n''' + \"\\\"\" # '''\nclass A(B):\n    def no(self): pass\nasync def b(x,\n"
         "            y=2): pass\n",
         {"A():4", "b(x,y):6"}},
        {"python",
         "def a(x): return {\n  'def no(': 1}\ndef b(): pass\n__all__ = ['b']\n__all__ += [\"a\"]\n",
         {"a(x):1", "b():3"}},
        // Tests of files, commas as marks, and what is an operator of two marks.
        {"perl",
         "if (-s $f && -y _) { }\nsub a { m,/, ? 1 : 2 }\nsub b { s,a,b,g; (s, y); }\nsub c { 1 }\n",
         {"a():2", "b():3", "c():4"}},
        {"perl",
         "$io->{out} //= '/dev/null';\nsub a { $x // '{/' }\nmy ($y) = / ^ (\\{)\n  \" $ /x;\nsub b { 1 }\n",
         {"a():2", "b():5"}},
        {"perl",
         "sub a { ($x =~ s/x/y/s || 1) }\nsub b { ($x !~ /it's/s || /'/m || m{'}s || 2) }\n"
         "sub c { $x =~ /y/s || qr/z/s || tr/a/b/s || 3 }\nsub d { (q(a)x 3) | 4 }\n1;\n",
         {"a():1", "b():2", "c():3", "d():4"}},
        {"perl",
         "sub a { my $x = $#{$_[0]}; s{\\}}{ sub no \\{ }; $x =~ m/sub {/; }\n=pod\n\nsub no {}\n\n=cut\n"
         "sub b($x, $y = 1) {}\n1;\n__END__\nsub no {}\n",
         {"a():1", "b(x,y):7"}},
        {"perl",
         "my %h = (q => 1, y => 2); print <<A, <<~\"B\";\nsub no {\nA\n  sub no {\n  B\nsub c { $h{s} / 2 }\n"
         "sub d { q{ } } } \nsub e {}\n",
         {"c():6", "d():7", "e():8"}},
        {"guile",
         "#| #| (define (no)) |# (define (no)) |#\n#;(define (no x) 1)\n"
         "(define (a x #:optional (y 1) . rest) #\\( ; )\n  (define (inner) 1))\n(define b (lambda (z) z))\n"
         "(define c \")\")\n",
         {"a(x,y,rest):3", "b(z):5", "c():6"}},
    };
    for (const auto& row : rows) {
        CAPTURE(row.host);
        CAPTURE(row.code);
        CHECK(members_of(row.host, row.code) == joined(row.members));
    }
}

TEST_CASE("whatever the text is, the scan ends and places stay places") {
    std::vector<text::Finding> findings;
    const auto cards = model::load_cards({{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, "/", findings);
    const std::vector<std::string> pieces = {"\"",
                                             "'",
                                             "`",
                                             "$(",
                                             "${",
                                             "((",
                                             "))",
                                             "{",
                                             "}",
                                             "(",
                                             ")",
                                             "[",
                                             "]",
                                             "<<A\n",
                                             "<<'B'",
                                             "A\n",
                                             "#",
                                             "#|",
                                             "|#",
                                             "#;",
                                             "--[==[",
                                             "]==]",
                                             "\\",
                                             "\n",
                                             "\n=pod\n",
                                             "\n=cut\n",
                                             " function a",
                                             " if ",
                                             " end ",
                                             " fi",
                                             ";",
                                             " def f(x):\n  ",
                                             "sub x {",
                                             "s/",
                                             "q{",
                                             "proc p {a b} {",
                                             "\"\"\"",
                                             "\xC3\xA4",
                                             std::string(1, '\0'),
                                             "a() {",
                                             "return {",
                                             "x = ",
                                             ","};
    std::mt19937 random(3);
    for (const auto& card : cards) {
        const members::Patterns patterns(card);
        for (int round = 0; round < 20; ++round) {
            std::string code;
            for (int i = 0; i < 200; ++i) code += pieces[random() % pieces.size()];
            const std::string masked = members::masked(code, card);
            CHECK(masked.size() == code.size());
            CHECK(std::count(masked.begin(), masked.end(), '\n') == std::count(code.begin(), code.end(), '\n'));
            const text::Source source("a", code);
            for (const auto& member : members::definitions(source, card, patterns.compiled(), false, ""))
                CHECK(member.name.size() <= member.span.end);
        }
        // The same mark, over and over: every one could open something.
        for (const auto& piece : pieces) {
            std::string code;
            while (code.size() < 20'000) code += piece;
            CHECK(members::masked(code, card).size() == code.size());
        }
    }
}

TEST_CASE("patterns that match nothing, or are refused, do not hang the scan") {
    model::Card card = shipped("lua");
    card.blocks.resize(2);
    card.blocks[0].open = {"", "("};
    card.blocks[0].close = {""};
    card.blocks[1].open = {"x"};
    card.blocks[1].close = {"x", "y"};
    card.blocks[1].hides = model::BlockHides::bodies;
    card.blocks[1].head = "x*";
    card.heredoc = "(?P<word>x*)";
    card.plain = {"", "x*", "(?!"};
    card.long_strings = {{"", ""}, {"a(b)", "\\1"}};
    card.table_pattern = "z*";
    card.internal_pattern = "(?!";
    card.members.push_back({"(?P<name>)", "function", ""});
    const tests::Scratch scratch;
    scratch.write("m/init.lua", "local M = {}\nfunction M.a() end\nreturn M\n");
    model::Module module;
    module.manifest.name.value = "m";
    module.folder = scratch / "m";
    CHECK(members::scan(module, card, scratch.folder()).readable);
}

TEST_CASE("masking keeps lengths and line ends") {
    const auto card = shipped("lua");
    const std::string code = "a = \"x\\\"y\" -- c\n--[==[ two\nlines ]==]\nb = [[\n]] 'open\n";
    const std::string masked = members::masked(code, card);
    CHECK(masked.size() == code.size());
    CHECK(std::count(masked.begin(), masked.end(), '\n') == std::count(code.begin(), code.end(), '\n'));
    CHECK(masked.substr(0, 11) == "a = \"    \" ");
    CHECK(masked.find("two") == std::string::npos);
}

TEST_CASE("the shipped cards are sound") {
    for (const std::string name : {"bash", "lua"}) CHECK(shipped(name).members.size() >= 2);
}
