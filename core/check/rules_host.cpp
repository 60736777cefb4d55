#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <set>

#include "core/check/rules.hpp"
#include "core/files/read.hpp"
#include "core/order/host_order.hpp"
#include "core/text/glob.hpp"
#include "core/text/names.hpp"

namespace envar::check {
namespace {

namespace fs = std::filesystem;
using model::Card;
using model::Module;

constexpr std::size_t most_endings = 4;  // that a hint tells

bool ends_in_one_of(const std::string& name, const std::vector<std::string>& extensions) {
    return std::any_of(extensions.begin(), extensions.end(),
                       [&](const std::string& extension) { return name.ends_with(extension); });
}

/// Files in a folder of the host's assets that it will not take.
void strange_assets(const Module& module, const Card& card, const model::AssetKind& kind, Findings& findings) {
    std::vector<std::string> beside, extensions;
    for (const model::AssetKind& other : card.assets) {
        if (other.folder != kind.folder) continue;
        beside.insert(beside.end(), other.beside.begin(), other.beside.end());
        extensions.insert(extensions.end(), other.extensions.begin(), other.extensions.end());
    }
    const text::Globs kept(beside);
    const auto known = [&](const std::string& name) { return ends_in_one_of(name, extensions) || kept.match(name); };
    std::vector<std::string> strange;
    for (const auto& name : files::list_folder(module.folder / kind.folder))
        if (name.front() != '.' && files::is_file(module.folder / kind.folder / name) && !known(name))
            strange.push_back(name);
    if (strange.empty()) return;
    std::sort(strange.begin(), strange.end());
    const std::string ending = fs::path(strange.front()).extension().string();
    const std::string near = text::did_you_mean(ending, kind.extensions);
    findings.push_back(module.source.finding(
        "EV215", module.manifest.module_span,
        strange.size() == 1 ? fmt::format("{} takes no `{}` from `{}`", card.name.value, strange.front(), kind.folder)
                            : fmt::format("{} takes {} files in `{}` not at all, `{}` for one", card.name.value,
                                          strange.size(), kind.folder, strange.front()),
        near.empty() ? fmt::format("it takes {} there", text::listed(kind.extensions, most_endings)) : near));
}

/// A folder that is called nearly as one that the host looks into.
void nearly_asset_folders(const Module& module, const Card& card, Findings& findings) {
    std::vector<std::string> folders;
    for (const auto& kind : card.assets) folders.push_back(kind.folder);
    for (const auto& name : files::list_folder(module.folder)) {
        if (name.front() == '.' || std::find(folders.begin(), folders.end(), name) != folders.end() ||
            !files::is_folder(module.folder / name))
            continue;
        const auto near = text::nearest(name, folders, 2);
        if (!near || files::is_there(module.folder / *near)) continue;
        findings.push_back(module.source.finding("EV215", module.manifest.module_span,
                                                 fmt::format("{} does not look into `{}`", card.name.value, name),
                                                 fmt::format("did you mean `{}`?", *near)));
    }
}

}  // namespace

void host_assets(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules) {
        const Card* card = facts.space.card(module.manifest.host.value);
        if (card == nullptr || card->assets.empty()) continue;
        for (const auto& kind : card->assets) strange_assets(module, *card, kind, findings);
        nearly_asset_folders(module, *card, findings);
    }
}

/// What a host with an order of its own drops, beyond what is told of dependencies and circles anyway.
void host_drops(const Facts& facts, Findings& findings) {
    const resolve::Question question{&facts.space, {}, "", ""};
    for (const Card& card : facts.space.cards) {
        const bool used =
            std::any_of(facts.space.modules.begin(), facts.space.modules.end(),
                        [&](const Module& module) { return module.manifest.host.value == card.name.value; });
        if (card.host_order == model::HostOrder::planned || !used) continue;
        std::set<std::string> told;
        for (const auto& skipped : order::load_order(question).skipped) told.insert(skipped.module);
        for (const auto& skipped : order::host_order(question, card).skipped) {
            const Module* module = facts.space.module(skipped.module);
            if (told.count(skipped.module) != 0 || module == nullptr) continue;
            const auto& after = module->manifest.entry.after;
            findings.push_back(module->source.finding(
                "EV604", after.empty() ? module->manifest.name.span : after.front().span,
                fmt::format("{} will drop `{}`: it {}", card.name.value, module->name(), skipped.reason),
                fmt::format("`envar order --as-host --host {}` shows what is loaded", card.name.value)));
        }
    }
}

}  // namespace envar::check
