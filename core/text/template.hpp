// Rendering of templates: the Mustache spec and nothing more, with escaping chosen by the target language.
//
//   {{value}}                      the value, escaped as the inside of a string of the language
//   {{{value}}}                    the value as it is
//   {{#string}}…{{/string}}        the rendered inside as one string literal, quotes included
//   {{#comment}}…{{/comment}}      the rendered inside as comment lines
//   {{#doc}}…{{/doc}}              the same, the first line with the mark that documentation begins with
//   {{#prose}}…{{/prose}}          the rendered inside as lines of a documentation block that the template opens
//
// Within these four use the triple form: they do the escaping.
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
    using Escapes = std::vector<std::pair<std::string, std::string>>;  // at each place the first that fits

    std::string comment;      // starts a comment
    std::string comment_end;  // ends it; empty: the end of the line does
    std::string doc_comment;  // starts the first line of documentation; empty: as `comment`
    std::string string_open;
    std::string string_close;
    Escapes escapes;          // within a string
    Escapes comment_escapes;  // within a comment
    Escapes prose_escapes;    // within a block of documentation; the text's begin counts as a line's
};

[[nodiscard]] std::string escape_for(const Dialect& dialect, std::string_view value);
[[nodiscard]] std::string string_literal(const Dialect& dialect, std::string_view value);
/// Each line of `value` behind the comment mark; never empty. Control characters become U+FFFD.
[[nodiscard]] std::string comment_lines(const Dialect& dialect, std::string_view value);

/// Renders with an object as the outermost context. Texts that are empty count as false in sections. Fails
/// with the engine's words when the template is not valid Mustache.
/// Also fails when it would write out of all proportion (template_tags.hpp).
[[nodiscard]] Result<std::string> render(const std::string& template_text, const nlohmann::json& values,
                                         const Dialect& dialect);

using Values = std::vector<std::pair<std::string, std::string>>;

/// For one-line texts in cards, such as paths: replaces `{{name}}` by each named value, nothing else.
[[nodiscard]] std::string fill(const std::string& text, const Values& values);

}  // namespace envar::text
