// Session scripts: what a shell has to run so that every host finds the workspace's modules.
#pragma once

#include <string>
#include <vector>

#include "core/model/space.hpp"
#include "core/search/search_path.hpp"
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
    bool own_shell_only = false;
    std::vector<std::string> folders;  // what `prepend` is made of

    /// What the variable is to hold in an environment: the entries in front of what it holds there.
    [[nodiscard]] std::string value_in(const Environment& environment) const;
};

/// The variables of all hosts that the workspace has search folders for. Fails when a variable cannot hold
/// one of the folders.
[[nodiscard]] text::Result<std::vector<SessionVariable>> session_variables(const model::Space& space);

/// The script for one shell, rendered from its card's template. `load` names modules to load at start. Variables
/// that only another shell can set for itself are left out, and a comment says so.
[[nodiscard]] text::Result<std::string> session_script(const model::Space& space, const model::Card& shell,
                                                       const std::vector<std::string>& load);

/// The same for programs that start others: lines NAME="value" that sh reads too. Values are whole, made for the
/// environment given.
[[nodiscard]] text::Result<std::string> session_dotenv(const model::Space& space, const Environment& environment);

/// The same as `{"workspace", "root", "variables": [{"host", "name", "value", "entries", "separator"}], "left_out":
/// [{"host", "name"}]}`.
[[nodiscard]] text::Result<std::string> session_json(const model::Space& space, const Environment& environment);

/// How texts look in a language; `name` as files of the card call it, empty for the card's own.
[[nodiscard]] text::Dialect dialect_of(const model::Card& card, const std::string& name = {});

/// A template beside the card, which must lie in the card's folder.
[[nodiscard]] text::Result<std::string> read_template(const model::Card& card, const std::string& file);

}  // namespace envar::search
