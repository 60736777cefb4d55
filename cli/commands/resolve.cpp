// envar resolve: chooses versions and writes the lock.
#include "core/resolve/resolve.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "cli/commands/commands.hpp"
#include "cli/json_text.hpp"
#include "cli/stock.hpp"
#include "cli/views.hpp"
#include "cli/workbench.hpp"
#include "core/files/read.hpp"
#include "core/resolve/system_needs.hpp"

namespace envar::cli {
namespace {

using resolve::LockedModule;
using resolve::Move;
using resolve::Resolution;
using resolve::SystemNeed;

void put_place(JsonText& out, const resolve::Place& place) {
    out.key("file").value(place.file).key("line").value(place.line);
}

void put_unsolved(JsonText& out, const resolve::Unsolved& unsolved) {
    out.object().key("sentences").value(unsolved.sentences).key("requirements").list();
    for (const auto& r : unsolved.requirements) {
        out.row().key("module").value(r.module).key("version").value(r.version);
        out.key("requires").value(r.requires_module).key("versions").value(r.versions).key("kind").value(r.kind);
        put_place(out, r.place);
        out.end();
    }
    out.end().key("advice").list();
    for (const auto& together : unsolved.advice) {
        out.list();
        for (const auto& a : together) {
            out.row().key("change").value(a.change).key("module").value(a.module).key("version").value(a.version);
            out.key("requires").value(a.requires_module).key("versions").value(a.versions).key("kind").value(a.kind);
            out.key("sentence").value(a.sentence);
            put_place(out, a.place);
            out.end();
        }
        out.end();
    }
    out.end();
    if (!unsolved.is_minimal) out.key("minimal").value(false);
    out.end();
}

void put_moves(JsonText& out, const std::vector<Move>& moves) {
    out.key("moves").list();
    for (const Move& move : moves)
        out.row()
            .key("module")
            .value(move.module)
            .key("before")
            .value(move.before)
            .key("after")
            .value(move.after)
            .key("kind")
            .value(move.kind)
            .key("note")
            .value(move.note)
            .end();
    out.end();
}

void put_system(JsonText& out, const std::vector<SystemNeed>& needs) {
    out.key("system").list();
    for (const auto& need : needs)
        out.row()
            .key("module")
            .value(need.module)
            .key("host")
            .value(need.host)
            .key("required_by")
            .value(need.required_by)
            .key("versions")
            .value(need.versions)
            .key("known")
            .value(need.here.known)
            .key("found")
            .value(need.here.found)
            .key("version")
            .value(need.here.version)
            .key("told_by")
            .value(need.here.told_by)
            .key("fits")
            .value(need.fits)
            .end();
    out.end();
}

std::string to_json(const Resolution& resolution, const std::vector<SystemNeed>* system,
                    const std::vector<Move>* moves) {
    JsonText out;
    out.object().key("selected").list();
    for (const auto& s : resolution.selected)
        out.row()
            .key("module")
            .value(s.module)
            .key("version")
            .value(s.version)
            .key("host")
            .value(s.host)
            .key("origin")
            .value(s.origin)
            .key("required_by")
            .value(s.required_by)
            .end();
    out.end().key("unsolved");
    if (resolution.unsolved) {
        put_unsolved(out, *resolution.unsolved);
    } else {
        out.null();
    }
    const std::size_t open = resolution.unproven + resolution.left_open;
    if (open != 0) out.key("unproven").value(open);
    if (system != nullptr) put_system(out, *system);
    if (moves != nullptr) put_moves(out, *moves);
    return out.end().take();
}

Table table_of(const Resolution& resolution) {
    Table table{{"module", "version", "host", "origin", "required by"}, {}};
    for (const auto& s : resolution.selected)
        table.rows.push_back(
            {s.module, s.version, s.host, s.origin, fmt::format("{}", fmt::join(s.required_by, ", "))});
    return table;
}

Table table_of(const std::vector<Move>& moves) {
    Table table{{"module", "before", "after", "move", ""}, {}};
    for (const Move& m : moves)
        table.rows.push_back(
            {m.module, m.before.empty() ? "-" : m.before, m.after.empty() ? "-" : m.after, m.kind, m.note});
    return table;
}

bool all_fit(const std::vector<SystemNeed>& needs) {
    return std::all_of(needs.begin(), needs.end(), [](const auto& need) { return need.fits; });
}

void print_system(Terminal& out, const std::vector<SystemNeed>& needs) {
    if (needs.empty()) return;
    Table table{{"of the system", "version", "host", "told by", "required by"}, {}};
    for (const auto& need : needs)
        table.rows.push_back({need.module,
                              !need.here.known            ? "not known"
                              : !need.here.found          ? out.styled("not there", Style::bad)
                              : need.here.version.empty() ? "there"
                              : need.fits                 ? need.here.version
                                                          : out.styled(need.here.version, Style::bad),
                              need.host, need.here.told_by.empty() ? "-" : need.here.told_by,
                              fmt::format("{} ({}, {})", need.required_by, need.versions, need.place.text())});
    out.line();
    out.table(table);
}

void print_unsolved(Terminal& out, const resolve::Unsolved& unsolved, bool all) {
    constexpr std::size_t most = 100, last = 10;
    out.line(out.styled("the requirements cannot be met:", Style::bad));
    const std::size_t count = unsolved.sentences.size(), hidden = all || count <= most ? 0 : count - most;
    for (std::size_t i = 0; i < count; ++i) {
        if (hidden > 0 && i == most - last) {
            out.line(fmt::format("  … {} more; `--verbose` shows them, resolve.json has them", hidden));
            i += hidden;
        }
        out.line(fmt::format("  {}. {}", i + 1, unsolved.sentences[i]));
    }
    if (unsolved.advice.empty()) return out.line("no small change was found that would help");
    out.line(out.styled(unsolved.advice.size() > 1 ? "any one of these would help (each was tried):"
                                                   : "this would help (it was tried):",
                        Style::good));
    for (const auto& together : unsolved.advice)
        for (std::size_t i = 0; i < together.size(); ++i)
            out.line(fmt::format("  {} {}", i == 0 ? "-" : "  and", together[i].sentence));
}

Outcome explain_choice(Invocation& invocation, const Stock& stock, const Resolution& resolution) {
    const std::string name = invocation.text("why");
    const auto lines = resolve::why(stock.supply, stock.request, resolution, name);
    if (lines.empty())
        return text::fail(text::FailureKind::answer_is_no, fmt::format("`{}` was not chosen", name),
                          "nothing that is loaded needs it");
    if (invocation.shared.json) {
        JsonText out;
        out.object().key("module").value(name).key("why").value(lines);
        invocation.terminal->raw(out.end().take());
        return fine;
    }
    for (std::size_t i = 0; i < lines.size(); ++i) invocation.terminal->line((i == 0 ? "" : "  ") + lines[i]);
    return fine;
}

/// The modules whose content is another one than the lock says, for people; empty: none.
std::string edited_text(const std::vector<LockedModule>& before, const std::vector<LockedModule>& after) {
    std::map<std::string_view, std::string_view> digests;
    for (const LockedModule& one : before) digests[one.module] = one.digest;
    std::vector<std::string> edited;
    for (const LockedModule& one : after)
        if (const auto was = digests.find(one.module);
            was != digests.end() && !was->second.empty() && !one.digest.empty() && was->second != one.digest)
            edited.push_back(one.module);
    if (edited.size() > 5) edited = {fmt::format("{} modules", edited.size())};
    return fmt::format("{}", fmt::join(edited, ", "));
}

/// The lock holds the whole workspace: a look at one target or platform leaves it alone.
Outcome write_lock(Invocation& invocation, const Stock& stock, const std::optional<files::WorkspaceLock>& hold,
                   const std::vector<LockedModule>& modules) {
    const auto& root = stock.space.root;
    const auto path = root / resolve::lock_name;
    const auto before = files::read_file(path, std::size_t{64} << 20U);
    files::Plan plan{root, {}};
    plan.add({path, before ? std::optional(*before) : std::nullopt, resolve::lock_text(modules),
              "the versions that were chosen"});
    plan.drop_idle();
    if (plan.empty() && !invocation.shared.json)
        invocation.terminal->remark(fmt::format("{} holds this already", resolve::lock_name));
    if (invocation.shared.dry_run) return carry_out(invocation, plan, hold, {});
    if (!plan.empty()) {
        Outcome done =
            invocation.shared.json
                ? files::apply(plan, {invocation.command_line, invocation.time}, *hold).map([] { return fine; })
                : carry_out(invocation, plan, hold, {});
        if (!done) return done;
    }
    const auto renewed = renew_views(stock.space, resolve::read_lock(root));
    if (!renewed) return tl::unexpected(renewed.error());
    for (const auto& host : *renewed)
        if (!invocation.shared.json)
            invocation.terminal->remark(
                fmt::format("{} sees the chosen versions through .envar/view/{}", host, host));
    return fine;
}

Outcome stopped(const Invocation& invocation) {
    const bool by_user = interrupted().load();
    return text::fail(
        text::FailureKind::machine_failed,
        by_user ? "the search was stopped" : "the search was given up after the steps that --steps allows",
        by_user ? "nothing was written"
                : fmt::format("nothing is known yet; more than {} are needed",
                              invocation.values["steps"].as<std::uint64_t>()));
}

/// Without a workspace there is no lock to write.
Outcome resolve_catalogue(Invocation& invocation) {
    auto stock = open_stock(invocation);
    if (!stock) return tl::unexpected(stock.error());
    const Resolution resolution = resolve::resolve((*stock)->supply, (*stock)->request);
    warn_of(invocation, resolution.findings);
    if (resolution.stopped) return stopped(invocation);
    if (invocation.flag("why") && !resolution.unsolved) return explain_choice(invocation, **stock, resolution);
    const Table table = table_of(resolution);
    auto print =
        leave_results(invocation, (*stock)->space.root, "resolve", to_json(resolution, nullptr, nullptr), &table);
    if (!print) return tl::unexpected(print.error());
    if (*print && resolution.unsolved)
        print_unsolved(*invocation.terminal, *resolution.unsolved, invocation.flag("verbose"));
    if (*print && !resolution.unsolved) invocation.terminal->table(table);
    return resolution.unsolved ? answer_is_no : fine;
}

/// What is said and done once versions are chosen.
Outcome finish(Invocation& invocation, Stock& stock, const std::optional<files::WorkspaceLock>& hold,
               const Resolution& resolution) {
    const auto system = resolve::system_needs(stock.question, resolution);
    const auto modules = resolve::to_lock(resolution);
    const bool whole = stock.question.target.empty() && stock.question.platform.empty();
    auto moves = resolve::moves(stock.request.locked, modules);
    if (!whole) std::erase_if(moves, [](const Move& move) { return move.after.empty(); });  // it lies elsewhere
    const bool only_moves = invocation.flag("diff") || invocation.flag("locked");
    const std::string edited = edited_text(stock.request.locked, modules);
    const bool show_plan_only = invocation.shared.json && invocation.shared.dry_run && !only_moves;
    const Table table = only_moves ? table_of(moves) : table_of(resolution);
    auto print = show_plan_only ? text::Result<bool>(false)
                                : leave_results(invocation, stock.space.root, "resolve",
                                                to_json(resolution, &system, &moves), &table);
    if (!print) return tl::unexpected(print.error());
    Terminal& out = *invocation.terminal;
    if (*print) {
        if (!table.rows.empty()) out.table(table);
        if (only_moves && moves.empty())
            out.remark(edited.empty() ? fmt::format("{} holds this already", resolve::lock_name)
                                      : fmt::format("{} holds these versions; since it was written, the content "
                                                    "changed of {}",
                                                    resolve::lock_name, edited));
        if (!only_moves) print_system(out, system);
    }
    if (!all_fit(system)) {
        if (*print) out.remark("what the system has does not do: the lock is as it was");
        return answer_is_no;
    }
    if (invocation.flag("locked")) {
        if (moves.empty() && (edited.empty() || !whole)) return fine;
        return text::refuse(fmt::format("{} would change", resolve::lock_name),
                            "`envar resolve` writes it; then keep it under version control");
    }
    if (only_moves) return fine;
    if (*print && !moves.empty() && stock.lock) {
        out.line();
        out.table(table_of(moves));
    }
    if (*print) out.remark("");
    if (!whole) {
        if (*print) out.remark("a look at one target or platform: the lock is as it was");
        return fine;
    }
    return write_lock(invocation, stock, hold, modules);
}

Outcome run_resolve(Invocation& invocation) {
    if (invocation.flag("catalogue") || invocation.flag("root")) return resolve_catalogue(invocation);
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    auto stock = open_stock(invocation, std::move(desk->space));
    if (!stock) return tl::unexpected(stock.error());
    resolve::Request& request = (*stock)->request;
    request.refresh = invocation.texts("refresh");
    if (std::find(request.refresh.begin(), request.refresh.end(), "*") != request.refresh.end()) {
        request.refresh.clear();
        for (const auto& one : request.locked) request.refresh.push_back(one.module);
    }
    for (const auto& name : request.refresh)
        if ((*stock)->supply.table.names.find(name) == model::no_id)
            if (auto known = known_modules((*stock)->space, {name}); !known) return tl::unexpected(known.error());
    const Resolution resolution = resolve::resolve((*stock)->supply, request);
    warn_of(invocation, resolution.findings);
    if (resolution.stopped) return stopped(invocation);
    if (!resolution.unsolved && invocation.flag("why")) return explain_choice(invocation, **stock, resolution);
    if (!resolution.unsolved) return finish(invocation, **stock, desk->lock, resolution);
    const Table table = table_of(resolution);
    const auto print =
        leave_results(invocation, (*stock)->space.root, "resolve", to_json(resolution, nullptr, nullptr), &table);
    if (!print) return tl::unexpected(print.error());
    if (!*print) return answer_is_no;
    print_unsolved(*invocation.terminal, *resolution.unsolved, invocation.flag("verbose"));
    invocation.terminal->remark("the lock is as it was");
    return answer_is_no;
}

}  // namespace

Command resolve_command() {
    return {
        "resolve",
        "Shape",
        "",
        0,
        0,
        "choose versions and write the lock",
        "Chooses a version of every module that is needed, from the workspace, its search folders and the catalogues\n"
        "of its origins: the newest that fits, with as little change of the lock as possible. When nothing fits, it is\n"
        "told why, step by step, and what would help; of more than a hundred steps --verbose shows all. Without\n"
        "--target and --platform the choice is written to lock.envar.toml.\n\n"
        "  envar resolve\n  envar resolve --why sidereal          who asks for it, and why no newer one\n"
        "  envar resolve --refresh sidereal      let this one move to its newest version\n"
        "  envar resolve --diff                  what would move, and what kind of move it is\n"
        "  envar resolve --locked                for a build server: fail when the lock would change\n"
        "  envar resolve --catalogue system.jsonl --root \"cairo >=1.14\"",
        [](options::options_description_easy_init option) {
            option("why", options::value<std::string>()->value_name("M"),
                   "who asks for a module, with what, and which newer versions were passed over")(
                "refresh", options::value<std::vector<std::string>>()->value_name("M"),
                "a module that need not keep its locked version; '*' for all")(
                "diff", "show what would move against the lock, and write nothing")(
                "locked",
                "fail when the lock would change: other versions, or another content of one; write nothing");
            choice_options(option);
            catalogue_options(option);
        },
        run_resolve};
}

}  // namespace envar::cli
