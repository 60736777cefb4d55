#include "core/files/read.hpp"

#include <dirent.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <utility>

namespace envar::files {
namespace {

ReadError error_of(int code) {
    return {code == ENOENT || code == ENOTDIR ? ReadProblem::missing : ReadProblem::unreadable, std::strerror(code)};
}

/// No `.` or `..` and no doubled '/' in it; a name that begins with a dot is taken for one, which is no harm.
bool is_plain(std::string_view path) {
    return path.find("/.") == std::string_view::npos && path.find("//") == std::string_view::npos;
}

/// Reads until the end or until `limit` is passed; the file may grow while it is read.
tl::expected<std::string, ReadError> read_all(int descriptor, std::size_t size_hint, std::size_t limit) {
    std::string content;
    content.resize(std::min(size_hint, limit) + 1);
    std::size_t filled = 0;
    for (;;) {
        const ssize_t got = ::read(descriptor, content.data() + filled, content.size() - filled);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return tl::unexpected(error_of(errno));
        if (got == 0) break;
        filled += static_cast<std::size_t>(got);
        if (filled > limit) return tl::unexpected(ReadError{ReadProblem::too_large, "too large"});
        if (filled < content.size()) break;  // a regular file gives all it has
        content.resize(std::min(content.size() * 2, limit + 1));
    }
    content.resize(filled);
    return content;
}

}  // namespace

tl::expected<std::string, ReadError> read_file(const fs::path& path, std::size_t limit) {
    const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY);
    if (descriptor < 0) return tl::unexpected(error_of(errno));
    struct stat status = {};
    tl::expected<std::string, ReadError> content;
    if (::fstat(descriptor, &status) != 0) {
        content = tl::unexpected(error_of(errno));
    } else if (!S_ISREG(status.st_mode)) {
        content = tl::unexpected(
            ReadError{ReadProblem::unreadable, S_ISDIR(status.st_mode) ? "is a folder" : "is no regular file"});
    } else if (static_cast<std::size_t>(status.st_size) > limit) {
        content = tl::unexpected(ReadError{ReadProblem::too_large, "too large"});
    } else {
        content = read_all(descriptor, static_cast<std::size_t>(status.st_size), limit);
    }
    ::close(descriptor);
    return content;
}

text::Result<std::string> read_or_fail(const fs::path& path, std::size_t limit) {
    auto content = read_file(path, limit);
    if (content) return std::move(*content);
    return text::fail(text::FailureKind::machine_failed,
                      fmt::format("cannot read `{}`: {}", path.string(), content.error().reason));
}

std::string read_first(const fs::path& path, std::size_t count) {
    const auto file = BigFile::open(path);
    std::string out(count, '\0');
    const auto done = file ? file->read(out.data(), count, 0) : text::Result<std::size_t>(0);
    out.resize(done.value_or(0));
    return out;
}

text::Result<BigFile> BigFile::open(const fs::path& path) {
    const auto cannot = [&](const char* why) {
        return text::fail(text::FailureKind::machine_failed, fmt::format("cannot read `{}`: {}", path.string(), why));
    };
    const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY);
    if (descriptor < 0) return cannot(std::strerror(errno));
    struct stat status = {};
    const bool known = ::fstat(descriptor, &status) == 0;
    if (known && S_ISREG(status.st_mode))
        return BigFile(descriptor, static_cast<std::size_t>(status.st_size), path.string());
    ::close(descriptor);
    return cannot(known && S_ISDIR(status.st_mode) ? "is a folder" : "is no regular file");
}

BigFile::BigFile(BigFile&& other) noexcept
    : descriptor_(std::exchange(other.descriptor_, -1)), size_(other.size_), shown_(std::move(other.shown_)) {}

BigFile::~BigFile() {
    if (descriptor_ >= 0) ::close(descriptor_);
}

text::Result<std::size_t> BigFile::read(char* into, std::size_t count, std::size_t offset) const {
    std::size_t filled = 0;
    while (filled < count) {
        const ssize_t got = ::pread(descriptor_, into + filled, count - filled, static_cast<off_t>(offset + filled));
        if (got < 0 && errno == EINTR) continue;
        if (got < 0)
            return text::fail(text::FailureKind::machine_failed,
                              fmt::format("cannot read `{}`: {}", shown_, std::strerror(errno)));
        if (got == 0) break;
        filled += static_cast<std::size_t>(got);
    }
    return filled;
}

bool holds(const fs::path& path, std::string_view content) {
    constexpr std::size_t piece = std::size_t{1} << 18U;
    const auto file = BigFile::open(path);
    if (!file || file->size() != content.size()) return false;
    std::string room(std::min(piece, content.size()), '\0');
    for (std::size_t at = 0; at < content.size(); at += piece) {
        const std::string_view wanted = content.substr(at, piece);
        const auto count = file->read(room.data(), wanted.size(), at);
        if (!count || std::string_view(room.data(), *count) != wanted) return false;
    }
    return true;
}

std::vector<std::string> list_folder(const fs::path& folder) {
    std::vector<std::string> names;
    std::error_code error;
    for (fs::directory_iterator it(folder, error), end; !error && it != end; it.increment(error))
        names.push_back(it->path().filename().string());
    std::sort(names.begin(), names.end());
    return names;
}

std::optional<FolderListing> read_folder(const fs::path& folder) {
    DIR* stream = ::opendir(folder.c_str());
    if (stream == nullptr) return std::nullopt;
    FolderListing listing;
    struct stat status = {};
    if (::fstat(::dirfd(stream), &status) == 0) listing.identity = {status.st_dev, status.st_ino};
    while (const dirent* entry = ::readdir(stream)) {
        const std::string_view name = static_cast<const char*>(entry->d_name);
        if (name == "." || name == "..") continue;
        bool folder_there = entry->d_type == DT_DIR;
        if (entry->d_type == DT_LNK || entry->d_type == DT_UNKNOWN) {
            struct stat target = {};
            folder_there = ::fstatat(::dirfd(stream), entry->d_name, &target, 0) == 0 && S_ISDIR(target.st_mode);
        }
        listing.entries.push_back({std::string(name), folder_there});
    }
    ::closedir(stream);
    std::sort(listing.entries.begin(), listing.entries.end(),
              [](const auto& a, const auto& b) { return a.name < b.name; });
    return listing;
}

bool is_folder(const fs::path& path) {
    std::error_code error;
    return fs::is_directory(path, error);
}

bool is_file(const fs::path& path) {
    std::error_code error;
    return fs::is_regular_file(path, error);
}

bool is_there(const fs::path& path) {
    struct stat status = {};
    return ::lstat(path.c_str(), &status) == 0;
}

std::optional<std::string> link_target(const fs::path& path) {
    std::error_code error;
    const fs::path target = fs::read_symlink(path, error);
    if (error) return std::nullopt;
    return target.string();
}

bool stays_inside(std::string_view inner) {
    if (inner.empty() || inner.front() == '/' || inner.find('\0') != std::string_view::npos) return false;
    int depth = 0;
    for (std::size_t at = 0; at <= inner.size();) {
        const std::size_t end = std::min(inner.find('/', at), inner.size());
        const std::string_view part = inner.substr(at, end - at);
        if (part == "..") {
            if (--depth < 0) return false;
        } else if (!part.empty() && part != ".") {
            ++depth;
        }
        at = end + 1;
    }
    return true;
}

bool resolves_inside(const fs::path& path, const fs::path& root) {
    std::error_code error;
    const fs::path real_root = fs::weakly_canonical(root, error);
    if (error) return false;
    const fs::path real = fs::weakly_canonical(path, error);
    if (error) return false;
    const auto [root_end, rest] = std::mismatch(real_root.begin(), real_root.end(), real.begin(), real.end());
    return root_end == real_root.end();
}

std::string shown_path(const fs::path& path, const fs::path& root) {
    // Nearly always the one simply begins with the other; the arithmetic on paths is slow.
    const std::string_view whole = path.native();
    const std::string_view start = root.native();
    if (whole.size() > start.size() + 1 && whole.substr(0, start.size()) == start && whole[start.size()] == '/' &&
        is_plain(whole) && whole.back() != '/')
        return std::string(whole.substr(start.size() + 1));
    std::string relative = path.lexically_normal().lexically_relative(root.lexically_normal()).generic_string();
    if (relative.empty() || relative == ".." || relative.rfind("../", 0) == 0) return path.generic_string();
    return relative;
}

}  // namespace envar::files
