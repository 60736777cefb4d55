// Reference pages: what each module exports, from its manifest and the documentation in its sources, as Markdown and
// as manual pages, in each language that is wanted; an index of the workspace; and the texts for translators.
//
//     help/index.md               help/de/index.md            all modules
//     help/star_field.md          help/de/star_field.md       one of them
//     help/man3/star_field.3      help/de/man3/star_field.3   the same: `man -M help star_field`
//     help/help.pot               help/po/de.po               what is to be translated, and the translations
//
// A file of translations is the translator's: only texts that are missing in it are ever added, at its end.
#pragma once

#include <string>
#include <vector>

#include "core/emit/generated.hpp"

namespace envar::emit {

/// All of them, compared with what lies there; nothing when the workspace wants no pages. With module names only the
/// pages of these, and what speaks of all modules.
[[nodiscard]] text::Result<std::vector<GeneratedFile>> help_files(const model::Space& space,
                                                                  const std::vector<std::string>& modules);

/// A manual page from Markdown, by lowdown: without the line that names it.
[[nodiscard]] text::Result<std::string> manual_page(const std::string& markdown);

}  // namespace envar::emit
