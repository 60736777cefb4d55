#include "core/emit/values.hpp"

#include <nlohmann/json.hpp>

#include "core/emit/native.hpp"
#include "core/search/naming.hpp"
#include "core/search/session.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"
#include "core/versions/ranges.hpp"

namespace envar::emit {
namespace {

using nlohmann::json;

/// A default as the language writes it: numbers as they are, true and false in its own words, texts as strings.
std::string literal(const model::Scalar& value, const model::Card& card) {
    if (!value.given()) return {};
    if (value.kind == model::NodeKind::integer || value.kind == model::NodeKind::number) return value.text;
    if (value.kind == model::NodeKind::boolean && card.truth.size() == 2)
        return card.truth[value.text == "true" ? 0 : 1];
    return text::string_literal(search::dialect_of(card), value.text);
}

json parameter_values(const model::Member& member, const model::Card& card) {
    json list = json::array();
    bool optional_before = false;
    for (const auto& p : member.parameters) {
        list.push_back({{"name", p.name.value},
                        {"type", p.type},
                        {"summary", p.summary},
                        {"required", p.required},
                        {"optional", !p.required},
                        {"default", p.preset.text},
                        {"first_optional", !p.required && !optional_before},
                        {"default_literal", literal(p.preset, card)}});
        optional_before = optional_before || !p.required;
    }
    mark_ends(list);
    return list;
}

json member_values(const model::Manifest& manifest, const model::Card& card) {
    json list = json::array();
    for (const auto& member : manifest.members)
        list.push_back({{"name", member.name.value},
                        {"kind", member.kind},
                        {"summary", member.summary},
                        {"returns", member.returns},
                        {"has_parameters", !member.parameters.empty()},
                        {"parameters", parameter_values(member, card)}});
    mark_ends(list);
    return list;
}

json range_values(const versions::Requirement& requirement) {
    json list = json::array();
    for (const auto& range : versions::ranges_of(requirement))
        list.push_back({{"least", versions::short_text(range.least)},
                        {"limit", range.limit ? versions::short_text(*range.limit) : ""}});
    mark_ends(list);
    return list;
}

json dependency_values(const model::Manifest& manifest, const model::Card& card) {
    json list = json::array();
    for (const auto& d : manifest.dependencies) {
        const bool conditional = !d.when.platforms.empty() || !d.when.targets.empty();
        if (conditional || d.system || d.stage != model::Stage::load) continue;
        list.push_back({{"module", d.module.value},
                        {"versions", d.versions.is_any() ? "any" : d.versions.text},
                        {"any", d.versions.is_any()},
                        {"optional", d.optional},
                        {"public", d.is_public},
                        {"path", search::name_path(card, d.module.value)},
                        {"module_pascal", text::in_form(d.module.value, text::NameForm::pascal)},
                        {"ranges", range_values(d.versions)}});
    }
    mark_ends(list);
    return list;
}

/// What has to be there before, whoever brings it, and what is to come before if it is there: for hosts that order
/// modules themselves by what they say of each other.
void add_wishes(json& values, const model::Manifest& manifest) {
    json required = json::array();
    json wished = json::array();
    for (const auto& d : manifest.dependencies) {
        if (d.stage != model::Stage::load) continue;
        const bool wish = d.optional || !d.when.platforms.empty() || !d.when.targets.empty();
        (wish ? wished : required).push_back({{"module", d.module.value}});
    }
    for (const auto& after : manifest.entry.after) wished.push_back({{"module", after.value}});
    mark_ends(required);
    mark_ends(wished);
    values["has_required"] = !required.empty();
    values["has_wished"] = !wished.empty();
    values["required"] = std::move(required);
    values["wished"] = std::move(wished);
}

}  // namespace

json asset_values(const model::Manifest& manifest) {
    json assets = json::array();
    for (const auto& asset : manifest.assets)
        assets.push_back(
            {{"folder", asset.folder.value}, {"extension", asset.extension.value}, {"recursive", asset.recursive}});
    mark_ends(assets);
    return assets;
}

void mark_ends(json& list) {
    for (auto& item : list) item["first"] = item["last"] = false;
    if (list.empty()) return;
    list.front()["first"] = true;
    list.back()["last"] = true;
}

json module_values(const model::Manifest& manifest, const model::Card& card, const Place& place) {
    const std::string& name = manifest.name.value;
    const std::string& declared = manifest.entry.file.value;
    json authors = json::array();
    for (const auto& author : manifest.authors) authors.push_back({{"author", author}});
    json values = {
        {"module", name},  // within lists, whose items have names of their own
        {"host", card.name.value},
        {"summary", manifest.summary},
        {"license", manifest.license.value},
        {"authors", authors},
        {"entry", declared.empty() ? text::fill(card.entry_file, search::path_values(manifest, card)) : declared},
        {"start", manifest.entry.start.value},
        {"stop", manifest.entry.stop.value},
        {"workspace", place.workspace},
        {"dependencies", dependency_values(manifest, card)},
        {"members", member_values(manifest, card)},
        {"writes_exports", manifest.exports_written && !manifest.exports_all}};
    for (const auto& [key, value] : search::path_values(manifest, card)) values[key] = value;
    add_wishes(values, manifest);
    values["assets"] = asset_values(manifest);
    values["in_phase"] = {{search::phase_of(manifest, card), true}};
    if (card.is_native() || card.is_base())
        add_native(values, manifest, card, place, native_files(manifest, place.folder, place.planned, place.absent));
    return values;
}

void add_ways(json& values, const std::filesystem::path& file, const Place& place) {
    const auto way = [&](const std::filesystem::path& to) {
        return to.empty() ? "." : to.lexically_relative(file.parent_path()).generic_string();
    };
    values["to_module"] = way(place.folder);
    values["to_search"] = way(place.search);
    values["to_workspace"] = way(place.root);
}

}  // namespace envar::emit
