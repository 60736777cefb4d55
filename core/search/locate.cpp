#include "core/search/locate.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>

#include "core/files/read.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;

std::string with_name(std::string pattern, const std::string& path) {
    for (std::size_t at = pattern.find('?'); at != std::string::npos; at = pattern.find('?', at + path.size()))
        pattern.replace(at, 1, path);
    return pattern;
}

bool readable(const fs::path& file) { return ::access(file.c_str(), R_OK) == 0; }

/// The version that the manifest beside a candidate tells, if it is this module's.
std::string version_beside(const fs::path& file, const std::string& name) {
    const auto manifest = model::read_foreign_manifest(file.parent_path());
    if (!manifest || manifest->name.value != name || !manifest->version) return {};
    return manifest->version->text();
}

class Search {
  public:
    Search(const std::string& name, const PathQuestion& question) : question_(question), card_(*question.card) {
        located_.module = name;
        located_.host = card_.name.value;
        path_ = name_path(card_, name);
    }

    Located run() {
        const SearchPath path = search_path(question_);
        for (const Entry& entry : path.entries) {
            LocatedEntry located{entry.position, entry.folder, entry.from, entry.exists, {}};
            for (const auto& pattern : entry.patterns) located.candidates.push_back(candidate(entry, pattern));
            if (entry.exists && !question_.brief) nearly(question_.start_folder / entry.folder);
            located_.entries.push_back(std::move(located));
        }
        if (!located_.chosen) elsewhere();
        return std::move(located_);
    }

  private:
    Candidate candidate(const Entry& entry, const std::string& pattern) {
        Candidate candidate;
        candidate.file = with_name(pattern, path_);
        const fs::path file = question_.start_folder / candidate.file;
        const bool folder = files::is_folder(file);
        candidate.exists = readable(file) && (!folder || card_.folder_counts);
        if (folder)
            miss(candidate.file, card_.folder_counts ? "is a folder where a file is expected; the host stops here"
                                                     : "is a folder where a file is expected");
        if (files::is_there(file) && !folder && !readable(file)) {
            miss(candidate.file, files::link_target(file) && !files::is_file(file) ? "is a link that leads nowhere"
                                                                                   : "cannot be read");
        }
        if (!candidate.exists) return candidate;
        if (!question_.brief) candidate.version = version_beside(file, located_.module);
        Choice choice{candidate.file, entry.position, candidate.version, folder};
        if (!located_.chosen) {
            located_.chosen = std::move(choice);
        } else if (choice.file != located_.chosen->file) {
            located_.shadowed.push_back(std::move(choice));
        }
        return candidate;
    }

    void miss(std::string file, std::string why) {
        for (const NearMiss& known : located_.near_misses)
            if (known.file == file) return;
        located_.near_misses.push_back({std::move(file), std::move(why)});
    }

    /// Names in an entry's folder that are this one but for case or a slip, and a folder without entry file.
    void nearly(const fs::path& folder) {
        const std::string first = path_.substr(0, path_.find('/'));
        for (const auto& name : files::list_folder(folder)) {
            const fs::path found = folder / name;
            const std::string stem = files::is_folder(found) ? name : fs::path(name).stem().string();
            if (stem == first) {
                if (files::is_folder(found) && !has_candidate_below(folder, found))
                    miss(found.string(), "is there, but none of the files that the host looks for is in it");
                continue;
            }
            if (!files::is_folder(found) && !name.ends_with(card_.extension)) continue;
            if (text::edit_distance(stem, first, first.size()) == case_changes(stem, first) &&
                stem.size() == first.size()) {
                miss(found.string(), "differs in upper and lower case");
            } else if (first.size() > 3 && text::edit_distance(stem, first, 2) <= (first.size() > 6 ? 2U : 1U)) {
                miss(found.string(), "has a similar name");
            }
        }
    }

    static std::size_t case_changes(const std::string& a, const std::string& b) {
        std::size_t changes = 0;
        for (std::size_t i = 0; i < a.size() && i < b.size(); ++i) {
            if (a[i] == b[i]) continue;
            if (std::tolower(static_cast<unsigned char>(a[i])) != std::tolower(static_cast<unsigned char>(b[i])))
                return a.size() + 1;
            ++changes;
        }
        return changes;
    }

    [[nodiscard]] bool has_candidate_below(const fs::path& folder, const fs::path& module_folder) const {
        return std::any_of(card_.candidates.begin(), card_.candidates.end(), [&](const std::string& candidate) {
            const fs::path file = folder / text::fill(candidate, {{"path", path_}});
            return files::is_file(file) && files::resolves_inside(file, module_folder);
        });
    }
    /// A module of this name that lies in the workspace but on no entry.
    void elsewhere() {
        if (question_.space == nullptr) return;
        const model::Module* module = question_.space->module(located_.module);
        if (module == nullptr) return;
        if (module->manifest.host.value != card_.name.value) {
            miss(module->shown_folder, fmt::format("is a module for the host {}", module->manifest.host.value));
        } else {
            miss(module->shown_folder, "is the module, but no search entry leads to it");
        }
    }

    const PathQuestion& question_;
    const model::Card& card_;
    std::string path_;
    Located located_;
};

}  // namespace

std::string name_path(const model::Card& card, const std::string& name) {
    if (card.name_separator.empty()) return name;
    std::string path;
    for (std::size_t at = 0; at < name.size();) {
        if (name.compare(at, card.name_separator.size(), card.name_separator) == 0) {
            path += '/';
            at += card.name_separator.size();
        } else {
            path += name[at++];
        }
    }
    return path;
}

Located locate(const std::string& name, const PathQuestion& question) { return Search(name, question).run(); }

}  // namespace envar::search
