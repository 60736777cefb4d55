#include "core/life/signature.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

namespace envar::life {
namespace {

std::string_view trimmed(std::string_view text) {
    const auto first = text.find_first_not_of(" \t");
    if (first == std::string_view::npos) return {};
    return text.substr(first, text.find_last_not_of(" \t") - first + 1);
}

std::string_view type_of(model::NodeKind kind) {
    if (kind == model::NodeKind::integer || kind == model::NodeKind::number) return "number";
    return kind == model::NodeKind::boolean ? "boolean" : "string";
}

model::Parameter parameter(std::string_view text) {
    model::Parameter out;
    const std::size_t equals = text.find('=');
    const std::string_view declared = text.substr(0, equals);
    const std::size_t colon = declared.find(':');
    out.name.value = trimmed(declared.substr(0, colon));
    if (colon != std::string_view::npos) out.type = trimmed(declared.substr(colon + 1));
    if (equals != std::string_view::npos) {
        out.preset = scalar(trimmed(text.substr(equals + 1)));
        out.required = false;
    }
    if (out.type.empty()) out.type = out.preset.given() ? type_of(out.preset.kind) : "string";
    out.summary = fmt::format("What {} is for.", out.name.value);
    return out;
}

}  // namespace

model::Scalar scalar(std::string_view text) {
    model::Scalar value;
    value.text = text;
    static const re2::RE2 integer("[+-]?(0|[1-9][0-9]{0,17})");
    static const re2::RE2 number("[+-]?(0|[1-9][0-9]*)\\.[0-9]+");
    if (re2::RE2::FullMatch(value.text, integer)) {
        value.kind = model::NodeKind::integer;
    } else if (re2::RE2::FullMatch(value.text, number)) {
        value.kind = model::NodeKind::number;
    } else {
        value.kind = text == "true" || text == "false" ? model::NodeKind::boolean : model::NodeKind::text;
    }
    return value;
}

text::Result<model::Member> parse_signature(std::string_view text) {
    const auto wrong = [&](std::string what) {
        return text::fail(text::FailureKind::wrong_usage, fmt::format("in the member `{}`: {}", text, what),
                          "as in \"place(magnitude:number, epoch=J2000)\"");
    };
    model::Member member;
    const std::size_t open = text.find('(');
    member.name.value = trimmed(text.substr(0, open));
    if (open == std::string_view::npos) return member;
    const std::string_view rest = trimmed(text.substr(open + 1));
    if (rest.empty() || rest.back() != ')') return wrong("the parameters are not closed by `)`");
    const std::string_view list = trimmed(rest.substr(0, rest.size() - 1));
    bool optional = false;
    for (std::size_t at = 0; !list.empty() && at <= list.size();) {
        const std::size_t end = std::min(list.find(',', at), list.size());
        model::Parameter one = parameter(list.substr(at, end - at));
        if (one.name.value.empty()) return wrong("a parameter has no name");
        if (optional && one.required)
            return wrong(fmt::format("`{}` has no default, but stands behind one that has", one.name.value));
        for (const auto& other : member.parameters)
            if (other.name.value == one.name.value) return wrong(fmt::format("`{}` stands twice", one.name.value));
        optional = !one.required;
        member.parameters.push_back(std::move(one));
        at = end + 1;
    }
    return member;
}

}  // namespace envar::life
