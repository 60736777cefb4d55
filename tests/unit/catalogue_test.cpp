// Reading catalogues: what is wrong in a line is told with its place and takes nothing with it; the threads make no
// difference.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <random>

#include "core/model/catalogue.hpp"
#include "tests/support/random_universe.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;

namespace {

struct Read {
    model::ModuleTable table;
    std::vector<text::Finding> findings;
};

Read read(const tests::Scratch& scratch, const std::string& text, unsigned jobs = 1) {
    scratch.write("c.jsonl", text);
    Read out;
    auto findings = model::read_catalogue(scratch / "c.jsonl", "c.jsonl", nullptr, jobs, out.table);
    REQUIRE(findings.has_value());
    out.findings = std::move(*findings);
    return out;
}

/// Everything that a table holds, row by row.
std::string shown(const model::ModuleTable& table) {
    std::string out;
    const auto range = [&](model::Id id) { return table.requirement(id).text; };
    for (const model::Row& row : table.rows) {
        out += fmt::format("{}:{} {} {}", row.line, table.names.text(row.module), table.version_text(row.version),
                           row.withdrawn ? "withdrawn " : "");
        for (std::uint32_t i = row.first_need; i < row.first_need + row.needs; ++i)
            out += fmt::format("[{} {}{}]", table.names.text(table.needs[i].module),
                               range(table.needs[i].requirement), table.needs[i].optional ? "?" : "");
        for (std::uint32_t i = row.first_bar; i < row.first_bar + row.bars; ++i)
            out += fmt::format("[!{} {}]", table.names.text(table.bars[i].module), range(table.bars[i].requirement));
        for (std::uint32_t i = row.first_offer; i < row.first_offer + row.offers; ++i)
            out += fmt::format("[^{}]", table.names.text(table.offers[i].module));
        out += '\n';
    }
    return out;
}

}  // namespace

TEST_CASE("bad lines are told with their place, and the rest is used") {
    const tests::Scratch scratch;
    for (const auto& [line, message] : std::vector<std::pair<std::string, std::string>>{
             {"not json", "the line is no whole JSON object"},
             {"[]", "the line is no whole JSON object"},
             {R"({"module":"x","version":"1.0.0")", "the line is no whole JSON object"},
             {R"({"module":"x","version":"1.0.0"} {})", "the line is no whole JSON object"},
             {R"({"module":"x","version":"1.0.0","dependencies":[{"module":"y")", "the line is no whole JSON object"},
             {"{\"module\":\"\xFF\",\"version\":\"1.0.0\"}", "the line is no whole JSON object"},
             {R"({"module":7,"version":"1.0.0"})", "`module` must be text"},
             {R"({"version":"1.0.0"})", "the line names no `module`"},
             {R"({"module":"","version":"1.0.0"})", "the line names no `module`"},
             {R"({"module":"x"})", "the line tells no `version` of x"},
             {R"({"module":"x","version":"1.0"})", "`1.0` is no version of x"},
             {R"({"module":"x","version":"v1"})", "`v1` is no version of x"},
             {R"({"module":"x","version":"1.0.0","withdrawn":"yes"})", "`withdrawn` must be true or false"},
             {R"({"module":"x","version":"1.0.0","dependencies":{}})", "`dependencies` must be a list"},
             {R"({"module":"x","version":"1.0.0","dependencies":[3]})", "`dependencies` must be a list of objects"},
             {R"({"module":"x","version":"1.0.0","dependencies":[{"versions":"any"}]})",
              "a dependency names no `module`"},
             {R"({"module":"x","version":"1.0.0","dependencies":[{"module":"y","versions":"=>1"}]})",
              "`=>1` is no requirement on y"},
             {R"({"module":"x","version":"1.0.0","dependencies":[{"module":"y","stage":"run"}]})",
              "`stage` is load, build or test, not `run`"},
             {R"({"module":"x","version":"1.0.0","dependencies":[{"module":"y","visibility":"hidden"}]})",
              "`visibility` is public or private"},
             {R"({"module":"x","version":"1.0.0","conflicts":[{"versions":"any"}]})", "a conflict names no `module`"},
             {R"({"module":"x","version":"1.0.0","provides":[{"module":"y","version":"one"}]})",
              "`one` is no version of y"},
             {R"({"module":"x","version":"1.0.0","sha256":"12"})", "`sha256` must be 64 hexadecimal digits"},
             {std::string(100000, '['), "the line is no whole JSON object"}}) {
        const std::string beginning = line.substr(0, 100);
        CAPTURE(beginning);
        const auto out =
            read(scratch, R"({"module":"a","version":"1.0.0"})"
                          "\n" +
                              line + "\n\n" + R"({"module":"b","version":"2.0.0","dependencies":[{"module":"a"}]})");
        CHECK(shown(out.table) == "1:a 1.0.0 \n4:b 2.0.0 [a any]\n");
        REQUIRE(out.findings.size() == 1);
        CHECK(out.findings[0].position.line == 2);
        CHECK(out.findings[0].code == "EV914");
        CHECK_MESSAGE(out.findings[0].message.rfind(message, 0) == 0, out.findings[0].message);
    }
}

TEST_CASE("unknown keys are told, and the line counts all the same") {
    const tests::Scratch scratch;
    const auto out =
        read(scratch, R"({"module":"a","version":"1.0.0","dependancies":[],"archive":"a.tar.gz"})"
                      "\n"
                      R"({"module":"b","version":"1.0.0","dependencies":[{"module":"a","range":"<1"}]})");
    CHECK(shown(out.table) == "1:a 1.0.0 \n2:b 1.0.0 [a any]\n");
    REQUIRE(out.findings.size() == 2);
    CHECK(out.findings[0].code == "EV917");
    CHECK(out.findings[1].message == "`range` is no key of a dependency");
}

TEST_CASE("a flood of slips is counted, not told in full") {
    const tests::Scratch scratch;
    std::string text;
    for (int i = 0; i < 500; ++i) text += "{\n";
    const auto out = read(scratch, text);
    REQUIRE(out.findings.size() == 21);
    CHECK(out.findings.back().message.rfind("480 more", 0) == 0);
}

TEST_CASE("the threads make no difference, wherever the parts begin") {
    const tests::Scratch scratch;
    testing::UniverseShape shape;
    shape.modules = 3000;
    shape.versions = 20;
    shape.conflicts = 10;
    std::string text = testing::RandomUniverse(shape, 3).catalogue();
    text.insert(text.find('\n', text.size() / 2) + 1, "nonsense\n" + std::string(70000, ' ') + "\n");
    const auto one = read(scratch, text, 1);
    REQUIRE(one.table.rows.size() > 20000);
    for (const unsigned jobs : {2U, 3U, 7U}) {
        const auto more = read(scratch, text, jobs);
        CHECK(shown(more.table) == shown(one.table));
        REQUIRE(more.findings.size() == 1);
        CHECK(more.findings[0].position.line == one.findings[0].position.line);
    }
    CHECK(read(scratch, "").table.rows.empty());
    CHECK(read(scratch,
               "\xEF\xBB\xBF"
               R"({"module":"a","version":"1.0.0"})")
              .table.rows.size() == 1);
    CHECK_FALSE(
        model::read_catalogue(scratch / "nobody.jsonl", "nobody", nullptr, 1, *std::make_unique<model::ModuleTable>())
            .has_value());
}
