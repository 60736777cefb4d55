// Two judges of the same documents: Envar, and a JSON Schema validator that is not ours with the schemas that
// Envar writes. Where Envar is stricter the table says why.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "core/files/read.hpp"
#include "core/model/fields.hpp"
#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

struct Case {
    std::string verdict;  // "good", "bad", "stricter"
    std::string name;
    std::string text;
};

std::vector<Case> read_cases(const std::string& document, const std::string& usual_head) {
    std::vector<Case> cases;
    const std::string all = envar::files::read_or_fail(
                                fmt::format("{}/tests/documents/{}.cases", ENVAR_SOURCE_FOLDER, document), 1U << 20U)
                                .value();
    std::size_t at = all.find("\n== ") + 1;
    while (at < all.size()) {
        const std::size_t line_end = all.find('\n', at);
        const std::size_t next = std::min(all.find("\n== ", line_end - 1), all.size() - 1) + 1;
        const std::string head = all.substr(at + 3, line_end - at - 3);
        const std::size_t colon = head.find(": ");
        std::string text = all.substr(line_end + 1, next > line_end ? next - line_end - 1 : 0);
        if (!text.empty() && text.front() == '+') text.replace(0, 1, usual_head);
        cases.push_back({head.substr(0, colon), head.substr(colon + 2), text});
        at = next;
    }
    return cases;
}

/// Whether the finding is about the document by itself, and not about what lies around it.
bool is_about_the_document(const std::string& code) {
    static const std::set<std::string> others = {"EV204", "EV801"};
    return code.rfind("EV1", 0) == 0 || others.count(code) == 1;
}

/// What `check` in the folder finds in the documents, by file.
std::map<std::string, std::string> findings_in(const Driver& driver, const std::string& folder) {
    const Run run = driver.envar({"check", "--format", "json"}, folder);
    const json result = json::parse(run.output, nullptr, false);
    REQUIRE(result.is_object());
    std::map<std::string, std::string> out;
    for (const auto& f : result["findings"])
        if (is_about_the_document(f["code"]))
            out[f["file"]] += f["code"].get<std::string>() + " " + f["message"].get<std::string>() + "; ";
    return out;
}

/// The other judge's verdict on each file, by name.
std::map<std::string, std::string> judged_by_schema(const Driver& driver, const std::string& document,
                                                    const std::vector<std::string>& files) {
    driver.write("schema.json", driver.envar({"schema", document}).output);
    std::vector<std::string> command = {"/usr/bin/python3", ENVAR_SOURCE_FOLDER "/tests/documents/validate.py",
                                        (driver / "schema.json").string()};
    command.insert(command.end(), files.begin(), files.end());
    const Run run = driver.program(command);
    REQUIRE_MESSAGE(run.status == 0, run.errors);
    std::map<std::string, std::string> verdicts;
    for (std::size_t at = 0; at < run.output.size();) {
        const std::size_t end = run.output.find('\n', at);
        const std::string line = run.output.substr(at, end - at);
        const std::size_t blank = line.find(' ');
        const std::size_t colon = std::min(line.find(": ", blank), line.size());
        verdicts[line.substr(blank + 1, colon - blank - 1)] = line;
        at = end + 1;
    }
    return verdicts;
}

}  // namespace

TEST_CASE("Envar and a JSON Schema validator agree on good and bad documents") {
    struct Kind {
        std::string document;
        std::string head;
        std::string file;
    };
    const std::vector<Kind> kinds = {
        {"module", "[module]\nname = \"m\"\nversion = \"1.0.0\"\nhost = \"lua\"\n", "m/module.envar.toml"},
        {"workspace", "[workspace]\nname = \"w\"\n", "workspace.envar.toml"},
        {"card", "[host]\nname = \"x\"\nkind = \"script\"\nsummary = \"s\"\n", "hosts/x.host.toml"}};
    std::map<std::string, std::size_t> counts;
    for (const Kind& kind : kinds) {
        const Driver driver;
        const auto cases = read_cases(kind.document, kind.head);
        std::vector<std::string> files;
        for (std::size_t i = 0; i < cases.size(); ++i) {
            const std::string folder = fmt::format("c{}", i);
            if (kind.document != "workspace")
                driver.write(folder + "/workspace.envar.toml", "[workspace]\nname = \"w\"\n");
            driver.write(folder + "/shared-modules.jsonl", "");  // that a document names
            driver.write(fmt::format("{}/{}", folder, kind.file), cases[i].text);
            files.push_back((driver / folder / kind.file).string());
        }
        const auto verdicts = judged_by_schema(driver, kind.document, files);
        CHECK(verdicts.size() == cases.size());
        for (std::size_t i = 0; i < cases.size(); ++i) {
            const Case& one = cases[i];
            CAPTURE(kind.document);
            CAPTURE(one.name);
            ++counts[one.verdict];
            const auto found = findings_in(driver, fmt::format("c{}", i));
            const auto own = found.find(kind.file);
            const std::string& schema_verdict = verdicts.at(files[i]);
            CAPTURE(schema_verdict);
            CAPTURE((own == found.end() ? std::string("nothing found") : own->second));
            CHECK((own == found.end()) == (one.verdict == "good"));
            CHECK((schema_verdict.rfind("good", 0) == 0) == (one.verdict != "bad"));
        }
    }
    MESSAGE("good: " << counts["good"] << ", bad: " << counts["bad"]
                     << ", only Envar refuses: " << counts["stricter"]);
    CHECK(counts["good"] + counts["bad"] + counts["stricter"] > 120);
    CHECK(counts["bad"] > counts["good"]);
}

TEST_CASE("every document of the demo, the hosts and the docs is good for both judges") {
    const Driver driver;
    std::map<std::string, std::vector<std::string>> files;
    const auto add = [&](const std::filesystem::path& path) {
        const std::string name = path.filename().string();
        if (name == "module.envar.toml") files["module"].push_back(path.string());
        if (name == "workspace.envar.toml") files["workspace"].push_back(path.string());
        if (name.ends_with(".host.toml")) files["card"].push_back(path.string());
    };
    driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "demo");
    for (const auto& folder : {(driver / "demo").string(), std::string(ENVAR_SOURCE_FOLDER "/hosts")})
        for (const auto& entry : std::filesystem::recursive_directory_iterator(folder)) add(entry.path());
    // Documents in the pages: blocks marked as TOML that begin with a table of their own.
    for (const std::string page : {"/README.md", "/CONTRIBUTING.md"}) {
        const std::string text = envar::files::read_or_fail(ENVAR_SOURCE_FOLDER + page, 1U << 20U).value();
        for (std::size_t at = text.find("```toml\n"); at != std::string::npos; at = text.find("```toml\n", at + 1)) {
            const std::string body = text.substr(at + 8, text.find("\n```", at) - at - 7);
            const std::string kind = body.find("[module]") != std::string::npos ? "module" : "workspace";
            if (body.find("[module]") == std::string::npos && body.find("[workspace]") == std::string::npos) continue;
            const std::string name = fmt::format("pages/{}{}/{}.envar.toml", files[kind].size(), kind, kind);
            driver.write(name, body);
            files[kind].push_back((driver / name).string());
        }
    }
    // The examples of the reference page, all tables of a document together, and the catalogue that they name.
    driver.write("examples/shared-modules.jsonl", "");
    for (const auto& table : envar::model::field_tables()) {
        std::string all;
        for (const auto& field : *table.fields) all += fmt::format("{} = {}\n", field.key, field.example);
        const std::string document(table.document);
        const std::string name = document == "card"     ? "examples/hosts/x.host.toml"
                                 : document == "module" ? "examples/star_field/module.envar.toml"
                                                        : "examples/workspace.envar.toml";
        driver.write(name, all);
        files[document].push_back((driver / name).string());
    }
    CHECK(files["module"].size() >= 8);
    CHECK(files["card"].size() >= 2);
    for (const auto& [document, paths] : files)
        for (const auto& judged : judged_by_schema(driver, document, paths)) {
            const std::string& verdict = judged.second;
            CAPTURE(verdict);
            CHECK(verdict.rfind("good", 0) == 0);
        }
    // The demo has slips planted on purpose, but none that makes a document invalid by itself.
    for (const std::string folder : {"demo", "examples"})
        for (const auto& found : findings_in(driver, folder)) {
            CAPTURE(found.first);
            CAPTURE(found.second);
            CHECK(found.first.empty());
        }
}
