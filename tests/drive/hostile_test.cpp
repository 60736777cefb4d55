// Inputs that no one would write on purpose, or that someone would.
#include <doctest/doctest.h>
#include <fmt/format.h>
#include <unistd.h>

#include <nlohmann/json.hpp>
#include <random>

#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

const std::string good = "[module]\nname = \"m\"\nversion = \"1.0.0\"\nhost = \"lua\"\n";

/// A workspace with one sound Lua module `m`.
void sound(const Driver& driver) {
    driver.remove("w");
    driver.write("w/workspace.envar.toml", "[workspace]\nname = \"w\"\n[[search]]\nhost = \"lua\"\nfolder = \".\"\n");
    driver.write("w/m/module.envar.toml", good);
    driver.write("w/m/init.lua", "return {}\n");
    CHECK(driver.envar({"emit"}, "w").status == 0);
}

std::vector<std::string> codes(const Driver& driver, const std::vector<std::string>& launcher = {}) {
    driver.remove("results");
    const Run run = driver.envar_with({}, {"check", "--format", "json", "--results", (driver / "results").string()},
                                      "w", launcher);
    CHECK((run.status == 0 || run.status == 1));
    std::vector<std::string> out;
    const json result = json::parse(run.output, nullptr, false);
    CHECK(result.is_object());
    if (!result.is_object()) return out;
    for (const auto& f : result["findings"]) {
        out.push_back(f["code"]);
        CHECK(f["line"].get<int>() >= 1);
        CHECK_FALSE(f["message"].get<std::string>().empty());
    }
    CHECK(json::parse(driver.read("results/check.json"), nullptr, false) == result);
    return out;
}

}  // namespace

TEST_CASE("a bad manifest is one clear finding, never a crash") {
    struct Row {
        std::string manifest;
        std::vector<std::string> codes;
    };
    const std::vector<Row> rows = {
        {good, {}},
        {"", {"EV112"}},
        {"[module\nname = \"m\"\n", {"EV102"}},
        {good + "authors = [\"a\"\n", {"EV102"}},
        {good + "summary = \"\xE4\"\n", {"EV103"}},
        {good + "summary = 3\n", {"EV111"}},
        {good + "smumary = \"x\"\n", {"EV110"}},
        {std::string(10U << 20U, '#'), {"EV104"}},
        {std::string(10U << 20U, '\0'), {"EV104"}},
        {good + "summary = \"" + std::string(900000, 'x') + "\"\n", {"EV502"}},
        {"[module]\nname = \"a/../../m\"\nversion = \"1.0.0\"\nhost = \"lua\"\n", {"EV114"}},
        {"[module]\nname = \"..\"\nversion = \"1.0.0\"\nhost = \"lua\"\n", {"EV114"}},
        {good + "[entry]\nfile = \"../../../etc/passwd\"\n", {"EV204"}},
        {good + "[[dependency]]\nmodule = \"m\"\n", {"EV302", "EV502"}},
        {good + "[[dependency]]\nmodule = \"nn\"\n", {"EV502", "EV301"}},
        {"[module]\nname = \"m\"\nversion = \"1.0.0\"\nhost = \"luaa\"\n", {"EV207"}},
        {good + "[entry]\nphase = \"late\"\nstart = \"go\"\n", {"EV113", "EV603"}},
        {"\xEF\xBB\xBF" + good, {}},
        {"[module]\r\nname = \"m\"\r\nversion = \"1.0.0\"\r\nhost = \"lua\"\r\n", {}},
    };
    const Driver driver;
    for (const Row& row : rows) {
        CAPTURE(row.manifest.substr(0, 200));
        sound(driver);
        driver.write("w/m/module.envar.toml", row.manifest);
        auto expected = row.codes;
        auto found = codes(driver);
        std::sort(found.begin(), found.end());
        std::sort(expected.begin(), expected.end());
        CHECK(found == expected);
        for (const std::vector<std::string>& command :
             {std::vector<std::string>{"modules"}, {"order"}, {"members"}, {"paths"}, {"resolve", "--dry-run"}}) {
            const int status = driver.envar(command, "w").status;
            CHECK(status >= 0);
            CHECK(status <= 1);
        }
    }
}

TEST_CASE("files that cannot be read, and links that lead astray") {
    const Driver driver;
    sound(driver);
    driver.remove("w/m/module.envar.toml");
    driver.write("w/m/module.envar.toml/inner", "");
    CHECK(codes(driver) == std::vector<std::string>{"EV101"});

    sound(driver);
    std::filesystem::permissions(driver / "w/m/module.envar.toml", std::filesystem::perms::none);
    if (::geteuid() == 0) {
        // Root reads everything, so the program is run as somebody else.
        std::filesystem::permissions(driver.folder(), std::filesystem::perms::all);
        CHECK(codes(driver, {"/usr/bin/setpriv", "--reuid=65534", "--regid=65534", "--clear-groups"}) ==
              std::vector<std::string>{"EV101"});
    } else {
        CHECK(codes(driver) == std::vector<std::string>{"EV101"});
    }

    sound(driver);
    driver.write("elsewhere.lua", "return {}\n");
    driver.remove("w/m/init.lua");
    std::filesystem::create_symlink(driver / "elsewhere.lua", driver / "w/m/init.lua");
    CHECK(codes(driver) == std::vector<std::string>{"EV204"});

    sound(driver);
    std::filesystem::create_directory_symlink(driver / "w", driver / "w/m/loop");
    CHECK(codes(driver).empty());

    sound(driver);
    std::filesystem::permissions(driver / "w/workspace.envar.toml", std::filesystem::perms::none);
    driver.remove("w/workspace.envar.toml");
    driver.write("w/workspace.envar.toml/inner", "");
    CHECK(driver.envar({"check"}, "w").status == 3);
}

TEST_CASE("a circle of three, two modules of one name") {
    const Driver driver;
    driver.write("w/workspace.envar.toml", "[workspace]\nname = \"w\"\n[[search]]\nhost = \"lua\"\nfolder = \".\"\n");
    for (const auto& [from, to] :
         std::vector<std::pair<std::string, std::string>>{{"aa", "bb"}, {"bb", "cc"}, {"cc", "aa"}}) {
        driver.write("w/" + from + "/module.envar.toml",
                     "[module]\nname = \"" + from +
                         "\"\nversion = \"1.0.0\"\nhost = \"lua\"\n[[dependency]]\nmodule = \"" + to + "\"\n");
        driver.write("w/" + from + "/init.lua", "return {}\n");
    }
    CHECK(driver.envar({"emit", "--quiet"}, "w").status == 0);
    CHECK(codes(driver) == std::vector<std::string>{"EV305"});
    CHECK(driver.envar({"order"}, "w").status == 1);
    CHECK(driver.envar({"trial"}, "w").output.find("through a circle") != std::string::npos);
    driver.copy_from(driver / "w/aa", "w/deep");
    driver.write("w/again/aa/module.envar.toml", driver.read("w/aa/module.envar.toml"));
    driver.remove("w/deep");
    driver.write("w/again/aa/init.lua", "return {}\n");
    const auto found = codes(driver);
    CHECK(std::count(found.begin(), found.end(), "EV205") == 2);
}

TEST_CASE("1,000 mutated manifests and cards: no crash, no hang") {
    const Driver driver;
    sound(driver);
    driver.remove("w/m");
    std::mt19937 random(23);
    const std::string manifest =
        driver.program({"cat", ENVAR_SOURCE_FOLDER "/demo/skydome/lua/star_field/module.envar.toml"}).output;
    const std::string card = driver.program({"cat", ENVAR_SOURCE_FOLDER "/hosts/lua/lua.host.toml"}).output;
    const auto mutate = [&](std::string text) {
        for (unsigned slips = 1 + random() % 4; slips > 0; --slips) {
            const std::size_t at = random() % text.size();
            switch (random() % 4) {
                case 0:
                    text.erase(at, 1 + random() % 20);
                    break;
                case 1:
                    text.insert(at, text.substr(random() % text.size(), random() % 60));
                    break;
                case 2:
                    text[at] = static_cast<char>(random() % 256);
                    break;
                default:
                    text.insert(at, 1, "[]{}\"'=#\n.,\\"[random() % 12]);
            }
        }
        return text;
    };
    for (int round = 0; round < 10; ++round) {
        for (int i = 0; i < 100; ++i)
            driver.write(fmt::format("w/m{}/star_field/module.envar.toml", i), mutate(manifest));
        driver.write("w/hosts/lua.host.toml", mutate(card));
        for (const std::string command : {"check", "order", "emit"}) {
            const Run run = driver.envar({command}, "w");
            CAPTURE(run.errors);
            CHECK(run.status >= 0);
            CHECK(run.status <= 3);
            CHECK(run.errors.find("defect") == std::string::npos);
        }
    }
}

TEST_CASE("results that cannot be left are said, and the answer still given") {
    const Driver driver;
    sound(driver);
    driver.write("w/envar-results", "a file in the way");
    const Run run = driver.envar({"modules"}, "w");
    CHECK(run.status == 0);
    CHECK(run.errors.find("warning") != std::string::npos);
    driver.write("blocked", "");
    CHECK(driver.envar({"modules", "--results", (driver / "blocked/inner").string()}, "w").status == 3);
    CHECK(driver.program({"sh", "-c", std::string(ENVAR_PROGRAM) + " --help >/dev/full"}).status == 3);
}
