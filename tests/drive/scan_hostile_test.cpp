// `envar members` on files that are damaged, made to do harm, or changed while they are read: it ends soon, says what
// it found, and what stands before the damage is found as ever.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <atomic>
#include <chrono>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <thread>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

struct Language {
    std::string host, file;
    std::string good, more;  // definitions of `good` and of `more`, with a line end
    std::string head, tail;  // around them, so that they are members
    std::string comment, open_quote, open_block;
};

const std::vector<Language>& languages() {
    static const std::vector<Language> all = {
        {"bash", "shell/stars/stars.bash", "good() { :; }\n", "more() { :; }\n", "", "", "# ", "x=\"", "{ "},
        {"zsh", "shell/stars/functions/stars", "good() { : }\n", "more() { : }\n", "", "", "# ", "x=\"", "{ "},
        {"fish", "shell/stars/functions/stars.fish", "function good\nend\n", "function more\nend\n", "", "", "# ",
         "echo \"", "begin; "},
        {"lua", "lua/stars/init.lua", "function M.good() end\n", "function M.more() end\n", "local M = {}\n",
         "\nreturn M\n", "-- ", "x = [==[", "do "},
        {"python", "python/stars/__init__.py", "def good():\n    pass\n", "def more():\n    pass\n", "", "", "# ",
         "x = \"\"\"", "["},
        {"perl", "perl/Stars/lib/Stars.pm", "sub good { 1 }\n", "sub more { 1 }\n", "package Stars;\n", "\n1;\n",
         "# ", "my $x = qq{", "{ "},
        {"tcl", "tcl/stars/stars.tcl", "proc ::stars::good {} {}\n", "proc ::stars::more {} {}\n", "", "", "# ",
         "set x \"", "if 1 { "},
        {"guile", "guile/stars/lib/stars.scm", "(define (good) 1)\n", "(define (more) 1)\n", "", "", ";; ",
         "(define x \"", "("},
    };
    return all;
}

/// A workspace with one module of the host; what is in it is written over.
void lay_out(const Driver& driver, const Language& language) {
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    const std::string name = language.host == "perl" ? "Stars" : "stars";
    REQUIRE(driver.envar({"scaffold", name, "--host", language.host}, "w").status == 0);
}

/// The names that were found, in order; every run of the program must end soon and leave a whole document.
std::vector<std::string> found(const Driver& driver, const std::string& what) {
    const auto start = std::chrono::steady_clock::now();
    const Run run = driver.envar({"members", "--quiet"}, "w");
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
    CHECK_MESSAGE((run.status == 0 || run.status == 1), what, run.errors);
    CHECK_MESSAGE(took.count() < 20, what);
    const std::string result = driver.read("w/envar-results/members.json");
    REQUIRE_MESSAGE(json::accept(result), what, result.substr(0, 400));
    std::vector<std::string> names;
    const json members = json::parse(result)["modules"][0]["members"];
    for (const auto& member : members)
        if (!member["found"].is_null() && member["found"] != false) names.push_back(member["name"]);
    return names;
}

bool has(const std::vector<std::string>& names, const std::string& name) {
    return std::find(names.begin(), names.end(), name) != names.end();
}

std::string many(const std::string& text, std::size_t times) {
    std::string out;
    out.reserve(text.size() * times);
    for (std::size_t i = 0; i < times; ++i) out += text;
    return out;
}

}  // namespace

TEST_CASE("damaged and hostile sources of every language") {
    for (const Language& language : languages()) {
        CAPTURE(language.host);
        const Driver driver;
        lay_out(driver, language);
        const std::string file = "w/" + language.file;
        REQUIRE_MESSAGE(driver.has(file), language.file);
        struct Case {
            std::string what, damage;
            bool more = false;  // what stands behind it is found too
        };
        const std::vector<Case> cases = {
            {"a long comment", language.comment + std::string(3'000'000, 'x') + "\n", true},
            {"many comments", many(language.comment + "x\n", 100'000), true},
            {"carriage returns", language.comment + "x\r\n\r\n\r\n", true},
            {"no character of any encoding", language.comment + "\xFF\xFE\xC3\x28\xE2\x28\xA1\n", true},
            {"latin letters", language.comment + "Sp\xE4t\n", true},
            {"empty lines", std::string(200'000, '\n'), true},
            {"blanks", std::string(500'000, ' ') + "\n", true},
            {"a zero byte", std::string("\0\n", 2), false},
            {"an open quote", language.open_quote + many("good() { (((\n", 2000), false},
            {"open blocks", many(language.open_block, 50'000) + "\n", false},
            {"closing marks", many(") ] } end fi done esac ", 20'000) + "\n", false},
            {"quotes in a row", many("\"'`", 50'000) + "\n", false},
            {"dollars and brackets", many("$(${`\\", 30'000) + "\n", false},
            {"announced documents", many("<<EOF <<-'X' ", 20'000) + "\n", false},
            {"long brackets", many("[==[--[[#|/*", 20'000) + "\n", false},
            {"names of a table", many("local a = M\nlocal b = a\nlocal M = setmetatable({\n", 30'000), false},
            {"namespaces in each other", many("namespace eval aaaaaaaa { proc x {} {}\n", 30'000), false},
            {"heads without bodies", many(language.good.substr(0, language.good.size() / 2), 20'000) + "\n", false},
            {"bytes",
             [] {
                 std::string bytes;
                 for (int i = 0; i < 60'000; ++i) bytes += static_cast<char>((i * 7919 + i / 251) % 256);
                 return bytes;
             }(),
             false},
        };
        for (const Case& one : cases) {
            driver.write(file, language.head + language.good + one.damage + language.more + language.tail);
            const auto names = found(driver, one.what);
            // Lua tells the table of members at its end, Perl and Guile what they export: damage may take that away.
            if (one.more || (language.tail.empty() && language.host != "guile"))
                CHECK_MESSAGE(has(names, "good"), one.what);
            if (one.more) CHECK_MESSAGE(has(names, "more"), one.what);
        }
    }
}

TEST_CASE("entry files that are none") {
    const Driver driver;
    const Language& language = languages()[0];
    lay_out(driver, language);
    const std::filesystem::path file = driver / ("w/" + language.file);
    std::filesystem::remove(file);
    CHECK(found(driver, "nothing there").empty());
    std::filesystem::create_directory(file);
    CHECK(found(driver, "a folder").empty());
    std::filesystem::remove(file);
    std::filesystem::create_symlink(file, file);
    CHECK(found(driver, "a link to itself").empty());
    std::filesystem::remove(file);
    std::filesystem::create_symlink("/dev/zero", file);
    CHECK(found(driver, "a device").empty());
    std::filesystem::remove(file);
    REQUIRE(driver.program({"mkfifo", file.string()}).status == 0);
    CHECK(found(driver, "a pipe that nobody writes to").empty());
    std::filesystem::remove(file);
    driver.write("w/" + language.file, language.good + std::string(17U << 20U, '\n') + language.more);
    CHECK(found(driver, "larger than sources are").empty());
}

TEST_CASE("a source that changes while it is read") {
    const Driver driver;
    const Language& language = languages()[3];
    lay_out(driver, language);
    const std::string file = "w/" + language.file;
    const std::string small = language.head + language.good + language.tail;
    const std::string large = language.head + language.good + many("function M.filler() return 'x' end\n", 20'000) +
                              language.more + language.tail;
    std::atomic<bool> stop{false};
    // Written over in place, cut off and made longer again: what is read may be a part of either.
    std::thread writer([&] {
        for (int i = 0; !stop; ++i) driver.write(file, i % 2 == 0 ? large : small);
    });
    for (int i = 0; i < 25; ++i)
        for (const auto& name : found(driver, "while it changes"))
            CHECK_MESSAGE((name == "good" || name == "more" || name == "filler"), name);
    stop = true;
    writer.join();
    driver.write(file, small);
    CHECK(fmt::format("{}", fmt::join(found(driver, "when it is at rest"), " ")) == "good");
}
