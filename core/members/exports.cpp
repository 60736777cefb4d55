// Lists of what a text exports.
#include <algorithm>
#include <array>
#include <utility>

#include "core/files/plan.hpp"
#include "core/members/definitions.hpp"
#include "core/members/grammar.hpp"
#include "core/members/matching.hpp"

namespace envar::members {
namespace {

/// The names that are patterns, or those that are not.
std::vector<std::string> some_of(const std::vector<std::string>& names, bool globs, bool patterns) {
    std::vector<std::string> out;
    for (const auto& name : names)
        if ((globs && name.find_first_of("*?[") != std::string::npos) == patterns) out.push_back(name);
    return out;
}

/// Whether what stood before is the key of a value.
bool is_key(std::string_view behind) {
    const std::size_t at = behind.find_first_not_of(" \t\r\n\"'");
    return at != std::string_view::npos && (behind.substr(at).starts_with("=>") || behind[at] == ':');
}

/// Envar's blocks: what is written there comes from the manifest, and tells nothing of the code.
std::vector<text::Span> blocks_in(std::string_view text) {
    std::vector<text::Span> out;
    bool open = false;
    for (std::size_t at = text.find(files::block_mark); at != std::string_view::npos;) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        const bool begins = text.substr(at, end - at).find(files::block_ends) == std::string_view::npos;
        if (begins && !open) out.push_back({at, text.size()});
        if (!begins && open) out.back().end = end;
        open = begins;
        at = text.find(files::block_mark, end);
    }
    return out;
}

bool is_within(const std::vector<text::Span>& spans, std::size_t at) {
    const auto behind = std::upper_bound(spans.begin(), spans.end(), at,
                                         [](std::size_t a, const text::Span& b) { return a < b.begin; });
    return behind != spans.begin() && at < std::prev(behind)->end;
}

/// Adds the names of a list, in quotes or not; `a . b` is a under the name b. With `globs`, brackets are part of
/// them.
void add_listed_names(std::string_view list, bool globs, Outside& outside) {
    std::vector<std::string>& names = outside.exports;
    std::string before;  // what a mark for renaming stands behind; empty: none does
    const std::string_view between = globs ? " \t\r\n\"',;(){}" : " \t\r\n\"',;(){}[]\\";
    for (std::size_t at = list.find_first_not_of(between); at != std::string_view::npos;) {
        const std::size_t end = std::min(list.find_first_of(between, at), list.size());
        std::string word(list.substr(at, end - at));
        std::erase(word, '\\');
        if (std::count(word.begin(), word.end(), '[') != std::count(word.begin(), word.end(), ']'))
            std::erase_if(word, [](char c) { return c == '[' || c == ']'; });
        if (word == "." && !names.empty()) {
            before = std::move(names.back());
            names.pop_back();
        } else if (!word.empty()) {
            if (!before.empty()) outside.renamed.emplace(std::exchange(before, {}), word);
            names.push_back(std::move(word));
        }
        at = list.find_first_not_of(between, end);
    }
}

}  // namespace

ListedNames::ListedNames(const std::vector<std::string>& names, bool globs)
    : patterns_(some_of(names, globs, true), true) {
    const std::vector<std::string> plain = some_of(names, globs, false);
    plain_.insert(plain.begin(), plain.end());
}

bool ListedNames::has(std::string_view name) const {
    return plain_.find(name) != plain_.end() || patterns_.match(name);
}

FoundMember listed_only(std::string name, std::string kind, text::Span span, const text::Source& source) {
    FoundMember member;
    member.name = std::move(name);
    member.kind = std::move(kind);
    member.only_listed = true;
    member.file = source.file();
    member.span = member.whole = member.extent = span;
    member.top = span.begin;
    member.line = source.line_of(span.begin);
    return member;
}

ExportLists::ExportLists(const model::Card& card)
    : pattern_(compile_pattern(card.export_lists.empty() ? "" : "(?m)" + card.export_lists)),
      word_(compile_pattern(card.export_made_by.empty() ? "" : card.export_word)),
      made_by_(compile_pattern(card.export_made_by.empty() ? "" : "(?m)" + card.export_made_by)),
      comment_(card.comment_begins.empty() ? card.language.comment : card.comment_begins),
      globs_(card.export_globs),
      in_quotes_(card.export_in_quotes) {
    for (const auto& quote : card.quotes) quote_words_.insert(quote.words.begin(), quote.words.end());
    if (word_) word_name_ = std::min(group(*word_, "name"), 3);
    if (!pattern_) return;
    for (const auto& [group, number] : pattern_->NamedCapturingGroups()) {
        if (group == "name") name_ = number;
        if (group.starts_with("names")) lists_.push_back(number);
    }
}

void ExportLists::add(std::string_view list, std::string_view code, std::string_view text, Outside& outside) const {
    const auto begin = static_cast<std::size_t>(list.data() - code.data());
    const text::Span span{begin, begin + list.size()};
    const std::size_t before = outside.exports.size();
    add_listed_names(text.substr(span.begin, span.end - span.begin), globs_, outside);
    if (!word_) return;
    outside.lists.push_back(span);
    for (std::size_t i = before; i < outside.exports.size() && word_name_ != 0; ++i)
        if (!is_word(outside.exports[i].front()))
            if (auto name = name_in(outside.exports[i]); !name.empty()) outside.exports[i] = std::move(name);
}

std::string ExportLists::name_in(std::string_view word) const {
    std::array<re2::StringPiece, 4> found;
    if (!word_->Match(piece(word), 0, word.size(), re2::RE2::ANCHOR_BOTH, found.data(), word_name_ + 1)) return {};
    return found.at(static_cast<std::size_t>(word_name_)).as_string();
}

/// Whether nothing but names and other lists stands in it: no word is part of an expression, or of a condition.
bool ExportLists::is_plain(std::string_view list) const {
    for (std::size_t at = 0; at < list.size();) {
        if (!is_word(list[at])) {
            ++at;
            continue;
        }
        std::size_t end = at;
        while (end < list.size() && is_word(list[end])) ++end;
        const std::string_view word = list.substr(at, end - at);
        const bool named = at > 0 && std::string_view("$@%&:").find(list[at - 1]) != std::string_view::npos;
        if (!named && !is_key(list.substr(end)) && quote_words_.find(word) == quote_words_.end()) return false;
        at = end;
    }
    return true;
}

void ExportLists::add_written(text::Span list, std::string_view code, std::string_view text, Outside& outside) const {
    constexpr std::string_view between = " \t\r\n\"',;(){}[]\\";
    if (in_quotes_ && !is_plain(code.substr(list.begin, list.end - list.begin))) return;
    std::size_t comment_end = 0;
    for (std::size_t at = list.begin; at < list.end;) {
        const std::size_t begin = text.find_first_not_of(between, at);
        if (begin >= list.end) return;
        const std::size_t end = std::min(text.find_first_of(between, begin), list.end);
        at = end;
        const std::string_view word = text.substr(begin, end - begin);
        const bool is_hidden = code[begin] == ' ';  // in quotes, or in a comment
        if (is_hidden && !comment_.empty() && word.starts_with(comment_)) comment_end = text.find('\n', begin);
        if (is_hidden != in_quotes_ || begin < comment_end) continue;
        if (word == ".") {  // what stands before it is called as the next one says
            if (!outside.written.empty()) outside.written.pop_back();
            continue;
        }
        if (is_hidden && end < list.end && code[end] != ' ' && is_key(code.substr(end, list.end - end))) continue;
        if (auto name = name_in(word); !name.empty()) outside.written.push_back({std::move(name), {begin, end}});
    }
}

void ExportLists::add_made(const std::function<bool(std::string_view)>& is_defined, std::string_view code,
                           std::string_view text, Outside& outside) const {
    if (!made_by_ || std::all_of(outside.exports.begin(), outside.exports.end(),
                                 [&](const std::string& name) { return is_defined(name) || name_in(name).empty(); }))
        return;
    if (!re2::RE2::PartialMatch(piece(code), *made_by_)) return;
    const auto blocks = blocks_in(text);
    for (const text::Span& list : outside.lists)
        if (!is_within(blocks, list.begin)) add_written(list, code, text, outside);
}

void ExportLists::follow(std::string_view code, std::string_view text, Outside& outside) const {
    if (!pattern_ || outside.exports.empty()) return;
    std::map<std::string, Outside, std::less<>> known;
    std::vector<re2::StringPiece> found(static_cast<std::size_t>(pattern_->NumberOfCapturingGroups()) + 1);
    for (std::size_t at = 0; at < code.size() && pattern_->Match(piece(code), at, code.size(), re2::RE2::UNANCHORED,
                                                                 found.data(), static_cast<int>(found.size()));) {
        Outside& list = known[found.at(static_cast<std::size_t>(name_)).as_string()];
        for (const int number : lists_)
            if (const auto& one = found.at(static_cast<std::size_t>(number)); one.data() != nullptr)
                add({one.data(), one.size()}, code, text, list);
        const auto end = static_cast<std::size_t>(found[0].data() - code.data()) + found[0].size();
        at = std::max(end, at + 1);
    }
    // A list may name other ones; each is taken once.
    for (std::size_t at = 0; at < outside.exports.size(); ++at) {
        const auto list = known.find(outside.exports[at]);
        if (list == known.end()) continue;
        const Outside& more = list->second;
        outside.exports.insert(outside.exports.end(), more.exports.begin(), more.exports.end());
        outside.lists.insert(outside.lists.end(), more.lists.begin(), more.lists.end());
        known.erase(list);
    }
}

}  // namespace envar::members
