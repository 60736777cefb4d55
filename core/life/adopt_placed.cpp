#include "core/life/adopt_placed.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <set>
#include <utility>
#include <vector>

#include "core/files/read.hpp"
#include "core/life/adopt_named.hpp"
#include "core/life/adopt_versions.hpp"
#include "core/members/imports.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/text/template.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using model::Card;

constexpr std::size_t largest_placed = std::size_t{16} << 20U;
constexpr std::size_t longest_space = 2;  // parts of a name that stand for the folder
constexpr std::string_view path_mark = "{{path}}";

/// By what the files say they are called: `IP.pm` at the top, which says that it is Net::IP.
std::optional<Placement> by_told_names(const Card& card, const fs::path& folder) {
    std::map<std::pair<std::string, std::string>, std::size_t> votes;
    std::size_t files = 0;
    for (const auto& file : code_files(card, folder)) {
        const std::string name = name_told_by(card, folder / file);
        if (name.empty()) continue;
        ++files;
        for (const std::string& place : places_of_code(card)) {
            if (!file.starts_with(place)) continue;
            const std::string own = "/" + file.substr(place.size());
            for (const auto& candidate : card.candidates) {
                const std::string wanted = text::fill(candidate, {{"path", search::name_path(card, name)}});
                if (wanted.size() > own.size() && wanted.ends_with(own))
                    ++votes[{place, wanted.substr(0, wanted.size() - own.size())}];
            }
        }
    }
    const auto most = std::max_element(votes.begin(), votes.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    if (most == votes.end() || 2 * most->second < files) return std::nullopt;
    return Placement{most->first.first, most->first.second};
}

/// What files in one place load by names that begin with something which is no folder there, and go on as the names
/// of files there do. `src/util.lua` is loaded as `star_chart.util`.
class Loads {
  public:
    Loads(const Card& card, const fs::path& folder, const std::string& place)
        : card_(card), folder_(folder), place_(place), files_(code_files(card, folder / place)) {}

    [[nodiscard]] std::string under() const {
        std::set<std::string> names;
        for (const auto& file : files_)
            if (const std::string name = name_at(card_, file); !name.empty()) names.insert(name);
        if (names.empty()) return {};
        std::map<std::string, std::set<std::string>> found;
        const members::Patterns patterns(card_);
        for (const auto& file : files_) {
            const auto text = files::read_file(folder_ / place_ / file, largest_placed);
            if (!text) continue;
            for (const auto& import : members::scan_imports(*text, patterns)) {
                if (lies_right(import.name)) continue;
                std::size_t end = import.name.find(card_.name_separator);
                for (std::size_t parts = 1; parts <= longest_space && end != std::string::npos; ++parts) {
                    const std::size_t behind = end + card_.name_separator.size();
                    std::string rest = import.name.substr(behind);
                    if (names.count(rest) != 0) found[import.name.substr(0, end)].insert(std::move(rest));
                    end = import.name.find(card_.name_separator, behind);
                }
            }
        }
        const auto most = std::max_element(found.begin(), found.end(), [](const auto& a, const auto& b) {
            return a.second.size() < b.second.size();
        });
        if (most == found.end()) return {};
        const bool is_called_so = likeness(unpacked_name_of(card_, folder_).name, most->first) > 0;
        const bool are_many = most->second.size() > 1 && 2 * most->second.size() >= files_.size();
        return is_called_so || are_many ? most->first : std::string();
    }

  private:
    [[nodiscard]] bool lies_right(const std::string& name) const {
        const auto places = places_of_code(card_);
        return std::any_of(places.begin(), places.end(), [&](const std::string& place) {
            return search::finds_below(card_, folder_ / place, name);
        });
    }

    const Card& card_;
    const fs::path& folder_;
    const std::string& place_;
    std::vector<std::string> files_;
};

/// Whether the folder is what a name stands for, by a file such as `init.lua` in it.
bool stands_for_a_name(const Card& card, const fs::path& folder) {
    return std::any_of(card.candidates.begin(), card.candidates.end(), [&](const std::string& candidate) {
        return candidate.starts_with(std::string(path_mark) + "/") &&
               files::is_file(folder / candidate.substr(path_mark.size() + 1));
    });
}

/// Whether it is, and no folder in it.
bool is_one(const Card& card, const fs::path& folder) {
    if (!stands_for_a_name(card, folder)) return false;
    const auto inner = files::list_folder(folder);
    return std::none_of(inner.begin(), inner.end(), [&](const std::string& name) {
        return !is_beside_the_code(name) && stands_for_a_name(card, folder / name);
    });
}

std::optional<Placement> by_loads(const Card& card, const fs::path& folder) {
    const auto places = places_of_code(card);
    for (const std::string& place : places) {
        const Loads loads(card, folder, place);
        const std::string under = loads.under();
        const std::string path = search::name_path(card, under);
        // Where the folder is called so itself, the host looks in the one above it.
        const bool lies_right = place.empty() && ("/" + folder.generic_string()).ends_with("/" + path);
        if (!under.empty() && !lies_right) return Placement{place, path};
    }
    for (const std::string& place : places) {
        if (place.empty() || !is_one(card, folder / place)) continue;
        const std::string called = unpacked_name_of(card, folder).name;
        if (re2::RE2::FullMatch(called, re2::RE2(card.module_pattern.value, re2::RE2::Quiet)))
            return Placement{place, search::name_path(card, called)};
    }
    return std::nullopt;
}

}  // namespace

std::optional<Placement> placement_of(const Card& card, const fs::path& folder) {
    if (!finds_by_path(card)) return std::nullopt;
    auto found = card.adopt.name.empty() ? by_loads(card, folder) : by_told_names(card, folder);
    if (!found || !files::stays_inside(found->under)) return std::nullopt;  // `::etc::Sky` leads out
    if (found->from.ends_with('/')) found->from.pop_back();
    return found;
}

std::string placed(const Placement& placement, const Card& card, const std::string& file) {
    if (!placement.from.empty())
        return file.starts_with(placement.from + "/") ? placement.under + file.substr(placement.from.size()) : file;
    const bool is_code = file.ends_with(card.extension) && !is_beside_the_code(file.substr(0, file.find('/')));
    return is_code ? placement.under + "/" + file : file;
}

std::string name_at(const Card& card, const std::string& file) {
    std::string name;
    std::size_t longest = 0;
    for (const auto& candidate : card.candidates) {
        if (!candidate.starts_with(path_mark)) continue;
        const std::string rest = candidate.substr(path_mark.size());
        if (rest.size() <= longest || file.size() <= rest.size() || !file.ends_with(rest)) continue;
        longest = rest.size();
        name.clear();
        for (const auto& part : fs::path(file.substr(0, file.size() - rest.size()))) {
            if (!name.empty()) name += card.name_separator;
            name += part.string();
        }
    }
    return name;
}

}  // namespace envar::life
