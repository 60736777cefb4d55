// envar order: the load order.
#include "core/order/order.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "cli/commands/commands.hpp"
#include "cli/json_text.hpp"
#include "cli/stock.hpp"
#include "cli/workbench.hpp"
#include "core/order/host_order.hpp"

namespace envar::cli {
namespace {

std::string to_json(const order::Order& order) {
    JsonText out;
    out.object().key("order").list();
    for (const auto& p : order.placed)
        out.row()
            .key("position")
            .value(p.position)
            .key("module")
            .value(p.module)
            .key("version")
            .value(p.version)
            .key("host")
            .value(p.host)
            .key("phase")
            .value(p.phase)
            .key("wave")
            .value(p.wave)
            .key("needs")
            .value(p.needs)
            .key("after")
            .value(p.after)
            .end();
    out.end().key("skipped").list();
    for (const auto& s : order.skipped) out.row().key("module").value(s.module).key("reason").value(s.reason).end();
    out.end().key("cycles").list();
    for (const auto& c : order.cycles) out.value(c.modules);
    out.end().key("edges").list();
    for (const auto& c : order.cycles) {
        out.list();
        for (const auto& e : c.edges)
            out.row()
                .key("from")
                .value(e.from)
                .key("to")
                .value(e.to)
                .key("file")
                .value(e.file)
                .key("line")
                .value(e.line)
                .end();
        out.end();
    }
    out.end().key("missing").list();
    for (const auto& m : order.missing)
        out.row()
            .key("module")
            .value(m.module)
            .key("required_by")
            .value(m.required_by)
            .key("versions")
            .value(m.versions)
            .key("file")
            .value(m.file)
            .key("line")
            .value(m.line)
            .end();
    out.end().key("notes").value(order.notes).key("longest").value(order.longest);
    return out.end().take();
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
        if (cycle.group > cycle.modules.size())
            out.line(fmt::format("  the shortest circle of {} modules that need each other", cycle.group));
    }
    for (const auto& s : order.skipped)
        out.line(fmt::format("{} {}: {}", out.styled("not loaded:", Style::warning), s.module, s.reason));
    for (const auto& note : order.notes) out.line(fmt::format("{} {}", out.styled("note:", Style::accent), note));
}

/// The hosts' own sequences, one host after the other, or that of one of them.
text::Result<order::Order> as_hosts_load(const Invocation& invocation, const Stock& universe) {
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

/// "a, b, c … z (120 modules)".
std::string chain_text(const std::vector<std::string>& chain) {
    constexpr std::size_t most = 12;
    if (chain.size() <= most) return fmt::format("{}", fmt::join(chain, " → "));
    return fmt::format("{} → … → {} ({} modules)", fmt::join(chain.begin(), chain.begin() + most - 2, " → "),
                       chain.back(), chain.size());
}

/// Chooses versions, then lines the chosen ones up. What versions clash is told, and the newest ones are taken.
order::Order planned(Invocation& invocation, Stock& stock) {
    stock.request.brief = true;
    const auto resolution = resolve::resolve(stock.supply, stock.request);
    warn_of(invocation, resolution.findings);
    resolve::Setting setting = stock.request.setting;
    setting.stages = order::load_only;
    order::Order order = order::load_order(order::loading_of(stock.space, stock.supply.table, setting, stock.roots(),
                                                             order::chosen_rows(stock.supply.table, resolution)),
                                           setting.platform);
    // What is missing is told anyway.
    if (order.missing.empty() && (resolution.unsolved || resolution.stopped))
        invocation.terminal->warn(
            "no versions fit together, so this is the order of the newest ones; `envar resolve` tells why");
    return order;
}

/// The last loaded stops first.
void reverse(order::Order& order) {
    std::reverse(order.placed.begin(), order.placed.end());
    for (std::size_t i = 0; i < order.placed.size(); ++i) order.placed[i].position = i + 1;
}

Outcome run_order(Invocation& invocation) {
    if (!invocation.text("host").empty() && !invocation.flag("as-host"))
        return text::fail(text::FailureKind::wrong_usage, "--host goes with --as-host",
                          "`envar order` is the order of all hosts' modules together");
    auto stock = open_stock(invocation);
    if (!stock) return tl::unexpected(stock.error());
    order::Order order;
    if (invocation.flag("as-host")) {
        auto found = as_hosts_load(invocation, **stock);
        if (!found) return tl::unexpected(found.error());
        order = std::move(*found);
    } else {
        order = planned(invocation, **stock);
    }
    if (invocation.flag("stop")) reverse(order);
    if (invocation.flag("link")) std::reverse(order.placed.begin(), order.placed.end());
    const bool with_text = !invocation.shared.json;
    Table table{{" ", "module", "version", "host", "phase", "wave", "needs"}, {}};
    for (const auto& p : order.placed)
        table.rows.push_back({std::to_string(p.position), p.module, p.version, p.host, p.phase,
                              std::to_string(p.wave), fmt::format("{}", fmt::join(p.needs, ", "))});
    table.head[0] = "position";
    auto print = leave_results(invocation, (*stock)->space.root, "order", to_json(order), &table);
    if (!print) return tl::unexpected(print.error());
    table.head[0] = " ";
    const ExitStatus status = order.cycles.empty() && order.missing.empty() ? fine : answer_is_no;
    if (!with_text) return status;
    Terminal& out = *invocation.terminal;
    if (!table.rows.empty()) out.table(table);
    if (table.rows.empty()) out.remark("there is nothing to load");
    const bool trouble =
        !order.missing.empty() || !order.cycles.empty() || !order.skipped.empty() || !order.notes.empty();
    if (trouble) out.line();
    print_trouble(out, order);
    if (order.longest.size() > 2 && !invocation.flag("stop") && !invocation.flag("link") &&
        !invocation.flag("as-host")) {
        out.line();
        out.line(fmt::format("{} {}", out.styled("longest chain:", Style::accent), chain_text(order.longest)));
    }
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
        "  envar order\n  envar order --target viewer --platform windows\n  envar order --stop\n  envar order --as-host --target viewer\n"
        "  envar order --catalogue system.jsonl --root cairo --link",
        [](options::options_description_easy_init option) {
            option("stop", "the order in which they stop: the last one loaded first")(
                "link", "the other way round, as linkers want it: what is needed comes last");
            option("as-host", "each host's modules in the order in which it will really load them")(
                "host", options::value<std::string>()->value_name("H"), "with --as-host: only of this host");
            choice_options(option);
            catalogue_options(option);
        },
        run_order};
}

}  // namespace envar::cli
