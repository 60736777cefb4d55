// What a pattern's matches begin with, so that most places are ruled out without running it.
#pragma once

#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <bitset>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

using Characters = std::bitset<256>;

/// What all that a pattern matches begins with, as far as that can be told by looking at one character after the
/// other: rules places out, and never one where the pattern matches. Of simple patterns that is all there is to
/// them, so that they need not be run at all.
class Opening {
  public:
    /// Characters that a match has next.
    struct Step {
        Characters characters;
        bool many = false;  // as many as there are; what comes next is none of them
        bool least = true;  // at least one
    };
    /// A group of the pattern, by the steps in it.
    struct Group {
        std::size_t number = 0, first = 0, behind = 0;
    };
    /// Steps behind each other, and then anything.
    struct Way {
        std::vector<Step> steps;
        std::vector<Group> groups;
        bool whole = true;  // there is nothing behind the steps, and no more to them
        bool ends = false;  // and nothing behind in the text
    };

    /// Admits everything.
    Opening() = default;
    /// Of a pattern that is looked for at one place; one that can match nothing, or has parts that are not
    /// understood here, admits everything.
    explicit Opening(const re2::RE2& pattern);

    /// What all of it begins with, if that is known.
    [[nodiscard]] const std::string& prefix() const { return prefix_; }
    /// Whether a match can begin where the text does.
    [[nodiscard]] bool admits(std::string_view text) const {
        return told_.empty() || std::any_of(told_.begin(), told_.end(), [&](const Told& way) {
                   return walk(way, text, [](std::size_t, const char*) {}) != Walk::nowhere;
               });
    }
    [[nodiscard]] bool admits(unsigned char first) const { return told_.empty() || firsts_.test(first); }

    /// Whether it tells all of the pattern.
    [[nodiscard]] bool is_whole() const { return whole_; }
    /// What the pattern matches where the text begins, as RE2 tells it; for those that are told whole. Nothing
    /// where the text has characters that take several bytes: these are left to RE2.
    [[nodiscard]] std::optional<bool> match(std::string_view text, re2::StringPiece* groups, std::size_t count) const;

  private:
    /// A way by the bits that the characters of its steps have.
    struct Told {
        struct Step {
            std::uint32_t bit = 0;
            bool many = false, least = true;
        };
        std::vector<Step> steps;
        std::vector<Group> groups;
        bool ends = false;
    };

    /// `unsure`: it comes to a character that takes several bytes, where one character is wanted.
    enum class Walk { nowhere, through, unsure };

    /// Calls at(number, place) where each step begins and where the last one ends.
    template <class At>
    [[nodiscard]] Walk walk(const Told& way, std::string_view text, const At& at) const {
        const char* place = text.data();
        const char* const end = place + text.size();
        std::size_t number = 0;
        for (const Told::Step& step : way.steps) {
            at(number++, place);
            const char* const begin = place;
            if (!step.many) {
                if (place == end || (bits_[static_cast<unsigned char>(*place)] & step.bit) == 0) return Walk::nowhere;
                if (static_cast<unsigned char>(*place++) >= 128) return Walk::unsure;
                continue;
            }
            while (place != end && (bits_[static_cast<unsigned char>(*place)] & step.bit) != 0) ++place;
            if (step.least && place == begin) return Walk::nowhere;
        }
        at(number, place);
        return Walk::through;
    }

    void tell(const std::vector<Way>& ways);

    std::vector<Told> told_;  // empty: everything
    Characters firsts_;       // of all ways
    std::string prefix_;
    bool whole_ = false;
    std::array<std::uint32_t, 256> bits_{};
};

}  // namespace envar::text
