#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/check/rules.hpp"
#include "core/files/read.hpp"
#include "core/resolve/resolve.hpp"
#include "core/search/locate.hpp"
#include "core/search/naming.hpp"
#include "core/search/view.hpp"
#include "core/text/names.hpp"

namespace envar::check {
namespace {

using model::Card;
using model::Module;

/// Whether two files say the same; folders never do.
bool is_same_file(const std::filesystem::path& a, const std::filesystem::path& b) {
    constexpr std::size_t largest = std::size_t{16} << 20U;
    const auto one = files::read_file(a, largest), other = files::read_file(b, largest);
    return one && other && *one == *other;
}

bool lies_in(const std::string& file, const std::filesystem::path& folder) {
    return file.rfind(folder.string() + "/", 0) == 0;
}

}  // namespace

void search_folders(const Facts& facts, Findings& findings) {
    const auto& space = facts.space;
    const text::Source& source = space.document.source;
    for (const auto& search : space.settings.search) {
        if (search.folder.value.empty()) continue;
        const auto folder = (space.root / search.folder.value).lexically_normal();
        const Card* card = space.card(search.host.value);
        const std::string fault = card == nullptr ? "" : search::cannot_hold(*card, folder.string());
        if (!fault.empty()) {
            findings.push_back(source.finding("EV404", search.folder.span, fault, "move or rename the folder"));
        } else if (!files::is_folder(folder)) {
            const std::string near = text::did_you_mean(search.folder.value, files::list_folder(space.root));
            findings.push_back(source.finding("EV401", search.folder.span,
                                              fmt::format("there is no folder `{}`", search.folder.value),
                                              near.empty() ? "make it, or take the table out" : near));
        }
    }
}

namespace {

bool has_other_versions(const model::Space& space, const Module& module) {
    return std::any_of(space.modules.begin(), space.modules.end(), [&](const Module& other) {
        return other.name() == module.name() && other.version() != module.version();
    });
}

}  // namespace

void on_search_path(const Facts& facts, Findings& findings) {
    const auto& space = facts.space;
    if (!space.document.valid) return;  // what a syntax error took away may be the very entry
    std::map<const Card*, search::LookupCache> caches;
    for (const Module& module : space.modules) {
        const Card* card = space.card(module.manifest.host.value);
        if (card == nullptr || !card->looks_up()) continue;
        if (space.module(module.name()) != &module) continue;               // another version of it is in use
        if (!files::is_file(members::entry_file(module, *card))) continue;  // has its own finding
        const auto found = search::locate(module.name(), {&space, card, {}, space.root, {}, true, &caches[card]});
        const auto inside = [&](const search::Choice& choice) { return lies_in(choice.file, module.folder); };
        if (found.chosen && inside(*found.chosen)) continue;
        if (std::any_of(found.shadowed.begin(), found.shadowed.end(), inside)) {
            findings.push_back(module.source.finding(
                "EV403", module.manifest.name.span,
                fmt::format("{} finds {} before this module", card->name.value, found.chosen->file),
                fmt::format("change the order of the [[search]] tables, or rename one; `envar locate {}` shows all",
                            module.name())));
        } else if (has_other_versions(space, module) ||
                   search::in_version_folder(*card, module, search::folder_name(*card, module.name()))) {
            findings.push_back(module.source.finding(
                "EV402", module.manifest.name.span,
                fmt::format("{} does not look into folders of versions, and no view shows it {} {}", card->name.value,
                            module.name(), module.version()),
                "run `envar resolve`: it makes a folder of links to the chosen versions"));
        } else {
            findings.push_back(module.source.finding(
                "EV402", module.manifest.name.span,
                fmt::format("no search entry of {} leads to `{}`", card->name.value, module.name()),
                fmt::format("add [[search]] with host = \"{}\" and folder = \"{}\" to {}", card->name.value,
                            files::shown_path(module.folder.parent_path(), space.root), model::workspace_file_name)));
        }
    }
}

void hidden_in_views(const Facts& facts, Findings& findings) {
    const auto& space = facts.space;
    if (!search::needs_views(space)) return;
    std::vector<const Module*> in_use;
    for (const Module& module : space.modules)
        if (space.module(module.name()) == &module) in_use.push_back(&module);
    for (const search::View& view : search::views_of(space, in_use))
        for (const auto& [link, by] : view.hidden) {
            if (!view.needed || is_same_file(link.target, by.target)) continue;
            const std::string here = files::shown_path(link.target, space.root);
            findings.push_back(link.module->source.finding(
                "EV405", link.module->manifest.name.span,
                fmt::format("in the view of {}, {} is hidden by that of {}", view.host, here, by.module->name()),
                fmt::format("whoever asks for `{}` gets {}; give one of them another name", link.name,
                            files::shown_path(by.target, space.root))));
        }
}

void generated_files(const Facts& facts, Findings& findings) {
    findings.insert(findings.end(), facts.survey.findings.begin(), facts.survey.findings.end());
    std::size_t pages = 0;
    for (const auto& file : facts.survey.files) {
        if (file.page && (file.drift == emit::Drift::missing || file.drift == emit::Drift::stale)) {
            ++pages;
            continue;
        }
        const text::Source source(files::shown_path(file.path, facts.space.root), file.there.value_or(""));
        switch (file.drift) {
            case emit::Drift::current:
            case emit::Drift::orphan:
                break;
            case emit::Drift::missing:
                findings.push_back(source.finding("EV503", {}, "the generated file is missing", "run `envar emit`"));
                break;
            case emit::Drift::stale:
                findings.push_back(
                    source.finding("EV502", {}, "the generated file is out of date", "run `envar emit`"));
                break;
            case emit::Drift::edited:
                findings.push_back(source.finding("EV501", {}, "the generated file was edited by hand",
                                                  "`envar emit --dry-run --overwrite` shows what would be lost"));
                break;
            case emit::Drift::foreign:
                findings.push_back(source.finding("EV504", {},
                                                  "a file that Envar did not make lies where a generated one belongs",
                                                  "move it away; it is never overwritten"));
                break;
        }
    }
    if (pages > 0)
        findings.push_back(facts.space.document.source.finding(
            "EV506", facts.space.settings.help.span,
            pages == 1 ? "a reference page is missing or out of date"
                       : fmt::format("{} reference pages are missing or out of date", pages),
            "run `envar emit`"));
}

}  // namespace envar::check
