#include "core/search/root.hpp"

#include <algorithm>

#include "core/files/read.hpp"
#include "core/search/naming.hpp"
#include "core/text/template.hpp"

namespace envar::search {

namespace fs = std::filesystem;

std::optional<fs::path> root_of(const model::Card& card, const std::string& name, const fs::path& file) {
    const std::string path = file.lexically_normal().string();
    for (const auto& candidate : card.candidates) {
        const std::string end = "/" + text::fill(candidate, {{"path", name_path(card, name)}});
        if (path.size() > end.size() && path.ends_with(end))
            return fs::path(path.substr(0, path.size() - end.size()));
    }
    return std::nullopt;
}

std::optional<fs::path> root_of(const model::Card& card, const model::Module& module) {
    const std::string& entry = module.manifest.entry.file.value;
    return entry.empty() ? std::nullopt : root_of(card, module.name(), module.folder / entry);
}

bool finds_below(const model::Card& card, const fs::path& root, const std::string& name) {
    const text::Values values = {{"path", name_path(card, name)}};
    return std::any_of(card.candidates.begin(), card.candidates.end(), [&](const std::string& candidate) {
        return files::is_file(root / text::fill(candidate, values));
    });
}

}  // namespace envar::search
