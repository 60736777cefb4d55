#include <doctest/doctest.h>

#include <chrono>

#include "core/process/run.hpp"
#include "core/trial/report.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;
using namespace envar::process;

namespace {

Outcome shell(const std::string& script, double seconds = 5, std::size_t limit = 1000) {
    const tests::Scratch scratch;
    auto outcome = run({{"/bin/sh", "-c", script},
                        scratch.folder(),
                        {{"GREETING", "hello"}, {"PATH", "/usr/bin:/bin"}},
                        seconds,
                        limit});
    REQUIRE(outcome.has_value());
    return *outcome;
}

}  // namespace

TEST_CASE("a program gets just its environment, and its streams and status come back") {
    const Outcome outcome = shell("printf '%s' \"$GREETING\"; env | wc -l >&2; exit 7");
    CHECK(outcome.output == "hello");
    CHECK(std::stoi(outcome.errors) <= 4);  // sh itself adds PWD and the like
    CHECK(outcome.exit_status == 7);
    CHECK_FALSE(outcome.timed_out);
    CHECK(shell("kill -9 $$").exit_status == 137);
    CHECK(shell("cat").output.empty());  // no standard input to wait for
}

TEST_CASE("a program that hangs, floods or leaves children behind is bounded") {
    const auto start = std::chrono::steady_clock::now();
    CHECK(shell("sleep 30", 0.3).timed_out);
    CHECK(shell("trap '' TERM; while :; do :; done", 0.3).timed_out);
    CHECK(shell("sleep 30 & sleep 30", 0.3).timed_out);
    const Outcome flood = shell("yes | head -c 5000000; yes x | head -c 5000000 >&2");
    CHECK(flood.output.size() == 1000);
    CHECK(flood.errors.size() == 1000);
    CHECK(flood.output_cut);
    CHECK(flood.exit_status == 0);
    CHECK(std::chrono::steady_clock::now() - start < std::chrono::seconds(20));
}

TEST_CASE("programs are found in order, and only such that can be run") {
    const tests::Scratch scratch;
    scratch.write("a/tool", "");
    scratch.write("b/tool", "");
    std::filesystem::permissions(scratch / "b/tool", std::filesystem::perms::owner_all);
    const std::string path = (scratch / "a").string() + ":relative::" + (scratch / "b").string();
    CHECK(find_program({"none", "tool"}, path) == scratch / "b/tool");
    CHECK_FALSE(find_program({"none"}, path).has_value());
    CHECK_FALSE(run({{"/nonexistent/program"}, "/", {}, 1}).has_value());
    CHECK_FALSE(run({{"/bin/true"}, "/nonexistent/folder", {}, 1}).has_value());
}

TEST_CASE("reports are read record by record") {
    const auto records = trial::read_report(
        "begin\x1f"
        "a\x1e\nloaded\x1f"
        "a\x1f/x\ny\x1e\ncut\x1foff");
    REQUIRE(records.size() == 2);
    CHECK(records[0] == trial::Record{"begin", "a"});
    CHECK(records[1] == trial::Record{"loaded", "a", "/x\ny"});
    CHECK(trial::read_report("").empty());
    CHECK(trial::read_report("no end").empty());
}
