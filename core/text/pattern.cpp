#include "core/text/pattern.hpp"

namespace envar::text {
namespace {

/// Calls each(place, depth) for what stands outside of classes and is not escaped, until that is false. Gives the
/// place where it ended.
template <class Each>
std::size_t for_marks(std::string_view pattern, Each each) {
    std::size_t depth = 0;
    for (std::size_t at = 0; at < pattern.size(); ++at) {
        const char c = pattern[at];
        if (c == ')' && depth > 0) --depth;
        if (!each(at, depth)) return at;
        if (c == '(') ++depth;
        if (c == '\\') ++at;
        if (c != '[') continue;
        if (pattern.substr(at + 1, 1) == "^") ++at;
        if (pattern.substr(at + 1, 1) == "]") ++at;
        while (++at < pattern.size() && pattern[at] != ']')
            if (pattern[at] == '\\') ++at;
    }
    return pattern.size();
}

/// Where the pattern begins with a choice, one for each of the choices, without what comes behind; else itself.
std::vector<std::string> beginnings_of(const std::string& pattern) {
    constexpr std::string_view opens = "^(?:";
    if (!pattern.starts_with(opens)) return {pattern};
    const std::string_view rest = std::string_view(pattern).substr(1);
    const std::size_t close =
        for_marks(rest, [&](std::size_t at, std::size_t depth) { return at == 0 || depth > 0 || rest[at] != ')'; });
    if (close >= rest.size()) return {pattern};
    const std::string_view behind = rest.substr(close + 1);
    if (!behind.empty() && std::string_view("?*+{").find(behind.front()) != std::string_view::npos) return {pattern};
    std::vector<std::string> out = alternatives_of(rest.substr(3, close - 3));
    if (out.size() == 1) return {pattern};
    for (std::string& one : out) one.insert(0, "^");
    return out;
}

/// The range takes edges of words for nothing, so that it is good up to them only.
int known_size(std::string_view pattern) {
    constexpr int longest = 12;
    if (pattern.find("\\b") == std::string_view::npos && pattern.find("\\B") == std::string_view::npos)
        return longest;
    if (pattern.starts_with('^')) pattern.remove_prefix(1);
    const auto letters =
        std::find_if_not(pattern.begin(), pattern.end(), [](char c) { return (c >= 'a' && c <= 'z') || c == '_'; });
    const bool edge = pattern.substr(static_cast<std::size_t>(letters - pattern.begin())).starts_with("\\b");
    return edge ? std::max(1, std::min(longest, static_cast<int>(letters - pattern.begin()))) : 1;
}

/// Whether part of it is read in another way, which counts for the choices behind it too.
bool has_modes(std::string_view pattern) {
    for (std::size_t at = pattern.find("(?"); at != std::string_view::npos; at = pattern.find("(?", at + 1))
        if (at + 2 < pattern.size() && std::string_view("imsU-").find(pattern[at + 2]) != std::string_view::npos)
            return true;
    return false;
}

}  // namespace

std::vector<std::string> alternatives_of(std::string_view pattern) {
    std::vector<std::string> out;
    std::size_t begin = 0;
    for_marks(pattern, [&](std::size_t at, std::size_t depth) {
        if (depth > 0 || pattern[at] != '|') return true;
        out.emplace_back(pattern.substr(begin, at - begin));
        begin = at + 1;
        return true;
    });
    out.emplace_back(pattern.substr(begin));
    return out;
}

Opening::Opening(const re2::RE2& pattern) {
    if (has_modes(pattern.pattern())) {
        ways_.push_back(way_of(pattern.pattern()));
        return;
    }
    for (const std::string& whole : alternatives_of(pattern.pattern()))
        for (const std::string& one : beginnings_of(whole)) ways_.push_back(way_of(one));
    if (ways_.size() > 1 &&
        std::any_of(ways_.begin(), ways_.end(), [](const Way& way) { return way.prefix.empty() && !way.more; }))
        ways_.clear();
}

Opening::Way Opening::way_of(const std::string& text) {
    Way way;
    std::string least, most;
    const re2::RE2 pattern(text, re2::RE2::Quiet);
    if (!pattern.ok() || !pattern.PossibleMatchRange(&least, &most, known_size(text))) return way;
    const auto differ = std::mismatch(least.begin(), least.end(), most.begin(), most.end());
    way.prefix.assign(least.begin(), differ.first);
    // What is matched is longer than the prefix only where the least of it is.
    if (differ.first == least.end() || differ.second == most.end()) return way;
    way.least = static_cast<unsigned char>(*differ.first);
    way.most = static_cast<unsigned char>(*differ.second);
    way.more = true;
    return way;
}

}  // namespace envar::text
