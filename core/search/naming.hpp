// What the paths in a card can speak of.
#pragma once

#include <string>

#include "core/model/card.hpp"
#include "core/text/template.hpp"

namespace envar::search {

/// What a module's folder is called: its name with `-` between its parts.
[[nodiscard]] std::string folder_name(const model::Card& card, const std::string& name);

/// The path part of a name: the card's separator between its parts becomes '/'.
[[nodiscard]] std::string name_path(const model::Card& card, const std::string& name);

/// The version that a folder is called like, as manifests of the card's modules write it: 1.2.0 of `1.2.0`, `1.2` and
/// `v1.2`. Empty: it is called like none.
[[nodiscard]] std::string version_in(const model::Card& card, const std::string& folder);

/// The phase in which the host loads the module: its manifest's, else the card's `main` or first.
[[nodiscard]] std::string phase_of(const model::Manifest& manifest, const model::Card& card);

/// name, folder_name, path, version, and the forms of the name (name_snake, …).
[[nodiscard]] text::Values path_values(const model::Manifest& manifest, const model::Card& card);

}  // namespace envar::search
