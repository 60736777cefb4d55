#include "core/life/adopt_named.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <map>
#include <tuple>

#include "core/files/read.hpp"
#include "core/life/adopt_facts.hpp"
#include "core/life/adopt_versions.hpp"
#include "core/members/imports.hpp"
#include "core/search/lists.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/text/glob.hpp"
#include "core/text/pattern.hpp"
#include "core/versions/version.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using model::Card;

constexpr std::size_t head_of_file = std::size_t{256} << 10U;
constexpr std::size_t most_code_files = 20000;
constexpr std::size_t largest_of_code = std::size_t{16} << 20U;
constexpr int deepest_code = 8;
constexpr std::array<std::string_view, 19> beside_the_code = {
    "test", "tests", "t",          "xt",          "example", "examples",    "build",   "doc",     "docs", "bench",
    "spec", "specs", "benchmarks", "third_party", "scripts", "__pycache__", "contrib", "fuzzing", "fuzz"};
/// Where the code of a module may lie by itself, besides its folder.
constexpr std::array<std::string_view, 2> code_folders = {"lib", "src"};

void collect(const Card& card, const fs::path& folder, const std::string& below, int depth,
             std::vector<std::string>& out) {
    for (const auto& name : files::list_folder(folder)) {
        if (name.front() == '.' || out.size() >= most_code_files) continue;
        const fs::path path = folder / name;
        if (files::link_target(path)) continue;
        if (files::is_folder(path)) {
            if (depth < deepest_code && !is_beside_the_code(name))
                collect(card, path, below + name + "/", depth + 1, out);
        } else if (name.size() > card.extension.size() && name.ends_with(card.extension) && files::is_file(path)) {
            out.push_back(below + name);
        }
    }
}

/// The name without blanks but for one where the host's own separator is one.
std::string tidy(const Card& card, std::string_view name) {
    const auto is_space = [](char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; };
    std::string out;
    for (const char c : name) {
        if (!is_space(c)) {
            out += c;
        } else if (!out.empty() && out.back() != ' ') {
            out += ' ';
        }
    }
    while (!out.empty() && out.back() == ' ') out.pop_back();
    if (card.name_separator != " ") std::erase(out, ' ');
    return out;
}

class Naming {
  public:
    Naming(const Card& card, const fs::path& folder, bool asked_for)
        : card_(card), folder_(folder), folder_name_(folder_name_of(card, folder).name), asked_for_(asked_for) {}

    NamedFiles run() {
        if (card_.is_native() || card_.extension.empty() || !card_.walk.entry.empty()) return {};
        if (!card_.index.files.empty()) {
            from_lists();
        } else if (!card_.candidates.empty() && !card_.adopt.entries.empty()) {
            card_.adopt.name.empty() ? from_files() : from_names();
        }
        if (known_.empty() && card_.by_name && !card_.inside.empty()) return from_functions();
        return result();
    }

    /// What lies in this folder of it, and is loaded by names that begin so.
    NamedFiles run_in(const std::string& space) {
        if (!names_have_parts()) return {};
        from_imports("", space);
        return result();
    }

    /// What it has once its code is where the host looks.
    NamedFiles run_placed(const Placement& placement) {
        for (const auto& file : code_files(card_, folder_ / placement.from)) {
            const std::string own = placement.from.empty() ? file : placement.from + "/" + file;
            const std::string goes = placed(placement, card_, own);
            const std::string told = name_told_by(card_, folder_ / own);
            const std::string name = told.empty() ? name_at(card_, goes) : told;
            if (goes != own && !name.empty() && search::root_of(card_, name, folder_ / goes))
                add({own, name, "", told.empty() ? "what its files load" : own});
        }
        return result();
    }

  private:
    [[nodiscard]] bool names_have_parts() const { return finds_by_path(card_) && card_.adopt.name.empty(); }

    [[nodiscard]] NamedFiles result() const {
        NamedFiles out;
        for (const auto& one : known_) out.names.push_back(one.name);
        out.apart = is_apart_;
        out.heads = is_apart_ ? heads_apart() : heads();
        return out;
    }

    /// Those that are not below another one.
    [[nodiscard]] std::vector<NamedFile> heads_apart() const {
        std::vector<NamedFile> heads;
        for (const auto& one : known_) {
            std::size_t end = one.name.rfind(card_.name_separator);
            while (end != std::string::npos && end > 0 && names_.count(one.name.substr(0, end)) == 0)
                end = one.name.rfind(card_.name_separator, end - 1);
            if (end == std::string::npos || end == 0) heads.push_back(one);
        }
        return heads;
    }

    /// The host's own lists in the folder.
    void from_lists() {
        std::vector<std::pair<std::string, std::string>> lists;
        for (const auto& file : card_.index.files)
            if (file.find('*') == std::string::npos && files::is_file(folder_ / file))
                lists.emplace_back((folder_ / file).string(), "");
        if (lists.empty()) return;
        const search::ListReader reader(card_.index, folder_);
        for (const auto& line : reader.read(lists)) {
            const std::string file = fs::path(line.file).lexically_relative(folder_).generic_string();
            if (line.extends || !files::stays_inside(file) || !files::is_file(folder_ / file)) continue;
            if (file.ends_with(card_.extension) &&
                std::find(card_.index.files.begin(), card_.index.files.end(), file) == card_.index.files.end())
                add({file, line.name, line.version, fs::path(lists.front().first).filename().string()});
        }
    }

    /// Files that tell by what name they are loaded, and lie where the host looks for it.
    void from_names() {
        for (const auto& file : code_files(card_, folder_)) {
            const std::string name = name_told_by(card_, folder_ / file);
            if (name.empty()) continue;
            const auto root = search::root_of(card_, name, folder_ / file);
            if (root && is_root(*root)) add({file, name, "", file});
        }
        // Where there is a folder for the code, what lies in another one helps to build or to test it.
        const auto first_folder = [](const NamedFile& one) { return one.file.substr(0, one.file.find('/')); };
        const auto is_of_code = [&](const NamedFile& one) {
            return is_code_folder(first_folder(one)) || first_folder(one) == card_.name.value;
        };
        if (std::none_of(known_.begin(), known_.end(), is_of_code)) return;
        std::erase_if(known_, [&](const NamedFile& one) {
            return one.file.find('/') != std::string::npos && !is_of_code(one);
        });
        names_.clear();
        for (std::size_t at = 0; at < known_.size(); ++at) names_.emplace(known_[at].name, at);
    }

    /// Files that are called like the module, right where the host looks.
    void from_files() {
        const std::vector<std::string> roots = places_of_code(card_);
        const text::Globs passed_over(card_.adopt.passed_over);
        for (const auto& root : roots) {
            for (const auto& name : files::list_folder(folder_ / root)) {
                if (name.front() == '.' || !name.ends_with(card_.extension) || passed_over.match(name)) continue;
                if (!files::is_file(folder_ / root / name) || files::link_target(folder_ / root / name)) continue;
                const std::string stem = name.substr(0, name.size() - card_.extension.size());
                const auto found = search::root_of(card_, stem, folder_ / root / name);
                if (!stem.empty() && found && is_root(*found) && defines_own_name(root + name, stem))
                    add({root + name, stem, "", "the file's name"});
            }
            if (!known_.empty()) return;
        }
        if (!names_have_parts()) return;
        for (const auto& root : roots) {
            for (const auto& space : files::list_folder(folder_ / root)) from_imports(root, space);
            if (!known_.empty()) return;
        }
    }

    /// A folder that is no module itself, whose files load each other by names that begin with the folder's.
    void from_imports(const std::string& root, const std::string& space) {
        const fs::path inner = (folder_ / root / space).lexically_normal();
        if (space.empty() || space.front() == '.' || is_beside_the_code(space) || files::link_target(inner) ||
            !files::is_folder(inner))
            return;
        std::string first;  // what names begin with
        for (const auto& part : fs::path(space)) {
            if (!first.empty()) first += card_.name_separator;
            first += part.string();
        }
        if (search::finds_below(card_, folder_ / root, first)) return;
        const std::string below = root + space + "/";
        std::map<std::string, std::string> by_name;  // → file
        for (const auto& file : code_files(card_, inner)) {
            std::string name = first;
            const fs::path path = file.substr(0, file.size() - card_.extension.size());
            for (const auto& part : path) {
                name += card_.name_separator;
                name += part.string();
            }
            const auto found = search::root_of(card_, name, inner / file);
            if (found && fs::path(*found / space).lexically_normal() == inner)
                by_name.emplace(std::move(name), below + file);
        }
        if (by_name.size() < 2) return;
        const members::Patterns patterns(card_);
        const auto loads_another = [&](const auto& one) {
            const auto text = files::read_file(folder_ / one.second, largest_of_code);
            if (!text || text->find(first + card_.name_separator) == std::string::npos) return false;
            const auto imports = members::scan_imports(*text, patterns);
            return std::any_of(imports.begin(), imports.end(), [&](const auto& import) {
                return import.name != one.first && by_name.count(import.name) != 0;
            });
        };
        if (std::none_of(by_name.begin(), by_name.end(), loads_another)) return;
        is_apart_ = true;
        for (const auto& [name, file] : by_name) add({file, name, "", "what its files load"});
    }

    /// Files of one function each, all of which are found once the folder is on the path. The module is called like
    /// the one that has most to do with the rest: with files for it elsewhere, with the folder, with other functions.
    NamedFiles from_functions() {
        const re2::RE2 internal(card_.internal_pattern, re2::RE2::Quiet),
            name_form(card_.module_pattern.value, re2::RE2::Quiet);
        const std::string below = card_.inside + "/";
        for (const auto& file : files::list_folder(folder_ / card_.inside)) {
            if (!file.ends_with(card_.extension) || files::link_target(folder_ / below / file)) continue;
            const std::string name = file.substr(0, file.size() - card_.extension.size());
            if (re2::RE2::FullMatch(name, name_form) && !re2::RE2::FullMatch(name, internal) &&
                files::is_file(folder_ / below / file) && defines_own_name(below + file, name))
                known_.push_back({below + file, name, "", "one of its functions", false});
        }
        if (known_.empty()) return {};
        NamedFiles out;
        for (const auto& one : known_) out.names.push_back(one.name);
        const auto weight = [&](const NamedFile& one) {
            std::size_t others = 0;
            for (const auto& folder : files::list_folder(folder_))
                if (folder != card_.inside && files::is_file(folder_ / folder / (one.name + card_.extension)))
                    ++others;
            const auto begun = std::count_if(known_.begin(), known_.end(),
                                             [&](const auto& other) { return other.name.starts_with(one.name); });
            return std::tuple(likeness(folder_name_, one.name), others, begun);
        };
        const auto head = std::max_element(known_.begin(), known_.end(),
                                           [&](const auto& a, const auto& b) { return weight(a) < weight(b); });
        out.heads = {*head};
        out.heads.front().one_of_many = known_.size() > 1;
        return out;
    }

    /// Where a module is loaded by the member of its own name, its file defines that.
    [[nodiscard]] bool defines_own_name(const std::string& file, const std::string& name) const {
        if (!card_.by_name) return true;
        const std::string text = files::read_first(folder_ / file, head_of_file);
        return std::all_of(card_.entry_rules.begin(), card_.entry_rules.end(), [&](const model::EntryRule& rule) {
            const re2::RE2 pattern("(?m)" + rule.pattern, re2::RE2::Quiet);
            return !pattern.ok() || text::holds_with_name(pattern, text, name);
        });
    }

    [[nodiscard]] bool is_root(const fs::path& root) const {
        if (root == folder_) return true;
        const std::string name = root.filename().string();
        return root.parent_path() == folder_ && (is_code_folder(name) || name == card_.name.value);
    }

    /// Of several versions of a name the highest counts.
    void add(NamedFile file) {
        const auto [known, is_new] = names_.emplace(file.name, known_.size());
        if (is_new) return known_.push_back(std::move(file));
        const auto one = versions::parse_version(known_[known->second].version, card_.scheme);
        const auto other = versions::parse_version(file.version, card_.scheme);
        if (one && other && *one < *other) known_[known->second] = std::move(file);
    }

    [[nodiscard]] std::size_t parts_of(const std::string& name) const {
        const std::string path = search::name_path(card_, name);
        return static_cast<std::size_t>(std::count(path.begin(), path.end(), '/'));
    }

    /// Those of the fewest parts; of several the one that is called like the folder, or has most of all below it.
    [[nodiscard]] std::vector<NamedFile> heads() const {
        std::vector<NamedFile> heads;
        std::size_t fewest = SIZE_MAX;
        for (const auto& one : known_) fewest = std::min(fewest, parts_of(one.name));
        for (const auto& one : known_)
            if (parts_of(one.name) == fewest) heads.push_back(one);
        // A file in a folder that nobody named is a module where both are called alike.
        const bool tells = asked_for_ || !card_.adopt.name.empty() || !card_.index.files.empty();
        const auto like = [this](const NamedFile& one) {
            return 2 * likeness(folder_name_, one.name) + (one.name == folder_name_ ? 1 : 0);
        };
        if (!tells) std::erase_if(heads, [&](const NamedFile& one) { return like(one) == 0; });
        if (heads.size() < 2) return heads;
        for (const bool by_folder : {true, false}) {
            const auto weight = [&](const NamedFile& one) { return by_folder ? like(one) : below(one.name); };
            std::stable_sort(heads.begin(), heads.end(),
                             [&](const auto& a, const auto& b) { return weight(a) > weight(b); });
            if (weight(heads[0]) > weight(heads[1]) && (by_folder || 2 * weight(heads[0]) > known_.size()))
                return {heads.front()};
        }
        std::sort(heads.begin(), heads.end(), [](const auto& a, const auto& b) { return a.file < b.file; });
        return heads;
    }

    [[nodiscard]] std::size_t below(const std::string& name) const {
        const std::string begin = name + card_.name_separator;
        return static_cast<std::size_t>(std::count_if(known_.begin(), known_.end(),
                                                      [&](const auto& one) { return one.name.starts_with(begin); }));
    }

    const Card& card_;
    const fs::path& folder_;
    const std::string folder_name_;
    const bool asked_for_;
    bool is_apart_ = false;
    std::vector<NamedFile> known_;
    std::map<std::string, std::size_t> names_;  // → place in known_
};

}  // namespace

bool finds_by_path(const Card& card) {
    return !card.is_native() && !card.extension.empty() && card.walk.entry.empty() && card.index.files.empty() &&
           !card.candidates.empty() && !card.adopt.entries.empty() && !card.name_separator.empty() &&
           !card.import_pattern.empty() && !card.by_name;
}

std::string name_told_by(const Card& card, const fs::path& file) {
    std::string first;
    if (card.adopt.name.empty()) return first;
    for (const std::size_t most : {head_of_file, largest_of_code}) {
        const std::string text = files::read_first(file, most);
        for (const std::string& one : all_matches(card.adopt.name, text)) {
            std::string name = tidy(card, one);
            if (search::root_of(card, name, file)) return name;
            if (first.empty()) first = std::move(name);
        }
        if (first.empty() || text.size() < most) break;  // it was read to its end
    }
    return first;
}

std::size_t likeness(const std::string& folder_name, const std::string& name) {
    const std::string one = letters_of(folder_name), other = letters_of(name);
    if (one.empty() || (other.size() < 3 && one != other)) return 0;
    if (one.find(other) != std::string::npos) return other.size();
    return 2 * one.size() >= other.size() && other.find(one) != std::string::npos ? one.size() : 0;
}

std::string letters_of(std::string_view name) {
    std::string out;
    for (const char c : name)
        if (std::isalnum(static_cast<unsigned char>(c)) != 0)
            out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

bool is_code_folder(const std::string& folder_name) {
    return std::find(code_folders.begin(), code_folders.end(), folder_name) != code_folders.end();
}

std::vector<std::string> places_of_code(const Card& card) {
    std::vector<std::string> places = {""};
    for (const auto folder : code_folders) places.push_back(std::string(folder) + "/");
    places.push_back(card.name.value + "/");  // of one language among others
    return places;
}

bool is_beside_the_code(const std::string& folder_name) {
    return std::find(beside_the_code.begin(), beside_the_code.end(), folder_name) != beside_the_code.end();
}

std::vector<std::string> code_files(const Card& card, const fs::path& folder) {
    std::vector<std::string> out;
    if (!card.extension.empty()) collect(card, folder, "", 1, out);
    std::sort(out.begin(), out.end());
    return out;
}

NamedFiles named_files(const Card& card, const fs::path& folder, bool asked_for) {
    return Naming(card, folder, asked_for).run();
}

NamedFiles named_files_placed(const Card& card, const fs::path& folder, const Placement& placement) {
    return Naming(card, folder, true).run_placed(placement);
}

NamedFiles named_files_in(const Card& card, const fs::path& folder, const std::string& space) {
    return Naming(card, folder, true).run_in(space);
}

}  // namespace envar::life
