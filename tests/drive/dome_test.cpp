// dome, the engine that ships: what it loads and in which order, what it tells when something is wrong, and modules
// that Envar makes for it.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

namespace fs = std::filesystem;

/// A module in plain C that tells its hooks in a file.
struct Module {
    std::string name, version = "1.0.0";
    std::string code;          // in place of the usual hooks
    std::string assets;        // elements of the descriptor
    std::string library = "";  // in the descriptor; empty: NAME.so
};

std::string usual_code(const std::string& name, const std::string& version) {
    return fmt::format(
        "#include \"dome.h\"\n#include <stdio.h>\n"
        "DOME_EXPORT const int {0}_abi = DOME_ABI;\n"
        "static void tell(const char* what) {{ FILE* f = fopen(\"hooks\", \"a\"); fprintf(f, \"%s {0} {1}\\n\", what); "
        "fclose(f); }}\n"
        "DOME_EXPORT int {0}_start(const dome_host* host) {{ host->say(host->engine, host->target); tell(\"start\"); "
        "return host->offer(host->engine, \"{0}\", (void*)&{0}_abi); }}\n"
        "DOME_EXPORT void {0}_stop(void) {{ tell(\"stop\"); }}\n",
        name, version);
}

void make_module(const Driver& driver, const Module& module) {
    const std::string folder = fmt::format("path/{}/{}", module.name, module.version);
    driver.write(folder + "/module.c", module.code.empty() ? usual_code(module.name, module.version) : module.code);
    driver.write(folder + "/" + module.name + ".dome.xml",
                 fmt::format("<module name=\"{0}\" version=\"{1}\" library=\"{2}\" start=\"{0}_start\" "
                             "stop=\"{0}_stop\">{3}</module>\n",
                             module.name, module.version,
                             module.library.empty() ? module.name + ".so" : module.library, module.assets));
    fs::copy_file(fs::path(ENVAR_SOURCE_FOLDER) / "hosts/dome/dome.h.mustache", driver / (folder + "/dome.h"));
    const Run built = driver.program({"cc", "-shared", "-fPIC", "-fvisibility=hidden", "-o",
                                      (driver / (folder + "/" + module.name + ".so")).string(),
                                      (driver / (folder + "/module.c")).string()});
    REQUIRE_MESSAGE(built.status == 0, built.errors);
}

std::string plan_of(const std::string& modules) {
    return "<plan target=\"viewer\"><phase name=\"early\"/><phase name=\"main\"/>" + modules + "</plan>\n";
}

}  // namespace

TEST_CASE("dome starts modules by phase and plan, stops them in reverse, and takes the version that is named") {
    const Driver driver;
    make_module(driver, {"sky", "1.0.0", "", "<assets folder=\"images\" extension=\".sprite\" recursive=\"true\"/>"});
    make_module(driver, {"sky", "2.0.0", "", ""});
    make_module(driver, {"words", "1.0.0", "", ""});
    for (const auto* file : {"b.sprite", "deep/a.sprite", "deep/other.txt"})
        driver.write(fmt::format("path/sky/1.0.0/images/{}", file), "x");
    driver.write("plan.xml", plan_of("<module name=\"words\" version=\"1.0.0\" phase=\"main\"><needs module=\"sky\"/>"
                                     "</module><module name=\"sky\" version=\"1.0.0\" phase=\"early\"/>"));
    const Run run = driver.dome({"plan.xml", "--path", "path", "--json", "out.json"});
    CHECK_MESSAGE(run.status == 0, run.output << run.errors);
    CHECK(driver.read("hooks") == "start sky 1.0.0\nstart words 1.0.0\nstop words 1.0.0\nstop sky 1.0.0\n");
    const json result = json::parse(driver.read("out.json"));
    CHECK(result["loaded"][0]["assets"] == json({"images/b.sprite", "images/deep/a.sprite"}));
    CHECK(result["loaded"][0]["said"] == json({"viewer"}));
    CHECK(result["loaded"][1]["module"] == "words");
    CHECK(result["stopped"] == json({"words", "sky"}));
    CHECK(result["problems"].empty());
    driver.write("plan.xml", plan_of("<module name=\"sky\" version=\"2.0.0\" phase=\"main\"/>"));
    CHECK(driver.dome({"plan.xml", "--quiet"}, {{"DOME_PATH", "nowhere:path"}}).status == 0);
    CHECK(driver.read("hooks").ends_with("start sky 2.0.0\nstop sky 2.0.0\n"));
}

TEST_CASE("dome loads and unloads a thousand times: hooks in pairs, nothing left behind") {
    const Driver driver;
    make_module(driver, {"sky", "1.0.0", "", ""});
    make_module(driver, {"words", "1.0.0", "", ""});
    driver.write("plan.xml", plan_of("<module name=\"sky\" version=\"1.0.0\" phase=\"early\"/><module name=\"words\" "
                                     "version=\"1.0.0\" phase=\"main\"><needs module=\"sky\"/></module>"));
    const Run run = driver.dome({"plan.xml", "--path", "path", "--rounds", "1000", "--quiet"});
    CHECK_MESSAGE(run.status == 0, run.output << run.errors);
    CHECK(run.errors.empty());
    const std::string hooks = driver.read("hooks");
    const std::string round = "start sky 1.0.0\nstart words 1.0.0\nstop words 1.0.0\nstop sky 1.0.0\n";
    REQUIRE(hooks.size() == 1000 * round.size());
    for (std::size_t i = 0; i < 1000; ++i) CHECK(hooks.compare(i * round.size(), round.size(), round) == 0);
}

TEST_CASE("dome tells by name what is missing or wrong, starts the rest, and never hangs") {
    struct Row {
        std::string plan;  // the modules in it, or the whole when it begins with '!'
        std::string told;
    };
    const Driver driver;
    make_module(driver, {"sky", "1.0.0", "", ""});
    make_module(driver, {"plain", "1.0.0", "int nothing;\n", ""});
    make_module(driver,
                {"hookless", "1.0.0", "#include \"dome.h\"\nDOME_EXPORT const int hookless_abi = DOME_ABI;\n", ""});
    make_module(driver, {"future", "1.0.0", "#include \"dome.h\"\nDOME_EXPORT const int future_abi = 99;\n", ""});
    make_module(driver, {"refuser", "1.0.0",
                         "#include \"dome.h\"\nDOME_EXPORT const int refuser_abi = DOME_ABI;\n"
                         "DOME_EXPORT int refuser_start(const dome_host* h) { (void)h; return 7; }\n"
                         "DOME_EXPORT void refuser_stop(void) {}\n",
                         ""});
    make_module(driver, {"unbuilt", "1.0.0", "", "", "elsewhere.so"});
    make_module(driver, {"leaver", "1.0.0", "", "<assets folder=\"../../sky\"/>"});
    make_module(driver, {"bare", "1.0.0", "", "<assets folder=\"images\"/>"});
    const auto one = [](const std::string& name, const std::string& more = "", const std::string& version = "1.0.0") {
        return fmt::format("<module name=\"{}\" version=\"{}\" phase=\"main\">{}</module>", name, version, more);
    };
    std::string bomb = "!<!DOCTYPE plan [<!ENTITY a \"aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa\">";
    for (char c = 'b'; c <= 'z'; ++c) {
        bomb += fmt::format("<!ENTITY {} \"", c);
        for (int i = 0; i < 10; ++i) bomb += fmt::format("&{};", static_cast<char>(c - 1));
        bomb += "\">";
    }
    bomb += "]><plan target=\"&z;\"/>";
    std::string deep = "!";
    for (int i = 0; i < 50000; ++i) deep += "<plan>";
    const std::vector<Row> rows = {
        {one("gone"), "gone: version 1.0.0 is on no entry of the path"},
        {one("sky", "", "3.0.0"), "sky: version 3.0.0 is on no entry of the path; there is 1.0.0"},
        {one("sky", "<needs module=\"gone\"/>"), "sky: needs `gone`, which was not started before it"},
        {one("plain"), "plain: `plain.so` has no entry `plain_abi`"},
        {one("hookless"), "hookless: `hookless.so` has no hook `hookless_start`"},
        {one("future"), "future: is built for interface 99, this is 1"},
        {one("refuser"), "refuser: its start hook gave 7"},
        {one("unbuilt"), "elsewhere.so"},
        {one("leaver"), "the asset folder `../../sky` leaves the module"},
        {one("bare"), "bare: the asset folder `images` is not there"},
        {one("sky") + one("sky"), "sky: stands in the plan twice"},
        {one("../sky"), "has no usable `name`"},
        {"<module name=\"sky\" version=\"1.0.0\" phase=\"never\"/>", "sky: there is no phase `never` in the plan"},
        {"!<plan target=\"v\">", "plan.xml:"},
        {"!not xml", "plan.xml:"},
        {"!<other/>", "is no <plan>"},
        {"!", "plan.xml:"},
        {"!" + std::string((1U << 20U) + 1, ' '), "is larger than 1 MiB"},
        {deep, "plan.xml:"},
        {std::string("!\0\xFF\xFE<plan", 8), "plan.xml:"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.plan.substr(0, 100));
        const bool whole = row.plan.starts_with('!');
        driver.write("plan.xml", whole ? row.plan.substr(1) : plan_of(row.plan));
        const Run run = driver.dome({"plan.xml", "--path", "path"});
        CHECK(run.status == 1);
        CHECK_MESSAGE(run.output.find(row.told) != std::string::npos, run.output);
    }
    // Entities are not expanded; the plan is empty and fine.
    driver.write("plan.xml", bomb.substr(1));
    CHECK(driver.dome({"plan.xml", "--path", "path"}).status == 0);
    CHECK(driver.dome({"nowhere.xml"}).status == 1);
    CHECK(driver.dome({}).status == 2);
    CHECK(driver.dome({"plan.xml", "--rounds", "0"}).status == 2);
    // What is wrong with one module keeps nobody else from being started.
    driver.write("plan.xml", plan_of(one("gone") + one("sky")));
    CHECK(driver.dome({"plan.xml", "--path", "path"}).output.find("main  sky 1.0.0") != std::string::npos);
}

TEST_CASE("modules for dome: descriptors and plans that their schemas agree with, started in the order told") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    const std::string hard = "summary=Draws \"the\" <sky> & \\ --> {{name}} ]]>\nand more";
    const std::vector<std::vector<std::string>> scaffolds = {
        {"sky", "--blueprint", "show", "--set", hard, "--module-version", "1.2.0"},
        {"words", "--depend", "sky >=1, <2", "--set", hard},
        {"clock", "--module-version", "2.0.0-rc.1"},
    };
    for (auto arguments : scaffolds) {
        arguments.insert(arguments.begin(), "scaffold");
        arguments.insert(arguments.end(), {"--host", "dome"});
        const Run made = driver.envar(arguments, "w");
        CHECK_MESSAGE(made.status == 0, made.errors);
    }
    driver.write(
        "w/workspace.envar.toml",
        driver.read("w/workspace.envar.toml") +
            "\n[[target]]\nname = \"viewer\"\nmodules = [\"words\"]\n\n[[target]]\nname = \"archive\"\nmodules = "
            "[\"clock\", \"sky\"]\n");
    CHECK(driver.envar({"emit"}, "w").status == 0);
    const Run check = driver.envar({"check"}, "w");
    CHECK_MESSAGE(check.status == 0, check.output);
    const auto at = [&](const std::string& path) { return (driver / ("w/" + path)).string(); };
    const auto agree = [&](const std::string& schema, const std::string& file) {
        const Run lint = driver.program({"xmllint", "--noout", "--schema", at("dome/schema/" + schema), at(file)});
        CHECK_MESSAGE(lint.status == 0, lint.errors);
        // The document itself leads to the same schema.
        const std::string text = driver.read("w/" + file);
        const std::string key = "noNamespaceSchemaLocation=\"";
        const std::size_t from = text.find(key) + key.size();
        const fs::path way = text.substr(from, text.find('"', from) - from);
        CHECK(fs::weakly_canonical(fs::path(at(file)).parent_path() / way) == fs::path(at("dome/schema/" + schema)));
    };
    for (const auto* file : {"sky/1.2.0/sky", "words/0.1.0/words", "clock/2.0.0-rc.1/clock"})
        agree("dome-module.xsd", fmt::format("dome/{}.dome.xml", file));
    for (const auto* target : {"viewer", "archive"}) agree("dome-plan.xsd", fmt::format("plans/{}.plan.xml", target));
    CHECK(driver.read("w/plans/archive.plan.xml").find("words") == std::string::npos);
    const Run trial = driver.envar({"trial", "--format", "json"}, "w");
    CHECK_MESSAGE(trial.status == 0, trial.output);
    const json modules = json::parse(trial.output)["hosts"][0]["modules"];
    REQUIRE(modules.size() == 3);
    CHECK(modules[0]["module"] == "clock");
    CHECK(modules[0]["version"] == "2.0.0-rc.1");
    CHECK(modules[1]["module"] == "sky");
    CHECK(modules[2]["module"] == "words");
    // A hook that is gone is told by name, beside the module.
    const std::string code = "w/dome/sky/1.2.0/src/sky.cpp";
    std::string text = driver.read(code);
    for (std::size_t i = text.find("sky_stop"); i != std::string::npos; i = text.find("sky_stop", i + 8))
        text.replace(i, 8, "sky_halt");
    driver.write(code, text);
    const Run broken = driver.envar({"trial"}, "w");
    CHECK(broken.status == 1);
    CHECK_MESSAGE(broken.output.find("sky: the host says: `sky.so` has no hook `sky_stop`") != std::string::npos,
                  broken.output);
    CHECK(broken.output.find("words: the host says: needs `sky`") != std::string::npos);
}

TEST_CASE("a native core is surfaced as a module for dome, from the same declaration as its other fronts") {
    for (const auto* host : {"cmake", "meson", "make"}) {
        CAPTURE(host);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        CHECK(driver.envar({"scaffold", "air", "--host", host, "--blueprint", "core"}, "w").status == 0);
        const std::string manifest = fmt::format("w/{}/air/module.envar.toml", host);
        driver.write(manifest, driver.read(manifest) + "\n[[front]]\nkind = \"plugin\"\nhost = \"dome\"\n");
        CHECK(driver.envar({"emit"}, "w").status == 0);
        const Run check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.status == 0, check.output);
        const Run trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.status == 0, trial.output);
        CHECK(trial.output.find("dome") != std::string::npos);
    }
}
