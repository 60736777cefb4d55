#include "core/search/declared.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "core/files/read.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/search/search_path.hpp"
#include "core/search/view.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;

std::string absolute_folder(const fs::path& root, const std::string& folder) {
    std::string path = (root / folder).lexically_normal().string();
    while (path.size() > 1 && path.back() == '/') path.pop_back();
    return path;
}

bool lies_below(const std::string& path, const std::string& folder) {
    return path.size() > folder.size() && path.compare(0, folder.size(), folder) == 0 &&
           (folder == "/" || path[folder.size()] == '/');
}

bool is_for(const model::SearchFolder& search, const model::Card& card) {
    return search.host.value == card.name.value && !search.folder.value.empty();
}

/// The folder that a module of a host that looks inside of modules puts on the search path.
std::string entry_of(const model::Card& card, const model::Module& module) {
    const auto root = root_of(card, module);
    const bool own = root && (*root == module.folder || lies_below(root->string(), module.folder.string()));
    return own ? absolute_folder(*root, "") : absolute_folder(module.folder, card.inside);
}

/// The view of the chosen versions comes before all that is declared.
void add_view(const model::Space& space, const model::Card& card, std::vector<DeclaredFolder>& folders) {
    const fs::path view = view_folder(space, card.name.value);
    if (card.variables.empty() || !files::is_folder(view)) return;
    const auto* variable = &card.variables.front();
    if (card.inside.empty()) return folders.push_back({view.string(), nullptr, variable, true, {}});
    std::map<std::string, const model::Module*> by_folder;
    for (const model::Module& module : space.modules)
        if (module.manifest.host.value == card.name.value) by_folder.emplace(module.folder.string(), &module);
    for (const MadeLink& link : links_in(view)) {
        const auto module = by_folder.find(link.target.string());
        const std::string inside =
            module == by_folder.end()
                ? card.inside
                : fs::path(entry_of(card, *module->second)).lexically_relative(module->second->folder).string();
        folders.push_back({absolute_folder(view / link.name, inside), nullptr, variable, true, {}});
    }
}

void add_once(std::vector<std::string>& folders, std::string folder) {
    if (std::find(folders.begin(), folders.end(), folder) == folders.end()) folders.push_back(std::move(folder));
}

}  // namespace

const model::SearchVariable* variable_of(const model::Card& card, const model::SearchFolder& search) {
    for (const auto& variable : card.variables)
        if (variable.name == search.variable.value) return &variable;
    return card.variables.empty() ? nullptr : &card.variables.front();
}

std::vector<std::string> folders_below(const fs::path& folder, const std::string& pattern) {
    std::vector<std::string> found = {absolute_folder(folder, "")};
    for (std::size_t at = 0; at < pattern.size();) {
        const std::size_t end = std::min(pattern.find('/', at), pattern.size());
        const std::string part = pattern.substr(at, end - at);
        std::vector<std::string> next;
        for (const auto& parent : found) {
            auto names = part == "*" ? files::list_folder(parent) : std::vector<std::string>{part};
            std::sort(names.begin(), names.end());
            for (const auto& name : names)
                if (name.front() != '.' && files::is_folder(fs::path(parent) / name))
                    next.push_back(absolute_folder(parent, name));
        }
        found = std::move(next);
        at = end + 1;
    }
    return found;
}

std::vector<DeclaredFolder> declared_folders(const model::Space& space, const model::Card& card) {
    std::vector<DeclaredFolder> folders;
    add_view(space, card, folders);
    for (const auto& search : space.settings.search) {
        if (!is_for(search, card)) continue;
        const std::string folder = absolute_folder(space.root, search.folder.value);
        const auto* variable = variable_of(card, search);
        if (variable != nullptr && !variable->below.empty()) {
            for (auto& inner : folders_below(folder, variable->below)) {
                const std::string below = inner.substr(folder == "/" ? 1 : folder.size() + 1);
                folders.push_back({std::move(inner), &search, variable, false, below.substr(0, below.find('/'))});
            }
            continue;
        }
        if (card.inside.empty()) {
            folders.push_back({folder, &search, variable, false, {}});
            continue;
        }
        std::set<std::string> known;  // several modules may lie in one folder
        for (const model::Module& module : space.modules) {
            if (module.manifest.host.value != card.name.value || !lies_below(module.folder.string(), folder))
                continue;
            if (in_version_folder(card, module, folder_name(card, module.name()))) continue;
            std::string inner = entry_of(card, module);
            if (known.insert(inner).second) folders.push_back({std::move(inner), &search, variable, false, {}});
        }
    }
    return folders;
}

const DeclaredFolder* holder_of(const std::vector<DeclaredFolder>& folders, const model::Module& module) {
    const DeclaredFolder* holder = nullptr;
    for (const DeclaredFolder& declared : folders)
        if (lies_below(module.folder.string(), declared.folder) &&
            (holder == nullptr || declared.folder.size() > holder->folder.size()))
            holder = &declared;
    return holder;
}

std::vector<std::string> session_folders(const model::Space& space, const model::Card& card,
                                         const model::SearchVariable* variable) {
    std::vector<std::string> folders;
    const bool deeper = variable != nullptr && !variable->below.empty();
    for (const DeclaredFolder& declared : declared_folders(space, card)) {
        if (declared.variable != variable || deeper || !cannot_hold(card, declared.folder).empty()) continue;
        add_once(folders, declared.folder);
    }
    if (!deeper) return folders;
    for (const auto& search : space.settings.search)
        if (is_for(search, card) && variable_of(card, search) == variable)
            add_once(folders, absolute_folder(space.root, search.folder.value));
    return folders;
}

std::vector<std::string> workspace_folders(const model::Space& space, const model::Card& card) {
    std::vector<std::string> folders;
    for (const auto& search : space.settings.search) {
        if (!is_for(search, card)) continue;
        std::string folder = absolute_folder(space.root, search.folder.value);
        if (cannot_hold(card, folder).empty()) add_once(folders, std::move(folder));
    }
    return folders;
}

}  // namespace envar::search
