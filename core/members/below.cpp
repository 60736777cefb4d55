#include "core/members/below.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/files/read.hpp"
#include "core/members/definitions.hpp"
#include "core/members/namespaces.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/text/template.hpp"

namespace envar::members {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t most_files_below = 2000, most_levels_below = 16;

class WalkBelow {
  public:
    WalkBelow(const model::Module& module, const model::Card& card, const fs::path& base)
        : folder_(module.folder), card_(card), internal_(card), entry_(entry_file(module, card).lexically_normal()) {
        into(base, module.name(), 0);
    }
    [[nodiscard]] const std::map<std::string, fs::path>& files() const { return files_; }

  private:
    void into(const fs::path& folder, const std::string& name, std::size_t depth) {
        for (const std::string& file : files::list_folder(folder)) {
            const fs::path path = folder / file;
            if (files_.size() == most_files_below || file.front() == '.' || path == entry_) continue;
            if (!files::resolves_inside(path, folder_)) continue;
            if (path.extension() == card_.extension && files::is_file(path)) {
                if (is_found(folder.parent_path(), folder.filename().string(), path)) {
                    files_.emplace(name, path);
                } else if (const std::string stem = path.stem().string(); is_others(stem)) {
                    if (is_found(folder, stem, path)) files_.emplace(below(name, stem), path);
                }
            } else if (depth < most_levels_below && is_others(file) && fs::is_directory(path)) {
                into(path, below(name, file), depth + 1);
            }
        }
    }

    [[nodiscard]] std::string below(const std::string& name, const std::string& own) const {
        return fmt::format("{}{}{}", name, card_.name_separator, own);
    }

    [[nodiscard]] bool is_found(const fs::path& folder, const std::string& name, const fs::path& path) const {
        return std::any_of(card_.candidates.begin(), card_.candidates.end(), [&](const std::string& candidate) {
            return folder / text::fill(candidate, {{"path", name}}) == path;
        });
    }

    /// Others' business too.
    [[nodiscard]] bool is_others(const std::string& name) const {
        return !internal_.has(name) && name != "test" && name != "tests" && name != "t";
    }

    const fs::path& folder_;
    const model::Card& card_;
    InternalNames internal_;
    fs::path entry_;
    std::map<std::string, fs::path> files_;
};

}  // namespace

std::vector<Below> scan_below(const model::Module& module, const model::Card& card, const fs::path& root) {
    const model::Manifest& manifest = module.manifest;
    if (manifest.exports_all || !manifest.members.empty() || card.name_separator.empty() || card.is_native())
        return {};
    const auto start = search::root_of(card, module.name(), entry_file(module, card));
    if (!start) return {};
    std::vector<Below> out;
    const Patterns patterns(card);
    const WalkBelow walk(module, card, *start / search::name_path(card, module.name()));
    for (const auto& [name, path] : walk.files()) {
        auto content = files::read_file(path, largest_source);
        if (!content) continue;
        Below& one = out.emplace_back();
        one.name = name;
        one.scan.readable = true;
        one.scan.card = &card;
        one.scan.source = text::Source(files::shown_path(path, root), std::move(*content));
        Outside outside;  // what it takes from elsewhere is told there
        one.scan.members = definitions(one.scan.source, card, patterns.compiled(), false, module.name(), &outside);
        keep_own(card, one.name, one.scan.members);
    }
    return out;
}

std::vector<Difference> with_those_below(std::vector<Difference> own, const std::vector<Below>& before,
                                         const std::vector<Below>& after) {
    model::Manifest all;
    all.exports_all = true;
    const auto find = [](const std::vector<Below>& list, const std::string& name) {
        const auto at = std::find_if(list.begin(), list.end(), [&](const Below& one) { return one.name == name; });
        return at == list.end() ? nullptr : &*at;
    };
    for (const Below& was : before) {
        const Below* now = find(after, was.name);
        if (now == nullptr) {
            own.push_back({Weight::breaking, "removed", was.name,
                           fmt::format("`{}` cannot be loaded any more", was.name), 0, was.scan.source.file()});
            continue;
        }
        for (Difference& one : differences({&all, &was.scan, {}}, {&all, &now->scan, {}})) {
            one.sentence = now->name + ": " + one.sentence;
            one.below = now->name;
            own.push_back(std::move(one));
        }
    }
    for (const Below& now : after)
        if (find(before, now.name) == nullptr)
            own.push_back({Weight::addition, "added", now.name, fmt::format("`{}` can be loaded too", now.name), 0,
                           now.scan.source.file()});
    sort(own);
    return own;
}

}  // namespace envar::members
