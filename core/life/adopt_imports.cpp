#include "core/life/adopt_imports.hpp"

#include <algorithm>
#include <iterator>
#include <set>

#include "core/files/read.hpp"
#include "core/life/adopt_named.hpp"
#include "core/members/imports.hpp"
#include "core/search/root.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_import = std::size_t{16} << 20U;

}  // namespace

void Givers::add(const model::Card& card, const std::string& module, const fs::path& entry,
                 const std::vector<std::string>& names) {
    const std::string& host = card.name.value;
    modules_[{host, module}] = module;
    for (const auto& name : names) modules_.try_emplace({host, name}, module);
    if (const auto root = search::root_of(card, module, entry)) roots_[{host, module}] = *root;
}

std::string Givers::of(const model::Card& card, const std::string& name) const {
    const std::string& host = card.name.value;
    if (const auto known = modules_.find({host, name}); known != modules_.end()) return known->second;
    if (card.name_separator.empty()) return {};
    for (std::size_t end = name.rfind(card.name_separator); end != std::string::npos && end > 0;
         end = name.rfind(card.name_separator, end - 1)) {
        const auto above = modules_.find({host, name.substr(0, end)});
        if (above == modules_.end()) continue;
        const auto root = roots_.find({host, above->second});
        if (root != roots_.end() && search::finds_below(card, root->second, name)) return above->second;
    }
    return {};
}

std::vector<Loaded> Givers::needs_of(const model::Card& card, const std::string& module, const fs::path& folder,
                                     const Foreign& foreign, const members::Patterns& patterns) const {
    std::vector<Loaded> out;
    std::vector<std::string> code = {foreign.entry};
    if (!foreign.alone)
        for (auto& file : code_files(card, folder))
            if (file != foreign.entry) code.push_back(std::move(file));
    std::map<std::string, std::size_t> known;  // places in `out`
    for (const auto& file : code) {
        const auto text = files::read_file(folder / file, largest_import);
        if (!text) continue;
        for (const auto& import : members::scan_imports(*text, patterns)) {
            std::string giver = of(card, import.name);
            if (giver.empty() || giver == module) continue;
            const auto [place, is_new] = known.emplace(giver, out.size());
            if (is_new) out.push_back({std::move(giver), file, true});
            Loaded& one = out[place->second];
            one.later = one.later && import.later;
        }
    }
    return out;
}

namespace {

using Needs = std::map<std::string, std::vector<Loaded>>;

bool leads_to(const Needs& needs, const std::string& from, const std::string& to) {
    std::set<std::string> seen = {from};
    for (std::vector<std::string> left = {from}; !left.empty();) {
        const auto found = needs.find(left.back());
        left.pop_back();
        if (found == needs.end()) continue;
        for (const Loaded& one : found->second) {
            if (one.module == to) return true;
            if (seen.insert(one.module).second) left.push_back(one.module);
        }
    }
    return false;
}

}  // namespace

std::map<std::string, std::vector<std::string>> break_circles(std::map<std::string, std::vector<Loaded>>& needs) {
    Needs kept;
    for (const auto& [module, all] : needs)
        std::copy_if(all.begin(), all.end(), std::back_inserter(kept[module]),
                     [](const Loaded& one) { return !one.later; });
    std::map<std::string, std::vector<std::string>> dropped;
    for (const auto& [module, all] : needs)
        for (const Loaded& one : all) {
            if (!one.later) continue;
            if (leads_to(kept, one.module, module)) {
                dropped[module].push_back(one.module);
            } else {
                kept[module].push_back(one);
            }
        }
    for (auto& [module, all] : needs)
        std::erase_if(all, [&](const Loaded& one) {
            const auto found = dropped.find(module);
            return found != dropped.end() &&
                   std::find(found->second.begin(), found->second.end(), one.module) != found->second.end();
        });
    return dropped;
}

}  // namespace envar::life
