// envar members: declared against found.
#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "cli/commands/commands.hpp"
#include "cli/json_text.hpp"
#include "cli/workbench.hpp"
#include "core/life/sync.hpp"
#include "core/members/below.hpp"
#include "core/members/scan.hpp"
#include "core/model/assets.hpp"
#include "core/text/side_by_side.hpp"
#include "core/text/utf8.hpp"
#include "core/trial/trial.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

void put_parameters(JsonText& out, const model::Member* declared, const members::FoundMember* found) {
    out.key("parameters").list();
    const auto put = [&](const std::string& name, const std::string& type, bool required, const std::string& given,
                         const std::string& preset, const std::string& summary) {
        out.object().key("name").value(name).key("type").value(type).key("required").value(required);
        out.key("given").value(given);
        out.key("default").value(preset).key("summary").value(summary).end();
    };
    if (declared != nullptr && !declared->parameters.empty()) {
        for (const auto& p : declared->parameters)
            put(p.name.value, p.type, p.required, p.given, p.preset.text, p.summary);
    } else if (found != nullptr) {
        for (const auto& p : found->parameters)
            put(p.name, p.type, p.required, members::given(p), p.preset, p.summary);
    }
    out.end();
}

/// How a declared member and what was found of it stand to each other.
std::string state_of(const model::Member* declared, const members::FoundMember* found, bool exports_all) {
    if (found == nullptr) return declared->dynamic ? "dynamic" : "absent";
    if (declared == nullptr) return exports_all ? "exported" : "not listed";
    if (members::is_called_differently(*declared, *found)) return "differs";
    return "exported";
}

/// Declared and found members joined by name, in order of the source, undiscovered ones at the end.
class Listing {
  public:
    Listing(const model::Module& module, const members::Scan& scan, const members::Scan& internal)
        : module_(module), scan_(scan), internal_(internal) {}

    void put(JsonText& out, Table& table) const {
        out.key("members").list();
        std::map<std::string_view, const model::Member*> declared;
        for (const auto& one : module_.manifest.members) declared.try_emplace(one.name.value, &one);
        std::set<std::string_view> found;
        for (const auto& one : scan_.members) {
            found.insert(one.name);
            const auto match = declared.find(one.name);
            put(match == declared.end() ? nullptr : match->second, &one, out, table);
        }
        for (const auto& one : module_.manifest.members)
            if (found.count(one.name.value) == 0) put(&one, nullptr, out, table);
        for (const auto& one : internal_.members)
            if (declared.count(one.name) == 0) put(nullptr, &one, out, table, "internal");
        out.end();
    }

  private:
    void put(const model::Member* declared, const members::FoundMember* found, JsonText& out, Table& table,
             const char* otherwise = nullptr) const {
        const std::string& name = declared != nullptr ? declared->name.value : found->name;
        const std::string& kind = declared != nullptr ? declared->kind : found->kind;
        const std::string& summary = found != nullptr && (declared == nullptr || declared->summary.empty())
                                         ? found->summary
                                         : declared->summary;
        const std::string& file = found != nullptr ? found->file : module_.source.file();
        const std::size_t line =
            found != nullptr ? found->line : module_.source.position(declared->name.span.begin).line;
        const std::string state = otherwise != nullptr
                                      ? otherwise
                                      : state_of(declared, found, members::exports_all(module_.manifest, scan_));
        const auto own = declared == nullptr ? std::vector<std::string>{} : members::parameter_names(*declared);
        const auto in_source = found == nullptr ? std::vector<std::string>{} : members::parameter_names(*found);
        const std::string names = fmt::format("{}", fmt::join(own.empty() ? in_source : own, ", "));
        table.rows.push_back(
            {module_.name(), name, kind, names, fmt::format("{}:{}", file, line), state, text::printable(summary)});
        out.row().key("name").value(name).key("kind").value(kind).key("file").value(file).key("line").value(line);
        put_parameters(out, declared, found);
        out.key("summary")
            .value(summary)
            .key("declared")
            .value(declared != nullptr)
            .key("found")
            .value(found != nullptr);
        out.key("state").value(state).key("source_parameters");
        if (found != nullptr && found->tells_parameters) {
            out.value(in_source);
        } else {
            out.null();
        }
        out.end();
    }

    const model::Module& module_;
    const members::Scan& scan_;
    const members::Scan& internal_;
};

/// What the [[asset]] tables lead to, file by file.
Outcome list_assets(Invocation& invocation, const model::Space& space) {
    Table table{{"module", "file", "bytes", "declared"}, {}};
    ordered_json modules = ordered_json::array();
    bool empty_handed = false;
    for (const auto& module : space.modules) {
        if (!invocation.words.empty() && module.name() != invocation.words[0]) continue;
        ordered_json rows = ordered_json::array();
        for (const auto& asset : module.manifest.assets) {
            const auto scan = model::scan_asset(asset, module.folder);
            const std::size_t line = module.source.position(asset.folder.span.begin).line;
            empty_handed = empty_handed || scan.files.empty();
            for (const auto& file : scan.files) {
                rows.push_back({{"file", file.path}, {"bytes", file.bytes}, {"line", line}});
                table.rows.push_back({module.name(), text::printable(file.path), std::to_string(file.bytes),
                                      fmt::format("{}:{}", module.source.file(), line)});
            }
        }
        modules.push_back({{"module", module.name()}, {"version", module.version()}, {"assets", rows}});
    }
    auto print = leave_results(invocation, space.root, "assets", {{"modules", modules}}, &table);
    if (!print) return tl::unexpected(print.error());
    if (*print && !table.rows.empty()) invocation.terminal->table(table);
    if (*print) invocation.terminal->remark((table.rows.empty() ? "" : "\n") + counted(table.rows.size(), "asset"));
    return empty_handed ? answer_is_no : fine;
}

/// A module that the words name.
struct Chosen {
    const model::Module* module;
    const model::Card* card;
};

/// The card without what makes definitions internal.
model::Card without_internal(const model::Card& card) {
    model::Card open = card;
    open.internal_pattern.clear();
    open.export_pattern.clear();
    for (auto& member : open.members)
        if (member.role == model::MemberRole::local) member.role = model::MemberRole::member;
    return open;
}

/// What is defined and nobody else's business.
members::Scan internal_of(const model::Module& module, const model::Card& card, const model::Space& space,
                          const members::Scan& exported) {
    const model::Card open = without_internal(card);
    members::Scan scan = members::scan(module, open, space.root);
    scan.card = &card;
    std::erase_if(scan.members, [&](const members::FoundMember& member) {
        return std::any_of(exported.members.begin(), exported.members.end(),
                           [&](const auto& known) { return known.name == member.name; });
    });
    return scan;
}

/// Calls take(module's number, module, scan) for all that the words name; by several threads.
template <class Take>
void scan_all(const Invocation& invocation, const model::Space& space, const std::vector<Chosen>& chosen,
              const Take& take) {
    members::PatternsByCard patterns;
    for (const Chosen& one : chosen) patterns.of(*one.card);
    text::side_by_side(chosen.size(), invocation.shared.jobs, [&](std::size_t i) {
        const Chosen& one = chosen[i];
        take(i, one, members::scan(*one.module, *one.card, space.root, patterns.at(*one.card)));
    });
}

std::vector<Chosen> chosen_modules(const Invocation& invocation, const model::Space& space) {
    std::vector<Chosen> out;
    for (const auto& module : space.modules) {
        const model::Card* card = space.card(module.manifest.host.value);
        if (card != nullptr && (invocation.words.empty() || module.name() == invocation.words[0]))
            out.push_back({&module, card});
    }
    return out;
}

/// A module whose members nobody can tell, as there is no card for its host, and where its manifest names that.
struct LeftOut {
    std::string module, host, file;
    std::size_t line = 0;
};

/// All such modules. Fails where one is asked for by name.
text::Result<std::vector<LeftOut>> left_out(const Invocation& invocation, const model::Space& space) {
    std::vector<LeftOut> out;
    for (const auto& module : space.modules) {
        const model::Word& host = module.manifest.host;
        if (space.card(host.value) != nullptr) continue;
        LeftOut one{module.name(), host.value, module.source.file(), module.source.position(host.span.begin).line};
        const std::string place = fmt::format("{}:{}", one.file, one.line);
        if (!invocation.words.empty() && module.name() == invocation.words[0])
            return text::refuse(host.value.empty()
                                    ? fmt::format("{}: the module says no host", place)
                                    : fmt::format("{}: there is no card for the host `{}`", place, host.value),
                                "`envar hosts` lists the cards that there are");
        out.push_back(std::move(one));
    }
    if (!invocation.words.empty()) out.clear();
    return out;
}

/// What the real hosts show of the modules after loading them. Fails when one does not load.
using Shown = std::map<std::string, std::vector<members::FoundMember>>;
text::Result<Shown> shown_by_hosts(Invocation& invocation, model::Space& space) {
    auto settings = trial_settings(invocation, space);
    if (!settings) return tl::unexpected(settings.error());
    const auto trial = trial::run_trial(*settings);
    invocation.terminal->progress("");
    if (!trial) return tl::unexpected(trial.error());
    Shown shown;
    for (const auto& host : trial->hosts)
        for (const auto& module : host.modules) {
            if (!module.error.empty())
                return text::refuse(fmt::format("{} does not load: {}", module.module, module.error),
                                    "`envar trial` tells more");
            for (const auto& member : module.seen)
                if (std::binary_search(module.seen_members.begin(), module.seen_members.end(), member.name))
                    shown[module.module].push_back(member);
        }
    return shown;
}

Outcome sync(Invocation& invocation) {
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    if (auto known = known_modules(desk->space, invocation.words); !known) return tl::unexpected(known.error());
    files::Plan plan{desk->space.root, {}};
    Table table{{"module", "member", ""}, {}};
    Shown shown;
    if (invocation.flag("from-host")) {
        auto by_host = shown_by_hosts(invocation, desk->space);
        if (!by_host) return tl::unexpected(by_host.error());
        shown = std::move(*by_host);
    }
    const std::vector<Chosen> chosen = chosen_modules(invocation, desk->space);
    std::vector<members::Scan> scans(chosen.size());
    scan_all(invocation, desk->space, chosen,
             [&](std::size_t i, const Chosen&, members::Scan scan) { scans[i] = std::move(scan); });
    for (std::size_t i = 0; i < chosen.size(); ++i) {
        const Chosen& one = chosen[i];
        if (!scans[i].readable) continue;
        const auto synced = life::sync_members(desk->space, *one.module, scans[i], invocation.flag("drop"),
                                               shown[one.module->name()], plan);
        if (!synced) return tl::unexpected(synced.error());
        for (const auto& [names, what] :
             {std::pair(&synced->added, "added"), std::pair(&synced->changed, "changed"),
              std::pair(&synced->dropped, "dropped"),
              std::pair(&synced->absent, "left, though it is in no source: --drop takes it out"),
              std::pair(&synced->unlisted, "left out, as no manifest can hold it: `mode = \"all\"` exports it")})
            for (const auto& name : *names) table.rows.push_back({one.module->name(), name, what});
        if (synced->reordered) table.rows.push_back({one.module->name(), "", "in the order of the source now"});
    }
    if (!table.rows.empty() && !invocation.shared.json) invocation.terminal->table(table);
    if (plan.changes.empty()) {
        invocation.terminal->remark(table.rows.empty() ? "the manifests declare what the sources define"
                                                       : "nothing else differs");
        return fine;
    }
    return carry_out(invocation, plan, desk->lock, {"next: `envar emit` brings what is generated up to date"});
}

/// All modules without the summaries, which would make lines too long; one module without its own name.
Table for_people(Table table, bool all) {
    const std::size_t left_out = all ? table.head.size() - 1 : 0;
    const auto drop = [&](std::vector<std::string>& row) {
        row.erase(row.begin() + static_cast<std::ptrdiff_t>(left_out));
    };
    drop(table.head);
    for (auto& row : table.rows) drop(row);
    return table;
}

/// What is told of one module.
struct Told {
    std::string json;
    Table table;
    bool differs = false, only_absent = true;
    std::vector<std::string> differences;
};

Told tell(const model::Module& module, const members::Scan& scan, const members::Scan& internal) {
    constexpr std::size_t depth = 2;  // in the list of the result
    Told told;
    const auto comparison = members::compare(module.manifest, scan);
    told.only_absent = comparison.not_listed.empty() && comparison.differently_called.empty();
    told.differs = !told.only_absent || !comparison.not_found.empty();
    JsonText out(depth);
    out.object().key("module").value(module.name()).key("version").value(module.version());
    Listing(module, scan, internal).put(out, told.table);
    told.json = out.end().take_part();
    for (const auto& [declared, found] : comparison.differently_called)
        told.differences.push_back(fmt::format("{}: the manifest says ({}), the code ({})", found->name,
                                               fmt::join(members::parameter_names(*declared), ", "),
                                               fmt::join(members::parameter_names(*found), ", ")));
    return told;
}

/// The module's files that are loaded by longer names, each as a module of its own that exports what it has.
std::vector<Told> tell_below(const Chosen& one, const model::Space& space) {
    std::vector<Told> told;
    for (const members::Below& file : members::scan_below(*one.module, *one.card, space.root)) {
        model::Module module;
        module.manifest.name.value = file.name;
        module.manifest.version_text = one.module->manifest.version_text;
        module.manifest.exports_all = true;
        told.push_back(tell(module, file.scan, {}));
    }
    return told;
}

Outcome run_members(Invocation& invocation) {
    if (invocation.flag("sync") || invocation.flag("from-host")) return sync(invocation);
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    if (auto known = known_modules(*space, invocation.words); !known) return tl::unexpected(known.error());
    if (invocation.flag("assets")) return list_assets(invocation, *space);
    const auto unknown = left_out(invocation, *space);
    if (!unknown) return tl::unexpected(unknown.error());
    const std::vector<Chosen> chosen = chosen_modules(invocation, *space);
    const bool below = invocation.flag("below");
    std::vector<Told> all(below ? 0 : chosen.size());
    if (below) {
        for (const Chosen& one : chosen)
            for (Told& told : tell_below(one, *space)) all.push_back(std::move(told));
    } else {
        scan_all(invocation, *space, chosen, [&](std::size_t i, const Chosen& one, const members::Scan& scan) {
            const bool internal = invocation.flag("internal");
            all[i] = tell(*one.module, scan,
                          internal ? internal_of(*one.module, *one.card, *space, scan) : members::Scan());
        });
    }
    Table table{{"module", "member", "kind", "parameters", "place", "state", "summary"}, {}};
    JsonText out;
    out.object().key("modules").list();
    bool differs = false, only_absent = true;
    std::vector<std::string> differences;
    std::size_t bytes = 0;
    for (const Told& told : all) bytes += told.json.size() + 16;
    out.reserve(bytes);
    for (Told& told : all) {
        out.part(told.json);
        table.rows.insert(table.rows.end(), std::make_move_iterator(told.table.rows.begin()),
                          std::make_move_iterator(told.table.rows.end()));
        differs = differs || told.differs;
        only_absent = only_absent && told.only_absent;
        differences.insert(differences.end(), told.differences.begin(), told.differences.end());
        told = {};
    }
    out.end().key("left_out").list();
    std::vector<std::string> names;
    for (const LeftOut& one : *unknown) {
        names.push_back(fmt::format("{} ({}:{})", one.module, one.file, one.line));
        out.row().key("module").value(one.module).key("host").value(one.host);
        out.key("file").value(one.file).key("line").value(one.line).end();
    }
    auto print = leave_results(invocation, space->root, "members", out.end().end().take(), &table);
    if (!print) return tl::unexpected(print.error());
    if (*print) {
        const bool none = table.rows.empty() && !below && chosen.size() == 1;
        invocation.terminal->table(for_people(std::move(table), invocation.words.empty() || below));
        if (const std::size_t files = none ? tell_below(chosen.front(), *space).size() : 0; files != 0)
            invocation.terminal->line(
                fmt::format("{} {} loaded by longer names than its own; `envar members {} --below` "
                            "lists what they have",
                            counted(files, "file"), files == 1 ? "is" : "are", chosen.front().module->name()));
        if (!names.empty())
            invocation.terminal->line(
                fmt::format("\nleft out, as there is no card for the host: {}", fmt::join(names, ", ")));
        if (!differences.empty()) invocation.terminal->line();
        for (const auto& line : differences) invocation.terminal->line(line);
        if (!names.empty() && chosen.empty()) return fine;
        invocation.terminal->remark(
            !differs ? "\nthe manifests and the sources agree"
            : only_absent
                ? "\nsome members are in no source; `envar members --sync --drop` takes them out"
                : "\nthe manifest and the source differ; `envar members --sync` brings the manifest in line");
    }
    return differs ? answer_is_no : fine;
}

}  // namespace

Command members_command() {
    return {
        "members",
        "Shape",
        "[MODULE]",
        0,
        1,
        "compare declared members with those in the source",
        "Lists what each module exports: what its manifest declares against what its sources define, with\n"
        "parameters and the first sentence of the documentation. `not listed`: found, and not declared;\n"
        "`absent`: declared, and in no source; `dynamic`: declared as made while the code runs; `internal`, with\n"
        "--internal: defined, and nobody else's business.\n\n"
        "  envar members\n  envar members star_field --internal\n"
        "  envar members star_field --sync        the manifest takes over what the sources define; what you\n"
        "                                         wrote stays; --drop takes out what no source has\n"
        "  envar members star_field --from-host   the same, and what only the running host shows: made by code\n"
        "                                         while it runs, and marked as dynamic\n"
        "  envar members stars --below            what the files have that are loaded by longer names, as\n"
        "                                         stars.near, where stars itself lists no members\n"
        "  envar members star_field --assets      the files that its [[asset]] tables lead to",
        [](options::options_description_easy_init option) {
            option("assets", "list assets instead: which files are declared")(
                "below", "list what the files have that are loaded by names below the module's")(
                "sync", "write what the sources define into the manifest")("internal",
                                                                           "list internal definitions too")(
                "from-host", "load the modules in the real host, and list what it shows besides")(
                "drop", "with --sync: take out of the manifest what is in no source");
        },
        run_members};
}

}  // namespace envar::cli
