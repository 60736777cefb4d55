// envar schema: JSON Schema for editors.
#include <fmt/format.h>

#include <algorithm>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/life/schemas.hpp"
#include "core/model/schema.hpp"
#include "core/text/names.hpp"

namespace envar::cli {
namespace {

Outcome print(Invocation& invocation, const std::string& document) {
    std::vector<std::string> known;
    for (const auto& table : model::field_tables()) {
        known.emplace_back(table.document);
        if (table.document != document) continue;
        invocation.terminal->raw(model::schema_text(table));
        return fine;
    }
    const std::string near = text::did_you_mean(document, known);
    return text::fail(text::FailureKind::wrong_usage, fmt::format("there is no schema `{}`", document),
                      near.empty() ? fmt::format("there are: {}", fmt::join(known, ", ")) : near);
}

Outcome run_schema(Invocation& invocation) {
    if (!invocation.words.empty()) return print(invocation, invocation.words[0]);
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    return carry_out(invocation, life::schema_plan(desk->space, invocation.flag("point")), desk->lock, {});
}

}  // namespace

Command schema_command() {
    return {
        "schema",
        "Look",
        "[module|workspace|card]",
        0,
        1,
        "write JSON Schema for editors",
        "With a word, prints that schema (JSON Schema, draft 2020-12). Without one, writes all three into\n"
        ".envar/schema/ of the workspace. A manifest tells an editor where its schema lies by a comment on its\n"
        "first line, with a path relative to itself; --point writes that comment where it is missing or wrong.\n\n"
        "  envar schema module > module.schema.json\n  envar schema\n  envar schema --point",
        [](options::options_description_easy_init option) {
            option("point", "also make every manifest point at its schema");
        },
        run_schema};
}

}  // namespace envar::cli
