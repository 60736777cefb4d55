#include <doctest/doctest.h>
#include <fmt/format.h>

#include <string>
#include <vector>

#include "core/emit/generated.hpp"
#include "core/files/transaction.hpp"
#include "core/life/depend.hpp"
#include "tests/support/scratch.hpp"

using namespace envar;
using namespace envar::emit;

namespace {

model::Card plain_card() {
    model::Card card;
    card.language.comment = "#";
    return card;
}

life::DependOrder depend_order(const std::string& on, bool remove = false) {
    life::DependOrder order;
    order.module = "a";
    order.on = on;
    order.remove = remove;
    return order;
}

/// A workspace with two Lua modules, `a` and `b`, read from the disk.
struct Fixture {
    tests::Scratch scratch;
    std::string manifest = "[module]\nname = \"a\"\nversion = \"1.0.0\"\nhost = \"lua\"\n";

    Fixture() {
        scratch.write("workspace.envar.toml",
                      "[workspace]\nname = \"w\"\n[[search]]\nhost = \"lua\"\nfolder = \".\"\n");
        scratch.write("a/init.lua", "return {}\n");
        scratch.write("b/init.lua", "return {}\n");
        scratch.write("b/module.envar.toml", "[module]\nname = \"b\"\nversion = \"1.0.0\"\nhost = \"lua\"\n");
    }
    [[nodiscard]] model::Space space() const {
        scratch.write("a/module.envar.toml", manifest);
        return *model::load_space(scratch.folder(), {{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, 1);
    }
    [[nodiscard]] std::string drift_of(const std::string& file) const {
        for (const auto& generated : survey(space(), {}, true).files)
            if (generated.path == scratch / file) return std::string(drift_name(generated.drift));
        return "nothing";
    }
    void apply(const files::Plan& plan) const {
        const auto lock = files::WorkspaceLock::take(scratch.folder(), 0);
        REQUIRE(files::apply(plan, {"test", "now"}, *lock).has_value());
    }
};

}  // namespace

TEST_CASE("a generated file is told from an edited one, a copied one and a foreign one") {
    const std::string text = with_header(plain_card().language, "about.x", "body\nmore\n");
    struct Row {
        std::string content, name;
        Authorship authorship;
    };
    std::string other_digest = text;
    other_digest[other_digest.find("digest: ") + 8] ^= 1;
    std::string crlf;
    for (const char c : text) crlf += c == '\n' ? std::string("\r\n") : std::string(1, c);
    const std::vector<Row> rows = {
        {text, "about.x", Authorship::untouched},
        {text + " ", "about.x", Authorship::edited},
        {text.substr(0, text.size() - 1), "about.x", Authorship::edited},
        {other_digest, "about.x", Authorship::edited},
        {text, "copy.x", Authorship::foreign},
        {text, "sub/about.x", Authorship::foreign},
        {"body\nmore\n", "about.x", Authorship::foreign},
        {"", "about.x", Authorship::foreign},
        {"# Envar digest: ", "about.x", Authorship::foreign},
        {"# Envar digest: abc about.x", "about.x", Authorship::foreign},
        {"# Envar digest: abc about.x\n", "about.x", Authorship::edited},
        {std::string(2000, '\n') + text, "about.x", Authorship::foreign},
        {crlf, "about.x", Authorship::foreign},
    };
    for (const Row& row : rows) {
        CAPTURE(row.content.substr(0, 60));
        CAPTURE(row.name);
        CHECK(authorship(row.content, row.name) == row.authorship);
    }
}

TEST_CASE("every state of a generated file is recognised, and only what is Envar's is touched") {
    Fixture place;
    CHECK(place.drift_of("a/about.lua") == "missing");
    place.apply(emit_plan(survey(place.space(), {}, false), place.scratch.folder(), false));
    CHECK(place.drift_of("a/about.lua") == "up to date");
    CHECK(emit_plan(survey(place.space(), {}, false), place.scratch.folder(), true).empty());
    place.manifest += "summary = \"new\"\n";
    CHECK(place.drift_of("a/about.lua") == "out of date");
    CHECK(place.drift_of("b/about.lua") == "up to date");
    const std::string made = place.scratch.read("b/about.lua");
    place.scratch.write("b/about.lua", made + "-- mine\n");
    CHECK(place.drift_of("b/about.lua") == "edited by hand");
    const auto careful = emit_plan(survey(place.space(), {}, false), place.scratch.folder(), false);
    CHECK(careful.find(place.scratch / "b/about.lua") == nullptr);
    CHECK(careful.find(place.scratch / "a/about.lua") != nullptr);
    CHECK(emit_plan(survey(place.space(), {}, false), place.scratch.folder(), true)
              .find(place.scratch / "b/about.lua") != nullptr);
    place.scratch.write("b/about.lua", "-- theirs\n");
    CHECK(place.drift_of("b/about.lua") == "not made by Envar");
    CHECK(emit_plan(survey(place.space(), {}, false), place.scratch.folder(), true)
              .find(place.scratch / "b/about.lua") == nullptr);
    CHECK(clean_plan(survey(place.space(), {}, true), place.scratch.folder(), true)
              .find(place.scratch / "b/about.lua") == nullptr);
    // A leftover that the card asks for no more goes with the rest; a copy of a generated file does not.
    place.scratch.write("a/old.lua", with_header(place.space().card("lua")->language, "old.lua", "return {}\n"));
    place.scratch.write("a/copy.lua", place.scratch.read("a/about.lua"));
    const auto clean = clean_plan(survey(place.space(), {}, true), place.scratch.folder(), false);
    CHECK(clean.find(place.scratch / "a/old.lua") != nullptr);
    CHECK(clean.find(place.scratch / "a/about.lua") != nullptr);
    CHECK(clean.find(place.scratch / "a/copy.lua") == nullptr);
    CHECK(clean.find(place.scratch / "a/init.lua") == nullptr);
    // Nothing is generated from a manifest with errors.
    place.manifest += "sumary = 3\n";
    CHECK(survey(place.space(), {"a"}, false).files.empty());
    CHECK(place.drift_of("a/about.lua") == "left over");  // so that cleaning still finds it
}

TEST_CASE("depending and taking it back leaves the manifest as it was, however it is written") {
    const std::string head = "[module]\nname = \"a\"\nversion = \"1.0.0\"\nhost = \"lua\"\n";
    const std::vector<std::string> layouts = {
        head,
        head + "\n# the end\n",
        head + "\n[[dependency]]\nmodule = \"x\"\noptional = true\n",
        head +
            "\n[[dependency]]\nmodule = \"x\"\noptional = true\n[dependency.when]\nplatform = [\"linux\"]\n\n[exports]\nmode = \"all\"\n",
        "dependency = [{ module = \"x\", optional = true }]\n" + head,
        "dependency = [\n    { module = \"x\", optional = true }, # why\n]\n" + head,
        "# in front\n\n" + head + "  \n\n\n",
        "[[\"dependency\"]]\nmodule = \"x\"\noptional = true\n" + head,
    };
    for (const auto& layout : layouts) {
        CAPTURE(layout);
        Fixture place;
        place.manifest = layout;
        const auto added = life::depend_plan(place.space(), depend_order("b >=1, <2"));
        REQUIRE_MESSAGE(added.has_value(), added.error().message);
        place.manifest = *added->find(place.scratch / "a/module.envar.toml")->after;
        CHECK(place.space().module("a")->manifest.dependencies.back().versions.text == ">=1, <2");
        const auto removed = life::depend_plan(place.space(), depend_order("b", true));
        REQUIRE_MESSAGE(removed.has_value(), removed.error().message);
        CHECK(*removed->find(place.scratch / "a/module.envar.toml")->after == layout);
    }
}

TEST_CASE("a dependency is changed in just what is given") {
    Fixture place;
    place.manifest += "\n[[dependency]]\nmodule = \"b\"  # needed\nversions = \"any\"\nreason = \"old\"\n";
    life::DependOrder order = depend_order("b");
    order.is_public = true;
    order.stage = "test";
    order.reason = "new \"reason\"";
    const auto plan = life::depend_plan(place.space(), order);
    REQUIRE(plan.has_value());
    const std::string after = *plan->find(place.scratch / "a/module.envar.toml")->after;
    CHECK(after.find("module = \"b\"  # needed\nversions = \"any\"\nreason = \"new \\\"reason\\\"\"\n") !=
          std::string::npos);
    CHECK(after.find("visibility = \"public\"") != std::string::npos);
    CHECK(after.find("stage = \"test\"") != std::string::npos);
}
