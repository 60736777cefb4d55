#include "core/files/watch.hpp"

#include <fmt/format.h>
#include <poll.h>
#include <sys/inotify.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstring>
#include <utility>

#include "core/files/read.hpp"

namespace envar::files {
namespace {

constexpr int deepest_folder = 32;
constexpr int most_rounds = 20;  // of changes without a pause

auto machine(std::string_view what) {
    const int code = errno;
    const char* hint = code == ENOSPC ? "the system allows no more watches: see fs.inotify.max_user_watches" : "";
    return text::fail(text::FailureKind::machine_failed, fmt::format("{}: {}", what, std::strerror(code)), hint);
}

}  // namespace

text::Result<Watch> Watch::start(const std::filesystem::path& root) {
    const int descriptor = ::inotify_init1(IN_CLOEXEC | IN_NONBLOCK);
    if (descriptor < 0) return machine("cannot watch for changes");
    Watch watch(descriptor, root);
    if (auto added = watch.add(root, 0); !added) return tl::unexpected(added.error());
    return watch;
}

Watch::Watch(Watch&& other) noexcept
    : descriptor_(std::exchange(other.descriptor_, -1)), root_(std::move(other.root_)) {}

Watch::~Watch() {
    if (descriptor_ >= 0) ::close(descriptor_);
}

/// Adding a folder that is watched already changes nothing, so the whole tree can be added again and again.
text::Result<void> Watch::add(const std::filesystem::path& folder, int depth) {
    constexpr std::uint32_t events = IN_CLOSE_WRITE | IN_CREATE | IN_DELETE | IN_MOVED_FROM | IN_MOVED_TO |
                                     IN_DELETE_SELF | IN_ATTRIB | IN_ONLYDIR;
    if (::inotify_add_watch(descriptor_, folder.c_str(), events) < 0) {
        if (errno == ENOSPC || depth == 0) return machine(fmt::format("cannot watch `{}`", folder.string()));
        return {};  // gone in the meantime, or not ours to read
    }
    if (depth == deepest_folder) return {};
    for (const auto& name : list_folder(folder)) {
        if (name.front() == '.' || name == "envar-results" || link_target(folder / name)) continue;
        if (!is_folder(folder / name)) continue;
        if (auto added = add(folder / name, depth + 1); !added) return added;
    }
    return {};
}

/// Takes in what has happened; true when it was anything.
bool Watch::changed(int timeout_milliseconds) const {
    pollfd waiting = {descriptor_, POLLIN, 0};
    if (::poll(&waiting, 1, timeout_milliseconds) <= 0) return false;
    alignas(inotify_event) std::array<char, 16384> events{};
    while (::read(descriptor_, events.data(), events.size()) > 0) continue;
    return true;
}

text::Result<void> Watch::wait(int quiet_milliseconds) {
    errno = 0;
    if (!changed(-1)) return machine("waiting for changes was ended");
    for (int round = 0; round < most_rounds && changed(quiet_milliseconds); ++round) continue;
    return add(root_, 0);
}

}  // namespace envar::files
