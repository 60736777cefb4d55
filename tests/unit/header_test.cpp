// What C and C++ headers let others see: functions, types, constants, macros.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <vector>

#include "core/members/scan.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;

namespace {

model::Card native_card() {
    std::vector<text::Finding> findings;
    const auto cards = model::load_cards({{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, "/", findings);
    CHECK(findings.empty());
    const auto found =
        std::find_if(cards.begin(), cards.end(), [](const auto& c) { return c.name.value == "cmake"; });
    REQUIRE(found != cards.end());
    return *found;
}

/// "kind name(parameters):line", one a member.
std::string members_of(const std::string& code) {
    static const model::Card card = native_card();
    const tests::Scratch scratch;
    scratch.write("m/include/m/m.hpp", code);
    scratch.write("m/include/m/made.h", "// Made by Envar\n// Envar digest: 1 x\nint never(void);\n");
    scratch.write("m/src/own.hpp", "int hidden(void);\n");
    model::Module module;
    module.manifest.name.value = "m";
    module.folder = scratch / "m";
    std::string out;
    for (const auto& m : members::scan(module, card, scratch.folder()).members) {
        std::string parameters;
        for (const auto& p : m.parameters) {
            parameters += (parameters.empty() ? "" : ", ") + p.type + " " + p.name;
            if (!p.preset.empty()) parameters += " = " + p.preset;
        }
        out += fmt::format("{} {}{}:{}\n", m.kind, m.name, m.tells_parameters ? "(" + parameters + ")" : "", m.line);
    }
    return out;
}

}  // namespace

TEST_CASE("what headers let others see") {
    struct Row {
        std::string code, members;
    };
    for (
        const Row& row : std::vector<Row>{
            // functions
            {"double angle(double hours, int unit = 0);\n", "function angle(double hours, int unit = 0):1\n"},
            {"void seen(font_t *font UNUSED_HERE, const glyph_t glyph UNUSED_HERE, int n);\n",
             "function seen(font_t * font, const glyph_t glyph, int n):1\n"},
            // on several lines, the first of them short; with lines of the preprocessor and marks behind
            {"api_fn status\nglyphs (" + std::string(600, ' ') +
                 "int a);\nint\nb (int c) MARKED\n  marked ((1));\nvoid *room(int d) "
                 "own_attribute sky_alloc_size(1);\nint e(int f)\n#ifdef X\n  __attribute__((format(printf, 2, 0)))\n#endif\n;\n"
                 "extern NORETURN SKY(void) g(int h);\nSKY(i)\nSKY(j)\n#define K 1\ntypedef int l;\n",
             "function glyphs(int a):2\nfunction b(int c):4\nfunction room(int d):6\nfunction e(int f):7\n"
             "function g(int h):12\nmacro K:15\ntype l:16\n"},
            // A macro stands before a function of its name, and is no other one; macros in types count.
            {"int a(int b);\n#define a(b) c(b)\n#undef a\n#define d(e) d(e)\nint d(int e);\ntypedef struct {\n"
             "#define F 1\n  int f;\n} g;\n",
             "function a(int b):1\nfunction d(int e):5\nmacro F:7\ntype g:9\n"},
            // what is undefined again, but on no further condition
            {"#ifndef M_H\n#define M_H\n#define M_EACH(x) int m_##x(void);\n#undef M_EACH\n#define M_KEPT 1\n#if M_OLD\n"
             "#  undef M_KEPT\n#endif\n#ifdef M_IN\n#define M_GONE 1\n#if 1\n#endif\n#undef M_GONE\n#endif\n"
             "#undef M_LATER\n#define M_LATER 2\n#ifdef M_IN\n#define M_IN_IT 1\n#endif\n#ifdef M_OUT\n#undef M_IN_IT\n"
             "#endif\n#endif\n",
             "macro M_KEPT:5\nmacro M_LATER:16\nmacro M_IN_IT:18\n"},
            // macros before a definition, and around its type
            {"OLD_USE(\"say (it) anew\")  SKY_API int old(int a);\nSKY_DEPRECATED_IN_FOR(2, far) void older(void);\n",
             "function old(int a):1\nfunction older():2\n"},
            {"extern SKY_EXPORT(int) beep (void);\nextern SKY_EXPORT(Hook) *hooks (const M *, int n) MARK(1);\n",
             "function beep():1\nfunction hooks(int n):2\n"},
            // no block hides macros from what follows it
            {"struct s {\n#define S_ONE 1\n  int x;\n};\ninline int f(int a) {\n  /*\n#define NO 1\n*/\n#  define S_TWO(b) \\\n { b }\n"
             "  return a;\n}\nint g(void);\n",
             "type s:1\nmacro S_ONE:2\nfunction f(int a):5\nmacro S_TWO( b):9\nfunction g():13\n"},
            {"int one(int SIZE);\n", "function one(int SIZE):1\n"},
            {"int plain(void);\nint none();\n", "function plain():1\nfunction none():2\n"},
            {"unsigned long\nfar_away(const char *name,\n         char **argv, int more[], size_t n);\n",
             "function far_away(const char * name, char ** argv, int more, size_t n):2\n"},
            {"extern \"C\" {\nint in_c(int a);\n}\nextern \"C\" int one(int b);\n",
             "function in_c(int a):2\nfunction one(int b):4\n"},
            {"namespace a::b {\ninline int twice(int x) { return f(x); }\nnamespace {\nint u(int y);\n}\n}  // namespace\n",
             "function twice(int x):2\nfunction u(int y):4\n"},
            {"template <class T, class U = std::less<T>>\nauto best(const std::vector<T>& of, U by = {}) -> T;\n",
             "function best(const std::vector<T>& of, U by = {}):2\n"},
            {"[[nodiscard]] M_EXPORT std::map<std::string, int> table(std::pair<int, int> of) noexcept;\n",
             "function table(std::pair<int, int> of):1\n"},
            {"__attribute__((visibility(\"default\"))) int seen(int a) __attribute__((pure));\n",
             "function seen(int a):1\n"},
            {"int with(void (*call)(int, char), int last);\n", "function with(void (* call, int last):1\n"},
            {"constexpr int square(int x) { return x * x; }\n", "function square(int x):1\n"},
            {"int a(int x); int b(int y);\n", "function a(int x):1\nfunction b(int y):1\n"},
            {"template <class T, bool fits = (sizeof(T) > 2), class = std::enable_if_t<(rank<T>::value > 1)>>\n"
             "requires Angular<T> && (sizeof(T) < 9)\nint measured(T of);\n",
             "function measured(T of):3\n"},
            {"int ends(int a) __THROW __nonnull ((1));\nvoid *made(int n) _M_ATTRIBUTE_MALLOC;\nint last(int b) noexcept(true);\n",
             "function ends(int a):1\nfunction made(int n):2\nfunction last(int b):3\n"},
            {"int taken(unsigned int, unsigned long long, char **, struct sky *by, ...);\n",
             "function taken(struct sky * by,  ...):1\n"},
            {"int mark(sky *_Nonnull, const char *_Nullable name, int *restrict);\n",
             "function mark(const char *_Nullable name):1\n"},
            {"int each(int (*compare)(const void *, const void *), std::function<void(int)> then, Args &&...rest);\n",
             "function each(int (* compare, std::function<void(int)> then, Args &&... rest):1\n"},
            {"int given([[maybe_unused]] int a, int b[2][3]);\n",
             "function given([[maybe_unused]] int a, int b):1\n"},
            {"M_API int visible(int a) M_SINCE(2, 1) M_PURE;\nint _hidden(void) __attribute__ ((pure)) __asm__ (\"x\");\n",
             "function visible(int a):1\nfunction _hidden():2\n"},
            {"auto told(int a) -> std::vector<int>;\nint kept(int a) = delete;\nint thrown(int a) throw();\n",
             "function told(int a):1\nfunction kept(int a):2\nfunction thrown(int a):3\n"},
            {"M_DECLARE(Star)\nint after(int a);\nM_DECLARE(Dome);\n", "function after(int a):2\n"},
            {"namespace sky M_VISIBLE(default)\n{\nint in_it(int a);\n}\n", "function in_it(int a):3\n"},
            // none of these is a function
            {"inline Star::operator bool() const { return true; }\nint Dome::open(int by) { return by; }\nint (*hook)(int a);\n",
             ""},
            {"#if defined(X) && (Y > 1)\nstatic_assert(sizeof(int) == 4, \"f(x);\");\n#endif\nX_BEGIN(a)\n", ""},
            {"/* int old(int a); */\n// int older(int b);\nconst char* text = \"int quoted(int c);\";\n",
             "constant text:3\n"},
            {"inline int body(int x) {\n    int local(int);\n    return g(x);\n}\n", "function body(int x):1\n"},
            // types
            {"struct Star;\nclass M_EXPORT Dome final : public Base<int> {\n  public:\n    int open(int by);\n};\n",
             "type Dome:2\n"},
            {"enum class Side : int { left, right };\nenum Old { a, b };\nunion U { int i; };\n",
             "type Side:1\ntype Old:2\ntype U:3\n"},
            {"typedef struct { double x, y; struct { int z; } in; } point;\ntypedef struct sky sky;\ntypedef int (*callback)(double by);\n"
             "typedef int handler(double by);\n"
             "typedef STACK_OF(STAR) *stars;\ntypedef void (*freed) OF((void *at));\n"
             "typedef unsigned char byte, *bytes;\nusing Angle = double;\ntemplate <class T> using List = std::vector<T>;\n",
             "type point:1\ntype sky:2\ntype callback:3\ntype handler:4\ntype stars:5\ntype freed:6\ntype bytes:7\ntype Angle:8\ntype List:9\n"},
            {"struct __attribute__((packed)) Tight { char c; };\nstruct alignas(16) Wide { int i; };\n",
             "type Tight:1\ntype Wide:2\n"},
            {"typedef double matrix[3][3];\ntypedef enum { a, b } side;\ntypedef const struct sky *const *skies;\n",
             "type matrix:1\ntype side:2\ntype skies:3\n"},
            {"union __attribute__((aligned(8))) Word { int i; };\n"
             "template <> struct hash<int> { int h; };\n"
             "template <class T> class [[nodiscard]] Kept final { T t; };\n",
             "type Word:1\ntype Kept:3\n"},
            // constants, variables, macros
            {"extern \"C\" int in_c;\nconstinit int started = 0;\nM_EXPORT extern int shared[2];\n"
             "inline auto counter = 0;\nstatic const char *const names[] = {\"a\"};\n",
             "constant started:2\nvariable shared:3\nvariable counter:4\nconstant names:5\n"},
            {"inline constexpr double pi = 3.14;\nconst int table[3] = {1, 2, 3};\nextern const char* const names[];\nextern int count;\n",
             "constant pi:1\nconstant table:2\nconstant names:3\nvariable count:4\n"},
            {"#ifndef M_HPP\n#define M_HPP\n#define LIMIT 6\n#define EMPTY\n#  define RADIANS(d, e) ((d) * \\\n  0.017 { (\n#endif\nint after(int x);\n",
             "macro LIMIT:3\nmacro RADIANS( d,  e):5\nfunction after(int x):8\n"},
            {"#define LONG(a) do { /* {\n  \" */ more(\"{\"); } \\\n  while (0)\n#error isn't { here\n#include <a(b>\nint after(int x);\n",
             "macro LONG( a):1\nfunction after(int x):6\n"},
            // traps
            {"int f(int a) {\n#ifdef X\n  if (g(a) {\n#else\n  {\n#endif\n  }}\nint after(int x);\n",
             "function f(int a):1\n"},
            {"const char* raw = R\"x(int no(int); )\" )x\";\nchar quote = '\"';\nint number = 1'000'000;\nint yes(int a);\n",
             "constant raw:1\nfunction yes(int a):4\n"},
            {"STACK_OF(STAR) *sky_stars(const STACK_OF(DOME) **domes, int count);\n",
             "function sky_stars(const STACK_OF(DOME) ** domes, int count):1\n"},
            {"int broken(int a,\n", ""},
            {"struct A { struct B { int f(int); }; int g(int); }; int h(int a);\n",
             "type A:1\nfunction h(int a):1\n"},
        }) {
        CAPTURE(row.code);
        CHECK(members_of(row.code) == row.members);
    }
}
