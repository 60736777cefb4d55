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
