// envar figure: graphs as SVG and PNG.
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/stock.hpp"
#include "cli/workbench.hpp"
#include "core/figures/figures.hpp"
#include "core/text/names.hpp"

namespace envar::cli {
namespace {

/// Draws and leaves the three files; tells which.
Outcome leave_figure(Invocation& invocation, const std::filesystem::path& root, const std::string& kind,
                     const std::string& dot) {
    const std::string temporary = invocation.variable("TMPDIR");
    nlohmann::ordered_json written = nlohmann::ordered_json::array();
    auto left = leave_file(invocation, root, kind + ".dot", dot);
    if (!left) return tl::unexpected(left.error());
    written.push_back(*left);
    for (const std::string format : {"svg", "png"}) {
        auto drawn = figures::draw(dot, format, invocation.variable("PATH"), temporary.empty() ? "/tmp" : temporary);
        if (!drawn) return tl::unexpected(drawn.error());
        left = leave_file(invocation, root, fmt::format("{}.{}", kind, format), *drawn);
        if (!left) return tl::unexpected(left.error());
        written.push_back(*left);
    }
    if (invocation.shared.json) {
        invocation.terminal->raw(nlohmann::ordered_json{{"figure", kind}, {"files", written}}.dump(2) + "\n");
    } else {
        for (const auto& file : written) invocation.terminal->line(file.get<std::string>());
    }
    return fine;
}

Outcome run_figure(Invocation& invocation) {
    const std::string& kind = invocation.words[0];
    if (kind != "dependencies" && kind != "order") {
        const std::string near = text::did_you_mean(kind, {"dependencies", "order"});
        return text::fail(text::FailureKind::wrong_usage, fmt::format("there is no figure `{}`", kind),
                          near.empty() ? "use dependencies or order" : near);
    }
    auto stock = open_stock(invocation);
    if (!stock) return tl::unexpected(stock.error());
    const auto resolution = resolve::resolve((*stock)->supply, (*stock)->request);
    const auto& table = (*stock)->supply.table;
    resolve::Setting setting = (*stock)->request.setting;
    if (kind == "order") setting.stages = order::load_only;
    const auto loading =
        order::loading_of((*stock)->space, table, setting, (*stock)->roots(), order::chosen_rows(table, resolution));
    const auto order = order::load_order(loading, setting.platform);
    figures::Scene scene;
    scene.title = (*stock)->catalogue.empty() ? (*stock)->space.settings.name.value : (*stock)->catalogue;
    if (!setting.target.empty()) scene.title += ", target " + setting.target;
    scene.loading = &loading;
    scene.order = &order;
    scene.unsolved = resolution.unsolved ? &*resolution.unsolved : nullptr;
    scene.around = invocation.text("around");
    scene.depth = invocation.values.count("depth") != 0 ? invocation.values["depth"].as<std::size_t>() : 1;
    std::vector<std::string> names;
    for (const auto& item : loading.items) names.emplace_back(item.name);
    if (!scene.around.empty() && std::find(names.begin(), names.end(), scene.around) == names.end())
        return text::refuse(fmt::format("`{}` is not among the modules that are drawn", scene.around),
                            text::did_you_mean(scene.around, names));
    if (kind == "dependencies" && scene.around.empty() && names.size() > figures::most_modules &&
        !invocation.shared.dry_run)
        return text::refuse(
            fmt::format("{} are too many for one figure", counted(names.size(), "module")),
            "`--around MODULE --depth 2` draws what lies near one; --dry-run tells Graphviz's text of "
            "all of them");
    const std::string dot = kind == "order" ? figures::order_dot(scene) : figures::dependencies_dot(scene);
    if (invocation.shared.dry_run) {
        invocation.terminal->raw(dot);
        return fine;
    }
    auto left = leave_figure(invocation, (*stock)->space.root, kind, dot);
    if (left && !invocation.shared.json && kind == "dependencies" && scene.around.empty() &&
        names.size() > figures::many_modules)
        invocation.terminal->remark(
            fmt::format("{} are many for one figure; `--around MODULE --depth 2` draws what lies near one",
                        counted(names.size(), "module")));
    return left;
}

}  // namespace

Command figure_command() {
    return {
        "figure",
        "Show",
        "dependencies|order",
        1,
        1,
        "draw who needs whom, or the load order",
        "Leaves NAME.svg, NAME.png and NAME.dot in the results folder. `dependencies` shows modules in their chosen\n"
        "versions, by host; `order` is a chart of the waves with the longest chain.\n\n"
        "  envar figure dependencies\n  envar figure order --target viewer\n"
        "  envar figure dependencies --around star_field --depth 2\n"
        "  envar figure dependencies --catalogue system.jsonl --root cairo",
        [](options::options_description_easy_init option) {
            option("around", options::value<std::string>()->value_name("M"), "only what lies near this module")(
                "depth", options::value<std::size_t>()->value_name("N"), "with --around: how many needs away (1)");
            choice_options(option);
            catalogue_options(option);
        },
        run_figure};
}

}  // namespace envar::cli
