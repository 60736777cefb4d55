// Lists of what a text exports.
#include <algorithm>
#include <utility>

#include "core/members/definitions.hpp"
#include "core/members/grammar.hpp"

namespace envar::members {
namespace {

/// The names that are patterns, or those that are not.
std::vector<std::string> some_of(const std::vector<std::string>& names, bool globs, bool patterns) {
    std::vector<std::string> out;
    for (const auto& name : names)
        if ((globs && name.find_first_of("*?[") != std::string::npos) == patterns) out.push_back(name);
    return out;
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

ExportLists::ExportLists(const model::Card& card)
    : pattern_(compile_pattern(card.export_lists.empty() ? "" : "(?m)" + card.export_lists)),
      globs_(card.export_globs) {
    if (!pattern_) return;
    for (const auto& [group, number] : pattern_->NamedCapturingGroups()) {
        if (group == "name") name_ = number;
        if (group.starts_with("names")) lists_.push_back(number);
    }
}

void ExportLists::follow(std::string_view code, std::string_view text, Outside& outside) const {
    if (!pattern_ || outside.exports.empty()) return;
    std::map<std::string, std::vector<std::string>, std::less<>> known;
    std::vector<re2::StringPiece> found(static_cast<std::size_t>(pattern_->NumberOfCapturingGroups()) + 1);
    for (std::size_t at = 0; at < code.size() && pattern_->Match(piece(code), at, code.size(), re2::RE2::UNANCHORED,
                                                                 found.data(), static_cast<int>(found.size()));) {
        Outside list;
        for (const int number : lists_)
            if (const auto& one = found.at(static_cast<std::size_t>(number)); one.data() != nullptr)
                add_listed_names(text.substr(static_cast<std::size_t>(one.data() - code.data()), one.size()), globs_,
                                 list);
        auto& names = known[found.at(static_cast<std::size_t>(name_)).as_string()];
        names.insert(names.end(), list.exports.begin(), list.exports.end());
        const auto end = static_cast<std::size_t>(found[0].data() - code.data()) + found[0].size();
        at = std::max(end, at + 1);
    }
    // A list may name other ones; each is taken once.
    for (std::size_t at = 0; at < outside.exports.size(); ++at) {
        const auto list = known.find(outside.exports[at]);
        if (list == known.end()) continue;
        outside.exports.insert(outside.exports.end(), list->second.begin(), list->second.end());
        known.erase(list);
    }
}

}  // namespace envar::members
