#include "core/search/naming.hpp"

#include <algorithm>
#include <cctype>

#include "core/text/names.hpp"
#include "core/versions/version.hpp"

namespace envar::search {
namespace {

std::string with_separator(const model::Card& card, const std::string& name, char separator) {
    if (card.name_separator.empty()) return name;
    std::string out;
    for (std::size_t at = 0; at < name.size();) {
        if (name.compare(at, card.name_separator.size(), card.name_separator) == 0) {
            out += separator;
            at += card.name_separator.size();
        } else {
            out += name[at++];
        }
    }
    return out;
}

}  // namespace

std::string name_path(const model::Card& card, const std::string& name) { return with_separator(card, name, '/'); }

std::string folder_name(const model::Card& card, const std::string& name) { return with_separator(card, name, '-'); }

std::string version_in(const model::Card& card, const std::string& folder) {
    std::string bare = folder.substr(folder.starts_with('v') ? 1 : 0);
    if (bare.find('.') == std::string::npos || std::isdigit(static_cast<unsigned char>(bare.front())) == 0) return {};
    if (versions::parse_version(bare, card.scheme)) return bare;
    if (bare.find_first_not_of("0123456789.") != std::string::npos) return {};
    return versions::mended_version(bare, card.scheme).value_or("");
}

std::string phase_of(const model::Manifest& manifest, const model::Card& card) {
    if (!manifest.entry.phase.value.empty()) return manifest.entry.phase.value;
    const auto usual = std::find(card.phases.begin(), card.phases.end(), "main");
    if (usual != card.phases.end()) return *usual;
    return card.phases.empty() ? "main" : card.phases.front();
}

text::Values path_values(const model::Manifest& manifest, const model::Card& card) {
    const std::string& name = manifest.name.value;
    const auto form = [&](text::NameForm wanted) { return text::in_form(name, wanted); };
    return {{"name", name},
            {"path", name_path(card, name)},
            {"folder_name", folder_name(card, name)},
            {"version", manifest.version ? manifest.version->text() : ""},
            {"name_snake", form(text::NameForm::snake)},
            {"name_kebab", form(text::NameForm::kebab)},
            {"name_camel", form(text::NameForm::camel)},
            {"name_pascal", form(text::NameForm::pascal)},
            {"name_upper", form(text::NameForm::upper)}};
}

}  // namespace envar::search
