// Versions side by side in hosts that know none: the real hosts load the version that was chosen.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;

namespace {

namespace fs = std::filesystem;

/// A workspace where `sidereal` lies in two versions, and `star_field` needs it in the range.
void make(const Driver& driver, const std::string& host, const std::string& range) {
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    for (const std::string version : {"1.2.0", "1.1.4"}) {
        REQUIRE(
            driver.envar({"scaffold", "sidereal", "--host", host, "--module-version", version, "--in", "mods"}, "w")
                .status == 0);
        fs::rename(driver / "w/mods/sidereal", driver / ("w/" + version));
    }
    REQUIRE(
        driver.envar({"scaffold", "star_field", "--host", host, "--in", "mods", "--depend", "sidereal " + range}, "w")
            .status <= 1);
    fs::create_directories(driver / "w/mods/sidereal");
    for (const std::string version : {"1.2.0", "1.1.4"})
        fs::rename(driver / ("w/" + version), driver / ("w/mods/sidereal/" + version));
    if (!driver.has("w/mods/star_field/module.envar.toml"))
        REQUIRE(
            driver
                .envar({"scaffold", "star_field", "--host", host, "--in", "mods", "--depend", "sidereal " + range},
                       "w")
                .status == 0);
}

std::string located(const Driver& driver, const std::string& host) {
    CHECK(driver.envar({"locate", "sidereal", "--host", host}, "w").status == 0);
    const auto result = json::parse(driver.read("w/envar-results/locate.json"));
    return result["chosen"].is_null() ? "" : result["chosen"]["file"].get<std::string>();
}

}  // namespace

TEST_CASE("versions side by side: the chosen one is found and loaded") {
    for (const std::string host : {"bash", "zsh", "fish", "lua", "python", "perl", "guile"}) {
        CAPTURE(host);
        const Driver driver;
        make(driver, host, "<1.2");
        const auto resolved = driver.envar({"resolve"}, "w");
        CHECK_MESSAGE(resolved.status == 0, resolved.output, resolved.errors);
        CHECK(fs::read_symlink(driver / fmt::format("w/.envar/view/{}/sidereal", host))
                  .string()
                  .find("sidereal/1.1.4") != std::string::npos);
        CHECK_MESSAGE(located(driver, host).find("mods/sidereal/1.1.4/") != std::string::npos, located(driver, host));
        const auto check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.output.find(" 0 errors and 0 warnings") != std::string::npos, check.output);
        const auto trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.status == 0, trial.output);
        // Another range, another version; and back again.
        std::string manifest = driver.read("w/mods/star_field/module.envar.toml");
        driver.write("w/mods/star_field/module.envar.toml", manifest.replace(manifest.find("<1.2"), 4, ">=1.2"));
        CHECK(driver.envar({"resolve"}, "w").status == 0);
        CHECK(located(driver, host).find("mods/sidereal/1.2.0/") != std::string::npos);
        const auto again = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(again.status == 0, again.output);
        CHECK(driver.envar({"undo"}, "w").status == 0);
        CHECK(located(driver, host).find("mods/sidereal/1.1.4/") != std::string::npos);
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
