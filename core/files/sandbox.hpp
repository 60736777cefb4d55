// A folder for the length of one task, removed with everything in it at the end.
#pragma once

#include <filesystem>
#include <string_view>
#include <utility>

#include "core/text/failure.hpp"

namespace envar::files {

class Sandbox {
  public:
    /// A fresh folder in `parent`, readable by its owner alone.
    [[nodiscard]] static text::Result<Sandbox> make(const std::filesystem::path& parent);

    Sandbox(Sandbox&& other) noexcept;
    Sandbox& operator=(Sandbox&&) = delete;
    Sandbox(const Sandbox&) = delete;
    Sandbox& operator=(const Sandbox&) = delete;
    ~Sandbox();

    [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }
    /// Leaves the folder where it is.
    void keep() { kept_ = true; }
    [[nodiscard]] text::Result<void> write(std::string_view name, std::string_view content) const;
    [[nodiscard]] text::Result<void> make_folder(std::string_view name) const;
    /// A folder with all that is in it, links as links. What is above `name` must be there.
    [[nodiscard]] text::Result<void> copy_folder(const std::filesystem::path& from, std::string_view name) const;
    /// Takes a file away, if it is there.
    void remove_file(std::string_view name) const;

  private:
    explicit Sandbox(std::filesystem::path folder) : folder_(std::move(folder)) {}
    std::filesystem::path folder_;
    bool kept_ = false;
};

}  // namespace envar::files
