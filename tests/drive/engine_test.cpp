// Modules for game engines: scaffolded, adopted, ordered, and loaded in the real engines, which run headless.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <fstream>
#include <future>
#include <nlohmann/json.hpp>
#include <random>
#include <regex>
#include <set>

#include "tests/support/mods.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

namespace fs = std::filesystem;

struct World {
    std::vector<Mod> mods;
    std::vector<std::string> enabled;  // by a target; empty: all
};

/// 3 to 30 mods, some in packs, with needs that mostly lead back to earlier ones.
World random_world(unsigned seed) {
    std::mt19937 random(seed);
    const auto below = [&](std::size_t limit) { return limit == 0 ? 0 : random() % limit; };
    const auto chance = [&](unsigned percent) { return random() % 100 < percent; };
    World world;
    const std::size_t count = 3 + below(28);
    std::vector<std::string> names;
    for (std::size_t i = 0; i < count; ++i) names.push_back(fmt::format("m{}{}", "abcdefghijkl_019"[below(16)], i));
    for (std::size_t i = 0; i < count; ++i) {
        Mod mod;
        constexpr std::array outer = {"pa", "pb", "a_p", "zp", "M0"};
        constexpr std::array inner = {"qa", "qb", "0q"};
        std::string pack = chance(40) ? outer[below(outer.size())] + std::string("/") : "";
        if (!pack.empty() && chance(30)) pack += inner[below(inner.size())] + std::string("/");
        const bool same = chance(70);
        mod.folder = pack + (same ? names[i] : fmt::format("{}f{}", "abxyz"[below(5)], i));
        if (!same || chance(80)) mod.name = names[i];
        const auto some = [&](std::size_t most) {
            std::vector<std::string> out;
            const std::size_t pool = chance(93) ? i : count;  // now and then a circle
            for (std::size_t n = below(most + 1); n > 0 && pool > 0; --n) {
                const std::string& other = names[below(pool)];
                if (other != names[i] && std::find(out.begin(), out.end(), other) == out.end()) out.push_back(other);
            }
            return out;
        };
        mod.needs = some(chance(60) ? 0 : 3);
        mod.wishes = some(chance(70) ? 0 : 2);
        if (chance(4)) mod.needs.push_back(fmt::format("missing{}", i));
        if (chance(10)) mod.wishes.push_back(fmt::format("nowhere{}", i));
        world.mods.push_back(std::move(mod));
    }
    if (chance(40))
        for (const auto& name : names)
            if (chance(75)) world.enabled.push_back(name);
    return world;
}

struct EngineRun {
    std::vector<std::string> loaded;
    std::set<std::string> dropped;
};

/// Runs the voxel engine by itself, with a world that has the mods switched on.
EngineRun run_voxels(const Driver& driver, const std::string& mods, const std::set<std::string>& enabled,
                     unsigned number = 0) {
    std::string world =
        "gameid = bare\nbackend = dummy\nplayer_backend = dummy\nauth_backend = files\n"
        "mod_storage_backend = dummy\n";
    for (const auto& name : enabled) world += "load_mod_" + name + " = true\n";
    driver.write("engine/world/world.mt", world);
    driver.write("engine/conf", "");
    driver.write("engine/games/bare/game.conf", "title = bare\n");
    driver.write("engine/games/bare/mods/README", "");
    driver.write("engine/world/worldmods/ender/mod.conf", "name = ender\n");
    driver.write("engine/world/worldmods/ender/init.lua",
                 "minetest.register_on_mods_loaded(function() minetest.request_shutdown('', false, 0) end)\n");
    const auto at = [&](const std::string& path) { return (driver / path).string(); };
    const Run run = driver.program(
        {"/usr/lib/minetest/minetestserver", "--color", "never", "--config", at("engine/conf"), "--logfile", "",
         "--world", at("engine/world"), "--port",
         std::to_string(20000 + (static_cast<unsigned>(getpid()) * 32U + number) % 20000), "--info"},
        {{"MINETEST_MOD_PATH", at(mods)}, {"MINETEST_SUBGAME_PATH", at("engine/games")}, {"LANG", "C"}});
    EngineRun result;
    const std::string said = run.output + run.errors;
    const std::regex loaded("Mod \"([^\"]+)\" loaded after");
    const std::regex dropped("mod \"([^\"]+)\" has unsatisfied");
    for (std::sregex_iterator it(said.begin(), said.end(), loaded), end; it != end; ++it)
        if ((*it)[1] != "ender") result.loaded.push_back((*it)[1]);
    for (std::sregex_iterator it(said.begin(), said.end(), dropped), end; it != end; ++it)
        result.dropped.insert((*it)[1]);
    return result;
}

/// What Envar tells of a random world, and what the engine does with it. Nothing is checked here, so that several may
/// run side by side: the engine mostly waits.
struct WorldRun {
    std::string trouble;
    std::vector<std::string> loaded;
    std::set<std::string> dropped;
    EngineRun real;
    bool told = true;  // each drop of the whole workspace has a finding with its place
};

WorldRun run_world(unsigned seed) {
    const Driver driver;
    const World world = random_world(seed);
    WorldRun result;
    for (const Mod& mod : world.mods) write_mod(driver, "mods", mod);
    const Run begin = driver.envar({"begin", "w"});
    const Run adopt = driver.envar({"adopt", "../mods", "--into", "foreign", "--host", "minetest"}, "w");
    if (begin.status != 0 || adopt.status != 0) result.trouble = begin.errors + adopt.errors + "not adopted";
    std::vector<std::string> ask = {"order", "--as-host", "--format", "json"};
    if (!world.enabled.empty()) {
        driver.write("w/workspace.envar.toml",
                     driver.read("w/workspace.envar.toml") +
                         fmt::format("\n[[target]]\nname = \"v\"\nmodules = {}\n", json(world.enabled).dump()));
        ask.insert(ask.end(), {"--target", "v"});
    }
    const json order = json::parse(driver.envar(ask, "w").output, nullptr, false);
    if (order.is_discarded()) result.trouble += "no order";
    if (!result.trouble.empty()) return result;
    for (const auto& placed : order["order"]) result.loaded.push_back(placed["module"]);
    for (const auto& skipped : order["skipped"]) result.dropped.insert(skipped["module"].get<std::string>());
    std::set<std::string> enabled(result.loaded.begin(), result.loaded.end());
    enabled.insert(result.dropped.begin(), result.dropped.end());
    result.real = run_voxels(driver, "mods", enabled, seed);
    if (result.dropped.empty() || !world.enabled.empty()) return result;
    const json check = json::parse(driver.envar({"check", "--format", "json"}, "w").output, nullptr, false);
    result.told = !check.is_discarded() &&
                  std::any_of(check["findings"].begin(), check["findings"].end(), [](const json& finding) {
                      const std::string code = finding["code"];
                      return (code == "EV301" || code == "EV305" || code == "EV604") && finding["line"] > 0 &&
                             finding["file"].get<std::string>().ends_with("module.envar.toml");
                  });
    return result;
}

}  // namespace

TEST_CASE("the order of mods and what is dropped is the voxel engine's own, world by world") {
    for (unsigned first = 1; first <= 20; first += 5) {
        std::vector<std::future<WorldRun>> runs;
        for (unsigned seed = first; seed < first + 5; ++seed)
            runs.push_back(std::async(std::launch::async, run_world, seed));
        for (unsigned i = 0; i < runs.size(); ++i) {
            const unsigned seed = first + i;
            CAPTURE(seed);
            const WorldRun run = runs[i].get();
            CHECK(run.trouble == "");
            CHECK(run.loaded.size() + run.dropped.size() > 0);
            CHECK(run.real.loaded == run.loaded);
            CHECK(run.real.dropped == run.dropped);
            CHECK(run.told);
        }
    }
}

TEST_CASE("a circle of wishes is told before the voxel engine drops its mods") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    for (const auto* name : {"dusk", "dawn"})
        CHECK(driver.envar({"scaffold", name, "--host", "minetest"}, "w").status == 0);
    for (const auto& [name, other] : {std::pair("dusk", "dawn"), std::pair("dawn", "dusk")}) {
        const std::string file = fmt::format("w/minetest/{}/module.envar.toml", name);
        std::string text = driver.read(file);
        const std::string entry = "file = \"init.lua\"\n";
        text.insert(text.find(entry) + entry.size(), fmt::format("after = [\"{}\"]\n", other));
        driver.write(file, text);
    }
    CHECK(driver.envar({"emit"}, "w").status == 0);
    const Run check = driver.envar({"check"}, "w");
    CHECK(check.status == 1);
    CHECK_MESSAGE(check.output.find("minetest/dawn/module.envar.toml:") != std::string::npos, check.output);
    CHECK_MESSAGE(check.output.find("EV604") != std::string::npos, check.output);
    const EngineRun real = run_voxels(driver, "w/minetest", {"dusk", "dawn"});
    CHECK(real.loaded.empty());
    CHECK(real.dropped == std::set<std::string>{"dawn", "dusk"});
}

TEST_CASE("modules of every blueprint load in their engine in the order that is told, and are clean") {
    struct Row {
        std::string host;
        std::vector<std::vector<std::string>> scaffolds;
    };
    const std::string hard = "summary=Tells \"the\" sky; \\ {{name}} ]] \" and\nmore";
    const std::vector<Row> rows = {
        {"minetest",
         {{"star_pool", "--set", hard, "--member", "place(magnitude, epoch = \"J2000\")"},
          {"lamps", "--blueprint", "commands", "--depend", "star_pool any", "--set", hard},
          {"night", "--blueprint", "pack", "--set", "pack=dusk", "--depend", "lamps any"},
          {"evening", "--blueprint", "pack", "--set", "pack=dusk"},
          {"dawn", "--blueprint", "game", "--set", "game=planet"},
          {"noon", "--blueprint", "game", "--set", "game=planet", "--depend", "dawn >=0.1"}}},
        {"godot",
         {{"sky_clock", "--set", hard, "--member", "tick(step = 2)"},
          {"curtain", "--blueprint", "stage", "--depend", "sky_clock any"},
          {"alpha"},
          {"tuner", "--blueprint", "addon", "--set", hard},
          {"mixer", "--blueprint", "addon"}}},
    };
    for (const Row& row : rows) {
        CAPTURE(row.host);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        for (auto arguments : row.scaffolds) {
            arguments.insert(arguments.begin(), "scaffold");
            arguments.insert(arguments.end(), {"--host", row.host});
            const Run made = driver.envar(arguments, "w");
            CHECK_MESSAGE(made.status == 0, made.errors);
        }
        const Run check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.status == 0, check.output);
        const json order = result_of(driver.envar({"order", "--as-host", "--format", "json"}, "w"));
        const Run run = driver.envar({"trial", "--format", "json"}, "w");
        CHECK_MESSAGE(run.status == 0, run.output << run.errors);
        const json trial = result_of(run)["hosts"][0]["modules"];
        REQUIRE(trial.size() == row.scaffolds.size());
        for (std::size_t i = 0; i < trial.size(); ++i) {
            CHECK(trial[i]["module"] == order["order"][i]["module"]);
            CHECK(trial[i]["version"] == "0.1.0");
        }
        const Run again = driver.envar({"emit"}, "w");
        CHECK_MESSAGE(again.output.find("nothing") != std::string::npos, again.output);
    }
}

TEST_CASE("a target is a world of the voxel engine: its mods, its game, and the user's own settings stay") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    for (const auto* name : {"star_pool", "lamps"})
        CHECK(driver.envar({"scaffold", name, "--host", "minetest"}, "w").status == 0);
    CHECK(driver.envar({"scaffold", "dawn", "--host", "minetest", "--blueprint", "game", "--set", "game=planet"}, "w")
              .status == 0);
    driver.write("w/workspace.envar.toml", driver.read("w/workspace.envar.toml") +
                                               "\n[[target]]\nname = \"viewer\"\nmodules = [\"dawn\", \"lamps\"]\n");
    driver.write("w/worlds/viewer/world.mt", "backend = dummy\nmine = kept\n");
    CHECK(driver.envar({"emit"}, "w").status == 0);
    const std::string world = driver.read("w/worlds/viewer/world.mt");
    CHECK(world.starts_with("backend = dummy\nmine = kept\n"));
    CHECK(world.find("\ngameid = planet\n") != std::string::npos);
    CHECK(world.find("\nload_mod_lamps = true\n") != std::string::npos);
    CHECK(world.find("load_mod_dawn") + world.find("load_mod_star_pool") == 2 * std::string::npos);
    const Run trial = driver.envar({"trial", "--target", "viewer"}, "w");
    CHECK_MESSAGE(trial.status == 0, trial.output);
    CHECK(trial.output.find("star_pool") == std::string::npos);
}

TEST_CASE("the scene engine runs the project that Envar keeps, in the order told; what the user wrote stays") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    driver.write(
        "w/stage/project.godot",
        "config_version=4\n\n[application]\n\nconfig/name=\"mine\"\n\n[autoload]\n\nOwn=\"*res://own.gd\"\n");
    driver.write("w/stage/own.gd", "extends Node\nfunc _ready():\n\tprint(\"ready own\")\n");
    for (const auto* name : {"alpha", "zenith"})
        CHECK(driver.envar({"scaffold", name, "--host", "godot", "--in", "stage"}, "w").status == 0);
    CHECK(driver.envar({"depend", "alpha", "zenith any"}, "w").status == 0);
    CHECK(driver.envar({"emit"}, "w").status == 0);
    for (const auto* name : {"alpha", "zenith"}) {
        const std::string file = fmt::format("w/stage/addons/{0}/{0}.gd", name);
        driver.write(file, driver.read(file) + fmt::format("\n\nfunc _ready():\n\tprint(\"ready {}\")\n", name));
    }
    driver.write("w/stage/stop.gd", "extends SceneTree\nfunc _init():\n\tcall_deferred(\"quit\")\n");
    const Run run = driver.program(
        {"timeout", "20", "godot3-server", "--path", (driver / "w/stage").string(), "-s", "res://stop.gd"});
    const std::size_t own = run.output.find("ready own");
    const std::size_t zenith = run.output.find("ready zenith");
    const std::size_t alpha = run.output.find("ready alpha");
    CHECK_MESSAGE((own < zenith && zenith < alpha && alpha != std::string::npos), run.output << run.errors);
    CHECK(driver.read("w/stage/project.godot").find("config/name=\"mine\"") != std::string::npos);
}

TEST_CASE(
    "the scene engine's editor writes the project anew without the block's marks: it is put right, not doubled") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    for (const auto* name : {"alpha", "zenith"})
        CHECK(driver.envar({"scaffold", name, "--host", "godot"}, "w").status == 0);
    CHECK(driver.envar({"scaffold", "tuner", "--host", "godot", "--blueprint", "addon"}, "w").status == 0);
    const std::string project = "w/godot/project.godot";
    driver.write(project, driver.read(project) + "\n[rendering]\n\nquality/driver/driver_name=\"GLES2\"\n");
    // The editor may be asked to quit before it has written anything.
    for (int tries = 0; tries < 5 && driver.read(project).find("Envar's block") != std::string::npos; ++tries)
        CHECK(driver
                  .program({"timeout", "60", "godot3-server", "--path", (driver / "w/godot").string(), "--editor",
                            "--quit"})
                  .status == 0);
    CHECK(driver.read(project).find("Envar's block") == std::string::npos);
    CHECK(driver.envar({"check"}, "w").status == 1);
    CHECK(driver.envar({"emit"}, "w").status == 0);
    const std::string mended = driver.read(project);
    for (const auto* line : {"Alpha=", "Zenith=", "enabled=", "driver_name=\"GLES2\""}) {
        const std::size_t first = mended.find(line);
        CHECK_MESSAGE(first != std::string::npos, mended);
        CHECK_MESSAGE(mended.find(line, first + 1) == std::string::npos, mended);
    }
    CHECK(driver.envar({"check"}, "w").status == 0);
}

TEST_CASE("what goes wrong in an engine is told with the module to blame, within the time limit") {
    struct Row {
        std::string host, file, code, told;
    };
    const std::vector<Row> rows = {
        {"minetest", "minetest/alpha/init.lua", "error('boom')\n", "alpha: the host says: "},
        {"minetest", "minetest/alpha/init.lua", "while true do end\n",
         "was ended while it loaded star_pool by the time limit"},
        {"minetest", "minetest/alpha/init.lua", "for i = 1, 200000 do print(string.rep('x', 60)) end\n",
         ""},  // 12 MB of talk do no harm
        {"godot", "godot/addons/alpha/alpha.gd", "func broken(:\n", "alpha: the host says: Parse Error"},
        {"godot", "godot/addons/alpha/alpha.gd", "func _ready():\n\twhile true:\n\t\tpass\n", "by the time limit"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.host);
        CAPTURE(row.code);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        for (const auto* name : {"alpha", "star_pool"})
            CHECK(driver.envar({"scaffold", name, "--host", row.host}, "w").status == 0);
        driver.write("w/" + row.file, driver.read("w/" + row.file) + row.code);
        const Run trial =
            driver.envar({"trial", "--seconds", row.told.find("time limit") == std::string::npos ? "30" : "3"}, "w");
        CHECK(trial.status == (row.told.empty() ? 0 : 1));
        CHECK_MESSAGE(trial.output.find(row.told) != std::string::npos, trial.output);
        CHECK(trial.output.size() < 20000);
    }
    // An engine that is not installed: the card says which package brings it.
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    CHECK(driver.envar({"scaffold", "alpha", "--host", "minetest"}, "w").status == 0);
    fs::create_directories(driver / "w/hosts");
    fs::copy(fs::path(ENVAR_SOURCE_FOLDER) / "hosts/minetest", driver / "w/hosts/minetest",
             fs::copy_options::recursive);
    std::string card = driver.read("w/hosts/minetest/minetest.host.toml");
    const std::size_t programs = card.find("programs = [");
    card.replace(programs, card.find(']', programs) - programs, "programs = [\"no-such-engine\"");
    driver.write("w/hosts/minetest/minetest.host.toml", card);
    const Run trial = driver.envar({"trial"}, "w");
    CHECK(trial.status == 3);
    CHECK_MESSAGE(trial.errors.find("install the package minetest-server") != std::string::npos, trial.errors);
}

TEST_CASE("a mod that lies deeper than packs lead is not seen by the voxel engine, and that is told") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    write_mod(driver, "w/mods", {"lamp", "lamp", {}, {}});
    driver.write("w/mods/plain/deep/init.lua", "");
    driver.write("w/mods/plain/deep/mod.conf", "name = deep\n");
    CHECK(driver.envar({"adopt", "mods", "--host", "minetest"}, "w").status == 0);
    const Run trial = driver.envar({"trial"}, "w");  // it has a search entry of its own
    CHECK_MESSAGE(trial.status == 0, trial.output);
    std::string settings = driver.read("w/workspace.envar.toml");
    const std::string entry = "\n[[search]]\nhost = \"minetest\"\nfolder = \"mods/plain\"\n";
    REQUIRE(settings.find(entry) != std::string::npos);
    driver.write("w/workspace.envar.toml", settings.erase(settings.find(entry), entry.size()));
    const json order = result_of(driver.envar({"order", "--as-host", "--format", "json"}, "w"));
    CHECK(order["order"].size() == 1);
    CHECK(order["skipped"][0]["module"] == "deep");
    CHECK(driver.envar({"trial"}, "w").status == 1);
    const Run check = driver.envar({"check"}, "w");
    CHECK(check.status == 1);
    CHECK_MESSAGE(check.output.find("mods/plain/deep/module.envar.toml:") != std::string::npos, check.output);
    CHECK(run_voxels(driver, "w/mods", {"lamp", "deep"}).loaded == std::vector<std::string>{"lamp"});
}

TEST_CASE("two mods of one name stop the voxel engine, and are told; a loose one comes before one in a pack") {
    const Driver driver;
    CHECK(driver.envar({"begin", "w"}).status == 0);
    for (const auto* folder : {"one", "two"}) write_mod(driver, "w/mods", {folder, "twin", {}, {}});
    write_mod(driver, "w/mods", {"pack/lamp", "lamp", {}, {}});
    write_mod(driver, "w/mods", {"lamp", "lamp", {}, {}});
    driver.write("w/workspace.envar.toml",
                 driver.read("w/workspace.envar.toml") + "\n[[search]]\nhost = \"minetest\"\nfolder = \"mods\"\n");
    const json twin = result_of(driver.envar({"locate", "twin", "--host", "minetest", "--format", "json"}, "w"));
    CHECK(twin["chosen"].is_null());
    CHECK(twin["near_misses"].dump().find("the host loads none, and stops") != std::string::npos);
    const json lamp = result_of(driver.envar({"locate", "lamp", "--host", "minetest", "--format", "json"}, "w"));
    CHECK(lamp["chosen"]["file"].get<std::string>().ends_with("mods/lamp/init.lua"));
    CHECK(lamp["shadowed"].size() == 1);
    CHECK(run_voxels(driver, "w/mods", {"twin", "lamp"}).loaded.empty());
    const json near = result_of(driver.envar({"locate", "lamb", "--host", "minetest", "--format", "json"}, "w"));
    CHECK(near["near_misses"].dump().find("similar name") != std::string::npos);
}

TEST_CASE("assets that an engine will not take are told") {
    struct Row {
        std::string file, told;
    };
    const std::vector<Row> rows = {
        {"textures/lamp.pgn", "did you mean `.png`?"},
        {"sounds/bell.wav", "minetest takes no `bell.wav` from `sounds`"},
        {"texture/lamp.png", "did you mean `textures`?"},
        {"textures/lamp.png", ""},
        {"sounds/bell.ogg", ""},
    };
    for (const Row& row : rows) {
        CAPTURE(row.file);
        const Driver driver;
        CHECK(driver.envar({"begin", "w"}).status == 0);
        CHECK(driver.envar({"scaffold", "lamps", "--host", "minetest"}, "w").status == 0);
        driver.write("w/minetest/lamps/" + row.file, "x");
        const Run check = driver.envar({"check"}, "w");
        CHECK(check.status == (row.told.empty() ? 0 : 1));
        CHECK_MESSAGE(check.output.find(row.told) != std::string::npos, check.output);
        CHECK((check.output.find("EV215") == std::string::npos) == row.told.empty());
    }
}
