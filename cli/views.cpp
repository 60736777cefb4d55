#include "cli/views.hpp"

#include <algorithm>

#include "core/files/links.hpp"
#include "core/files/read.hpp"

namespace envar::cli {

std::vector<const model::Module*> locked_modules(const model::Space& space,
                                                 const std::optional<resolve::Lock>& lock) {
    std::vector<const model::Module*> chosen;
    for (const model::Module& module : space.modules) {
        const auto* locked = lock ? lock->find(module.name()) : nullptr;
        const bool first = space.module(module.name()) == &module;
        if (locked == nullptr ? first : locked->version == module.version()) {
            if (chosen.empty() || chosen.back()->name() != module.name()) chosen.push_back(&module);
        }
    }
    return chosen;
}

bool is_made(const search::View& view) {
    const auto made = search::links_in(view.folder);
    return std::equal(made.begin(), made.end(), view.links.begin(), view.links.end(),
                      [](const search::MadeLink& a, const search::ViewLink& b) {
                          return a.name == b.name && a.target == b.target;
                      });
}

text::Result<void> make_view(const search::View& view) {
    std::vector<std::pair<std::string, std::filesystem::path>> links;
    for (const auto& link : view.links) links.emplace_back(link.name, link.target);
    return files::make_link_folder(view.folder, links);
}

text::Result<std::vector<std::string>> renew_views(const model::Space& space,
                                                   const std::optional<resolve::Lock>& lock) {
    std::vector<std::string> changed;
    for (const search::View& view : search::views_of(space, locked_modules(space, lock))) {
        const bool there = files::is_there(view.folder);
        if ((!there && !view.needed) || (there && is_made(view))) continue;
        if (auto made = make_view(view); !made) return tl::unexpected(made.error());
        changed.push_back(view.host);
    }
    return changed;
}

void prefer_locked(model::Space& space) {
    const auto same = [](const model::Module& a, const model::Module& b) { return a.name() == b.name(); };
    if (std::adjacent_find(space.modules.begin(), space.modules.end(), same) == space.modules.end()) return;
    const auto lock = resolve::read_lock(space.root);
    if (!lock) return;
    for (auto at = space.modules.begin(); at != space.modules.end();) {
        const auto end = std::find_if(at, space.modules.end(), [&](const auto& m) { return m.name() != at->name(); });
        const auto* locked = lock->find(at->name());
        const auto found =
            std::find_if(at, end, [&](const auto& m) { return locked != nullptr && m.version() == locked->version; });
        if (found != end) std::rotate(at, found, found + 1);
        at = end;
    }
}

}  // namespace envar::cli
