#include "core/files/links.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <stdio.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "core/files/write.hpp"

namespace envar::files {
namespace {

namespace fs = std::filesystem;

tl::unexpected<text::Failure> cannot(const char* what, const fs::path& path, const std::string& why) {
    return text::fail(text::FailureKind::machine_failed, fmt::format("cannot {} `{}`: {}", what, path.string(), why));
}

}  // namespace

text::Result<void> make_link_folder(const fs::path& folder,
                                    const std::vector<std::pair<std::string, fs::path>>& links) {
    const fs::path fresh = folder.parent_path() / ("." + folder.filename().string() + ".new");
    std::error_code error;
    fs::remove_all(fresh, error);
    if (auto made = make_folders(fresh); !made) return tl::unexpected(made.error());
    for (const auto& [name, target] : links) {
        const fs::path link = fresh / name;
        if (auto made = make_folders(link.parent_path()); !made) return tl::unexpected(made.error());
        fs::create_symlink(target.lexically_relative((folder / name).parent_path()), link, error);
        if (error) return cannot("link", link, error.message());
    }
    if (::renameat2(AT_FDCWD, fresh.c_str(), AT_FDCWD, folder.c_str(), RENAME_EXCHANGE) == 0) {
        fs::remove_all(fresh, error);
    } else {
        fs::remove_all(folder, error);  // it was not there, or this file system cannot exchange
        if (::rename(fresh.c_str(), folder.c_str()) != 0) return cannot("write", folder, std::strerror(errno));
    }
    sync_folder(folder.parent_path());
    return {};
}

}  // namespace envar::files
