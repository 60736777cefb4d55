// Versions side by side in hosts that know none: the real hosts load the version that was chosen.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <set>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;

namespace {

namespace fs = std::filesystem;

/// A host, and its ways to write names.
struct Row {
    std::string host, sidereal, star_field;
};

/// A workspace where `sidereal` lies in two versions, and `star_field` needs it in the range.
void make(const Driver& driver, const Row& row, const std::string& range) {
    const auto must = [&](const std::vector<std::string>& arguments, const std::string& folder = "w") {
        const auto run = driver.envar(arguments, folder);
        REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
    };
    must({"begin", "w"}, ".");
    for (const std::string version : {"1.2.0", "1.1.4"}) {
        must({"scaffold", row.sidereal, "--host", row.host, "--module-version", version, "--in", "mods"});
        fs::rename(driver / ("w/mods/" + row.sidereal), driver / version);
    }
    fs::create_directories(driver / ("w/mods/" + row.sidereal));
    for (const std::string version : {"1.2.0", "1.1.4"})
        fs::rename(driver / version, driver / ("w/mods/" + row.sidereal + "/" + version));
    must({"scaffold", row.star_field, "--host", row.host, "--in", "mods", "--depend", row.sidereal + " " + range});
    must({"schema", "--point"});
}

std::string located(const Driver& driver, const Row& row) {
    CHECK(driver.envar({"locate", row.sidereal, "--host", row.host}, "w").status == 0);
    const auto result = json::parse(driver.read("w/envar-results/locate.json"));
    return result["chosen"].is_null() ? "" : result["chosen"]["file"].get<std::string>();
}

}  // namespace

TEST_CASE("versions side by side: the chosen one is found and loaded") {
    for (const Row& row : std::vector<Row>{{"bash", "sidereal", "star_field"},
                                           {"zsh", "sidereal", "star_field"},
                                           {"fish", "sidereal", "star_field"},
                                           {"lua", "sidereal", "star_field"},
                                           {"python", "sidereal", "star_field"},
                                           {"perl", "Sidereal", "StarField"},
                                           {"tcl", "sidereal", "star_field"},
                                           {"guile", "sidereal", "star-field"}}) {
        CAPTURE(row.host);
        const std::string manifest_file = "w/mods/" + row.star_field + "/module.envar.toml";
        const Driver driver;
        make(driver, row, "<1.2");
        const auto resolved = driver.envar({"resolve"}, "w");
        CHECK_MESSAGE(resolved.status == 0, resolved.output, resolved.errors);
        CHECK(fs::read_symlink(driver / fmt::format("w/.envar/view/{}/{}", row.host, row.sidereal))
                  .string()
                  .find(row.sidereal + "/1.1.4") != std::string::npos);
        CHECK_MESSAGE(located(driver, row).find("mods/" + row.sidereal + "/1.1.4/") != std::string::npos,
                      located(driver, row));
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        const auto trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.status == 0, trial.output);
        // Another range, another version; and back again.
        std::string manifest = driver.read(manifest_file);
        driver.write(manifest_file, manifest.replace(manifest.find("<1.2"), 4, ">=1.2"));
        if (row.host == "tcl") {  // whose code says it too
            const std::string code_file = "w/mods/star_field/star_field.tcl";
            std::string code = driver.read(code_file);
            driver.write(code_file, code.replace(code.find("0-1.2"), 5, "1.2-"));
        }
        CHECK(driver.envar({"emit"}, "w").status == 0);
        CHECK(driver.envar({"resolve"}, "w").status == 0);
        CHECK(located(driver, row).find("mods/" + row.sidereal + "/1.2.0/") != std::string::npos);
        const auto again = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(again.status == 0, again.output);
        CHECK(driver.envar({"undo"}, "w").status == 0);
        CHECK(located(driver, row).find("mods/" + row.sidereal + "/1.1.4/") != std::string::npos);
    }
}

TEST_CASE("a view can be asked for, shown, and is not needed without versions side by side") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    REQUIRE(driver.envar({"scaffold", "sidereal", "--host", "lua"}, "w").status == 0);
    CHECK(driver.envar({"view"}, "w").status == 1);
    CHECK(driver.envar({"view", "--host", "nobody"}, "w").status == 1);
    CHECK(driver.envar({"view", "--host", "lua", "--dry-run"}, "w").status == 0);
    CHECK_FALSE(driver.has("w/.envar/view/lua"));
    CHECK(driver.envar({"view", "--host", "lua"}, "w").status == 0);
    const auto again = driver.envar({"view", "--host", "lua"}, "w");
    CHECK(again.output.find("is so already") != std::string::npos);
    CHECK(driver.envar({"paths", "--host", "lua"}, "w").output.find("view of the chosen versions") !=
          std::string::npos);
    CHECK(driver.envar({"trial"}, "w").status == 0);
}

TEST_CASE("versions side by side that were made without Envar: adopted, chosen, loaded, and back again") {
    struct Made {
        std::string host, name;
        std::vector<std::pair<std::string, std::string>> files;  // @ is the version
        std::vector<std::string> links;                          // what the view shows
        std::string older = "1.0.0";                             // what the older one's folder is called
    };
    const std::vector<Made> all = {
        {"lua",
         "dawn",
         {{"dawn.lua", "local M = { _VERSION = \"@\" }\nfunction M.rise() end\nreturn M\n"}},
         {"dawn.lua"}},
        {"lua", "dusk", {{"init.lua", "local M = {}\nfunction M.set() end\nreturn M\n"}}, {"dusk"}, "v1.0"},
        {"python",
         "stars",
         {{"stars.py", "from _stars_impl import VERSION as __version__\ndef shine(x):\n    return x\n"},
          {"_stars_impl.py", "VERSION = \"@\"\n"}},
         {"_stars_impl.py", "stars.py"}},
        {"perl", "Comet", {{"Comet.pm", "package Comet;\nour $VERSION = \"@\";\nsub tail { }\n1;\n"}}, {"Comet"}},
        {"bash", "logs", {{"logs.sh", "log_say() {\n  echo \"$1\"\n}\n"}}, {"logs"}},
        {"tcl",
         "moons",
         {{"moons.tcl", "package provide moons @\nproc moons_of {planet} { }\n"},
          {"pkgIndex.tcl", "package ifneeded moons @ [list source [file join $dir moons.tcl]]\n"}},
         {"moons"}}};
    for (const Made& made : all) {
        CAPTURE(made.name);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        const auto must = [&](const std::vector<std::string>& arguments) {
            const auto run = driver.envar(arguments, "w");
            REQUIRE_MESSAGE(run.status == 0, run.output, run.errors);
            return run.output;
        };
        for (const std::string version : {"1.0.0", "1.2.0"})
            for (const auto& [file, text] : made.files) {
                const std::string folder = version == "1.0.0" ? made.older : version;
                std::string own = text;
                if (const std::size_t at = own.find('@'); at != std::string::npos) own.replace(at, 1, version);
                driver.write(fmt::format("w/old/{}/{}/{}", made.name, folder, file), own);
            }
        CHECK(must({"adopt", "old"}).find("envar resolve && envar check") != std::string::npos);
        CHECK(driver.envar({"check"}, "w").output.find("EV402") != std::string::npos);
        must({"resolve"});
        for (const auto& link : made.links)
            CHECK(fs::read_symlink(driver / fmt::format("w/.envar/view/{}/{}", made.host, link))
                      .string()
                      .find("old/" + made.name + "/1.2.0") != std::string::npos);
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find("nothing found") != std::string::npos, check.output);
        CHECK(must({"trial"}).find("old/" + made.name + "/1.2.0/") != std::string::npos);
        const std::string located = must({"locate", made.name});
        CHECK_MESSAGE(located.find(made.name + " 1.2.0 for " + made.host) != std::string::npos, located);
        CHECK_MESSAGE(located.find("shadowed") == std::string::npos, located);
        // The older one is as good.
        driver.write(
            "w/workspace.envar.toml",
            driver.read("w/workspace.envar.toml") +
                fmt::format("\n[[pin]]\nmodule = \"{}\"\nversions = \"<1.2\"\nreason = \"a try\"\n", made.name));
        must({"resolve"});
        CHECK(must({"trial"}).find("old/" + made.name + "/" + made.older + "/") != std::string::npos);
    }
}

TEST_CASE("a name is taken by a module that is none of several versions") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/lua/dawn/init.lua", "return {}\n");
    driver.write("w/old/dawn/1.2.0/dawn.lua", "return { _VERSION = \"1.3.0\" }\n");
    driver.write("w/old/dusk/1.2.0/dusk.lua", "return { _VERSION = \"1.3.0\" }\n");
    REQUIRE(driver.envar({"adopt", "lua/dawn"}, "w").status == 0);
    const auto refused = driver.envar({"adopt", "old/dawn/1.2.0"}, "w");
    CHECK(refused.status == 1);
    CHECK(refused.errors.find("there is a module `dawn` already") != std::string::npos);
    const auto other = driver.envar({"adopt", "old/dusk/1.2.0"}, "w");
    CHECK(other.status == 0);
    CHECK_MESSAGE(other.output.find("its files tell version 1.3.0, its folder 1.2.0") != std::string::npos,
                  other.output);
    // Also where there is but one, a view shows it.
    CHECK(driver.envar({"check", "dusk"}, "w").output.find("run `envar resolve`") != std::string::npos);
    CHECK(driver.envar({"resolve"}, "w").status == 0);
    CHECK(driver.envar({"check", "dusk"}, "w").output.find("nothing found") != std::string::npos);
    CHECK(driver.envar({"locate", "dusk"}, "w").output.find("dusk 1.2.0 for lua") != std::string::npos);
}

TEST_CASE("a file that another module's hides in a view is told, unless both say the same") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    for (const std::string name : {"dawn", "dusk"}) {
        const std::string folder = "w/lua/" + name + "/1.0.0/";
        driver.write(folder + name + ".lua", "local helper = require(\"helper\")\nreturn { name = helper.name }\n");
        driver.write(folder + "helper.lua", "return { name = \"" + name + "\" }\n");
        driver.write(folder + "common.lua", "return {}\n");
        REQUIRE(driver.envar({"adopt", "lua/" + name + "/1.0.0"}, "w").status == 0);
    }
    REQUIRE(driver.envar({"resolve"}, "w").status == 0);
    const auto check = driver.envar({"check"}, "w");
    CHECK(check.status == 1);
    CHECK_MESSAGE(
        check.output.find("lua/dusk/1.0.0/module.envar.toml:3:8: warning: in the view of lua, "
                          "lua/dusk/1.0.0/helper.lua is hidden by that of dawn [EV405]") != std::string::npos,
        check.output);
    CHECK_MESSAGE(check.output.find("`helper.lua` gets lua/dawn/1.0.0/helper.lua") != std::string::npos,
                  check.output);
    CHECK_MESSAGE(check.output.find("0 errors and 1 warning") != std::string::npos, check.output);
}

TEST_CASE("a view is the old one or the new one, whenever its renewal ends") {
    const Row row{"lua", "sidereal", "star_field"};
    const Driver driver;
    make(driver, row, "<1.2");
    REQUIRE(driver.envar({"resolve"}, "w").status == 0);
    const std::string manifest_file = "w/mods/star_field/module.envar.toml";
    std::string manifest = driver.read(manifest_file);
    driver.write(manifest_file, manifest.replace(manifest.find("<1.2"), 4, ">=1.2"));
    REQUIRE(driver.envar({"emit"}, "w").status == 0);
    fs::rename(driver / "w", driver / "start");
    for (const std::string mode : {"kill", "fail"}) {
        int faults = 0;
        std::set<std::string> seen;
        for (int at = 1; at < 200; ++at) {
            CAPTURE(mode);
            CAPTURE(at);
            driver.remove("w");
            driver.remove("fault");
            driver.copy_from(driver / "start", "w");
            const auto run = driver.envar_with({{"LD_PRELOAD", ENVAR_FAULTS},
                                                {"ENVAR_FAULT_AT", std::to_string(at)},
                                                {"ENVAR_FAULT_MODE", mode},
                                                {"ENVAR_FAULT_LOG", (driver / "fault").string()}},
                                               {"resolve"}, "w");
            if (!driver.has("fault")) break;
            ++faults;
            const fs::path link = driver / "w/.envar/view/lua/sidereal";
            std::error_code none;
            if (fs::is_symlink(fs::symlink_status(link, none))) {
                CHECK_MESSAGE(fs::exists(link), "the link leads nowhere");
                seen.insert(fs::read_symlink(link).filename().string());
            }
            // Whatever was left: the same command puts it right.
            const auto again = driver.envar({"resolve"}, "w");
            CHECK_MESSAGE(again.status == 0, run.errors, again.errors);
            CHECK(fs::read_symlink(link).filename() == "1.2.0");
            CHECK(located(driver, row).find("mods/sidereal/1.2.0/") != std::string::npos);
        }
        CHECK(faults > 5);
        for (const auto& version : seen) CHECK((version == "1.1.4" || version == "1.2.0"));
        CHECK(seen.count("1.1.4") == 1);  // some faults came before the renewal
    }
}
