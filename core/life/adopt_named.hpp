// Modules that are not called like their folder: lists of the host tell them, their files tell their own names, or
// each file is one by itself.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "core/life/adopt_placed.hpp"
#include "core/model/card.hpp"

namespace envar::life {

/// A file that a host can load by a name.
struct NamedFile {
    std::string file;  // relative to the folder
    std::string name;
    std::string version;       // empty: not told
    std::string by;            // what tells its name
    bool one_of_many = false;  // the module could as well be called like another of its files
};

struct NamedFiles {
    std::vector<NamedFile> heads;    // one: the module that the folder is; several: each is one by itself
    std::vector<std::string> names;  // of all that can be loaded from the folder
    bool apart = false;              // the folder is none by itself, however many there are
};

/// What the card's host can load from the folder. A folder that nobody named must tell more of itself than that code
/// lies in it.
[[nodiscard]] NamedFiles named_files(const model::Card& card, const std::filesystem::path& folder, bool asked_for);

/// What it can load from below `space`, a folder in it that is no module itself, or one further down: by names that
/// begin so, where files in there load each other by such names.
[[nodiscard]] NamedFiles named_files_in(const model::Card& card, const std::filesystem::path& folder,
                                        const std::string& space);

/// Whether the card's host finds a module by where its file lies, and names tell that.
[[nodiscard]] bool finds_by_path(const model::Card& card);

/// What it can load from the folder once that is placed as it says.
[[nodiscard]] NamedFiles named_files_placed(const model::Card& card, const std::filesystem::path& folder,
                                            const Placement& placement);

/// The name that a file of code tells of itself, by the card's pattern: of several the first one that the host finds
/// where the file lies, else the first. Empty: none.
[[nodiscard]] std::string name_told_by(const model::Card& card, const std::filesystem::path& file);

/// How much of the folder's name is the module's; 0: they have nothing to do with each other.
[[nodiscard]] std::size_t likeness(const std::string& folder_name, const std::string& name);

/// Letters and digits only, small, as names are written in many ways.
[[nodiscard]] std::string letters_of(std::string_view name);

/// Whether code lies by itself in folders of that name, in whatever module.
[[nodiscard]] bool is_code_folder(const std::string& folder_name);

/// Where code may lie in a folder, relative to it: the folder itself first, which is empty; else with `/` at the end.
[[nodiscard]] std::vector<std::string> places_of_code(const model::Card& card);

/// Whether a folder of that name holds what is no part of a module: tests, examples, what was built.
[[nodiscard]] bool is_beside_the_code(const std::string& folder_name);

/// Files of the card's language in the folder and below it, relative to it, without what lies beside the code;
/// sorted.
[[nodiscard]] std::vector<std::string> code_files(const model::Card& card, const std::filesystem::path& folder);

}  // namespace envar::life
