#include "core/life/depend.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "core/emit/generated.hpp"
#include "core/model/edit.hpp"
#include "core/text/names.hpp"

namespace envar::life {
namespace {

using text::fail;
using text::FailureKind;
using text::refuse;
using text::Result;

const model::Fields& dependency_fields() { return *model::dependency_list().fields; }

/// The dependency as it is to be: `before` (or a fresh one) with what the order says.
model::Dependency wanted(const model::Dependency* before, const DependOrder& order,
                         const versions::NamedRequirement& named) {
    model::Dependency after = before == nullptr ? model::Dependency{} : *before;
    after.module.value = named.name;
    const bool range_given = order.on.find_first_of(" \t<>=!") != std::string::npos;
    if (before == nullptr || range_given) after.versions = versions::parse_requirement(named.versions).value();
    if (order.is_public) after.is_public = *order.is_public;
    if (order.stage) after.stage = model::stage_of(*order.stage);
    if (order.optional) after.optional = *order.optional;
    if (order.reason) after.reason = *order.reason;
    after.system = after.system || order.system;
    return after;
}

/// The dependency as it stands in the document, which may be a table of its own or one of a list of inline tables.
struct Written {
    const model::Node* list = nullptr;
    bool in_line = false;
    std::optional<std::size_t> index;  // in the list
    const model::Dependency* dependency = nullptr;
};

Written find_written(const model::Document& document, const model::Manifest& manifest, const std::string& name) {
    Written written;
    written.list = document.root.find(model::dependency_list().key);
    if (written.list == nullptr) return written;
    const auto found = std::find_if(manifest.dependencies.begin(), manifest.dependencies.end(),
                                    [&](const model::Dependency& d) { return d.module.value == name; });
    written.in_line = document.source.text().compare(written.list->span.begin, 2, "[[") != 0;
    if (found == manifest.dependencies.end()) return written;
    written.dependency = &*found;
    for (std::size_t i = 0; i < written.list->items.size(); ++i)
        if (written.list->items[i].span == found->span) written.index = i;
    return written;
}

Result<std::string> edited_in_line(const std::string& text, const Written& written, const DependOrder& order,
                                   const versions::NamedRequirement& named) {
    const model::Node* element = written.index ? &written.list->items[*written.index] : nullptr;
    if (order.remove) return model::remove_from_list(text, written.list->span, element->span);
    const model::Dependency after = wanted(written.dependency, order, named);
    if (element == nullptr)
        return model::append_to_list(text, written.list->span, model::inline_table(dependency_fields(), &after));
    return model::change_inline_keys(text, *element, model::assignments_of(dependency_fields(), written.dependency),
                                     model::assignments_of(dependency_fields(), &after));
}

Result<std::string> edited(const std::string& text, const Written& written, const DependOrder& order,
                           const versions::NamedRequirement& named) {
    const std::string_view list = model::dependency_list().key;
    if (order.remove) return model::remove_element(text, list, *written.index);
    const model::Dependency after = wanted(written.dependency, order, named);
    if (!written.index) return model::append_element(text, list, model::assignments_of(dependency_fields(), &after));
    return model::change_keys(text, list, *written.index,
                              model::assignments_of(dependency_fields(), written.dependency),
                              model::assignments_of(dependency_fields(), &after));
}

Result<void> check_order(const model::Space& space, const model::Module& module, const DependOrder& order,
                         const versions::NamedRequirement& named) {
    if (order.remove) return {};
    const auto requirement = versions::parse_requirement(named.versions);
    if (!requirement)
        return fail(FailureKind::wrong_usage, fmt::format("in `{}`: {}", order.on, requirement.error().message),
                    requirement.error().hint);
    if (named.name == module.name()) return refuse(fmt::format("`{}` cannot depend on itself", named.name), "");
    if (space.module(named.name) != nullptr || order.optional.value_or(false) || order.system) return {};
    if (order.is_elsewhere && order.is_elsewhere(named.name, *requirement)) return {};
    if (order.is_elsewhere && order.is_elsewhere(named.name, {}))
        return refuse(fmt::format("no version of `{}` that there is meets `{}`", named.name, named.versions),
                      "`envar explain requirement` shows how versions are written");
    std::vector<std::string> names;
    for (const auto& other : space.modules)
        if (other.name() != module.name()) names.push_back(other.name());
    const std::string near = text::did_you_mean(named.name, names);
    return refuse(fmt::format("there is no module `{}` to depend on", named.name),
                  near.empty() ? "scaffold it first, name an [[origin]] that has it, or declare it --optional, or "
                                 "--system when the host brings it along"
                               : near);
}

std::multiset<std::string> dependency_names(const model::Manifest& manifest, const std::string& but) {
    std::multiset<std::string> names;
    for (const auto& d : manifest.dependencies)
        if (d.module.value != but) names.insert(d.module.value);
    return names;
}

/// What the edit was for, read back: the dependency is there (or gone), and all others are as they were.
bool is_as_ordered(const model::Manifest& before, const model::Manifest& after, const DependOrder& order,
                   const versions::NamedRequirement& named) {
    if (dependency_names(before, named.name) != dependency_names(after, named.name)) return false;
    const bool there = std::any_of(after.dependencies.begin(), after.dependencies.end(),
                                   [&](const auto& d) { return d.module.value == named.name; });
    return there != order.remove;
}

}  // namespace

Result<files::Plan> depend_plan(const model::Space& space, const DependOrder& order) {
    const model::Module* module = space.module(order.module);
    if (module == nullptr) {
        std::vector<std::string> names;
        for (const auto& other : space.modules) names.push_back(other.name());
        const std::string near = text::did_you_mean(order.module, names);
        return refuse(fmt::format("there is no module `{}`", order.module),
                      near.empty() ? "`envar modules` lists those that there are" : near);
    }
    const auto named = versions::split_named_requirement(order.on);
    if (auto fine = check_order(space, *module, order, named); !fine) return tl::unexpected(fine.error());
    const model::Document document = model::parse_document(module->source);
    if (!document.valid)
        return refuse(fmt::format("{} is not valid TOML", module->source.file()), "`envar check` shows where");
    const Written written = find_written(document, module->manifest, named.name);
    if (order.remove && !written.index)
        return refuse(fmt::format("`{}` does not depend on `{}`", order.module, named.name),
                      "`envar modules` shows what it depends on");
    const std::string& before = module->source.text();
    auto after =
        written.in_line ? edited_in_line(before, written, order, named) : edited(before, written, order, named);
    if (!after) return tl::unexpected(after.error());
    const model::Document reread = model::parse_document(text::Source(module->source.file(), *after));
    std::vector<text::Finding> findings;
    const model::Manifest manifest = model::read_manifest(reread, findings, model::schemes_of(space.cards));
    if (!reread.valid || !is_as_ordered(module->manifest, manifest, order, named))
        return refuse(fmt::format("{} is laid out in a way that cannot be edited safely", module->source.file()),
                      "nothing was written; edit it by hand");
    files::Plan plan{space.root, {}};
    plan.add({module->home / model::manifest_name, before, *after, "the manifest"});
    // What is generated from the manifest follows in the same step.
    model::Space changed = space;
    for (auto& other : changed.modules)
        if (other.folder == module->folder) {
            other.manifest = manifest;
            other.sound = text::count_severity(findings, text::Severity::error) == 0;
        }
    const auto survey = emit::survey(changed, {order.module}, false);
    for (auto& change : emit::emit_plan(survey, space.root, false).changes) {
        change.purpose += " (generated)";
        plan.add(std::move(change));
    }
    plan.drop_idle();
    return plan;
}

}  // namespace envar::life
