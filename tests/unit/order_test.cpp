#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <random>
#include <set>

#include "core/order/order.hpp"
#include "core/resolve/resolve.hpp"

using namespace envar;

namespace {

/// A workspace made of manifests alone, no disk.
struct Made {
    model::Space space;

    void add(const std::string& name, const std::string& rest, const std::string& version = "1.0.0") {
        const std::string text =
            fmt::format("[module]\nname = \"{}\"\nversion = \"{}\"\nhost = \"h\"\n{}", name, version, rest);
        model::Module module;
        module.source = text::Source(name, text);
        std::vector<text::Finding> findings;
        module.manifest = model::read_manifest(model::parse_document(module.source), findings);
        CHECK(findings.empty());
        space.modules.push_back(std::move(module));
        std::sort(space.modules.begin(), space.modules.end(),
                  [](const auto& a, const auto& b) { return a.name() < b.name(); });
    }
    void add_card(const std::vector<std::string>& phases) {
        model::Card card;
        card.name.value = "h";
        card.phases = phases;
        space.cards.push_back(std::move(card));
    }
    [[nodiscard]] order::Order order(const std::string& platform = "", const std::string& target = "") const {
        return order::load_order({&space, {}, target, platform});
    }
    [[nodiscard]] resolve::Resolution resolve(const std::vector<std::string>& roots = {}) const {
        return resolve::resolve({&space, roots, "", ""});
    }
};

std::string needs(const std::string& name, const std::string& more = "") {
    return fmt::format("[[dependency]]\nmodule = \"{}\"\n{}\n", name, more);
}

std::string names(const order::Order& order) {
    std::string out;
    for (const auto& placed : order.placed)
        out += fmt::format("{}{}:{}", out.empty() ? "" : " ", placed.module, placed.wave);
    return out;
}

}  // namespace

TEST_CASE("dependencies come first, names break ties, waves count the steps") {
    Made made;
    made.add("a", needs("c"));
    made.add("b", "");
    made.add("c", needs("d"));
    made.add("d", "");
    CHECK(names(made.order()) == "b:1 d:1 c:2 a:3");
}

TEST_CASE("phases follow each other, but dependencies go before them") {
    Made made;
    made.add_card({"early", "main", "late"});
    made.add("a", "[entry]\nphase = \"late\"\n");
    made.add("b", "");
    made.add("c", "[entry]\nphase = \"early\"\n");
    made.add("d", needs("b"));
    CHECK(names(made.order()) == "c:1 b:2 d:3 a:4");
}

TEST_CASE("a wish to come after is granted unless it closes a circle") {
    Made made;
    made.add("a", "[entry]\nafter = [\"z\", \"nobody\"]\n");
    made.add("m", "[entry]\nafter = [\"n\"]\n");
    made.add("n", needs("m"));
    made.add("z", "");
    const auto order = made.order();
    CHECK(names(order) == "m:1 n:2 z:1 a:2");
    REQUIRE(order.notes.size() == 1);
    CHECK(order.notes[0].find("m would like to come after n") != std::string::npos);
    CHECK(order.cycles.empty());
}

TEST_CASE("what is missing or circular takes with it just what needs it") {
    Made made;
    made.add("a", needs("gone"));
    made.add("b", needs("a"));
    made.add("c", needs("a", "optional = true"));
    made.add("d", needs("gone", "optional = true"));
    made.add("p", needs("q"));
    made.add("q", needs("r"));
    made.add("r", needs("p"));
    made.add("s", needs("p"));
    const auto order = made.order();
    CHECK(names(order) == "c:1 d:1");
    REQUIRE(order.missing.size() == 1);
    CHECK(order.missing[0].line == 6);
    REQUIRE(order.cycles.size() == 1);
    CHECK(order.cycles[0].modules == std::vector<std::string>{"p", "q", "r"});
    CHECK(order.cycles[0].edges.back().to == "p");
    std::map<std::string, std::string> skipped;
    for (const auto& s : order.skipped) skipped[s.module] = s.reason;
    CHECK(skipped.size() == 6);
    CHECK(skipped["s"] == "needs p, which cannot be loaded");
}

TEST_CASE("conditions and stages decide what counts") {
    Made made;
    made.space.settings.platforms = {{"linux", {}}, {"windows", {}}};
    made.add("a", needs("w", "when = { platform = [\"windows\"] }") + needs("t", "stage = \"test\"") +
                      needs("s", "origin = \"system\""));
    CHECK(made.order("linux").missing.empty());
    CHECK(made.order("windows").missing.size() == 1);
    CHECK(made.order("").missing.size() == 1);
}

TEST_CASE(
    "random workspaces: every need before its user, everything accounted for, the same whatever the order of reading") {
    std::mt19937 random(17);
    for (int round = 0; round < 150; ++round) {
        const std::size_t count = 2 + random() % 12;
        Made made;
        std::map<std::string, std::set<std::string>> hard;
        for (std::size_t i = 0; i < count; ++i) {
            std::string rest;
            std::set<std::string> chosen;
            for (auto n = random() % 3; n > 0; --n) {
                const std::string other = fmt::format("m{}", random() % (count + 1));
                if (other == fmt::format("m{}", i) || !chosen.insert(other).second) continue;
                const bool optional = random() % 4 == 0;
                rest += needs(other, optional ? "optional = true" : "");
                if (!optional) hard[fmt::format("m{}", i)].insert(other);
            }
            made.add(fmt::format("m{}", i), rest);
        }
        const auto order = made.order();
        std::set<std::string> before;
        for (const auto& placed : order.placed) {
            for (const auto& need : placed.needs) CHECK(before.count(need) == 1);
            for (const auto& need : hard[placed.module]) CHECK(before.count(need) == 1);
            before.insert(placed.module);
        }
        CHECK(order.placed.size() + order.skipped.size() == count);
        for (const auto& skipped : order.skipped) CHECK(before.count(skipped.module) == 0);
        if (order.cycles.empty() && order.missing.empty()) CHECK(order.skipped.empty());
    }
}

TEST_CASE("resolving takes what is needed and checks every requirement on it") {
    Made made;
    made.add("a", needs("b", "versions = \">=1.1\"") + needs("o", "versions = \"<1\"\noptional = true"));
    made.add("b", "", "1.2.0");
    made.add("c", needs("b", "versions = \"<1.2\""));
    made.add("o", "");
    const auto fine = made.resolve({"a"});
    CHECK_FALSE(fine.unsolved.has_value());
    REQUIRE(fine.selected.size() == 2);
    CHECK(fine.selected[1].required_by == std::vector<std::string>{"a"});
    const auto clash = made.resolve({"a", "c"});
    REQUIRE(clash.unsolved.has_value());
    CHECK(clash.selected.empty());
    REQUIRE(clash.unsolved->requirements.size() == 2);  // what c needs, and that c is asked for
    CHECK(clash.unsolved->requirements[0].module == "c");
    // An optional dependency that is chosen anyway must fit too.
    const auto optional = made.resolve({"a", "o"});
    REQUIRE(optional.unsolved.has_value());
    REQUIRE(optional.unsolved->requirements.size() == 3);
    CHECK(optional.unsolved->requirements[2].requires_module == "o");
    CHECK(made.resolve({"nobody"}).unsolved.has_value());
}

TEST_CASE("pins and pre-releases") {
    Made made;
    made.add("a", needs("b"));
    made.add("b", "", "2.0.0-rc.1");
    CHECK(made.resolve().unsolved.has_value());
    made.space.settings.prereleases = true;
    CHECK_FALSE(made.resolve().unsolved.has_value());
    made.space.settings.pins.push_back(
        {{"b", {}}, *versions::parse_requirement("=1"), {}, "1 is what the crew knows"});
    const auto pinned = made.resolve();
    REQUIRE(pinned.unsolved.has_value());
    CHECK(pinned.unsolved->sentences.back().find("1 is what the crew knows") != std::string::npos);
}

TEST_CASE("the lock is the same text for the same choice") {
    Made made;
    made.add("b", needs("a"));
    made.add("a", "");
    const std::string text = resolve::lock_text(resolve::to_lock(made.resolve()));
    CHECK(text.find("\na = {") < text.find("\nb = {"));
    CHECK(model::parse_document(text::Source("lock", text)).valid);
    CHECK(resolve::lock_text(resolve::to_lock(made.resolve())) == text);
}
