#include "core/model/field_values.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <array>

#include "core/files/read.hpp"
#include "core/model/limits.hpp"
#include "core/text/names.hpp"
#include "core/text/spdx.hpp"
#include "core/text/utf8.hpp"
#include "core/versions/requirement.hpp"

namespace envar::model {
namespace {

#define ENVAR_VERSION "[0-9]+(\\.[0-9]+){0,3}(-[0-9A-Za-z.-]+)?(\\+[0-9A-Za-z.-]+)?"
#define ENVAR_COMPARATOR "\\s*(any|(=|!=|<|<=|>|>=|compatible)\\s*" ENVAR_VERSION ")\\s*"
#define ENVAR_NO_CONTROL "[^\\u0000-\\u0008\\u000A-\\u001F\\u007F]"

constexpr std::array types = {
    TypeInfo{Type::text, "text", NodeKind::text, ""},
    TypeInfo{Type::line, "one line of text", NodeKind::text, "^" ENVAR_NO_CONTROL "*$"},
    TypeInfo{Type::word, "a word in quotes", NodeKind::text, ""},
    TypeInfo{Type::name, "a name in quotes", NodeKind::text, "^(?!\\.{1,2}$)[^/\\u0000-\\u001F\\u007F]{1,255}$"},
    TypeInfo{Type::version, "a version in quotes", NodeKind::text, "^" ENVAR_VERSION "$"},
    TypeInfo{Type::requirement, "a version requirement in quotes", NodeKind::text,
             "^" ENVAR_COMPARATOR "([,|]" ENVAR_COMPARATOR ")*$"},
    TypeInfo{Type::identity, "a UUID in quotes", NodeKind::text,
             "^[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}$"},
    TypeInfo{Type::license, "an SPDX licence expression in quotes", NodeKind::text, "^[0-9A-Za-z.+:() \\t-]+$"},
    TypeInfo{Type::inner_path, "a relative path in quotes", NodeKind::text,
             "^(?!/)(?!\\.\\.(/|$))[^\\u0000-\\u001F\\u007F]+$"},
    TypeInfo{Type::pattern, "a pattern in quotes", NodeKind::text, "^" ENVAR_NO_CONTROL "*$"},
    TypeInfo{Type::boolean, "true or false", NodeKind::boolean, ""},
    TypeInfo{Type::integer, "a whole number", NodeKind::integer, ""},
    TypeInfo{Type::number, "a number", NodeKind::number, ""},
    TypeInfo{Type::texts, "a list of texts", NodeKind::list, ""},
    TypeInfo{Type::names, "a list of names", NodeKind::list, "^(?!\\.{1,2}$)[^/\\u0000-\\u001F\\u007F]{1,255}$"},
    TypeInfo{Type::inner_paths, "a list of relative paths", NodeKind::list,
             "^(?!/)(?!\\.\\.(/|$))[^\\u0000-\\u001F\\u007F]+$"},
    TypeInfo{Type::pairs, "a list of pairs", NodeKind::list, ""},
    TypeInfo{Type::any, "a value", NodeKind::text, ""},
    TypeInfo{Type::table, "a table", NodeKind::table, ""},
    TypeInfo{Type::tables, "a list of tables", NodeKind::list, ""},
};

#undef ENVAR_VERSION
#undef ENVAR_COMPARATOR
#undef ENVAR_NO_CONTROL

using Problem = std::optional<ValueProblem>;

ValueProblem bad(std::string message, std::string hint) { return {"EV114", std::move(message), std::move(hint)}; }

bool is_uuid(std::string_view text) {
    constexpr std::string_view form = "00000000-0000-0000-0000-000000000000";
    return text.size() == form.size() && std::equal(text.begin(), text.end(), form.begin(), [](char c, char f) {
               if (f == '-') return c == '-';
               return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'f') || (c >= 'A' && c <= 'F');
           });
}

Problem word_problem(const Field& field, std::string_view key, const std::string& value) {
    if (std::find(field.values.begin(), field.values.end(), value) != field.values.end()) return std::nullopt;
    const std::string meant = text::did_you_mean(value, {field.values.begin(), field.values.end()});
    return ValueProblem{"EV113", fmt::format("{} is not a value of `{}`", ticked(value), key),
                        (meant.empty() ? "" : meant + " ") + "allowed: " + listed(field.values)};
}

Problem name_problem(const std::string& value) {
    if (value.size() > longest_name)
        return ValueProblem{"EV105", fmt::format("a name of {} bytes is too long", value.size()),
                            fmt::format("a name has at most {} bytes, as on most file systems", longest_name)};
    if (!value.empty() && value.find('/') == std::string::npos && value != "." && value != "..") return std::nullopt;
    return bad(fmt::format("{} is not a name", ticked(value)), "a name has no `/` and is no `.` or `..`");
}

}  // namespace

bool is_name(const std::string& value) { return !name_problem(value); }

namespace {

Problem version_problem(const std::string& value) {
    if (versions::parse_version(value) || versions::parse_version(value, versions::Scheme::dotted) ||
        versions::parse_version(value, versions::Scheme::integer))
        return std::nullopt;
    const auto mended = versions::mended_version(value);
    return bad(fmt::format("{} is not a version", ticked(value)),
               mended ? fmt::format("did you mean `{}`?", *mended)
                      : "a version is major.minor.patch, as in 1.2.0 or 2.0.0-rc.1");
}

Problem requirement_problem(const std::string& value) {
    const auto parsed = versions::parse_requirement(value);
    if (parsed) return std::nullopt;
    return ValueProblem{"EV114",
                        fmt::format("in the requirement {}: {}", ticked(value), parsed.error().message),
                        parsed.error().hint,
                        {parsed.error().offset, parsed.error().offset + 1}};
}

Problem license_problem(const std::string& value) {
    const auto error = text::license_error(value);
    if (!error) return std::nullopt;
    return ValueProblem{
        "EV116", "in the licence: " + text::printable(error->message), error->hint, {error->begin, error->end}};
}

Problem path_problem(const std::string& value) {
    if (!files::stays_inside(value))
        return ValueProblem{"EV204", fmt::format("the path {} leaves the module", ticked(value)),
                            "write it relative to this file, without a way out through `..`"};
    for (std::size_t at = 0; at < value.size();) {
        const std::size_t end = std::min(value.find('/', at), value.size());
        if (end - at > longest_name)
            return ValueProblem{"EV105", fmt::format("a part of {} bytes is too long for a path", end - at),
                                fmt::format("a part of a path has at most {} bytes", longest_name)};
        at = end + 1;
    }
    return std::nullopt;
}

Problem pattern_problem(const std::string& value) {
    const re2::RE2 compiled(value, re2::RE2::Quiet);
    if (compiled.ok()) return std::nullopt;
    return ValueProblem{"EV801", fmt::format("the pattern {} is refused: {}", ticked(value), compiled.error()),
                        "patterns are RE2: no look-around, no back-references"};
}

}  // namespace

const TypeInfo& type_info(Type type) { return types.at(static_cast<std::size_t>(type)); }

std::string_view type_name(Type type) { return type_info(type).name; }

bool has_control_character(std::string_view value) {
    return std::any_of(value.begin(), value.end(),
                       [](char c) { return (static_cast<unsigned char>(c) < 0x20 && c != '\t') || c == 0x7F; });
}

std::string ticked(std::string_view value) { return "`" + text::shortened(text::printable(value), 60) + "`"; }

std::string listed(const std::vector<std::string_view>& values) {
    std::string out;
    for (std::size_t i = 0; i < values.size(); ++i)
        out += fmt::format("{}`{}`", i == 0 ? "" : i + 1 == values.size() ? " or " : ", ", values[i]);
    return out;
}

Problem text_problem(const Field& field, std::string_view key, const std::string& value) {
    if (value.find('\0') != std::string::npos) return bad(fmt::format("`{}` contains a NUL", key), "take it out");
    const bool free_text = field.type == Type::text || field.type == Type::texts || field.type == Type::pairs ||
                           field.type == Type::any || field.type == Type::word;
    if (!free_text && has_control_character(value))
        return field.type == Type::line ? bad(fmt::format("`{}` has more than one line, or a control character", key),
                                              "keep it to one line of text")
                                        : bad(fmt::format("`{}` contains a control character", key), "take it out");
    switch (field.type) {
        case Type::word:
            return word_problem(field, key, value);
        case Type::name:
        case Type::names:
            return name_problem(value);
        case Type::version:
            return version_problem(value);
        case Type::requirement:
            return requirement_problem(value);
        case Type::identity:
            if (is_uuid(value)) return std::nullopt;
            return bad(fmt::format("{} is not a UUID", ticked(value)), "as in 6f1c0c1e-8a54-4f0e-9a53-0b8f6c1b7a10");
        case Type::license:
            return license_problem(value);
        case Type::inner_path:
        case Type::inner_paths:
            return path_problem(value);
        case Type::pattern:
            return pattern_problem(value);
        default:
            return std::nullopt;
    }
}

}  // namespace envar::model
