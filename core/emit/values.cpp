#include "core/emit/values.hpp"

#include <nlohmann/json.hpp>

#include "core/text/names.hpp"
#include "core/text/template.hpp"

namespace envar::emit {
namespace {

using nlohmann::json;

void mark_last(json& list) {
    for (auto& item : list) item["last"] = false;
    if (!list.empty()) list.back()["last"] = true;
}

json parameter_values(const model::Member& member) {
    json list = json::array();
    for (const auto& p : member.parameters)
        list.push_back({{"name", p.name.value},
                        {"type", p.type},
                        {"summary", p.summary},
                        {"required", p.required},
                        {"default", p.preset.text}});
    mark_last(list);
    return list;
}

json member_values(const model::Manifest& manifest) {
    json list = json::array();
    for (const auto& member : manifest.members)
        list.push_back({{"name", member.name.value},
                        {"kind", member.kind},
                        {"summary", member.summary},
                        {"returns", member.returns},
                        {"parameters", parameter_values(member)}});
    mark_last(list);
    return list;
}

json dependency_values(const model::Manifest& manifest) {
    json list = json::array();
    for (const auto& d : manifest.dependencies) {
        const bool conditional = !d.when.platforms.empty() || !d.when.targets.empty();
        if (conditional || d.system || d.stage != model::Stage::load) continue;
        list.push_back({{"module", d.module.value},
                        {"versions", d.versions.is_any() ? "any" : d.versions.text},
                        {"any", d.versions.is_any()},
                        {"optional", d.optional},
                        {"public", d.is_public}});
    }
    mark_last(list);
    return list;
}

}  // namespace

json module_values(const model::Manifest& manifest, const model::Card& card, const std::string& workspace) {
    const std::string& name = manifest.name.value;
    const std::string& declared = manifest.entry.file.value;
    const auto form = [&](text::NameForm wanted) { return text::in_form(name, wanted); };
    json authors = json::array();
    for (const auto& author : manifest.authors) authors.push_back({{"author", author}});
    return {{"name", name},
            {"module", name},  // within lists, whose items have names of their own
            {"name_kebab", form(text::NameForm::kebab)},
            {"name_camel", form(text::NameForm::camel)},
            {"name_pascal", form(text::NameForm::pascal)},
            {"name_upper", form(text::NameForm::upper)},
            {"version", manifest.version ? manifest.version->text() : ""},
            {"host", card.name.value},
            {"summary", manifest.summary},
            {"license", manifest.license.value},
            {"authors", authors},
            {"entry", declared.empty() ? text::fill(card.entry_file, {{"name", name}}) : declared},
            {"start", manifest.entry.start.value},
            {"stop", manifest.entry.stop.value},
            {"workspace", workspace},
            {"dependencies", dependency_values(manifest)},
            {"members", member_values(manifest)}};
}

json search_values(const model::Card& card, const std::string& workspace) {
    return {{"workspace", workspace}, {"host", card.name.value}};
}

}  // namespace envar::emit
