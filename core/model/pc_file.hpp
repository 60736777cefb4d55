// `.pc` files, by which native libraries on a Unix system tell their version and what they need. The format is that
// of the manual page pc(5): variables `name=value`, fields `Name: value`, `${name}` for a variable's value.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "core/text/finding.hpp"

namespace envar::model {

/// "zlib >= 1.2"; without an operator any version will do.
struct PcRequirement {
    std::string module;
    std::string comparator;  // "", "=", "!=", "<", "<=", ">" or ">="
    std::string version;     // as it is written
    text::Span span;         // of the module's name
};

struct PcFile {
    std::string name;  // the file's, without its ending
    text::Source source;
    std::string description;
    std::string version;  // as it is written; empty: it tells none
    std::vector<PcRequirement> public_needs;
    std::vector<PcRequirement> private_needs;
};

/// Reads one file. What cannot be understood is a finding and is left out. Linear in the text and in what variables
/// stand for, which may be 64 KiB a value.
[[nodiscard]] PcFile read_pc(const std::string& name, text::Source source, std::vector<text::Finding>& findings);

/// All in the folders, by name; of several of one name that of the first folder counts, and `NAME-uninstalled.pc`
/// comes before `NAME.pc`.
[[nodiscard]] std::vector<PcFile> read_pc_folders(const std::vector<std::filesystem::path>& folders,
                                                  const std::filesystem::path& shown_from,
                                                  std::vector<text::Finding>& findings);

/// Where `.pc` files are looked for: PKG_CONFIG_PATH, then PKG_CONFIG_LIBDIR or what a system has by itself.
[[nodiscard]] std::vector<std::filesystem::path> pc_folders(const std::map<std::string, std::string>& environment);

/// The first three numbers of a version of any form as a semantic one: `1.0.2k` is 1.0.2; empty when it begins
/// with none.
[[nodiscard]] std::string plain_version(const std::string& version);

}  // namespace envar::model
