// envar explain: what a finding's code or a field means.
#include <fmt/format.h>

#include <algorithm>

#include "cli/commands/commands.hpp"
#include "core/model/fields.hpp"
#include "core/model/limits.hpp"
#include "core/model/reference.hpp"
#include "core/text/codes.hpp"
#include "core/text/names.hpp"

namespace envar::cli {
namespace {

std::string wrapped(std::string_view text, std::size_t width) {
    std::string out;
    std::size_t column = 0;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find(' ', at), text.size());
        if (column > 0 && column + end - at >= width) {
            out += '\n';
            column = 0;
        } else if (column > 0) {
            out += ' ';
            ++column;
        }
        out += text.substr(at, end - at);
        column += end - at;
        at = end + 1;
    }
    return out;
}

void explain_code(Terminal& out, const text::Code& code) {
    out.line(fmt::format("{} ({}): {}", out.styled(code.code, Style::strong), text::severity_name(code.severity),
                         code.title));
    out.line();
    out.line(wrapped(code.explanation, 96));
    if (!code.example.empty()) {
        out.line();
        out.line(code.example);
    }
}

/// The example as it stands in a file: a table gets its header and a line a key.
std::vector<std::string> example_lines(const std::string& path, const model::Field& field) {
    const bool top = path.find('.') == std::string::npos && field.fields != nullptr;
    if (!top) return {fmt::format("{} = {}", field.key, field.example)};
    const text::Source source("", fmt::format("x = {}\n", field.example));
    const model::Document document = model::parse_document(source);
    const model::Node& value = document.root.entries.front().value;
    const bool list = field.type == model::Type::tables;
    std::vector<std::string> lines = {list ? fmt::format("[[{}]]", path) : fmt::format("[{}]", path)};
    for (const auto& entry : list ? value.items.front().entries : value.entries) {
        const auto [begin, end] = entry.value.span;
        lines.push_back(fmt::format("{} = {}", entry.key, source.text().substr(begin, end - begin)));
    }
    return lines;
}

void explain_field(Terminal& out, std::string_view title, const std::string& path, const model::Field& field) {
    out.line(fmt::format("{}, in the {}", out.styled(path, Style::strong), title));
    out.line(fmt::format("  {}", field.help));
    out.line();
    out.line(fmt::format("  type      {}", model::type_name(field.type)));
    out.line(fmt::format("  required  {}", field.required ? "yes" : "no"));
    if (!field.values.empty()) out.line(fmt::format("  values    {}", fmt::join(field.values, ", ")));
    if (!field.preset.empty()) out.line(fmt::format("  default   {}", field.preset));
    std::string lead = "  example   ";
    for (const auto& line : example_lines(path, field)) {
        out.line(lead + line);
        lead = "            ";
    }
    out.line(fmt::format("  since     {}", field.since));
}

/// "[[dependency]]" and "dependency[].when" as the paths of the table are written.
std::string plain_path(std::string_view path) {
    std::string out;
    for (const char c : path)
        if (c != '[' && c != ']') out += c;
    return out;
}

/// The field itself and, of a table, the fields in it.
bool explain_fields(Terminal& out, const std::string& wanted) {
    bool found = false;
    // A word alone is a table, or any field of that name.
    bool alone = wanted.find('.') == std::string::npos;
    for (const auto& table : model::field_tables())
        for (const auto& field : *table.fields) alone = alone && field.key != wanted;
    for (const auto& table : model::field_tables()) {
        std::vector<std::vector<std::string>> inner;
        model::visit_fields(*table.fields, [&](const std::string& path, const model::Field& field) {
            if (path == wanted || (alone && path.ends_with("." + wanted))) {
                if (found) out.line();
                explain_field(out, table.title, path, field);
                found = true;
            } else if (path.rfind(wanted + ".", 0) == 0) {
                inner.push_back({path, std::string(model::type_name(field.type)), std::string(field.help)});
            }
        });
        if (inner.empty()) continue;
        out.line();
        out.table({{"field", "type", "what it is"}, inner});
        found = true;
    }
    return found;
}

void limits(Terminal& out) {
    out.line("What goes beyond a limit is a finding (EV104, EV105) and is not read; nothing else is lost by it.");
    out.line();
    const auto row = [&](std::size_t limit, std::string_view what) {
        out.line(fmt::format("  {:>7}  {}", limit, what));
    };
    row(model::largest_document, "bytes of a manifest, a workspace file or a card");
    row(model::deepest_key, "parts of one dotted key or table header");
    row(model::deepest_value, "lists and inline tables within each other");
    row(model::longest_list, "elements of one list, of values or of tables");
    row(model::longest_name, "bytes of a name, or of one part of a path");
    row(model::most_syntax_errors, "syntax errors told of one file");
}

void requirement_grammar(Terminal& out) {
    out.line(
        "A requirement says which versions will do:\n"
        "\n"
        "  any                  every release\n"
        "  >=1.1, <2            comparators joined by `,`: all must hold\n"
        "  =1.1.4 | >=1.3       alternatives joined by `|`: one must hold\n"
        "  compatible 1.2       at least 1.2, below the next breaking version (2.0.0; for 0.2: 0.3.0)\n"
        "  !=1.2.3              anything but that\n"
        "\n"
        "A partial version stands for all versions that begin so: =1.2 is any 1.2.x, >1.2 begins at 1.3.0,\n"
        "<1.2 ends before 1.2.0, <=1.2 takes in all of 1.2.x. Pre-releases take part only where a comparator\n"
        "names one of the same major.minor.patch, or with `prereleases = true` in the workspace file.");
}

Outcome list_all(Terminal& out) {
    Table table{{"code", "severity", "what it says"}, {}};
    for (const auto& code : text::codes())
        table.rows.push_back(
            {std::string(code.code), std::string(text::severity_name(code.severity)), std::string(code.title)});
    out.table(table);
    return fine;
}

Outcome run_explain(Invocation& invocation) {
    Terminal& out = *invocation.terminal;
    if (invocation.flag("page")) {
        out.raw(model::reference_page());
        return fine;
    }
    if (invocation.words.empty()) return list_all(out);
    const std::string& word = invocation.words[0];
    std::string upper = word;
    std::transform(upper.begin(), upper.end(), upper.begin(),
                   [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
    if (const text::Code* code = text::find_code(upper)) {
        explain_code(out, *code);
        return fine;
    }
    if (word == "requirement" || word == "requirements") {
        requirement_grammar(out);
        return fine;
    }
    if (word == "limits") {
        limits(out);
        return fine;
    }
    if (explain_fields(out, plain_path(word))) return fine;
    std::vector<std::string> known;
    for (const auto& code : text::codes()) known.emplace_back(code.code);
    for (const auto& table : model::field_tables())
        model::visit_fields(*table.fields, [&](const std::string& path, const model::Field& field) {
            known.push_back(path);
            known.emplace_back(field.key);
        });
    // Another word for a field is answered with the field.
    std::vector<std::string> meant;
    for (const auto& table : model::field_tables())
        model::visit_fields(*table.fields, [&](const std::string& path, const model::Field& field) {
            const auto& also = field.synonyms;
            if (std::find(also.begin(), also.end(), word) != also.end()) meant.push_back("`" + path + "`");
        });
    if (!meant.empty())
        return text::fail(text::FailureKind::answer_is_no, fmt::format("`{}` is no code and no field", word),
                          fmt::format("did you mean {}?", fmt::join(meant, " or ")));
    const std::string near = text::did_you_mean(word, known);
    return text::fail(
        text::FailureKind::answer_is_no, fmt::format("`{}` is no code and no field", word),
        near.empty() ? "`envar explain` lists the codes, `envar explain module` the fields of [module]" : near);
}

}  // namespace

Command explain_command() {
    return {"explain",
            "Look",
            "[CODE|FIELD]",
            0,
            1,
            "tell what a finding or a field means",
            "  envar explain EV304              what the finding means and what to do\n"
            "  envar explain dependency         the fields of [[dependency]]\n"
            "  envar explain module.identity    one field\n"
            "  envar explain requirement        how version requirements are written\n"
            "  envar explain limits             how large and how deep files may be",
            [](options::options_description_easy_init option) {
                option("page", "print the reference of all fields as Markdown");
            },
            run_explain};
}

}  // namespace envar::cli
