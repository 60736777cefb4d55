// envar depend: edits a module's dependencies in place.
#include "core/life/depend.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/resolve/supply.hpp"

namespace envar::cli {
namespace {

text::Result<life::DependOrder> order_of(const Invocation& invocation) {
    life::DependOrder order;
    order.module = invocation.words[0];
    order.on = invocation.words[1];
    const auto choice = [&](const char* yes, const char* no) -> std::optional<bool> {
        if (invocation.flag(yes)) return true;
        if (invocation.flag(no)) return false;
        return std::nullopt;
    };
    order.is_public = choice("public", "private");
    order.optional = choice("optional", "required");
    if (invocation.flag("stage")) {
        order.stage = invocation.text("stage");
        if (model::stage_name(model::stage_of(*order.stage)) != *order.stage)
            return text::fail(text::FailureKind::wrong_usage, fmt::format("`{}` is no stage", *order.stage),
                              "use load, build or test");
    }
    if (invocation.flag("reason")) order.reason = invocation.text("reason");
    order.system = invocation.flag("system");
    order.remove = invocation.flag("remove");
    return order;
}

Outcome run_depend(Invocation& invocation) {
    auto order = order_of(invocation);
    if (!order) return tl::unexpected(order.error());
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    std::optional<text::Result<resolve::Supply>> supply;  // read when the workspace itself does not have it
    order->is_elsewhere = [&](const std::string& name, const versions::Requirement& requirement) {
        if (!supply) supply = resolve::supply_of(desk->space, invocation.environment, invocation.shared.jobs);
        return *supply && resolve::is_to_be_had(**supply, name, requirement, desk->space.settings.prereleases);
    };
    auto plan = life::depend_plan(desk->space, *order);
    if (!plan && supply && !*supply) return tl::unexpected(supply->error());  // which keeps it from being known
    if (!plan) return tl::unexpected(plan.error());
    return carry_out(invocation, *plan, desk->lock,
                     {"next: `envar resolve` chooses versions, `envar order` shows the load order"});
}

}  // namespace

Command depend_command() {
    return {
        "depend",
        "Shape",
        "MODULE \"NAME REQ\"",
        2,
        2,
        "add, change or remove a dependency",
        "Edits the manifest in place: comments, order and blank lines stay. A dependency that is there is changed\n"
        "in just what is given. `envar explain requirement` shows how versions are written.\n\n"
        "  envar depend star_field \"sidereal >=1.1, <2\" --public --reason \"positions need sidereal time\"\n"
        "  envar depend star_field \"dome_sound any\" --optional\n"
        "  envar depend star_field \"socket any\" --system\n"
        "  envar depend star_field sidereal --remove",
        [](options::options_description_easy_init option) {
            option("public", "whoever depends on the module sees it too")("private",
                                                                          "only the module itself needs it")    //
                ("optional", "the module works without it")("required", "the module does not work without it")  //
                ("stage", options::value<std::string>()->value_name("load|build|test"), "when it is needed")    //
                ("system", "the host brings it along")                                                          //
                ("reason", options::value<std::string>()->value_name("TEXT"), "why it is needed")               //
                ("remove", "take the dependency out");
        },
        run_depend};
}

}  // namespace envar::cli
