#include "core/members/imports.hpp"

#include <algorithm>

#include "core/members/definitions.hpp"
#include "core/members/grammar.hpp"
#include "core/members/lexer.hpp"

namespace envar::members {
namespace {

/// Whether no statement of the file's own level begins in the line, up to the place.
bool is_later(const Lexed& lexed, std::size_t place) {
    const auto& all = lexed.statements;
    auto next = std::upper_bound(all.begin(), all.end(), place,
                                 [](std::size_t at, const Statement& one) { return at < one.begin; });
    for (; next != all.begin(); --next) {
        const Statement& one = *std::prev(next);
        if (lexed.code.find('\n', one.begin) < place) return true;
        if (!one.nested) return false;
    }
    return true;
}

}  // namespace

std::vector<Import> scan_imports(std::string_view text, const Patterns& patterns) {
    std::vector<Import> out;
    const auto& [pattern, name, names, each] = patterns.compiled().imports;
    if (!pattern) return out;
    const Lexed lexed = lex(text, patterns.compiled().grammar);
    std::vector<re2::StringPiece> found(static_cast<std::size_t>(std::max(name, names)) + 1);
    const auto group = [&](int number) {
        const auto& one = found.at(static_cast<std::size_t>(number));
        return number == 0 ? std::string_view() : std::string_view(one.data(), one.size());
    };
    const auto take = [&](std::string_view import) {
        const auto place = static_cast<std::size_t>(import.data() - text.data());
        if (!import.empty())
            out.push_back({std::string(import), {place, place + import.size()}, is_later(lexed, place)});
    };
    for (std::size_t at = 0; at < text.size() && pattern->Match(piece(text), at, text.size(), re2::RE2::UNANCHORED,
                                                                found.data(), static_cast<int>(found.size()));) {
        const auto begin = static_cast<std::size_t>(found[0].data() - text.data());
        const std::size_t end = begin + found[0].size();
        // A match that begins in a comment or a string has nothing but blanks in the code.
        if (lexed.code.find_first_not_of(" \t\n", begin) < end) {
            take(group(name));
            each.each(group(names), take);
        }
        at = std::max(end, at + 1);
    }
    return out;
}

}  // namespace envar::members
