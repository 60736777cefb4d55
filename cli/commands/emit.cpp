// envar emit: writes what is generated from the manifests.
#include <fmt/format.h>

#include <algorithm>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/emit/generated.hpp"
#include "core/files/read.hpp"
#include "core/text/diff.hpp"

namespace envar::cli {
namespace {

/// Files that are left as they are, told with what would be lost.
bool report_kept(Invocation& invocation, const emit::Survey& survey, const std::filesystem::path& root,
                 bool overwrite) {
    bool kept = false;
    for (const auto& file : survey.files) {
        const std::string path = files::shown_path(file.path, root);
        if (file.drift == emit::Drift::foreign) {
            invocation.terminal->warn(fmt::format("{} was not made by Envar and is kept [EV504]", path));
            kept = true;
        }
        if (file.drift != emit::Drift::edited || overwrite) continue;
        kept = true;
        invocation.terminal->warn(
            fmt::format("{} was edited by hand and is kept [EV501]; --overwrite would do this:", path));
        if (!invocation.shared.json)
            invocation.terminal->diff(
                text::unified_diff(file.there.value_or(""), file.wanted, "a/" + path, "b/" + path));
    }
    return kept;
}

/// Modules that nothing can be generated from as long as their manifests are as they are.
std::vector<std::string> unsound_modules(const model::Space& space, const std::vector<std::string>& wanted) {
    std::vector<std::string> names = space.broken_names;
    for (const auto& module : space.modules)
        if (!module.sound) names.push_back(module.name());
    std::erase_if(names, [&](const std::string& name) {
        return !wanted.empty() && std::find(wanted.begin(), wanted.end(), name) == wanted.end();
    });
    return names;
}

Outcome run_emit(Invocation& invocation) {
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    if (auto known = known_modules(desk->space, invocation.words); !known) return tl::unexpected(known.error());
    const bool clean = invocation.flag("clean");
    const bool overwrite = invocation.flag("overwrite");
    const auto survey = emit::survey(desk->space, invocation.words, clean);
    invocation.terminal->findings(survey.findings);
    const auto plan = clean ? emit::clean_plan(survey, desk->space.root, overwrite)
                            : emit::emit_plan(survey, desk->space.root, overwrite);
    auto done = carry_out(invocation, plan, desk->lock, {});
    if (!done) return done;
    const auto unsound = clean ? std::vector<std::string>() : unsound_modules(desk->space, invocation.words);
    for (const auto& name : unsound)
        invocation.terminal->warn(
            fmt::format("nothing was written for `{}`: its manifest has errors; `envar check` shows them", name));
    const bool kept = report_kept(invocation, survey, desk->space.root, overwrite);
    const bool trouble = kept || !survey.findings.empty() || !unsound.empty();
    return trouble ? answer_is_no : fine;
}

}  // namespace

Command emit_command() {
    return {
        "emit",
        "Shape",
        "[MODULE…]",
        0,
        10000,
        "write what is generated from the manifests",
        "Writes loaders and descriptors, and only those that changed. A generated file carries a digest: one that\n"
        "somebody edited is kept and shown as a difference, unless --overwrite is given; `envar undo` brings the\n"
        "old text back.\n\n"
        "  envar emit\n  envar emit star_field --dry-run\n  envar emit --clean         remove every generated file, nothing else",
        [](options::options_description_easy_init option) {
            option("clean", "remove the generated files")("overwrite", "also those that were edited by hand");
        },
        run_emit};
}

}  // namespace envar::cli
