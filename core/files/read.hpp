// Reading from the disk: whole files with a size limit, sorted folder listings, and path arithmetic that
// never leaves a root by accident.
#pragma once

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <utility>
#include <vector>

#include "core/text/failure.hpp"

namespace envar::files {

namespace fs = std::filesystem;

enum class ReadProblem { missing, unreadable, too_large };

struct ReadError {
    ReadProblem problem;
    std::string reason;  // the operating system's words
};

/// The whole content of a regular file of at most `limit` bytes. Never blocks on a pipe or a device.
[[nodiscard]] tl::expected<std::string, ReadError> read_file(const fs::path& path, std::size_t limit);

/// The same as a Failure of the machine, for callers that have no better place for it.
[[nodiscard]] text::Result<std::string> read_or_fail(const fs::path& path, std::size_t limit);

/// The first bytes of a regular file; empty when it cannot be read.
[[nodiscard]] std::string read_first(const fs::path& path, std::size_t count);

/// A regular file read from any place in it, by several threads at once; for files too large to be held whole.
class BigFile {
  public:
    [[nodiscard]] static text::Result<BigFile> open(const fs::path& path);
    BigFile(BigFile&& other) noexcept;
    BigFile& operator=(BigFile&&) = delete;
    ~BigFile();

    /// When it was opened, bytes.
    [[nodiscard]] std::size_t size() const { return size_; }
    /// Fills `into` from `offset` on; fewer bytes only at the end of the file.
    [[nodiscard]] text::Result<std::size_t> read(char* into, std::size_t count, std::size_t offset) const;

  private:
    BigFile(int descriptor, std::size_t size, std::string shown)
        : descriptor_(descriptor), size_(size), shown_(std::move(shown)) {}
    int descriptor_;
    std::size_t size_;
    std::string shown_;
};

/// Whether a regular file is there that holds just that; read in pieces.
[[nodiscard]] bool holds(const fs::path& path, std::string_view content);

/// Names of the folder's entries, sorted by bytes; empty when it cannot be read.
[[nodiscard]] std::vector<std::string> list_folder(const fs::path& folder);

/// A folder's entries sorted by name, links to folders among the folders, and what tells the folder from every
/// other one however it was reached. Nothing when it cannot be read.
struct FolderListing {
    struct Entry {
        std::string name;
        bool is_folder = false;
    };
    std::vector<Entry> entries;
    std::pair<std::uint64_t, std::uint64_t> identity;  // device and inode
};
[[nodiscard]] std::optional<FolderListing> read_folder(const fs::path& folder);

[[nodiscard]] bool is_folder(const fs::path& path);
[[nodiscard]] bool is_file(const fs::path& path);
/// True for anything that has a name there, dangling links too.
[[nodiscard]] bool is_there(const fs::path& path);

/// What a symbolic link says, or nothing when `path` is none.
[[nodiscard]] std::optional<std::string> link_target(const fs::path& path);

/// True when `inner`, taken as a relative path with '/', stays below its root: not empty, not absolute, and
/// no `..` climbs out.
[[nodiscard]] bool stays_inside(std::string_view inner);

/// True when `path`, with all symbolic links followed as far as it exists, lies in `root` or is it.
[[nodiscard]] bool resolves_inside(const fs::path& path, const fs::path& root);

/// `path` relative to `root` with '/', or the absolute path when it lies outside.
[[nodiscard]] std::string shown_path(const fs::path& path, const fs::path& root);

}  // namespace envar::files
