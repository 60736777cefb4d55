// What patterns of cards have in common.
#pragma once

#include <re2/re2.h>

#include <algorithm>
#include <cstddef>
#include <string>
#include <string_view>

namespace envar::text {

/// The number of a named group; 0: there is none.
[[nodiscard]] inline std::size_t group_number(const re2::RE2& pattern, const char* group) {
    const auto& groups = pattern.NamedCapturingGroups();
    const auto found = groups.find(group);
    return found == groups.end() ? 0U : static_cast<std::size_t>(found->second);
}

/// What all that a pattern matches begins with, as far as that is known: rules places out without running it.
class Opening {
  public:
    /// Admits everything.
    Opening() = default;
    /// Of a pattern that is looked for at one place; one that begins anywhere admits everything.
    explicit Opening(const re2::RE2& pattern) {
        std::string least, most;
        if (!pattern.PossibleMatchRange(&least, &most, known_size(pattern.pattern()))) return;
        const auto differ = std::mismatch(least.begin(), least.end(), most.begin(), most.end());
        prefix_.assign(least.begin(), differ.first);
        // What is matched is longer than the prefix only where the least of it is.
        if (differ.first == least.end() || differ.second == most.end()) return;
        least_ = static_cast<unsigned char>(*differ.first);
        most_ = static_cast<unsigned char>(*differ.second);
        more_ = true;
    }

    [[nodiscard]] const std::string& prefix() const { return prefix_; }
    /// Whether a match can begin where the text does.
    [[nodiscard]] bool admits(std::string_view text) const {
        if (text.substr(0, prefix_.size()) != prefix_) return false;
        if (!more_) return true;
        if (text.size() <= prefix_.size()) return false;
        const auto next = static_cast<unsigned char>(text[prefix_.size()]);
        return next >= least_ && next <= most_;
    }
    [[nodiscard]] bool admits(unsigned char first) const {
        return prefix_.empty() ? !more_ || (first >= least_ && first <= most_)
                               : first == static_cast<unsigned char>(prefix_.front());
    }

  private:
    /// The range takes edges of words for nothing, so that it is good up to them only.
    static int known_size(std::string_view pattern) {
        constexpr int longest = 12;
        if (pattern.find("\\b") == std::string_view::npos && pattern.find("\\B") == std::string_view::npos)
            return longest;
        if (pattern.starts_with('^')) pattern.remove_prefix(1);
        const auto letters = std::find_if_not(pattern.begin(), pattern.end(),
                                              [](char c) { return (c >= 'a' && c <= 'z') || c == '_'; });
        const bool edge = pattern.substr(static_cast<std::size_t>(letters - pattern.begin())).starts_with("\\b");
        return edge ? std::max(1, std::min(longest, static_cast<int>(letters - pattern.begin()))) : 1;
    }

    std::string prefix_;
    bool more_ = false;  // and a character in a range
    unsigned char least_ = 0, most_ = 255;
};

}  // namespace envar::text
