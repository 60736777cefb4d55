#include "core/model/assets.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "core/files/read.hpp"
#include "core/text/glob.hpp"
#include "core/text/names.hpp"

namespace envar::model {
namespace {

namespace fs = std::filesystem;

constexpr int deepest_folder = 32;

std::vector<std::string> patterns_of(const std::vector<Word>& words) {
    std::vector<std::string> patterns;
    patterns.reserve(words.size());
    for (const Word& word : words) patterns.push_back(word.value);
    return patterns;
}

std::string lowered(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c; });
    return text;
}

/// The end of the name from its n-th dot from behind, or all of it from its first dot.
std::string ending_of(const std::string& name, std::size_t dots) {
    std::size_t at = name.size();
    for (; dots > 0 && at > 0; --dots) {
        const std::size_t dot = name.rfind('.', at - 1);
        if (dot == std::string::npos) break;
        at = dot;
    }
    return name.substr(at);
}

class Walk {
  public:
    Walk(const Asset& asset, const fs::path& module_folder)
        : asset_(asset),
          root_(module_folder),
          ignore_(patterns_of(asset.ignore)),
          extension_(asset.extension.value),
          lower_extension_(lowered(extension_)),
          dots_(static_cast<std::size_t>(std::count(extension_.begin(), extension_.end(), '.'))) {}

    AssetScan scan() {
        const fs::path folder = (root_ / asset_.folder.value).lexically_normal();
        scan_.folder_there = files::is_folder(folder);
        if (!scan_.folder_there) return std::move(scan_);
        if (!files::resolves_inside(folder, root_)) {
            scan_.leaving.push_back(asset_.folder.value);
            return std::move(scan_);
        }
        walk(folder, "", 0);
        const auto by_path = [](const AssetFile& a, const AssetFile& b) { return a.path < b.path; };
        std::sort(scan_.files.begin(), scan_.files.end(), by_path);
        std::sort(scan_.near_misses.begin(), scan_.near_misses.end());
        std::sort(scan_.leaving.begin(), scan_.leaving.end());
        for (const auto& [ending, count] : endings_) scan_.other_endings.push_back(ending);
        std::stable_sort(scan_.other_endings.begin(), scan_.other_endings.end(),
                         [&](const auto& a, const auto& b) { return endings_.at(a) > endings_.at(b); });
        return std::move(scan_);
    }

  private:
    void walk(const fs::path& folder, const std::string& below, int depth) {
        std::error_code error;
        const fs::path real = fs::canonical(folder, error);
        if (error || depth > deepest_folder || !seen_.insert(real.string()).second) return;
        for (const auto& name : files::list_folder(folder)) {
            if (++looked_at_ > most_asset_files) {
                scan_.cut_short = true;
                return;
            }
            const std::string inner = below + name;
            const fs::path path = folder / name;
            if (files::link_target(path) && !files::resolves_inside(path, root_)) {
                if (would_count(path, name, inner, depth > 0)) scan_.leaving.push_back(shown(inner));
            } else if (files::is_folder(path)) {
                walk(path, inner + "/", depth + 1);
            } else if (files::is_file(path)) {
                file(path, name, inner, depth > 0);
            }
        }
    }

    [[nodiscard]] bool matches_extension(const std::string& name) const {
        return name.size() > extension_.size() && name.ends_with(extension_);
    }

    /// Whether a link would bring assets if it led to somewhere within the module.
    [[nodiscard]] bool would_count(const fs::path& path, const std::string& name, const std::string& inner,
                                   bool deep) const {
        if (ignore_.match(inner) || (deep && !asset_.recursive)) return false;
        return files::is_folder(path) ? asset_.recursive : matches_extension(name);
    }

    void file(const fs::path& path, const std::string& name, const std::string& inner, bool deep) {
        const bool matches = matches_extension(name);
        if (matches && ignore_.match(inner)) {
            ++scan_.ignored;
        } else if (matches && deep && !asset_.recursive) {
            ++scan_.deeper;
        } else if (matches) {
            std::error_code error;
            const std::uintmax_t bytes = fs::file_size(path, error);
            scan_.files.push_back({shown(inner), error ? 0 : bytes});
        } else if (!(deep && !asset_.recursive) && !ignore_.match(inner)) {
            if (is_near(name)) scan_.near_misses.push_back(shown(inner));
            if (const std::string ending = ending_of(name, 1); !ending.empty()) ++endings_[ending];
        }
    }

    /// The name ends like the extension in another case, or with a slip or two in it.
    [[nodiscard]] bool is_near(const std::string& name) const {
        const std::string ending = lowered(ending_of(name, dots_));
        const std::size_t allowed = std::max<std::size_t>(1, extension_.size() / 5);
        const bool same_letters = ending == lower_extension_;
        return !ending.empty() && ending.size() < name.size() &&
               (same_letters ||
                (extension_.size() > 3 && text::edit_distance(ending, lower_extension_, allowed) <= allowed));
    }

    [[nodiscard]] std::string shown(const std::string& inner) const {
        return (fs::path(asset_.folder.value) / inner).lexically_normal().generic_string();
    }

    const Asset& asset_;
    const fs::path& root_;
    text::Globs ignore_;
    std::string extension_;
    std::string lower_extension_;
    std::size_t dots_;
    std::set<std::string> seen_;
    std::map<std::string, std::size_t> endings_;
    std::size_t looked_at_ = 0;
    AssetScan scan_;
};

}  // namespace

AssetScan scan_asset(const Asset& asset, const fs::path& module_folder) { return Walk(asset, module_folder).scan(); }

}  // namespace envar::model
