// envar members: declared against found.
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/members/scan.hpp"
#include "core/text/utf8.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

ordered_json parameter_rows(const model::Member* declared, const members::FoundMember* found) {
    ordered_json rows = ordered_json::array();
    if (declared != nullptr && !declared->parameters.empty()) {
        for (const auto& p : declared->parameters)
            rows.push_back({{"name", p.name},
                            {"type", p.type},
                            {"required", p.required},
                            {"default", p.preset},
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
        const std::string& file = found != nullptr ? scan_.source.file() : module_.source.file();
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

Outcome run(Invocation& invocation) {
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    if (auto known = known_modules(*space, invocation.words); !known) return tl::unexpected(known.error());
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
            "  envar members\n  envar members star_field",
            nullptr,
            run};
}

}  // namespace envar::cli
