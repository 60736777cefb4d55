#include "core/search/view.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <tuple>

#include "core/files/read.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;
using model::Module;
using model::Space;

void collect(const fs::path& folder, const std::string& shown, int depth, std::vector<MadeLink>& links) {
    for (const auto& name : files::list_folder(folder)) {
        const fs::path path = folder / name;
        if (const auto target = files::link_target(path)) {
            links.push_back({shown + name, (folder / *target).lexically_normal()});
        } else if (depth < 8 && files::is_folder(path)) {
            collect(path, shown + name + "/", depth + 1, links);
        }
    }
}

/// Whether a view shows the module. A host that goes by versions finds them itself, but for those in folders of
/// versions, which lie deeper than it looks.
bool is_shown(const model::Card& card, bool in_version_folder) {
    return card.module_folder.find("{{version}}") == std::string::npos && (!card.highest || in_version_folder);
}

/// The links by which the host finds the module.
void add_links(const model::Card& card, const Module& module, std::vector<ViewLink>& links) {
    const fs::path folder = module.folder.lexically_normal();
    const bool by_folder = card.highest || !card.inside.empty();
    const std::string name = by_folder ? folder_name(card, module.name()) : name_path(card, module.name());
    const std::string& file = module.manifest.entry.file.value;
    const bool is_found_in_folder =
        std::any_of(card.candidates.begin(), card.candidates.end(), [&](const std::string& candidate) {
            return text::fill(candidate, {{"path", name_path(card, module.name())}}) == name + "/" + file;
        });
    if (by_folder || is_found_in_folder || root_of(card, module) != folder) {
        links.push_back({name, &module, folder});
        return;
    }
    // The host looks right into the folder: for the entry file, and for what that may load from beside it.
    const std::string entry = fs::path(file).lexically_normal().generic_string();
    const std::string extension = fs::path(entry).extension().string(), below = fs::path(entry).stem().string();
    links.push_back({entry, &module, folder / entry});
    if (entry.find('/') != std::string::npos) return;
    for (const auto& other : files::list_folder(folder)) {
        if (other == entry) continue;
        const bool is_code = fs::path(other).extension() == extension && files::is_file(folder / other);
        if (is_code || (other == below && files::is_folder(folder / other)))
            links.push_back({other, &module, folder / other, true});
    }
}

}  // namespace

bool in_version_folder(const model::Card& card, const Module& module, std::string_view folder_name) {
    return version_in(card, module.folder.filename().string()) == module.version() &&
           module.folder.parent_path().string().ends_with(fmt::format("/{}", folder_name));
}

bool needs_views(const Space& space) {
    for (std::size_t i = 0; i < space.modules.size(); ++i) {
        const Module& module = space.modules[i];
        if (i > 0 && module.name() == space.modules[i - 1].name()) return true;
        const model::Card* card = space.card(module.manifest.host.value);
        if (card != nullptr && in_version_folder(*card, module, folder_name(*card, module.name()))) return true;
    }
    return false;
}

fs::path view_folder(const Space& space, std::string_view host) {
    return space.root / ".envar" / "view" / std::string(host);
}

std::vector<View> views_of(const Space& space, const std::vector<const Module*>& chosen) {
    std::map<std::string, std::size_t> versions;
    for (const Module& module : space.modules) ++versions[module.name()];
    std::map<std::string, View> views;
    for (const Module* module : chosen) {
        const model::Card* card = space.card(module->manifest.host.value);
        if (card == nullptr || card->variables.empty()) continue;
        const bool lies_in_version = in_version_folder(*card, *module, folder_name(*card, module->name()));
        if (!is_shown(*card, lies_in_version)) continue;
        View& view = views[card->name.value];
        view.host = card->name.value;
        view.folder = view_folder(space, view.host);
        add_links(*card, *module, view.links);
        view.needed = view.needed || versions[module->name()] > 1 || lies_in_version;
    }
    std::vector<View> out;
    for (auto& [host, view] : views) {
        // Of several of a name, the one by which its module is found; then the first by the modules' names.
        std::stable_sort(view.links.begin(), view.links.end(), [](const ViewLink& a, const ViewLink& b) {
            return std::tie(a.name, a.beside) < std::tie(b.name, b.beside);
        });
        // A module below another one's name lies in that one's folder already.
        std::vector<ViewLink> kept;
        for (ViewLink& link : view.links) {
            if (!kept.empty() && link.name == kept.back().name) {
                view.hidden.push_back({std::move(link), kept.back()});
            } else if (kept.empty() || link.name.rfind(kept.back().name + "/", 0) != 0) {
                kept.push_back(std::move(link));
            }
        }
        view.links = std::move(kept);
        out.push_back(std::move(view));
    }
    return out;
}

std::vector<MadeLink> links_in(const fs::path& view) {
    std::vector<MadeLink> links;
    collect(view, "", 0, links);
    return links;
}

std::string through_views(const Space& space, const std::string& path) {
    const std::string views = (space.root / ".envar" / "view").string() + "/";
    if (path.rfind(views, 0) != 0) return path;
    fs::path at = views;
    const fs::path rest = fs::path(path).lexically_relative(views);
    for (auto part = rest.begin(); part != rest.end(); ++part) {
        const auto target = files::link_target(at / *part);
        at = target ? (at / *target).lexically_normal() : at / *part;
    }
    return at.string();
}

}  // namespace envar::search
