// Files that code reads in by a path, as if what they say stood there.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace envar::members {

/// The end of a path that is written out, where the code puts the rest together as it runs: "src/far.sh" of
/// `"$(dirname "$0")/src/far.sh" again`. Words of a call are parts of it: "src/far.tcl" of `[file join $top src
/// far.tcl]`. Empty: nothing is, or it is a path from the root.
[[nodiscard]] std::string written_out(std::string_view path);

/// The files of a module, for finding those that its code reads in.
class ReadIn {
  public:
    explicit ReadIn(std::filesystem::path folder) : folder_(std::move(folder)) {}

    /// The files that a path means which is written in the file `by`: beside it, in the module's folder, or else the
    /// only one whose path ends so. `*` in the last part stands for several, sorted. Never `by` itself. Nothing
    /// behind the 2,000th path.
    [[nodiscard]] std::vector<std::filesystem::path> meant(std::string_view path, const std::filesystem::path& by);

  private:
    [[nodiscard]] std::vector<std::filesystem::path> at(const std::filesystem::path& path,
                                                        const std::filesystem::path& by) const;
    [[nodiscard]] const std::vector<std::string>& all();

    std::filesystem::path folder_;
    std::size_t asked_ = 0;
    std::optional<std::vector<std::string>> all_;  // relative to the folder; once they are asked for
};

}  // namespace envar::members
