#include "core/life/adopt_imports.hpp"

#include <algorithm>
#include <set>
#include <tuple>

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

std::vector<Loaded> Givers::needs_of(const std::string& module, const Foreign& foreign, const std::string& reads,
                                     const members::Patterns& patterns) const {
    const model::Card& card = *foreign.card;
    const fs::path& folder = foreign.folder;
    std::vector<Loaded> out;
    std::vector<std::string> code = {reads.empty() ? foreign.entry : reads};
    const std::string below = foreign.alone ? fs::path(code.front()).replace_extension().generic_string() + "/" : "";
    for (auto& file : code_files(card, folder))
        if (file != code.front() && file.starts_with(below)) code.push_back(std::move(file));
    std::map<std::string, std::size_t> known;  // places in `out`
    for (const auto& file : code) {
        const auto text = files::read_file(folder / file, largest_import);
        if (!text) continue;
        std::set<std::string> here;
        for (const auto& import : members::scan_imports(*text, patterns)) {
            std::string giver = of(card, import.name);
            if (giver.empty() || giver == module) continue;
            const auto [place, is_new] = known.emplace(giver, out.size());
            if (is_new) out.push_back({giver, file, true});
            Loaded& one = out[place->second];
            one.later = one.later && import.later;
            one.at_once = one.at_once || (!import.later && &file == &code.front());
            if (here.insert(std::move(giver)).second) ++one.files;
        }
    }
    return out;
}

namespace {

/// Who needs whom, by number.
class Needed {
  public:
    std::size_t number(const std::string& module) {
        const auto [place, is_new] = numbers_.emplace(module, needs_.size());
        if (is_new) needs_.emplace_back();
        return place->second;
    }
    void add(std::size_t from, std::size_t to) { needs_[from].push_back(to); }
    [[nodiscard]] bool leads_to(std::size_t from, std::size_t to) const {
        std::vector<bool> seen(needs_.size());
        for (std::vector<std::size_t> left = {from}; !left.empty();) {
            const std::size_t next = left.back();
            left.pop_back();
            if (next == to) return true;
            if (seen[next]) continue;
            seen[next] = true;
            left.insert(left.end(), needs_[next].begin(), needs_[next].end());
        }
        return false;
    }

  private:
    std::map<std::string, std::size_t> numbers_;
    std::vector<std::vector<std::size_t>> needs_;
};

}  // namespace

std::map<std::string, std::vector<std::string>> break_circles(std::map<std::string, std::vector<Loaded>>& needs) {
    Needed kept;
    std::vector<std::pair<std::string, const Loaded*>> others;
    for (const auto& [module, all] : needs)
        for (const Loaded& one : all) {
            if (one.at_once) {
                kept.add(kept.number(module), kept.number(one.module));
            } else {
                others.emplace_back(module, &one);
            }
        }
    std::stable_sort(others.begin(), others.end(), [](const auto& a, const auto& b) {
        return std::tuple(a.second->later, b.second->files) < std::tuple(b.second->later, a.second->files);
    });
    std::map<std::string, std::vector<std::string>> dropped;
    for (const auto& [module, one] : others) {
        const std::size_t from = kept.number(module), to = kept.number(one->module);
        if (kept.leads_to(to, from)) {
            dropped[module].push_back(one->module);
        } else {
            kept.add(from, to);
        }
    }
    for (const auto& [module, gone] : dropped) {
        const std::set<std::string> names(gone.begin(), gone.end());
        std::erase_if(needs[module], [&](const Loaded& one) { return names.count(one.module) != 0; });
    }
    return dropped;
}

}  // namespace envar::life
