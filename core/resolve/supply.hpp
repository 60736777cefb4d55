// Where versions come from: the workspace's modules, what lies on its search folders, what hosts find by themselves,
// and the catalogues of its origins, in this order.
#pragma once

#include <deque>
#include <filesystem>
#include <string>
#include <vector>

#include "core/model/module_table.hpp"
#include "core/model/space.hpp"
#include "core/search/search_path.hpp"
#include "core/text/failure.hpp"
#include "core/text/finding.hpp"
#include "core/versions/requirement.hpp"

namespace envar::resolve {

struct Supply {
    model::ModuleTable table;
    std::vector<text::Finding> findings;  // of reading catalogues
    std::deque<model::Module> found;      // on search folders; rows point at them
};

/// Everything that a workspace can choose from. `space` must outlive it. Fails when a catalogue cannot be read.
[[nodiscard]] text::Result<Supply> supply_of(const model::Space& space, const search::Environment& environment,
                                             unsigned jobs);

/// The workspace's modules alone.
[[nodiscard]] Supply own_supply(const model::Space& space);

/// A bare catalogue, called `shown` wherever it is spoken of.
[[nodiscard]] text::Result<Supply> supply_of_catalogue(const std::filesystem::path& file, const std::string& shown,
                                                       const model::SchemeOf& scheme_of, unsigned jobs);

/// Whether there is a version of the module that meets the requirement, or a module that provides it.
[[nodiscard]] bool is_to_be_had(const Supply& supply, const std::string& name,
                                const versions::Requirement& requirement, bool prereleases);

}  // namespace envar::resolve
