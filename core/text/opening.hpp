// What a pattern's matches begin with, so that most places are ruled out without running it.
#pragma once

#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <bitset>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

using Characters = std::bitset<256>;

/// What all that a pattern matches begins with, as far as that can be told by looking at one character after the
/// other: rules places out, and never one where the pattern matches.
class Opening {
  public:
    /// Characters that a match has next.
    struct Step {
        Characters characters;
        bool many = false;  // as many as there are; what comes next is none of them
        bool least = true;  // at least one
    };
    /// Steps behind each other, and then anything.
    using Way = std::vector<Step>;

    /// Admits everything.
    Opening() = default;
    /// Of a pattern that is looked for at one place; one that can match nothing, or has parts that are not
    /// understood here, admits everything.
    explicit Opening(const re2::RE2& pattern);

    /// What all of it begins with, if that is known.
    [[nodiscard]] std::string prefix() const;
    /// Whether a match can begin where the text does.
    [[nodiscard]] bool admits(std::string_view text) const {
        return told_.empty() ||
               std::any_of(told_.begin(), told_.end(), [&](const auto& way) { return admits(way, text); });
    }
    [[nodiscard]] bool admits(unsigned char first) const { return ways_.empty() || firsts_.test(first); }

  private:
    /// A step by the bit that its characters have.
    struct Told {
        std::uint32_t bit = 0;
        bool many = false, least = true;
    };

    [[nodiscard]] bool admits(const std::vector<Told>& way, std::string_view text) const {
        const char* at = text.data();
        const char* const end = at + text.size();
        for (const Told& step : way) {
            const char* const begin = at;
            if (!step.many) {
                if (at == end || (bits_[static_cast<unsigned char>(*at)] & step.bit) == 0) return false;
                ++at;
                continue;
            }
            while (at != end && (bits_[static_cast<unsigned char>(*at)] & step.bit) != 0) ++at;
            if (step.least && at == begin) return false;
        }
        return true;
    }

    void tell();

    std::vector<Way> ways_;                // empty: everything
    Characters firsts_;                    // of all ways
    std::vector<std::vector<Told>> told_;  // the ways once more
    std::array<std::uint32_t, 256> bits_{};
};

}  // namespace envar::text
