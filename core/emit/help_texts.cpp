#include "core/emit/help_texts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/members/scan.hpp"
#include "core/text/utf8.hpp"

namespace envar::emit {
namespace {

/// What is not UTF-8 is shown as such.
std::string clean(const std::string& text) { return text::first_invalid_utf8(text) ? text::printable(text) : text; }

MemberTexts texts_of(const model::Member* declared, const members::FoundMember* found, const model::Module& module) {
    MemberTexts out;
    if (found != nullptr) {
        out = {found->name, found->kind, found->summary, found->description, found->returns, {}, {}, {}};
        for (const auto& p : found->parameters)
            out.parameters.push_back({p.name, p.type, p.preset, p.summary, p.required});
        out.place = fmt::format("{}:{}", found->file, found->line);
    }
    if (declared != nullptr) {
        out.name = declared->name.value;
        out.kind = declared->kind;
        out.since = declared->since.value;
        if (!declared->summary.empty()) out.summary = declared->summary;
        if (!declared->returns.empty()) out.returns = declared->returns;
        std::vector<ParameterTexts> parameters;
        for (const auto& p : declared->parameters) {
            ParameterTexts one{p.name.value, p.type, p.preset.text, p.summary, p.required};
            for (const auto& from : out.parameters)
                if (from.name == one.name) {
                    if (one.type.empty()) one.type = from.type;
                    if (one.summary.empty()) one.summary = from.summary;
                }
            parameters.push_back(std::move(one));
        }
        if (!parameters.empty()) out.parameters = std::move(parameters);
        if (out.place.empty())
            out.place =
                fmt::format("{}:{}", module.source.file(), module.source.position(declared->name.span.begin).line);
    }
    for (std::string* text : {&out.summary, &out.description, &out.returns}) *text = clean(*text);
    for (auto& p : out.parameters)
        for (std::string* text : {&p.name, &p.type, &p.preset, &p.summary}) *text = clean(*text);
    return out;
}

}  // namespace

std::vector<ModuleTexts> module_texts(const model::Space& space) {
    std::vector<ModuleTexts> out;
    members::PatternsByCard patterns;
    for (const auto& module : space.modules) {
        const model::Card* card = space.card(module.manifest.host.value);
        if (card == nullptr || space.module(module.name()) != &module) continue;
        const auto scan = members::scan(module, *card, space.root, patterns.of(*card));
        ModuleTexts& one = out.emplace_back();
        one.module = &module;
        one.card = card;
        const auto& declared = module.manifest.members;
        const auto find = [&](const std::string& name) {
            const auto at = std::find_if(declared.begin(), declared.end(),
                                         [&](const model::Member& m) { return m.name.value == name; });
            return at == declared.end() ? nullptr : &*at;
        };
        for (const auto& found : scan.members)
            if (const auto* own_row = find(found.name);
                own_row != nullptr || members::exports_all(module.manifest, scan))
                one.members.push_back(texts_of(own_row, &found, module));
        for (const auto& row : declared)
            if (std::none_of(scan.members.begin(), scan.members.end(),
                             [&](const auto& m) { return m.name == row.name.value; }))
                one.members.push_back(texts_of(&row, nullptr, module));
    }
    return out;
}

std::vector<text::Translatable> translatables(const std::vector<ModuleTexts>& modules) {
    std::vector<text::Translatable> out;
    for (const std::string* word :
         {&help_words::name, &help_words::synopsis, &help_words::members, &help_words::needs, &help_words::returns,
          &help_words::since, &help_words::optional, &help_words::otherwise})
        out.push_back({*word, {}, "a word of the pages themselves"});
    for (const auto& one : modules) {
        const auto& manifest = one.module->manifest;
        const std::string file = one.module->source.file();
        out.push_back({clean(manifest.summary), {file}, "what the module does"});
        for (const auto& d : manifest.dependencies) out.push_back({clean(d.reason), {file}, "why it is needed"});
        for (const auto& member : one.members) {
            out.push_back({member.summary, {member.place}, {}});
            out.push_back({member.description, {member.place}, {}});
            for (const auto& p : member.parameters) out.push_back({p.summary, {member.place}, "of a parameter"});
            out.push_back({member.returns, {member.place}, "what is returned"});
        }
    }
    return out;
}

}  // namespace envar::emit
