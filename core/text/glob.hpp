// Patterns of names: `*` stands for any text within one part of a path, `?` for one letter.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

/// A list of patterns. One with a '/' is matched against a whole relative path, one without against each part of
/// it, so that naming a folder takes in what lies below. Matching takes time linear in the path.
class Globs {
  public:
    /// With `sets`, `[a-z]` stands for one letter of those.
    explicit Globs(const std::vector<std::string>& patterns, bool sets = false);
    Globs(Globs&&) noexcept;
    Globs& operator=(Globs&&) noexcept;
    Globs(const Globs&) = delete;
    Globs& operator=(const Globs&) = delete;
    ~Globs();

    [[nodiscard]] bool match(std::string_view path) const;

  private:
    struct Compiled;
    std::vector<Compiled> patterns_;
};

}  // namespace envar::text
