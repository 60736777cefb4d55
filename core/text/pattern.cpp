#include "core/text/pattern.hpp"

namespace envar::text {

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
