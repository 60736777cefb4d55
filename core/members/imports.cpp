#include "core/members/imports.hpp"

#include <algorithm>

#include "core/members/definitions.hpp"
#include "core/members/grammar.hpp"
#include "core/members/lexer.hpp"

namespace envar::members {

std::vector<NamedPlace> scan_imports(std::string_view text, const Patterns& patterns) {
    std::vector<NamedPlace> out;
    const auto& [pattern, name, names, each] = patterns.compiled().imports;
    if (!pattern) return out;
    const std::string code = lex(text, patterns.compiled().grammar).code;
    std::vector<re2::StringPiece> found(static_cast<std::size_t>(std::max(name, names)) + 1);
    const auto group = [&](int number) {
        const auto& one = found.at(static_cast<std::size_t>(number));
        return number == 0 ? std::string_view() : std::string_view(one.data(), one.size());
    };
    const auto take = [&](std::string_view import) {
        const auto place = static_cast<std::size_t>(import.data() - text.data());
        if (!import.empty()) out.push_back({std::string(import), {place, place + import.size()}});
    };
    for (std::size_t at = 0; at < text.size() && pattern->Match(piece(text), at, text.size(), re2::RE2::UNANCHORED,
                                                                found.data(), static_cast<int>(found.size()));) {
        const auto begin = static_cast<std::size_t>(found[0].data() - text.data());
        const std::size_t end = begin + found[0].size();
        // A match that begins in a comment or a string has nothing but blanks in the code.
        if (code.find_first_not_of(" \t\n", begin) < end) {
            take(group(name));
            each.each(group(names), take);
        }
        at = std::max(end, at + 1);
    }
    return out;
}

}  // namespace envar::members
