// Authored files: what a card's blueprint writes once for a new module and leaves to its author.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/emit/values.hpp"
#include "core/model/space.hpp"
#include "core/text/failure.hpp"

namespace envar::emit {

struct AuthoredFile {
    std::string path;  // relative to the module's folder
    std::string purpose;
    std::string body;
    bool test = false;
    bool beside = false;  // the path is relative to the folder that new modules are made in
};

/// What was gathered from scripts into a module, in the order of each.
struct GatheredCode {
    struct Item {
        std::string code;
        std::string name = {};   // of a function; empty: it is a statement that goes along
        std::string owner = {};  // the table that the function is put into; empty: none
        bool exported = false;
        bool late = false;        // a statement that calls one of the functions
        bool always = false;      // a statement that goes along whatever the functions use
        std::string shared = {};  // the code of a statement where all functions are to see what it sets
    };
    struct Script {
        std::string file;
        std::vector<Item> items;
    };
    std::vector<Script> scripts;
    std::string form = {};  // "one_file" or "file_each"
};

/// Values of a blueprint's settings: what was given, else the defaults. Fails on a setting that the blueprint does
/// not know or that does not look as it must.
[[nodiscard]] text::Result<std::map<std::string, std::string>> blueprint_settings(
    const model::Blueprint& blueprint, const std::map<std::string, std::string>& given, const std::string& name);

/// The files of one blueprint, by the card's order; those of scope `member` once a member.
[[nodiscard]] text::Result<std::vector<AuthoredFile>> authored_files(
    const model::Manifest& manifest, const model::Card& card, const std::string& blueprint,
    const std::map<std::string, std::string>& settings, const Place& place);

/// The files of a module that is gathered: what the card's [[gather.file]] says. They can speak of `scripts` (script,
/// items (code, shared, is_function, always, late, name,
/// exported, called)), `functions` and `along` (the same items), `many` (more
/// functions than some hosts can name at one place); those of scope `member` of a function as `member`, with `code`.
[[nodiscard]] text::Result<std::vector<AuthoredFile>> gathered_files(const model::Manifest& manifest,
                                                                     const model::Card& card,
                                                                     const GatheredCode& code, const Place& place);
/// Paths of the tests among them.
[[nodiscard]] std::vector<std::string> gathered_test_paths(const model::Manifest& manifest, const model::Card& card,
                                                           const GatheredCode& code);

/// Paths of the tests among a blueprint's files, without rendering anything.
[[nodiscard]] std::vector<std::string> test_paths(const model::Manifest& manifest, const model::Card& card,
                                                  const std::string& blueprint,
                                                  const std::map<std::string, std::string>& settings);

/// What a blueprint adds to a new manifest, as TOML.
[[nodiscard]] text::Result<std::string> manifest_addition(const model::Manifest& manifest, const model::Card& card,
                                                          const std::string& template_file,
                                                          const std::map<std::string, std::string>& settings);

}  // namespace envar::emit
