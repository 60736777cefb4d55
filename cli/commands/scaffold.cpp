// envar scaffold: a new module that at once checks and loads.
#include <fmt/format.h>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/files/read.hpp"
#include "core/life/refresh.hpp"
#include "core/life/scaffold.hpp"

namespace envar::cli {
namespace {

text::Result<life::ScaffoldOrder> order_of(const Invocation& invocation) {
    life::ScaffoldOrder order;
    order.name = invocation.words[0];
    order.host = invocation.text("host");
    if (order.host.empty())
        return text::fail(text::FailureKind::wrong_usage, "`scaffold` needs --host", "`envar hosts` lists the hosts");
    order.blueprint = invocation.text("blueprint");
    if (invocation.flag("module-version")) order.version = invocation.text("module-version");
    order.folder = invocation.text("in");
    order.members = invocation.texts("member");
    order.depends = invocation.texts("depend");
    auto settings = settings_of(invocation);
    if (!settings) return tl::unexpected(settings.error());
    order.settings = std::move(*settings);
    order.identity = fresh_identity();
    return order;
}

Outcome refresh(Invocation& invocation) {
    for (const char* option : {"host", "blueprint", "module-version", "in", "member", "depend", "set"})
        if (invocation.flag(option))
            return text::fail(text::FailureKind::wrong_usage, fmt::format("--{} does not go with --refresh", option),
                              "a module is refreshed as it was made");
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    if (auto known = known_modules(desk->space, invocation.words); !known) return tl::unexpected(known.error());
    auto refreshed = life::refresh_plan(desk->space, invocation.words[0]);
    if (!refreshed) return tl::unexpected(refreshed.error());
    std::vector<std::string> next;
    for (const auto& file : refreshed->left)
        next.push_back(fmt::format("left alone: {} (you removed it, or made your own)", file));
    for (const auto& file : refreshed->conflicts)
        next.push_back(
            fmt::format("conflict: in {} both versions stand between marks; choose, then check again", file));
    auto done = carry_out(invocation, refreshed->plan, desk->lock, next);
    if (!done) return done;
    return refreshed->conflicts.empty() ? *done : answer_is_no;
}

Outcome run_scaffold(Invocation& invocation) {
    if (invocation.flag("refresh")) return refresh(invocation);
    auto order = order_of(invocation);
    if (!order) return tl::unexpected(order.error());
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    auto plan = life::scaffold_plan(desk->space, *order);
    if (!plan) return tl::unexpected(plan.error());
    const model::Card& card = *desk->space.card(order->host);
    std::vector<std::string> next = {
        fmt::format("next: write the {1}, then `envar check {0} && envar trial {0}`", order->name,
                    card.is_native() ? "code in its folders include and src" : "module in its entry file")};
    if (!card.notice.empty())
        next.push_back(fmt::format("a {} that is running already: {}", card.name.value, card.notice));
    if (!card.notice_variables.empty() && plan->find(desk->space.root / model::workspace_file_name) != nullptr)
        next.push_back(fmt::format("its search path has changed; a {} that is running already: {}", card.name.value,
                                   card.notice_variables));
    return carry_out(invocation, *plan, desk->lock, next);
}

}  // namespace

Command scaffold_command() {
    return {
        "scaffold",
        "Start",
        "NAME",
        1,
        1,
        "make a new module that checks and loads at once",
        "Writes the manifest, the files of a blueprint and what is generated from the manifest, and makes the\n"
        "module known to the workspace and on the host's search path.\n\n"
        "  envar scaffold sidereal --host lua --module-version 1.1.4\n"
        "  envar scaffold star_field --host lua --member place --depend \"sidereal >=1.1, <2\"\n"
        "  envar scaffold dome_math --host lua --blueprint library --member \"rise(ra:number, dec:number, epoch=J2000)\"\n"
        "  envar scaffold night_log --host bash --set summary=\"Writes the night's log.\"\n"
        "  envar scaffold --refresh night_log      merge what is new in the card's templates",
        [](options::options_description_easy_init option) {
            using Texts = std::vector<std::string>;
            option("host", options::value<std::string>()->value_name("H"),
                   "the host that loads it; `envar hosts` lists them")  //
                ("blueprint", options::value<std::string>()->value_name("B"),
                 "the set of files; `envar hosts show H` lists them")  //
                ("module-version", options::value<std::string>()->value_name("V"),
                 "version to begin with; else 0.1.0")  //
                ("in", options::value<std::string>()->value_name("FOLDER"),
                 "folder it is made in; else the host's first search folder")  //
                ("member", options::value<Texts>()->composing()->value_name("M"),
                 "an exported function, with parameters if you like; may be repeated")  //
                ("depend", options::value<Texts>()->composing()->value_name("\"NAME REQ\""),
                 "a dependency; may be repeated")  //
                ("set", options::value<Texts>()->composing()->value_name("K=V"),
                 "summary, license, author or what the blueprint knows; may be repeated")  //
                ("refresh", "bring a module made earlier up to date with its card; nothing of yours is lost");
        },
        run_scaffold};
}

}  // namespace envar::cli
