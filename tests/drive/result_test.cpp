// The result files that others build on: their keys are a promise. And where Envar finds its own parts.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

json result(const Driver& driver, const std::string& name) {
    json value = json::parse(driver.read("w/envar-results/" + name + ".json"), nullptr, false);
    CHECK_MESSAGE(value.is_object(), name << ".json is no JSON object");
    return value;
}

/// Every key of `promised` is there with a value of the same kind; of a list, its first element stands for all.
void keeps_promise(const json& value, const json& promised, const std::string& where) {
    CAPTURE(where);
    if (promised.is_null()) return;
    CHECK(value.type_name() == std::string(promised.type_name()));
    if (promised.is_object())
        for (const auto& item : promised.items()) {
            const std::string& key = item.key();
            CHECK_MESSAGE(value.contains(key), "the key `" << key << "` is missing");
            if (value.contains(key)) keeps_promise(value[key], item.value(), fmt::format("{}.{}", where, key));
        }
    if (promised.is_array() && !promised.empty()) {
        CHECK_FALSE(value.empty());
        for (const auto& item : value) keeps_promise(item, promised[0], where + "[]");
    }
}

void replace(const Driver& driver, const std::string& file, const std::string& from, const std::string& to) {
    std::string text = driver.read(file);
    REQUIRE(text.find(from) != std::string::npos);
    driver.write(file, text.replace(text.find(from), from.size(), to));
}

}  // namespace

TEST_CASE("result files have the keys that were promised") {
    const Driver driver;
    driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "w");
    driver.envar({"emit"}, "w");
    driver.envar({"locate", "sidereal"}, "w");
    const json locate =
        json::parse(R"({"module":"","host":"","entries":[{"position":1,"folder":"","from":"","exists":true,
        "candidates":[{"file":"","exists":true,"version":null}]}],"chosen":{"file":"","position":1,"version":""},
        "shadowed":[{"file":"","position":1,"version":""}],"near_misses":[]})");
    keeps_promise(result(driver, "locate"), locate, "locate");
    driver.envar({"members", "constellations"}, "w");
    keeps_promise(result(driver, "members"),
                  json::parse(R"({"modules":[{"module":"","version":"","members":[{"name":"","kind":"","file":"",
        "line":1,"parameters":[],"summary":"","declared":true,"found":true}]}]})"),
                  "members");
    keeps_promise(result(driver, "members")["modules"][0]["members"][0]["parameters"],
                  json::parse(R"([{"name":"","type":"","required":true,"default":"","summary":""}])"), "parameters");
    driver.envar({"resolve"}, "w");
    keeps_promise(result(driver, "resolve"),
                  json::parse(R"({"selected":[{"module":"","version":"","host":"","origin":"","required_by":[]}],
        "unsolved":null})"),
                  "resolve");
    driver.envar({"order"}, "w");
    keeps_promise(result(driver, "order"),
                  json::parse(R"({"order":[{"position":1,"module":"","version":"","host":"","phase":"","wave":1,
        "needs":[]}],"skipped":[],"cycles":[],"missing":[]})"),
                  "order");
    replace(driver, "w/lua/sidereal/module.envar.toml", "1.1.4", "3.0.0");
    replace(driver, "w/lua/legends/module.envar.toml", "[exports]",
            "[[dependency]]\nmodule = \"gone\"\n[[dependency]]\nmodule = \"constellations\"\n[exports]");
    driver.envar({"resolve"}, "w");
    keeps_promise(result(driver, "resolve"),
                  json::parse(R"({"selected":[],"unsolved":{"sentences":[""],"requirements":[{"module":"",
        "version":"","requires":"","versions":"","file":"","line":1}]}})"),
                  "unsolved");
    driver.envar({"order"}, "w");
    keeps_promise(result(driver, "order"), json::parse(R"({"skipped":[{"module":"","reason":""}],"cycles":[[""]],
        "missing":[{"module":"","required_by":"","versions":""}]})"),
                  "order in trouble");
    driver.envar({"check"}, "w");
    keeps_promise(result(driver, "check"),
                  json::parse(R"({"findings":[{"code":"","severity":"","file":"","line":1,"column":1,"message":"",
        "hint":""}],"errors":1,"warnings":1})"),
                  "check");
    for (const std::string table : {"members", "resolve", "order", "check"})
        CHECK(driver.has("w/envar-results/" + table + ".csv"));
    CHECK(driver.read("w/envar-results/order.csv").rfind("position,module,version,host,phase,wave,needs\n", 0) == 0);
}

TEST_CASE("what goes to standard output and what to the results is the same, and results go where they are sent") {
    const Driver driver;
    driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "w");
    for (const std::string command : {"modules", "check", "members", "order", "paths", "history"}) {
        CAPTURE(command);
        const Run run =
            driver.envar({command, "--format", "json", "--results", (driver / "elsewhere").string()}, "w");
        CHECK(run.output == driver.read("elsewhere/" + command + ".json"));
        CHECK(json::parse(run.output, nullptr, false).is_object());
        CHECK_FALSE(driver.has("w/envar-results"));
    }
    // The same input gives the same bytes, however many read it.
    const std::string one = driver.envar({"check", "--format", "json", "--jobs", "1"}, "w").output;
    CHECK(one == driver.envar({"check", "--format", "json", "--jobs", "8"}, "w").output);
}

TEST_CASE("dry runs write nothing at all") {
    const Driver driver;
    driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "w");
    for (const std::vector<std::string>& command :
         std::vector<std::vector<std::string>>{{"emit"},
                                               {"scaffold", "moon", "--host", "lua"},
                                               {"depend", "legends", "sidereal any"},
                                               {"resolve"},
                                               {"check"},
                                               {"figure", "order"},
                                               {"modules"},
                                               {"emit", "--clean"}}) {
        CAPTURE(command[0]);
        auto arguments = command;
        arguments.push_back("--dry-run");
        CHECK(driver.envar(arguments, "w").status <= 1);
        CHECK_FALSE(driver.has("w/.envar"));
        CHECK_FALSE(driver.has("w/envar-results"));
    }
}

TEST_CASE("figures are drawn, or it is said why not") {
    const Driver driver;
    driver.copy_from(ENVAR_SOURCE_FOLDER "/demo/skydome", "w");
    for (const std::string kind : {"dependencies", "order"}) {
        CHECK(driver.envar({"figure", kind}, "w").status == 0);
        CHECK(driver.read("w/envar-results/" + kind + ".svg").find("star_field") != std::string::npos);
        CHECK(driver.read("w/envar-results/" + kind + ".png").rfind("\x89PNG", 0) == 0);
    }
    // Names that mean something to the drawing language come out as text.
    driver.write("w/lua/odd/module.envar.toml",
                 "[module]\nname = \"a\\\"->b<i>&\\\\n\"\nversion = \"1.0.0\"\nhost = \"lua\"\n");
    const Run odd = driver.envar({"figure", "dependencies"}, "w");
    CHECK_MESSAGE(odd.status == 0, odd.errors);
    std::string many;
    for (int i = 0; i <= 2000; ++i) many += "{\"module\":\"m" + std::to_string(i) + "\",\"version\":\"1.0.0\"}\n";
    driver.write("many.jsonl", many);
    const Run crowd = driver.envar({"figure", "dependencies", "--catalogue", "many.jsonl"});
    CHECK(crowd.status == 1);
    CHECK(crowd.errors.find("2001 modules are too many for one figure\n  hint: `--around MODULE") !=
          std::string::npos);
    CHECK(driver.envar({"figure", "dependencies", "--catalogue", "many.jsonl", "--around", "m7"}).status == 0);
    const Run none = driver.envar_with({{"PATH", "/nonexistent"}}, {"figure", "order"}, "w");
    CHECK(none.status == 3);
    CHECK(none.errors.find("graphviz") != std::string::npos);
}

TEST_CASE("cards are found in the installed tree, in the user's data folder and in the workspace, nearest first") {
    const Driver driver;
    std::filesystem::create_directories(driver / "prefix/bin");
    std::filesystem::copy_file(ENVAR_PROGRAM, driver / "prefix/bin/envar");
    driver.copy_from(ENVAR_SOURCE_FOLDER "/hosts", "prefix/share-hosts");
    std::filesystem::create_directories(driver / "prefix/share/envar");
    std::filesystem::rename(driver / "prefix/share-hosts", driver / "prefix/share/envar/hosts");
    const std::string program = (driver / "prefix/bin/envar").string();
    const auto origin = [&](const std::string& name) {
        const Run run = driver.program({"sh", "-c", "cd w 2>/dev/null; " + program + " hosts --format json"},
                                       {{"XDG_DATA_HOME", (driver / "data").string()}});
        const json listed = json::parse(run.output, nullptr, false);
        for (const auto& host : listed["hosts"])
            if (host["host"] == name) return host["card"].get<std::string>();
        return std::string("none");
    };
    CHECK(origin("lua") == "shipped");
    const std::string card = "[host]\nname = \"lua\"\nkind = \"script\"\nsummary = \"Mine.\"\n";
    driver.write("data/envar/hosts/lua/lua.host.toml", card);
    CHECK(origin("lua") == "user");
    CHECK(origin("bash") == "shipped");
    driver.write("w/workspace.envar.toml", "[workspace]\nname = \"w\"\n");
    driver.write("w/hosts/lua.host.toml", card);
    CHECK(origin("lua") == "workspace");
}
