// envar session: the script by which a shell, and whatever it starts, finds the workspace's modules.
#include "core/search/session.hpp"

#include <fmt/format.h>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/emit/block.hpp"
#include "core/files/read.hpp"
#include "core/text/utf8.hpp"

namespace envar::cli {
namespace {

/// The script, and the language of its comments for the block of a start-up file.
struct Script {
    std::string text;
    model::CardDialect dialect;
};

text::Result<Script> script_of(const Invocation& invocation, const model::Space& space, const std::string& shell) {
    const auto load = invocation.texts("load");
    Script script;
    if (shell == "json" || shell == "dotenv") {
        if (!load.empty())
            return text::fail(text::FailureKind::wrong_usage, fmt::format("`--shell {}` loads no modules", shell),
                              "leave --load out");
        script.dialect.comment = "#";
        auto text = shell == "json" ? search::session_json(space, invocation.environment)
                                    : search::session_dotenv(space, invocation.environment);
        if (!text) return tl::unexpected(text.error());
        script.text = std::move(*text);
        return script;
    }
    auto card = known_card(space.cards, shell);
    if (!card) return tl::unexpected(card.error());
    if ((*card)->session_template.empty()) {
        std::vector<std::string> shells = {"dotenv", "json"};
        for (const auto& known : space.cards)
            if (!known.session_template.empty()) shells.push_back(known.name.value);
        return text::fail(text::FailureKind::answer_is_no, fmt::format("the card {} has no [session]", shell),
                          fmt::format("there are: {}", fmt::join(shells, ", ")));
    }
    if (auto known = known_modules(space, load); !known) return tl::unexpected(known.error());
    for (const auto& name : load)
        if (const auto* module = space.module(name); module != nullptr && module->manifest.host.value != shell)
            return text::fail(text::FailureKind::answer_is_no,
                              fmt::format("`{}` is a module for {}, which {} cannot load", name,
                                          module->manifest.host.value, shell),
                              "");
    auto text = search::session_script(space, **card, load);
    if (!text) return tl::unexpected(text.error());
    script.text = std::move(*text);
    script.dialect = (*card)->language;
    return script;
}

constexpr std::size_t largest_startup_file = std::size_t{16} << 20U;

/// Puts the script as a block into a start-up file that the user named.
Outcome install(Invocation& invocation, const Desk& desk, const Script& script) {
    const std::filesystem::path file = (invocation.folder / invocation.text("install")).lexically_normal();
    if (!files::is_folder(file.parent_path()))
        return text::fail(text::FailureKind::wrong_usage,
                          fmt::format("`{}` is no folder", file.parent_path().string()), "make it first");
    std::optional<std::string> before;
    if (files::is_there(file)) {
        auto content = files::read_or_fail(file, largest_startup_file);
        if (!content) return tl::unexpected(content.error());
        before = std::move(*content);
    }
    const std::string name = "session of " + text::printable(desk.space.root.string());
    const auto block = emit::find_block(before.value_or(""), name);
    if (!block) return tl::unexpected(block.error());
    if (block->state == emit::BlockState::edited && !invocation.flag("overwrite"))
        return text::fail(text::FailureKind::answer_is_no,
                          fmt::format("Envar's block in `{}` was edited by hand", file.string()),
                          "nothing was written; --overwrite replaces it, with --dry-run it shows what would be lost");
    auto after = emit::with_block(before.value_or(""), name, script.text, script.dialect);
    if (!after) return tl::unexpected(after.error());
    files::Plan plan{desk.space.root, {}};
    if (before != *after) {
        files::Change change{file, before, *after, "a block that starts the session"};
        change.outside = true;
        plan.add(std::move(change));
    }
    if (!invocation.shared.dry_run && !invocation.shared.json && !plan.empty())
        invocation.terminal->diff(files::plan_diff(plan));
    std::vector<std::string> next;
    if (!plan.empty()) next.emplace_back("a shell that is running already does not read it again: start a new one");
    return carry_out(invocation, plan, desk.lock, next);
}

Outcome run_session(Invocation& invocation) {
    const std::string shell = invocation.text("shell");
    if (shell.empty())
        return text::fail(text::FailureKind::wrong_usage, "`session` needs --shell", "as in --shell bash");
    if (!invocation.flag("install")) {
        auto space = open_space(invocation);
        if (!space) return tl::unexpected(space.error());
        auto script = script_of(invocation, *space, invocation.shared.json ? "json" : shell);
        if (!script) return tl::unexpected(script.error());
        invocation.terminal->raw(script->text);
        return fine;
    }
    if (shell == "json")
        return text::fail(text::FailureKind::wrong_usage, "JSON has no comments to mark a block with",
                          "leave --install out");
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    auto script = script_of(invocation, desk->space, shell);
    if (!script) return tl::unexpected(script.error());
    return install(invocation, *desk, *script);
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
        "what the variables held. Running it twice changes nothing more; `envar_leave` puts everything back.\n"
        "S is a shell that `envar hosts` lists, or `json` or `dotenv` for programs that start others.\n\n"
        "  eval \"$(envar session --shell bash)\"                       bash, zsh, sh\n"
        "  envar session --shell fish | source\n"
        "  envar session --shell csh >session.csh; source session.csh\n"
        "  eval \"$(envar session --shell bash --load night_log)\"\n"
        "  envar session --shell bash --install ~/.bashrc            one marked block; `envar undo` takes it out",
        [](options::options_description_easy_init option) {
            option("shell", options::value<std::string>()->value_name("S"), "the shell that runs the script")  //
                ("load", options::value<std::vector<std::string>>()->composing()->value_name("M"),
                 "a module to load at once; may be repeated")  //
                ("install", options::value<std::string>()->value_name("FILE"),
                 "put the script into this start-up file, as one marked block")  //
                ("overwrite", "with --install: also replace a block that was edited by hand");
        },
        run_session};
}

}  // namespace envar::cli
