#include "core/files/transaction.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <chrono>
#include <cstring>
#include <nlohmann/json.hpp>
#include <thread>

#include "core/files/digest.hpp"
#include "core/files/read.hpp"
#include "core/files/write.hpp"

namespace envar::files {
namespace {

using nlohmann::json;
using text::fail;
using text::FailureKind;
using text::refuse;
using text::Result;

constexpr std::size_t largest_file = std::size_t{256} << 20U;
constexpr std::size_t kept_records = 200;

fs::path state_folder(const fs::path& root) { return root / ".envar"; }
fs::path journal_folder(const fs::path& root) { return state_folder(root) / "journal"; }

/// What is needed of a change to take it back: contents as digests, the old content beside the record.
struct RecordedChange {
    fs::path path;       // absolute
    std::string before;  // digest, or empty: no file
    std::string after;
    bool outside = false;
};

struct Record {
    fs::path root;
    fs::path folder;  // where the record lies
    HistoryEntry entry;
    std::vector<RecordedChange> changes;
    std::vector<fs::path> made_folders;  // outermost first
    std::size_t undoes = 0;              // the record that this one takes back, 0: none
};

struct RecordName {
    std::size_t number = 0;
    std::string state;  // "open", "", "undone"
};

std::optional<RecordName> parse_record_name(const std::string& name) {
    RecordName parsed;
    const char* end = name.data() + name.size();
    const auto [rest, error] = std::from_chars(name.data(), end, parsed.number);
    if (error != std::errc() || rest - name.data() != 8) return std::nullopt;
    if (rest != end) {
        if (*rest != '.') return std::nullopt;
        parsed.state.assign(rest + 1, end);
    }
    return parsed;
}

std::vector<RecordName> record_names(const fs::path& root) {
    std::vector<RecordName> names;
    for (const auto& name : list_folder(journal_folder(root)))
        if (auto parsed = parse_record_name(name)) names.push_back(*parsed);
    std::sort(names.begin(), names.end(), [](const auto& a, const auto& b) { return a.number < b.number; });
    return names;
}

fs::path record_folder(const fs::path& root, std::size_t number, std::string_view state) {
    return journal_folder(root) / fmt::format("{:08}{}{}", number, state.empty() ? "" : ".", state);
}

std::string digest_of(const std::optional<std::string>& content) { return content ? sha256(*content) : ""; }

/// Digest of what lies at `path` now; empty when there is nothing; "?" when it cannot be read.
std::string digest_now(const fs::path& path) {
    const auto content = read_file(path, largest_file);
    if (content) return sha256(*content);
    return content.error().reason == "is a folder" || content.error().problem != ReadProblem::missing ? "?" : "";
}

std::string record_text(const Record& record) {
    json changes = json::array();
    for (const auto& change : record.changes)
        changes.push_back({{"path", shown_path(change.path, record.root)},
                           {"before", change.before},
                           {"after", change.after},
                           {"outside", change.outside}});
    json folders = json::array();
    for (const auto& folder : record.made_folders) folders.push_back(shown_path(folder, record.root));
    const json whole = {{"command", record.entry.command},
                        {"time", record.entry.time},
                        {"undoes", record.undoes},
                        {"changes", changes},
                        {"folders", folders}};
    return whole.dump(2, ' ', false, json::error_handler_t::replace) + "\n";
}

std::optional<Record> read_record(const fs::path& root, const RecordName& name) {
    Record record;
    record.root = root;
    record.folder = record_folder(root, name.number, name.state);
    const auto content = read_file(record.folder / "record.json", largest_file);
    if (!content) return std::nullopt;
    const json whole = json::parse(*content, nullptr, false);
    if (!whole.is_object() || !whole.contains("changes") || !whole["changes"].is_array()) return std::nullopt;
    record.entry.number = name.number;
    record.entry.undone = name.state == "undone";
    record.entry.command = whole.value("command", "");
    record.entry.time = whole.value("time", "");
    record.undoes = whole.value("undoes", std::size_t{0});
    for (const auto& change : whole["changes"]) {
        const std::string path = change.value("path", "");
        const bool outside = change.value("outside", false) && fs::path(path).is_absolute();
        if (!outside && !stays_inside(path)) return std::nullopt;
        record.changes.push_back({root / path, change.value("before", ""), change.value("after", ""), outside});
        if (!is_note(root / path, root)) record.entry.files.push_back(path);
    }
    for (const auto& folder : whole.value("folders", json::array()))
        if (folder.is_string()) record.made_folders.push_back(root / folder.get<std::string>());
    return record;
}

fs::path before_copy(const Record& record, std::size_t index) {
    return record.folder / fmt::format("{}.before", index);
}

void remove_made_folders(const Record& record) {
    for (auto it = record.made_folders.rbegin(); it != record.made_folders.rend(); ++it) ::rmdir(it->c_str());
}

/// See block_mark.
bool has_block(const fs::path& path) {
    const auto content = read_file(path, largest_file);
    return content && content->find(block_mark) != std::string::npos;
}

/// Puts the old content of every changed file back. With `move`, the journal's copies are used up, which
/// needs no space on a full disk. Files that hold neither the old nor the new content are left alone.
Result<void> restore(const Record& record, bool move) {
    for (std::size_t i = 0; i < record.changes.size(); ++i) {
        const RecordedChange& change = record.changes[i];
        discard_staged(change.path);
        if (change.before == change.after || digest_now(change.path) != change.after) continue;
        if (change.outside && !has_block(change.path)) continue;
        if (change.before.empty()) {
            if (::unlink(change.path.c_str()) != 0 && errno != ENOENT)
                return fail(FailureKind::machine_failed,
                            fmt::format("cannot remove `{}`: {}", change.path.string(), std::strerror(errno)));
            continue;
        }
        if (move && ::rename(before_copy(record, i).c_str(), change.path.c_str()) == 0) continue;
        auto content = read_or_fail(before_copy(record, i), largest_file);
        if (!content) return tl::unexpected(content.error());
        if (auto made = make_folders(change.path.parent_path()); !made) return tl::unexpected(made.error());
        if (auto written = write_file(change.path, *content, Sync::disk, before_copy(record, i)); !written)
            return written;
    }
    remove_made_folders(record);
    return {};
}

void remove_record(const fs::path& folder) {
    std::error_code ignored;
    fs::remove_all(folder, ignored);
}

Result<void> move_record(const fs::path& from, const fs::path& to) {
    if (::rename(from.c_str(), to.c_str()) != 0)
        return fail(FailureKind::machine_failed,
                    fmt::format("cannot record the change in `{}`: {}", to.string(), std::strerror(errno)));
    sync_folder(to.parent_path());
    return {};
}

/// Rolls back what was begun and never finished. Taking back counts as finished once the record that was taken
/// back says so.
void recover(const fs::path& root) {
    for (const auto& name : record_names(root)) {
        if (name.state != "open") continue;
        const auto record = read_record(root, name);
        const bool finished =
            record && record->undoes != 0 && is_folder(record_folder(root, record->undoes, "undone"));
        if (record && !finished && !restore(*record, false)) continue;  // tried again by the next command
        remove_record(record_folder(root, name.number, name.state));
    }
}

/// Lets the journal forget its oldest change sets.
void prune(const fs::path& root) {
    const auto names = record_names(root);
    for (std::size_t i = 0; i + kept_records < names.size(); ++i)
        remove_record(record_folder(root, names[i].number, names[i].state));
}

Result<void> verify_unchanged(const Plan& plan) {
    for (const Change& change : plan.changes) {
        if (!change.outside && !resolves_inside(change.path.parent_path(), plan.root))
            return fail(FailureKind::machine_failed,
                        fmt::format("`{}` lies outside the workspace through a link", change.path.string()),
                        "replace the link by a folder, or start a workspace there");
        if (digest_now(change.path) == digest_of(change.before) && (change.before || !is_there(change.path)))
            continue;
        if (!change.before)
            return refuse(fmt::format("`{}` is already there", shown_path(change.path, plan.root)),
                          "it is never overwritten: move it away or choose another name");
        return fail(FailureKind::machine_failed,
                    fmt::format("`{}` was changed by someone else meanwhile", shown_path(change.path, plan.root)),
                    "nothing was written; run the command again");
    }
    return {};
}

/// The record of the plan, written to the journal as `.open`, old contents beside it.
Result<Record> open_record(const Plan& plan, const RecordLabel& label, std::size_t undoes) {
    Record record;
    record.undoes = undoes;
    record.root = plan.root;
    const auto names = record_names(plan.root);
    record.entry.number = names.empty() ? 1 : names.back().number + 1;
    record.entry.command = label.command;
    record.entry.time = label.time;
    record.folder = record_folder(plan.root, record.entry.number, "open");
    for (const Change& change : plan.changes) {
        record.changes.push_back({change.path, digest_of(change.before), digest_of(change.after), change.outside});
        for (fs::path at = change.path.parent_path();
             change.after && !change.outside && at != plan.root && !is_there(at); at = at.parent_path())
            if (std::find(record.made_folders.begin(), record.made_folders.end(), at) == record.made_folders.end())
                record.made_folders.push_back(at);
    }
    std::sort(record.made_folders.begin(), record.made_folders.end());
    if (auto made = make_folders(record.folder); !made) return tl::unexpected(made.error());
    for (std::size_t i = 0; i < plan.changes.size(); ++i) {
        const Change& change = plan.changes[i];
        if (!change.before) continue;
        if (auto kept = write_file(before_copy(record, i), *change.before, Sync::disk, change.path); !kept)
            return tl::unexpected(kept.error());
    }
    if (auto written = write_file(record.folder / "record.json", record_text(record)); !written)
        return tl::unexpected(written.error());
    return record;
}

Result<void> carry_out(const Plan& plan) {
    for (const Change& change : plan.changes) {
        if (!change.after) continue;
        if (!change.outside)
            if (auto made = make_folders(change.path.parent_path()); !made) return tl::unexpected(made.error());
        if (auto staged = stage_file(change.path, *change.after, Sync::disk, change.like); !staged) return staged;
    }
    for (const Change& change : plan.changes) {
        if (change.after) {
            if (auto done = finish_staged(change.path); !done) return done;
        } else if (::unlink(change.path.c_str()) != 0) {
            return fail(FailureKind::machine_failed,
                        fmt::format("cannot remove `{}`: {}", change.path.string(), std::strerror(errno)));
        }
    }
    return {};
}

/// Folders that removing files has left empty go too, up to the root.
void remove_empty_folders(const Plan& plan) {
    for (const Change& change : plan.changes)
        for (fs::path at = change.path.parent_path(); !change.after && !change.outside && at != plan.root;
             at = at.parent_path())
            if (::rmdir(at.c_str()) != 0) break;
}

/// A written link keeps being a link: its target is what changes.
Result<Plan> with_links_followed(Plan plan) {
    for (Change& change : plan.changes) {
        if (!link_target(change.path)) continue;
        std::error_code error;
        const fs::path real = fs::canonical(change.path, error);
        if (change.outside && !error) {
            change.path = real;
            continue;
        }
        if (error || !change.before || !resolves_inside(real, plan.root))
            return fail(FailureKind::machine_failed,
                        fmt::format("`{}` is a link that does not stay inside the workspace",
                                    shown_path(change.path, plan.root)),
                        "replace the link by the file itself");
        if (change.after) change.path = plan.root / real.lexically_relative(fs::weakly_canonical(plan.root));
    }
    return plan;
}

std::optional<Record> newest_done(const fs::path& root) {
    const auto names = record_names(root);
    for (auto it = names.rbegin(); it != names.rend(); ++it)
        if (it->state.empty())
            if (auto record = read_record(root, *it)) return record;
    return std::nullopt;
}

Result<Record> undoable(const fs::path& root) {
    auto record = newest_done(root);
    if (!record) return refuse("there is nothing to take back");
    for (const auto& change : record->changes)
        if (digest_now(change.path) != change.after)
            return fail(
                FailureKind::answer_is_no,
                fmt::format("`{}` was changed after `{}`", shown_path(change.path, root), record->entry.command),
                "nothing was taken back, so that your change is not lost; move the file away first");
    for (const auto& change : record->changes)
        if (change.outside && !has_block(change.path))
            return fail(
                FailureKind::answer_is_no,
                fmt::format("`{}` lies outside the workspace and holds nothing of Envar's", change.path.string()),
                "it is left alone");
    return *record;
}

Result<void> prepare_state_folder(const fs::path& root) {
    const bool fresh = !is_there(state_folder(root));
    if (auto made = make_folders(journal_folder(root)); !made) return tl::unexpected(made.error());
    if (fresh) return write_file(state_folder(root) / ".gitignore", "*\n");
    return {};
}

}  // namespace

WorkspaceLock::WorkspaceLock(WorkspaceLock&& other) noexcept : descriptor_(std::exchange(other.descriptor_, -1)) {}

WorkspaceLock::~WorkspaceLock() {
    if (descriptor_ >= 0) ::close(descriptor_);
}

Result<WorkspaceLock> WorkspaceLock::take(const fs::path& root, int wait_seconds) {
    if (auto ready = prepare_state_folder(root); !ready) return tl::unexpected(ready.error());
    const fs::path file = state_folder(root) / "lock";
    const int descriptor = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (descriptor < 0)
        return fail(FailureKind::machine_failed,
                    fmt::format("cannot open `{}`: {}", file.string(), std::strerror(errno)));
    WorkspaceLock lock(descriptor);
    const auto until = std::chrono::steady_clock::now() + std::chrono::seconds(wait_seconds);
    while (::flock(descriptor, LOCK_EX | LOCK_NB) != 0) {
        if (std::chrono::steady_clock::now() >= until) {
            const auto holder = read_file(file, 64);
            return fail(FailureKind::machine_failed,
                        fmt::format("another Envar is writing in this workspace (process {})",
                                    holder && !holder->empty() ? *holder : "unknown"),
                        "wait until it has finished and run the command again");
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    const std::string process = fmt::format("{}", ::getpid());
    if (::ftruncate(descriptor, 0) != 0 || ::pwrite(descriptor, process.data(), process.size(), 0) < 0) {
        // The number only serves the message above; the lock holds without it.
    }
    recover(root);
    return lock;
}

bool needs_recovery(const fs::path& root) {
    const auto names = record_names(root);
    return std::any_of(names.begin(), names.end(), [](const RecordName& name) { return name.state == "open"; });
}

Result<void> apply(const Plan& wanted, const RecordLabel& label, const WorkspaceLock& /*lock*/) {
    auto followed = with_links_followed(wanted);
    if (!followed) return tl::unexpected(followed.error());
    Plan& plan = *followed;
    plan.drop_idle();
    if (plan.empty()) return {};
    if (auto same = verify_unchanged(plan); !same) return same;
    auto record = open_record(plan, label, 0);
    if (!record) {
        recover(plan.root);
        return tl::unexpected(record.error());
    }
    auto done = carry_out(plan);
    if (done) done = move_record(record->folder, record_folder(plan.root, record->entry.number, ""));
    if (!done) {
        if (restore(*record, true)) remove_record(record->folder);
        return done;
    }
    remove_empty_folders(plan);
    prune(plan.root);
    return {};
}

std::vector<HistoryEntry> history(const fs::path& root) {
    std::vector<HistoryEntry> entries;
    for (const auto& name : record_names(root))
        if (auto record = read_record(root, name)) entries.push_back(std::move(record->entry));
    std::reverse(entries.begin(), entries.end());
    return entries;
}

Result<Plan> undo_plan(const fs::path& root) {
    auto record = undoable(root);
    if (!record) return tl::unexpected(record.error());
    Plan plan{root, {}};
    for (std::size_t i = 0; i < record->changes.size(); ++i) {
        Change change{record->changes[i].path, std::nullopt, std::nullopt, "", record->changes[i].outside};
        if (!record->changes[i].after.empty()) {
            auto now = read_or_fail(change.path, largest_file);
            if (!now) return tl::unexpected(now.error());
            change.before = std::move(*now);
        }
        if (!record->changes[i].before.empty()) {
            auto old = read_or_fail(before_copy(*record, i), largest_file);
            if (!old) return tl::unexpected(old.error());
            change.after = std::move(*old);
            change.like = before_copy(*record, i);
        }
        plan.changes.push_back(std::move(change));
    }
    return plan;
}

Result<HistoryEntry> undo(const fs::path& root, const WorkspaceLock& /*lock*/) {
    auto taken_back = undoable(root);
    if (!taken_back) return tl::unexpected(taken_back.error());
    auto plan = undo_plan(root);
    if (!plan) return tl::unexpected(plan.error());
    plan->drop_idle();
    if (auto same = verify_unchanged(*plan); !same) return tl::unexpected(same.error());
    auto record = open_record(*plan, {"undo", taken_back->entry.time}, taken_back->entry.number);
    if (!record) {
        recover(root);
        return tl::unexpected(record.error());
    }
    auto done = carry_out(*plan);
    if (done) done = move_record(taken_back->folder, record_folder(root, taken_back->entry.number, "undone"));
    if (!done) {
        if (restore(*record, true)) remove_record(record->folder);
        return tl::unexpected(done.error());
    }
    remove_record(record->folder);
    remove_made_folders(*taken_back);
    taken_back->entry.undone = true;
    return taken_back->entry;
}

}  // namespace envar::files
