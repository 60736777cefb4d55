// Translations in the gettext format: a template of all texts (`.pot`), and one file of translations a language
// (`.po`). Read and written here because the format is small, and its usual library is under a licence that would
// bind whatever links it. Plural forms and contexts are not used.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

struct Translatable {
    std::string text;
    std::vector<std::string> places;  // "lua/star_field/init.lua:12"
    std::string note;                 // for translators; may be empty
};

/// The template: each text once, in the given order, those of one text joined.
[[nodiscard]] std::string translation_template(const std::vector<Translatable>& texts, std::string_view project);

/// A file for a language, nothing translated yet. `language` as gettext writes it: "de", "pt_BR".
[[nodiscard]] std::string new_translations(const std::vector<Translatable>& texts, std::string_view project,
                                           std::string_view language);

/// The file with what is missing in it added at its end; all else stays as it is, byte for byte.
[[nodiscard]] std::string with_missing(const std::string& file, const std::vector<Translatable>& texts);

/// What is translated: text → translation. Those that are marked `fuzzy`, empty or obsolete are left out, and so is
/// what cannot be read.
[[nodiscard]] std::map<std::string, std::string> read_translations(std::string_view file);

}  // namespace envar::text
