// Waiting for changes below a folder (inotify).
#pragma once

#include <cstddef>
#include <filesystem>
#include <utility>

#include "core/text/failure.hpp"

namespace envar::files {

/// Watches a folder and all folders below it; those whose names begin with '.' and `envar-results` are left out.
class Watch {
  public:
    [[nodiscard]] static text::Result<Watch> start(const std::filesystem::path& root);

    Watch(Watch&& other) noexcept;
    Watch& operator=(Watch&&) = delete;
    Watch(const Watch&) = delete;
    Watch& operator=(const Watch&) = delete;
    ~Watch();

    /// Returns when something has changed and then nothing for `quiet_milliseconds`, or after a few more changes
    /// without such a pause. Fails when a signal ends the waiting or the watch is lost.
    [[nodiscard]] text::Result<void> wait(int quiet_milliseconds);

  private:
    Watch(int descriptor, std::filesystem::path root) : descriptor_(descriptor), root_(std::move(root)) {}
    [[nodiscard]] text::Result<void> add(const std::filesystem::path& folder, int depth);
    [[nodiscard]] bool changed(int timeout_milliseconds) const;

    int descriptor_;
    std::filesystem::path root_;
};

}  // namespace envar::files
