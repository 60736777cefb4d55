// The primitive that every write goes through: a temporary file beside the target, written and synced, then
// renamed over it, then the folder synced. A reader sees the old content or the new, never a part.
#pragma once

#include <filesystem>
#include <string_view>
#include <vector>

#include "core/text/failure.hpp"

namespace envar::files {

/// What can be made again at any time, such as results, need not wait for the disk.
enum class Sync { disk, none };

/// Writes `content` to `path` (its folder must exist). A file that was there keeps its permission bits, a new one
/// gets those of `like`.
[[nodiscard]] text::Result<void> write_file(const std::filesystem::path& path, std::string_view content,
                                            Sync sync = Sync::disk, const std::filesystem::path& like = {});

/// The two halves of write_file: after staging, finish_staged only has to rename.
[[nodiscard]] text::Result<void> stage_file(const std::filesystem::path& path, std::string_view content,
                                            Sync sync = Sync::disk, const std::filesystem::path& like = {});
[[nodiscard]] text::Result<void> finish_staged(const std::filesystem::path& path, Sync sync = Sync::disk);
void discard_staged(const std::filesystem::path& path);

/// Makes the folder and its parents; gives those that were not there before, outermost first.
[[nodiscard]] text::Result<std::vector<std::filesystem::path>> make_folders(const std::filesystem::path& folder);

/// Flushes a folder's entries to the disk; failure is ignored, as some file systems know no such thing.
void sync_folder(const std::filesystem::path& folder);

}  // namespace envar::files
