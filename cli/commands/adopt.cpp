// envar adopt: manifests for modules that were made without Envar.
#include "core/life/adopt.hpp"

#include <fmt/format.h>

#include <map>
#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/files/read.hpp"
#include "core/files/write.hpp"
#include "core/model/catalogue.hpp"
#include "core/text/utf8.hpp"

namespace envar::cli {
namespace {

/// Folders of `.pc` files become a catalogue, which is a new file wherever the user wants it.
Outcome adopt_pc_files(Invocation& invocation) {
    std::vector<std::filesystem::path> folders;
    for (const auto& word : invocation.words) {
        const auto folder = (invocation.folder / word).lexically_normal();
        if (!files::is_folder(folder))
            return text::refuse(fmt::format("`{}` is no folder", word), "name folders with `.pc` files");
        folders.push_back(folder);
    }
    std::vector<text::Finding> findings;
    const auto found = model::read_pc_folders(folders, invocation.folder, findings);
    const std::string name = invocation.text("catalogue");
    const auto file = (invocation.folder / name).lexically_normal();
    const std::string content = model::catalogue_of(found);
    text::sort_findings(findings);
    for (const auto& finding : findings)
        if (finding.severity != text::Severity::hint) invocation.terminal->finding(finding);
    if (found.empty()) return text::refuse("there is no `.pc` file in these folders");
    if (files::is_there(file) && files::read_file(file, std::size_t{256} << 20U).value_or("") != content)
        return text::refuse(fmt::format("`{}` is there already, and holds something else", name),
                            "nothing was written; name another file, or move that one away");
    const files::Plan plan{file.parent_path(), {{file, std::nullopt, content, "the catalogue"}}};
    if (invocation.shared.dry_run) {
        invocation.terminal->diff(files::plan_diff(plan));
        return fine;
    }
    if (auto written = files::write_file(file, content); !written) return tl::unexpected(written.error());
    invocation.terminal->remark(fmt::format("{}: {}", name, counted(found.size(), "module")));
    invocation.terminal->remark(fmt::format("next: `envar order --catalogue {} --root NAME --link`", name));
    return fine;
}

constexpr std::size_t most_told = 12;  // modules by themselves; of more only the sums are told

std::string summary_of(const life::Adopted& module) {
    std::string line = fmt::format("{} {} for {}, {}", module.module, module.version, module.host,
                                   counted(module.members, "member"));
    if (module.needs > 0) line += fmt::format(", needs {}", counted(module.needs, "module"));
    if (!module.guessed.empty())
        line +=
            fmt::format("; its files do not tell its {}: say it in the manifest", fmt::join(module.guessed, " and "));
    return line;
}

std::string summary_of(const std::vector<life::Adopted>& modules) {
    std::size_t members = 0;
    std::size_t needs = 0;
    std::map<std::string, std::size_t> untold;
    for (const auto& module : modules) {
        members += module.members;
        needs += module.needs;
        for (const auto& what : module.guessed) ++untold[what];
    }
    std::string line = fmt::format("{} with {} and {}", counted(modules.size(), "module"), counted(members, "member"),
                                   counted(needs, "need"));
    for (const auto& [what, count] : untold)
        line += fmt::format("; the files of {} do not tell the {}", counted(count, "module"), what);
    return line;
}

/// What was found out about each module, and how sure that is.
text::Result<void> leave_known(const Invocation& invocation, const std::filesystem::path& root,
                               const life::Adoption& adoption, bool many) {
    Table table{{"module", "what", "is", "how sure", "told by"}, {}};
    nlohmann::ordered_json modules = nlohmann::ordered_json::array();
    for (const auto& module : adoption.modules) {
        nlohmann::ordered_json known = nlohmann::ordered_json::array();
        for (const auto& one : module.known) {
            const std::string value = text::shortened(text::printable(one.value), 48);
            const std::string sure(life::sureness_name(one.sureness));
            table.rows.push_back({module.module, one.what, value, sure, one.by});
            known.push_back(
                {{"what", one.what}, {"value", text::printable(one.value)}, {"sureness", sure}, {"by", one.by}});
        }
        modules.push_back({{"module", module.module},
                           {"host", module.host},
                           {"folder", module.folder},
                           {"known", known},
                           {"notes", module.notes}});
    }
    Invocation quiet = invocation;  // with --format json the answer is what is written
    quiet.shared.json = false;
    auto print =
        leave_results(quiet, root, "adopt", {{"modules", modules}, {"passed_over", adoption.passed_over}}, &table);
    if (!print) return tl::unexpected(print.error());
    if (!invocation.shared.json && !many) {
        invocation.terminal->table(table);
        invocation.terminal->line();
    }
    return {};
}

Outcome run_adopt(Invocation& invocation) {
    if (invocation.flag("catalogue")) return adopt_pc_files(invocation);
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    life::AdoptOrder order;
    order.host = invocation.text("host");
    if (!order.host.empty())
        if (auto card = known_card(desk->space.cards, order.host); !card) return tl::unexpected(card.error());
    order.identity = fresh_identity;
    order.copy = invocation.flag("copy");
    for (const auto& word : invocation.words)
        order.folders.push_back((invocation.folder / word / "").lexically_normal().parent_path());
    if (const std::string into = invocation.text("into"); !into.empty())
        order.into = files::shown_path((invocation.folder / into).lexically_normal(), desk->space.root);
    if (order.copy && order.into.empty())
        return text::fail(text::FailureKind::wrong_usage, "--copy goes with --into",
                          "say where in the workspace the copies are to lie");
    auto adoption = life::adopt_plan(desk->space, order);
    if (!adoption) return tl::unexpected(adoption.error());
    std::vector<std::string> next;
    const bool many = adoption->modules.size() > most_told;
    if (auto left = leave_known(invocation, desk->space.root, *adoption, many); !left)
        return tl::unexpected(left.error());
    for (const auto& module : adoption->modules) {
        if (!many) next.push_back(summary_of(module));
        for (const auto& note : module.notes) next.push_back(fmt::format("{}: {}", module.folder, note));
    }
    if (many) next.push_back(summary_of(adoption->modules));
    for (const auto& passed : adoption->passed_over) next.push_back(fmt::format("passed over: {}", passed));
    const bool beside = std::any_of(adoption->modules.begin(), adoption->modules.end(),
                                    [](const life::Adopted& module) { return module.in_version_folder; });
    next.push_back(fmt::format("next: read the manifests, then `{}envar check && envar trial`",
                               beside ? "envar resolve && " : ""));
    return carry_out(invocation, adoption->plan, desk->lock, next);
}

}  // namespace

Command adopt_command() {
    return {
        "adopt",
        "Start",
        "FOLDER…",
        1,
        1000,
        "write manifests for modules that were made without Envar",
        "Finds out which host a module is for, its version, what it exports and which modules of the workspace it\n"
        "loads, as far as its files tell, writes a manifest into its folder and makes it known to the workspace.\n"
        "No file of the module is touched, and none is generated beside it: the manifest says `emits = \"none\"`.\n"
        "Where the host could not load by its name what is there, such as a script that is to be sourced, an\n"
        "entry file that reads it in is written besides. A folder that is no module itself is gone through for\n"
        "those in it. With --into the manifests go into a folder of the workspace and point at the modules,\n"
        "wherever they lie; with --copy the files come along. Where each file in a folder is a module by itself,\n"
        "--into gives each a manifest of its own; name the file to take up just that one. So it is with files that\n"
        "load each other by names such as `stars.names` from a folder `stars`. Folders that are called like\n"
        "versions, `strings/1.0.0` and `strings/1.2.0`, hold those of one module; `envar resolve` chooses.\n\n"
        "  envar adopt lua/old_stars\n  envar adopt shell/* --host bash\n  envar adopt perl/OldLog --dry-run\n"
        "  envar adopt lua/strings/*\n"
        "  envar adopt ../server/mods --into mods\n  envar adopt ../server/mods --into mods --copy\n"
        "  envar adopt ../old/lib/strings.lua --into lua --copy\n"
        "  envar adopt --catalogue system.jsonl /usr/lib/x86_64-linux-gnu/pkgconfig /usr/share/pkgconfig",
        [](options::options_description_easy_init option) {
            option("host", options::value<std::string>()->value_name("H"),
                   "the host that loads them; else the only one whose entry file is there")(
                "into", options::value<std::string>()->value_name("FOLDER"),
                "put the manifests into this folder; they point at the modules")(
                "copy", "with --into: copy the modules' files there too")(
                "catalogue", options::value<std::string>()->value_name("FILE"),
                "write the `.pc` files of the folders into a new catalogue instead");
        },
        run_adopt};
}

}  // namespace envar::cli
