#include "core/members/finder.hpp"

#include <algorithm>
#include <cstring>

#include "core/members/grammar.hpp"

namespace envar::members {
namespace {

constexpr std::size_t not_there = std::string_view::npos;

/// Cut where `|` stands outside of groups and classes.
std::vector<std::string> alternatives_of(const std::string& pattern) {
    std::vector<std::string> out(1);
    std::size_t depth = 0;
    bool in_class = false;
    for (std::size_t i = 0; i < pattern.size(); ++i) {
        const char c = pattern[i];
        if (c == '|' && depth == 0 && !in_class) {
            out.emplace_back();
            continue;
        }
        out.back() += c;
        if (c == '\\' && i + 1 < pattern.size()) {
            out.back() += pattern[++i];
        } else if (in_class) {
            in_class = c != ']';
        } else if (c == '[') {
            in_class = true;
            if (pattern.compare(i + 1, 1, "^") == 0) out.back() += pattern[++i];
            if (pattern.compare(i + 1, 1, "]") == 0) out.back() += pattern[++i];
        } else if (c == '(') {
            ++depth;
        } else if (c == ')' && depth > 0) {
            --depth;
        }
    }
    return out;
}

std::size_t find(std::string_view text, std::string_view what, std::size_t at) {
    if (at >= text.size()) return not_there;
    const void* found = memmem(text.data() + at, text.size() - at, what.data(), what.size());
    return found == nullptr ? not_there : static_cast<std::size_t>(static_cast<const char*>(found) - text.data());
}

}  // namespace

Finder::Finder(const std::string& pattern, const std::string& groups) {
    if (pattern.empty()) return;
    std::vector<std::string> texts = alternatives_of(pattern);
    if (std::any_of(texts.begin(), texts.end(), [](const auto& text) { return !compile_pattern("(?m)" + text); }))
        texts = {pattern};
    for (std::string& text : texts) {
        Alternative one;
        one.begins_line = text.starts_with('^');
        for (const std::string_view blanks : {"^\\s*", "^[ \\t]*"})
            if (text.starts_with(blanks)) {
                one.behind_blanks = true;
                text = text.substr(blanks.size());
            }
        one.pattern = compile_pattern("(?m)" + text);
        if (!one.pattern) continue;
        // Without its mode for lines, which would hide what it begins with.
        if (const auto plain = compile_pattern(text)) one.prefix = text::Opening(*plain).prefix();
        if (one.prefix.empty() && one.behind_blanks) one.pattern = compile_pattern("(?m)^[ \\t]*(?:" + text + ")");
        if (groups.empty() && one.pattern->NumberOfCapturingGroups() > 0) one.groups.push_back(1);
        for (const auto& [name, number] : one.pattern->NamedCapturingGroups())
            if (!groups.empty() && name.starts_with(groups)) one.groups.push_back(number);
        alternatives_.push_back(std::move(one));
    }
}

/// Where its prefix stands next as it must.
std::size_t Finder::next(const Alternative& one, std::string_view text, std::size_t at) {
    if (one.begins_line && !one.behind_blanks) {
        if (at == 0 && text.starts_with(one.prefix)) return 0;
        const std::size_t found = find(text, "\n" + one.prefix, at == 0 ? 0 : at - 1);
        return found == not_there ? not_there : found + 1;
    }
    for (std::size_t found = find(text, one.prefix, at); found != not_there;
         found = find(text, one.prefix, found + 1)) {
        std::size_t begin = found;
        while (begin > 0 && is_blank(text[begin - 1])) --begin;
        if (!one.behind_blanks || begin == 0 || text[begin - 1] == '\n') return found;
    }
    return not_there;
}

void Finder::each(std::string_view text, const std::function<void(std::string_view)>& take) const {
    for (const Alternative& one : alternatives_) {
        const int wanted = one.groups.empty() ? 1 : *std::max_element(one.groups.begin(), one.groups.end()) + 1;
        std::vector<re2::StringPiece> groups(static_cast<std::size_t>(wanted));
        const bool anchored = !one.prefix.empty();
        for (std::size_t at = 0; at <= text.size();) {
            if (anchored && (at = next(one, text, at)) == not_there) break;
            if (!one.pattern->Match(piece(text), at, text.size(),
                                    anchored ? re2::RE2::ANCHOR_START : re2::RE2::UNANCHORED, groups.data(),
                                    wanted)) {
                if (!anchored) break;
                ++at;
                continue;
            }
            std::string_view found;
            for (const int group : one.groups)
                if (const auto& part = groups.at(static_cast<std::size_t>(group)); part.data() != nullptr)
                    found = {part.data(), part.size()};
            take(found);
            at =
                static_cast<std::size_t>(groups[0].data() - text.data()) + std::max<std::size_t>(1, groups[0].size());
        }
    }
}

}  // namespace envar::members
