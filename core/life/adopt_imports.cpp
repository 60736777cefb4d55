#include "core/life/adopt_imports.hpp"

#include <algorithm>
#include <set>

#include "core/files/read.hpp"
#include "core/life/adopt_named.hpp"
#include "core/members/imports.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/text/template.hpp"

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
        if (root == roots_.end()) continue;
        const text::Values values = {{"path", search::name_path(card, name)}};
        if (std::any_of(card.candidates.begin(), card.candidates.end(), [&](const std::string& candidate) {
                return files::is_file(root->second / text::fill(candidate, values));
            }))
            return above->second;
    }
    return {};
}

std::vector<std::pair<std::string, std::string>> Givers::needs_of(const model::Card& card, const std::string& module,
                                                                  const fs::path& folder, const Foreign& foreign,
                                                                  const members::Patterns& patterns) const {
    std::vector<std::pair<std::string, std::string>> out;
    std::vector<std::string> code = {foreign.entry};
    if (!foreign.alone)
        for (auto& file : code_files(card, folder))
            if (file != foreign.entry) code.push_back(std::move(file));
    std::set<std::string> known = {module};
    for (const auto& file : code) {
        const auto text = files::read_file(folder / file, largest_import);
        if (!text) continue;
        for (const auto& import : members::scan_imports(*text, patterns))
            if (std::string giver = of(card, import.name); !giver.empty() && known.insert(giver).second)
                out.emplace_back(std::move(giver), file);
    }
    return out;
}

}  // namespace envar::life
