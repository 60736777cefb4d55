// A card's templates, and a dry scaffold of every blueprint: what would only show when somebody uses the card.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "core/check/rules.hpp"
#include "core/emit/authored.hpp"
#include "core/emit/host_files.hpp"
#include "core/emit/native.hpp"
#include "core/files/read.hpp"
#include "core/search/naming.hpp"
#include "core/search/session.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"
#include "core/text/template_tags.hpp"

namespace envar::check {
namespace {

using Names = std::set<std::string>;

constexpr std::size_t members_of_a_large_module = 50;

/// A module with one of everything that templates can speak of.
model::Manifest sample_manifest(const model::Card& card, const model::Blueprint* blueprint) {
    model::Manifest manifest;
    manifest.name.value = card.module_example.empty() ? "sample" : card.module_example;
    manifest.version = versions::parse_version(card.scheme == versions::Scheme::integer ? "1" : "1.2.0", card.scheme);
    manifest.host.value = card.name.value;
    manifest.summary = "A sample.";
    manifest.license.value = "MIT";
    manifest.authors = {"Somebody"};
    manifest.entry.start.value = "start";
    manifest.entry.stop.value = "stop";
    model::Asset& asset = manifest.assets.emplace_back();
    asset.folder.value = "images";
    asset.extension.value = ".png";
    model::Dependency& dependency = manifest.dependencies.emplace_back();
    dependency.module.value = manifest.name.value;
    dependency.versions = *versions::parse_requirement(">=1, <2");
    model::Member& member = manifest.members.emplace_back();
    const std::string& usual =
        blueprint != nullptr && !blueprint->member.empty() ? blueprint->member : card.usual_member;
    member.name.value = text::fill(usual, search::path_values(manifest, card));
    if (member.name.value.empty()) member.name.value = "sample";
    for (const bool required : {true, false}) {
        model::Parameter& parameter = member.parameters.emplace_back();
        parameter.name.value = required ? "first" : "second";
        parameter.required = required;
        if (!required) parameter.preset = {model::NodeKind::text, "usual", {}};
    }
    return manifest;
}

/// What native modules have besides, with every front that the card knows.
void add_native_sample(model::Manifest& manifest, const model::Card& card) {
    manifest.native.umbrella.value = "include/sample.hpp";
    model::NativePart& part = manifest.native.parts.emplace_back();
    part.when.platforms = {{"linux", {}}};
    part.when.targets = {{"!viewer", {}}};
    part.sources = {{"src/sample_linux.cpp", {}}};
    part.defines = {"SAMPLE"};
    for (const auto role : {model::TunableRole::setting, model::TunableRole::input, model::TunableRole::output}) {
        model::Tunable& tunable = manifest.parameters.emplace_back();
        tunable.name.value = fmt::format("sample_{}", manifest.parameters.size());
        tunable.role = role;
        tunable.values = {{"one", {}}, {"other", {}}};
    }
    for (const auto& known : card.fronts) {
        model::Front& front = manifest.fronts.emplace_back();
        front.kind = known.kind == "command"  ? model::FrontKind::command
                     : known.kind == "plugin" ? model::FrontKind::plugin
                                              : model::FrontKind::binding;
        front.host.value = known.host;
    }
}

void collect_names(const nlohmann::json& values, Names& names) {
    if (values.is_object())
        for (const auto& [key, value] : values.items()) {
            names.insert(key);
            collect_names(value, names);
        }
    if (values.is_array())
        for (const auto& value : values) collect_names(value, names);
}

/// What the language itself gives to every template.
const Names everywhere = {"string", "comment", "doc", "prose", "."};

const Names probe_names = {"modules",     "name",    "path",      "members", "member", "known",      "files",
                           "folders",     "folder",  "workspace", "report",  "entry",  "sandbox",    "port",
                           "start",       "stop",    "first",     "last",    "base",   "based",      "in_phase",
                           "name_pascal", "version", "phase",     "needs",   "need",   "card_phases"};
const Names session_names = {"workspace",  "root",    "variables", "own",     "notices",   "notice",
                             "left_out",   "host",    "name",      "prepend", "separator", "when_unset",
                             "instead_of", "folders", "folder",    "files",   "path",      "load"};

class DryRun {
  public:
    explicit DryRun(const model::Card& card) : card_(card) {}

    Findings run() {
        known_values();
        for (const auto& file : card_.files) {
            const bool of_host = file.per_search() || file.scope == model::FileScope::target;
            template_values(file.template_file, of_host                                     ? of_host_
                                                : file.scope == model::FileScope::workspace ? workspace_
                                                                                            : module_);
            if (card_.dialect(file.dialect) == nullptr) usable_ = false;
            if (card_.dialect(file.dialect) == nullptr)
                tell("EV803", file.dialect, fmt::format("the card has no dialect `{}`", file.dialect),
                     "add a [[dialect]] of that name");
            for (const auto& blueprint : file.blueprints)
                if (card_.blueprint(blueprint) == nullptr)
                    tell("EV806", blueprint, fmt::format("the card has no blueprint `{}`", blueprint),
                         "add a [[blueprint]] of that name");
        }
        for (const auto& blueprint : card_.blueprints) template_values(blueprint.manifest, module_);
        for (const auto& file : card_.trial_files)
            template_values(file.template_file, card_.trial_arguments.empty() ? module_ : probe_);
        template_values(card_.trial_probe, probe_);
        template_values(card_.test_runner, probe_);
        template_values(card_.session_template, session_names);
        same_places();
        // A template that cannot be used has been told; every blueprint would say so once more.
        if (!usable_) return std::move(findings_);
        if (card_.blueprints.empty()) scaffold({});
        for (const auto& blueprint : card_.blueprints) scaffold(blueprint);
        return std::move(findings_);
    }

  private:
    void known_values() {
        emit::Place place{"/w", "/w/a/b", "/w/a", "sample"};
        place.targets = {"viewer"};
        model::Manifest manifest = sample_manifest(card_, nullptr);
        add_native_sample(manifest, card_);
        nlohmann::json values = emit::module_values(manifest, card_, place);
        emit::add_native(values, manifest, card_, place,
                         {{"src/a.cpp"}, {"include/a.hpp"}, {"src/a.hpp"}, {"t.cpp"}, {}});
        for (const auto& front : values["fronts"]) collect_names(front, module_);
        emit::add_ways(values, "/w/a/b/c", place);
        collect_names(values, module_);
        module_.insert({"member", "blueprint", "package", "package_id"});  // fronts of other cards have packages
        for (const auto& blueprint : card_.blueprints)
            for (const auto& setting : blueprint.settings) module_.insert(setting.name);
        model::Manifest large = sample_manifest(card_, nullptr);
        large.members.resize(members_of_a_large_module, large.members.front());
        large.dependencies.resize(members_of_a_large_module, large.dependencies.front());
        large_ = emit::module_values(large, card_, place);
        const model::Space space = sample_space(manifest);
        nlohmann::json of_host = emit::host_values(space, card_, "viewer", "/w/a/c");
        emit::add_ways(of_host, "/w/a/c", place);
        collect_names(of_host, of_host_);
        for (auto* names : {&module_, &of_host_, &probe_}) names->insert(card_.phases.begin(), card_.phases.end());
        probe_.insert(probe_names.begin(), probe_names.end());
        if (card_.is_native()) collect_names(emit::workspace_values(space, card_), workspace_);
    }

    /// A workspace in which the sample needs another module.
    [[nodiscard]] model::Space sample_space(model::Manifest manifest) const {
        model::Space space;
        space.root = "/w";
        space.settings.name.value = "sample";
        space.settings.targets.push_back({{"viewer", {}}, {{manifest.name.value, {}}}});
        model::SearchFolder& search = space.settings.search.emplace_back();
        search.host.value = card_.name.value;
        search.folder.value = "a";
        manifest.platforms = {{"linux", {}}};
        model::Manifest needed = manifest;
        needed.name.value = manifest.name.value + "_needed";
        needed.dependencies.clear();
        manifest.dependencies.front().module.value = needed.name.value;
        for (const auto& one : {manifest, needed}) {
            const std::string folder = "a/" + one.name.value;
            space.modules.push_back({one, {}, "/w/" + folder, "/w/" + folder, folder});
        }
        return space;
    }

    /// Of `native.kind` each part counts.
    static bool is_known(const std::string& name, const Names& known) {
        for (std::size_t at = 0; at <= name.size();) {
            const std::size_t end = std::min(name.find('.', at), name.size());
            const std::string part = name.size() == 1 ? name : name.substr(at, end - at);
            if (known.count(part) + everywhere.count(part) == 0) return false;
            at = end + 1;
        }
        return true;
    }

    /// Every name in a template must be one that it is given.
    void template_values(const std::string& file, const Names& known) {
        if (file.empty() || !told_.insert(file).second) return;
        // What comes from the card below is told of that card.
        if (!card_.base_folder.empty() && !files::is_there(card_.folder / file) &&
            files::is_there(card_.base_folder / file))
            return;
        const auto text = search::read_template(card_, file);
        if (!text) {
            cannot_be_used(file, text.error().message);
            return;
        }
        const text::Source source(files::shown_path(card_.folder / file, card_.folder.parent_path().parent_path()),
                                  *text);
        std::vector<std::string> names(known.begin(), known.end());
        auto fine = text::template_within_limits(*text, large_);
        if (fine)
            if (auto plain = text::render(*text, nlohmann::json::object(), search::dialect_of(card_)); !plain)
                fine = tl::unexpected(plain.error());
        if (!fine) {
            cannot_be_used(file, fine.error().message);
            return;
        }
        Names once;
        for (const auto& tag : text::template_tags(*text)) {
            if (tag.kind == '!' || tag.kind == '/' || tag.kind == '=') continue;
            if (tag.kind == '>') {
                findings_.push_back(source.finding("EV803", tag.span, "a template cannot take in another one",
                                                   "write the text itself"));
                continue;
            }
            if (is_known(tag.name, known) || !once.insert(tag.name).second) continue;
            const std::string near = text::did_you_mean(tag.name, names);
            findings_.push_back(source.finding(
                "EV805", tag.span, fmt::format("the template names `{}`, which it is not given", tag.name),
                near.empty() ? "`envar explain EV805` lists what there is" : near));
        }
    }

    void cannot_be_used(const std::string& file, const std::string& why) {
        usable_ = false;
        tell("EV803", file, fmt::format("the template `{}` cannot be used: {}", file, why),
             "templates lie beside the card and are plain Mustache");
    }

    /// Files whose paths are written alike, so that no value could tell them apart.
    void same_places() {
        for (std::size_t i = 0; i < card_.files.size(); ++i)
            for (std::size_t j = 0; j < i; ++j) {
                const auto& a = card_.files[i];
                const auto& b = card_.files[j];
                const bool together = a.blueprints.empty() || b.blueprints.empty() ||
                                      std::any_of(a.blueprints.begin(), a.blueprints.end(),
                                                  [&](const auto& name) { return model::Card::belongs(b, name); });
                if (a.path == b.path && place_of(a) == place_of(b) && together) two_at(a.path, "");
            }
    }

    /// Files of a module, of a search folder and of the workspace lie apart.
    static int place_of(const model::CardFile& file) {
        switch (file.scope) {
            case model::FileScope::search:
                return 1;
            case model::FileScope::workspace:
            case model::FileScope::target:
                return 2;
            case model::FileScope::place:
                return 3;
            default:
                return 0;
        }
    }

    void two_at(const std::string& path, const std::string& by) {
        const std::string written = "\"" + path + "\"";
        const bool literal = card_.source.text().find(written) != std::string::npos;
        if (!told_.insert("two at " + path).second) return;
        tell("EV804", literal ? written : "name = \"" + by + "\"", fmt::format("two files are written to `{}`", path),
             by.empty() ? "give each its own path" : fmt::format("give each its own path in the blueprint {}", by));
    }

    void scaffold(const model::Blueprint& blueprint) {
        const emit::Place place{"/w", "/w/a/b", "/w/a", "sample"};
        const model::Manifest manifest = sample_manifest(card_, &blueprint);
        const auto settings = emit::blueprint_settings(blueprint, {}, manifest.name.value);
        for (const auto& setting : blueprint.settings) {
            const std::string preset = text::fill(setting.preset, {{"name", manifest.name.value}});
            if (!emit::blueprint_settings(blueprint, {{setting.name, preset}}, manifest.name.value))
                tell("EV806", setting.pattern,
                     fmt::format("the default `{}` of the setting {} does not look as it must", preset, setting.name),
                     fmt::format("its pattern is `{}`", setting.pattern));
        }
        if (!settings) return;
        auto authored = emit::authored_files(manifest, card_, blueprint.name, *settings, place);
        auto generated = emit::generated_files(manifest, card_, place);
        if (!authored || !generated) {
            const auto& failure = authored ? generated.error() : authored.error();
            tell("EV806", blueprint.name,
                 fmt::format("the blueprint {} cannot be made: {}", blueprint.name, failure.message), failure.hint);
            return;
        }
        std::map<std::string, int> places;
        for (const auto& file : *authored) ++places[(file.beside ? "../" : "") + file.path];
        for (const auto& file : *generated) ++places[files::shown_path(file.path, place.folder)];
        ++places[std::string(model::manifest_name)];
        for (const auto& [path, count] : places) {
            if (path.find("{{") != std::string::npos)
                tell("EV805", path.substr(path.find("{{")),
                     fmt::format("the path `{}` names a value that there is not", path),
                     "paths know name, folder_name, path, version, member and the blueprint's settings");
            if (count > 1) two_at(path, blueprint.name);
        }
        const std::string entry = text::fill(card_.entry_file, search::path_values(manifest, card_));
        if (!blueprint.name.empty() && !entry.empty() && places.count(entry) == 0)
            tell("EV806", "name = \"" + blueprint.name + "\"",
                 fmt::format("the blueprint {} does not write the entry file `{}`", blueprint.name, entry),
                 "a [[file]] with that path must belong to it");
    }

    /// A finding at the last place of a text in the card.
    void tell(std::string_view code, const std::string& where, std::string message, std::string hint) {
        const std::size_t at = where.empty() ? std::string::npos : card_.source.text().rfind(where);
        const text::Span span = at == std::string::npos ? card_.name.span : text::Span{at, at + where.size()};
        findings_.push_back(card_.source.finding(code, span, std::move(message), std::move(hint)));
    }

    const model::Card& card_;
    nlohmann::json large_;  // values of a module with many members
    Names module_;
    Names of_host_;
    Names probe_;
    Names workspace_;
    Names told_;
    bool usable_ = true;  // every template can be rendered
    Findings findings_;
};

}  // namespace

std::vector<text::Finding> check_blueprints(const model::Card& card) { return DryRun(card).run(); }

}  // namespace envar::check
