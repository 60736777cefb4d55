// A catalogue: JSON Lines, one module version a line. Written from `.pc` files, read into a table of modules.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/model/manifest.hpp"
#include "core/model/module_table.hpp"
#include "core/model/pc_file.hpp"
#include "core/text/failure.hpp"
#include "core/text/finding.hpp"

namespace envar::model {

/// One line a file, by name. `.pc` requirements become dependencies, several on one module become one.
[[nodiscard]] std::string catalogue_of(const std::vector<PcFile>& files);

/// Reads a catalogue into `table` as rows of one more origin, called `shown`, with up to `jobs` threads. What is
/// wrong in a line is a finding with its place: the line, or the part of it, is left out. Of each kind of finding the
/// first twenty are told and the rest are counted. Fails only when the file cannot be read.
[[nodiscard]] text::Result<std::vector<text::Finding>> read_catalogue(const std::filesystem::path& file,
                                                                      const std::string& shown,
                                                                      const SchemeOf& scheme_of, unsigned jobs,
                                                                      ModuleTable& table);

}  // namespace envar::model
