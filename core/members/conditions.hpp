// Lines that begin and end what counts on some condition only, such as those of a preprocessor.
#pragma once

#include <algorithm>
#include <cstddef>
#include <string_view>
#include <utility>
#include <vector>

#include "core/members/finder.hpp"

namespace envar::members {

class Conditions {
  public:
    Conditions(const Finder& begins, const Finder& ends, std::string_view code) {
        const auto note = [&](const Finder& finder, int change) {
            finder.each(code, [&](std::string_view mark) {
                changes_.emplace_back(static_cast<std::size_t>(mark.data() - code.data()), change);
            });
        };
        note(begins, 1);
        note(ends, -1);
        std::sort(changes_.begin(), changes_.end());
    }

    /// Whether a condition begins between the two places that has not ended at the second one.
    [[nodiscard]] bool begins_between(std::size_t first, std::size_t second) const {
        int depth = 0, least = 0;
        for (auto at = std::lower_bound(changes_.begin(), changes_.end(), std::pair(first, -1));
             at != changes_.end() && at->first < second; ++at) {
            depth += at->second;
            least = std::min(least, depth);
        }
        return depth > least;
    }

  private:
    std::vector<std::pair<std::size_t, int>> changes_;  // where, and of how many conditions deep it is
};

}  // namespace envar::members
