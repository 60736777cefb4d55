// envar adopt: manifests for modules that were made without Envar.
#include "core/life/adopt.hpp"

#include <fmt/format.h>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/files/read.hpp"

namespace envar::cli {
namespace {

Outcome run_adopt(Invocation& invocation) {
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    life::AdoptOrder order;
    order.host = invocation.text("host");
    if (!order.host.empty())
        if (auto card = known_card(desk->space.cards, order.host); !card) return tl::unexpected(card.error());
    for (const auto& word : invocation.words) {
        const auto folder = (invocation.folder / word / "").lexically_normal().parent_path();
        order.folders.push_back(files::shown_path(folder, desk->space.root));
        order.identities.push_back(fresh_identity());
    }
    auto adoption = life::adopt_plan(desk->space, order);
    if (!adoption) return tl::unexpected(adoption.error());
    std::vector<std::string> next;
    for (const auto& module : adoption->modules) {
        std::string line = fmt::format("{} {} for {}, {}", module.module, module.version, module.host,
                                       counted(module.members, "member"));
        if (!module.guessed.empty())
            line += fmt::format("; its files do not tell its {}: say it in the manifest",
                                fmt::join(module.guessed, " and "));
        next.push_back(std::move(line));
    }
    next.emplace_back("next: read the manifests, then `envar check && envar trial`");
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
        "loads, as far as its files tell, writes a manifest into its folder and makes it known to the workspace. No\n"
        "file of the module is touched, and none is generated beside it: the manifest says `emits = \"none\"`.\n\n"
        "  envar adopt lua/old_stars\n  envar adopt shell/* --host bash\n  envar adopt perl/OldLog --dry-run",
        [](options::options_description_easy_init option) {
            option("host", options::value<std::string>()->value_name("H"),
                   "the host that loads them; else the only one whose entry file is there");
        },
        run_adopt};
}

}  // namespace envar::cli
