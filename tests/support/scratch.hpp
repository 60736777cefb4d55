// A folder for one test, removed at its end, with the few operations tests need.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <string_view>

namespace envar::tests {

class Scratch {
  public:
    Scratch();
    Scratch(const Scratch&) = delete;
    Scratch& operator=(const Scratch&) = delete;
    ~Scratch();

    [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }
    [[nodiscard]] std::filesystem::path operator/(std::string_view name) const { return folder_ / name; }

    /// Writes a file, making its folders.
    void write(std::string_view name, std::string_view content) const;
    [[nodiscard]] std::string read(std::string_view name) const;
    [[nodiscard]] bool has(std::string_view name) const;
    void remove(std::string_view name) const;
    void copy_from(const std::filesystem::path& source, std::string_view name = ".") const;

    /// Every file below `name` with its content; `.envar` and result files are left out.
    [[nodiscard]] std::map<std::string, std::string> tree(std::string_view name = ".") const;

  private:
    std::filesystem::path folder_;
};

}  // namespace envar::tests
