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
        bool operator==(const Step&) const = default;
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
        Walker walker(text);
        for (std::size_t way = 0; way < told_.size(); way = walker.next)
            if (walk(way, walker) != Walk::nowhere) return true;
        return told_.empty();
    }
    [[nodiscard]] bool admits(unsigned char first) const { return told_.empty() || firsts_.test(first); }

    /// Whether it tells all of the pattern.
    [[nodiscard]] bool is_whole() const {
        return !told_.empty() && std::all_of(told_.begin(), told_.end(), [](const Told& way) { return way.whole; });
    }
    /// Whether there are texts of which it tells all that the pattern would.
    [[nodiscard]] bool tells_some() const {
        return std::any_of(told_.begin(), told_.end(), [](const Told& way) { return way.whole; });
    }
    /// What the pattern matches where the text begins, as RE2 tells it. Nothing where that cannot be told: where the
    /// text goes a way that is not told whole, or has characters that take several bytes. These are left to RE2.
    [[nodiscard]] std::optional<bool> match(std::string_view text, re2::StringPiece* groups, std::size_t count) const;

  private:
    /// A way by the bits that the characters of its steps have.
    struct Told {
        struct Step {
            std::uint32_t bit = 0;
            bool many = false, least = true;
            bool operator==(const Step&) const = default;
        };
        std::vector<Step> steps;
        std::vector<Group> groups;
        bool whole = true;
        bool ends = false;
        std::size_t same = 0;            // as many steps are as those of the way before it
        std::vector<std::uint8_t> next;  // by step: the way that is to be tried next where this one ends there
    };
    static constexpr std::size_t longest_way = 64;

    /// One text on one way after the other; what they have in common is walked once.
    struct Walker {
        explicit Walker(std::string_view text) : end(text.data() + text.size()) { places[0] = text.data(); }
        const char* const end;
        std::array<const char*, longest_way + 1> places;  // where each step begins, and where the last one ends
        std::size_t next = 0;                             // the way that is to be tried next
    };

    /// `unsure`: it comes to a character that takes several bytes, where one character is wanted.
    enum class Walk { nowhere, through, unsure };

    [[nodiscard]] Walk walk(std::size_t number, Walker& walker) const {
        const Told& way = told_[number];
        std::size_t at = way.same;
        Walk done = Walk::through;
        for (; at < way.steps.size(); ++at) {
            const Told::Step& step = way.steps[at];
            const char* const begin = walker.places[at];
            const char* place = begin;
            if (!step.many) {
                done = place == walker.end || (bits_[static_cast<unsigned char>(*place)] & step.bit) == 0
                           ? Walk::nowhere
                       : static_cast<unsigned char>(*place++) >= 128 ? Walk::unsure
                                                                     : Walk::through;
            } else {
                while (place != walker.end && (bits_[static_cast<unsigned char>(*place)] & step.bit) != 0) ++place;
                if (step.least && place == begin) done = Walk::nowhere;
            }
            if (done != Walk::through) break;
            walker.places[at + 1] = place;
        }
        walker.next = way.next[at];
        return done;
    }

    void tell(const std::vector<Way>& ways);

    std::vector<Told> told_;  // empty: everything
    Characters firsts_;       // of all ways
    std::string prefix_;
    std::array<std::uint32_t, 256> bits_{};
};

}  // namespace envar::text
