// What patterns of cards have in common.
#pragma once

#include <re2/re2.h>

#include <algorithm>
#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

/// The number of a named group; 0: there is none.
[[nodiscard]] inline std::size_t group_number(const re2::RE2& pattern, const char* group) {
    const auto& groups = pattern.NamedCapturingGroups();
    const auto found = groups.find(group);
    return found == groups.end() ? 0U : static_cast<std::size_t>(found->second);
}

/// Cut where `|` stands outside of groups and classes.
[[nodiscard]] std::vector<std::string> alternatives_of(std::string_view pattern);

/// What all that a pattern matches begins with, as far as that is known: rules places out without running it.
class Opening {
  public:
    /// Admits everything.
    Opening() = default;
    /// Of a pattern that is looked for at one place; one that begins anywhere admits everything.
    explicit Opening(const re2::RE2& pattern);

    /// What all of it begins with; empty where it can begin in several ways.
    [[nodiscard]] std::string prefix() const { return ways_.size() == 1 ? ways_.front().prefix : std::string(); }
    /// Whether a match can begin where the text does.
    [[nodiscard]] bool admits(std::string_view text) const {
        return ways_.empty() ||
               std::any_of(ways_.begin(), ways_.end(), [&](const Way& way) { return way.admits(text); });
    }
    [[nodiscard]] bool admits(unsigned char first) const {
        return ways_.empty() ||
               std::any_of(ways_.begin(), ways_.end(), [&](const Way& way) { return way.admits(first); });
    }

  private:
    struct Way {
        std::string prefix;
        bool more = false;  // and a character in a range
        unsigned char least = 0, most = 255;

        [[nodiscard]] bool admits(std::string_view text) const {
            if (text.substr(0, prefix.size()) != prefix) return false;
            if (!more) return true;
            if (text.size() <= prefix.size()) return false;
            const auto next = static_cast<unsigned char>(text[prefix.size()]);
            return next >= least && next <= most;
        }
        [[nodiscard]] bool admits(unsigned char first) const {
            return prefix.empty() ? !more || (first >= least && first <= most)
                                  : first == static_cast<unsigned char>(prefix.front());
        }
    };

    [[nodiscard]] static Way way_of(const std::string& pattern);

    std::vector<Way> ways_;  // empty: everything
};

}  // namespace envar::text
