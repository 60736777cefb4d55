#include "core/files/write.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "core/files/read.hpp"

namespace envar::files {
namespace {

using text::fail;
using text::FailureKind;

fs::path staged_path(const fs::path& path) {
    return path.parent_path() / ("." + path.filename().string() + ".envar-new");
}

auto cannot(std::string_view what, const fs::path& path, int code) {
    std::string hint;
    if (code == ENOSPC || code == EDQUOT) hint = "free some space and run the command again; nothing was changed";
    if (code == EACCES || code == EPERM || code == EROFS) hint = "look at the permissions of the folder";
    return fail(FailureKind::machine_failed,
                fmt::format("cannot {} `{}`: {}", what, path.string(), std::strerror(code)), hint);
}

/// 0 or the error number.
int write_all(int descriptor, std::string_view content, Sync sync) {
    while (!content.empty()) {
        const ssize_t written = ::write(descriptor, content.data(), content.size());
        if (written < 0 && errno == EINTR) continue;
        if (written < 0) return errno;
        content.remove_prefix(static_cast<std::size_t>(written));
    }
    return sync == Sync::none || ::fsync(descriptor) == 0 || errno == EINVAL ? 0 : errno;
}

}  // namespace

text::Result<void> stage_file(const fs::path& path, std::string_view content, Sync sync, const fs::path& like) {
    const fs::path staged = staged_path(path);
    ::unlink(staged.c_str());
    const int descriptor = ::open(staged.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC | O_NOFOLLOW, 0666);
    if (descriptor < 0) return cannot("write", path, errno);
    struct stat old = {};
    mode_t bits = 07777;
    bool known = ::stat(path.c_str(), &old) == 0;
    if (!known && !like.empty()) {
        known = ::stat(like.c_str(), &old) == 0;
        bits = 0777;
    }
    if (known && ::fchmod(descriptor, old.st_mode & bits) != 0) {
        // The new file then has the usual permissions; its content matters more.
    }
    int code = write_all(descriptor, content, sync);
    if (::close(descriptor) != 0 && code == 0) code = errno;
    if (code == 0) return {};
    ::unlink(staged.c_str());
    return cannot("write", path, code);
}

text::Result<void> finish_staged(const fs::path& path, Sync sync) {
    if (::rename(staged_path(path).c_str(), path.c_str()) != 0) return cannot("write", path, errno);
    if (sync == Sync::disk) sync_folder(path.parent_path());
    return {};
}

void discard_staged(const fs::path& path) { ::unlink(staged_path(path).c_str()); }

text::Result<void> write_file(const fs::path& path, std::string_view content, Sync sync, const fs::path& like) {
    return stage_file(path, content, sync, like).and_then([&] { return finish_staged(path, sync); });
}

text::Result<std::vector<fs::path>> make_folders(const fs::path& folder) {
    std::vector<fs::path> missing;
    for (fs::path at = folder; !is_there(at) && at.has_relative_path(); at = at.parent_path()) missing.push_back(at);
    std::vector<fs::path> made;
    for (auto it = missing.rbegin(); it != missing.rend(); ++it) {
        if (::mkdir(it->c_str(), 0777) == 0) {
            made.push_back(*it);
            continue;
        }
        if (errno == EEXIST) continue;
        const int code = errno;
        for (auto back = made.rbegin(); back != made.rend(); ++back) ::rmdir(back->c_str());
        return cannot("make the folder", *it, code);
    }
    if (!is_folder(folder)) return cannot("make the folder", folder, ENOTDIR);
    return made;
}

void sync_folder(const fs::path& folder) {
    const int descriptor = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (descriptor < 0) return;
    ::fsync(descriptor);
    ::close(descriptor);
}

}  // namespace envar::files
