// Golden folders: each case under tests/golden/ is a series of steps on a workspace, and expected.txt is what
// a user would read. With ENVAR_GOLDEN_UPDATE=1 in the environment the expectations are written anew; read
// the difference before you keep it.
#include <doctest/doctest.h>

#include <cstdlib>
#include <fstream>
#include <map>

#include "core/files/read.hpp"
#include "core/model/document.hpp"
#include "tests/support/driver.hpp"

using namespace envar;
using namespace envar::tests;
using model::Node;

namespace {

const std::filesystem::path golden = ENVAR_SOURCE_FOLDER "/tests/golden";

std::string text_of(const Node& step, const char* key) {
    const Node* node = step.find(key);
    return node == nullptr ? "" : node->text;
}

/// One step of a case: `write` (path → content), `replace` ([path, from, to]), `remove` (path), `run`
/// (arguments) with `exit`, `show` (paths whose content is to be shown).
class Case {
  public:
    explicit Case(const std::filesystem::path& folder) {
        const auto content = files::read_file(folder / "case.toml", 1U << 20U);
        REQUIRE_MESSAGE(content.has_value(), "no case.toml in " << folder);
        document_ = model::parse_document(text::Source("case.toml", *content));
        REQUIRE_MESSAGE(document_.valid, document_.findings.front().message << " in " << folder);
        const std::string start = text_of(document_.root, "start");
        if (start == "demo") driver_.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "w");
        if (start != "demo") driver_.write("w/.keep", "");
        if (start != "demo") driver_.remove("w/.keep");
    }

    std::string play() {
        for (const Node& step : document_.root.find("step")->items) take(step);
        return driver_.neutral(std::move(log_));
    }

  private:
    void take(const Node& step) {
        if (const Node* write = step.find("write"))
            for (const auto& entry : write->entries) driver_.write("w/" + entry.key, entry.value.text);
        if (const Node* replace = step.find("replace")) {
            const std::string file = "w/" + replace->items.at(0).text;
            std::string text = driver_.read(file);
            const std::size_t at = text.find(replace->items.at(1).text);
            REQUIRE_MESSAGE(at != std::string::npos, file << " does not hold what is to be replaced");
            driver_.write(file, text.replace(at, replace->items.at(1).text.size(), replace->items.at(2).text));
        }
        if (step.find("remove") != nullptr) driver_.remove("w/" + text_of(step, "remove"));
        if (step.find("run") != nullptr) run(step);
        if (const Node* show = step.find("show"))
            for (const Node& path : show->items)
                log_ += "--- " + path.text +
                        (driver_.has("w/" + path.text) ? "\n" + driver_.read("w/" + path.text) : " is not there\n");
    }

    void run(const Node& step) {
        std::vector<std::string> arguments;
        log_ += "$ envar";
        for (const Node& item : step.find("run")->items) {
            arguments.push_back(item.text);
            log_ += item.text.find(' ') == std::string::npos && !item.text.empty() ? " " + item.text
                                                                                   : " '" + item.text + "'";
        }
        process::Environment variables;
        if (const Node* set = step.find("set"))
            for (const auto& entry : set->entries) variables[entry.key] = entry.value.text;
        const Run run = driver_.envar_with(variables, arguments, "w");
        log_ += "\n" + run.output + run.errors;
        const Node* exit = step.find("exit");
        const std::int64_t expected = exit == nullptr ? 0 : exit->integer;
        CHECK_MESSAGE(run.status == expected, log_);
        if (run.status != 0) log_ += "[exit " + std::to_string(run.status) + "]\n";
        log_ += "\n";
    }

    Driver driver_;
    model::Document document_;
    std::string log_;
};

}  // namespace

TEST_CASE("golden folders") {
    const bool update = std::getenv("ENVAR_GOLDEN_UPDATE") != nullptr;
    const auto names = files::list_folder(golden);
    CHECK(names.size() >= 10);
    for (const auto& name : names) {
        CAPTURE(name);
        const std::string log = Case(golden / name).play();
        if (update) std::ofstream(golden / name / "expected.txt", std::ios::binary) << log;
        const auto expected = files::read_file(golden / name / "expected.txt", 1U << 20U);
        REQUIRE(expected.has_value());
        if (log == *expected) continue;
        std::ofstream("/tmp/envar-golden-" + name + ".txt", std::ios::binary) << log;
        CHECK_MESSAGE(false, "differs from tests/golden/" << name << "/expected.txt; what came: /tmp/envar-golden-"
                                                          << name << ".txt");
    }
}
