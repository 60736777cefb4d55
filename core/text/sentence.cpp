#include "core/text/sentence.hpp"

#include <cctype>

namespace envar::text {

bool is_cut_short(std::string_view text, std::size_t dot) {
    const std::size_t begin = text.find_last_of(" (", dot) + 1;  // 0: the word stands at the front
    const std::string_view word = text.substr(begin, dot - begin);
    const auto is_letter = [](char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; };
    return (word.size() == 3 && word[1] == '.' && is_letter(word[0]) && is_letter(word[2])) || word == "vs" ||
           word == "cf" || word == "resp";
}

std::size_t end_of_sentence(std::string_view text) {
    std::size_t dot = text.find(". ");
    while (dot != std::string_view::npos && is_cut_short(text, dot)) dot = text.find(". ", dot + 1);
    return dot;
}

}  // namespace envar::text
