// What documentation says against what is there, and names against advice.
#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/check/rules.hpp"
#include "core/search/naming.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"

namespace envar::check {
namespace {

using model::Card;
using model::Module;

bool takes(const members::FoundMember& member, const std::string& told) {
    // `options.color`: a field of a parameter.
    const std::string name = told.substr(0, told.find('.'));
    return std::any_of(member.parameters.begin(), member.parameters.end(),
                       [&](const auto& p) { return p.name == name || p.rest || p.name == told; });
}

void told_parameters(const members::Scan& scan, const members::FoundMember& member, Findings& findings) {
    if (!member.tells_parameters || member.has_unnamed) return;
    std::vector<std::string> names = members::parameter_names(member);
    for (const auto& told : member.told) {
        if (takes(member, told)) continue;
        std::string hint = text::did_you_mean(told, names);
        if (hint.empty())
            hint = names.empty() ? "it takes none" : fmt::format("it takes: {}", fmt::join(names, ", "));
        findings.push_back(scan.source_of(member).finding(
            "EV705", member.span,
            fmt::format("`{}` is documented to take `{}`, which it does not", member.name, told), hint));
    }
}

/// What reference pages will have to say of a member.
void pages_of(const Module& module, const members::Scan& scan, const model::Member& declared, Findings& findings) {
    const auto found = std::find_if(scan.members.begin(), scan.members.end(),
                                    [&](const auto& m) { return m.name == declared.name.value; });
    const members::FoundMember* source = found == scan.members.end() ? nullptr : &*found;
    if (declared.summary.empty() && (source == nullptr || source->summary.empty()))
        findings.push_back(module.source.finding("EV706", declared.name.span,
                                                 fmt::format("`{}` has no summary", declared.name.value),
                                                 "say in one sentence what it does, here or in a comment above it"));
    for (const auto& p : declared.parameters) {
        const bool told = !p.summary.empty() ||
                          (source != nullptr &&
                           std::any_of(source->parameters.begin(), source->parameters.end(),
                                       [&](const auto& q) { return q.name == p.name.value && !q.summary.empty(); }));
        if (!told)
            findings.push_back(module.source.finding(
                "EV707", p.name.span, fmt::format("`{}` of `{}` is not described", p.name.value, declared.name.value),
                "say what it is, here or in the comment above the definition"));
    }
}

/// What each module of a host exports, by name of the module.
using Exports = std::map<std::pair<std::string, std::string>, std::set<std::string>>;

void examples(const members::Scan& scan, const members::FoundMember& member, const std::string& host,
              const Exports& exports, Findings& findings) {
    static const re2::RE2 call(R"(\b([A-Za-z_]\w*)(?:\.|::)([A-Za-z_]\w*)\s*\()");
    re2::StringPiece rest(member.documentation);
    std::string module, name;
    while (re2::RE2::FindAndConsume(&rest, call, &module, &name)) {
        const auto known = exports.find({host, module});
        if (known == exports.end() || known->second.count(name) != 0) continue;
        std::string hint = text::did_you_mean(name, {known->second.begin(), known->second.end()});
        if (hint.empty()) hint = fmt::format("`envar members {}` lists what there is", module);
        findings.push_back(scan.source_of(member).finding(
            "EV708", member.span,
            fmt::format("the documentation of `{}` calls `{}` of {}, which is not there", member.name, name, module),
            hint));
    }
}

Exports exports_of(const Facts& facts) {
    Exports exports;
    for (const auto& [module, scan] : facts.scans) {
        const Card& card = *facts.space.card(module->manifest.host.value);
        if (!scan.readable || card.members.empty()) continue;
        auto& names = exports[{module->manifest.host.value, module->name()}];
        for (const auto& member : scan.members) names.insert(member.name);
        for (const auto& member : module->manifest.members) names.insert(member.name.value);
    }
    return exports;
}

// Names.

class Advisor {
  public:
    Advisor(const Module& module, const Card& card, const model::WorkspaceFile& settings, Findings& findings)
        : module_(module), card_(card), settings_(settings), findings_(findings) {
        for (const auto& [key, value] : search::path_values(module.manifest, card)) values_.emplace_back(key, value);
    }

    void advise(const model::NameAdvice& advice) {
        if (!advice.host.empty() && advice.host != card_.name.value) return;
        if (advice.of == "module") {
            look_at(advice, module_.name(), module_.manifest.name.span, "the module");
            return;
        }
        for (const auto& member : module_.manifest.members) {
            if (!advice.kinds.empty() &&
                std::find(advice.kinds.begin(), advice.kinds.end(), member.kind) == advice.kinds.end())
                continue;
            if (advice.of == "member") {
                // What has the module's own name is called by it.
                if (member.name.value != module_.name())
                    look_at(advice, member.name.value, member.name.span, "the " + member.kind);
                continue;
            }
            for (const auto& p : member.parameters) look_at(advice, p.name.value, p.name.span, "the parameter");
        }
    }

  private:
    [[nodiscard]] const model::WordList* list(const std::string& name) const {
        for (const auto* lists : {&settings_.word_lists, &card_.word_lists})
            for (const auto& one : *lists)
                if (one.name == name) return &one;
        return nullptr;
    }

    void look_at(const model::NameAdvice& advice, const std::string& name, text::Span span, const std::string& what) {
        const std::string prefix = text::fill(advice.prefix, values_);
        std::string rest = name, trouble;
        if (!prefix.empty()) {
            if (name.starts_with(prefix) && name.size() > prefix.size()) {
                rest = name.substr(prefix.size());
            } else {
                trouble = fmt::format("does not begin with `{}`", prefix);
            }
        }
        const std::string form = advice.form.empty() ? card_.form : advice.form;
        if (const model::WordList* words = list(advice.first); words != nullptr)
            if (const std::string better = first_word(*words, rest, form); better != rest) {
                if (trouble.empty())
                    trouble = fmt::format("begins with `{}`, which is none of the {}", text::name_words(rest).front(),
                                          words->name);
                rest = better;
            }
        const re2::RE2 pattern(advice.pattern, re2::RE2::Quiet);
        const bool has_pattern = !advice.pattern.empty() && pattern.ok();
        std::string better = rest.empty() ? "" : prefix + rest;
        if (has_pattern && !re2::RE2::FullMatch(name, pattern)) {
            if (trouble.empty()) trouble = "looks different from the others";
            better = text::in_form(name, text::name_form(form).value_or(text::NameForm::snake));
        }
        if (trouble.empty()) return;
        const bool good = !better.empty() && better != name && (!has_pattern || re2::RE2::FullMatch(better, pattern));
        findings_.push_back(
            module_.source.finding("EV709", span, fmt::format("the name of {} `{}` {}", what, name, trouble),
                                   fmt::format("{}{}", good ? fmt::format("`{}` would do", better) : hint_of(advice),
                                               advice.reason.empty() ? "" : ": " + advice.reason)));
    }

    [[nodiscard]] std::string hint_of(const model::NameAdvice& advice) const {
        const model::WordList* words = list(advice.first);
        if (words == nullptr || words->words.empty()) return "choose another one";
        const auto end =
            words->words.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(8, words->words.size()));
        return fmt::format("names begin with: {}{}", fmt::join(words->words.begin(), end, ", "),
                           end == words->words.end() ? "" : ", …");
    }

    /// The name with a first word of the list: itself when it has one; empty when none is near.
    static std::string first_word(const model::WordList& list, const std::string& name, const std::string& form) {
        auto words = text::name_words(name);
        if (words.empty()) return name;
        if (std::find(list.words.begin(), list.words.end(), words.front()) != list.words.end()) return name;
        for (const auto& [from, to] : list.instead)
            if (from == words.front()) {
                words.front() = to;
                return text::in_form(fmt::format("{}", fmt::join(words, "_")),
                                     text::name_form(form).value_or(text::NameForm::snake));
            }
        // The word may stand at the end: `log_write` for `write_log`.
        if (const auto at = std::find_first_of(words.begin(), words.end(), list.words.begin(), list.words.end());
            at != words.end()) {
            std::rotate(words.begin(), at, at + 1);
        } else if (const auto near = text::nearest(words.front(), list.words)) {
            words.front() = *near;
        } else {
            return {};
        }
        return text::in_form(fmt::format("{}", fmt::join(words, "_")),
                             text::name_form(form).value_or(text::NameForm::snake));
    }

    const Module& module_;
    const Card& card_;
    const model::WorkspaceFile& settings_;
    Findings& findings_;
    text::Values values_;
};

}  // namespace

void documentation(const Facts& facts, Findings& findings) {
    const Exports exports = exports_of(facts);
    for (const auto& [module, scan] : facts.scans) {
        for (const auto& member : scan.members) {
            told_parameters(scan, member, findings);
            examples(scan, member, module->manifest.host.value, exports, findings);
        }
        if (facts.space.settings.help.wanted())
            for (const auto& member : module->manifest.members) pages_of(*module, scan, member, findings);
    }
}

void advised_names(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules) {
        const Card* card = facts.space.card(module.manifest.host.value);
        if (card == nullptr) continue;
        Advisor advisor(module, *card, facts.space.settings, findings);
        for (const auto* list : {&card->name_advice, &facts.space.settings.name_advice})
            for (const auto& advice : *list) advisor.advise(advice);
    }
}

}  // namespace envar::check
