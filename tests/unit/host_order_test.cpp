#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>

#include "core/order/host_order.hpp"

using namespace envar;

namespace {

/// A workspace of mods for one host with an order of its own, no disk.
struct Mods {
    model::Space space;

    Mods() {
        space.root = "/w";
        model::Card card;
        card.name.value = "h";
        card.phases = {"main"};
        card.walk.entry = "init.lua";
        card.host_order = model::HostOrder::last_ready_first;
        space.cards.push_back(std::move(card));
        model::SearchFolder search;
        search.host.value = "h";
        search.folder.value = "mods";
        space.settings.search.push_back(search);
    }

    /// `folder` is relative to the search folder; `rest` is what the manifest says besides.
    void add(const std::string& folder, const std::string& name, const std::string& rest = "") {
        const std::string text =
            fmt::format("[module]\nname = \"{}\"\nversion = \"1.0.0\"\nhost = \"h\"\n{}", name, rest);
        model::Module module;
        module.source = text::Source(name, text);
        std::vector<text::Finding> findings;
        module.manifest = model::read_manifest(model::parse_document(module.source), findings);
        CHECK(findings.empty());
        module.folder = module.home = "/w/mods/" + folder;
        space.modules.push_back(std::move(module));
    }

    [[nodiscard]] order::Order order(const std::vector<std::string>& roots = {}) {
        std::sort(space.modules.begin(), space.modules.end(),
                  [](const auto& a, const auto& b) { return a.name() < b.name(); });
        return order::host_order({&space, roots, "", ""}, space.cards.front());
    }
};

std::string needs(const std::string& name, bool optional = false) {
    return fmt::format("[[dependency]]\nmodule = \"{}\"\n{}", name, optional ? "optional = true\n" : "");
}

std::string after(const std::string& name) { return fmt::format("[entry]\nafter = [\"{}\"]\n", name); }

std::string loaded(const order::Order& order) {
    std::string out;
    for (const auto& placed : order.placed) out += (out.empty() ? "" : " ") + placed.module;
    return out;
}

std::string dropped(const order::Order& order) {
    std::string out;
    for (const auto& skipped : order.skipped)
        out += fmt::format("{}{}: {}", out.empty() ? "" : "; ", skipped.module, skipped.reason);
    return out;
}

}  // namespace

TEST_CASE("what became ready last is loaded first, by folders and not by names, groups before all others") {
    struct Mod {
        std::string folder, name, rest;
    };
    struct Row {
        std::vector<Mod> mods;
        std::string loaded, dropped;
    };
    const std::vector<Row> rows = {
        {{{"a", "a", ""}, {"b", "b", ""}, {"c", "c", ""}}, "c b a", ""},
        {{{"z", "a", ""}, {"b", "b", ""}}, "a b", ""},
        {{{"a", "a", ""}, {"p/z", "z", ""}, {"p/q/y", "y", ""}, {"b", "b", ""}}, "b a z y", ""},
        {{{"a", "a", needs("c")}, {"b", "b", ""}, {"c", "c", ""}}, "c a b", ""},
        {{{"a", "a", needs("c")}, {"b", "b", needs("c")}, {"c", "c", ""}}, "c b a", ""},
        {{{"a", "a", after("b")}, {"b", "b", ""}}, "b a", ""},
        {{{"a", "a", needs("b", true)}, {"b", "b", ""}}, "b a", ""},
        {{{"a", "a", needs("gone", true)}, {"b", "b", ""}}, "b a", ""},
        {{{"a", "a", needs("gone")}, {"b", "b", needs("a")}, {"c", "c", ""}},
         "c",
         "a: needs gone, which is not there; b: needs a, which is dropped"},
        {{{"a", "a", needs("b")}, {"b", "b", needs("a", true)}, {"c", "c", needs("a")}},
         "",
         "a: needs or follows itself through a circle; b: needs or follows itself through a circle; c: needs a, which is "
         "dropped"},
        {{{"a", "a", after("b")}, {"b", "b", after("a")}, {"c", "c", ""}},
         "c",
         "a: needs or follows itself through a circle; b: needs or follows itself through a circle"},
        {{{"../other/a", "a", ""}, {"b", "b", needs("a")}},
         "",
         "a: lies on no search entry, so the host does not see it; b: needs a, which is not there"},
    };
    for (const Row& row : rows) {
        Mods mods;
        for (const Mod& mod : row.mods) {
            mods.add(mod.folder, mod.name, mod.rest);
            mods.space.modules.back().folder = mods.space.modules.back().folder.lexically_normal();
        }
        const auto order = mods.order();
        CHECK(loaded(order) == row.loaded);
        CHECK(dropped(order) == row.dropped);
        for (std::size_t i = 0; i < order.placed.size(); ++i) CHECK(order.placed[i].position == i + 1);
    }
}

TEST_CASE("only what is asked for and needed takes part, and wishes of what is absent count for nothing") {
    Mods mods;
    mods.add("a", "a", needs("b"));
    mods.add("b", "b", needs("c", true));
    mods.add("c", "c");
    mods.add("d", "d");
    CHECK(loaded(mods.order({"a"})) == "b a");
    CHECK(loaded(mods.order({"a", "c"})) == "c b a");
}

TEST_CASE("a chain of 20,000 modules is ordered without a deep stack") {
    Mods mods;
    constexpr std::size_t count = 20000;
    for (std::size_t i = 0; i < count; ++i)
        mods.add(fmt::format("m{:05}", i), fmt::format("m{:05}", i),
                 i + 1 < count ? needs(fmt::format("m{:05}", i + 1)) : "");
    const auto order = mods.order();
    REQUIRE(order.placed.size() == count);
    CHECK(order.placed.front().module == "m19999");
    CHECK(order.placed.back().module == "m00000");
    CHECK(order.placed.back().wave == count);
}
