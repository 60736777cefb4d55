// Reading a whole workspace: which folders are modules, that threads change nothing, and that hostile texts are read
// as far as they go.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <random>
#include <string>
#include <vector>

#include "core/files/read.hpp"
#include "core/model/space.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;
using namespace envar::model;
using envar::tests::Scratch;

namespace {

std::string manifest(const std::string& name) {
    return fmt::format("[module]\nname = \"{}\"\nversion = \"1.0.0\"\nhost = \"lua\"\n", name);
}

/// "name in folder" of each module, and the code and place of each finding.
std::string told(const Space& space) {
    std::string out;
    for (const Module& module : space.modules) out += fmt::format("{} in {}\n", module.name(), module.shown_folder);
    for (const std::string& name : space.broken_names) out += fmt::format("broken {}\n", name);
    std::vector<text::Finding> findings = space.findings;
    text::sort_findings(findings);
    for (const text::Finding& f : findings) out += fmt::format("{}:{} {}\n", f.file, f.position.line, f.code);
    return out;
}

}  // namespace

TEST_CASE("modules are found at any depth, once, and nowhere else") {
    const Scratch scratch;
    scratch.write("workspace.envar.toml", "[workspace]\nname = \"w\"\n");
    scratch.write("a/module.envar.toml", manifest("a"));
    scratch.write("a/inner/deeper/b/module.envar.toml", manifest("b"));
    scratch.write(".hidden/module.envar.toml", manifest("hidden"));
    scratch.write("a/.envar/module.envar.toml", manifest("hidden"));
    scratch.write("envar-results/module.envar.toml", manifest("result"));
    scratch.write("c/Module.envar.toml", manifest("wrong_case"));
    scratch.write("broken/module.envar.toml", "[module\n");
    std::string deep;
    for (int i = 0; i < 30; ++i) deep += fmt::format("d{}/", i);
    scratch.write(deep + "module.envar.toml", manifest("too_deep"));
    // Links to folders lead there, but no folder is read twice, and a circle ends.
    std::filesystem::create_directory_symlink(scratch / "a", scratch / "z_link_to_a");
    std::filesystem::create_directory_symlink(scratch.folder(), scratch / "a/circle");
    std::filesystem::create_directory_symlink(scratch / "nowhere", scratch / "dangling");
    const auto space = load_space(scratch.folder(), {}, 2);
    REQUIRE(space.has_value());
    CHECK(told(*space) == "a in a\nb in a/inner/deeper/b\nbroken broken\nbroken/module.envar.toml:1 EV102\n");

    struct Row {
        std::string folders;
        std::string modules;
    };
    for (const Row& row : {Row{"[]", "a b"},
                           {"[\"a\"]", "a b"},
                           {"[\"a/\"]", "a b"},
                           {"[\"a/inner\"]", "b"},
                           {"[\"a\", \"a/inner\"]", "a b"},
                           {"[\"z_link_to_a\"]", "a b"},
                           {"[\"c\"]", ""},
                           {"[\"none\"]", ""},
                           {"[\"../\"]", ""}}) {
        CAPTURE(row.folders);
        scratch.write("workspace.envar.toml", "[workspace]\nname = \"w\"\nfolders = " + row.folders + "\n");
        const auto part = load_space(scratch.folder(), {}, 2);
        REQUIRE(part.has_value());
        std::string names;
        for (const Module& module : part->modules) names += (names.empty() ? "" : " ") + module.name();
        CHECK(names == row.modules);
    }
}

TEST_CASE("any number of threads reads the same") {
    const Scratch scratch;
    scratch.write("workspace.envar.toml", "[workspace]\nname = \"w\"\n");
    std::mt19937 random(31);
    for (int i = 0; i < 300; ++i) {
        const std::string name = fmt::format("m{}", random() % 200);
        std::string text = manifest(name);
        if (random() % 5 == 0) text += "sumary = 3\n";
        if (random() % 7 == 0) text += "[entry\n";
        scratch.write(fmt::format("f{}/g{}/{}/module.envar.toml", i % 7, i % 3, name), text);
    }
    const std::string one = told(load_space(scratch.folder(), {}, 1).value());
    CHECK(one.size() > 2000);
    for (const unsigned jobs : {2U, 3U, 8U}) CHECK(told(load_space(scratch.folder(), {}, jobs).value()) == one);
}

TEST_CASE("a text with slips is read as far as it goes, the same every time") {
    const std::string cases =
        files::read_or_fail(ENVAR_SOURCE_FOLDER "/tests/documents/module.cases", 1U << 20U).value();
    const std::size_t begin = cases.find("[module]", cases.find("== good: everything at once"));
    const std::string full = cases.substr(begin, cases.find("\n== ", begin) - begin + 1);
    std::vector<text::Finding> none;
    CHECK(read_manifest(parse_document(text::Source("m", full)), none).members.size() == 1);
    CHECK(none.empty());
    std::mt19937 random(37);
    std::size_t read_in_part = 0;
    for (int round = 0; round < 1500; ++round) {
        std::string text = full;
        for (auto slips = 1 + random() % 3; slips > 0; --slips) {
            const std::size_t at = random() % text.size();
            switch (random() % 3) {
                case 0:
                    text.erase(at, 1 + random() % 6);
                    break;
                case 1:
                    text.insert(at, 1, "[]{}\"'=#\n.,\\ax"[random() % 14]);
                    break;
                default:
                    text.insert(at, text.substr(random() % text.size(), random() % 50));
            }
        }
        CAPTURE(text);
        const Document document = parse_document(text::Source("m", text));
        CHECK(document.valid == document.findings.empty());
        CHECK((document.valid ? document.lost.empty() && document.readable : true));
        std::vector<text::Finding> findings;
        const Manifest manifest = read_manifest(document, findings);
        const auto lines = static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n')) + 1;
        for (const text::Finding& f : findings) {
            CHECK(f.position.line <= lines);
            CHECK(f.position.column + f.width <= f.excerpt.size() + 2);
            CHECK_FALSE(f.message.empty());
            CHECK_FALSE(f.hint.empty());
        }
        // One slip never takes all of it.
        if (!document.valid && document.readable && manifest.name.value == "m") ++read_in_part;
        std::vector<text::Finding> again;
        (void)read_manifest(parse_document(text::Source("m", text)), again);
        CHECK(again.size() == findings.size());
    }
    MESSAGE(read_in_part << " of 1500 texts had a syntax error and were read in part");
    CHECK(read_in_part > 500);
}
