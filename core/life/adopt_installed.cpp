#include "core/life/adopt_installed.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <functional>
#include <map>
#include <set>

#include "core/emit/native_files.hpp"
#include "core/files/read.hpp"
#include "core/life/adopt_named.hpp"
#include "core/text/glob.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_build_file = std::size_t{2} << 20U, most_build_files = 500,
                      most_text = std::size_t{32} << 20U;  // of all together
constexpr int deepest = 8, deepest_list = 30;

void collect(const text::Globs& names, const fs::path& folder, const std::string& below, int depth, std::size_t& left,
             std::vector<BuildFile>& out) {
    std::vector<std::string> folders;
    for (const auto& name : files::list_folder(folder)) {
        const fs::path path = folder / name;
        if (name.front() == '.' || out.size() >= most_build_files) continue;
        if (files::is_folder(path)) {
            if (!files::link_target(path) && !is_beside_the_code(name)) folders.push_back(name);
        } else if (names.match(name)) {
            auto text = files::read_file(path, std::min(largest_build_file, left));
            if (!text) continue;
            left -= text->size();
            out.push_back({below + name, std::move(*text)});
        }
    }
    for (const auto& name : folders)
        if (depth < deepest) collect(names, folder / name, below + name + "/", depth + 1, left, out);
}

/// Calls each(groups) for all matches; groups that took no part are empty.
void for_matches(const std::string& pattern, const std::string& text,
                 const std::function<void(const std::vector<re2::StringPiece>&)>& each) {
    const re2::RE2 compiled("(?m)" + pattern, re2::RE2::Quiet);
    if (pattern.empty() || !compiled.ok() || compiled.NumberOfCapturingGroups() < 1) return;
    std::vector<re2::StringPiece> groups(static_cast<std::size_t>(compiled.NumberOfCapturingGroups()) + 1);
    for (std::size_t at = 0; at <= text.size();) {
        if (!compiled.Match(text, at, text.size(), re2::RE2::UNANCHORED, groups.data(),
                            static_cast<int>(groups.size())))
            return;
        const auto begin = static_cast<std::size_t>(groups[0].data() - text.data());
        at = std::max(begin + groups[0].size(), at + 1);
        each(groups);
    }
}

/// The first group that took part, but for the one at the beginning.
std::string first_of(const std::vector<re2::StringPiece>& groups) {
    const auto own =
        std::find_if(groups.begin() + 1, groups.end(), [](const auto& g) { return g.data() != nullptr; });
    return own == groups.end() ? std::string() : std::string(*own);
}

/// What stands between blanks, quotes, commas and brackets; of `${x}/a.h` and `$(x)/a.h` the word is `a.h`. Comments
/// to the end of the line count for nothing.
std::vector<std::string> words_of(const std::string& text) {
    std::vector<std::string> out;
    std::string word;
    bool in_comment = false, apart = true;  // apart: more than a bracket stands behind the last word
    for (const char c : text + "\n") {
        if (c == '#') in_comment = true;
        if (c == '\n') in_comment = false;
        const bool part = !in_comment && std::string_view(" \t\r\n'\",;()[]{}$\\<>=:#").find(c) == std::string::npos;
        if (part) {
            word += c;
            continue;
        }
        if (word.starts_with('/') && !out.empty() && !apart)
            out.pop_back();  // the name of a folder that is not known
        while (word.starts_with('/')) word.erase(0, 1);
        apart = (apart && word.empty()) || (c != ')' && c != '}');
        if (!word.empty()) out.push_back(std::move(word));
        word.clear();
    }
    return out;
}

class Installed {
  public:
    Installed(const model::BuildStatements& build, const std::vector<BuildFile>& files,
              const std::vector<std::string>& headers)
        : build_(build), files_(files), headers_(headers) {
        for (const auto& header : headers_) by_name_[fs::path(header).filename().string()].push_back(header);
        for (const auto& file : files_)
            for_matches(build_.lists, file.text, [&](const auto& groups) {
                const std::vector<re2::StringPiece> held(groups.begin() + 1, groups.end());
                lists_[std::string(groups[1])].push_back({folder_of(file), first_of(held)});
            });
    }

    std::vector<std::string> run() {
        for (const auto& file : files_) {
            for_matches(build_.installs, file.text,
                        [&](const auto& groups) { take(folder_of(file), first_of(groups), 0); });
            for_matches(build_.folders, file.text, [&](const auto& groups) {
                for (const auto& word : words_of(first_of(groups))) take_folder(folder_of(file), word);
            });
        }
        if (!follows_all_) return {};
        return {taken_.begin(), taken_.end()};
    }

  private:
    struct List {
        std::string folder;
        std::string text;
    };

    static std::string folder_of(const BuildFile& file) { return fs::path(file.file).parent_path().generic_string(); }

    /// Whether the text names headers.
    bool take(const std::string& folder, const std::string& text, int depth) {
        static const re2::RE2 means_headers("(?i).*(?:headers|hdrs)");
        bool names_some = false;
        for (const auto& word : words_of(text)) {
            bool does = emit::is_header(word);
            if (does) {
                take_file(folder, word);
            } else if (const auto list = lists_.find(word); list != lists_.end()) {
                does = !followed_.insert(word).second;
                if (!does && depth < deepest_list)
                    for (const List& one : list->second) does = take(one.folder, one.text, depth + 1) || does;
            }
            if (!does && re2::RE2::FullMatch(word, means_headers)) follows_all_ = false;  // worked out as it is built
            names_some = names_some || does;
        }
        return names_some;
    }

    void take_file(const std::string& folder, const std::string& word) {
        for (const std::string& base : {folder, std::string()}) {
            const std::string file = (fs::path(base) / word).lexically_normal().generic_string();
            if (word.find('*') != std::string::npos) {
                const text::Globs glob({file});
                const auto before = taken_.size();
                for (const auto& header : headers_)
                    if (glob.match(header)) taken_.insert(header);
                if (taken_.size() > before) return;
            } else if (std::binary_search(headers_.begin(), headers_.end(), file)) {
                taken_.insert(file);
                return;
            }
        }
        const auto same = by_name_.find(fs::path(word).filename().string());
        if (same != by_name_.end() && same->second.size() == 1 && same->second.front().ends_with("/" + word))
            taken_.insert(same->second.front());
    }

    void take_folder(const std::string& folder, const std::string& word) {
        for (const std::string& base : {folder, std::string()}) {
            const std::string below = (fs::path(base) / word / "").lexically_normal().generic_string();
            for (const auto& header : headers_)
                if (below != "./" && header.starts_with(below)) taken_.insert(header);
        }
    }

    const model::BuildStatements& build_;
    const std::vector<BuildFile>& files_;
    const std::vector<std::string>& headers_;
    std::map<std::string, std::vector<std::string>> by_name_;
    std::map<std::string, std::vector<List>> lists_;
    std::set<std::string> followed_, taken_;
    bool follows_all_ = true;
};

}  // namespace

std::vector<BuildFile> build_files(const model::BuildStatements& build, const fs::path& folder) {
    std::vector<BuildFile> out;
    std::size_t left = most_text;
    if (!build.files.empty()) collect(text::Globs(build.files), folder, "", 0, left, out);
    const auto depth = [](const BuildFile& one) { return std::count(one.file.begin(), one.file.end(), '/'); };
    std::stable_sort(out.begin(), out.end(), [&](const auto& a, const auto& b) { return depth(a) < depth(b); });
    return out;
}

std::vector<std::string> installed_headers(const model::BuildStatements& build, const std::vector<BuildFile>& files,
                                           const std::vector<std::string>& headers) {
    return Installed(build, files, headers).run();
}

std::string spelled_outside(const model::BuildStatements& build, const std::string& entry, const std::string& name) {
    std::string found = name;
    for_matches(build.spelled, entry, [&](const auto& groups) {
        const std::string other = first_of(groups);
        if (found == name && letters_of(other) == letters_of(name)) found = other;
    });
    return found;
}

}  // namespace envar::life
