// Making views from what the lock holds.
#pragma once

#include "cli/command.hpp"
#include "core/resolve/lock.hpp"
#include "core/search/view.hpp"

namespace envar::cli {

/// The modules of the workspace and its search folders in the versions that the lock holds; without a lock those that
/// `Space::module` gives.
[[nodiscard]] std::vector<const model::Module*> locked_modules(const model::Space& space,
                                                               const std::optional<resolve::Lock>& lock);

/// Makes the views that are needed or are there already, and takes away those that nothing needs any more. Gives the
/// hosts whose view changed.
[[nodiscard]] text::Result<std::vector<std::string>> renew_views(const model::Space& space,
                                                                 const std::optional<resolve::Lock>& lock);

/// Whether the links on the disk are those of the view.
[[nodiscard]] bool is_made(const search::View& view);
[[nodiscard]] text::Result<void> make_view(const search::View& view);

/// Puts the locked version of each module before its others, so that `Space::module` gives it.
void prefer_locked(model::Space& space);

}  // namespace envar::cli
