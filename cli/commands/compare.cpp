// envar compare: what changed for dependants between two states of a module, and which version follows.
#include <fmt/format.h>

#include <algorithm>

#include "cli/commands/commands.hpp"
#include "cli/json_text.hpp"
#include "cli/workbench.hpp"
#include "core/files/read.hpp"
#include "core/members/contract.hpp"

namespace envar::cli {
namespace {

namespace fs = std::filesystem;
using members::Difference;

constexpr std::size_t largest_manifest = std::size_t{4} << 20U;

/// What a word of the command line names, with its sources scanned.
struct Side {
    model::Module module;
    members::Scan scan;
    [[nodiscard]] members::State state() const { return {&module.manifest, &scan, module.source.file()}; }
    [[nodiscard]] std::string title() const { return fmt::format("{} {}", module.name(), module.version()); }
};

/// A folder with a manifest.
text::Result<model::Module> module_in(const fs::path& folder, const model::Space& space) {
    auto content = files::read_or_fail(folder / model::manifest_name, largest_manifest);
    if (!content) return tl::unexpected(content.error());
    model::Module module;
    module.folder = module.home = fs::absolute(folder).lexically_normal();
    module.source =
        text::Source(files::shown_path(module.folder / model::manifest_name, space.root), std::move(*content));
    const model::Document document = model::parse_document(module.source);
    std::vector<text::Finding> findings;
    module.manifest = model::read_manifest(document, findings, model::schemes_of(space.cards));
    if (!document.valid || module.name().empty())
        return text::refuse(fmt::format("{} cannot be read", module.source.file()),
                            "`envar check` shows what is wrong in it");
    return module;
}

text::Result<Side> side_of(const std::string& word, const Invocation& invocation, const model::Space& space) {
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
    }
    const model::Card* card = space.card(side.module.manifest.host.value);
    if (card != nullptr) side.scan = members::scan(side.module, *card, space.root);
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
        out.object().key("weight").value(members::weight_name(one.weight)).key("what").value(one.what);
        out.key("member").value(one.member).key("sentence").value(one.sentence);
        out.key("file").value(one.file).key("line").value(one.line).end();
    }
    out.end().key("follows").value(follows).key("keeps_its_promise").value(keeps);
    return out.end().take();
}

Outcome run_compare(Invocation& invocation) {
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    const auto before = side_of(invocation.words[0], invocation, *space);
    if (!before) return tl::unexpected(before.error());
    const auto after = side_of(invocation.words[1], invocation, *space);
    if (!after) return tl::unexpected(after.error());
    const auto differences = members::differences(before->state(), after->state());
    const versions::Version from = before->module.manifest.version.value_or(versions::Version{});
    const versions::Version now = after->module.manifest.version.value_or(versions::Version{});
    const versions::Version follows = members::version_that_follows(from, differences);
    const bool keeps = differences.empty() || !(now < follows);
    Table table{{"weight", "what", "member", "", "place"}, {}};
    for (const Difference& one : differences)
        table.rows.push_back({std::string(members::weight_name(one.weight)), one.what, one.member, one.sentence,
                              one.line == 0 ? one.file : fmt::format("{}:{}", one.file, one.line)});
    auto print = leave_results(invocation, space->root, "compare",
                               json_of(*before, *after, differences, follows.text(), keeps), &table);
    if (!print) return tl::unexpected(print.error());
    auto list = leave_file(invocation, space->root, "compare.md", markdown_of(*before, *after, differences));
    if (!list) return tl::unexpected(list.error());
    if (*print) {
        Terminal& out = *invocation.terminal;
        out.line(fmt::format("{} against {}", after->title(), before->title()));
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

}  // namespace

Command compare_command() {
    return {"compare",
            "Shape",
            "OLD NEW",
            2,
            2,
            "what changed for dependants between two states of a module",
            "OLD and NEW are modules of the workspace, one version of one (NAME@VERSION), or folders with a\n"
            "manifest. Each difference is breaking, an addition or a fix; from these the version follows that\n"
            "NEW must have at least. The answer is no when NEW promises more than that. A change list for release\n"
            "notes is left in the results folder as compare.md.\n\n"
            "  envar compare sidereal@1.1.4 sidereal\n  envar compare ../before/sidereal lua/sidereal",
            nullptr,
            run_compare};
}

}  // namespace envar::cli
