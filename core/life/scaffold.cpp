#include "core/life/scaffold.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/emit/generated.hpp"
#include "core/emit/values.hpp"
#include "core/files/read.hpp"
#include "core/life/registration.hpp"
#include "core/model/schema.hpp"
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
using text::Result;

auto refuse(std::string message, std::string hint) {
    return fail(FailureKind::answer_is_no, std::move(message), std::move(hint));
}

class Scaffold {
  public:
    Scaffold(const model::Space& space, const ScaffoldOrder& order) : space_(space), order_(order) {}

    Result<files::Plan> plan() {
        auto checked = find_card()
                           .and_then([&] { return check_name(); })
                           .and_then([&] { return find_place(); })
                           .and_then([&] { return check_settings(); })
                           .and_then([&] { return check_depends(); });
        if (!checked) return tl::unexpected(checked.error());
        plan_.root = space_.root;
        model::add_schemas(plan_);
        return add_files().and_then([&] { return register_module(space_, *card_, folder_, plan_); }).map([&] {
            return std::move(plan_);
        });
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
        if (std::find(card_->reserved.begin(), card_->reserved.end(), name) != card_->reserved.end())
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

    /// Members with a name that the host's language does not take are refused here, the rest is the file's.
    Result<void> find_place() {
        std::string parent = order_.folder;
        if (parent.empty()) {
            for (const auto& search : space_.settings.search)
                if (parent.empty() && search.host.value == order_.host && files::stays_inside(search.folder.value))
                    parent = search.folder.value;
            if (parent.empty()) parent = card_->kind == "shell" ? "shell" : order_.host;
        }
        if (!files::stays_inside(parent))
            return refuse(fmt::format("the folder `{}` lies outside the workspace", parent), "modules lie inside it");
        folder_ = (space_.root / parent / order_.name).lexically_normal();
        if (files::is_there(folder_) && !files::list_folder(folder_).empty())
            return refuse(fmt::format("the folder `{}` is there already", files::shown_path(folder_, space_.root)),
                          "nothing was written; choose another name or another --in");
        return {};
    }

    Result<void> check_settings() const {
        for (const auto& [key, value] : order_.settings) {
            const auto known = scaffold_settings();
            if (std::find(known.begin(), known.end(), key) != known.end()) continue;
            return fail(FailureKind::wrong_usage, fmt::format("there is no setting `{}`", key),
                        fmt::format("there are: {}", fmt::join(known, ", ")));
        }
        const re2::RE2 pattern(card_->member_pattern, re2::RE2::Quiet);
        for (const auto& member : order_.members)
            if (!card_->member_pattern.empty() && pattern.ok() && !re2::RE2::FullMatch(member, pattern))
                return refuse(fmt::format("`{}` is no member name for {}", member, order_.host),
                              fmt::format("did you mean `{}`?", text::in_form(member, text::NameForm::snake)));
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
                              near.empty() ? "scaffold it first" : near);
            }
            if (other->manifest.version &&
                !versions::meets(*other->manifest.version, *requirement, space_.settings.prereleases))
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
        manifest.entry.file.value = text::fill(card_->entry_file, {{"name", order_.name}});
        for (const auto& text : order_.depends) {
            const auto named = versions::split_named_requirement(text);
            model::Dependency& dependency = manifest.dependencies.emplace_back();
            dependency.module.value = named.name;
            dependency.versions = *versions::parse_requirement(named.versions);
        }
        for (const auto& name : member_names()) {
            model::Member& member = manifest.members.emplace_back();
            member.name.value = name;
            member.summary = order_.members.empty() ? "Tells the module's name and version."
                                                    : fmt::format("What {} does, in one sentence.", name);
        }
        return manifest;
    }

    [[nodiscard]] std::vector<std::string> member_names() const {
        if (!order_.members.empty()) return order_.members;
        if (card_->usual_member.empty()) return {};
        return {text::fill(card_->usual_member, {{"name", order_.name}})};
    }

    Result<void> add_files() {
        const model::Manifest ordered = manifest();
        const std::string text = model::schema_directive(space_.root, folder_, "module") +
                                 model::document_text(model::manifest_fields(), &ordered);
        plan_.add(
            {folder_ / model::manifest_name, std::nullopt, text, "the manifest: the single truth about the module"});
        std::vector<text::Finding> findings;
        const model::Manifest manifest =
            model::read_manifest(model::parse_document(text::Source(std::string(model::manifest_name), text)),
                                 findings, [&](std::string_view) { return card_->scheme; });
        if (!findings.empty()) return refuse(findings.front().message, findings.front().hint);
        const auto values = emit::module_values(manifest, *card_, space_.settings.name.value);
        for (const auto& file : card_->files) {
            if (file.generated || file.per_search) continue;
            const auto& wanted = file.blueprints;
            if (!wanted.empty() && std::find(wanted.begin(), wanted.end(), blueprint_) == wanted.end()) continue;
            auto body = search::read_template(*card_, file.template_file).and_then([&](const std::string& t) {
                return text::render(t, values, search::dialect_of(*card_));
            });
            if (!body) return tl::unexpected(body.error());
            const std::string path = text::fill(file.path, {{"name", order_.name}});
            if (!files::stays_inside(path))
                return refuse(fmt::format("the path `{}` leaves the module", path), "mend the card");
            plan_.add({folder_ / path, std::nullopt, *body, file.purpose + " (yours)"});
        }
        auto generated = emit::generated_files(manifest, *card_, folder_, space_.settings.name.value);
        if (!generated) return tl::unexpected(generated.error());
        for (auto& file : *generated)
            plan_.add({file.path, std::nullopt, file.wanted, file.purpose + " (generated)"});
        return {};
    }

    const model::Space& space_;
    const ScaffoldOrder& order_;
    const Card* card_ = nullptr;
    std::string blueprint_;
    fs::path folder_;
    files::Plan plan_;
};

}  // namespace

std::vector<std::string> scaffold_settings() { return {"author", "license", "summary"}; }

Result<files::Plan> scaffold_plan(const model::Space& space, const ScaffoldOrder& order) {
    return Scaffold(space, order).plan();
}

}  // namespace envar::life
