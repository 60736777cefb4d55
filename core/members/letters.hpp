// What characters can be the beginning of in a language: within this part only.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>

namespace envar::members {

/// What a character can be the beginning of; those of words come last. `deeper` and `shallower`: it opens another
/// block of the kind at hand, or closes one.
enum class Letter : std::uint8_t { ordinary, blank, newline, special, deeper, shallower, word, special_word };

/// Many characters at once, the first in the lowest bit. A word is taken for one that may mean something wherever a
/// character stands that can begin such a word, whether it does or not.
struct Sight {
    static constexpr std::size_t width = 64;
    std::uint64_t words = 0, special_words = 0, newlines = 0;
    std::uint64_t marks = 0;  // special, deeper and shallower
};

class Letters {
  public:
    void set(unsigned char c, Letter letter);
    [[nodiscard]] Letter operator[](unsigned char c) const { return letters_[c]; }
    [[nodiscard]] Letter operator[](char c) const { return letters_[static_cast<unsigned char>(c)]; }

    /// Sees the text's first characters; behind its end nothing stands.
    void see(std::string_view text, Sight& out) const;

  private:
    std::array<Letter, 256> letters_{};
    std::array<std::uint64_t, 256>
        lanes_{};  // the same as the first bits of lanes, so that shifting keeps them apart
};

}  // namespace envar::members
