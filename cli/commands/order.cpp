// envar order: the load order.
#include "core/order/order.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/order/host_order.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

ordered_json to_json(const order::Order& order) {
    ordered_json placed = ordered_json::array();
    for (const auto& p : order.placed)
        placed.push_back({{"position", p.position},
                          {"module", p.module},
                          {"version", p.version},
                          {"host", p.host},
                          {"phase", p.phase},
                          {"wave", p.wave},
                          {"needs", p.needs},
                          {"after", p.after}});
    ordered_json skipped = ordered_json::array();
    for (const auto& s : order.skipped) skipped.push_back({{"module", s.module}, {"reason", s.reason}});
    ordered_json cycles = ordered_json::array();
    for (const auto& c : order.cycles) cycles.push_back(c.modules);
    ordered_json missing = ordered_json::array();
    for (const auto& m : order.missing)
        missing.push_back({{"module", m.module},
                           {"required_by", m.required_by},
                           {"versions", m.versions},
                           {"file", m.file},
                           {"line", m.line}});
    return {
        {"order", placed}, {"skipped", skipped}, {"cycles", cycles}, {"missing", missing}, {"notes", order.notes}};
}

void print_trouble(Terminal& out, const order::Order& order) {
    for (const auto& m : order.missing)
        out.line(fmt::format("{} {} needs {} {}, which is not there ({}:{})", out.styled("missing:", Style::bad),
                             m.required_by, m.module, m.versions, m.file, m.line));
    for (const auto& cycle : order.cycles) {
        out.line(fmt::format("{} {} needs {}", out.styled("circle:", Style::bad), fmt::join(cycle.modules, " needs "),
                             cycle.modules.front()));
        for (const auto& edge : cycle.edges)
            out.line(fmt::format("  {} needs {} ({}:{})", edge.from, edge.to, edge.file, edge.line));
    }
    for (const auto& s : order.skipped)
        out.line(fmt::format("{} {}: {}", out.styled("not loaded:", Style::warning), s.module, s.reason));
    for (const auto& note : order.notes) out.line(fmt::format("{} {}", out.styled("note:", Style::accent), note));
}

/// The hosts' own sequences, one host after the other, or that of one of them.
text::Result<order::Order> as_hosts_load(const Invocation& invocation, const Universe& universe) {
    const std::string only = invocation.text("host");
    if (!only.empty())
        if (auto card = known_card(universe.space.cards, only); !card) return tl::unexpected(card.error());
    order::Order all;
    for (const auto& card : universe.space.cards) {
        const bool used = std::any_of(universe.space.modules.begin(), universe.space.modules.end(),
                                      [&](const auto& m) { return m.manifest.host.value == card.name.value; });
        if (only.empty() ? !used : card.name.value != only) continue;
        order::Order one = order::host_order(universe.question, card);
        for (auto& placed : one.placed) {
            placed.position = all.placed.size() + 1;
            all.placed.push_back(std::move(placed));
        }
        for (auto& skipped : one.skipped) all.skipped.push_back(std::move(skipped));
        for (auto& note : one.notes)
            if (std::find(all.notes.begin(), all.notes.end(), note) == all.notes.end()) all.notes.push_back(note);
        all.cycles = std::move(one.cycles);  // of the whole workspace, for each host the same
        all.missing = std::move(one.missing);
    }
    return all;
}

Outcome run_order(Invocation& invocation) {
    auto universe = open_universe(invocation);
    if (!universe) return tl::unexpected(universe.error());
    if (!invocation.text("host").empty() && !invocation.flag("as-host"))
        return text::fail(text::FailureKind::wrong_usage, "--host goes with --as-host",
                          "`envar order` is the order of all hosts' modules together");
    text::Result<order::Order> found = order::Order();
    if (invocation.flag("as-host")) {
        found = as_hosts_load(invocation, **universe);
        if (!found) return tl::unexpected(found.error());
    } else {
        *found = order::load_order((*universe)->question);
    }
    order::Order& order = *found;
    if (invocation.flag("link")) std::reverse(order.placed.begin(), order.placed.end());
    Table table{{" ", "module", "version", "host", "phase", "wave", "needs"}, {}};
    for (const auto& p : order.placed)
        table.rows.push_back({std::to_string(p.position), p.module, p.version, p.host, p.phase,
                              std::to_string(p.wave), fmt::format("{}", fmt::join(p.needs, ", "))});
    Table for_file = table;
    for_file.head[0] = "position";
    auto print = leave_results(invocation, (*universe)->space.root, "order", to_json(order), &for_file);
    if (!print) return tl::unexpected(print.error());
    const ExitStatus status = order.cycles.empty() && order.missing.empty() ? fine : answer_is_no;
    if (!*print) return status;
    Terminal& out = *invocation.terminal;
    if (!table.rows.empty()) out.table(table);
    if (table.rows.empty()) out.remark("there is nothing to load");
    const bool trouble =
        !order.missing.empty() || !order.cycles.empty() || !order.skipped.empty() || !order.notes.empty();
    if (trouble) out.line();
    print_trouble(out, order);
    return status;
}

}  // namespace

Command order_command() {
    return {
        "order",
        "Find and order",
        "",
        0,
        0,
        "show the load order, and what cannot be loaded",
        "Dependencies come first, then phases, then names; modules of one wave may load at the same time. Circles\n"
        "and missing modules are told with the places to blame. Exit status 1 when there are any. Some hosts have a rule\n"
        "of their own: --as-host shows the order in which each will really load its modules, and what it drops.\n\n"
        "  envar order\n  envar order --target viewer --platform windows\n  envar order --as-host --target viewer\n"
        "  envar order --catalogue system.jsonl --root cairo --link",
        [](options::options_description_easy_init option) {
            option("link", "the other way round, as linkers want it: what is needed comes last");
            option("as-host", "each host's modules in the order in which it will really load them")(
                "host", options::value<std::string>()->value_name("H"), "with --as-host: only of this host");
            catalogue_options(option);
        },
        run_order};
}

}  // namespace envar::cli
