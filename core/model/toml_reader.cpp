#include "core/model/toml_reader.hpp"

#include <algorithm>
#include <tuple>
#include <utility>
#include <vector>

#include "core/model/limits.hpp"

// The parser takes some of its own conditions for granted, and hostile text breaks them; in a release build that
// would be undefined behaviour. So they are checked in every build, and a broken one is a syntax error.
namespace envar::model {
struct ParserTripped {};
[[noreturn]] void parser_tripped() { throw ParserTripped(); }
}  // namespace envar::model
#define TOML_EXCEPTIONS 1
#define TOML_HEADER_ONLY 1
#define TOML_MAX_NESTED_VALUES 64  // limits.hpp: deepest_value
#include <toml++/impl/preprocessor.h>
#undef TOML_ASSERT_ASSUME
#define TOML_ASSERT_ASSUME(condition) ((condition) ? void() : envar::model::parser_tripped())
#include <toml++/toml.h>

namespace envar::model {
namespace {

static_assert(TOML_MAX_NESTED_VALUES == deepest_value);

using text::Source;
using text::Span;

class Converter {
  public:
    explicit Converter(const Source& source) : source_(source) {}

    /// Takes the texts out of `from`.
    Node convert(toml::node& from) const {
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
                node.text = std::move(from.as_string()->get());
                break;
            case toml::node_type::integer:
                node.kind = NodeKind::integer;
                node.integer = from.as_integer()->get();
                node.text = written(node.span);
                break;
            case toml::node_type::floating_point:
                node.kind = NodeKind::number;
                node.text = written(node.span);
                break;
            case toml::node_type::boolean:
                node.kind = NodeKind::boolean;
                node.boolean = from.as_boolean()->get();
                node.text = node.boolean ? "true" : "false";
                break;
            default:
                node.kind = NodeKind::time;
                node.text = written(node.span);
                break;
        }
        return node;
    }

  private:
    [[nodiscard]] Span span(const toml::source_region& region) const {
        const auto offset = [&](const toml::source_position& p) { return source_.offset({p.line, p.column}); };
        return {offset(region.begin), offset(region.end)};
    }
    [[nodiscard]] std::string written(Span at) const { return source_.text().substr(at.begin, at.end - at.begin); }
    void table(toml::table& from, Node& node) const {
        node.kind = NodeKind::table;
        // The parser keeps keys by their names; here they stand as in the file.
        std::vector<std::pair<const toml::key*, toml::node*>> order;
        order.reserve(from.size());
        for (auto&& [key, value] : from) order.emplace_back(&key, &value);
        std::sort(order.begin(), order.end(), [](const auto& a, const auto& b) {
            const auto& left = a.first->source().begin;
            const auto& right = b.first->source().begin;
            return std::tie(left.line, left.column) < std::tie(right.line, right.column);
        });
        node.entries.reserve(order.size());
        for (const auto& [key, value] : order)
            node.entries.push_back({std::string(key->str()), span(key->source()), convert(*value)});
    }
    void list(toml::array& from, Node& node) const {
        node.kind = NodeKind::list;
        node.items.reserve(from.size());
        for (auto& item : from) node.items.push_back(convert(item));
    }

    const Source& source_;
};

}  // namespace

std::optional<SyntaxError> read_toml(const Source& source, std::string_view text, Node& root) {
    try {
        toml::table parsed = toml::parse(text);
        root = Converter(source).convert(parsed);
        return std::nullopt;
    } catch (const toml::parse_error& error) {
        const auto& where = error.source().begin;
        return SyntaxError{source.offset({where.line, where.column}), std::string(error.description())};
    } catch (const ParserTripped&) {
        return SyntaxError{std::string::npos, ""};
    }
}

}  // namespace envar::model
