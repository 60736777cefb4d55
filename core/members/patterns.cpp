// What a card says about definitions, compiled.
#include <algorithm>
#include <utility>

#include "core/members/definitions.hpp"
#include "core/members/matching.hpp"

namespace envar::members {
namespace {

constexpr std::string_view usual_parameter =
    R"((?s)^(?P<name>[^\s=:]+)\s*(?::\s*(?P<type>[^=]+?))?\s*(?::?=\s*(?P<default>.*))?$)";

Patterns::Compiled::ParameterGroups groups_of(const re2::RE2& pattern) {
    return {group(pattern, "name"),    group(pattern, "type"),     group(pattern, "declared"),
            group(pattern, "default"), group(pattern, "optional"), group(pattern, "named"),
            group(pattern, "summary")};
}

}  // namespace

Patterns::Compiled::Compiled(const model::Card& card)
    : grammar(card),
      table(card.table_pattern, ""),
      exports(card.export_pattern, "names"),
      condition_begins(card.condition_begin, ""),
      condition_ends(card.condition_end, ""),
      export_lists(card),
      imports{card.import_pattern.empty() ? nullptr : compile_pattern("(?m)" + card.import_pattern), 0, 0,
              Finder(card.import_each, "name")} {
    if (imports.pattern) {
        imports.name = group(*imports.pattern, "name");
        imports.names = group(*imports.pattern, "names");
    }
    for (const auto& member : card.members) {
        Member made;
        made.pattern = compile_pattern(member.pattern);
        if (!made.pattern) continue;
        made.role = member.role;
        made.owner = compile_pattern(member.owner);
        if (made.owner) made.owner_table = group(*made.owner, "table");
        has_other_names = has_other_names || member.role == model::MemberRole::other_name;
        made.each = Finder(member.each, "name");
        made.kind = member.kind;
        made.only_in_parts = member.only_in_parts;
        made.bare = member.bare;
        made.name = group(*made.pattern, "name");
        made.names = group(*made.pattern, "names");
        made.declared = group(*made.pattern, "declared");
        made.file = group(*made.pattern, "file");
        made.ending = group(*made.pattern, "ending");
        made.from = group(*made.pattern, "from");
        if (made.name == 0 && made.names == 0 && made.declared == 0 && made.role != model::MemberRole::none &&
            made.file == 0 && made.ending == 0 && made.from == 0)
            continue;
        made.parameters = group(*made.pattern, "parameters");
        made.table = group(*made.pattern, "table");
        made.alias = group(*made.pattern, "alias");
        made.behind = group(*made.pattern, "behind");
        made.in_line = !member.pattern.starts_with('^') && !member.pattern.starts_with("(?m)^");
        if (!made.in_line) made.opening = text::Opening(*made.pattern);
        members.push_back(std::move(made));
    }
    for (const Member& member : members)
        for (std::size_t c = 0; c < beginning_with.size(); ++c)
            if (member.opening.admits(static_cast<unsigned char>(c)))
                beginning_with.at(c)[member.owner ? 1 : 0].push_back(&member);
    for (const std::string& text : card.before_patterns)
        if (Pattern pattern = compile_pattern(text)) {
            text::Opening opening(*pattern);
            before.push_back({std::move(pattern), std::move(opening)});
        }
    for (std::size_t c = 0; c < begins_before.size(); ++c)
        begins_before.at(c) = std::any_of(before.begin(), before.end(), [&](const Before& one) {
            return one.opening.admits(static_cast<unsigned char>(c));
        });
    for (const std::string& word : card.keywords)
        if (!word.empty() && word.size() < 64) {
            own_words.insert(word);
            own_sizes.at(static_cast<unsigned char>(word.front())) |= std::uint64_t{1} << word.size();
        }
    internal = compile_pattern(card.internal_pattern);
    scope = compile_pattern(card.scope_pattern);
    if (scope) scope_name = group(*scope, "name");
    scope_line = compile_pattern(card.scope_line_pattern);
    if (scope_line) scope_line_name = group(*scope_line, "name"), scope_line_opening = text::Opening(*scope_line);
    attached = compile_pattern(card.attached_pattern);
    continues = compile_pattern(card.continues_pattern);
    leads = compile_pattern(card.leads_pattern);
    parameter = compile_pattern(card.parameter_pattern);
    if (!parameter) parameter = compile_pattern(std::string(usual_parameter));
    if (parameter->pattern().starts_with('^') && text::alternatives_of(parameter->pattern()).size() == 1)
        parameter_opening = text::Opening(*parameter);
    doc_parameter = compile_pattern(card.doc_parameter_pattern);
    parameter_groups = groups_of(*parameter);
    if (doc_parameter) doc_opening = text::Opening(*doc_parameter);
    if (doc_parameter) doc_groups = groups_of(*doc_parameter);
}

Declared Patterns::Compiled::declared(std::string_view text) const {
    const Declared found = declared_in(text);
    return is_own_word(found.name) ? Declared() : found;
}

bool Patterns::Compiled::goes_on(std::string_view statement) const {
    return continues && re2::RE2::PartialMatch(piece(statement), *continues);
}

bool Patterns::Compiled::leads_on(std::string_view statement) const {
    return leads && re2::RE2::PartialMatch(piece(statement), *leads);
}

}  // namespace envar::members
