// Where a host finds a name: the entries gone through, what was tried, what is shadowed, and what was nearly
// found.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/search/search_path.hpp"

namespace envar::search {

struct Candidate {
    std::string file;
    bool exists = false;  // the host would take it
    std::string version;  // from the manifest beside it; empty when there is none
    bool chosen = false;  // it is what the host takes, whatever its real place is called
};

struct LocatedEntry {
    std::size_t position = 0;
    std::string folder;
    std::string from;
    bool exists = false;
    std::vector<Candidate> candidates;
};

struct Choice {
    std::string file;
    std::size_t position = 0;
    std::string version;
    bool is_folder = false;  // the host takes it and then fails
};

struct NearMiss {
    std::string file;
    std::string why;
};

struct Located {
    std::string module;
    std::string host;
    std::vector<LocatedEntry> entries;
    std::optional<Choice> chosen;
    std::vector<Choice> shadowed;
    std::vector<NearMiss> near_misses;
};

[[nodiscard]] Located locate(const std::string& name, const PathQuestion& question);

}  // namespace envar::search
