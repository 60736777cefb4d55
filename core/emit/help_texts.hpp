// What reference pages say, before it is laid out or translated.
#pragma once

#include <string>
#include <vector>

#include "core/model/space.hpp"
#include "core/text/translations.hpp"

namespace envar::emit {

struct ParameterTexts {
    std::string name, type, preset, summary;
    bool required = true;
};

struct MemberTexts {
    std::string name, kind, summary, description, returns, since;
    std::vector<ParameterTexts> parameters;
    std::string place;  // file:line
};

struct ModuleTexts {
    const model::Module* module = nullptr;
    const model::Card* card = nullptr;
    std::vector<MemberTexts> members;  // exported ones, in order of the sources
};

/// Words of the pages themselves, translated like all others.
namespace help_words {
inline const std::string name = "NAME", synopsis = "SYNOPSIS", members = "Members", needs = "Needs",
                         returns = "Returns", since = "Since", optional = "may be left out", otherwise = "else";
}

/// Of each module that can be read, of several versions the newest; by name. What the manifest says goes before what
/// the sources say.
[[nodiscard]] std::vector<ModuleTexts> module_texts(const model::Space& space);

[[nodiscard]] std::vector<text::Translatable> translatables(const std::vector<ModuleTexts>& modules);

}  // namespace envar::emit
