// A plan: which files are to be written, changed or removed, decided in full before the disk is touched.
//
// Everything in Envar that wants to write makes a Plan and hands it to transaction.hpp. Each change says what
// the file held when the plan was made, so that nothing written in the meantime is ever overwritten.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "core/text/failure.hpp"

namespace envar::files {

struct Change {
    std::filesystem::path path;         // absolute, inside the plan's root
    std::optional<std::string> before;  // content the plan was made from; nothing: there must be no file
    std::optional<std::string> after;   // content to be; nothing: the file is removed
    std::string purpose;                // what the file is for, shown to the user
};

struct Plan {
    std::filesystem::path root;  // absolute; no change may lie outside
    std::vector<Change> changes;

    /// Adds a change; a second one of the same path joins the first (its `after` wins).
    void add(Change change);
    /// Drops the changes that change nothing.
    void drop_idle();
    [[nodiscard]] bool empty() const { return changes.empty(); }
    /// What `path` will hold when the plan is done: the planned content, or what `otherwise` is.
    [[nodiscard]] const Change* find(const std::filesystem::path& path) const;
};

/// The plan as one unified diff with paths relative to the root; empty when nothing changes.
[[nodiscard]] std::string plan_diff(const Plan& plan);

}  // namespace envar::files
