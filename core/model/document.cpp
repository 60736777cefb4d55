#include "core/model/document.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "core/model/toml_layout.hpp"
#include "core/text/utf8.hpp"

// The parser takes some of its own conditions for granted, and hostile text breaks them; in a release build that
// would be undefined behaviour. So they are checked in every build, and a broken one is a syntax error.
namespace envar::model {
struct ParserTripped {};
[[noreturn]] void parser_tripped() { throw ParserTripped(); }
}  // namespace envar::model
#define TOML_EXCEPTIONS 1
#define TOML_HEADER_ONLY 1
#define TOML_MAX_NESTED_VALUES 64
#include <toml++/impl/preprocessor.h>
#undef TOML_ASSERT_ASSUME
#define TOML_ASSERT_ASSUME(condition) ((condition) ? void() : envar::model::parser_tripped())
#include <toml++/toml.h>

namespace envar::model {
namespace {

using text::Finding;
using text::Source;
using text::Span;

class Converter {
  public:
    explicit Converter(const Source& source) : source_(source) {}

    Node convert(const toml::node& from) const {
        Node node;
        node.span = span(from.source());
        switch (from.type()) {
            case toml::node_type::table:
                table(*from.as_table(), node);
                break;
            case toml::node_type::array:
                list(*from.as_array(), node);
                break;
            case toml::node_type::string:
                node.kind = NodeKind::text;
                node.text = from.as_string()->get();
                break;
            case toml::node_type::integer:
                node.kind = NodeKind::integer;
                node.integer = from.as_integer()->get();
                break;
            case toml::node_type::floating_point:
                node.kind = NodeKind::number;
                break;
            case toml::node_type::boolean:
                node.kind = NodeKind::boolean;
                node.boolean = from.as_boolean()->get();
                break;
            default:
                node.kind = NodeKind::time;
                break;
        }
        return node;
    }

  private:
    [[nodiscard]] Span span(const toml::source_region& region) const {
        const auto offset = [&](const toml::source_position& p) { return source_.offset({p.line, p.column}); };
        return {offset(region.begin), offset(region.end)};
    }
    void table(const toml::table& from, Node& node) const {
        node.kind = NodeKind::table;
        for (const auto& [key, value] : from)
            node.entries.push_back({std::string(key.str()), span(key.source()), convert(value)});
        std::sort(node.entries.begin(), node.entries.end(),
                  [](const Entry& a, const Entry& b) { return a.key_span.begin < b.key_span.begin; });
    }
    void list(const toml::array& from, Node& node) const {
        node.kind = NodeKind::list;
        for (const auto& item : from) node.items.push_back(convert(item));
    }

    const Source& source_;
};

/// The parser's words, cut to the problem, in the house form.
std::string parser_message(std::string_view description) {
    constexpr std::string_view lead = "Error while parsing ";
    if (description.substr(0, lead.size()) == lead) description.remove_prefix(lead.size());
    std::string message = text::printable(description);
    if (!message.empty() && message.back() == '.') message.pop_back();
    return text::shortened("cannot read " + message, 200);
}

std::string parser_hint(std::string_view description, std::string_view line) {
    const auto says = [&](std::string_view words) { return description.find(words) != std::string_view::npos; };
    const auto quotes = std::count(line.begin(), line.end(), '"');
    if (says("redefine") || says("existing")) return "the same table or key stands above already: join the two";
    if (quotes % 2 == 1) return "a quote on this line is never closed";
    if (says("array") || says("']'")) return "look for a missing `]` or `,` here or on the line before";
    if (says("inline table") || says("'}'")) return "look for a missing `}` or `,` here";
    if (says("key-value pair") || says("'='")) return "a line is `key = value`; text values stand in quotes";
    return "the slip is here or shortly before";
}

/// The first statement that is not valid by itself; the whole text when all are.
Span first_bad_statement(const Source& source) {
    for (const Statement& statement : toml_layout(source.text())) {
        const std::size_t length = statement.whole.end - statement.whole.begin;
        try {
            (void)toml::parse(std::string_view(source.text()).substr(statement.whole.begin, length));
        } catch (const toml::parse_error&) {
            return statement.whole;
        } catch (const ParserTripped&) {
            return statement.whole;
        }
    }
    return {0, 1};
}

std::optional<Finding> refuse_before_parsing(const Source& source) {
    if (source.text().size() > largest_document)
        return source.finding("EV104", {}, fmt::format("the file is larger than {} KiB", largest_document / 1024),
                              "this is no manifest written by hand; it was not read");
    if (const auto bad = text::first_invalid_utf8(source.text()))
        return source.finding(
            "EV103", {*bad, *bad + 1},
            fmt::format("byte 0x{:02X} is not UTF-8", static_cast<unsigned char>(source.text()[*bad])),
            "save the file as UTF-8");
    for (const Statement& statement : toml_layout(source.text()))
        if (statement.path.size() > deepest_key)
            return source.finding("EV102", {statement.key.begin, statement.key.begin + 1},
                                  fmt::format("a key of {} parts is nested too deeply", statement.path.size()),
                                  fmt::format("at most {} parts are read", deepest_key));
    return std::nullopt;
}

}  // namespace

const Node* Node::find(std::string_view key) const {
    const auto found = std::find_if(entries.begin(), entries.end(), [&](const Entry& e) { return e.key == key; });
    return found == entries.end() ? nullptr : &found->value;
}

std::string_view kind_name(NodeKind kind) {
    switch (kind) {
        case NodeKind::text:
            return "text";
        case NodeKind::integer:
            return "a whole number";
        case NodeKind::number:
            return "a number with a fraction";
        case NodeKind::boolean:
            return "true or false";
        case NodeKind::time:
            return "a date or time";
        case NodeKind::list:
            return "a list";
        case NodeKind::table:
            return "a table";
    }
    return "a value";
}

Document parse_document(Source source) {
    Document document;
    document.source = std::move(source);
    const Source& from = document.source;
    if (auto refused = refuse_before_parsing(from)) {
        document.findings.push_back(std::move(*refused));
        return document;
    }
    try {
        document.root = Converter(from).convert(toml::parse(std::string_view(from.text())));
        document.valid = true;
    } catch (const toml::parse_error& error) {
        const auto& where = error.source().begin;
        std::size_t at = from.offset({where.line, where.column});
        if (at > 0 && at >= from.text().size()) at = from.text().size() - 1;
        const auto line = from.line(from.position(at).line);
        document.findings.push_back(from.finding("EV102", {at, at + 1}, parser_message(error.description()),
                                                 parser_hint(error.description(), line)));
    } catch (const ParserTripped&) {
        document.findings.push_back(from.finding("EV102", first_bad_statement(from), "cannot read this statement",
                                                 "a line is `key = value`; text values stand in quotes"));
    }
    return document;
}

}  // namespace envar::model
