#include "core/search/view.hpp"

#include <algorithm>
#include <map>

#include "core/files/read.hpp"
#include "core/search/naming.hpp"

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

/// Whether the host itself tells versions apart, by their folders or by what they say of themselves.
bool knows_versions(const model::Card& card) {
    return card.highest || card.module_folder.find("{{version}}") != std::string::npos;
}

}  // namespace

fs::path view_folder(const Space& space, std::string_view host) {
    return space.root / ".envar" / "view" / std::string(host);
}

std::vector<View> views_of(const Space& space, const std::vector<const Module*>& chosen) {
    std::map<std::string, std::size_t> versions;
    for (const Module& module : space.modules) ++versions[module.name()];
    std::map<std::string, View> views;
    for (const Module* module : chosen) {
        const model::Card* card = space.card(module->manifest.host.value);
        if (card == nullptr || card->variables.empty() || knows_versions(*card)) continue;
        View& view = views[card->name.value];
        view.host = card->name.value;
        view.folder = view_folder(space, view.host);
        view.links.push_back(
            {card->inside.empty() ? name_path(*card, module->name()) : folder_name(*card, module->name()), module});
        const bool in_version_folder = module->folder.filename() == module->version() &&
                                       module->folder.parent_path().filename() == folder_name(*card, module->name());
        view.needed = view.needed || versions[module->name()] > 1 || in_version_folder;
    }
    std::vector<View> out;
    for (auto& [host, view] : views) {
        std::sort(view.links.begin(), view.links.end(),
                  [](const ViewLink& a, const ViewLink& b) { return a.name < b.name; });
        // A module below another one's name lies in that one's folder already.
        std::vector<ViewLink> kept;
        for (ViewLink& link : view.links)
            if (kept.empty() || link.name.rfind(kept.back().name + "/", 0) != 0) kept.push_back(std::move(link));
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
