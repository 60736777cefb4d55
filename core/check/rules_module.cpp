#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <map>

#include "core/check/rules.hpp"
#include "core/files/read.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/search/view.hpp"
#include "core/text/names.hpp"
#include "core/text/pattern.hpp"
#include "core/text/utf8.hpp"

namespace envar::check {
namespace {

using model::Card;
using model::Module;

std::string rule_hint(const Card& card, const std::string& name, const re2::RE2& pattern) {
    const auto form = text::name_form(card.form).value_or(text::NameForm::snake);
    const std::string better = text::in_form(name, form);
    if (better != name && re2::RE2::FullMatch(better, pattern)) return fmt::format("did you mean `{}`?", better);
    return fmt::format("names for {} look like `{}`", card.name.value, card.module_example);
}

/// Whether the folder may be called as it likes: a file of the module tells the host its name, or the module came as
/// it is and the host comes to its entry file by its name alone.
bool is_named_by_file(const Module& module, const Card* card) {
    if (card == nullptr) return false;
    if (!card->walk.file.empty()) return true;
    return module.manifest.keeps_own_files &&
           (card->is_native() || !card->index.files.empty() || search::root_of(*card, module).has_value());
}

void name_against_card(const Module& module, const Card& card, Findings& findings) {
    const auto& name = module.manifest.name;
    const re2::RE2 pattern(card.module_pattern.value, re2::RE2::Quiet);
    const std::string shown = text::shortened(text::printable(name.value), 60);
    const bool as_it_came = module.manifest.keeps_own_files && is_named_by_file(module, &card);
    if (!as_it_came && !card.module_pattern.value.empty() && pattern.ok() &&
        !re2::RE2::FullMatch(name.value, pattern))
        findings.push_back(module.source.finding("EV201", name.span,
                                                 fmt::format("`{}` is no module name for {}", shown, card.name.value),
                                                 rule_hint(card, name.value, pattern)));
    const auto is_of = [&](const std::vector<std::string>& words) {
        return std::find(words.begin(), words.end(), name.value) != words.end();
    };
    if (is_of(card.keywords) || is_of(card.reserved))
        findings.push_back(module.source.finding("EV206", name.span,
                                                 fmt::format("`{}` is a reserved word of {}", shown, card.name.value),
                                                 "choose another name, of two words for instance"));
}

}  // namespace

void known_host(const Facts& facts, Findings& findings) {
    std::vector<std::string> cards;
    for (const Card& card : facts.space.cards) cards.push_back(card.name.value);
    const auto report = [&](const text::Source& source, const model::Word& host) {
        if (host.value.empty() || facts.space.card(host.value) != nullptr) return;
        std::string hint = text::did_you_mean(host.value, cards);
        if (hint.empty()) hint = "`envar hosts` lists the cards that there are";
        findings.push_back(
            source.finding("EV207", host.span, fmt::format("there is no card for the host `{}`", host.value), hint));
    };
    for (const Module& module : facts.space.modules) report(module.source, module.manifest.host);
    for (const auto& search : facts.space.settings.search) report(facts.space.document.source, search.host);
}

void module_name(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules) {
        const Card* card = facts.space.card(module.manifest.host.value);
        if (card != nullptr) name_against_card(module, *card, findings);
        const std::string wanted = card == nullptr
                                       ? module.name()
                                       : text::fill(card->module_folder, search::path_values(module.manifest, *card));
        const auto depth = std::count(wanted.begin(), wanted.end(), '/');
        std::string folder = module.folder.filename().string();
        auto above = module.folder.parent_path();
        for (std::ptrdiff_t i = 0; i < depth; ++i, above = above.parent_path())
            folder.insert(0, above.filename().string() + "/");
        if (folder == wanted || is_named_by_file(module, card)) continue;
        if (card != nullptr && search::in_version_folder(*card, module, wanted)) continue;
        const std::string hint = wanted == module.name()
                                     ? fmt::format("call both `{}` or both `{}`", module.name(), folder)
                                     : fmt::format("modules for {} lie in `{}`", card->name.value, wanted);
        findings.push_back(module.source.finding(
            "EV202", module.manifest.name.span,
            fmt::format("the module is called `{}`, but its folder `{}`", module.name(), folder), hint));
    }
}

void one_module_a_name(const Facts& facts, Findings& findings) {
    const auto& modules = facts.space.modules;  // sorted by name
    for (std::size_t i = 1; i < modules.size(); ++i) {
        if (modules[i].name() != modules[i - 1].name()) continue;
        if (modules[i].version() != modules[i - 1].version()) continue;  // side by side
        const auto report = [&](const Module& module, const Module& other) {
            findings.push_back(module.source.finding(
                "EV205", module.manifest.name.span, fmt::format("there are two modules called `{}`", module.name()),
                fmt::format("the other one is {}; rename one of them", other.source.file())));
        };
        report(modules[i], modules[i - 1]);
        report(modules[i - 1], modules[i]);
    }
}

void entry_file(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules) {
        const Card* card = facts.space.card(module.manifest.host.value);
        const model::Word& declared = module.manifest.entry.file;
        if (card == nullptr || (declared.value.empty() && card->entry_file.empty())) continue;
        const auto file = members::entry_file(module, *card);
        const std::string shown = files::shown_path(file, module.folder);
        const text::Span span = declared.value.empty() ? module.manifest.module_span : declared.span;
        if (!files::resolves_inside(file, module.folder)) {
            findings.push_back(module.source.finding(
                "EV204", span, fmt::format("the entry file `{}` leaves the module through a link", shown),
                "put the file itself into the module"));
        } else if (!files::is_file(file)) {
            const std::string near =
                text::did_you_mean(file.filename().string(), files::list_folder(file.parent_path()));
            const bool folder = files::is_folder(file);
            findings.push_back(module.source.finding(
                "EV203", span,
                folder ? fmt::format("the entry file `{}` is a folder", shown)
                       : fmt::format("the entry file `{}` is not there", shown),
                near.empty() || folder
                    ? fmt::format("write it, or name another file in `[entry] file` ({})", module.shown_folder)
                    : near));
        }
    }
}

void entry_rules(const Facts& facts, Findings& findings) {
    std::map<std::string, re2::RE2> compiled;
    for (const auto& [module, scan] : facts.scans) {
        if (!scan.readable || module->manifest.keeps_own_files) continue;  // such has its own ways
        for (const model::EntryRule& rule : facts.space.card(module->manifest.host.value)->entry_rules) {
            const re2::RE2& pattern =
                compiled.try_emplace(rule.pattern, "(?m)" + rule.pattern, re2::RE2::Quiet).first->second;
            if (!pattern.ok() || text::holds_with_name(pattern, scan.source.text(), module->name())) continue;
            findings.push_back(scan.source.finding("EV214", {}, rule.message, rule.hint));
        }
    }
}

void load_phase(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules) {
        const Card* card = facts.space.card(module.manifest.host.value);
        const model::EntryPoint& entry = module.manifest.entry;
        if (card == nullptr) continue;
        const bool known =
            std::find(card->phases.begin(), card->phases.end(), entry.phase.value) != card->phases.end();
        if (!entry.phase.value.empty() && !known)
            findings.push_back(module.source.finding(
                "EV113", entry.phase.span, fmt::format("{} has no phase `{}`", card->name.value, entry.phase.value),
                fmt::format("its phases are: {}", fmt::join(card->phases, ", "))));
        for (const model::Word* hook : {&entry.start, &entry.stop})
            if (!card->hooks && !hook->value.empty())
                findings.push_back(module.source.finding(
                    "EV603", hook->span, fmt::format("{} never calls `{}`", card->name.value, hook->value),
                    "take it out, and call the member where it is needed"));
    }
}

void members_in_source(const Facts& facts, Findings& findings) {
    for (const auto& [module, scan] : facts.scans) {
        const auto& declared = module->manifest.members;
        for (std::size_t i = 0; i < declared.size(); ++i)
            for (std::size_t j = 0; j < i; ++j)
                if (declared[i].name.value == declared[j].name.value) {
                    findings.push_back(module->source.finding(
                        "EV703", declared[i].name.span,
                        fmt::format("the member `{}` is listed twice", declared[i].name.value),
                        fmt::format("it stands first on line {}",
                                    module->source.position(declared[j].name.span.begin).line)));
                    break;
                }
        const Card& card = *facts.space.card(module->manifest.host.value);
        if (!scan.readable || card.members.empty()) continue;
        const auto comparison = members::compare(module->manifest, scan);
        std::vector<std::string> found;
        for (const auto& member : scan.members) found.push_back(member.name);
        for (const model::Member* member : comparison.not_found) {
            std::string hint = text::did_you_mean(member->name.value, found);
            if (hint.empty()) hint = fmt::format("define it in {}, or take it off the list", scan.source.file());
            findings.push_back(module->source.finding(
                "EV701", member->name.span,
                fmt::format("{} does not define `{}`", scan.source.file(), member->name.value), hint));
        }
        for (const auto& [own, member] : comparison.differently_called)
            findings.push_back(module->source.finding(
                "EV704", own->name.span,
                fmt::format("`{}` takes ({}) in {}, and ({}) here", member->name,
                            fmt::join(members::parameter_names(*member), ", "),
                            scan.source_of(*member).file() + ":" + std::to_string(member->line),
                            fmt::join(members::parameter_names(*own), ", ")),
                "`envar members --sync` takes them from the code"));
        if (!module->sound) continue;  // a table with an error in it may be the one that lists it
        for (const members::FoundMember* member : comparison.not_listed)
            findings.push_back(scan.source_of(*member).finding(
                "EV702", member->span,
                fmt::format("`{}` is exported, but the manifest does not list it", member->name),
                "`envar members` compares the two, and `envar members --sync` lists it"));
    }
}

}  // namespace envar::check
