// Session scripts: what a shell has to run so that every host finds the workspace's modules.
#pragma once

#include <string>
#include <vector>

#include "core/model/space.hpp"
#include "core/text/failure.hpp"
#include "core/text/template.hpp"

namespace envar::search {

/// One variable as a session sets it: new entries in front of what it held.
struct SessionVariable {
    std::string host;
    std::string name;
    std::string prepend;  // entries joined by the separator
    std::string separator;
    std::string when_unset;  // goes behind when the variable was not set
    std::string instead_of;  // a variable whose value goes behind before that
};

/// The variables of all hosts that the workspace has search folders for. Fails when a variable cannot hold
/// one of the folders.
[[nodiscard]] text::Result<std::vector<SessionVariable>> session_variables(const model::Space& space);

/// The script for one shell, rendered from its card's template. `load` names modules to load at start.
[[nodiscard]] text::Result<std::string> session_script(const model::Space& space, const model::Card& shell,
                                                       const std::vector<std::string>& load);

/// How texts look in the card's language.
[[nodiscard]] text::Dialect dialect_of(const model::Card& card);

/// A template beside the card, which must lie in the card's folder.
[[nodiscard]] text::Result<std::string> read_template(const model::Card& card, const std::string& file);

}  // namespace envar::search
