// A plan: which files are to be written, changed or removed, decided in full before the disk is touched.
//
// Everything in Envar that wants to write makes a Plan and hands it to transaction.hpp. Each change says what
// the file held when the plan was made, so that nothing written in the meantime is ever overwritten.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_map>
#include <utility>
#include <vector>

#include "core/text/failure.hpp"

namespace envar::files {

/// Begins the marks of Envar's blocks in files of the user's. Outside a workspace only a file with such a mark is
/// ever changed back, so that a journal which came with a workspace from elsewhere can do no harm there.
inline constexpr std::string_view block_mark = "Envar's block";
inline constexpr std::string_view block_ends = "ends here";  // behind it and the block's name, in the latter mark

/// Stands in the second line of each file that is generated as a whole, before the SHA-256 of what is behind.
inline constexpr std::string_view generated_mark = "Envar digest: ";

struct Change {
    std::filesystem::path path;         // absolute, inside the plan's root unless `outside`
    std::optional<std::string> before;  // content the plan was made from; nothing: there must be no file
    std::optional<std::string> after;   // content to be; nothing: the file is removed
    std::string purpose;                // what the file is for, shown to the user
    bool outside = false;               // a file that the user named, wherever it lies; its folder must exist
    std::filesystem::path like = {};    // a new file gets the permission bits of this one; empty: the usual ones
};

/// Envar's own notes of what it wrote, below `.envar/first`: part of a plan, but nothing that a user wants to see.
inline constexpr std::string_view notes_folder = ".envar/first";
[[nodiscard]] bool is_note(const std::filesystem::path& path, const std::filesystem::path& root);

struct Plan {
    std::filesystem::path root;  // absolute; no other change may lie outside
    std::vector<Change> changes;

    Plan() = default;
    explicit Plan(std::filesystem::path folder, std::vector<Change> first = {})
        : root(std::move(folder)), changes(std::move(first)) {}

    /// Adds a change; a second one of the same path joins the first (its `after` wins).
    void add(Change change);
    /// Drops the changes that change nothing.
    void drop_idle();
    [[nodiscard]] bool empty() const { return changes.empty(); }
    /// What `path` will hold when the plan is done: the planned content, or what `otherwise` is.
    [[nodiscard]] const Change* find(const std::filesystem::path& path) const;

  private:
    [[nodiscard]] std::size_t place_of(const std::filesystem::path& path) const;
    mutable std::unordered_map<std::string, std::size_t> places_;  // in `changes`, as they were when it was made
};

/// The plan as one unified diff with paths relative to the root; empty when nothing changes.
[[nodiscard]] std::string plan_diff(const Plan& plan);

}  // namespace envar::files
