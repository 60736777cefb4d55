#include <doctest/doctest.h>

#include <algorithm>
#include <string>
#include <vector>

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
std::vector<std::string> members_of(const std::string& host, const std::string& code) {
    const tests::Scratch scratch;
    scratch.write("m/code", code);
    model::Module module;
    module.manifest.name.value = "m";
    module.manifest.entry.file.value = "code";
    module.folder = scratch / "m";
    std::vector<std::string> out;
    for (const auto& m : members::scan(module, shipped(host), scratch.folder()).members) {
        std::string parameters;
        for (const auto& p : m.parameters) parameters += (parameters.empty() ? "" : ",") + p;
        out.push_back(m.name + "(" + parameters + "):" + std::to_string(m.line));
    }
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
         {"a():2", "b():8"}},
        {"local M = {}\nM._hidden = 1\nfunction M._private() end\nM.x == 3\nreturn M\n", {"x():4"}},
        {"---[[ a line comment\nlocal M = {}\nfunction M.a() end\nreturn M\n", {"a():3"}},
        {"return { a = function() end }\n", {}},
        {"", {}},
        {std::string("\0\xFF\xFE binary", 10), {}},
    };
    for (const auto& row : rows) {
        CAPTURE(row.code);
        CHECK(members_of("lua", row.code) == row.members);
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
        {"if true; then\n  maybe() { :; }\nfi\nsure() { :; }\n", {"sure():4"}},
        {"a() { { :; }; }\nb() { if x; then y; fi }\nc() { :; }\n", {"a():1", "b():2", "c():3"}},
        {"x=${#list}; y() { :; }\n", {}},
        {"case $1 in\n  a) b() { :; } ;;\nesac\nz() { :; }\n", {"z():4"}},
    };
    for (const auto& row : rows) {
        CAPTURE(row.code);
        CHECK(members_of("bash", row.code) == row.members);
    }
}

TEST_CASE("patterns that match nothing, or are refused, do not hang the scan") {
    model::Card card = shipped("lua");
    card.nesting = {{"x*", "y*"}, {"(", ")"}};
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
