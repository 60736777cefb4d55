// envar begin: starts a workspace.
#include <fmt/format.h>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/files/write.hpp"
#include "core/life/begin.hpp"

namespace envar::cli {
namespace {

Outcome run_begin(Invocation& invocation) {
    const std::filesystem::path given = invocation.words.empty() ? "." : invocation.words[0];
    std::filesystem::path folder = (invocation.folder / given).lexically_normal();
    if (!folder.has_filename()) folder = folder.parent_path();
    const std::string name = invocation.flag("name") ? invocation.text("name") : folder.filename().string();
    auto plan = life::begin_plan(folder, name);
    if (!plan) return tl::unexpected(plan.error());
    auto lock = hold(invocation, folder);
    if (!lock) return tl::unexpected(lock.error());
    const std::string enter = invocation.words.empty() ? "" : fmt::format("cd {} && ", invocation.words[0]);
    return carry_out(
        invocation, *plan, *lock,
        {fmt::format("next: {}envar scaffold NAME --host HOST    (`envar hosts` lists the hosts)", enter)});
}

}  // namespace

Command begin_command() {
    return {"begin",
            "Start",
            "[FOLDER]",
            0,
            1,
            "start a workspace in a folder",
            "Writes workspace.envar.toml, by which every other command finds the workspace from anywhere within it.\n"
            "The folder is made when it is not there; without one, the present folder becomes the workspace.\n\n"
            "  envar begin skydome",
            [](options::options_description_easy_init option) {
                option("name", options::value<std::string>()->value_name("NAME"),
                       "name of the workspace; else the folder's");
            },
            run_begin};
}

}  // namespace envar::cli
