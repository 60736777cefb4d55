// What is told of native modules that the real build systems are silent about, and in those systems' words.
#include <doctest/doctest.h>

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "tests/support/native.hpp"

using namespace envar::tests;
using nlohmann::json;

TEST_CASE("what build systems are silent about is told") {
    struct Row {
        std::string what, code;
        std::function<void(const Driver&)> plant;
    };
    const std::string middle = "w/native/middle/";
    const std::vector<Row> rows = {
        {"a dependency that is not declared", "EV901",
         [&](const Driver& d) {
             replace_in(d, "w/native/near/src/near.cpp", "#include", "#include \"far/far.hpp\"\n#include");
         }},
        {"a public dependency made private", "EV902",
         [&](const Driver& d) { replace_in(d, middle + "module.envar.toml", "visibility = \"public\"\n", ""); }},
        {"a private dependency made public", "EV903",
         [&](const Driver& d) {
             replace_in(d, "w/native/far/module.envar.toml", "module = \"middle\"",
                        "module = \"middle\"\nvisibility = \"public\"");
         }},
        {"a dependency that is not used", "EV904",
         [&](const Driver& d) { replace_in(d, "w/native/far/src/far.cpp", "#include \"middle/middle.hpp\"", ""); }},
        {"a header that is nowhere", "EV905",
         [&](const Driver& d) { replace_in(d, middle + "src/middle.cpp", "middle.hpp\"", "midle.hpp\""); }},
        {"a private header of another module", "EV906",
         [&](const Driver& d) {
             d.write("w/native/near/src/table.hpp", "#ifndef NEAR_TABLE_HPP\n#define NEAR_TABLE_HPP\n#endif\n");
             replace_in(d, middle + "src/middle.cpp", "#include", "#include \"../../near/src/table.hpp\"\n#include");
         }},
        {"a source that no list has", "EV907",
         [&](const Driver& d) { d.write(middle + "src/more.cpp", "int more() { return 1; }\n"); }},
        {"a source that the manifest does not list", "EV907",
         [&](const Driver& d) {
             d.write(middle + "src/more.cpp", "int more() { return 1; }\n");
             replace_in(d, middle + "module.envar.toml", "kind = \"static\"",
                        "kind = \"static\"\nsources = [\"src/middle.cpp\"]");
         }},
        {"a public header that the manifest does not list", "EV907",
         [&](const Driver& d) {
             d.write(middle + "include/middle/more.hpp", "#pragma once\n");
             replace_in(d, middle + "module.envar.toml", "kind = \"static\"",
                        "kind = \"static\"\npublic_headers = [\"include/middle/middle.hpp\", \"include/middle.hpp\", "
                        "\"include/middle/export.hpp\"]");
         }},
        {"a source that is gone", "EV908",
         [&](const Driver& d) {
             d.write(middle + "src/more.cpp", "int more() { return 1; }\n");
             CHECK(d.envar({"emit"}, "w").status == 0);
             d.remove(middle + "src/more.cpp");
         }},
        {"a listed source that is gone", "EV209",
         [&](const Driver& d) {
             replace_in(d, middle + "module.envar.toml", "kind = \"static\"",
                        "kind = \"static\"\nsources = [\"src/middle.cpp\", \"src/gone.cpp\"]");
         }},
        {"one program file of two modules", "EV909",
         [&](const Driver& d) {
             for (const std::string name : {"near", "far"})
                 d.write("w/native/" + name + "/module.envar.toml",
                         d.read("w/native/" + name + "/module.envar.toml") +
                             "\n[[front]]\nkind = \"command\"\nname = \"sky\"\n");
         }},
        {"a guard that was kept", "EV909",
         [&](const Driver& d) {
             d.write(middle + "include/middle/more.hpp", "#ifndef NEAR_NEAR_HPP\n#define NEAR_NEAR_HPP\n#endif\n");
         }},
        {"a header path that was kept", "EV909",
         [&](const Driver& d) { d.write(middle + "include/near/near.hpp", "#pragma once\n"); }},
        {"a macro that was kept", "EV909",
         [&](const Driver& d) { d.write(middle + "include/middle/more.hpp", "#pragma once\n#define NEAR_API\n"); }},
        {"a namespace that was kept", "EV909",
         [&](const Driver& d) {
             d.write(middle + "include/middle/more.hpp", "#pragma once\nnamespace far { int more(); }\n");
         }},
        {"an old name in a descriptor", "EV910",
         [&](const Driver& d) { d.write(middle + "cmake/extra.cmake", "# of old\nset(x far)\n"); }},
        {"an old name in the code", "EV910",
         [&](const Driver& d) {
             replace_in(d, "w/native/near/src/near.cpp", "namespace near {", "int FAR_count = 0;\nnamespace near {");
         }},
        {"a system module that is not here", "EV915",
         [&](const Driver& d) {
             d.write(middle + "module.envar.toml",
                     d.read(middle + "module.envar.toml") +
                         "\n[[dependency]]\nmodule = \"dome_light\"\norigin = \"system\"\n");
         }},
        {"a name that CMake cannot list", "EV916",
         [&](const Driver& d) { d.write(middle + "src/a;b.cpp", "int more() { return 1; }\n"); }},
        {"a copied identity", "EV911",
         [&](const Driver& d) {
             const std::string of = d.read(middle + "module.envar.toml");
             const std::string line = of.substr(of.find("identity"), 50);
             std::string to = d.read("w/native/far/module.envar.toml");
             to.replace(to.find("identity"), 50, line);
             d.write("w/native/far/module.envar.toml", to);
         }},
        {"a version in the tree that is too old", "EV304",
         [&](const Driver& d) { replace_in(d, middle + "module.envar.toml", ">=1.1", ">=1.3"); }},
        {"a circle of static libraries", "EV305",
         [&](const Driver& d) {
             d.write("w/native/near/module.envar.toml",
                     d.read("w/native/near/module.envar.toml") + "\n[[dependency]]\nmodule = \"far\"\n");
         }},
    };
    const Driver clean;
    chain(clean, "cmake", "static");
    CHECK(codes_of(clean).empty());
    for (const Row& row : rows) {
        CAPTURE(row.what);
        const Driver driver;
        driver.copy_from(clean.folder() / "w", "w");
        row.plant(driver);
        const auto codes = codes_of(driver);
        CHECK_MESSAGE(has(codes, row.code), row.what, ": ", driver.envar({"check"}, "w").output);
    }
    // What stands under an #if is a hint, and a dependency that is only linked says so.
    const Driver driver;
    driver.copy_from(clean.folder() / "w", "w");
    replace_in(driver, "w/native/near/src/near.cpp", "#include",
               "#ifdef WITH_FAR\n#include \"far/far.hpp\"\n#endif\n#include");
    replace_in(driver, "w/native/far/src/far.cpp", "#include \"middle/middle.hpp\"", "");
    replace_in(driver, "w/native/far/module.envar.toml", "module = \"middle\"",
               "module = \"middle\"\nuses = \"link\"");
    const Run hints = driver.envar({"check"}, "w");
    CHECK_MESSAGE(hints.status == 0, hints.output);
    CHECK(hints.output.find("hint: `far/far.hpp` is of far") != std::string::npos);
}

TEST_CASE("what a script asks for must be declared") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    CHECK(driver.envar({"scaffold", "dusk", "--host", "lua"}, "w").status == 0);
    CHECK(driver.envar({"scaffold", "dawn", "--host", "lua"}, "w").status == 0);
    CHECK(codes_of(driver).empty());
    const std::string entry = driver.read("w/lua/dawn/init.lua");
    driver.write("w/lua/dawn/init.lua", "-- require 'dusk' is no code\nlocal s = [[require 'dusk']]\n" + entry);
    CHECK(codes_of(driver).empty());
    driver.write("w/lua/dawn/init.lua", "local dusk = require 'dusk'\n" + entry);
    CHECK(codes_of(driver) == std::vector<std::string>{"EV901"});
    CHECK(driver.envar({"depend", "dawn", "dusk any"}, "w").status == 0);
    CHECK(codes_of(driver).empty());
}

TEST_CASE("a build that fails is told in the build system's words, beside the manifest's line") {
    for (const auto& host : systems) {
        CAPTURE(host);
        const Driver driver;
        chain(driver, host, "static");
        replace_in(driver, "w/native/middle/module.envar.toml", "kind = \"static\"",
                   "kind = \"static\"\nsources = [\"src/middle.cpp\"]");
        replace_in(driver, "w/native/middle/src/middle.cpp", "namespace middle {",
                   "#error the dome is dark\nnamespace middle {");
        CHECK(driver.envar({"emit"}, "w").status == 0);
        const Run run = driver.envar({"trial"}, "w");
        CHECK(run.status == 1);
        CHECK_MESSAGE(run.output.find("the dome is dark") != std::string::npos, run.output);
        CHECK_MESSAGE(
            run.output.find("native/middle/module.envar.toml:16: the source `src/middle.cpp`") != std::string::npos,
            run.output);
        CHECK_MESSAGE(run.output.find("not built, since middle was not") != std::string::npos, run.output);
        const Run broken = driver.envar_with({{"CXX", "/nonexistent/c++"}}, {"trial", "near"}, "w");
        CHECK(broken.status == 1);
        CHECK_MESSAGE(broken.output.find("/nonexistent/c++") != std::string::npos, broken.output);
        const Run missing = driver.envar_with({{"PATH", "/nonexistent"}}, {"trial"}, "w");
        CHECK(missing.status == 3);
        CHECK_MESSAGE(missing.errors.find("install the package " + host) != std::string::npos, missing.errors);
    }
}

TEST_CASE("a system's library graph is read from its `.pc` files, resolved, ordered and drawn") {
    const Driver driver;
    // 500 files, each requiring the four before it: a walk that goes down every path would never end.
    for (int i = 0; i < 500; ++i) {
        std::string needs;
        for (int j = std::max(0, i - 4); j < i; ++j) needs += " m" + std::to_string(j) + " >= 1.0,";
        driver.write("pc/m" + std::to_string(i) + ".pc", "Name: m\nDescription: of the dome\nVersion: 1.2." +
                                                             std::to_string(i) + "\nRequires:" + needs + "\n");
    }
    driver.write("first/m3-uninstalled.pc", "Version: 7.0\n");
    driver.write("first/m3.pc", "Version: 6.0\n");
    const auto start = std::chrono::steady_clock::now();
    const Run adopted = driver.envar({"adopt", "--catalogue", "c.jsonl", "first", "pc"});
    CHECK_MESSAGE(adopted.status == 0, adopted.errors);
    const Run order = driver.envar({"order", "--catalogue", "c.jsonl", "--root", "m499 >=1.2", "--format", "json"});
    CHECK_MESSAGE(order.status == 0, order.errors);
    const Run resolved = driver.envar({"resolve", "--catalogue", "c.jsonl", "--root", "m4", "--format", "json"});
    CHECK_MESSAGE(resolved.status == 0, resolved.output, resolved.errors);
    CHECK(std::chrono::steady_clock::now() - start < std::chrono::seconds(60));  // it ends; how fast is for bench/
    const json placed = json::parse(order.output, nullptr, false)["order"];
    REQUIRE(placed.size() == 500);
    std::map<std::string, std::size_t> position;
    for (const auto& one : placed) position[one["module"]] = one["position"];
    for (int i = 0; i < 500; ++i)
        for (int j = std::max(0, i - 4); j < i && i != 3; ++j)  // the first m3 needs nothing
            CHECK(position["m" + std::to_string(i)] > position["m" + std::to_string(j)]);
    const json selected = json::parse(resolved.output, nullptr, false)["selected"];
    REQUIRE(selected.size() == 5);
    CHECK(selected[3]["version"] == "7.0.0");
    CHECK(selected[3]["origin"] == "c.jsonl");
    const Run link = driver.envar({"order", "--catalogue", "c.jsonl", "--root", "m2", "--link"});
    CHECK(link.output.find("m2 ") < link.output.find("m1 "));
    const Run figure = driver.envar({"figure", "dependencies", "--catalogue", "c.jsonl", "--root", "m9"});
    CHECK_MESSAGE(figure.status == 0, figure.errors);
    CHECK(driver.has("envar-results/dependencies.svg"));
    // The file is the user's once it is there.
    driver.write("c.jsonl", "mine\n");
    CHECK(driver.envar({"adopt", "--catalogue", "c.jsonl", "pc"}).status == 1);
    CHECK(driver.read("c.jsonl") == "mine\n");
    CHECK(driver.envar({"adopt", "--catalogue", "d.jsonl", "nowhere"}).status == 1);
    CHECK(driver.envar({"order", "--catalogue", "nowhere.jsonl"}).status == 3);
    CHECK(driver.envar({"order", "--catalogue", "c.jsonl", "--root", "m2"}).status == 1);
    CHECK(driver.envar({"order", "--root", "m2"}).status == 2);
    // Circles, self-requirements, strange comparators and missing versions are told, and end nothing.
    driver.write("odd/a.pc", "Version: 1\nRequires: b, a\n");
    driver.write("odd/b.pc", "Version: 1\nRequires: c => 2\n");
    driver.write("odd/c.pc", "Requires: a\n");
    const Run odd = driver.envar({"adopt", "--catalogue", "odd.jsonl", "odd"});
    CHECK(odd.status == 0);
    for (const auto* told : {"`a` requires itself", "`=>` is no comparator"})
        CHECK_MESSAGE((odd.output + odd.errors).find(told) != std::string::npos, odd.output);
    const Run circle = driver.envar({"order", "--catalogue", "odd.jsonl"});
    CHECK(circle.status == 1);
    CHECK_MESSAGE(circle.output.find("a needs b needs c needs a") != std::string::npos, circle.output);
}

TEST_CASE("what the host brings along is asked of the host, and a name that is none is not handed to it") {
    struct Row {
        std::string host, name, versions;
        bool known, found, fits;
    };
    for (const Row& row : std::vector<Row>{{"python", "json", ">=2, <3", true, true, true},
                                           {"python", "json", ">=3", true, true, false},
                                           {"perl", "Scalar::Util", ">=1", true, true, true},
                                           {"tcl", "msgcat", ">=1, <2", true, true, true},
                                           {"lua", "string", "any", true, true, true},
                                           {"lua", "dome_light", "any", true, false, false},
                                           {"lua", "x') io.open('hacked', 'w') print('1", "any", false, false, true},
                                           {"make", "lua5.4", ">=5.4, <6", true, true, true},
                                           {"make", "lua5.4", "<5", true, true, false},
                                           {"make", "dome_light", "any", true, false, false}}) {
        CAPTURE(row.host);
        CAPTURE(row.name);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const std::string name = row.host == "perl" ? "Lamp" : "lamp";
        const Run made = driver.envar({"scaffold", name, "--host", row.host, "--in", "m"}, "w");
        REQUIRE_MESSAGE(made.status == 0, made.errors);
        const std::string file = "w/m/" + name + "/module.envar.toml";
        driver.write(file, driver.read(file) + "\n[[dependency]]\nmodule = \"" + row.name +
                               "\"\norigin = \"system\"\nversions = \"" + row.versions + "\"\n");
        const Run run = driver.envar({"resolve", "--format", "json"}, "w");
        CHECK_MESSAGE(run.status == (row.fits ? 0 : 1), run.output, run.errors);
        const json result = json::parse(run.output, nullptr, false);
        REQUIRE_MESSAGE(result.is_object(), run.output, run.errors);
        REQUIRE(result["system"].size() == 1);
        const json& need = result["system"][0];
        CHECK_MESSAGE(need["known"] == row.known, need.dump());
        CHECK_MESSAGE(need["found"] == row.found, need.dump());
        CHECK_MESSAGE(need["fits"] == row.fits, need.dump());
        CHECK(!driver.has("w/hacked"));
        CHECK(!std::filesystem::exists("/hacked"));
        CHECK(driver.has("w/lock.envar.toml") == row.fits);
    }
}
