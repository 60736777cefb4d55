// Inputs that no one would write on purpose, or that someone would.
#include <doctest/doctest.h>
#include <fmt/format.h>
#include <re2/re2.h>
#include <unistd.h>

#include <algorithm>
#include <map>
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

/// A manifest with every kind of table.
std::string full_manifest(const Driver& driver) {
    const std::string cases = driver.program({"cat", ENVAR_SOURCE_FOLDER "/tests/documents/module.cases"}).output;
    const std::size_t begin = cases.find("[module]", cases.find("== good: everything at once"));
    return cases.substr(begin, cases.find("\n== ", begin) - begin + 1);
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
        {good + "summary = x y\nsmumary = 1\n[entry\n[[dependency]]\nmodule = \"nn\"\nwhy = \"\"\n",
         {"EV102", "EV102", "EV110", "EV110", "EV301"}},
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
        // Root reads everything, so the program is run without the right to.
        CHECK(codes(driver, {"/usr/bin/setpriv", "--bounding-set=-dac_override,-dac_read_search"}) ==
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
    const std::string full = full_manifest(driver);
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
            driver.write(fmt::format("w/m{}/star_field/module.envar.toml", i), mutate(i % 2 == 0 ? manifest : full));
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

TEST_CASE("a slip in a key's name gets the key that was meant") {
    // Every key of a full manifest, with one or two letters changed, dropped, added or swapped.
    const Driver driver;
    const std::string full = full_manifest(driver);
    struct Key {
        std::size_t begin, end;
    };
    std::vector<Key> keys;
    static const re2::RE2 key_form(R"((?m)(?:^\[*|[{,] )([a-z_]+)(?: =|\]))");
    re2::StringPiece rest(full);
    re2::StringPiece key;
    while (re2::RE2::FindAndConsume(&rest, key_form, &key)) {
        const auto at = static_cast<std::size_t>(key.data() - full.data());
        keys.push_back({at, at + key.size()});
    }
    REQUIRE(keys.size() > 50);
    std::mt19937 random(29);
    const auto letter = [&] { return static_cast<char>('a' + random() % 26); };
    const auto slip = [&](std::string word) {
        const std::size_t at = random() % word.size();
        switch (random() % 4) {
            case 0:
                return word.size() > 2 ? word.erase(at, 1) : word + letter();
            case 1:
                return word.insert(at, 1, letter());
            case 2:
                word[at] = letter();
                return word;
            default:
                if (at + 1 < word.size()) std::swap(word[at], word[at + 1]);
                return word;
        }
    };
    driver.write("w/workspace.envar.toml", "[workspace]\nname = \"w\"\n");
    struct Planted {
        std::string file, key, wrong;
    };
    std::vector<Planted> planted;
    for (int i = 0; planted.size() < 1000; ++i) {
        const Key& at = keys[random() % keys.size()];
        const std::string right = full.substr(at.begin, at.end - at.begin);
        std::string wrong = slip(right);
        if (random() % 3 == 0) wrong = slip(wrong);
        if (full.find(wrong + " =") != std::string::npos || full.find("[" + wrong + "]") != std::string::npos)
            continue;
        const std::string file = fmt::format("m{}/module.envar.toml", i);
        driver.write("w/" + file, full.substr(0, at.begin) + wrong + full.substr(at.end));
        planted.push_back({file, right, wrong});
    }
    REQUIRE(driver.envar({"check", "--quiet"}, "w").status == 1);
    const json findings = json::parse(driver.read("w/envar-results/check.json"))["findings"];
    std::map<std::string, std::string> hints;  // of unknown keys, by file
    for (const auto& f : findings)
        if (f["code"] == "EV110") hints[f["file"]] += f["hint"].get<std::string>();
    std::size_t named = 0;
    std::string missed;
    for (const Planted& one : planted) {
        const bool right = hints[one.file].find("did you mean `" + one.key + "`?") != std::string::npos;
        named += right ? 1 : 0;
        if (!right) missed += one.wrong + " for " + one.key + ": " + hints[one.file] + "\n";
    }
    MESSAGE(named << " of " << planted.size() << " slips in keys get the right key");
    CAPTURE(missed);
    CHECK(named * 100 >= planted.size() * 95);
}

TEST_CASE("limits are kept, told, and stop nothing else") {
    struct Row {
        std::string text;
        std::string code;
    };
    const auto times = [](std::string_view text, std::size_t count) {
        std::string out;
        for (std::size_t i = 0; i < count; ++i) out += text;
        return out;
    };
    const auto nested = [&](std::size_t depth) { return "x = " + times("[", depth) + times("]", depth) + "\n"; };
    const std::string tags = "tags = [" + times("\"a\",", 10000);
    const std::vector<Row> rows = {
        {good + times("# a comment line to fill the file\n", (1U << 20U) / 34 - 10), ""},
        {good + times("# a comment line to fill the file\n", (1U << 20U) / 34 + 10), "EV104"},
        {good + tags + "]\n", ""},
        {good + tags + "\"b\"]\n", "EV105"},
        {good + times("[[provides]]\nmodule = \"x\"\n", 10001), "EV105"},
        {good + "[[member]]\nname = \"" + times("x", 255) + "\"\n", "EV701"},
        {good + "[[member]]\nname = \"" + times("x", 256) + "\"\n", "EV105"},
        {good + "[tests]\nfolder = \"a/" + times("x", 256) + "\"\n", "EV105"},
        {nested(60) + good, "EV110"},
        {nested(70) + good, "EV105"},
        {times("a.", 15) + "a = 1\n" + good, "EV110"},
        {times("a.", 16) + "a = 1\n" + good, "EV105"},
    };
    const Driver driver;
    for (const Row& row : rows) {
        CAPTURE(row.text.substr(0, 120));
        sound(driver);
        driver.write("w/m/module.envar.toml", row.text);
        auto found = codes(driver);
        std::sort(found.begin(), found.end());
        found.erase(std::unique(found.begin(), found.end()), found.end());
        CHECK(fmt::format("{}", fmt::join(found, " ")) == row.code);
    }
    const std::string told = driver.envar({"explain", "limits"}, "w").output;
    for (const char* limit : {"1048576", " 16 ", " 64 ", "10000", "255"})
        CHECK_MESSAGE(told.find(limit) != std::string::npos, limit);
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

TEST_CASE("where there is too little memory, that is what is said") {
    const Driver driver;
    std::string catalogue;
    for (int i = 0; i < 400000; ++i)
        catalogue +=
            fmt::format("{{\"module\":\"m{}\",\"version\":\"{}.{}.0\",\"host\":\"lua\"}}\n", i / 10, i % 10, i);
    driver.write("c.jsonl", catalogue);
    std::size_t refused = 0, fine = 0;
    for (const int megabytes : {70, 100, 130, 160, 200, 2000}) {
        CAPTURE(megabytes);
        const Run run = driver.program(
            {"bash", "-c",
             fmt::format("ulimit -v {} && exec \"$0\" resolve --catalogue c.jsonl --quiet", megabytes * 1000),
             ENVAR_PROGRAM});
        const bool too_little = run.errors.find("there is not enough memory") != std::string::npos;
        CHECK_MESSAGE(run.status == (too_little ? 3 : 0), run.errors.substr(0, 500));
        CHECK(run.output.empty() == too_little);
        ++(too_little ? refused : fine);
    }
    CHECK(refused > 0);
    CHECK(fine > 0);
}
