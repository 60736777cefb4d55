// Lines that begin and end what counts on some condition only, such as those of a preprocessor.
#pragma once

#include <algorithm>
#include <cstddef>
#include <iterator>
#include <string_view>
#include <utility>
#include <vector>

#include "core/members/finder.hpp"

namespace envar::members {

class Conditions {
  public:
    Conditions(const Finder& begins, const Finder& ends, std::string_view code) {
        std::vector<std::pair<std::size_t, bool>> marks;  // where, and whether it begins there
        const auto note = [&](const Finder& finder, bool begin) {
            finder.each(code, [&](std::string_view mark) {
                marks.emplace_back(static_cast<std::size_t>(mark.data() - code.data()), begin);
            });
        };
        note(begins, true);
        note(ends, false);
        std::sort(marks.begin(), marks.end());
        std::vector<std::size_t> open;
        for (const auto& [at, begin] : marks) {
            if (begin) open.push_back(at);
            if (!begin && !open.empty()) open.pop_back();
            innermost_.emplace_back(at, open.empty() ? 0 : open.back());
        }
    }

    /// Whether a condition begins between the two places that has not ended at the second one.
    [[nodiscard]] bool begins_between(std::size_t first, std::size_t second) const {
        const auto behind = std::lower_bound(innermost_.begin(), innermost_.end(), std::pair(second, std::size_t{0}));
        return behind != innermost_.begin() && std::prev(behind)->second > first;
    }

  private:
    std::vector<std::pair<std::size_t, std::size_t>> innermost_;  // from a place on: where the innermost one began
};

}  // namespace envar::members
