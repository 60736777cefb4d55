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

namespace {

constexpr std::size_t many_functions = 150;  // Lua has 200 local variables at one place

/// Where a function lies that has a file of its own: what is there among the members is one.
std::string_view part_of(const GatheredCode::Item& item) { return item.exported ? "functions" : "helpers"; }

/// Calls `each` with the path of a gathered file, and with the function that it is for, if any.
template <class Each>
void each_gathered(const model::CardFile& file, const model::Manifest& manifest, const model::Card& card,
                   const GatheredCode& code, Each each) {
    if (!model::Card::belongs(file, code.form)) return;
    const text::Values values = search::path_values(manifest, card);
    if (file.scope != model::FileScope::member) {
        each(text::fill(file.path, values), static_cast<const GatheredCode::Item*>(nullptr));
        return;
    }
    for (const auto& script : code.scripts)
        for (const auto& item : script.items) {
            if (item.name.empty() || (file.test && !item.exported)) continue;
            text::Values own = values;
            own.emplace_back("member", item.name);
            own.emplace_back("part", std::string(part_of(item)));
            each(text::fill(file.path, own), &item);
        }
}

nlohmann::json item_values(const GatheredCode::Item& item) {
    nlohmann::json values = {{"code", item.code},
                             {"shared", item.shared.empty() ? item.code : item.shared},
                             {"is_function", !item.name.empty()},
                             {"always", item.always},
                             {"late", item.late}};
    if (item.name.empty()) return values;  // `name` is the module's then
    values.update({{"name", item.name},
                   {"part", part_of(item)},
                   {"exported", item.exported},
                   {"plain", item.owner.empty()},
                   {"owner", item.owner},
                   {"called", item.owner.empty() ? item.name : item.owner + "." + item.name}});
    return values;
}

void add_gathered(nlohmann::json& values, const GatheredCode& code) {
    nlohmann::json scripts = nlohmann::json::array(), functions = scripts, along = scripts, plain = scripts;
    for (const auto& script : code.scripts) {
        nlohmann::json items = nlohmann::json::array();
        for (const auto& item : script.items) {
            items.push_back(item_values(item));
            (item.name.empty() ? along : functions).push_back(items.back());
            if (!item.name.empty() && item.owner.empty()) plain.push_back(items.back());
        }
        scripts.push_back({{"script", script.file}, {"items", items}});
    }
    mark_ends(functions);
    mark_ends(plain);
    values["many"] = functions.size() > many_functions;
    values["has_along"] = !along.empty();
    values["has_late"] = std::any_of(along.begin(), along.end(), [](const auto& one) { return one["late"] == true; });
    values["ends_with_along"] =
        !code.scripts.empty() && !code.scripts.back().items.empty() && code.scripts.back().items.back().name.empty();
    values["scripts"] = std::move(scripts);
    values["functions"] = std::move(functions);
    values["plain_functions"] = std::move(plain);
    values["along"] = std::move(along);
}

}  // namespace

text::Result<std::vector<AuthoredFile>> gathered_files(const model::Manifest& manifest, const model::Card& card,
                                                       const GatheredCode& code, const Place& place) {
    std::vector<AuthoredFile> out;
    nlohmann::json values = module_values(manifest, card, place);
    add_gathered(values, code);
    for (const model::CardFile& file : card.gather.files) {
        text::Result<void> fine;
        each_gathered(file, manifest, card, code, [&](const std::string& path, const GatheredCode::Item* item) {
            if (!fine) return;
            if (item != nullptr) {
                values["member"] = item_values(*item);
                for (const auto& member : values["members"])
                    if (member["name"] == item->name) values["member"].update(member);
            }
            auto body = rendered(card, file, path, values, place);
            if (!body) {
                fine = tl::unexpected(body.error());
                return;
            }
            out.push_back({path, file.purpose, std::move(*body), file.test, false});
        });
        if (!fine) return tl::unexpected(fine.error());
    }
    return out;
}

std::vector<std::string> gathered_test_paths(const model::Manifest& manifest, const model::Card& card,
                                             const GatheredCode& code) {
    std::vector<std::string> paths;
    for (const model::CardFile& file : card.gather.files)
        if (file.test)
            each_gathered(file, manifest, card, code,
                          [&](const std::string& path, const GatheredCode::Item*) { paths.push_back(path); });
    return paths;
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
    auto template_text = search::read_template(card, template_file);
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
