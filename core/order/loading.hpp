// What is to be loaded: the chosen version of each module that the roots lead to, and who needs whom.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/space.hpp"
#include "core/order/graph.hpp"
#include "core/resolve/resolve.hpp"

namespace envar::order {

inline constexpr std::uint32_t nothing = UINT32_MAX;

/// One module that is to be loaded.
struct Item {
    std::uint32_t row = 0;
    std::string_view name;
    std::string_view host;
    std::string phase;
    std::uint32_t phase_rank = 0;  // in its host's card
};

/// A need, or a wish, of an item.
struct Tie {
    Node from = 0;
    Node to = nothing;       // nothing: it is not there
    std::uint32_t need = 0;  // of the table; of a wish: its place in the manifest's list
    bool optional = false;
};

struct Loading {
    const model::ModuleTable* table = nullptr;
    std::vector<Item> items;
    std::vector<Tie> needs;   // by item
    std::vector<Tie> wishes;  // `after`, only of modules that are there
};

/// The rows that a resolution chose; where it chose none, of each module the newest.
[[nodiscard]] std::vector<std::uint32_t> chosen_rows(const model::ModuleTable& table,
                                                     const resolve::Resolution& resolution);

/// What counts when modules are loaded, and not when they are built or tested.
inline constexpr resolve::Stages load_only = {true, false, false, false};

/// The roots and all that they need, from the rows that are chosen: one a name. Optional needs are followed where
/// something is chosen for them, unless `optional` says that they bring nothing along. Cards of `space` tell phases;
/// it may have no modules.
[[nodiscard]] Loading loading_of(const model::Space& space, const model::ModuleTable& table,
                                 const resolve::Setting& setting, const std::vector<std::string>& roots,
                                 const std::vector<std::uint32_t>& chosen, bool optional = true);

}  // namespace envar::order
