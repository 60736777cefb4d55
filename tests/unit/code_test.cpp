// What native code says of other files and of itself, and what `.pc` files and catalogues say.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <vector>

#include "core/members/includes.hpp"
#include "core/model/catalogue.hpp"
#include "core/model/pc_file.hpp"
#include "core/trial/build.hpp"

using namespace envar;

namespace {

/// "<name>" or "\"name\"", with `?` behind what is conditional.
std::string includes_of(const std::string& code) {
    std::string out;
    for (const auto& include : members::scan_code(code).includes) {
        CHECK(code.substr(include.span.begin, 1) == include.name.substr(0, 1));
        out += fmt::format("{}{}{}{} ", include.angled ? '<' : '"', include.name, include.angled ? '>' : '"',
                           include.conditional ? "?" : "");
    }
    return out;
}

std::string names(const std::vector<members::NamedPlace>& places) {
    std::string out;
    for (const auto& place : places) out += place.name + " ";
    return out;
}

std::vector<std::string> messages(const std::vector<text::Finding>& findings) {
    std::vector<std::string> out;
    for (const auto& finding : findings)
        out.push_back(fmt::format("{}:{} {}", finding.position.line, finding.code, finding.message));
    return out;
}

}  // namespace

TEST_CASE("includes are found where the compiler sees them") {
    struct Row {
        std::string code, includes;
    };
    for (const Row& row :
         std::vector<Row>{{"#include <a>\n#include \"b.hpp\"\n", "<a> \"b.hpp\" "},
                          {"  #  include  <a> // why\n#include/* so */\"b\"\n", "<a> \"b\" "},
                          {"// #include <a>\n/* #include <b>\n#include <c> */\n#include <d>\n", "<d> "},
                          {"/* a */ #include <a>\n", "<a> "},
                          {"int x; #include <a>\n", ""},
                          {"const char* s = \"#include <a>\";\n#include <b>\n", "<b> "},
                          {"const char* s = \"\\\n#include <a>\";\n#include <b>\n", "<b> "},
                          {"auto s = R\"(\n#include <a>\n)\";\n#include <b>\n", "<b> "},
                          {"auto s = u8R\"x(\n)\"\n#include <a>\n)x\";\n#include <b>\n", "<b> "},
                          {"auto s = R\"unclosed(\n#include <a>\n", ""},
                          {"char c = '\"';\n#include <a>\n", "<a> "},
                          {"int n = 1'000'000;\n#include <a>\n", "<a> "},
                          {"char c = '\\'';\n#include <a>\n", "<a> "},
                          {"#inc\\\nlude <a>\n#include \\\n  <b>\n", "<a> <b> "},
                          {"// goes on \\\n#include <a>\n#include <b>\n", "<b> "},
                          {"#include <a//b>\n#include MACRO\n#include <unclosed\n#include <c>\n", "<a//b> <c> "},
                          {"#ifdef X\n#include <a>\n#endif\n#include <b>\n", "<a>? <b> "},
                          {"#if X\n#include <a>\n#else\n#include <b>\n#endif\n", "<a>? <b>? "},
                          {"#if 0\n#include <a>\n#else\n#include <b>\n#endif\n", "<b>? "},
                          {"#if 0\n#if 1\n#include <a>\n#endif\n#include <b>\n#endif\n#include <c>\n", "<c> "},
                          {"#ifdef __cplusplus\n#include <a>\n#endif\n", "<a> "},
                          {"#ifndef G\n#define G\n#include <a>\n#endif\n", "<a> "},
                          {"// text\n\n#if !defined(G)\n#define G 1\n#include <a>\n#endif\n", "<a> "},
                          {"#ifndef G\n#include <a>\n#endif\n", "<a> "},
                          {"#include <z>\n#ifndef G\n#define G\n#include <a>\n#endif\n", "<z> <a>? "},
                          {"#pragma once\n#include <a>\n#endif\n#endif\n#else\n#include <b>\n", "<a> <b> "},
                          {"#include <a>\r\n#include \"b\"\r\n", "<a> \"b\" "},
                          {"\xef\xbb\xbf#include <a>\n", "<a> "},
                          {"", ""},
                          {"#", ""},
                          {"#include", ""},
                          {"/*", ""},
                          {"\"", ""},
                          {"\\\n", ""}}) {
        CAPTURE(row.code);
        CHECK(includes_of(row.code) == row.includes);
    }
    // Bounded: a long run of what opens and never closes.
    const std::string opens(200000, 'x');
    CHECK(includes_of("R\"" + opens + "\n#include <a>\n") == "<a> ");
    std::string levels;
    for (int i = 0; i < 20000; ++i) levels += "#if X\n";
    CHECK(members::scan_code(levels).includes.empty());
}

TEST_CASE("guards, macros and namespaces are told with their places") {
    const std::string code =
        "// of the dome\n#ifndef SKY_HPP\n#define SKY_HPP\n#define SKY_API\n#define SKY_API\n#if 0\n#define DEAD\n#endif\n"
        "using namespace std;\nnamespace alias = sky;\nnamespace sky::inner { namespace deep {} }\nnamespace {}\n"
        "inline namespace v1 {\n}\nnamespace sky { }\nint SKY_count = 0; // SKY_comment\n#endif\n";
    const auto facts = members::scan_code(code);
    CHECK(facts.guard.name == "SKY_HPP");
    CHECK(code.substr(facts.guard.span.begin, 7) == "SKY_HPP");
    CHECK(names(facts.macros) == "SKY_API ");
    CHECK(names(facts.namespaces) == "sky v1 ");
    CHECK(names(facts.words).find("SKY_count") != std::string::npos);
    CHECK(names(facts.words).find("SKY_comment") == std::string::npos);
    CHECK(members::scan_code("int x;\n#ifndef A\n#define A\n#endif\n").guard.name.empty());
    CHECK(members::scan_code("#ifndef A\n#define B\n#endif\n").guard.name.empty());
    CHECK(names(members::scan_code("#ifndef A\n#define B\n#endif\n").macros).empty());
    CHECK(names(members::scan_code("#ifndef G\n#define G\n#ifndef M_PI\n#define M_PI 3\n#endif\n#define X\n#endif\n")
                    .macros) == "X ");
}

TEST_CASE("a `.pc` file is read as its manual page says, and what is wrong in it is told") {
    struct Row {
        std::string text, version, needs, hidden;
        std::vector<std::string> told;
    };
    const auto shown = [](const std::vector<model::PcRequirement>& needs) {
        std::string out;
        for (const auto& need : needs) out += need.module + need.comparator + need.version + " ";
        return out;
    };
    for (const Row& row : std::vector<Row>{
             {"Version: 1.2\nRequires: a >= 1.0, b<2 c\nRequires.private: d = 3", "1.2", "a>=1.0 b<2 c ", "d=3 ", {}},
             {"v=1.2\nw=${v}.3\nVersion: ${w}\nRequires: a >= ${w}, a < 2", "1.2.3", "a>=1.2.3 a<2 ", "", {}},
             {"# text\nVersion: 1 # one\nDescription: a \\# b\nRequires: a \\\n  b", "1", "a b ", "", {}},
             {"Version: 1\r\nRequires: a\r\n", "1", "a ", "", {}},
             {"Name: x\n", "", "", "", {"1:EV913 the file tells no version"}},
             {"Version: 1\nRequires: self, b", "1", "b ", "", {"2:EV912 `self` requires itself"}},
             {"Version: 1\nRequires: a => 2, b == 1",
              "1",
              "a b ",
              "",
              {"2:EV912 `=>` is no comparator", "2:EV912 `==` is no comparator"}},
             {"Version: 1\nRequires: a >=", "1", "a ", "", {"2:EV912 no version stands behind `a >=`"}},
             {"Version: 1\nRequires: >= 2", "1", "2 ", "", {"2:EV912 `>=` stands without a module before it"}},
             {"Version: ${none}\n",
              "",
              "",
              "",
              {"1:EV912 there is no variable `none` up to here", "1:EV913 the file tells no version"}},
             {"a=${b}\nb=${a}\nVersion: 1${a}", "1", "", "", {"1:EV912 there is no variable `b` up to here"}},
             {"nonsense\nVersion: 1", "1", "", "", {"1:EV912 the line is neither `name=value` nor `Name: value`"}},
             {"Version: $${x}1", "${x}1", "", "", {}},
             {"", "", "", "", {"1:EV913 the file tells no version"}}}) {
        CAPTURE(row.text);
        std::vector<text::Finding> findings;
        const auto file = model::read_pc("self", text::Source("self.pc", row.text), findings);
        CHECK(file.version == row.version);
        CHECK(shown(file.public_needs) == row.needs);
        CHECK(shown(file.private_needs) == row.hidden);
        CHECK(messages(findings) == row.told);
    }
    // Doubling again and again stays within the limit.
    std::string bomb = "v0=xxxxxxxxxx\n";
    for (int i = 1; i < 60; ++i) bomb += fmt::format("v{}=${{v{}}}${{v{}}}\n", i, i - 1, i - 1);
    std::vector<text::Finding> findings;
    const auto file = model::read_pc("bomb", text::Source("bomb.pc", bomb + "Version: ${v59}\n"), findings);
    CHECK(file.version.size() <= std::size_t{64} << 10U);
    CHECK(!findings.empty());
}

TEST_CASE("versions of any form are read as far as they are numbers") {
    for (const auto& [written, plain] :
         std::vector<std::pair<std::string, std::string>>{{"1.2.3", "1.2.3"},
                                                          {"1.2", "1.2.0"},
                                                          {"43", "43.0.0"},
                                                          {"1.0.2k", "1.0.2"},
                                                          {"3.0-rc1", "3.0.0"},
                                                          {"1.2.13.1", "1.2.13"},
                                                          {"007.08", "7.8.0"},
                                                          {"20210324.2", "20210324.2.0"},
                                                          {"1..2", "1.0.0"},
                                                          {"99999999999999999999", "999999999999999999.0.0"},
                                                          {"v1", ""},
                                                          {"", ""}}) {
        const std::string& given = written;
        CHECK_MESSAGE(model::plain_version(given) == plain, given);
    }
}

TEST_CASE("a catalogue holds what the `.pc` files said") {
    std::vector<text::Finding> findings;
    std::vector<model::PcFile> files;
    files.push_back(model::read_pc(
        "a", text::Source("a.pc", "Version: 1.4\nRequires: b >= 1, b < 2, c\nRequires.private: d"), findings));
    files.push_back(model::read_pc("b", text::Source("b.pc", "Version: 1.9k\n"), findings));
    CHECK(findings.empty());
    const std::string written = model::catalogue_of(files);
    CHECK(
        written ==
        "{\"module\":\"a\",\"version\":\"1.4.0\",\"dependencies\":[{\"module\":\"b\",\"versions\":\">=1.0.0, <2.0.0\","
        "\"visibility\":\"public\"},{\"module\":\"c\",\"versions\":\"any\",\"visibility\":\"public\"},{\"module\":\"d\","
        "\"versions\":\"any\",\"visibility\":\"private\"}]}\n{\"module\":\"b\",\"version\":\"1.9.0\"}\n");
}

TEST_CASE("a build's message leads to the manifest's line that it speaks of") {
    model::Module module;
    const std::string text =
        "[module]\nname = \"m\"\nversion = \"1.0.0\"\nhost = \"make\"\n[native]\nsources = [\n  \"src/a.cpp\",\n  \"src/ab.cpp\",\n]\n"
        "[[dependency]]\nmodule = \"sky\"\n[[dependency]]\nmodule = \"sky_math\"\nversions = \">=1\"\n";
    module.source = text::Source("m.toml", text);
    std::vector<text::Finding> findings;
    module.manifest = model::read_manifest(model::parse_document(module.source), findings);
    for (const auto& [message, place] : std::vector<std::pair<std::string, std::string>>{
             {"/w/m/src/ab.cpp:3: error", "m.toml:8: the source `src/ab.cpp`"},
             {"cannot find -lsky_math", "m.toml:14: the dependency `sky_math`"},
             {"Could not find a package \"sky\" with", "m.toml:11: the dependency `sky`"},
             {"skylight is dark", ""},
             {"", ""}}) {
        const std::string& said = message;
        CHECK_MESSAGE(trial::place_to_blame(module, said) == place, said);
    }
}
