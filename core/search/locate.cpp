#include "core/search/locate.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <utility>

#include "core/files/read.hpp"
#include "core/search/lists.hpp"
#include "core/search/naming.hpp"
#include "core/search/view.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"
#include "core/versions/loose.hpp"
#include "core/versions/version.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t most_entries = 1000;
constexpr std::size_t most_nearest = 5;

std::string with_mark(std::string pattern, char mark, const std::string& text) {
    for (std::size_t at = pattern.find(mark); at != std::string::npos; at = pattern.find(mark, at + text.size()))
        pattern.replace(at, 1, text);
    return pattern;
}

bool is_newer(const fs::path& a, const fs::path& b) {
    std::error_code error;
    const auto time_a = fs::last_write_time(a, error);
    if (error) return false;
    const auto time_b = fs::last_write_time(b, error);
    return error || time_a > time_b;
}

bool readable(const fs::path& file) { return ::access(file.c_str(), R_OK) == 0; }

/// The version that the manifest tells in whose module a candidate lies, if it is this module's.
std::string version_beside(const fs::path& file, const std::string& name) {
    fs::path folder = file.parent_path();
    for (int up = 0; up < 4 && folder.has_relative_path(); ++up, folder = folder.parent_path()) {
        const auto manifest = model::read_foreign_manifest(folder);
        if (!manifest) continue;
        return manifest->name.value == name && manifest->version ? manifest->version->text() : std::string();
    }
    return {};
}

class Search {
  public:
    Search(const std::string& name, const PathQuestion& question) : question_(question), card_(*question.card) {
        located_.module = name;
        located_.host = card_.name.value;
        path_ = name_path(card_, name);
        if (!card_.index.files.empty()) lists_.emplace(card_.index, question_.start_folder);
    }

    Located run() {
        look_before();
        if (!found_.empty()) {
            choose();
            name_real_places();
            return std::move(located_);
        }
        std::optional<SearchPath> own;
        const SearchPath& path = path_of(own);
        if (question_.brief && question_.cache != nullptr && !card_.candidates.empty()) {
            for (const std::size_t i : entries_that_may_hold(path)) look_in(path.entries[i], path);
        } else {
            for (const Entry& entry : path.entries) look_in(entry, path);
        }
        for (std::size_t i = 0; i < more_.size(); ++i) {
            const Entry entry = more_[i];
            look_in(entry, path);
        }
        choose();
        name_real_places();
        for (auto& folder : std::exchange(nearest_folders_, {})) miss(std::move(folder), "has a similar name");
        if (!located_.chosen) elsewhere();
        return std::move(located_);
    }

  private:
    const SearchPath& path_of(std::optional<SearchPath>& own) const {
        std::optional<SearchPath>& path = question_.cache != nullptr ? question_.cache->path : own;
        if (!path) path = search_path(question_);
        return *path;
    }

    /// Folders before the path; where nothing is found, such a folder is no news.
    void look_before() {
        for (const Entry& entry : entries_before(question_)) {
            LocatedEntry located{0, entry.folder, entry.from, entry.exists, {}};
            for (const auto& pattern : entry.patterns) try_candidates(entry, pattern, located.candidates);
            const auto found = std::find_if(located.candidates.begin(), located.candidates.end(),
                                            [](const Candidate& candidate) { return candidate.exists; });
            if (found != located.candidates.end()) located_.entries.push_back(std::move(located));
        }
    }

    void look_in(const Entry& entry, const SearchPath& path) {
        std::vector<Candidate> candidates;
        if (!card_.walk.entry.empty()) {
            look_in_folders(entry, candidates);
        } else {
            for (const auto& pattern : entry.patterns) try_pattern(entry, pattern, candidates);
        }
        for (const auto& folder : std::exchange(extended_, {})) add_extended(path, entry, folder);
        if (question_.brief) return;
        const bool found = std::any_of(candidates.begin(), candidates.end(),
                                       [](const Candidate& candidate) { return candidate.exists; });
        if (entry.exists && card_.walk.entry.empty()) nearly(question_.start_folder / entry.folder, found);
        located_.entries.push_back({entry.position, entry.folder, entry.from, entry.exists, std::move(candidates)});
    }

    /// Which entries, by what lies in their folders, may hold one of the candidates: on a long path nearly all are
    /// passed over by this alone.
    [[nodiscard]] std::vector<std::size_t> entries_that_may_hold(const SearchPath& path) const {
        LookupCache& cache = *question_.cache;
        if (cache.holders.empty() && cache.others.empty()) list_entries(path, cache);
        std::vector<std::size_t> found = cache.others;
        for (const auto& candidate : card_.candidates) {
            const std::string file = text::fill(candidate, {{"path", path_}});
            const auto holders = cache.holders.find(file.substr(0, file.find('/')));
            if (holders != cache.holders.end())
                found.insert(found.end(), holders->second.begin(), holders->second.end());
        }
        std::sort(found.begin(), found.end());
        found.erase(std::unique(found.begin(), found.end()), found.end());
        return found;
    }

    void list_entries(const SearchPath& path, LookupCache& cache) const {
        const bool plain = std::none_of(card_.candidates.begin(), card_.candidates.end(), [](const std::string& c) {
            return c.substr(0, c.find('/')).find("{{version}}") != std::string::npos;
        });
        for (std::size_t i = 0; i < path.entries.size(); ++i) {
            const Entry& entry = path.entries[i];
            const bool folder = std::all_of(entry.patterns.begin(), entry.patterns.end(),
                                            [&](const std::string& p) { return p.starts_with(entry.folder + "/"); });
            if (!plain || !folder) cache.others.push_back(i);
            if (!plain || !folder) continue;
            for (const auto& name : files::list_folder(question_.start_folder / entry.folder))
                cache.holders[name].push_back(i);
        }
    }

    /// A list may make its own folder an entry of the path.
    void add_extended(const SearchPath& path, const Entry& by, const std::string& folder) {
        const auto same = [&](const Entry& entry) { return entry.folder == folder; };
        if (std::any_of(path.entries.begin(), path.entries.end(), same) ||
            std::any_of(more_.begin(), more_.end(), same) || more_.size() > most_entries)
            return;
        Entry entry;
        entry.position = path.entries.size() + more_.size() + 1;
        entry.folder = folder;
        entry.from = fmt::format("a list in {}", by.folder);
        entry.exists = true;
        for (const auto& file : card_.index.files) entry.patterns.push_back(fmt::format("{}/{}", folder, file));
        more_.push_back(std::move(entry));
    }

    /// The host goes through the entry's folder by itself.
    void look_in_folders(const Entry& entry, std::vector<Candidate>& out) {
        const fs::path folder = question_.start_folder / entry.folder;
        std::vector<WalkedModule> own;
        const std::vector<WalkedModule>* modules = &own;
        if (question_.cache == nullptr) {
            own = walk_entry(card_.walk, folder);
        } else {
            const auto [known, fresh] = question_.cache->walks.try_emplace(entry.folder);
            if (fresh) known->second = walk_entry(card_.walk, folder);
            modules = &known->second;
        }
        for (const WalkedModule& module : *modules) {
            const std::string file = entry.folder + "/" + module.folder + "/" + card_.walk.entry;
            const bool is_last = fs::path(module.folder).filename() == located_.module;
            if (module.name != located_.module) {
                consider(entry.folder + "/" + module.folder, module.name);
                if (is_last)
                    miss(entry.folder + "/" + module.folder,
                         fmt::format("is called so, but its {} names it `{}`", card_.walk.file, module.name));
                continue;
            }
            out.push_back(candidate(entry, file, ""));
            if (!out.back().exists) continue;
            auto& level = module.grouped ? grouped_ : loose_;
            level.push_back(found_.back());
        }
    }

    /// Takes note of a folder whose module has nearly the name; only the nearest are told.
    void consider(std::string folder, const std::string& name) {
        if (question_.brief || name.size() <= 3) return;
        const std::size_t distance = text::edit_distance(name, located_.module, 2);
        if (distance > (name.size() > 4 ? 2U : 1U) || distance > nearest_) return;
        if (distance < nearest_) nearest_folders_.clear();
        nearest_ = distance;
        if (nearest_folders_.size() < most_nearest) nearest_folders_.push_back(std::move(folder));
    }

    /// Of modules that such a host finds under one name, a loose one counts before those in groups; two of one level
    /// stop it.
    void choose_walked() {
        const auto& level = loose_.empty() ? grouped_ : loose_;
        if (level.size() == 1) located_.chosen = level.front();
        for (const Choice& choice : found_) {
            if (located_.chosen && choice.file != located_.chosen->file) located_.shadowed.push_back(choice);
            if (!located_.chosen)
                miss(choice.file, fmt::format("has the name too: with {} of one name the host loads none, and stops",
                                              level.size()));
        }
    }

    void try_pattern(const Entry& entry, const std::string& pattern, std::vector<Candidate>& out) {
        if (card_.candidates.empty()) {
            look_in_lists(entry, pattern, out);
        } else {
            try_candidates(entry, pattern, out);
        }
    }

    void try_candidates(const Entry& entry, const std::string& pattern, std::vector<Candidate>& out) {
        if (pattern.find(version_mark) == std::string::npos) {
            out.push_back(candidate(entry, with_mark(pattern, name_mark, path_), ""));
        } else {
            auto found = files_with(with_mark(pattern, name_mark, path_), version_mark);
            std::stable_sort(found.begin(), found.end(),
                             [](const auto& a, const auto& b) { return versions::preferred(a.second, b.second); });
            for (const auto& [file, version] : found)
                if (versions::is_loose_version(version) ||
                    (card_.scheme == versions::Scheme::semantic && versions::parse_version(version)))
                    out.push_back(candidate(entry, file, version));
            if (found.empty())
                out.push_back({with_mark(with_mark(pattern, name_mark, path_), version_mark, "*"), false, ""});
        }
    }

    /// Existing paths that the pattern describes with any text in place of the mark within one part, and that text.
    [[nodiscard]] std::vector<std::pair<std::string, std::string>> files_with(const std::string& pattern,
                                                                              char mark) const {
        const std::size_t at = pattern.find(mark);
        if (at == std::string::npos) return {{pattern, ""}};
        const std::size_t slash = pattern.rfind('/', at);
        const std::string folder = slash == std::string::npos ? "." : pattern.substr(0, slash);
        const std::size_t end = std::min(pattern.find('/', at), pattern.size());
        const std::size_t begin = slash == std::string::npos ? 0 : slash + 1;
        const std::string head = pattern.substr(begin, at - begin);
        const std::string tail = pattern.substr(at + 1, end - at - 1);
        std::vector<std::pair<std::string, std::string>> found;
        for (const auto& name : files::list_folder(question_.start_folder / folder)) {
            if (name.size() < head.size() + tail.size() || !name.starts_with(head) || !name.ends_with(tail)) continue;
            std::string file = fmt::format("{}/{}{}", folder, name, pattern.substr(end));
            if (!files::is_there(question_.start_folder / file)) continue;
            found.emplace_back(std::move(file), name.substr(head.size(), name.size() - head.size() - tail.size()));
        }
        return found;
    }

    /// The modules of the name that the lists of a pattern tell.
    void look_in_lists(const Entry& entry, const std::string& pattern, std::vector<Candidate>& out) {
        std::vector<IndexLine> own;
        const std::vector<IndexLine>* lines = &own;
        if (question_.cache == nullptr) {
            own = lists_->read(files_with(pattern, '*'));
        } else {
            const auto [known, fresh] = question_.cache->lists.try_emplace(pattern);
            if (fresh) known->second = lists_->read(files_with(pattern, '*'));
            lines = &known->second;
        }
        const auto less = [](const IndexLine& line, const std::string& name) { return line.name < name; };
        for (auto line = lines->begin(); line != lines->end() && line->extends; ++line)
            extended_.push_back(line->file);
        for (auto line = std::lower_bound(lines->begin(), lines->end(), located_.module, less);
             line != lines->end() && line->name == located_.module; ++line)
            if (!line->extends) out.push_back(candidate(entry, line->file, line->version));
    }

    Candidate candidate(const Entry& entry, const std::string& path, std::string version) {
        Candidate candidate;
        candidate.file = path;
        if (!card_.compiled.empty()) {
            std::string compiled = text::fill(card_.compiled, {{"file", path}});
            if (files::is_file(question_.start_folder / compiled) &&
                is_newer(question_.start_folder / compiled, question_.start_folder / path))
                candidate.file = std::move(compiled);
        }
        const fs::path file = question_.start_folder / candidate.file;
        const bool folder = files::is_folder(file);
        if (ended_) return candidate;
        candidate.exists = readable(file) && (!folder || card_.folder_in_place == model::FolderInPlace::taken);
        ended_ = folder && card_.folder_in_place == model::FolderInPlace::ends && found_.empty();
        if (folder)
            miss(candidate.file, card_.folder_in_place == model::FolderInPlace::passed
                                     ? "is a folder where a file is expected"
                                     : "is a folder where a file is expected; the host stops here");
        if (files::is_there(file) && !folder && !readable(file)) {
            miss(candidate.file, files::link_target(file) && !files::is_file(file) ? "is a link that leads nowhere"
                                                                                   : "cannot be read");
        }
        if (!candidate.exists) return candidate;
        candidate.version = std::move(version);
        if (!question_.brief && candidate.version.empty())
            candidate.version = version_beside(real_place(file), located_.module);
        found_.push_back({candidate.file, entry.position, candidate.version, folder});
        return candidate;
    }

    /// The first that was found; where the host goes by versions, the first of the highest.
    void choose() {
        if (found_.empty()) return;
        if (!card_.walk.entry.empty()) {
            choose_walked();
            return;
        }
        auto best = found_.begin();
        if (card_.highest)
            best = std::min_element(found_.begin(), found_.end(), [](const Choice& a, const Choice& b) {
                return versions::preferred(a.version, b.version);
            });
        located_.chosen = *best;
        for (const Choice& choice : found_)
            if (choice.file != located_.chosen->file) located_.shadowed.push_back(choice);
    }

    [[nodiscard]] fs::path real_place(const fs::path& file) const {
        return question_.space == nullptr ? file : fs::path(through_views(*question_.space, file.string()));
    }

    /// What is found through a view lies elsewhere.
    void name_real_places() {
        for (LocatedEntry& entry : located_.entries)
            for (Candidate& one : entry.candidates)
                one.chosen = located_.chosen && one.exists && one.file == located_.chosen->file &&
                             entry.position == located_.chosen->position;
        if (question_.space == nullptr) return;
        const auto real = [&](Choice& choice) { choice.file = through_views(*question_.space, choice.file); };
        if (located_.chosen) real(*located_.chosen);
        for (Choice& choice : located_.shadowed) real(choice);
        if (located_.chosen)
            std::erase_if(located_.shadowed,
                          [&](const Choice& choice) { return choice.file == located_.chosen->file; });
    }

    void miss(std::string file, std::string why) {
        for (const NearMiss& known : located_.near_misses)
            if (known.file == file) return;
        located_.near_misses.push_back({std::move(file), std::move(why)});
    }

    /// Names in an entry's folder that are this one but for case or a slip, and a folder without entry file.
    void nearly(const fs::path& folder, bool found_here) {
        const std::string first = path_.substr(0, path_.find('/'));
        for (const auto& name : files::list_folder(folder)) {
            const fs::path found = folder / name;
            const std::string stem = files::is_folder(found) ? name : fs::path(name).stem().string();
            if (stem == first) {
                if (!found_here && files::is_folder(found) && !has_candidate_below(folder, found))
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
        if (card_.candidates.empty()) return true;  // its lists tell
        return std::any_of(card_.candidates.begin(), card_.candidates.end(), [&](const std::string& candidate) {
            const std::string pattern =
                (folder / text::fill(candidate, {{"path", path_}, {"version", std::string(1, version_mark)}}))
                    .string();
            const auto files = files_with(pattern, version_mark);
            return std::any_of(files.begin(), files.end(), [&](const auto& file) {
                return files::is_file(file.first) && files::resolves_inside(file.first, module_folder);
            });
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
    std::optional<ListReader> lists_;
    std::vector<Entry> more_;                   // entries that lists have added to the path
    std::vector<std::string> extended_;         // folders that lists of the entry at hand add to the path
    bool ended_ = false;                        // by a folder where a file is expected
    std::vector<Choice> found_;                 // in the order in which the host comes to them
    std::size_t nearest_ = std::string::npos;   // edits to the nearest names that a walk found
    std::vector<std::string> nearest_folders_;  // and their folders
    std::vector<Choice> loose_;                 // those that a walk found right in an entry
    std::vector<Choice> grouped_;               // and those in groups
    Located located_;
};

}  // namespace

Located locate(const std::string& name, const PathQuestion& question) { return Search(name, question).run(); }

}  // namespace envar::search
