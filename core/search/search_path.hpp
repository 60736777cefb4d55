// A host's search path: every entry in the order in which the host goes through them, where each came from,
// and what is wrong with it.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "core/model/space.hpp"
#include "core/search/walk.hpp"

namespace envar::search {

using Environment = std::map<std::string, std::string>;

/// Stand in a pattern for the name looked up, and for any version. No path holds such bytes.
inline constexpr char name_mark = '\x01';
inline constexpr char version_mark = '\x02';

struct Entry {
    std::size_t position = 0;           // from 1
    std::string folder;                 // as the host writes it, made absolute where the workspace names it
    std::vector<std::string> patterns;  // what is tried in it: paths with the marks above
    std::string from;                   // "workspace.envar.toml:12", "environment LUA_PATH", "default"
    bool exists = false;
    std::string fault;  // empty, or what is wrong with the entry
    text::Span span;    // in the workspace file, when it comes from there
};

struct SearchPath {
    std::string host;
    std::string variable;  // the one that a session sets; empty: the host has none
    std::vector<Entry> entries;
    bool active = false;  // the environment already holds all of the workspace's entries
};

/// One module that a list tells of.
struct IndexLine {
    std::string name;
    std::string version;
    std::string file;      // where the list lies, joined with what it tells
    bool extends = false;  // no module, but the folder in `file` becomes an entry
};

/// What many look-ups on one path have in common; it must not outlive a change on the disk.
struct LookupCache {
    std::optional<SearchPath> path;
    std::map<std::string, std::vector<IndexLine>> lists;                // by pattern, sorted by name
    std::map<std::string, std::vector<WalkedModule>> walks;             // by the entry's folder
    std::unordered_map<std::string, std::vector<std::size_t>> holders;  // name in a folder → entries, from 0
    std::vector<std::size_t> others;                                    // entries that no listing can tell of
};

struct PathQuestion {
    const model::Space* space = nullptr;  // may be null: outside a workspace
    const model::Card* card = nullptr;
    Environment environment;                   // variables that the host would be started with
    std::filesystem::path start_folder;        // where the host would be started; relative entries lie there
    std::filesystem::path script_folder = {};  // where the script lies that it would run; empty: it runs none
    bool brief = false;                        // only what is found: no entries, no versions beside, no near misses
    LookupCache* cache = nullptr;              // for several questions that differ in nothing but the name
};

/// Workspace entries first (as a session puts them), then what the environment holds, then the defaults.
[[nodiscard]] SearchPath search_path(const PathQuestion& question);

/// Why the card's variable cannot hold this folder, or empty.
[[nodiscard]] std::string cannot_hold(const model::Card& card, const std::string& folder);

/// The entries that are gone through before the path, in order; none for most hosts.
[[nodiscard]] std::vector<Entry> entries_before(const PathQuestion& question);

/// A pattern as people read it: `?` for the name, `*` for a version.
[[nodiscard]] std::string shown_pattern(std::string pattern);

/// The text that a session puts in front of a variable's value for the workspace's folders.
[[nodiscard]] std::string variable_value(const model::Card& card, const model::SearchVariable& variable,
                                         const std::vector<std::string>& folders);

}  // namespace envar::search
