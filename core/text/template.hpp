// Rendering of templates: the Mustache spec and nothing more, with escaping chosen by the target language.
//
//   {{value}}                      the value, escaped as the inside of a string of the language
//   {{{value}}}                    the value as it is
//   {{#string}}…{{/string}}        the rendered inside as one string literal, quotes included
//   {{#comment}}…{{/comment}}      the rendered inside as comment lines
//   {{#doc}}…{{/doc}}              the same, the first line with the mark that documentation begins with
//
// Within `string`, `comment` and `doc` use the triple form: they do the escaping.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/text/failure.hpp"

namespace envar::text {

/// What text has to look like inside the language that a template writes.
struct Dialect {
    std::string comment;      // starts a comment that ends with the line
    std::string doc_comment;  // the same for the first line of documentation; empty: as `comment`
    std::string string_open;
    std::string string_close;
    std::vector<std::pair<std::string, std::string>> escapes;  // at each place the first that fits
};

[[nodiscard]] std::string escape_for(const Dialect& dialect, std::string_view value);
[[nodiscard]] std::string string_literal(const Dialect& dialect, std::string_view value);
/// Each line of `value` behind the comment mark; never empty.
[[nodiscard]] std::string comment_lines(const Dialect& dialect, std::string_view value);

/// Renders with an object as the outermost context. Texts that are empty count as false in sections. Fails
/// with the engine's words when the template is not valid Mustache.
[[nodiscard]] Result<std::string> render(const std::string& template_text, const nlohmann::json& values,
                                         const Dialect& dialect);

/// For one-line texts in cards, such as paths: replaces `{{name}}` by each named value, nothing else.
[[nodiscard]] std::string fill(const std::string& text,
                               const std::vector<std::pair<std::string, std::string>>& values);

}  // namespace envar::text
