#include "core/members/doc_sections.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <array>

#include "core/members/matching.hpp"

namespace envar::members {
namespace {

constexpr std::array<std::string_view, 7> of_parameters = {
    "Args", "Arguments", "Parameters", "Params", "Keyword Args", "Keyword Arguments", "Other Parameters"};
constexpr std::array<std::string_view, 3> of_returned = {"Returns", "Return", "Yields"};

template <class Words>
bool is_one_of(const Words& words, std::string_view word) {
    return std::find(words.begin(), words.end(), word) != words.end();
}

bool is_underline(std::string_view line) {
    return line.size() > 2 && line.find_first_not_of(line.front()) == std::string_view::npos &&
           (line.front() == '-' || line.front() == '=');
}

/// "int, optional" is an int.
std::string_view type_alone(std::string_view type) {
    constexpr std::string_view word = "optional";
    type = trimmed(type);
    if (!type.ends_with(word)) return type;
    std::string_view rest = trimmed(type.substr(0, type.size() - word.size()));
    if (!rest.empty() && rest.back() != ',') return type;
    if (!rest.empty()) rest.remove_suffix(1);
    return trimmed(rest);
}

std::string_view view(const re2::StringPiece& text) { return {text.data(), text.size()}; }

}  // namespace

std::size_t indent_of(std::string_view line) { return std::min(line.find_first_not_of(" \t"), line.size()); }

DocSection::DocSection(const std::vector<std::string_view>& lines, std::size_t at) : lines_(lines) {
    std::string_view heading = trimmed(lines[at]);
    if (heading.size() < 4 || heading.size() > 18) return;
    underlined_ = at + 1 < lines.size() && is_underline(trimmed(lines[at + 1]));
    if (heading.ends_with(':')) {
        heading.remove_suffix(1);
    } else if (!underlined_) {
        return;
    }
    const About about = is_one_of(of_parameters, heading) ? About::parameters
                        : is_one_of(of_returned, heading) ? About::returned
                                                          : About::nothing;
    if (about == About::nothing) return;
    indent_ = indent_of(lines[at]);
    std::size_t first = at + lines_of_heading();
    while (first < lines.size() && trimmed(lines[first]).empty()) ++first;
    if (first == lines.size()) return;
    if (holds(first) && (about == About::returned || !parameters_in(lines[first]).empty())) about_ = about;
}

bool DocSection::holds(std::size_t at) const {
    const std::size_t indent = indent_of(lines_[at]);
    if (!underlined_) return indent > indent_;
    return indent >= indent_ && (at + 1 == lines_.size() || !is_underline(trimmed(lines_[at + 1])));
}

std::vector<DocumentedParameter> DocSection::parameters_in(std::string_view line) const {
    static const re2::RE2 below(R"(\*{0,2}([A-Za-z_]\w*)\s*(?:\(([^()]*(?:\([^()]*\)[^()]*)*)\))?\s*:(?:\s+(.*))?)",
                                re2::RE2::Latin1);
    static const re2::RE2 beside(R"(((?:\*{0,2}[A-Za-z_]\w*)(?:\s*,\s*\*{0,2}[A-Za-z_]\w*)*)(?:\s*:(?:\s+(.*))?)?)",
                                 re2::RE2::Latin1);
    re2::StringPiece name, type, summary;
    const re2::StringPiece text = piece(trimmed(line));
    const std::size_t indent = indent_of(line);
    if (!underlined_) {
        if (indent <= indent_ || !re2::RE2::FullMatch(text, below, &name, &type, &summary)) return {};
        return {{view(name), type_alone(view(type)), view(summary)}};
    }
    if (indent != indent_ || !re2::RE2::FullMatch(text, beside, &name, &type)) return {};
    std::vector<DocumentedParameter> out;
    constexpr std::string_view between = " \t,*";
    for (std::string_view rest = view(name); !rest.empty();) {
        const std::size_t begin = std::min(rest.find_first_not_of(between), rest.size());
        const std::size_t end = std::min(rest.find_first_of(between, begin), rest.size());
        if (end > begin) out.push_back({rest.substr(begin, end - begin), type_alone(view(type)), {}});
        rest.remove_prefix(end);
    }
    return out;
}

}  // namespace envar::members
