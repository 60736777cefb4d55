// Unpacking archives of modules: tar, plain or compressed with gzip, xz or zstd. By libarchive.
#pragma once

#include <filesystem>

#include "core/text/failure.hpp"

namespace envar::files {

/// Whether the name ends as that of such an archive.
[[nodiscard]] bool is_archive_name(const std::filesystem::path& file);

/// Unpacks regular files and folders into a folder that is there; links and devices are passed over. Fails on a file
/// that would lie outside, and on more than a gigabyte or a hundred thousand files.
[[nodiscard]] text::Result<void> unpack(const std::filesystem::path& archive, const std::filesystem::path& folder);

}  // namespace envar::files
