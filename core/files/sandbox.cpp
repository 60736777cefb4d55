#include "core/files/sandbox.hpp"

#include <fmt/format.h>
#include <stdlib.h>

#include <cerrno>
#include <cstring>

#include "core/files/write.hpp"

namespace envar::files {

text::Result<Sandbox> Sandbox::make(const std::filesystem::path& parent) {
    std::string name = (parent / "envar-XXXXXX").string();
    if (::mkdtemp(name.data()) == nullptr)
        return text::fail(text::FailureKind::machine_failed,
                          fmt::format("cannot make a folder in `{}`: {}", parent.string(), std::strerror(errno)),
                          "set TMPDIR to a folder that can be written");
    return Sandbox(name);
}

Sandbox::Sandbox(Sandbox&& other) noexcept
    : folder_(std::move(other.folder_)), kept_(std::exchange(other.kept_, true)) {}

Sandbox::~Sandbox() {
    if (kept_ || folder_.empty()) return;
    std::error_code ignored;
    std::filesystem::remove_all(folder_, ignored);
}

text::Result<void> Sandbox::write(std::string_view name, std::string_view content) const {
    return write_file(folder_ / name, content, Sync::none);
}

text::Result<void> Sandbox::copy_folder(const std::filesystem::path& from, std::string_view name) const {
    namespace fs = std::filesystem;
    std::error_code error;
    fs::copy(from, folder_ / name, fs::copy_options::recursive | fs::copy_options::copy_symlinks, error);
    if (!error) return {};
    return text::fail(text::FailureKind::machine_failed,
                      fmt::format("{} cannot be copied: {}", from.string(), error.message()));
}

void Sandbox::remove_file(std::string_view name) const {
    std::error_code gone_already;
    std::filesystem::remove(folder_ / name, gone_already);
}

text::Result<void> Sandbox::make_folder(std::string_view name) const {
    return make_folders(folder_ / name).map([](const auto&) {});
}

}  // namespace envar::files
