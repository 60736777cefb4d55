#include "core/life/scaffold.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/emit/authored.hpp"
#include "core/emit/block.hpp"
#include "core/emit/generated.hpp"
#include "core/emit/native.hpp"
#include "core/emit/values.hpp"
#include "core/files/read.hpp"
#include "core/life/refresh.hpp"
#include "core/life/registration.hpp"
#include "core/life/signature.hpp"
#include "core/model/schema.hpp"
#include "core/search/declared.hpp"
#include "core/search/naming.hpp"
#include "core/search/session.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"
#include "core/versions/requirement.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using model::Card;
using text::fail;
using text::FailureKind;
using text::refuse;
using text::Result;

class Scaffold {
  public:
    Scaffold(const model::Space& space, ScaffoldOrder order) : space_(space), order_(std::move(order)) {}

    Result<files::Plan> plan() {
        auto checked = find_card()
                           .and_then([&] { return check_name(); })
                           .and_then([&] { return check_settings(); })
                           .and_then([&] { return find_place(); })
                           .and_then([&] { return check_members(); })
                           .and_then([&] { return check_depends(); });
        if (!checked) return tl::unexpected(checked.error());
        plan_.root = space_.root;
        model::add_schemas(plan_);
        return add_files()
            .and_then([&] {
                return register_module(
                    space_, *card_, {search_folder_, search_folder_, card_->blueprint(blueprint_)->variable}, plan_);
            })
            .and_then([&] { return add_host_files(space_, {made_}, plan_); })
            .map([&] { return std::move(plan_); });
    }

  private:
    Result<void> find_card() {
        card_ = space_.card(order_.host);
        if (card_ == nullptr) {
            std::vector<std::string> names;
            for (const Card& card : space_.cards) names.push_back(card.name.value);
            const std::string near = text::did_you_mean(order_.host, names);
            return refuse(fmt::format("there is no card for the host `{}`", order_.host),
                          near.empty() ? fmt::format("there are: {}", fmt::join(names, ", ")) : near);
        }
        if (order_.version.empty()) order_.version = card_->scheme == versions::Scheme::integer ? "1" : "0.1.0";
        if (card_->blueprints.empty())
            return refuse(fmt::format("the card {} has no blueprint", order_.host),
                          "a card needs at least one [[blueprint]]");
        blueprint_ = order_.blueprint.empty() ? card_->blueprints.front().name : order_.blueprint;
        std::vector<std::string> names;
        for (const auto& blueprint : card_->blueprints) names.push_back(blueprint.name);
        if (std::find(names.begin(), names.end(), blueprint_) != names.end()) return {};
        const std::string near = text::did_you_mean(blueprint_, names);
        return refuse(fmt::format("the card {} has no blueprint `{}`", order_.host, blueprint_),
                      near.empty() ? fmt::format("it has: {}", fmt::join(names, ", ")) : near);
    }

    static bool is_of(const std::vector<std::string>& words, const std::string& name) {
        return std::find(words.begin(), words.end(), name) != words.end();
    }

    Result<void> check_name() const {
        const std::string& name = order_.name;
        if (!files::stays_inside(name) || name.find('/') != std::string::npos || name == "." || name == "..")
            return refuse(fmt::format("`{}` is no module name", name), "a name has no `/` and is no `.` or `..`");
        const re2::RE2 pattern(card_->module_pattern.value, re2::RE2::Quiet);
        if (!card_->module_pattern.value.empty() && pattern.ok() && !re2::RE2::FullMatch(name, pattern)) {
            const std::string better =
                text::in_form(name, text::name_form(card_->form).value_or(text::NameForm::snake));
            const bool fits = re2::RE2::FullMatch(better, pattern);
            return refuse(fmt::format("`{}` is no module name for {}", name, order_.host),
                          fits ? fmt::format("did you mean `{}`?", better)
                               : fmt::format("names look like `{}`", card_->module_example));
        }
        if (is_of(card_->keywords, name) || is_of(card_->reserved, name))
            return refuse(fmt::format("`{}` is a reserved word of {}", name, order_.host), "choose another name");
        if (const model::Module* other = space_.module(name))
            return refuse(fmt::format("there is a module `{}` already, in {}", name, other->shown_folder),
                          "names are unique in a workspace");
        if (!versions::parse_version(order_.version, card_->scheme)) {
            const auto mended =
                card_->scheme == versions::Scheme::semantic ? versions::mended_version(order_.version) : std::nullopt;
            return fail(
                FailureKind::wrong_usage, fmt::format("`{}` is no version", order_.version),
                mended ? fmt::format("did you mean `{}`?", *mended)
                       : fmt::format("versions for {} are {}", order_.host, versions::scheme_form(card_->scheme)));
        }
        return {};
    }

    Result<void> find_place() {
        std::string parent = order_.folder;
        if (parent.empty()) {
            const model::Blueprint& blueprint = *card_->blueprint(blueprint_);
            model::SearchFolder own;
            own.variable.value = blueprint.variable;
            for (const auto& search : space_.settings.search)
                if (parent.empty() && search.host.value == order_.host && files::stays_inside(search.folder.value) &&
                    search::variable_of(*card_, search) == search::variable_of(*card_, own))
                    parent = search.folder.value;
            if (parent.empty()) parent = blueprint.place;
            if (parent.empty()) parent = card_->kind == "shell" ? "shell" : order_.host;
        }
        if (!files::stays_inside(parent))
            return refuse(fmt::format("the folder `{}` lies outside the workspace", parent), "modules lie inside it");
        model::Manifest named;
        named.name.value = order_.name;
        named.version = versions::parse_version(order_.version, card_->scheme);
        text::Values values = search::path_values(named, *card_);
        values.insert(values.end(), settings_.begin(), settings_.end());
        const std::string& folder = card_->blueprint(blueprint_)->folder;
        const std::string own = text::fill(folder.empty() ? card_->module_folder : folder, values);
        if (!files::stays_inside(own) || own.find("{{") != std::string::npos)
            return refuse(fmt::format("the card puts modules into `{}`, which is no folder", own), "mend the card");
        folder_ = (space_.root / parent / own).lexically_normal();
        search_folder_ = (space_.root / parent).lexically_normal();
        if (files::is_there(folder_) && !files::list_folder(folder_).empty())
            return refuse(fmt::format("the folder `{}` is there already", files::shown_path(folder_, space_.root)),
                          "nothing was written; choose another name or another --in");
        return {};
    }

    Result<void> check_settings() {
        std::map<std::string, std::string> own;
        for (const auto& [key, value] : order_.settings) {
            const auto known = scaffold_settings();
            if (std::find(known.begin(), known.end(), key) == known.end()) own.emplace(key, value);
        }
        const model::Blueprint& blueprint = *card_->blueprint(blueprint_);
        auto settings = emit::blueprint_settings(blueprint, own, order_.name);
        if (!settings) {
            auto failure = settings.error();
            if (failure.hint.empty())
                failure.hint = fmt::format("there are: {}", fmt::join(all_settings(blueprint), ", "));
            return tl::unexpected(std::move(failure));
        }
        settings_ = std::move(*settings);
        return {};
    }

    static std::vector<std::string> all_settings(const model::Blueprint& blueprint) {
        std::vector<std::string> names = scaffold_settings();
        for (const auto& setting : blueprint.settings) names.push_back(setting.name);
        std::sort(names.begin(), names.end());
        return names;
    }

    Result<void> check_members() {
        const re2::RE2 pattern(card_->member_pattern, re2::RE2::Quiet);
        const auto check = [&](const std::string& name, std::string_view what) -> Result<void> {
            if (is_of(card_->keywords, name))
                return refuse(fmt::format("`{}` is a word of {}'s own, and no {}", name, order_.host, what),
                              "choose another name");
            if (card_->member_pattern.empty() || !pattern.ok() || re2::RE2::FullMatch(name, pattern)) return {};
            return refuse(fmt::format("`{}` is no {} for {}", name, what, order_.host),
                          fmt::format("did you mean `{}`?", text::in_form(name, text::NameForm::snake)));
        };
        for (const auto& text : order_.members) {
            auto member = parse_signature(text);
            if (!member) return tl::unexpected(member.error());
            if (auto fine = check(member->name.value, "member name"); !fine) return fine;
            for (const auto& parameter : member->parameters)
                if (auto fine = check(parameter.name.value, "parameter name"); !fine) return fine;
            for (const auto& other : members_)
                if (other.name.value == member->name.value)
                    return refuse(fmt::format("the member `{}` is asked for twice", other.name.value),
                                  "name it once");
            member->summary = fmt::format("What {} does, in one sentence.", member->name.value);
            members_.push_back(std::move(*member));
        }
        if (order_.gathered != nullptr) members_ = order_.gathered_members;
        if (!members_.empty() || order_.gathered != nullptr) return {};
        const model::Blueprint& blueprint = *card_->blueprint(blueprint_);
        const std::string& usual = blueprint.member.empty() ? card_->usual_member : blueprint.member;
        if (usual.empty()) return {};
        model::Member& member = members_.emplace_back();
        model::Manifest named;
        named.name.value = order_.name;
        member.name.value = text::fill(usual, search::path_values(named, *card_));
        member.kind = blueprint.kind;
        member.summary = "Tells the module's name and version.";
        return {};
    }

    Result<void> check_depends() const {
        for (const auto& text : order_.depends) {
            const auto named = versions::split_named_requirement(text);
            const auto requirement = versions::parse_requirement(named.versions);
            if (!requirement)
                return fail(FailureKind::wrong_usage, fmt::format("in `{}`: {}", text, requirement.error().message),
                            requirement.error().hint);
            const model::Module* other = space_.module(named.name);
            if (other == nullptr) {
                std::vector<std::string> names;
                for (const auto& module : space_.modules) names.push_back(module.name());
                const std::string near = text::did_you_mean(named.name, names);
                return refuse(fmt::format("there is no module `{}` to depend on", named.name),
                              near.empty() ? "scaffold it first; what an origin has, `envar depend` adds" : near);
            }
            const bool fits = std::any_of(space_.modules.begin(), space_.modules.end(), [&](const auto& module) {
                return module.name() == named.name &&
                       (!module.manifest.version ||
                        versions::meets(*module.manifest.version, *requirement, space_.settings.prereleases));
            });
            if (!fits)
                return refuse(fmt::format("`{}` is there as {}, which `{}` leaves out", named.name, other->version(),
                                          named.versions),
                              "widen the requirement");
        }
        return {};
    }

    [[nodiscard]] std::string setting(const std::string& key, const std::string& otherwise) const {
        const auto found = order_.settings.find(key);
        return found == order_.settings.end() ? otherwise : found->second;
    }

    [[nodiscard]] model::Manifest manifest() const {
        model::Manifest manifest;
        manifest.name.value = order_.name;
        manifest.version_text.value = order_.version;
        manifest.host.value = order_.host;
        manifest.summary = setting("summary", fmt::format("What {} does, in one sentence.", order_.name));
        manifest.license.value = setting("license", "");
        if (const std::string author = setting("author", ""); !author.empty()) manifest.authors = {author};
        manifest.identity = order_.identity;
        manifest.version = versions::parse_version(order_.version, card_->scheme);
        manifest.entry.file.value = text::fill(card_->entry_file, search::path_values(manifest, *card_));
        manifest.entry.phase.value = card_->blueprint(blueprint_)->phase;
        if (card_->hooks) {
            manifest.entry.start.value = "start";
            manifest.entry.stop.value = "stop";
        }
        for (const auto& text : order_.depends) {
            const auto named = versions::split_named_requirement(text);
            model::Dependency& dependency = manifest.dependencies.emplace_back();
            dependency.module.value = named.name;
            dependency.versions = *versions::parse_requirement(named.versions);
        }
        manifest.members = members_;
        for (auto& path : order_.gathered != nullptr ? emit::gathered_test_paths(manifest, *card_, *order_.gathered)
                                                     : emit::test_paths(manifest, *card_, blueprint_, settings_))
            manifest.tests.files.push_back({std::move(path), {}});
        return manifest;
    }

    Result<void> add_files() {
        const model::Manifest ordered = manifest();
        std::string text = model::schema_directive(space_.root, folder_, "module") +
                           model::document_text(model::manifest_fields(), &ordered);
        if (const std::string& more = card_->blueprint(blueprint_)->manifest; !more.empty()) {
            const auto added = emit::manifest_addition(ordered, *card_, more, settings_);
            if (!added) return tl::unexpected(added.error());
            text += *added;
        }
        plan_.add(
            {folder_ / model::manifest_name, std::nullopt, text, "the manifest: the single truth about the module"});
        std::vector<text::Finding> findings;
        const model::Manifest manifest =
            model::read_manifest(model::parse_document(text::Source(std::string(model::manifest_name), text)),
                                 findings, [&](std::string_view) { return card_->scheme; });
        if (!findings.empty()) return refuse(findings.front().message, findings.front().hint);
        emit::Place place = emit::place_of(space_, *card_, folder_);
        if (search::workspace_folders(space_, *card_).empty()) place.search = search_folder_;
        FirstWritten first{blueprint_, settings_, text, {}};
        auto authored = order_.gathered != nullptr
                            ? emit::gathered_files(manifest, *card_, *order_.gathered, place)
                            : emit::authored_files(manifest, *card_, blueprint_, settings_, place);
        if (!authored) return tl::unexpected(authored.error());
        for (auto& file : *authored) {
            if (file.beside) {
                const fs::path path = search_folder_ / file.path;
                if (!files::is_there(path)) plan_.add({path, std::nullopt, file.body, file.purpose + " (yours)"});
                continue;
            }
            plan_.add({folder_ / file.path, std::nullopt, file.body, file.purpose + " (yours)"});
            place.planned.push_back(file.path);
            first.files[file.path] = std::move(file.body);
        }
        auto generated = emit::generated_files(manifest, *card_, place);
        if (!generated) return tl::unexpected(generated.error());
        for (auto& file : *generated) {
            if (auto compared = emit::compare(file); !compared) return compared;
            plan_.add({file.path, std::nullopt, file.wanted, file.purpose + ownership_note(file)});
        }
        made_ = {manifest, {}, folder_, folder_, files::shown_path(folder_, space_.root)};
        if (order_.gathered == nullptr)
            plan_.add({first_written_file(space_.root, order_.identity), std::nullopt, first_written_text(first),
                       "what was first written, for --refresh"});
        return {};
    }

    const model::Space& space_;
    ScaffoldOrder order_;
    const Card* card_ = nullptr;
    std::string blueprint_;
    std::map<std::string, std::string> settings_;  // of the blueprint
    std::vector<model::Member> members_;
    fs::path folder_;
    fs::path search_folder_;
    model::Module made_;
    files::Plan plan_;
};

}  // namespace

std::vector<std::string> scaffold_settings() { return {"author", "license", "summary"}; }

Result<files::Plan> scaffold_plan(const model::Space& space, const ScaffoldOrder& order) {
    return Scaffold(space, order).plan();
}

}  // namespace envar::life
