// envar figure: graphs as SVG and PNG.
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/figures/figures.hpp"
#include "core/text/names.hpp"

namespace envar::cli {
namespace {

Outcome run_figure(Invocation& invocation) {
    const std::string& kind = invocation.words[0];
    if (kind != "dependencies" && kind != "order") {
        const std::string near = text::did_you_mean(kind, {"dependencies", "order"});
        return text::fail(text::FailureKind::wrong_usage, fmt::format("there is no figure `{}`", kind),
                          near.empty() ? "use dependencies or order" : near);
    }
    auto universe = open_universe(invocation);
    if (!universe) return tl::unexpected(universe.error());
    const resolve::Question* question = &(*universe)->question;
    const auto& root = (*universe)->space.root;
    const std::string dot = kind == "order" ? figures::order_dot(*question) : figures::dependencies_dot(*question);
    const std::string temporary = invocation.variable("TMPDIR");
    nlohmann::ordered_json written = nlohmann::ordered_json::array();
    if (invocation.shared.dry_run) {
        invocation.terminal->raw(dot);
        return fine;
    }
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

}  // namespace

Command figure_command() {
    return {"figure",
            "Show",
            "dependencies|order",
            1,
            1,
            "draw who needs whom, or the load order",
            "Leaves NAME.svg, NAME.png and NAME.dot in the results folder.\n\n"
            "  envar figure dependencies\n  envar figure order --target viewer\n"
            "  envar figure dependencies --catalogue system.jsonl --root cairo",
            [](options::options_description_easy_init option) { catalogue_options(option); },
            run_figure};
}

}  // namespace envar::cli
