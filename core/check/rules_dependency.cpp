#include <fmt/format.h>

#include <algorithm>

#include "core/check/rules.hpp"
#include "core/order/order.hpp"
#include "core/search/locate.hpp"
#include "core/text/names.hpp"

namespace envar::check {
namespace {

using model::Dependency;
using model::Module;
using model::Space;

std::string unknown_hint(const Space& space, const Module& module, const std::string& wanted) {
    std::vector<std::string> names = module_names(space);
    std::erase(names, module.name());
    std::string hint = text::did_you_mean(wanted, names);
    if (!hint.empty()) return hint;
    const model::Card* card = space.card(module.manifest.host.value);
    if (card != nullptr) {
        const auto found = search::locate(wanted, {&space, card, {}, space.root, {}, true});
        if (found.chosen)
            return fmt::format("{} has it at {}: say origin = \"system\"", card->name.value, found.chosen->file);
    }
    return "make it with `envar scaffold`, or say origin = \"system\" when the host brings it along";
}

void one_dependency(const Facts& facts, const Module& module, const Dependency& d, Findings& findings) {
    const Space& space = facts.space;
    const std::string& wanted = d.module.value;
    if (wanted == module.name()) {
        findings.push_back(module.source.finding("EV302", d.module.span,
                                                 fmt::format("`{}` depends on itself", wanted),
                                                 "take the table out, or name the module that was meant"));
        return;
    }
    if (d.system || space.is_broken(wanted)) return;
    const Module* other = space.module(wanted);
    if (other == nullptr) {
        if (d.optional || resolve::is_to_be_had(facts.supply, wanted, d.versions, space.settings.prereleases)) return;
        findings.push_back(module.source.finding("EV301", d.module.span,
                                                 fmt::format("there is no module `{}`", wanted),
                                                 unknown_hint(space, module, wanted)));
        return;
    }
    if (other->manifest.version &&
        !versions::meets(*other->manifest.version, d.versions, space.settings.prereleases) &&
        !resolve::is_to_be_had(facts.supply, wanted, d.versions, space.settings.prereleases))
        findings.push_back(module.source.finding(
            "EV304", d.versions_span.empty() ? d.module.span : d.versions_span,
            fmt::format("`{}` is there as {}, which `{}` leaves out", wanted, other->version(),
                        d.versions.is_any() ? "any" : d.versions.text),
            d.versions.is_any()
                ? "a pre-release is only taken where a requirement names one, or with `prereleases = true`"
                : fmt::format("widen the requirement, or raise {} ({})", wanted, other->source.file())));
    const model::Card* own = space.card(module.manifest.host.value);
    const model::Card* theirs = space.card(other->manifest.host.value);
    // Modules of compiled code are linked, whoever loads them.
    const bool linked = own != nullptr && theirs != nullptr && own->is_native() && theirs->is_native();
    if (other->manifest.host.value != module.manifest.host.value && !linked)
        findings.push_back(module.source.finding("EV308", d.module.span,
                                                 fmt::format("`{}` is a module for {}, which {} cannot load", wanted,
                                                             other->manifest.host.value, module.manifest.host.value),
                                                 "the two are ordered, but neither host loads the other's files"));
}

}  // namespace

void dependencies(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules) {
        const auto& all = module.manifest.dependencies;
        for (std::size_t i = 0; i < all.size(); ++i) {
            const auto same =
                std::find_if(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(i),
                             [&](const Dependency& d) { return d.module.value == all[i].module.value; });
            if (same != all.begin() + static_cast<std::ptrdiff_t>(i)) {
                findings.push_back(module.source.finding(
                    "EV303", all[i].module.span,
                    fmt::format("the dependency on `{}` is declared twice", all[i].module.value),
                    fmt::format("it stands first on line {}", module.source.position(same->module.span.begin).line)));
            } else {
                one_dependency(facts, module, all[i], findings);
            }
        }
    }
}

void soft_order(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules)
        for (const model::Word& after : module.manifest.entry.after) {
            if (facts.space.module(after.value) != nullptr || facts.space.is_broken(after.value)) continue;
            const std::string near = text::did_you_mean(after.value, module_names(facts.space));
            findings.push_back(module.source.finding("EV306", after.span,
                                                     fmt::format("there is no module `{}`", after.value),
                                                     near.empty() ? "it is passed over" : near));
        }
}

void conditions(const Facts& facts, Findings& findings) {
    const auto& settings = facts.space.settings;
    if (!facts.space.document.valid) return;  // what a syntax error took away may be the very declaration
    std::vector<std::string> platforms;
    std::vector<std::string> targets;
    for (const auto& platform : settings.platforms) platforms.push_back(platform.value);
    for (const auto& target : settings.targets) targets.push_back(target.name.value);
    const auto report = [&](const Module& module, const std::vector<model::Word>& words,
                            const std::vector<std::string>& known, std::string_view what) {
        for (const model::Word& word : words) {
            const std::string name = word.value.front() == '!' ? word.value.substr(1) : word.value;
            if (std::find(known.begin(), known.end(), name) != known.end()) continue;
            std::string hint = text::did_you_mean(name, known);
            if (hint.empty())
                hint = known.empty() ? fmt::format("the workspace declares no {} at all", what)
                                     : fmt::format("the workspace declares: {}", fmt::join(known, ", "));
            findings.push_back(
                module.source.finding("EV307", word.span, fmt::format("there is no {} `{}`", what, name), hint));
        }
    };
    for (const Module& module : facts.space.modules) {
        report(module, module.manifest.platforms, platforms, "platform");
        for (const Dependency& d : module.manifest.dependencies) {
            report(module, d.when.platforms, platforms, "platform");
            report(module, d.when.targets, targets, "target");
        }
    }
}

void cycles(const Facts& facts, Findings& findings) {
    const resolve::Question question{&facts.space, {}, "", ""};
    for (const order::Cycle& cycle : order::load_order(question).cycles) {
        if (cycle.modules.size() < 2) continue;  // itself: has its own code
        std::string chain = fmt::format("{}", fmt::join(cycle.modules, " needs "));
        std::string places;
        for (const order::Edge& edge : cycle.edges)
            places += fmt::format("{}{}:{}", places.empty() ? "" : ", ", edge.file, edge.line);
        const order::Edge& first = cycle.edges.front();
        const Module& module = *facts.space.module(first.from);
        findings.push_back(module.source.finding("EV305", first.span,
                                                 fmt::format("a circle: {} needs {}", chain, cycle.modules.front()),
                                                 fmt::format("take out one of {}", places)));
    }
}

void workspace_names(const Facts& facts, Findings& findings) {
    const auto& space = facts.space;
    const auto report = [&](const model::Word& name, std::string_view where) {
        if (name.value.empty() || space.module(name.value) != nullptr || space.is_broken(name.value)) return;
        const std::string near = text::did_you_mean(name.value, module_names(space));
        findings.push_back(space.document.source.finding(
            "EV301", name.span, fmt::format("there is no module `{}` for {}", name.value, where),
            near.empty() ? "`envar modules` lists those that there are" : near));
    };
    for (const auto& target : space.settings.targets)
        for (const auto& module : target.modules) report(module, fmt::format("the target {}", target.name.value));
    for (const auto& pin : space.settings.pins) report(pin.module, "the pin");
}

void phase_order(const Facts& facts, Findings& findings) {
    const auto rank = [&](const Module& module) -> std::ptrdiff_t {
        const model::Card* card = facts.space.card(module.manifest.host.value);
        const std::string& phase = module.manifest.entry.phase.value;
        if (card == nullptr) return 0;
        const auto found = std::find(card->phases.begin(), card->phases.end(), phase.empty() ? "main" : phase);
        return found == card->phases.end() ? 0 : found - card->phases.begin();
    };
    for (const Module& module : facts.space.modules)
        for (const Dependency& d : module.manifest.dependencies) {
            const Module* other = facts.space.module(d.module.value);
            if (other == nullptr || other->manifest.host.value != module.manifest.host.value) continue;
            if (rank(*other) <= rank(module)) continue;
            findings.push_back(
                module.source.finding("EV602", d.module.span,
                                      fmt::format("`{}` is loaded in phase `{}`, behind `{}`", other->name(),
                                                  other->manifest.entry.phase.value, module.name()),
                                      "move one of the two to another phase"));
        }
}

}  // namespace envar::check
