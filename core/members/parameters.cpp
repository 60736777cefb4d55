#include "core/members/parameters.hpp"

#include <algorithm>

#include "core/members/matching.hpp"

namespace envar::members {
namespace {

constexpr std::string_view no_parameters = "void";
constexpr std::string_view macro = "macro";

bool is_one_word(std::string_view text) {
    return !text.empty() && std::all_of(text.begin(), text.end(), [](char c) { return is_word(c); });
}

/// A type that is written over several lines: next to brackets nothing is left of a line's end, else a blank.
std::string in_one_line(std::string_view type) {
    if (type.find('\n') == std::string_view::npos && type.find('\r') == std::string_view::npos)
        return std::string(type);
    std::string out;
    for (std::size_t at = 0; at < type.size();) {
        const std::size_t end = std::min(type.find_first_of("\r\n", at), type.size());
        out += trimmed(type.substr(at, end - at));
        at = std::min(type.find_first_not_of(" \t\r\n\\", end), type.size());
        if (at == end || at == type.size()) continue;
        const bool opened = out.ends_with('[') || out.ends_with('(') || out.ends_with('{') || out.ends_with('<');
        const bool closes = type[at] == ']' || type[at] == ')' || type[at] == '}' || type[at] == '>';
        if (closes && out.ends_with(',')) out.pop_back();
        if (!opened && !closes) out += ' ';
    }
    return out;
}

/// A word that stands behind several parameters is a mark, `font_t *font UNUSED`: the names stand before it.
void name_anew(std::vector<FoundParameter>& parameters) {
    if (parameters.size() < 2) return;
    const auto is_mark = [&](const FoundParameter& one) {
        return !one.type.empty() && std::any_of(parameters.begin(), parameters.end(), [&](const auto& other) {
            return &other != &one && other.name == one.name;
        });
    };
    std::vector<FoundParameter*> marked;
    for (auto& one : parameters)
        if (is_mark(one)) marked.push_back(&one);
    for (FoundParameter* one : marked) {
        const std::string_view type = one->type;
        std::size_t at = type.size();
        while (at > 0 && is_word(type[at - 1])) --at;
        const std::string_view rest = trimmed(type.substr(0, at));
        if (at == type.size() || rest.empty()) continue;
        one->name = type.substr(at);
        one->type = std::string(rest);
    }
}

}  // namespace

Parameters::Parameters(std::string_view text, std::string_view code, const model::Card& card,
                       const Patterns::Compiled& patterns)
    : text_(text), code_(code), card_(card), patterns_(patterns) {
    const std::string& separator = card.parameter_separator;
    const std::string_view marks = separator == "," ? "()[]{}<>," : separator == " " ? "()[]{} \t\r\n\f\v" : "()[]{}";
    for (const char c : marks) marks_.set(static_cast<unsigned char>(c));
    if (!separator.empty()) marks_.set(static_cast<unsigned char>(separator.front()));
}

void Parameters::read(std::string_view list, FoundMember& member) {
    if (list.data() == nullptr) return;
    member.tells_parameters = true;
    member.tells_defaults = !card_.parameter_pattern.empty() && patterns_.parameter_groups.preset != 0;
    const auto begin = static_cast<std::size_t>(list.data() - code_.data());
    const std::string& separator = card_.parameter_separator;
    std::size_t item = begin;
    std::ptrdiff_t depth = 0, angles = 0;
    bool can_be_left_out = false, named = false;
    if (separator.size() == 1 && separator != " ")
        member.parameters.reserve(1 +
                                  static_cast<std::size_t>(std::count(list.begin(), list.end(), separator.front())));
    const auto take_item = [&](std::size_t end) {
        const std::string_view own = trimmed(code_.substr(item, end - item));
        const auto is_of = [&](const std::vector<std::string>& marks) {
            return std::find(marks.begin(), marks.end(), own) != marks.end();
        };
        const bool leaves = is_of(card_.optional_after), names = is_of(card_.named_after);
        // Those of macros have no types.
        const bool untyped = member.kind == macro && patterns_.parameter_groups.declared != 0 && is_one_word(own);
        if (leaves || names) {
            can_be_left_out = can_be_left_out || leaves;
            named = named || names;
        } else if (auto parameter = untyped ? std::nullopt : parameter_of(item, end)) {
            if (can_be_left_out) parameter->required = false;
            parameter->named = parameter->named || (named && !parameter->rest);
            named = named || parameter->rest;  // none behind it has a place
            member.parameters.push_back(std::move(*parameter));
        } else if (member.kind == macro && !own.empty()) {
            member.parameters.emplace_back().name = own;
        } else if (!own.empty() && patterns_.parameter_groups.declared != 0 && own != no_parameters) {
            member.has_unnamed = true;
        }
        item = end + 1;
    };
    const bool by_blanks = separator == " ", by_commas = separator == ",";
    const char mark = separator.empty() ? '\0' : separator.front();
    // `list<int>` and not `1 << 10` or `a <= b`.
    const auto opens_angle = [&](std::size_t at) {
        if (code_[at] != '<' || at == begin || at + 1 == begin + list.size()) return false;
        const char before = code_[at - 1], behind = code_[at + 1];
        return is_word(before) && behind != '<' && behind != '=';
    };
    for (std::size_t at = begin; at < begin + list.size(); ++at) {
        const char c = code_[at];
        if (!marks_.test(static_cast<unsigned char>(c))) continue;
        if (c == '(' || c == '[' || c == '{') ++depth;
        if (c == ')' || c == ']' || c == '}') --depth;
        if (by_commas && opens_angle(at)) ++angles;
        if (by_commas && c == '>' && angles > 0 && code_[at - 1] != '-') --angles;
        const bool between = by_blanks ? is_space(c) : c == mark && !separator.empty();
        if (between && depth + angles <= 0) take_item(at);
        // What is in brackets ends with them: `(title #f)(escape #t)`.
        const bool ends = by_blanks && depth == 0 && (c == ')' || c == ']' || c == '}');
        if (ends && at + 1 < begin + list.size() && !is_space(code_[at + 1])) take_item(at + 1), --item;
    }
    take_item(begin + list.size());
    name_anew(member.parameters);
}

std::optional<FoundParameter> Parameters::parameter_of(std::size_t begin, std::size_t end) {
    std::string_view item = trimmed(code_.substr(begin, end - begin));
    while (item.starts_with('\\')) item = trimmed(item.substr(1));  // the line goes on
    if (item.empty()) return std::nullopt;
    // Defaults may hold strings, so the text itself is looked at where it has as many characters.
    const std::string_view own(text_.data() + (item.data() - code_.data()), item.size());
    if (patterns_.parameter_opening.tells_some()) return parameter_in(own);
    const auto known = known_.find(own);
    if (known != known_.end()) return known->second;
    return known_.emplace(own, parameter_in(own)).first->second;
}

std::optional<FoundParameter> Parameters::parameter_in(std::string_view own) const {
    FoundParameter parameter;
    Groups groups;
    const bool matches = patterns_.parameter_opening.tells_some()
                             ? groups.match_here(*patterns_.parameter, patterns_.parameter_opening, own)
                             : groups.match(*patterns_.parameter, own, re2::RE2::UNANCHORED);
    if (!matches) return std::nullopt;
    const auto& of = patterns_.parameter_groups;
    const Declared told =
        of.declared != 0 ? patterns_.declared(groups[of.declared]) : Declared{groups[of.type], groups[of.name]};
    // What takes the rest has no name there.
    parameter.name = told.name.empty() && own == "..." ? own : told.name;
    parameter.type = in_one_line(trimmed(told.type));
    const std::string_view preset = groups[of.preset];
    parameter.required = preset.data() == nullptr && groups[of.optional].empty();
    parameter.named = !groups[of.named].empty();
    parameter.rest = parameter.name == "..." || !groups[of.optional].empty();
    if (parameter.rest) parameter.required = false;
    parameter.preset = trimmed(preset);
    if (parameter.name.empty()) return std::nullopt;
    return parameter;
}

}  // namespace envar::members
