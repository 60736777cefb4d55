// Small helpers around RE2 for finding definitions: within this part only.
#pragma once

#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <string_view>

#include "core/members/definitions.hpp"
#include "core/members/grammar.hpp"
#include "core/text/opening.hpp"
#include "core/text/pattern.hpp"

namespace envar::members {

inline int group(const re2::RE2& pattern, const char* name) {
    return static_cast<int>(text::group_number(pattern, name));
}

inline std::string_view trimmed(std::string_view text) {
    while (!text.empty() && is_space(text.front())) text.remove_prefix(1);
    while (!text.empty() && is_space(text.back())) text.remove_suffix(1);
    return text;
}

inline bool is_word(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; }

/// `const char *sky_name`: the last word is the name. It stands behind a blank, or behind a mark that ends a type;
/// without anything before it there is no name.
inline Declared declared_in(std::string_view text) {
    text = trimmed(text);
    std::size_t begin = text.size();
    while (begin > 0 && is_word(text[begin - 1])) --begin;
    if (begin == 0 || begin == text.size() || std::isdigit(static_cast<unsigned char>(text[begin])) != 0) return {};
    const char before = text[begin - 1];
    const bool rest = text.substr(0, begin).ends_with("...");
    if (!is_space(before) && before != '*' && before != '&' && before != '>' && !rest) return {};
    return {text.substr(0, begin), text.substr(begin)};
}

class Groups {
  public:
    bool match(const re2::RE2& pattern, std::string_view text, re2::RE2::Anchor anchor) {
        wanted_ = std::min<int>(static_cast<int>(groups_.size()), pattern.NumberOfCapturingGroups() + 1);
        // Groups take work and room as the text is long, so how far the match goes is found out first.
        if (text.size() < short_text)
            return pattern.Match(piece(text), 0, text.size(), anchor, groups_.data(), wanted_);
        if (!pattern.Match(piece(text), 0, text.size(), anchor, groups_.data(), 1)) return false;
        const auto begin = static_cast<std::size_t>(groups_[0].data() - text.data());
        return pattern.Match(piece(text), begin, begin + groups_[0].size(), re2::RE2::ANCHOR_BOTH, groups_.data(),
                             wanted_);
    }
    /// Where the text begins; by walking alone, where that tells it.
    bool match_here(const re2::RE2& pattern, const text::Opening& opening, std::string_view text) {
        wanted_ = std::min<int>(static_cast<int>(groups_.size()), pattern.NumberOfCapturingGroups() + 1);
        if (const auto done = opening.match(text, groups_.data(), static_cast<std::size_t>(wanted_))) return *done;
        // Most texts do not match, which is told much sooner than where the groups are.
        return pattern.Match(piece(text), 0, text.size(), re2::RE2::ANCHOR_START, nullptr, 0) &&
               match(pattern, text, re2::RE2::ANCHOR_START);
    }
    /// Empty, without a place, when there is no such group or it took no part.
    [[nodiscard]] std::string_view operator[](int number) const {
        if (number <= 0 || number >= wanted_) return {};
        const auto& found = groups_.at(static_cast<std::size_t>(number));
        return {found.data(), found.size()};
    }
    /// Where the match ends.
    [[nodiscard]] const char* end() const { return groups_[0].data() + groups_[0].size(); }

  private:
    static constexpr std::size_t short_text = 4096;
    std::array<re2::StringPiece, 12> groups_;
    int wanted_ = 0;
};

}  // namespace envar::members
