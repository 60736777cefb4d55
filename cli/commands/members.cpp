// envar members: declared against found.
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/members/scan.hpp"
#include "core/model/assets.hpp"
#include "core/text/utf8.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

ordered_json parameter_rows(const model::Member* declared, const members::FoundMember* found) {
    ordered_json rows = ordered_json::array();
    if (declared != nullptr && !declared->parameters.empty()) {
        for (const auto& p : declared->parameters)
            rows.push_back({{"name", p.name.value},
                            {"type", p.type},
                            {"required", p.required},
                            {"default", p.preset.text},
                            {"summary", p.summary}});
    } else if (found != nullptr) {
        for (const auto& name : found->parameters)
            rows.push_back({{"name", name}, {"type", ""}, {"required", true}, {"default", ""}, {"summary", ""}});
    }
    return rows;
}

/// Declared and found members joined by name, in order of the source, undiscovered ones at the end.
class Listing {
  public:
    Listing(const model::Module& module, const members::Scan& scan) : module_(module), scan_(scan) {}

    ordered_json build(Table& table) {
        ordered_json rows = ordered_json::array();
        for (const auto& found : scan_.members) {
            const auto& declared = module_.manifest.members;
            const auto match = std::find_if(declared.begin(), declared.end(),
                                            [&](const auto& m) { return m.name.value == found.name; });
            rows.push_back(row(match == declared.end() ? nullptr : &*match, &found, table));
        }
        for (const auto* declared : members::compare(module_.manifest, scan_).not_found)
            rows.push_back(row(declared, nullptr, table));
        return rows;
    }

  private:
    ordered_json row(const model::Member* declared, const members::FoundMember* found, Table& table) const {
        const std::string name = declared != nullptr ? declared->name.value : found->name;
        const std::string kind = declared != nullptr ? declared->kind : found->kind;
        const std::string summary = declared != nullptr && !declared->summary.empty() ? declared->summary
                                    : found != nullptr                                ? found->summary
                                                                                      : "";
        const std::string& file = found != nullptr ? found->file : module_.source.file();
        const std::size_t line =
            found != nullptr ? found->line : module_.source.position(declared->name.span.begin).line;
        ordered_json parameters = parameter_rows(declared, found);
        std::string names;
        for (const auto& p : parameters) names += (names.empty() ? "" : ", ") + p["name"].get<std::string>();
        table.rows.push_back({module_.name(), name, kind, names, fmt::format("{}:{}", file, line),
                              declared != nullptr ? "yes" : "no", found != nullptr ? "yes" : "no",
                              text::printable(summary)});
        return {{"name", name},
                {"kind", kind},
                {"file", file},
                {"line", line},
                {"parameters", parameters},
                {"summary", summary},
                {"declared", declared != nullptr},
                {"found", found != nullptr}};
    }

    const model::Module& module_;
    const members::Scan& scan_;
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

Outcome run_members(Invocation& invocation) {
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    if (auto known = known_modules(*space, invocation.words); !known) return tl::unexpected(known.error());
    if (invocation.flag("assets")) return list_assets(invocation, *space);
    Table table{{"module", "member", "kind", "parameters", "place", "declared", "found", "summary"}, {}};
    ordered_json modules = ordered_json::array();
    bool differs = false;
    for (const auto& module : space->modules) {
        const model::Card* card = space->card(module.manifest.host.value);
        if (card == nullptr || (!invocation.words.empty() && module.name() != invocation.words[0])) continue;
        const auto scan = members::scan(module, *card, space->root);
        const auto comparison = members::compare(module.manifest, scan);
        differs = differs || !comparison.not_found.empty() || !comparison.not_listed.empty();
        modules.push_back({{"module", module.name()},
                           {"version", module.version()},
                           {"members", Listing(module, scan).build(table)}});
    }
    auto print = leave_results(invocation, space->root, "members", {{"modules", modules}}, &table);
    if (!print) return tl::unexpected(print.error());
    if (*print) {
        invocation.terminal->table(table);
        invocation.terminal->remark(differs ? "\nthe manifest and the source differ"
                                            : "\nthe manifests and the sources agree");
    }
    return differs ? answer_is_no : fine;
}

}  // namespace

Command members_command() {
    return {"members",
            "Shape",
            "[MODULE]",
            0,
            1,
            "compare declared members with those in the source",
            "Lists what each module exports: what its manifest declares and what its entry file defines, with\n"
            "parameters and the first line of the comment above.\n\n"
            "  envar members\n  envar members star_field\n"
            "  envar members star_field --assets      the files that its [[asset]] tables lead to",
            [](options::options_description_easy_init option) {
                option("assets", "list assets instead: which files are declared");
            },
            run_members};
}

}  // namespace envar::cli
