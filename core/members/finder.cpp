#include "core/members/finder.hpp"

#include <algorithm>
#include <array>
#include <cstring>

#include "core/members/grammar.hpp"
#include "core/text/pattern.hpp"

namespace envar::members {
namespace {

constexpr std::size_t not_there = std::string_view::npos;

std::size_t find(std::string_view text, std::string_view what, std::size_t at) {
    if (at >= text.size()) return not_there;
    const void* found = memmem(text.data() + at, text.size() - at, what.data(), what.size());
    return found == nullptr ? not_there : static_cast<std::size_t>(static_cast<const char*>(found) - text.data());
}

}  // namespace

Finder::Finder(const std::string& pattern, const std::string& groups) {
    if (pattern.empty()) return;
    std::vector<std::string> texts = text::alternatives_of(pattern);
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

bool Finder::matches(const Alternative& one, std::string_view text, std::size_t at, text::Span& whole,
                     std::string_view& group) {
    std::array<re2::StringPiece, 12> groups;
    const int most = one.groups.empty() ? 0 : *std::max_element(one.groups.begin(), one.groups.end());
    const int wanted = std::min<int>(most + 1, static_cast<int>(groups.size()));
    const auto anchor = one.prefix.empty() ? re2::RE2::UNANCHORED : re2::RE2::ANCHOR_START;
    if (!one.pattern->Match(piece(text), at, text.size(), anchor, groups.data(), wanted)) return false;
    whole.begin = static_cast<std::size_t>(groups[0].data() - text.data());
    whole.end = whole.begin + groups[0].size();
    group = {};
    for (const int number : one.groups)
        if (number < wanted && groups.at(static_cast<std::size_t>(number)).data() != nullptr)
            group = {groups.at(static_cast<std::size_t>(number)).data(),
                     groups.at(static_cast<std::size_t>(number)).size()};
    return true;
}

void Finder::each(std::string_view text, const std::function<void(std::string_view)>& take) const {
    for (const Alternative& one : alternatives_) {
        const bool anchored = !one.prefix.empty();
        for (std::size_t at = 0; at <= text.size();) {
            if (anchored && (at = next(one, text, at)) == not_there) break;
            text::Span whole;
            std::string_view group;
            if (matches(one, text, at, whole, group)) {
                take(group);
                at = std::max(whole.end, whole.begin + 1);
            } else if (anchored) {
                ++at;
            } else {
                break;
            }
        }
    }
}

std::string_view Finder::last(std::string_view text) const {
    std::string_view found;
    const auto take = [&](std::string_view group) {
        if (group.data() != nullptr && (found.data() == nullptr || group.data() >= found.data())) found = group;
    };
    const bool from_behind = alternatives_.size() == 1 && alternatives_.front().begins_line &&
                             !alternatives_.front().behind_blanks && !alternatives_.front().prefix.empty();
    if (!from_behind) {
        each(text, take);
        return found;
    }
    // Of one that begins lines, mostly the last lines tell it.
    for (std::size_t end = text.size(); found.data() == nullptr;) {
        const std::size_t line = end == 0 ? not_there : text.rfind('\n', end - 1);
        const std::size_t begin = line == not_there ? 0 : line + 1;
        text::Span whole;
        std::string_view group;
        if (text.substr(begin).starts_with(alternatives_.front().prefix) &&
            matches(alternatives_.front(), text, begin, whole, group))
            take(group);
        if (begin == 0) break;
        end = line;
    }
    return found;
}

}  // namespace envar::members
