#include <doctest/doctest.h>

#include <string>
#include <vector>

#include "core/search/declared.hpp"
#include "core/search/locate.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;
using namespace envar::search;

namespace {

struct Place {
    tests::Scratch scratch;
    model::Space space;

    explicit Place(const std::string& workspace = "") {
        scratch.write("workspace.envar.toml", "[workspace]\nname = \"w\"\n" + workspace);
        space = *model::load_space(scratch.folder(), {{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, 1);
    }
    [[nodiscard]] SearchPath path(const std::string& host, const Environment& environment) const {
        return search_path({&space, space.card(host), environment, scratch.folder()});
    }
};

std::vector<std::string> froms(const SearchPath& path) {
    std::vector<std::string> out;
    for (const auto& entry : path.entries) out.push_back(entry.folder + " < " + entry.from);
    return out;
}

}  // namespace

TEST_CASE("the environment and the defaults compose as the host composes them") {
    const Place place;
    const std::vector<std::string> defaults = {"/usr/local/share/lua/5.4 < default",
                                               "/usr/local/lib/lua/5.4 < default", "/usr/share/lua/5.4 < default",
                                               ". < default"};
    const auto with = [&](std::vector<std::string> before, std::vector<std::string> after = {}) {
        before.insert(before.end(), defaults.begin(), defaults.end());
        before.insert(before.end(), after.begin(), after.end());
        return before;
    };
    CHECK(froms(place.path("lua", {})) == with({}));
    CHECK(froms(place.path("lua", {{"LUA_PATH_5_4", ""}, {"LUA_PATH", "/a/?.lua"}})).empty());
    CHECK(froms(place.path("lua", {{"LUA_PATH", "/a/?.lua;/a/?/init.lua;/b/?.lua"}})) ==
          std::vector<std::string>{"/a < environment LUA_PATH", "/b < environment LUA_PATH"});
    CHECK(froms(place.path("lua", {{"LUA_PATH_5_4", "/a/?.lua;;/b/?.lua"}, {"LUA_PATH", "/c/?.lua"}})) ==
          with({"/a < environment LUA_PATH_5_4"}, {"/b < environment LUA_PATH_5_4"}));
    CHECK(froms(place.path("lua", {{"LUA_PATH", ";;"}})) == with({}));
    CHECK(froms(place.path("bash", {{"ENVAR_BASH_PATH", "/a::/b"}})) ==
          std::vector<std::string>{"/a < environment ENVAR_BASH_PATH", "/b < environment ENVAR_BASH_PATH"});
}

TEST_CASE("an active session is not counted twice") {
    const Place place(
        "[[search]]\nhost = \"bash\"\nfolder = \"shell\"\n[[search]]\nhost = \"lua\"\nfolder = \"lua\"\n");
    const std::string shell = (place.scratch / "shell").string();
    const std::string lua = (place.scratch / "lua").string();
    CHECK_FALSE(place.path("bash", {}).active);
    const auto bash_path = place.path("bash", {{"ENVAR_BASH_PATH", shell + ":/other"}});
    CHECK(bash_path.active);
    CHECK(bash_path.entries.size() == 2);
    const auto lua_path = place.path("lua", {{"LUA_PATH_5_4", lua + "/?.lua;" + lua + "/?/init.lua;;;"}});
    CHECK(lua_path.active);
    CHECK(lua_path.entries.size() == 5);
}

TEST_CASE("a folder that the variable cannot hold is no entry") {
    const Place place(
        "[[search]]\nhost = \"lua\"\nfolder = \"a;b\"\n[[search]]\nhost = \"bash\"\nfolder = \"a:b\"\n");
    for (const std::string host : {"lua", "bash"}) {
        const auto path = place.path(host, {});
        CHECK(path.entries[0].fault.find("cannot hold") != std::string::npos);
        CHECK(path.entries[0].patterns.empty());
        CHECK(workspace_folders(place.space, *place.space.card(host)).empty());
    }
}

TEST_CASE("near misses are told with their reason") {
    Place place("[[search]]\nhost = \"lua\"\nfolder = \"lua\"\n");
    place.scratch.write("lua/Sidereal/init.lua", "");
    place.scratch.write("lua/siderael.lua", "");
    place.scratch.write("lua/sidereal/other.lua", "");
    place.scratch.write("lua/unlike.lua", "");
    const auto located =
        locate("sidereal", {&place.space, place.space.card("lua"), {}, place.scratch / "lua/sidereal"});
    CHECK_FALSE(located.chosen.has_value());
    std::vector<std::string> whys;
    for (const auto& miss : located.near_misses) whys.push_back(miss.why);
    CHECK(whys == std::vector<std::string>{"differs in upper and lower case", "has a similar name",
                                           "is there, but none of the files that the host looks for is in it"});
}

TEST_CASE("the folder on the search path that leads to a file") {
    const Place place;
    struct Row {
        std::string host, name, file, root;  // root empty: none leads there
    };
    for (const Row& row : std::vector<Row>{
             {"lua", "stars", "/w/stars/init.lua", "/w"},
             {"lua", "stars", "/w/stars/stars.lua", "/w/stars"},
             {"lua", "sky.stars", "/w/sky/stars.lua", "/w"},
             {"lua", "stars", "/w/Stars/init.lua", ""},
             {"lua", "stars", "/w/old_stars.lua", ""},
             {"python", "stars", "/w/stars/__init__.py", "/w"},
             {"python", "stars", "/w/x/../stars.py", "/w"},
             {"perl", "Sky::Stars", "/w/lib/Sky/Stars.pm", "/w/lib"},
             {"perl", "Sky::Stars", "/w/Stars.pm", ""},
             {"guile", "sky stars", "/w/sky/stars.scm", "/w"},
             {"bash", "stars", "/w/stars/stars.bash", "/w"},
             {"bash", "stars", "/w/log/stars.bash", "/w/log"},
             {"fish", "stars", "/w/functions/stars.fish", "/w/functions"},
             {"zsh", "stars", "/w/functions/stars", "/w/functions"},
             {"tcl", "stars", "/w/stars/stars.tcl", ""},  // lists tell
             {"cmake", "stars", "/w/stars/CMakeLists.txt", ""},
         }) {
        CAPTURE(row.host);
        CAPTURE(row.file);
        const auto root = root_of(*place.space.card(row.host), row.name, row.file);
        CHECK((root ? root->string() : "") == row.root);
    }
}

TEST_CASE("the version that a folder is called like") {
    struct Row {
        versions::Scheme scheme;
        std::string folder, version;
    };
    const auto semantic = versions::Scheme::semantic, dotted = versions::Scheme::dotted;
    for (const Row& row : std::vector<Row>{{semantic, "1.2.0", "1.2.0"},
                                           {semantic, "1.2.0-rc.1", "1.2.0-rc.1"},
                                           {semantic, "1.2", "1.2.0"},
                                           {semantic, "v1.2", "1.2.0"},
                                           {semantic, "v1.2.3", "1.2.3"},
                                           {semantic, "1", ""},
                                           {semantic, "v2", ""},
                                           {semantic, "1.2-old", ""},
                                           {semantic, "strings-1.2", ""},
                                           {semantic, "vega.d", ""},
                                           {semantic, "v.1", ""},
                                           {semantic, "", ""},
                                           {semantic, "v", ""},
                                           {semantic, "...", ""},
                                           {semantic, "1..2", ""},
                                           {dotted, "1.2", "1.2"},
                                           {dotted, "v1.2.3.4", "1.2.3.4"}}) {
        CAPTURE(row.folder);
        model::Card card;
        card.scheme = row.scheme;
        CHECK(search::version_in(card, row.folder) == row.version);
    }
}
