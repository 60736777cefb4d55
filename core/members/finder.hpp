// Looks for a card's pattern in a whole text. What its alternatives begin with is looked for first, which takes
// hardly more than going over the text.
#pragma once

#include <re2/re2.h>

#include <functional>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/text/finding.hpp"

namespace envar::members {

class Finder {
  public:
    /// Lines begin at `^`; alternatives at the outermost level are looked for one by one. A pattern that RE2 refuses
    /// finds nothing, as an empty one does.
    /// The groups asked for are those whose names begin with `groups`; without a name, the first one.
    Finder(const std::string& pattern, const std::string& groups);

    [[nodiscard]] bool finds_nothing() const { return alternatives_.empty(); }
    /// Calls `take` with the group of each match, each alternative's from first to last. It has no place where no
    /// group took part.
    void each(std::string_view text, const std::function<void(std::string_view)>& take) const;
    /// The group of the match that stands farthest on.
    [[nodiscard]] std::string_view last(std::string_view text) const;

  private:
    struct Alternative {
        std::unique_ptr<re2::RE2> pattern;
        std::vector<int> groups;
        std::string prefix;          // empty: it can begin in many ways
        bool begins_line = false;    // the prefix stands at the beginning of a line
        bool behind_blanks = false;  // or behind blanks there
    };
    /// Matches there, and gives the group.
    [[nodiscard]] static bool matches(const Alternative& one, std::string_view text, std::size_t at,
                                      text::Span& whole, std::string_view& group);
    [[nodiscard]] static std::size_t next(const Alternative& one, std::string_view text, std::size_t at);

    std::vector<Alternative> alternatives_;
};

}  // namespace envar::members
