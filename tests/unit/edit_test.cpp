#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <map>
#include <random>
#include <string>
#include <vector>

#include "core/files/read.hpp"
#include "core/model/document.hpp"
#include "core/model/edit.hpp"
#include "core/model/toml_layout.hpp"
#include "tests/support/share.hpp"

using namespace envar;
using namespace envar::model;
using envar::text::Span;

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
    if (random() % 2 == 0) {
        const std::vector<std::string> lists = {"[]",
                                                "[ ]",
                                                "[1]",
                                                "[1, 2]",
                                                "[ 1, 2, ]",
                                                "[1,2,]",
                                                "[\n  1,\n  2,\n]",
                                                "[\n  1,\n  2\n]",
                                                "[\n  1, # one\n  2 # two, ]\n]",
                                                "[\n  1,\n  \"a # b, ]\", # x\n]",
                                                "[1,\n 2]",
                                                "[ # c\n]",
                                                "[[1], [2]]",
                                                "[{ a = 1 }, { a = \"},\" }]",
                                                "[\n]"};
        text += "\n[lists]\nlist = " + lists[random() % lists.size()] + maybe(" # end") + "\n";
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

/// All TOML files of the repository.
std::vector<std::string> real_files() {
    std::vector<std::string> texts;
    for (const std::string folder : {"demo", "hosts", "tests/golden"})
        for (const auto& entry : std::filesystem::recursive_directory_iterator(ENVAR_SOURCE_FOLDER "/" + folder))
            if (entry.path().extension() == ".toml") {
                std::string text = files::read_or_fail(entry.path(), 1U << 20U).value();
                if (parse_document(text::Source("m", text)).valid) texts.push_back(std::move(text));
            }
    return texts;
}

/// A table that can be edited, and one of its keys.
struct Place {
    std::string table;
    std::size_t index = 0;
    std::string key;
    std::string value;
};

std::vector<Place> places(const std::string& text) {
    std::vector<Place> out;
    std::map<std::string, std::size_t> counts;
    for (const Statement& s : toml_layout(text)) {
        if (s.kind == StatementKind::table || s.kind == StatementKind::table_array) {
            const std::string name = fmt::format("{}", fmt::join(s.path, "."));
            out.push_back({name, counts[name]++, "", ""});
        } else if (s.kind == StatementKind::assignment && s.path.size() == 1 && !out.empty()) {
            out.back().key = s.path[0];
            out.back().value = text.substr(s.value.begin, s.value.end - s.value.begin);
        }
    }
    return out;
}

std::vector<Span> lists(const std::string& text) {
    std::vector<Span> out;
    for (const Statement& s : toml_layout(text))
        if (s.kind == StatementKind::assignment && text[s.value.begin] == '[') out.push_back(s.value);
    return out;
}

/// Every line of `part` stands in `whole`, in this order.
bool is_subsequence(const std::vector<std::string>& part, const std::vector<std::string>& whole) {
    std::size_t at = 0;
    for (const auto& line : whole)
        if (at < part.size() && part[at] == line) ++at;
    return at == part.size();
}

}  // namespace

TEST_CASE("every edit and its inverse give back the bytes, in made-up and in real files") {
    std::mt19937 random(3);
    std::vector<std::string> texts = real_files();
    CHECK(texts.size() > 15);
    for (std::size_t round = 0; round < 500 / testing::share; ++round) texts.push_back(made_up(random));
    for (const std::string& before : texts) {
        CAPTURE(before);
        REQUIRE(parse_document(text::Source("m", before)).valid);
        const auto lines = lines_of(before);

        const std::string element =
            append_element(before, "dependency", {{"module", "\"fresh\""}, {"versions", "\">=2\""}});
        const Document with_element = parse_document(text::Source("m", element));
        REQUIRE(with_element.valid);
        const std::size_t count = dependencies_in(with_element);
        CHECK(count == dependencies_in(parse_document(text::Source("m", before))) + 1);
        CHECK(with_element.root.find("dependency")->items.back().find("module")->text == "fresh");
        CHECK(is_subsequence(lines, lines_of(element)));
        CHECK(remove_element(element, "dependency", count - 1).value() == before);

        const std::string table = append_table(before, "fresh", {{"a", "1"}});
        CHECK(is_subsequence(lines, lines_of(table)));
        CHECK(parse_document(text::Source("m", table)).root.find("fresh")->find("a")->integer == 1);
        CHECK(remove_element(table, "fresh", 0).value() == before);

        for (const Place& place : places(before)) {
            CAPTURE(place.table);
            CAPTURE(place.index);
            const std::string added = set_key(before, place.table, place.index, "fresh", "\"new\"").value();
            CHECK(is_subsequence(lines, lines_of(added)));
            CHECK(lines_of(added).size() == lines.size() + 1);
            CHECK(parse_document(text::Source("m", added)).valid);
            CHECK(remove_key(added, place.table, place.index, "fresh").value() == before);
            if (place.key.empty()) continue;
            const std::string changed = set_key(before, place.table, place.index, place.key, "\"other\"").value();
            CHECK(changed != before);
            CHECK(parse_document(text::Source("m", changed)).valid);
            CHECK(set_key(changed, place.table, place.index, place.key, place.value).value() == before);
            const Assignments was = {{place.key, place.value}, {"gone", "1"}};
            const std::string swapped = change_keys(before, place.table, place.index, was,
                                                    {{place.key, place.value}, {"gone", "1"}, {"n", "2"}})
                                            .value();
            CHECK(change_keys(swapped, place.table, place.index,
                              {{place.key, place.value}, {"gone", "1"}, {"n", "2"}}, was)
                      .value() == before);
        }
        for (const Span list : lists(before)) {
            const std::string grown = append_to_list(before, list, "\"fresh\"");
            CHECK(lines_of(grown).size() <= lines.size() + 1);
            const Document document = parse_document(text::Source("m", grown));
            REQUIRE(document.valid);
            const Span now{list.begin, list.end + grown.size() - before.size()};
            const auto items = list_layout(grown, now);
            REQUIRE_FALSE(items.empty());
            CHECK(grown.substr(items.back().value.begin, 7) == "\"fresh\"");
            CHECK(remove_from_list(grown, now, items.back().value) == before);
        }
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
        {"x = [ ] # c\n", "x = [9 ] # c\n"},
        {"x = [1, 2]\n", "x = [1, 2, 9]\n"},
        {"x = [1, 2,]\n", "x = [1, 2, 9,]\n"},
        {"x = [\n  1,\n  2,\n]\n", "x = [\n  1,\n  2,\n  9,\n]\n"},
        {"x = [\n  1,\n  2\n]\n", "x = [\n  1,\n  2,\n  9\n]\n"},
        {"x = [\n  1,\n  2 # two\n]\n", "x = [\n  1,\n  2, # two\n  9\n]\n"},
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

TEST_CASE("keys of inline tables change in place, and whatever else stands there stays") {
    struct Row {
        std::string before;
        Assignments was, is;
        std::string after;
    };
    const std::vector<Row> rows = {
        {"x = { a = 1, own = 'y' } # c\n", {{"a", "1"}}, {{"a", "2"}}, "x = { a = 2, own = 'y' } # c\n"},
        {"x = { a = 1, own = 'y' }\n",
         {{"a", "1"}},
         {{"a", "1"}, {"b", "[3]"}},
         "x = { a = 1, own = 'y', b = [3] }\n"},
        {"x = { a = 1, b = 2, c = 3 }\n",
         {{"a", "1"}, {"b", "2"}, {"c", "3"}},
         {{"a", "1"}, {"c", "3"}},
         "x = { a = 1, c = 3 }\n"},
        {"x = { a = 1, b = 2 }\n", {{"a", "1"}, {"b", "2"}}, {{"b", "2"}}, "x = { b = 2 }\n"},
        {"x = { a = 1 }\n", {{"a", "1"}}, {}, "x = {  }\n"},
        {"x = { a = 1, b = 2 }\n", {{"a", "1"}, {"b", "2"}}, {}, "x = {  }\n"},
        {"x = { a = 1, b = 2, c = 3 }\n", {{"a", "1"}, {"b", "2"}}, {}, "x = { c = 3 }\n"},
        {"x = {}\n", {}, {{"a", "1"}, {"b", "2"}}, "x = { a = 1, b = 2 }\n"},
        {"x = {a=1,b={c=2}}\n",
         {{"a", "1"}, {"b", "{ c = 2 }"}},
         {{"a", "9"}, {"b", "{ c = 2 }"}},
         "x = {a=9,b={c=2}}\n"},
    };
    for (const Row& row : rows) {
        CAPTURE(row.before);
        const Document document = parse_document(text::Source("m", row.before));
        REQUIRE(document.valid);
        CHECK(change_inline_keys(row.before, *document.root.find("x"), row.was, row.is) == row.after);
        CHECK(parse_document(text::Source("m", row.after)).valid);
    }
    const std::string text = "x = [\n    1, # one\n    2, # two\n]\n";
    const Document document = parse_document(text::Source("m", text));
    const Node& list = *document.root.find("x");
    CHECK(remove_from_list(text, list.span, list.items[1].span) == "x = [\n    1, # one\n    # two\n]\n");
    CHECK(remove_from_list(text, list.span, list.items[0].span) == "x = [\n    # one\n    2, # two\n]\n");
}

TEST_CASE("several elements changed, taken out or put in at once are as one after the other") {
    std::mt19937 random(17);
    std::size_t several = 0;
    for (int round = 0; round < 2000; ++round) {
        const std::string text = made_up(random);
        const Document before = parse_document(text::Source("m", text));
        if (!before.valid) continue;
        const std::size_t count = dependencies_in(before);
        std::vector<ElementChange> changes;
        std::vector<std::size_t> gone;
        std::vector<Assignments> fresh;
        std::string changed = text, left = text, grown = text;
        for (std::size_t i = count; i-- > 0;) {  // from behind, as the batches do not
            if (random() % 2 == 0) {
                const Assignments was = {{"module", fmt::format("\"d{}\"", i)}, {"versions", "\">=1\""}};
                const Assignments is = {{"module", "\"x\""}, {"optional", "true"}};
                changes.push_back({i, was, is});
                changed = change_keys(changed, "dependency", i, was, is).value();
            }
            if (random() % 2 == 0) {
                gone.push_back(i);
                left = remove_element(left, "dependency", i).value();
            }
        }
        for (std::size_t i = random() % 4; i > 0; --i) {
            fresh.push_back({{"module", fmt::format("\"new{}\"", i)}});
            grown = append_element(grown, "dependency", fresh.back());
        }
        CAPTURE(text);
        CHECK(change_elements(text, "dependency", changes).value() == changed);
        CHECK(remove_elements(text, "dependency", gone).value() == left);
        CHECK(append_elements(text, "dependency", fresh) == grown);
        several += changes.size() > 1 && gone.size() > 1 && fresh.size() > 1 ? 1 : 0;
    }
    CHECK(several > 50);
    CHECK_FALSE(change_elements("[module]\n", "dependency", {{0, {}, {{"a", "1"}}}}).has_value());
    CHECK_FALSE(remove_elements("[[dependency]]\n", "dependency", {0, 1}).has_value());
}

TEST_CASE("elements put into another order and back give the same text") {
    std::mt19937 random(11);
    std::size_t moved = 0;
    for (int round = 0; round < 2000; ++round) {
        std::string text = made_up(random);
        if (text.empty() || text.back() != '\n') continue;
        const Document before = parse_document(text::Source("m", text));
        const Node* list = before.root.find("dependency");
        if (!before.valid || list == nullptr || list->items.size() < 2) continue;
        std::vector<std::size_t> order(list->items.size()), back(order.size());
        for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
        std::shuffle(order.begin(), order.end(), random);
        for (std::size_t i = 0; i < order.size(); ++i) back[order[i]] = i;
        const auto there = reorder_elements(text, "dependency", order);
        REQUIRE(there.has_value());
        CAPTURE(text);
        CAPTURE(*there);
        const Document after = parse_document(text::Source("m", *there));
        REQUIRE(after.valid);
        const Node* now = after.root.find("dependency");
        REQUIRE(now->items.size() == order.size());
        for (std::size_t i = 0; i < order.size(); ++i)
            CHECK(now->items[i].find("module")->text == list->items[order[i]].find("module")->text);
        CHECK(there->size() == text.size());
        const auto again = reorder_elements(*there, "dependency", back);
        CHECK((again.has_value() && *again == text));
        moved += *there == text ? 0 : 1;
    }
    CHECK(moved > 100);
    CHECK_FALSE(reorder_elements("[module]\n", "dependency", {0}).has_value());
}
