#include "core/members/letters.hpp"

#include <algorithm>
#include <utility>

namespace envar::members {
namespace {

constexpr std::size_t lane_width = 16;
constexpr std::uint64_t word_lane = 1, mark_lane = word_lane << lane_width, special_lane = mark_lane << lane_width,
                        newline_lane = special_lane << lane_width;
using Lanes = std::array<std::uint64_t, 256>;

std::uint64_t lanes_of(Letter letter) {
    switch (letter) {
        case Letter::ordinary:
        case Letter::blank:
            return 0;
        case Letter::newline:
            return newline_lane;
        case Letter::special:
        case Letter::deeper:
        case Letter::shallower:
            return mark_lane;
        case Letter::word:
            return word_lane;
        case Letter::special_word:
            return word_lane | special_lane;
    }
    return 0;
}

/// As many characters as a lane is wide.
template <std::size_t... i>
std::uint64_t lanes_at(const Lanes& lanes, const char* text, std::index_sequence<i...>) {
    return ((lanes[static_cast<unsigned char>(text[i])] << i) | ...);
}

template <std::size_t... group>
void see_all(const Lanes& lanes, const char* text, Sight& out, std::index_sequence<group...>) {
    const std::array<std::uint64_t, sizeof...(group)> all = {
        lanes_at(lanes, text + group * lane_width, std::make_index_sequence<lane_width>())...};
    const auto bits = [&](std::uint64_t lane) {
        return ((all[group] / lane % mark_lane << (group * lane_width)) | ...);
    };
    out.words = bits(word_lane);
    out.special_words = bits(special_lane);
    out.newlines = bits(newline_lane);
    out.marks = bits(mark_lane);
}

}  // namespace

void Letters::set(unsigned char c, Letter letter) {
    letters_.at(c) = letter;
    lanes_.at(c) = lanes_of(letter);
}

void Letters::see(std::string_view text, Sight& out) const {
    constexpr std::make_index_sequence<Sight::width / lane_width> groups;
    if (text.size() >= Sight::width) return see_all(lanes_, text.data(), out, groups);
    std::array<char, Sight::width> padded;
    padded.fill(' ');
    std::copy(text.begin(), text.end(), padded.begin());
    see_all(lanes_, padded.data(), out, groups);
    const std::uint64_t there = (std::uint64_t{1} << text.size()) - 1;
    for (std::uint64_t* bits : {&out.words, &out.special_words, &out.newlines, &out.marks}) *bits &= there;
}

}  // namespace envar::members
