// The module that is gathered: its code, and its plan through scaffold.
#include "core/life/gather.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <set>

#include "core/life/adopt_facts.hpp"
#include "core/life/sync.hpp"
#include "core/versions/version.hpp"

namespace envar::life {
namespace {

using text::refuse;
using text::Result;

std::string rewritten(std::string code, const model::Pairs& pairs) {
    for (const auto& [pattern, by] : pairs) {
        const re2::RE2 compiled(pattern, re2::RE2::Quiet);
        if (compiled.ok()) re2::RE2::GlobalReplace(&code, compiled, by);
    }
    return code;
}

/// The forms that the card's files have, in their order.
std::vector<std::string> forms_of(const model::Card& card) {
    std::vector<std::string> forms;
    for (const auto& file : card.gather.files)
        for (const auto& form : file.blueprints)
            if (std::find(forms.begin(), forms.end(), form) == forms.end()) forms.push_back(form);
    return forms;
}

}  // namespace

emit::GatheredCode gathered_code(const LooseScripts& scripts, const model::Card& card, const Chosen& chosen) {
    struct Piece {
        std::size_t begin;
        emit::GatheredCode::Item item;
    };
    std::map<std::size_t, std::vector<Piece>> pieces;
    const members::InternalNames internal(card);
    const auto add = [&](std::size_t index, bool exported) {
        const LooseFunction& function = scripts.functions[index];
        const members::FoundMember& member = function.member;
        const std::size_t head = member.extent.begin - member.top;
        pieces[function.script].push_back(
            {member.top,
             {function.code.substr(0, head) + rewritten(function.code.substr(head), card.gather.head_rewritten),
              function.name(), member.owner.empty() ? member.scope : member.owner,
              exported || (card.gather.exports_helpers && !internal.has(function.name()))}});
    };
    for (const std::size_t i : chosen.exported) add(i, true);
    for (const std::size_t i : chosen.helpers) add(i, false);
    std::set<std::string_view> names;
    for (const auto* list : {&chosen.exported, &chosen.helpers})
        for (const std::size_t i : *list) names.insert(scripts.functions[i].name());
    std::set<std::string> said;  // what several scripts do in the same way is done once
    for (const auto& [script, statements] : chosen.along)
        for (const std::size_t i : statements) {
            const LooseStatement& one = scripts.scripts[script].statements[i];
            if (!said.insert(one.code).second) continue;
            pieces[script].push_back({one.begin, {one.code}});
            pieces[script].back().item.always = one.always;
            pieces[script].back().item.late = std::any_of(one.words.begin(), one.words.end(),
                                                          [&](const auto& word) { return names.count(word) != 0; });
            pieces[script].back().item.shared = rewritten(one.code, card.gather.along_rewritten);
        }
    emit::GatheredCode code;
    for (auto& [script, own] : pieces) {
        std::stable_sort(own.begin(), own.end(), [](const Piece& a, const Piece& b) { return a.begin < b.begin; });
        auto& into = code.scripts.emplace_back();
        into.file = scripts.scripts[script].file;
        for (Piece& piece : own) into.items.push_back(std::move(piece.item));
    }
    return code;
}

/// The version that the scripts tell of themselves, where all that give functions and tell one tell the same.
std::string version_told(const model::Card& card, const LooseScripts& scripts, const Chosen& chosen) {
    std::set<std::size_t> from;
    for (const auto* list : {&chosen.exported, &chosen.helpers})
        for (const std::size_t i : *list) from.insert(scripts.functions[i].script);
    std::set<std::string> told;
    for (const std::size_t script : from)
        for (const LooseStatement& one : scripts.scripts[script].statements)
            if (one.own)
                if (std::string version = first_match(card.adopt.version, one.code);
                    versions::parse_version(version, card.scheme))
                    told.insert(std::move(version));
    return told.size() == 1 ? *told.begin() : "";
}

Result<files::Plan> gather_plan(const model::Space& space, ScaffoldOrder order, const std::string& form,
                                const LooseScripts& scripts, const Chosen& chosen) {
    const model::Card* card = space.card(order.host);
    if (card == nullptr) return refuse(fmt::format("there is no card for the host `{}`", order.host));
    if (!chosen.clashes.empty()) return refuse("some functions are still to be chosen");
    const auto forms = forms_of(*card);
    if (forms.empty())
        return refuse(fmt::format("the card {} does not say how functions are gathered", order.host),
                      "a card needs [[gather.file]] for that");
    emit::GatheredCode code = gathered_code(scripts, *card, chosen);
    code.form = form.empty() ? forms.front() : form;
    if (std::find(forms.begin(), forms.end(), code.form) == forms.end())
        return refuse(fmt::format("modules for {} are not gathered as {}", order.host, code.form),
                      fmt::format("there is: {}", fmt::join(forms, ", ")));
    std::map<std::string_view, const LooseFunction*> taken;
    for (const auto* list : {&chosen.exported, &chosen.helpers})
        for (const std::size_t i : *list) taken[scripts.functions[i].name()] = &scripts.functions[i];
    for (const auto& script : code.scripts)
        for (const auto& item : script.items) {
            if (!item.exported) continue;
            model::Member member = member_of(taken.at(item.name)->member, nullptr);
            if (member.summary.empty()) member.summary = fmt::format("What {} does, in one sentence.", item.name);
            order.gathered_members.push_back(std::move(member));
        }
    order.gathered = &code;
    if (order.version.empty()) order.version = version_told(*card, scripts, chosen);
    order.blueprint.clear();
    return scaffold_plan(space, order);
}

}  // namespace envar::life
