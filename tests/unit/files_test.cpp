#include <doctest/doctest.h>
#include <sys/stat.h>

#include "core/files/digest.hpp"
#include "core/files/read.hpp"
#include "core/files/transaction.hpp"
#include "core/files/write.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;
using namespace envar::files;
using tests::Scratch;

namespace {

WorkspaceLock lock_of(const Scratch& scratch) {
    auto lock = WorkspaceLock::take(scratch.folder(), 0);
    REQUIRE(lock.has_value());
    return std::move(*lock);
}

Plan sample_plan(const Scratch& scratch) {
    Plan plan{scratch.folder(), {}};
    plan.add({scratch / "new/deep/file", std::nullopt, "new\n", ""});
    plan.add({scratch / "changed", "old\n", "changed\n", ""});
    plan.add({scratch / "gone", "gone\n", std::nullopt, ""});
    return plan;
}

void sample_files(const Scratch& scratch) {
    scratch.write("changed", "old\n");
    scratch.write("gone", "gone\n");
    scratch.write("other", "other\n");
}

}  // namespace

TEST_CASE("a plan is carried out whole and taken back whole") {
    const Scratch scratch;
    sample_files(scratch);
    const auto bits = [&](std::string_view name) {
        struct stat status = {};
        ::stat((scratch / name).c_str(), &status);
        return status.st_mode & 0777;
    };
    for (const std::string_view name : {"changed", "gone"}) ::chmod((scratch / name).c_str(), 0750);
    const auto before = scratch.tree();
    const auto lock = lock_of(scratch);
    REQUIRE(apply(sample_plan(scratch), {"test", "now"}, lock).has_value());
    CHECK(scratch.tree() == std::map<std::string, std::string>{
                                {"changed", "changed\n"}, {"new/deep/file", "new\n"}, {"other", "other\n"}});
    CHECK(bits("changed") == 0750);
    CHECK(history(scratch.folder()).size() == 1);
    REQUIRE(undo(scratch.folder(), lock).has_value());
    CHECK(scratch.tree() == before);
    for (const std::string_view name : {"changed", "gone"}) CHECK_MESSAGE(bits(name) == 0750, name);
    CHECK_FALSE(scratch.has("new"));
    CHECK(history(scratch.folder())[0].undone);
    CHECK_FALSE(undo(scratch.folder(), lock).has_value());
}

TEST_CASE("changes are taken back newest first") {
    const Scratch scratch;
    const auto lock = lock_of(scratch);
    for (const std::string text : {"one", "two", "three"}) {
        Plan plan{scratch.folder(), {}};
        plan.add({scratch / "f", scratch.has("f") ? std::optional(scratch.read("f")) : std::nullopt, text, ""});
        REQUIRE(apply(plan, {text, "now"}, lock).has_value());
    }
    for (const std::string text : {"two", "one"}) {
        REQUIRE(undo(scratch.folder(), lock).has_value());
        CHECK(scratch.read("f") == text);
    }
    REQUIRE(undo(scratch.folder(), lock).has_value());
    CHECK_FALSE(scratch.has("f"));
}

TEST_CASE("nothing is written over what the plan did not know of") {
    const Scratch scratch;
    sample_files(scratch);
    const auto lock = lock_of(scratch);
    struct Row {
        std::string file, content;
    };
    for (const Row& row : {Row{"new/deep/file", "the user's"}, {"changed", "meanwhile"}, {"gone", "meanwhile"}}) {
        CAPTURE(row.file);
        const Scratch fresh;
        sample_files(fresh);
        fresh.write(row.file, row.content);
        const auto before = fresh.tree();
        const auto own = lock_of(fresh);
        CHECK_FALSE(apply(sample_plan(fresh), {"test", "now"}, own).has_value());
        CHECK(fresh.tree() == before);
    }
    REQUIRE(apply(sample_plan(scratch), {"test", "now"}, lock).has_value());
    scratch.write("changed", "the user's");
    const auto refused = undo(scratch.folder(), lock);
    CHECK_FALSE(refused.has_value());
    CHECK(refused.error().kind == text::FailureKind::answer_is_no);
    CHECK(scratch.read("changed") == "the user's");
}

TEST_CASE("links do not lead a write out of the workspace") {
    const Scratch outside;
    outside.write("target", "theirs\n");
    const Scratch scratch;
    std::filesystem::create_symlink(outside / "target", scratch / "link");
    std::filesystem::create_directory_symlink(outside.folder(), scratch / "folder");
    scratch.write("real", "mine\n");
    std::filesystem::create_symlink("real", scratch / "inner");
    const auto lock = lock_of(scratch);
    Plan plan{scratch.folder(), {}};
    plan.add({scratch / "link", "theirs\n", "changed\n", ""});
    CHECK_FALSE(apply(plan, {"t", "n"}, lock).has_value());
    plan.changes = {{scratch / "folder/new", std::nullopt, "x", ""}};
    CHECK_FALSE(apply(plan, {"t", "n"}, lock).has_value());
    plan.changes = {{scratch / "inner", "mine\n", "changed\n", ""}};
    CHECK(apply(plan, {"t", "n"}, lock).has_value());
    CHECK(outside.tree() == std::map<std::string, std::string>{{"target", "theirs\n"}});
    CHECK(link_target(scratch / "inner") == "real");
    CHECK(scratch.read("real") == "changed\n");
}

TEST_CASE("a second holder of the lock is turned away") {
    const Scratch scratch;
    const auto lock = lock_of(scratch);
    const auto second = WorkspaceLock::take(scratch.folder(), 0);
    CHECK_FALSE(second.has_value());
    CHECK(second.error().kind == text::FailureKind::machine_failed);
}

TEST_CASE("hostile journals do no harm") {
    for (const std::string record :
         {"", "{", "[]", "{\"changes\": 3}", R"({"changes":[{"path":"../../etc/passwd","before":"","after":"x"}]})",
          R"({"changes":[{"path":"/etc/passwd","before":"x","after":""}]})",
          R"({"command":"c","changes":[{"path":"f"}]})"}) {
        CAPTURE(record);
        const Scratch scratch;
        scratch.write("f", "mine");
        scratch.write(".envar/journal/00000001.open/record.json", record);
        scratch.write(".envar/journal/00000000x/record.json", record);
        const auto lock = lock_of(scratch);
        CHECK(scratch.read("f") == "mine");
        CHECK_FALSE(needs_recovery(scratch.folder()));
    }
}

TEST_CASE("paths that leave are told from those that stay") {
    for (const std::string inside : {"a", "a/b", "./a", "a/../b", "a//b", "a/./b", "..a", "a.."}) {
        CAPTURE(inside);
        CHECK(stays_inside(inside));
    }
    for (const std::string& outside :
         {std::string(), std::string("/"), std::string("/a"), std::string(".."), std::string("../a"),
          std::string("a/../.."), std::string("a/../../b"), std::string("a\0b", 3)}) {
        CAPTURE(outside);
        CHECK_FALSE(stays_inside(outside));
    }
}

TEST_CASE("reading has limits and never hangs") {
    const Scratch scratch;
    scratch.write("small", "12345");
    CHECK(*read_file(scratch / "small", 5) == "12345");
    CHECK(read_file(scratch / "small", 4).error().problem == ReadProblem::too_large);
    CHECK(read_file(scratch / "none", 4).error().problem == ReadProblem::missing);
    CHECK(read_file(scratch.folder(), 4).error().problem == ReadProblem::unreadable);
    ::mkfifo((scratch / "fifo").c_str(), 0600);
    CHECK(read_file(scratch / "fifo", 4).error().problem == ReadProblem::unreadable);
    CHECK(read_file("/dev/zero", 4).error().problem == ReadProblem::unreadable);
    CHECK(sha256("abc") == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}

TEST_CASE("what a file holds is told apart to its last byte") {
    const Scratch scratch;
    const std::string large(600'000, 'x');  // several pieces
    std::string other = large;
    other.back() = 'y';
    for (const std::string& content : {std::string(), std::string("12345"), large}) {
        scratch.write("file", content);
        CHECK(holds(scratch / "file", content));
        CHECK(!holds(scratch / "file", content + "6"));
        CHECK(!holds(scratch / "file", "1234x"));
        CHECK(!holds(scratch / "file", other));
    }
    CHECK(!holds(scratch / "none", ""));
    CHECK(!holds(scratch.folder(), ""));
}
