#include "core/resolve/supply.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/files/read.hpp"
#include "core/model/catalogue.hpp"
#include "core/model/limits.hpp"
#include "core/search/declared.hpp"
#include "core/search/locate.hpp"

namespace envar::resolve {
namespace {

using model::Module;
using model::Space;
namespace fs = std::filesystem;

/// The folders of the workspace's own modules, and those with their manifests.
std::set<std::string> own_folders(const Space& space) {
    std::set<std::string> out;
    for (const Module& module : space.modules) {
        out.insert(module.folder.string());
        out.insert(module.home.string());
    }
    return out;
}

/// A module on a search folder, from its manifest; nothing when there is none that can be read.
bool read_module(const Space& space, const fs::path& folder, Module& module) {
    const fs::path file = folder / model::manifest_name;
    auto content = files::read_file(file, model::largest_document);
    if (!content) return false;
    module.source = text::Source(files::shown_path(file, space.root), std::move(*content));
    std::vector<text::Finding> findings;  // of somebody else's module
    module.manifest =
        model::read_manifest(model::parse_document(module.source), findings, model::schemes_of(space.cards));
    module.folder = module.home = folder;
    module.shown_folder = files::shown_path(folder, space.root);
    return !module.name().empty() && module.manifest.version.has_value();
}

/// Modules with manifests that lie on declared search folders, outside the workspace's own.
void add_searched(const Space& space, Supply& supply) {
    std::set<std::string> seen = own_folders(space);
    for (const model::SearchFolder& search : space.settings.search) {
        const fs::path folder = (space.root / search.folder.value).lexically_normal();
        std::vector<fs::path> inner;
        for (const auto& name : files::list_folder(folder)) inner.push_back(folder / name);
        for (const fs::path& path : std::vector<fs::path>(inner))
            if (files::is_folder(path) && !files::is_file(path / model::manifest_name))
                for (const auto& name : files::list_folder(path))
                    inner.push_back(path / name);  // versions below names
        const auto origin = static_cast<std::uint32_t>(supply.table.origins.size());
        bool used = false;
        for (const fs::path& path : inner) {
            if (seen.count(path.string()) != 0 || !files::is_file(path / model::manifest_name)) continue;
            Module module;
            if (seen.insert(path.string()); !read_module(space, path, module)) continue;
            supply.found.push_back(std::move(module));
            supply.table.add(supply.found.back(), origin);
            used = true;
        }
        if (used) supply.table.origins.push_back(search.folder.value);
    }
}

/// What a host that goes by versions finds of the workspace's modules, in versions that have not been seen yet.
void add_located(const Space& space, const search::Environment& environment, Supply& supply) {
    std::map<const model::Card*, search::LookupCache> caches;
    for (const Module& module : space.modules) {
        const model::Card* card = space.card(module.manifest.host.value);
        if (card == nullptr || !card->highest) continue;
        auto located =
            search::locate(module.name(), {&space, card, environment, space.root, {}, true, &caches[card]});
        if (!located.chosen) continue;
        located.shadowed.insert(located.shadowed.begin(), *located.chosen);
        for (const search::Choice& choice : located.shadowed) {
            if (choice.file.rfind(module.folder.string() + "/", 0) == 0) continue;
            supply.table.add_found(module.name(), choice.version, card->scheme, card->name.value, choice.file);
        }
    }
}

}  // namespace

Supply own_supply(const Space& space) {
    Supply supply;
    supply.table.origins = {"workspace"};
    for (const Module& module : space.modules) supply.table.add(module, 0);
    return supply;
}

text::Result<Supply> supply_of(const Space& space, const search::Environment& environment, unsigned jobs) {
    Supply supply = own_supply(space);
    add_searched(space, supply);
    add_located(space, environment, supply);
    for (const model::Origin& origin : space.settings.origins) {
        const std::string& name = origin.catalogue.value;
        auto findings = model::read_catalogue((space.root / name).lexically_normal(), name,
                                              model::schemes_of(space.cards), jobs, supply.table);
        if (!findings) return tl::unexpected(findings.error());
        supply.findings.insert(supply.findings.end(), findings->begin(), findings->end());
    }
    return supply;
}

text::Result<Supply> supply_of_catalogue(const fs::path& file, const std::string& shown,
                                         const model::SchemeOf& scheme_of, unsigned jobs) {
    Supply supply;
    auto findings = model::read_catalogue(file, shown, scheme_of, jobs, supply.table);
    if (!findings) return tl::unexpected(findings.error());
    supply.findings = std::move(*findings);
    return supply;
}

bool is_to_be_had(const Supply& supply, const std::string& name, const versions::Requirement& requirement,
                  bool prereleases) {
    const auto& table = supply.table;
    const model::Id module = table.names.find(name);
    if (module == model::no_id) return false;
    return std::any_of(table.rows.begin(), table.rows.end(), [&](const model::Row& row) {
        if (row.module == module) return versions::meets(table.version(row.version), requirement, prereleases);
        for (std::uint32_t i = row.first_offer; i < row.first_offer + row.offers; ++i)
            if (table.offers[i].module == module) return true;
        return false;
    });
}

}  // namespace envar::resolve
