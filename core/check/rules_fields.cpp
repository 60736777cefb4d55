// What the values of one manifest say of each other.
#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <optional>
#include <set>

#include "core/check/rules.hpp"
#include "core/text/names.hpp"

namespace envar::check {
namespace {

using model::Module;
using model::NodeKind;
using model::Scalar;
using model::Word;

void contradiction(const Module& module, text::Span span, std::string message, std::string hint, Findings& findings) {
    findings.push_back(module.source.finding("EV115", span, std::move(message), std::move(hint)));
}

/// Tells each word that stands in the list before.
void no_repeats(const text::Source& source, const std::vector<const Word*>& words, std::string_view what,
                Findings& findings) {
    for (std::size_t i = 0; i < words.size(); ++i)
        for (std::size_t j = 0; j < i; ++j) {
            if (words[i]->value != words[j]->value || words[i]->value.empty()) continue;
            findings.push_back(source.finding(
                "EV115", words[i]->span, fmt::format("the {} `{}` is listed twice", what, words[i]->value),
                fmt::format("it stands first on line {}; take one out", source.position(words[j]->span.begin).line)));
            break;
        }
}

template <class List, class Get>
std::vector<const Word*> words_of(const List& list, Get get) {
    std::vector<const Word*> words;
    words.reserve(list.size());
    for (const auto& item : list) words.push_back(&get(item));
    return words;
}

void default_of_required(const Module& module, const std::string& name, const Scalar& preset, Findings& findings) {
    contradiction(module, preset.span, fmt::format("`{}` has a default, but must always be given", name),
                  "say `required = false`, or take the default out", findings);
}

bool has_type(const Scalar& value, const std::string& type) {
    if (type == "integer") return value.kind == NodeKind::integer;
    if (type == "number") return value.kind == NodeKind::integer || value.kind == NodeKind::number;
    if (type == "boolean") return value.kind == NodeKind::boolean;
    return value.kind == NodeKind::text;
}

std::optional<double> number_of(const Scalar& value) {
    if (value.kind != NodeKind::integer && value.kind != NodeKind::number) return std::nullopt;
    std::string plain = value.text;
    std::erase(plain, '_');
    return std::strtod(plain.c_str(), nullptr);
}

void bounds_of(const Module& module, const model::Tunable& tunable, Findings& findings) {
    const auto least = number_of(tunable.least);
    const auto most = number_of(tunable.most);
    const auto preset = number_of(tunable.preset);
    const bool numeric = tunable.type == "integer" || tunable.type == "number";
    for (const Scalar* bound : {&tunable.least, &tunable.most})
        if (bound->given() && !numeric)
            contradiction(module, bound->span,
                          fmt::format("`{}` takes {}, which has no bounds", tunable.name.value, tunable.type),
                          "bounds go with `type = \"number\"` or `type = \"integer\"`", findings);
    if (least && most && *least > *most)
        contradiction(module, tunable.least.span,
                      fmt::format("the least value of `{}` is above its largest", tunable.name.value),
                      "change the two, or one of them", findings);
    if (preset && ((least && *preset < *least) || (most && *preset > *most)))
        contradiction(
            module, tunable.preset.span,
            fmt::format("the default {} of `{}` is out of its bounds", tunable.preset.text, tunable.name.value),
            fmt::format("it must lie from {} to {}", least ? tunable.least.text : "anything",
                        most ? tunable.most.text : "anything"),
            findings);
}

void one_tunable(const Module& module, const model::Tunable& tunable, Findings& findings) {
    const std::string& name = tunable.name.value;
    if (tunable.preset.given()) {
        if (tunable.required) default_of_required(module, name, tunable.preset, findings);
        if (!has_type(tunable.preset, tunable.type))
            contradiction(module, tunable.preset.span,
                          fmt::format("the default of `{}` is {}, but its type is {}", name,
                                      model::kind_name(tunable.preset.kind), tunable.type),
                          "change the default or the type", findings);
    }
    if (!tunable.values.empty() && tunable.type != "text")
        contradiction(module, tunable.values.front().span,
                      fmt::format("`{}` takes {}, but lists its values as texts", name, tunable.type),
                      "a list of values goes with `type = \"text\"`", findings);
    const auto is_default = [&](const Word& value) { return value.value == tunable.preset.text; };
    if (tunable.preset.kind == NodeKind::text && !tunable.values.empty() &&
        std::none_of(tunable.values.begin(), tunable.values.end(), is_default)) {
        std::vector<std::string> values;
        for (const Word& value : tunable.values) values.push_back(value.value);
        const std::string near = text::did_you_mean(tunable.preset.text, values);
        contradiction(module, tunable.preset.span, fmt::format("the default of `{}` is none of its values", name),
                      near.empty() ? fmt::format("its values are: {}", fmt::join(values, ", ")) : near, findings);
    }
    bounds_of(module, tunable, findings);
}

void one_member(const Module& module, const model::Member& member, versions::Scheme scheme, Findings& findings) {
    for (const model::Parameter& parameter : member.parameters)
        if (parameter.preset.given() && parameter.required)
            default_of_required(module, parameter.name.value, parameter.preset, findings);
    std::vector<const Word*> names;
    for (const model::Parameter& parameter : member.parameters)
        if (!parameter.is_unused()) names.push_back(&parameter.name);
    no_repeats(module.source, names, "parameter", findings);
    const auto since = versions::parse_version(member.since.value, scheme);
    if (since && module.manifest.version && *module.manifest.version < *since)
        contradiction(module, member.since.span,
                      fmt::format("`{}` is there since {}, but the module is {}", member.name.value,
                                  member.since.value, module.version()),
                      "raise the module's version, or mend `since`", findings);
}

void fronts_of(const Module& module, const Facts& facts, Findings& findings) {
    std::set<std::pair<int, std::string>> seen;
    for (const model::Front& front : module.manifest.fronts) {
        const bool hosted = front.kind != model::FrontKind::command;
        if (module.manifest.native.span.empty())
            contradiction(module, front.span, "a front needs a native core, and there is no `[native]`",
                          "add `[native]` with the sources of the core", findings);
        if (hosted && front.host.value.empty())
            contradiction(module, front.span, "a plugin or a binding is for a host, and none is named",
                          "add `host = \"…\"`: the name of a card", findings);
        if (!hosted && !front.host.value.empty())
            contradiction(module, front.host.span, "a command runs by itself, without a host",
                          "take `host` out, or make it a plugin or a binding", findings);
        if (hosted && !front.host.value.empty() && facts.space.card(front.host.value) == nullptr)
            findings.push_back(module.source.finding(
                "EV207", front.host.span, fmt::format("there is no card for the host `{}`", front.host.value),
                "`envar hosts` lists the cards that there are"));
        const std::string name = front.name.value.empty() ? module.name() : front.name.value + " " + front.host.value;
        if (!seen.insert({static_cast<int>(front.kind), name}).second)
            contradiction(module, front.span, "the same front stands above already",
                          "take one out, or name them apart", findings);
    }
}

void native_core(const Module& module, Findings& findings) {
    const model::Native& native = module.manifest.native;
    if (native.kind == model::NativeKind::headers && !native.sources.empty())
        contradiction(module, native.sources.front().span, "a library of headers alone has nothing to compile",
                      "take the sources out, or say `kind = \"static\"`", findings);
    std::vector<const Word*> files;
    for (const auto* list : {&native.public_headers, &native.private_headers, &native.sources})
        for (const Word& word : *list) files.push_back(&word);
    no_repeats(module.source, files, "file", findings);
}

/// Names that stand for other modules and must not be the module's own.
void others(const Module& module, Findings& findings) {
    const auto& manifest = module.manifest;
    for (const Word& after : manifest.entry.after)
        if (after.value == module.name())
            contradiction(module, after.span, fmt::format("`{}` cannot come after itself", after.value),
                          "take it off the list", findings);
    for (const model::Provided& provided : manifest.provides)
        if (provided.module.value == module.name())
            contradiction(module, provided.module.span,
                          fmt::format("`{}` answers to its own name anyway", module.name()), "take the table out",
                          findings);
    for (const model::Conflict& conflict : manifest.conflicts) {
        if (conflict.module.value == module.name())
            contradiction(module, conflict.module.span, fmt::format("`{}` conflicts with itself", module.name()),
                          "name the other module", findings);
        for (const model::Dependency& d : manifest.dependencies)
            if (d.module.value == conflict.module.value && conflict.versions.is_any())
                contradiction(module, conflict.module.span,
                              fmt::format("`{}` is a dependency and a conflict", d.module.value),
                              "narrow the versions of the conflict, or take one out", findings);
    }
    no_repeats(module.source, words_of(manifest.provides, [](const auto& p) -> const Word& { return p.module; }),
               "provided name", findings);
}

}  // namespace

void values_agree(const Facts& facts, Findings& findings) {
    const model::SchemeOf scheme_of = model::schemes_of(facts.space.cards);
    for (const Module& module : facts.space.modules) {
        const versions::Scheme scheme = scheme_of(module.manifest.host.value);
        for (const model::Member& member : module.manifest.members) one_member(module, member, scheme, findings);
        for (const model::Tunable& tunable : module.manifest.parameters) one_tunable(module, tunable, findings);
        no_repeats(module.source,
                   words_of(module.manifest.parameters, [](const auto& p) -> const Word& { return p.name; }),
                   "parameter", findings);
        fronts_of(module, facts, findings);
        native_core(module, findings);
        others(module, findings);
    }
}

void workspace_repeats(const Facts& facts, Findings& findings) {
    const model::WorkspaceFile& settings = facts.space.settings;
    const text::Source& source = facts.space.document.source;
    no_repeats(source, words_of(settings.targets, [](const auto& t) -> const Word& { return t.name; }), "target",
               findings);
    no_repeats(source, words_of(settings.pins, [](const auto& p) -> const Word& { return p.module; }),
               "pinned module", findings);
    no_repeats(source, words_of(settings.folders, [](const auto& w) -> const Word& { return w; }), "folder",
               findings);
    no_repeats(source, words_of(settings.platforms, [](const auto& w) -> const Word& { return w; }), "platform",
               findings);
    for (const auto& target : settings.targets)
        no_repeats(source, words_of(target.modules, [](const auto& w) -> const Word& { return w; }), "module",
                   findings);
    for (std::size_t i = 0; i < settings.search.size(); ++i)
        for (std::size_t j = 0; j < i; ++j)
            if (settings.search[i].host.value == settings.search[j].host.value &&
                settings.search[i].folder.value == settings.search[j].folder.value) {
                findings.push_back(
                    source.finding("EV115", settings.search[i].folder.span,
                                   fmt::format("the search folder `{}` is listed twice for {}",
                                               settings.search[i].folder.value, settings.search[i].host.value),
                                   "take one out"));
                break;
            }
}

}  // namespace envar::check
