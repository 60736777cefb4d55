// Generated files: what they should hold, what they do hold, and the plan that brings the two together.
//
// A generated file begins with two comment lines. The second names the file and the SHA-256 of everything
// behind it, so that a file which somebody edited is told from one that is merely out of date, and a copy of
// a generated file from the file itself.
#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/emit/values.hpp"
#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::emit {

enum class Drift {
    current,  // as it should be
    missing,
    stale,    // untouched, but the manifest has moved on
    edited,   // its digest does not fit: somebody changed it
    foreign,  // a file that Envar did not make, or a block whose marks are torn
    orphan,   // made by Envar, untouched, and nothing asks for it any more
};

[[nodiscard]] std::string_view drift_name(Drift drift);

struct GeneratedFile {
    std::filesystem::path path;
    std::string purpose;
    std::string module;                     // empty: of a search folder
    std::string wanted = {};                // the whole content, header included
    std::optional<std::string> there = {};  // what lies there now
    Drift drift = Drift::missing;
    const model::CardDialect* dialect = nullptr;  // that it is written in; null for what is left over
    std::string name = {};                        // its path relative to its owner's folder
    std::string block = {};  // only this block of it is Envar's; before it is compared, `wanted` is the block's body
    std::string without = {};  // of such a file: what it is without the block
    bool page = false;         // for readers only: no module needs it to work
    bool authored = false;     // somebody's own, to which Envar only adds: never taken away

    [[nodiscard]] bool shared() const { return !block.empty(); }
};

struct Survey {
    std::vector<GeneratedFile> files;     // by path
    std::vector<text::Finding> findings;  // templates that could not be rendered
};

/// Every generated file of the named modules (all, when none is named; none of those whose manifest has errors)
/// and of the search folders. With
/// `orphans` the modules' folders are also walked for leftovers.
[[nodiscard]] Survey survey(const model::Space& space, const std::vector<std::string>& modules, bool orphans);

/// The generated files of a module that is about to be, for a plan that makes it. A file whose template renders to
/// nothing is none. What they point into must outlive them.
[[nodiscard]] text::Result<std::vector<GeneratedFile>> generated_files(const model::Manifest& manifest,
                                                                       const model::Card& card, const Place& place);

/// Reads what lies there and says how the two differ. Fails when the marks of a block are torn.
[[nodiscard]] text::Result<void> compare(GeneratedFile& file);

/// Where a module's files lie and what they can speak of.
[[nodiscard]] Place place_of(const model::Space& space, const model::Card& card, const std::filesystem::path& folder);

/// A card's file rendered for the path given, relative to the module's folder.
[[nodiscard]] text::Result<std::string> rendered(const model::Card& card, const model::CardFile& file,
                                                 const std::string& path, nlohmann::json values, const Place& place);

/// Writes what is missing or stale; edited files only with `overwrite`, foreign ones never.
[[nodiscard]] files::Plan emit_plan(const Survey& survey, const std::filesystem::path& root, bool overwrite);

/// Removes every generated file; edited ones only with `overwrite`.
[[nodiscard]] files::Plan clean_plan(const Survey& survey, const std::filesystem::path& root, bool overwrite);

/// Header and body of a generated file. `name` is its path relative to its owner's folder.
[[nodiscard]] std::string with_header(const model::CardDialect& dialect, const std::string& name,
                                      const std::string& body);

/// How far a text is the work of Envar. `name` as above.
enum class Authorship { untouched, edited, foreign };
[[nodiscard]] Authorship authorship(const std::string& content, const std::string& name);

}  // namespace envar::emit
