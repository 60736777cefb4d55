// envar compare: what changed for dependants between two states of a module, and which version follows.
#include <fmt/format.h>

#include <algorithm>

#include "cli/commands/commands.hpp"
#include "cli/json_text.hpp"
#include "cli/workbench.hpp"
#include "core/files/archive.hpp"
#include "core/files/read.hpp"
#include "core/files/sandbox.hpp"
#include "core/members/below.hpp"
#include "core/members/contract.hpp"
#include "core/members/record.hpp"
#include "core/resolve/lock.hpp"

namespace envar::cli {
namespace {

namespace fs = std::filesystem;
using members::Difference;

constexpr std::size_t largest_manifest = std::size_t{4} << 20U;

/// What a word of the command line names, with its sources scanned.
struct Side {
    model::Module module;
    members::Scan scan;
    std::vector<members::Below> below;
    [[nodiscard]] members::State state() const { return {&module.manifest, &scan, module.source.file()}; }
    [[nodiscard]] std::string title() const { return fmt::format("{} {}", module.name(), module.version()); }
};

/// A folder with a manifest.
text::Result<model::Module> module_in(const fs::path& folder, const model::Space& space) {
    auto content = files::read_or_fail(folder / model::manifest_name, largest_manifest);
    if (!content) return tl::unexpected(content.error());
    model::Module module;
    const fs::path home = fs::absolute(folder / model::manifest_name).lexically_normal();
    module.folder = module.home = home.parent_path();
    module.source = text::Source(files::shown_path(home, space.root), std::move(*content));
    const model::Document document = model::parse_document(module.source);
    std::vector<text::Finding> findings;
    module.manifest = model::read_manifest(document, findings, model::schemes_of(space.cards));
    if (!document.valid || module.name().empty())
        return text::refuse(fmt::format("{} cannot be read", module.source.file()),
                            "`envar check` shows what is wrong in it");
    if (const std::string& elsewhere = module.manifest.folder.value; !elsewhere.empty())
        module.folder = (module.home / elsewhere / "").lexically_normal().parent_path();
    return module;
}

void scan_side(Side& side, const model::Space& space) {
    const model::Card* card = space.card(side.module.manifest.host.value);
    if (card == nullptr) return;
    side.scan = members::scan(side.module, *card, space.root);
    side.below = members::scan_below(side.module, *card, space.root);
}

/// Places in the folder are told with `shown` in front instead of it.
void tell_places(Side& side, const fs::path& folder, const std::string& shown, const model::Space& space) {
    const std::string below = files::shown_path(folder, space.root) + "/";
    const auto told = [&](const std::string& file) {
        return file.starts_with(below) ? shown + file.substr(below.size()) : file;
    };
    for (auto& member : side.scan.members) member.file = told(member.file);
    side.module.source = text::Source(told(side.module.source.file()), side.module.source.text());
    side.scan.source = text::Source(told(side.scan.source.file()), side.scan.source.text());
    for (auto& part : side.scan.parts) part = text::Source(told(part.file()), part.text());
    for (auto& one : side.below) {
        one.scan.source = text::Source(told(one.scan.source.file()), one.scan.source.text());
        for (auto& member : one.scan.members) member.file = told(member.file);
    }
}

/// A folder of an archive with a manifest: its top, or the one folder that there is.
text::Result<Side> side_of_archive(const std::string& word, const Invocation& invocation, const model::Space& space) {
    const std::string temporary = invocation.variable("TMPDIR");
    auto sandbox = files::Sandbox::make(temporary.empty() ? "/tmp" : temporary);
    if (!sandbox) return tl::unexpected(sandbox.error());
    if (auto fine = files::unpack(invocation.folder / word, sandbox->folder()); !fine)
        return tl::unexpected(fine.error());
    fs::path folder = sandbox->folder();
    if (const auto names = files::list_folder(folder);
        !files::is_file(folder / model::manifest_name) && names.size() == 1)
        folder /= names.front();
    if (!files::is_file(folder / model::manifest_name))
        return text::refuse(fmt::format("the archive {} holds no {}", word, model::manifest_name),
                            "it is no archive of a module");
    auto module = module_in(folder, space);
    if (!module) return tl::unexpected(module.error());
    Side side;
    side.module = std::move(*module);
    scan_side(side, space);
    tell_places(side, folder, word + ":", space);
    return side;
}

text::Result<Side> side_of(const std::string& word, const Invocation& invocation, const model::Space& space) {
    if (files::is_archive_name(word) && files::is_file(invocation.folder / word))
        return side_of_archive(word, invocation, space);
    Side side;
    const std::size_t at = word.find('@');
    const std::string name = word.substr(0, at), version = at == std::string::npos ? "" : word.substr(at + 1);
    const auto known = std::find_if(space.modules.begin(), space.modules.end(), [&](const model::Module& m) {
        return m.name() == name && (version.empty() || m.version() == version);
    });
    if (known != space.modules.end()) {
        side.module = *known;
    } else {
        const fs::path folder = invocation.folder / word;
        if (!files::is_file(folder / model::manifest_name)) {
            std::string versions;
            for (const auto& m : space.modules)
                if (m.name() == name) versions += (versions.empty() ? "" : ", ") + m.version();
            return text::refuse(
                fmt::format("`{}` is neither a module of the workspace nor a folder with a manifest", word),
                versions.empty() ? "`envar modules` lists the modules"
                                 : fmt::format("of {} there is {}", name, versions));
        }
        auto read = module_in(folder, space);
        if (!read) return tl::unexpected(read.error());
        side.module = std::move(*read);
        scan_side(side, space);
        // One that lies elsewhere is told as it was called.
        if (fs::path(side.module.source.file()).is_absolute())
            tell_places(side, side.module.home, (fs::path(word) / "").generic_string(), space);
        return side;
    }
    scan_side(side, space);
    return side;
}

/// The changes as a list for people who read release notes.
std::string markdown_of(const Side& before, const Side& after, const std::vector<Difference>& differences) {
    std::string out = fmt::format("# {} {}\n\nChanges since {}.\n", after.module.name(), after.module.version(),
                                  before.module.version());
    using members::Weight;
    for (const auto& [weight, title] :
         {std::pair(Weight::breaking, "What breaks"), std::pair(Weight::addition, "What is new"),
          std::pair(Weight::fix, "What changed otherwise")}) {
        bool first = true;
        for (const Difference& one : differences) {
            if (one.weight != weight) continue;
            if (first) out += fmt::format("\n## {}\n\n", title);
            first = false;
            out += fmt::format("- {}\n", one.sentence);
        }
    }
    return out;
}

std::string json_of(const Side& before, const Side& after, const std::vector<Difference>& differences,
                    const std::string& follows, bool keeps) {
    JsonText out;
    const auto side = [&](const char* key, const Side& one) {
        out.key(key).object().key("module").value(one.module.name()).key("version").value(one.module.version());
        out.key("folder").value(one.module.shown_folder).end();
    };
    out.object();
    side("before", before);
    side("after", after);
    out.key("differences").list();
    for (const Difference& one : differences) {
        out.row().key("weight").value(members::weight_name(one.weight)).key("what").value(one.what);
        out.key("member").value(one.member).key("sentence").value(one.sentence);
        if (!one.below.empty()) out.key("below").value(one.below);
        out.key("file").value(one.file).key("line").value(one.line).end();
    }
    out.end().key("follows").value(follows).key("keeps_its_promise").value(keeps);
    return out.end().take();
}

/// The differences, the version that follows, and whether the new state keeps what its version promises.
Outcome tell(Invocation& invocation, const model::Space& space, const Side& before, const Side& after,
             const std::vector<Difference>& differences) {
    const versions::Version from = before.module.manifest.version.value_or(versions::Version{});
    const versions::Version now = after.module.manifest.version.value_or(versions::Version{});
    const versions::Version follows = members::version_that_follows(from, differences);
    const bool keeps = differences.empty() || !(now < follows);
    Table table{{"weight", "what", "member", "", "place"}, {}};
    for (const Difference& one : differences)
        table.rows.push_back({std::string(members::weight_name(one.weight)), one.what, one.member, one.sentence,
                              one.line == 0 ? one.file : fmt::format("{}:{}", one.file, one.line)});
    auto print = leave_results(invocation, space.root, "compare",
                               json_of(before, after, differences, follows.text(), keeps), &table);
    if (!print) return tl::unexpected(print.error());
    auto list = leave_file(invocation, space.root, "compare.md", markdown_of(before, after, differences));
    if (!list) return tl::unexpected(list.error());
    if (*print) {
        Terminal& out = *invocation.terminal;
        out.line(fmt::format("{} against {}", after.title(), before.title()));
        if (!table.rows.empty()) out.table(table);
        out.remark(differences.empty() ? "\nnothing that dependants could notice changed"
                                       : fmt::format("\nthe change list is in {}", *list));
        if (!differences.empty())
            out.line(keeps
                         ? fmt::format("{} or higher follows: {} keeps what it promises", follows.text(), now.text())
                         : fmt::format("{} follows: {} promises more than it keeps", follows.text(), now.text()));
    }
    return keeps ? fine : answer_is_no;
}

/// A module against what was recorded of it.
Outcome compare_with_record(Invocation& invocation, const model::Space& space) {
    const auto after = side_of(invocation.words[0], invocation, space);
    if (!after) return tl::unexpected(after.error());
    const std::string shown = files::shown_path(after->module.home / members::record_name, space.root);
    const auto record = members::read_record(after->module.home, shown, model::schemes_of(space.cards));
    if (!record)
        return text::refuse(fmt::format("nothing is recorded of {}", after->module.name()),
                            fmt::format("`envar compare --record {}` records its contract as it is now, or name two "
                                        "states to compare",
                                        after->module.name()));
    if (!record->valid)
        return text::refuse(fmt::format("{} cannot be read", shown), "`envar compare --record` writes it anew");
    Side before;
    before.module = after->module;
    before.module.manifest = record->manifest;
    return tell(invocation, space, before, *after, members::since_record(*record, after->state()));
}

/// The contracts of modules as they are now, for later comparisons.
Outcome record(Invocation& invocation) {
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    if (auto known = known_modules(desk->space, invocation.words); !known) return tl::unexpected(known.error());
    files::Plan plan{desk->space.root, {}};
    for (const auto& module : desk->space.modules) {
        const model::Card* card = desk->space.card(module.manifest.host.value);
        const bool named =
            std::find(invocation.words.begin(), invocation.words.end(), module.name()) != invocation.words.end();
        if (card == nullptr || !module.sound || (!invocation.words.empty() && !named)) continue;
        const auto scan = members::scan(module, *card, desk->space.root);
        const fs::path file = module.home / members::record_name;
        const auto there = files::read_file(file, largest_manifest);
        plan.add({file, there ? std::optional(*there) : std::nullopt,
                  members::record_text({&module.manifest, &scan, module.source.file()}),
                  fmt::format("what {} {} promises", module.name(), module.version())});
    }
    plan.drop_idle();
    if (plan.changes.empty()) {
        invocation.terminal->remark("the contracts are recorded as they are");
        return fine;
    }
    return carry_out(invocation, plan, desk->lock,
                     {"next: `envar check` tells when a version promises more than it keeps"});
}

/// The modules that the lock holds against those that are here now.
Outcome compare_with_lock(Invocation& invocation, const model::Space& space) {
    const auto lock = resolve::read_lock(space.root);
    if (!lock) return text::refuse("there is no lock", "`envar resolve` writes one");
    Table table{{"module", "locked", "now", "", "follows"}, {}};
    JsonText out;
    out.object().key("modules").list();
    bool keeps = true;
    const auto row = [&](const std::string& module, const std::string& locked, const std::string& now,
                         const std::string& what, const std::string& follows) {
        table.rows.push_back({module, locked, now, what, follows});
        out.object().key("module").value(module).key("locked").value(locked).key("now").value(now);
        out.key("what").value(what).key("follows").value(follows).end();
    };
    for (const auto& locked : lock->modules) {
        const model::Module* now = space.module(locked.module);
        if (now == nullptr) {
            row(locked.module, locked.version, "", "it is no module of the workspace", "");
            continue;
        }
        Side after, before;
        after.module = *now;
        scan_side(after, space);
        const auto own = std::find_if(space.modules.begin(), space.modules.end(), [&](const model::Module& m) {
            return m.name() == locked.module && m.version() == locked.version;
        });
        const auto record = members::read_record(now->home, "", model::schemes_of(space.cards));
        std::vector<Difference> differences;
        versions::Version from;
        if (own != space.modules.end() && &*own != now) {
            before.module = *own;
            scan_side(before, space);
            differences = members::differences(before.state(), after.state());
            from = own->manifest.version.value_or(versions::Version{});
        } else if (record && record->valid && record->manifest.version->text() == locked.version) {
            differences = members::since_record(*record, after.state());
            from = *record->manifest.version;
        } else {
            row(locked.module, locked.version, now->version(),
                locked.version == now->version() ? "the same version" : "its contract was not recorded", "");
            continue;
        }
        const auto follows = members::version_that_follows(from, differences);
        const bool fits = differences.empty() || !(now->manifest.version.value_or(versions::Version{}) < follows);
        keeps = keeps && fits;
        std::string what = differences.empty() ? "nothing changed" : differences.front().sentence;
        if (differences.size() > 1) what += fmt::format(", and {} more", differences.size() - 1);
        row(locked.module, locked.version, now->version(), what, differences.empty() ? "" : follows.text());
    }
    auto print = leave_results(invocation, space.root, "compare", out.end().end().take(), &table);
    if (!print) return tl::unexpected(print.error());
    if (*print) {
        if (!table.rows.empty()) invocation.terminal->table(table);
        invocation.terminal->remark(
            keeps ? "\nwhat is here keeps what the locked versions promised"
                  : "\nsome versions promise more than they keep; `envar compare MODULE@LOCKED MODULE` lists it");
    }
    return keeps ? fine : answer_is_no;
}

Outcome run_compare(Invocation& invocation) {
    if (invocation.flag("record")) return record(invocation);
    const bool by_lock = invocation.flag("lock");
    if (by_lock != invocation.words.empty() || invocation.words.size() > 2)
        return text::fail(text::FailureKind::wrong_usage,
                          by_lock ? "--lock goes with no other words" : "`compare` needs one module, or two states",
                          "`envar compare --help` shows what can be compared");
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    if (by_lock) return compare_with_lock(invocation, *space);
    if (invocation.words.size() == 1) return compare_with_record(invocation, *space);
    const auto before = side_of(invocation.words[0], invocation, *space);
    if (!before) return tl::unexpected(before.error());
    const auto after = side_of(invocation.words[1], invocation, *space);
    if (!after) return tl::unexpected(after.error());
    return tell(invocation, *space, *before, *after,
                members::with_those_below(members::differences(before->state(), after->state()), before->below,
                                          after->below));
}

}  // namespace

Command compare_command() {
    return {
        "compare",
        "Shape",
        "OLD NEW | MODULE",
        0,
        1000,
        "what changed for dependants between two states of a module",
        "OLD and NEW are modules of the workspace, one version of one (NAME@VERSION), folders with a manifest, or\n"
        "archives (.tar, .tar.gz, .tar.xz, .tar.zst). Each difference is breaking, an addition or a fix; from\n"
        "these the version follows that NEW must have at least. The answer is no when NEW promises more than\n"
        "that. A change list for release notes is left in the results folder as compare.md. What --record has\n"
        "recorded is what one MODULE is compared with, and what `check` goes by. Of two states that list no members,\n"
        "the files that are loaded by longer names, as stars.near in stars, are compared too.\n\n"
        "  envar compare sidereal@1.1.4 sidereal\n  envar compare ../before/sidereal lua/sidereal\n"
        "  envar compare sidereal-1.1.4.tar.gz sidereal\n"
        "  envar compare --record              the contracts of all modules as they are now\n"
        "  envar compare sidereal              what changed since then\n"
        "  envar compare --lock                the locked versions against what is here",
        [](options::options_description_easy_init option) {
            option("record", "record the contracts of the named modules, or of all, as they are now")(
                "lock", "compare what the lock holds with what is here now");
        },
        run_compare};
}

}  // namespace envar::cli
