#include <doctest/doctest.h>
#include <fmt/format.h>

#include <random>
#include <string>
#include <vector>

#include "core/model/document.hpp"
#include "core/model/edit.hpp"

using namespace envar;
using namespace envar::model;

namespace {

/// Made-up manifests in every layout people use: comments, blank lines, indents, CRLF, sub-tables, no last
/// line end.
std::string made_up(std::mt19937& random) {
    const auto maybe = [&](std::string_view text) { return random() % 2 == 0 ? std::string(text) : std::string(); };
    std::string text =
        maybe("# head\n\n") + "[module]\nname = \"m\"" + maybe("   # why") + "\n" + maybe("  version = '1.0.0'\n");
    const unsigned count = random() % 4;
    for (unsigned i = 0; i < count; ++i) {
        text += maybe("\n") + maybe("# about it\n") + fmt::format("[[dependency]]\nmodule = \"d{}\"\n", i);
        text +=
            maybe("versions = \">=1\" # range\n") + maybe("# inside\n") + maybe("reason = \"\"\"\n[[x]]\n\"\"\"\n");
        if (random() % 4 == 0) text += "[dependency.when]\ntarget = [\"v\"]\n";
    }
    text += maybe("\n# tail\n") + maybe("\n[exports]\nmode = \"all\"\n") + maybe("\n\n");
    if (random() % 5 == 0 && text.back() == '\n') text.pop_back();
    if (random() % 4 == 0) {
        std::string crlf;
        for (const char c : text) crlf += c == '\n' ? std::string("\r\n") : std::string(1, c);
        text = crlf;
    }
    return text;
}

std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> lines;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        lines.push_back(text.substr(at, end - at));
        if (!lines.back().empty() && lines.back().back() == '\r') lines.back().pop_back();
        at = end + 1;
    }
    return lines;
}

std::size_t dependencies_in(const Document& document) {
    const Node* list = document.root.find("dependency");
    return list == nullptr ? 0 : list->items.size();
}

/// Every line of `part` stands in `whole`, in this order.
bool is_subsequence(const std::vector<std::string>& part, const std::vector<std::string>& whole) {
    std::size_t at = 0;
    for (const auto& line : whole)
        if (at < part.size() && part[at] == line) ++at;
    return at == part.size();
}

}  // namespace

TEST_CASE("an added element changes no other line, and removing it gives back the bytes") {
    std::mt19937 random(3);
    for (int round = 0; round < 500; ++round) {
        const std::string before = made_up(random);
        CAPTURE(before);
        const std::string after =
            append_element(before, "dependency", {{"module", "\"fresh\""}, {"versions", "\">=2\""}});
        const Document document = parse_document(text::Source("m", after));
        REQUIRE(document.valid);
        const std::size_t count = dependencies_in(document);
        CHECK(count == dependencies_in(parse_document(text::Source("m", before))) + 1);
        CHECK(document.root.find("dependency")->items.back().find("module")->text == "fresh");
        CHECK(is_subsequence(lines_of(before), lines_of(after)));
        const auto back = remove_element(after, "dependency", count - 1);
        REQUIRE(back.has_value());
        // A last line without an end gets one when something is put behind it.
        const std::string ended = before + (before.find("\r\n") != std::string::npos ? "\r\n" : "\n");
        CHECK((*back == before || (before.back() != '\n' && *back == ended)));
    }
}

TEST_CASE("changing a key back gives back the bytes") {
    std::mt19937 random(4);
    for (int round = 0; round < 300; ++round) {
        const std::string before = made_up(random);
        CAPTURE(before);
        const auto after = set_key(before, "module", 0, "name", "\"other\"");
        REQUIRE(after.has_value());
        CHECK(lines_of(*after).size() == lines_of(before).size());
        CHECK(*set_key(*after, "module", 0, "name", "\"m\"") == before);
        const auto added = set_key(before, "module", 0, "summary", "\"new\"");
        REQUIRE(added.has_value());
        CHECK(parse_document(text::Source("m", *added)).root.find("module")->find("summary")->text == "new");
        if (before.back() == '\n') CHECK(*remove_key(*added, "module", 0, "summary") == before);
    }
    CHECK_FALSE(set_key("x = 1\n", "module", 0, "name", "1").has_value());
    CHECK_FALSE(remove_element("x = 1\n", "dependency", 0).has_value());
}

TEST_CASE("comments survive the removal of an element") {
    const std::string text =
        "[module]\nname = \"m\"\n\n# needed for times\n[[dependency]]\nmodule = \"a\"\n# inside\nversions = \"any\"\n\n"
        "# second\n[[dependency]]\nmodule = \"b\"\n";
    const auto after = remove_element(text, "dependency", 0);
    REQUIRE(after.has_value());
    CHECK(*after ==
          "[module]\nname = \"m\"\n\n# needed for times\n# inside\n\n# second\n[[dependency]]\nmodule = \"b\"\n");
}

TEST_CASE("lists grow and shrink in the way they are written") {
    struct Row {
        std::string before;
        std::string after;
    };
    const std::vector<Row> rows = {
        {"x = []\n", "x = [9]\n"},
        {"x = [ ] # c\n", "x = [9] # c\n"},
        {"x = [1, 2]\n", "x = [1, 2, 9]\n"},
        {"x = [1, 2,]\n", "x = [1, 2, 9]\n"},
        {"x = [\n  1,\n  2,\n]\n", "x = [\n  1,\n  2,\n  9,\n]\n"},
        {"x = [\n  1,\n  2\n]\n", "x = [\n  1,\n  2,\n  9,\n]\n"},
        {"x = [\n  1,\n  2 # two\n]\n", "x = [\n  1,\n  2, # two\n  9,\n]\n"},
        {"x = [\n  1,\n  2, # two\n]\n", "x = [\n  1,\n  2, # two\n  9,\n]\n"},
    };
    for (const auto& row : rows) {
        CAPTURE(row.before);
        const Document document = parse_document(text::Source("m", row.before));
        REQUIRE(document.valid);
        const std::string after = append_to_list(row.before, document.root.find("x")->span, "9");
        CHECK(after == row.after);
        const Document changed = parse_document(text::Source("m", after));
        REQUIRE(changed.valid);
        const Node& list = *changed.root.find("x");
        const Document back =
            parse_document(text::Source("m", remove_from_list(after, list.span, list.items.back().span)));
        REQUIRE(back.valid);
        CHECK(back.root.find("x")->items.size() == list.items.size() - 1);
    }
}
