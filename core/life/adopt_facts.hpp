// What the files of a module that was made without Envar tell of it, by the facts of its card.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/model/card.hpp"

namespace envar::life {

struct Told {
    std::string name;
    std::string version;
    std::string summary;
    std::string author;
    std::vector<std::string> needs;           // each once, in the files' order
    std::vector<std::string> optional_needs;  // that are no needs
    model::Pairs switches;                    // of the build, for tests and the like: each with what turns it off
    std::vector<std::string> notes;  // what could not be understood, with `FILE:LINE: ` where there is a line
};

/// Reads the files that [[adopt.fact]] names. Nothing fails: what is not there tells nothing.
[[nodiscard]] Told told_by_files(const model::Card& card, const std::filesystem::path& folder);

/// Whether one of the files that the card's facts name lies in the folder.
[[nodiscard]] bool has_facts(const model::Card& card, const std::filesystem::path& folder);

/// Group 1 of the pattern's first match in the text, a line's begin and end being those of `^` and `$`; or nothing.
[[nodiscard]] std::string first_match(const std::string& pattern, const std::string& text);

/// The same of each match, in their order; of the first 10,000.
[[nodiscard]] std::vector<std::string> all_matches(const std::string& pattern, const std::string& text);

/// What the entry file says the module is for, by the card's pattern: not who owns it, and no comment on some part of
/// it. Empty: nothing.
[[nodiscard]] std::string summary_in(const model::Card& card, const std::string& text);

struct ReadMe {
    std::string file;
    std::string summary;  // empty: nothing that looks like one
};

/// The first sentence in the folder's read-me that is no heading, picture, link or legal note; where that file is not
/// written to be shown, the first one that names the module.
[[nodiscard]] ReadMe read_me(const std::filesystem::path& folder, const std::string& module);

}  // namespace envar::life
