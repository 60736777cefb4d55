// Foreign mods of the voxel engine: what their files say, adopted one by one and as a tree.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "tests/support/mods.hpp"

using namespace envar::tests;
using nlohmann::json;
namespace fs = std::filesystem;

TEST_CASE("what foreign mods say is understood as the voxel engine does, and what is not is told") {
    struct Row {
        std::string conf, other;  // mod.conf, depends.txt; empty: none
        std::string name;
        std::vector<std::string> needs, wishes;
        std::string note;
    };
    const std::vector<Row> rows = {
        {"name = x\ndepends = a, b\noptional_depends = c\n", "", "x", {"a", "b"}, {"c"}, ""},
        {"name = x\r\ndepends = a ,\tb\r\n", "", "x", {"a", "b"}, {}, ""},
        {"\xEF\xBB\xBFname = x\ndepends = a\n", "", "given", {"a"}, {}, "byte-order mark"},
        {"name = x\nname = y\ndepends = a\ndepends = b\n", "", "y", {"b"}, {}, "2 times"},
        {"name = x\ndepends = \"a\"\n", "", "x", {}, {}, "`\"a\"` is no name of a module"},
        {"name = x\ndepends = a,,b\n", "", "x", {"a", "b"}, {}, "a comma too many"},
        {"name = x\ndepends = \"\"\"\na,\nb\n\"\"\"\n", "", "x", {"a", "b"}, {}, ""},
        {"name = x\n", "a\nb?\n", "x", {"a"}, {"b"}, ""},
        {"name = x\ndepends =\n", "a\n", "x", {}, {}, ""},
        {"", "a\nb?\n", "given", {"a"}, {"b"}, ""},
        {"name = x\nthis is no setting\n", "", "x", {}, {}, "mod.conf:2: `this is no setting` is not understood"},
        {"name = x\ndepends = a # later\n", "", "x", {}, {}, "is no name of a module"},
        {"name = x\noptional_depends = a\ndepends = a\n", "", "x", {"a"}, {}, ""},
        {"name = x\ndepends = gone\n", "", "x", {"gone"}, {}, ""},
    };
    for (const Row& row : rows) {
        CAPTURE(row.conf);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        driver.write("mods/given/init.lua", "given = {}\n");
        if (!row.conf.empty()) driver.write("mods/given/mod.conf", row.conf);
        if (!row.other.empty()) driver.write("mods/given/depends.txt", row.other);
        const Run adopt = driver.envar({"adopt", "../mods/given", "--into", "mods", "--host", "minetest"}, "w");
        CHECK_MESSAGE(adopt.status == 0, adopt.errors);
        CHECK_MESSAGE(adopt.output.find(row.note) != std::string::npos, adopt.output);
        const json modules = result_of(driver.envar({"modules", "--format", "json"}, "w"))["modules"];
        REQUIRE(modules.size() == 1);
        CHECK(modules[0]["module"] == row.name);
        const std::string manifest = driver.read("w/mods/given/module.envar.toml");
        std::string wanted;
        for (const auto& need : row.needs) wanted += fmt::format("[[dependency]]\nmodule = \"{}\"\n\n", need);
        for (const auto& wish : row.wishes)
            wanted += fmt::format("[[dependency]]\nmodule = \"{}\"\noptional = true\n\n", wish);
        const std::size_t first = manifest.find("[[dependency]]");
        CHECK((first == std::string::npos ? "" : manifest.substr(first) + "\n").starts_with(wanted));
        CHECK((first == std::string::npos) == wanted.empty());
    }
}

TEST_CASE("a tree of foreign mods is adopted without touching it, or copied; then it checks, orders and loads") {
    const Driver driver;
    std::map<std::string, Mod> mods;
    std::mt19937 random(7);
    for (std::size_t i = 0; i < 120; ++i) {
        constexpr std::array packs = {"", "", "night/", "day/", "day/noon/"};
        Mod mod{fmt::format("{}mod_{:03}", packs[random() % packs.size()], i), fmt::format("mod_{:03}", i), {}, {}};
        for (std::size_t n = random() % 4; n > 0 && i > 0; --n)
            mod.needs.push_back(fmt::format("mod_{:03}", random() % i));
        std::sort(mod.needs.begin(), mod.needs.end());
        mod.needs.erase(std::unique(mod.needs.begin(), mod.needs.end()), mod.needs.end());
        write_mod(driver, "mods", mod);
        mods[mod.name] = mod;
    }
    const auto before = contents(driver / "mods");
    for (const bool copy : {false, true}) {
        CAPTURE(copy);
        const std::string w = copy ? "copied" : "pointing";
        CHECK(driver.envar({"begin", w}).status == 0);
        std::vector<std::string> arguments = {"adopt", "../mods", "--into", "mods", "--host", "minetest"};
        if (copy) arguments.emplace_back("--copy");
        const Run adopt = driver.envar(arguments, w);
        CHECK_MESSAGE(adopt.status == 0, adopt.errors);
        CHECK(contents(driver / "mods") == before);
        const Run check = driver.envar({"check"}, w);
        CHECK_MESSAGE(check.status == 0, check.output);
        const json order = result_of(driver.envar({"order", "--as-host", "--format", "json"}, w))["order"];
        REQUIRE(order.size() == mods.size());
        for (const auto& placed : order)
            CHECK(placed["needs"] == json(mods.at(placed["module"].get<std::string>()).needs));
        const Run trial = driver.envar({"trial"}, w);
        CHECK_MESSAGE(trial.status == 0, trial.output);
        CHECK(driver.envar({"undo"}, w).status == 0);
        CHECK(contents(driver / "mods") == before);
        CHECK(!fs::exists(driver / (w + "/mods/mod_000")));
    }
}

TEST_CASE("a tree of mods is taken for the engine's without being told so, a lone folder with init.lua is not") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    write_mod(driver, "mods", {"lamp", "lamp", {"bare"}, {}});
    driver.write("mods/bare/init.lua", "");
    driver.write("mods/notes/readme.txt", "");
    const Run adopt = driver.envar({"adopt", "../mods", "--into", "mods"}, "w");
    CHECK_MESSAGE(adopt.status == 0, adopt.errors);
    for (const auto* name : {"lamp", "bare"})
        CHECK(driver.read(fmt::format("w/mods/{}/module.envar.toml", name)).find("host = \"minetest\"") !=
              std::string::npos);
    driver.write("w/lua/alone/init.lua", "return {}\n");
    CHECK(driver.envar({"adopt", "lua/alone"}, "w").status == 0);
    CHECK(driver.read("w/lua/alone/module.envar.toml").find("host = \"lua\"") != std::string::npos);
}

TEST_CASE("the mods of a game are found where the engine looks, with what all their files put into their tables") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    driver.write("game/game.conf", "name = Planet\n");
    const std::string sky = "game/mods/sky/";
    driver.write(sky + "mod.conf", "name = sky\n");
    driver.write(sky + "init.lua",
                 "sky = {}\nother = {}\nlocal path = minetest.get_modpath(\"sky\")\n"
                 "local function load_part(file)\n    dofile(file)\nend\n"
                 "dofile(path .. \"/near.lua\")\nload_part(minetest.get_modpath('sky') .. '/far/init.lua')\n"
                 "local below = path .. \"/parts/\"\ndofile(below .. \"low.lua\")\n");
    driver.write(sky + "parts/low.lua", "sky.low = {}\n");
    driver.write(sky + "near.lua",
                 "local s = sky\nfunction sky.near(x)\nend\nfunction other.strange() end\nlocal function mine() end\n"
                 "s.nearer = function(x, y) end\nsky._hidden = 1\n");
    driver.write(sky + "far/init.lua", "sky.far = 6\n");
    driver.write("game/mods/shy/init.lua", "local shy = {}\nfunction shy.hide() end\n");
    driver.write("game/mods/pack/modpack.conf", "name = pack\n");
    driver.write("game/mods/pack/deep/init.lua", "");
    for (const auto* file : {"textures/a.xcf", "models/LICENSE.txt", "models/a.png", "locale/template.txt"})
        driver.write(sky + file, "x");
    const Run adopt = driver.envar({"adopt", "../game", "--into", "mods", "--host", "minetest", "--copy"}, "w");
    CHECK_MESSAGE(adopt.status == 0, adopt.errors);
    const Run check = driver.envar({"check"}, "w");
    CHECK_MESSAGE(check.status == 0, check.output);
    std::set<std::string> members;
    const json result = result_of(driver.envar({"members", "--format", "json"}, "w"));
    for (const auto& module : result["modules"])
        for (const auto& member : module["members"])
            members.insert(fmt::format("{}.{} {} {}", module["module"].get<std::string>(),
                                       member["name"].get<std::string>(), member["file"].get<std::string>(),
                                       member["parameters"].size()));
    CHECK(
        fmt::format("{}", fmt::join(members, "; ")) ==
        "sky.far mods/mods/sky/far/init.lua 0; sky.low mods/mods/sky/parts/low.lua 0; sky.near mods/mods/sky/near.lua 1; "
        "sky.nearer mods/mods/sky/near.lua 2");
    const Run trial = driver.envar({"trial"}, "w");
    CHECK_MESSAGE(trial.status == 0, trial.output);
    // What the engine takes from no folder is told.
    driver.write("w/mods/mods/sky/sounds/a.wav", "x");
    CHECK(driver.envar({"check"}, "w").output.find("minetest takes no `a.wav` from `sounds`") != std::string::npos);
    // A mod that cannot be tried is not fine.
    CHECK(driver.envar({"depend", "shy", "gone"}, "w").status != 2);
    driver.write("w/mods/mods/shy/module.envar.toml",
                 driver.read("w/mods/mods/shy/module.envar.toml") + "\n[[dependency]]\nmodule = \"gone\"\n");
    for (const auto& words : {std::vector<std::string>{"trial"}, {"trial", "shy"}}) {
        const Run lacking = driver.envar(words, "w");
        CHECK(lacking.status == 1);
        CHECK(lacking.output.find("not tried: shy: needs gone, which is not there") != std::string::npos);
        const std::string end =
            words.size() == 1 ? "2 modules loaded as predicted; not all could be tried" : "nothing could be tried";
        CHECK_MESSAGE(lacking.output.find(end) != std::string::npos, lacking.output);
    }
    CHECK(driver.envar({"trial", "sky"}, "w").status == 0);
}
