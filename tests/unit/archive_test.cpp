// Archives that somebody else made: what is unpacked, and what is refused.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <random>
#include <string>
#include <vector>

#include "core/files/archive.hpp"
#include "core/files/read.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;
namespace fs = std::filesystem;

namespace {

struct Entry {
    std::string name, content;
    char type =
        '0';  // as the header has it: '0' a file, '1' a hard link, '2' a symbolic one, '5' a folder, '6' a pipe
    std::string link = {};
};

/// The entries as POSIX ustar, whatever they say.
std::string tar_of(const std::vector<Entry>& entries) {
    std::string out;
    for (const auto& one : entries) {
        std::string header(512, '\0');
        const auto put = [&](std::size_t at, const std::string& text) { header.replace(at, text.size(), text); };
        put(0, one.name);
        put(100, "0000644");
        put(108, "0000000");
        put(116, "0000000");
        put(124, fmt::format("{:011o}", one.content.size()));
        put(136, "00000000000");
        put(148, "        ");
        header[156] = one.type;
        put(157, one.link);
        put(257, std::string("ustar\00000", 8));
        unsigned sum = 0;
        for (const char c : header) sum += static_cast<unsigned char>(c);
        put(148, fmt::format("{:06o}", sum) + std::string("\0 ", 2));
        out += header + one.content + std::string((512 - one.content.size() % 512) % 512, '\0');
    }
    return out + std::string(1024, '\0');
}

/// What lies below a folder, as "path=content " sorted.
std::string contents(const fs::path& folder) {
    std::string out;
    std::vector<fs::path> paths;
    for (const auto& entry : fs::recursive_directory_iterator(folder)) paths.push_back(entry.path());
    std::sort(paths.begin(), paths.end());
    for (const auto& path : paths) {
        CHECK_FALSE(fs::is_symlink(path));
        if (fs::is_regular_file(path))
            out += path.lexically_relative(folder).string() + "=" + files::read_file(path, 1U << 20U).value_or("?") +
                   " ";
    }
    return out;
}

}  // namespace

TEST_CASE("archives are unpacked inside their folder, or not at all") {
    struct Row {
        std::vector<Entry> entries;
        std::string unpacked;  // what is there
        std::string refused;   // empty: it is fine
    };
    const std::string outside = "/tmp/envar-archive-test-outside";
    for (const Row& row : std::vector<Row>{
             {{{"a", "1"}, {"d/b", "2"}}, "a=1 d/b=2 ", ""},
             {{{"d", "", '5'}, {"d/b", "2"}}, "d/b=2 ", ""},
             {{{"./a", "1"}}, "a=1 ", ""},
             {{{"a", "1"}, {"a", "2"}}, "a=2 ", ""},
             {{{"../a", "1"}}, "", "leaves its folder"},
             {{{"d/../../a", "1"}}, "", "leaves its folder"},
             {{{outside, "1"}}, "", "leaves its folder"},
             {{{"link", "", '2', "/tmp"}, {"a", "1"}}, "a=1 ", ""},
             {{{"link", "", '2', "/tmp"}, {"link/envar-archive-test-outside", "1"}},
              "link/envar-archive-test-outside=1 ",
              ""},
             {{{"a", "1"}, {"b", "", '1', "/etc/passwd"}}, "a=1 ", ""},
             {{{"pipe", "", '6'}, {"a", "1"}}, "a=1 ", ""},
             {{}, "", ""},
         }) {
        CAPTURE(row.entries.empty() ? "" : row.entries[0].name);
        const tests::Scratch scratch;
        scratch.write("into/.keep", "");
        fs::remove(scratch / "into/.keep");
        scratch.write("x.tar", tar_of(row.entries));
        const auto done = files::unpack(scratch / "x.tar", scratch / "into");
        CHECK(done.has_value() == row.refused.empty());
        if (!done) CHECK_MESSAGE(done.error().message.find(row.refused) != std::string::npos, done.error().message);
        if (row.refused.empty()) CHECK(contents(scratch / "into") == row.unpacked);
        CHECK_FALSE(fs::exists(outside));
        CHECK_FALSE(fs::exists(scratch / "a"));
    }
}

TEST_CASE("broken archives of every filter are refused without harm") {
    std::mt19937 random(5);
    for (const auto& [filter, name] : std::vector<std::pair<std::string, std::string>>{
             {"", "x.tar"}, {"gzip -k", "x.tar.gz"}, {"xz -k", "x.tar.xz"}}) {
        const std::string& packed_as = name;
        CAPTURE(packed_as);
        const tests::Scratch scratch;
        std::string long_text;
        for (int i = 0; i < 3000; ++i) long_text += std::to_string(random());
        scratch.write("x.tar", tar_of({{"a", long_text}, {"d/b", "2"}}));
        if (!filter.empty()) REQUIRE(std::system((filter + " '" + (scratch / "x.tar").string() + "'").c_str()) == 0);
        CHECK(files::is_archive_name(name));
        scratch.write("whole/.keep", "");
        REQUIRE(files::unpack(scratch / name, scratch / "whole").has_value());
        CHECK(files::read_file(scratch / "whole/a", 1U << 20U).value_or("") == long_text);
        const std::string whole = *files::read_file(scratch / name, 1U << 20U);
        std::size_t refused = 0;
        for (int round = 0; round < 60; ++round) {
            std::string broken = whole.substr(0, 1 + random() % whole.size());
            for (int i = 0; i < 3; ++i) broken[random() % broken.size()] = static_cast<char>(random());
            scratch.write("broken", broken);
            scratch.write("into/.keep", "");
            refused += files::unpack(scratch / "broken", scratch / "into").has_value() ? 0 : 1;
        }
        CHECK(refused >= 30);
    }
    const tests::Scratch scratch;
    CHECK_FALSE(files::unpack(scratch / "absent.tar", scratch.folder()).has_value());
    CHECK_FALSE(files::unpack(scratch.folder(), scratch.folder()).has_value());
    for (const std::string name : {"x.zip", "tar", "x.tar.bz2", "x.targz"}) CHECK_FALSE(files::is_archive_name(name));
}
