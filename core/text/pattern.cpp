#include "core/text/pattern.hpp"

#include <algorithm>

namespace envar::text {

bool holds_with_name(const re2::RE2& pattern, std::string_view text, std::string_view name) {
    const std::size_t group = group_number(pattern, "name");
    const re2::StringPiece whole(text.data(), text.size());
    if (group == 0) return re2::RE2::PartialMatch(whole, pattern);
    std::vector<re2::StringPiece> parts(static_cast<std::size_t>(pattern.NumberOfCapturingGroups()) + 1);
    std::size_t from = 0;
    while (from <= text.size() && pattern.Match(whole, from, text.size(), re2::RE2::UNANCHORED, parts.data(),
                                                static_cast<int>(parts.size()))) {
        if (std::string_view(parts[group].data(), parts[group].size()) == name) return true;
        from = static_cast<std::size_t>(parts[0].data() - text.data()) + std::max<std::size_t>(1, parts[0].size());
    }
    return false;
}

std::vector<std::string> alternatives_of(std::string_view pattern) {
    std::vector<std::string> out;
    std::size_t begin = 0, depth = 0;
    for (std::size_t at = 0; at < pattern.size(); ++at) {
        const char c = pattern[at];
        if (c == '|' && depth == 0) {
            out.emplace_back(pattern.substr(begin, at - begin));
            begin = at + 1;
        }
        if (c == ')' && depth > 0) --depth;
        if (c == '(') ++depth;
        if (c == '\\') ++at;
        if (c != '[') continue;
        if (pattern.substr(at + 1, 1) == "^") ++at;
        if (pattern.substr(at + 1, 1) == "]") ++at;
        while (++at < pattern.size() && pattern[at] != ']')
            if (pattern[at] == '\\') ++at;
    }
    out.emplace_back(pattern.substr(begin));
    return out;
}

}  // namespace envar::text
