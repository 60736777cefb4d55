// The lock, `lock.envar.toml`: which versions were chosen, from where, and what they held. One line a module, by
// name, so that two people's changes join line by line.
#pragma once

#include <filesystem>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/text/finding.hpp"

namespace envar::resolve {

inline constexpr std::string_view lock_name = "lock.envar.toml";

struct LockedModule {
    std::string module;
    std::string version;
    std::string host;
    std::string origin;
    std::string digest;  // SHA-256 of its archive, or of its folder; empty: not known
    text::Span span;     // the version's
};

struct Lock {
    text::Source source;
    std::vector<LockedModule> modules;                       // as in the file
    std::map<std::string, std::size_t, std::less<>> places;  // in `modules`, by name
    std::vector<text::Finding> findings;                     // why it, or a line of it, cannot be read
    [[nodiscard]] const LockedModule* find(std::string_view module) const;
};

[[nodiscard]] std::string lock_text(const std::vector<LockedModule>& modules);

/// The lock of the workspace, or nothing when there is none.
[[nodiscard]] std::optional<Lock> read_lock(const std::filesystem::path& root);

/// How a module moved between two locks.
struct Move {
    std::string module;
    std::string before;  // version; empty: it was not there
    std::string after;   // empty: it is gone
    /// "added", "removed", "breaking", "feature", "fix", "older", "origin" or "content": for dependants, what kind of
    /// move the versions promise.
    std::string kind;
    std::string note;
};

/// By name. The content of modules of the workspace is being worked on and moves nothing.
[[nodiscard]] std::vector<Move> moves(const std::vector<LockedModule>& before,
                                      const std::vector<LockedModule>& after);

}  // namespace envar::resolve
