// envar session: the script by which a shell, and whatever it starts, finds the workspace's modules.
#include "core/search/session.hpp"

#include <fmt/format.h>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"

namespace envar::cli {
namespace {

Outcome run(Invocation& invocation) {
    const std::string shell = invocation.text("shell");
    if (shell.empty())
        return text::fail(text::FailureKind::wrong_usage, "`session` needs --shell", "as in --shell bash");
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    auto card = known_card(space->cards, shell);
    if (!card) return tl::unexpected(card.error());
    if ((*card)->session_template.empty())
        return text::fail(text::FailureKind::answer_is_no, fmt::format("the card {} has no [session]", shell),
                          "`envar hosts` lists the shells");
    const auto load = invocation.texts("load");
    if (auto known = known_modules(*space, load); !known) return tl::unexpected(known.error());
    for (const auto& name : load)
        if (const auto* module = space->module(name); module != nullptr && module->manifest.host.value != shell)
            return text::fail(text::FailureKind::answer_is_no,
                              fmt::format("`{}` is a module for {}, which {} cannot load", name,
                                          module->manifest.host.value, shell),
                              "");
    auto script = search::session_script(*space, **card, load);
    if (!script) return tl::unexpected(script.error());
    invocation.terminal->raw(*script);
    return fine;
}

}  // namespace

Command session_command() {
    return {
        "session",
        "Run",
        "",
        0,
        0,
        "print the script that puts the workspace on the search paths",
        "The script sets the search variable of every host that the workspace has [[search]] folders for, in front of\n"
        "what the variables held. Running it twice changes nothing more; `envar_leave` puts everything back.\n\n"
        "  eval \"$(envar session --shell bash)\"\n"
        "  eval \"$(envar session --shell bash --load night_log)\"",
        [](options::options_description_easy_init option) {
            option("shell", options::value<std::string>()->value_name("S"), "the shell that runs the script")  //
                ("load", options::value<std::vector<std::string>>()->composing()->value_name("M"),
                 "a module to load at once; may be repeated");
        },
        run};
}

}  // namespace envar::cli
