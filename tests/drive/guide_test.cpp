// The guides in docs/: their commands are run in order, and what comes is what they say.
#include <doctest/doctest.h>

#include <filesystem>
#include <sstream>

#include "core/text/diff.hpp"
#include "tests/support/driver.hpp"

using namespace envar::tests;

namespace {

struct Block {
    std::string commands;
    std::string expected;
    bool has_expected = false;
    std::size_t line = 0;
};

/// The fenced blocks of a guide: `sh` holds commands, a `text` behind it what they print.
std::vector<Block> blocks_of(const std::string& text) {
    std::vector<Block> blocks;
    std::istringstream lines(text);
    std::string* into = nullptr;
    std::size_t number = 0;
    for (std::string line; std::getline(lines, line);) {
        ++number;
        if (line == "```sh") {
            blocks.push_back({"", "", false, number});
            into = &blocks.back().commands;
        } else if (line == "```text") {
            blocks.back().has_expected = true;
            into = &blocks.back().expected;
        } else if (line.rfind("```", 0) == 0) {
            into = nullptr;
        } else if (into != nullptr) {
            *into += line + "\n";
        }
    }
    return blocks;
}

}  // namespace

TEST_CASE("the guide to a host of one's own does as it says") {
    const Driver driver;
    const auto blocks = blocks_of(driver.read(ENVAR_SOURCE_FOLDER "/docs/own-host.md"));
    CHECK(blocks.size() >= 9);
    std::size_t with_expectation = 0;
    // One shell runs them all, so that folders and variables stay; marks tell where one block ends.
    std::string script = "set -e\nPATH=" + std::filesystem::path(ENVAR_PROGRAM).parent_path().string() + ":$PATH\n";
    for (const Block& block : blocks) script += block.commands + "printf '\\n\\1%s\\n' \"$?\"\n";
    driver.write("script", script);
    const Run run = driver.program({"bash", "--norc", "script"});
    std::size_t at = 0;
    for (const Block& block : blocks) {
        CAPTURE(block.line);
        const std::size_t end = run.output.find("\n\1", at);
        REQUIRE_MESSAGE(end != std::string::npos, run.output.substr(std::min(at, run.output.size())) << run.errors);
        const std::string got = run.output.substr(at, end - at);
        at = run.output.find('\n', end + 1) + 1;
        if (!block.has_expected) continue;
        ++with_expectation;
        CHECK_MESSAGE(got == block.expected, envar::text::unified_diff(block.expected, got, "guide", "what came"));
    }
    CHECK(with_expectation >= 8);
}

TEST_CASE("the table of hosts in the README is the cards' own") {
    const Driver driver;
    const std::string page = driver.envar({"hosts", "--page"}).output;
    const std::string readme = driver.read(ENVAR_SOURCE_FOLDER "/README.md");
    const std::string begin = "<!-- hosts -->\n";
    const std::size_t at = readme.find(begin);
    REQUIRE(at != std::string::npos);
    const std::string table = readme.substr(at + begin.size(), readme.find("<!-- /hosts -->") - at - begin.size());
    CHECK_MESSAGE(table == page, "put what `envar hosts --page` prints between the two marks");
    CHECK(page.find("| zsh | minimal, library, nested, command |") != std::string::npos);
}
