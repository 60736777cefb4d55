// envar modules: what is there.
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/emit/generated.hpp"
#include "core/files/read.hpp"
#include "core/members/scan.hpp"
#include "core/order/order.hpp"
#include "core/text/utf8.hpp"
#include "core/trial/trial.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

std::string joined(const std::vector<std::string>& words) { return fmt::format("{}", fmt::join(words, ", ")); }

std::vector<std::string> dependency_names(const model::Manifest& manifest) {
    std::vector<std::string> names;
    for (const auto& d : manifest.dependencies) names.push_back(d.module.value + (d.optional ? "?" : ""));
    return names;
}

/// What a file of the module is for, as far as the card and the manifest tell.
std::string purpose_of(const model::Module& module, const model::Card* card, const std::string& path,
                       const emit::Survey& survey) {
    if (path == model::manifest_name) return "the manifest: the single truth about the module";
    for (const auto& file : survey.files)
        if (file.path == module.folder / path)
            return fmt::format("{} (generated, {})", file.purpose, emit::drift_name(file.drift));
    if (card != nullptr && members::entry_file(module, *card) == module.folder / path)
        return "entry file: loaded first (yours)";
    if (card != nullptr) {
        const auto tests = trial::test_files(module, *card);
        if (std::find(tests.begin(), tests.end(), path) != tests.end())
            return "test, for `envar trial --tests` (yours)";
    }
    return "yours";
}

void walk(const std::filesystem::path& folder, const std::string& prefix, std::vector<std::string>& paths,
          int depth = 0) {
    for (const auto& name : files::list_folder(folder)) {
        if (files::is_folder(folder / name) && !files::link_target(folder / name) && depth < 12) {
            walk(folder / name, prefix + name + "/", paths, depth + 1);
        } else {
            paths.push_back(prefix + name);
        }
    }
}

Outcome show_tree(Invocation& invocation, const model::Space& space, const std::string& name) {
    if (auto known = known_modules(space, {name}); !known) return tl::unexpected(known.error());
    const model::Module* module = space.module(name);
    if (module == nullptr)
        return text::fail(text::FailureKind::answer_is_no, fmt::format("the manifest of `{}` cannot be read", name),
                          "`envar check` shows why");
    const model::Card* card = space.card(module->manifest.host.value);
    const auto survey = emit::survey(space, {name}, false);
    std::vector<std::string> paths;
    walk(module->folder, "", paths);
    std::vector<TreeItem> items;
    items.reserve(paths.size());
    for (const auto& path : paths) items.push_back({path, purpose_of(*module, card, path, survey)});
    invocation.terminal->tree(
        fmt::format("{}/   {} {} for {}", module->shown_folder, name, module->version(), module->manifest.host.value),
        items);
    return fine;
}

Outcome run_modules(Invocation& invocation) {
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    if (invocation.flag("tree")) return show_tree(invocation, *space, invocation.text("tree"));
    auto question = question_of(invocation, *space);
    if (!question) return tl::unexpected(question.error());
    std::set<std::string> loaded;
    for (const auto& placed : order::load_order(*question).placed) loaded.insert(placed.module);
    Table table{{"module", "version", "host", "folder", "members", "needs", "tags"}, {}};
    if (!question->target.empty()) table.head.push_back(question->target + " loads it");
    ordered_json rows = ordered_json::array();
    for (const auto& module : space->modules) {
        const auto& manifest = module.manifest;
        if (invocation.flag("host") && manifest.host.value != invocation.text("host")) continue;
        if (invocation.flag("tag") &&
            std::find(manifest.tags.begin(), manifest.tags.end(), invocation.text("tag")) == manifest.tags.end())
            continue;
        const bool in_target = loaded.count(module.name()) != 0;
        std::vector<std::string> member_names;
        for (const auto& member : manifest.members) member_names.push_back(member.name.value);
        table.rows.push_back({module.name(), module.version(), manifest.host.value,
                              text::printable(module.shown_folder), std::to_string(member_names.size()),
                              joined(dependency_names(manifest)), joined(manifest.tags)});
        if (!question->target.empty()) table.rows.back().push_back(in_target ? "yes" : "no");
        rows.push_back({{"module", module.name()},
                        {"version", module.version()},
                        {"host", manifest.host.value},
                        {"folder", module.shown_folder},
                        {"summary", manifest.summary},
                        {"members", member_names},
                        {"needs", dependency_names(manifest)},
                        {"tags", manifest.tags},
                        {"loaded", in_target}});
    }
    auto print = leave_results(invocation, space->root, "modules", {{"modules", rows}}, &table);
    if (!print) return tl::unexpected(print.error());
    if (!*print) return fine;
    if (table.rows.empty()) {
        invocation.terminal->remark(space->modules.empty() ? "no modules yet; make one with `envar scaffold`"
                                                           : "no module fits");
    } else {
        invocation.terminal->table(table);
        invocation.terminal->remark(
            fmt::format("\n{}; `?` marks what is optional", counted(table.rows.size(), "module")));
    }
    for (const auto& name : space->broken_names)
        invocation.terminal->warn(fmt::format("the manifest of `{}` cannot be read; `envar check` shows why", name));
    return fine;
}

}  // namespace

Command modules_command() {
    return {"modules",
            "Look",
            "",
            0,
            0,
            "list the modules of the workspace, or one module's files",
            "  envar modules                     all modules\n"
            "  envar modules --host lua --tag sky\n"
            "  envar modules --target viewer     which of them the target loads\n"
            "  envar modules --tree star_field   each file of one module with what it is for",
            [](options::options_description_easy_init option) {
                option("host", options::value<std::string>()->value_name("H"), "only modules for this host")  //
                    ("tag", options::value<std::string>()->value_name("T"), "only modules with this tag")     //
                    ("tree", options::value<std::string>()->value_name("M"), "the files of one module");
            },
            run_modules};
}

}  // namespace envar::cli
