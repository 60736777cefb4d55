// Carrying out plans: whole or not at all, recorded, and taken back on demand.
//
// The journal lies in `.envar/journal/` of the workspace, a folder per change set. The folder's name is its
// state, so that every step is one rename:
//
//     00000012.open     begun; found at start-up it is rolled back
//     00000012          done; `undo` takes the newest of these back
//     00000012.undone   taken back
//
// Taking back is a change set of its own while it lasts: it begins as `.open` with the number of the one it
// takes back, and has happened once that one is `.undone`.
//
// Inside lie `record.json` and, for each file that was there before, its old content (`0.before`, …).
// A plan is staged as a whole (temporary files beside the targets) before the first rename, so that a full
// disk is met while nothing has changed yet.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "core/files/plan.hpp"
#include "core/text/failure.hpp"

namespace envar::files {

/// Held while a command plans and writes; at most one process holds it for one workspace.
class WorkspaceLock {
  public:
    /// Waits up to `wait_seconds` for another process; then fails, naming the process that holds it. Also
    /// finishes or rolls back what a killed process left behind.
    [[nodiscard]] static text::Result<WorkspaceLock> take(const std::filesystem::path& root, int wait_seconds);

    WorkspaceLock(WorkspaceLock&& other) noexcept;
    WorkspaceLock& operator=(WorkspaceLock&&) = delete;
    WorkspaceLock(const WorkspaceLock&) = delete;
    WorkspaceLock& operator=(const WorkspaceLock&) = delete;
    ~WorkspaceLock();

  private:
    explicit WorkspaceLock(int descriptor) : descriptor_(descriptor) {}
    int descriptor_;
};

/// True when a killed process left a change set half done.
[[nodiscard]] bool needs_recovery(const std::filesystem::path& root);

struct RecordLabel {
    std::string command;  // the command line as typed
    std::string time;     // RFC 3339
};

/// Carries out the plan. On failure everything is as it was. The lock must be held.
[[nodiscard]] text::Result<void> apply(const Plan& plan, const RecordLabel& label, const WorkspaceLock& lock);

struct HistoryEntry {
    std::size_t number = 0;
    std::string command;
    std::string time;
    std::vector<std::string> files;  // relative to the root
    bool undone = false;
};

/// All change sets, newest first.
[[nodiscard]] std::vector<HistoryEntry> history(const std::filesystem::path& root);

/// The plan that takes the newest change set back, for showing. Fails with `answer_is_no` when there is none
/// or when a file of it was changed since.
[[nodiscard]] text::Result<Plan> undo_plan(const std::filesystem::path& root);

/// Takes the newest change set back; gives what it was.
[[nodiscard]] text::Result<HistoryEntry> undo(const std::filesystem::path& root, const WorkspaceLock& lock);

}  // namespace envar::files
