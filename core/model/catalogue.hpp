// A catalogue: JSON Lines, one module version a line. Written from `.pc` files, read as modules that lie nowhere.
#pragma once

#include <string>
#include <vector>

#include "core/model/pc_file.hpp"
#include "core/model/space.hpp"

namespace envar::model {

/// One line a file, by name. `.pc` requirements become dependencies, several on one module become one.
[[nodiscard]] std::string catalogue_of(const std::vector<PcFile>& files);

/// The modules of a catalogue as a workspace without folders, so that they can be resolved, ordered and drawn. Of
/// several versions of one module the highest counts; withdrawn ones do not. What is wrong in a line is a finding
/// with its place, and the line is left out.
[[nodiscard]] Space read_catalogue(const text::Source& source, const std::vector<Card>& cards);

}  // namespace envar::model
