#include "core/emit/authored.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/emit/generated.hpp"
#include "core/search/naming.hpp"
#include "core/search/session.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"

namespace envar::emit {
namespace {

using Settings = std::map<std::string, std::string>;
using text::fail;
using text::FailureKind;

bool is_wanted(const model::CardFile& file, const std::string& blueprint) {
    return file.ownership == model::Ownership::authored && !file.per_search() &&
           model::Card::belongs(file, blueprint);
}

/// Calls `each` with a file's path and the member it is for, if any.
template <class Each>
void each_path(const model::CardFile& file, const model::Manifest& manifest, const model::Card& card,
               const Settings& settings, Each each) {
    text::Values values = search::path_values(manifest, card);
    values.insert(values.end(), settings.begin(), settings.end());
    if (file.scope != model::FileScope::member) {
        each(text::fill(file.path, values), static_cast<const model::Member*>(nullptr));
        return;
    }
    for (const auto& member : manifest.members) {
        text::Values own = values;
        own.emplace_back("member", member.name.value);
        each(text::fill(file.path, own), &member);
    }
}

}  // namespace

text::Result<Settings> blueprint_settings(const model::Blueprint& blueprint, const Settings& given,
                                          const std::string& name) {
    Settings settings;
    for (const auto& setting : blueprint.settings)
        settings[setting.name] = text::fill(setting.preset, {{"name", name}});
    for (const auto& [key, value] : given) {
        const auto setting = std::find_if(blueprint.settings.begin(), blueprint.settings.end(),
                                          [&key = key](const auto& known) { return known.name == key; });
        if (setting == blueprint.settings.end())
            return fail(FailureKind::wrong_usage,
                        fmt::format("the blueprint {} knows no setting `{}`", blueprint.name, key));
        const re2::RE2 pattern(setting->pattern, re2::RE2::Quiet);
        if (!setting->pattern.empty() && pattern.ok() && !re2::RE2::FullMatch(value, pattern))
            return fail(FailureKind::wrong_usage,
                        fmt::format("`{}` cannot be the {} of the blueprint {}", value, key, blueprint.name),
                        fmt::format("{}: it must look like `{}`", setting->help, setting->pattern));
        settings[key] = value;
    }
    return settings;
}

text::Result<std::vector<AuthoredFile>> authored_files(const model::Manifest& manifest, const model::Card& card,
                                                       const std::string& blueprint, const Settings& settings,
                                                       const Place& place) {
    std::vector<AuthoredFile> out;
    nlohmann::json values = module_values(manifest, card, place);
    for (const auto& [key, value] : settings) values[key] = value;
    values["blueprint"] = blueprint;
    for (const model::CardFile& file : card.files) {
        if (!is_wanted(file, blueprint)) continue;
        text::Result<void> fine;
        each_path(file, manifest, card, settings, [&](const std::string& path, const model::Member* member) {
            if (!fine) return;
            if (member != nullptr) {
                const auto index = static_cast<std::size_t>(member - manifest.members.data());
                values["member"] = values["members"][index];
            }
            auto body = rendered(card, file, path, values, place);
            if (!body) {
                fine = tl::unexpected(body.error());
                return;
            }
            out.push_back({path, file.purpose, std::move(*body), file.test, file.scope == model::FileScope::place});
        });
        if (!fine) return tl::unexpected(fine.error());
    }
    return out;
}

std::vector<std::string> test_paths(const model::Manifest& manifest, const model::Card& card,
                                    const std::string& blueprint, const Settings& settings) {
    std::vector<std::string> paths;
    for (const model::CardFile& file : card.files)
        if (file.test && is_wanted(file, blueprint))
            each_path(file, manifest, card, settings,
                      [&](const std::string& path, const model::Member*) { paths.push_back(path); });
    return paths;
}

text::Result<std::string> manifest_addition(const model::Manifest& manifest, const model::Card& card,
                                            const std::string& template_file, const Settings& settings) {
    const auto template_text = search::read_template(card, template_file);
    if (!template_text) return template_text;
    text::Dialect toml;
    toml.comment = "#";
    toml.string_open = toml.string_close = "\"";
    toml.escapes = {{"\\", "\\\\"}, {"\"", "\\\""}, {"\n", "\\n"}, {"\r", "\\r"}};
    nlohmann::json values = nlohmann::json::object();
    for (const auto& [key, value] : search::path_values(manifest, card)) values[key] = value;
    for (const auto& [key, value] : settings) values[key] = value;
    return text::render(*template_text, values, toml);
}

}  // namespace envar::emit
