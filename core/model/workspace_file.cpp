#include "core/model/workspace_file.hpp"

#include <array>

#include "core/model/node_values.hpp"

namespace envar::model {
namespace {

using W = WorkspaceFile;
using N = const Node&;

// A row is easier to read than a column.
// clang-format off
const std::array workspace_rows = {
    Field<W>{{.path = "workspace", .type = Type::table, .required = true, .help = "what the workspace is",
              .example = "{ name = \"skydome\", folders = [\"lua\"] }"}, nullptr},
    Field<W>{{.path = "workspace.name", .type = Type::name, .required = true, .help = "name of the workspace",
              .example = "\"skydome\""},
             [](W& w, N n) { w.name = word(n); }},
    Field<W>{{.path = "workspace.folders", .type = Type::texts, .preset = "[]",
              .help = "folders in which its modules lie, at any depth; empty: everywhere", .example = "[\"shell\", \"lua\"]"},
             [](W& w, N n) { w.folders = words(n); }},
    Field<W>{{.path = "workspace.platforms", .type = Type::names, .preset = "[\"linux\", \"macos\", \"windows\"]",
              .help = "platforms that conditions may name", .example = "[\"linux\", \"macos\", \"windows\"]"},
             [](W& w, N n) { w.platforms = words(n); }},
    Field<W>{{.path = "workspace.prereleases", .type = Type::boolean, .preset = "false",
              .help = "true: pre-release versions take part everywhere", .example = "true"},
             [](W& w, N n) { w.prereleases = n.boolean; }},
    Field<W>{{.path = "search[]", .type = Type::tables, .help = "a folder on a host's search path, in order",
              .example = "[[search]]"},
             [](W& w, N n) { w.search.emplace_back().span = n.span; }},
    Field<W>{{.path = "search[].host", .type = Type::name, .required = true, .help = "the host: the name of a card",
              .example = "\"lua\""},
             [](W& w, N n) { w.search.back().host = word(n); }},
    Field<W>{{.path = "search[].folder", .type = Type::line, .required = true,
              .help = "the folder, relative to the workspace or absolute", .example = "\"lua\""},
             [](W& w, N n) { w.search.back().folder = word(n); }},
    Field<W>{{.path = "origin[]", .type = Type::tables, .help = "where further module versions may come from",
              .example = "[[origin]]"}, nullptr},
    Field<W>{{.path = "origin[].catalogue", .type = Type::line, .required = true, .help = "a JSON Lines file",
              .example = "\"shared-modules.jsonl\""}, nullptr},
    Field<W>{{.path = "target[]", .type = Type::tables, .help = "a product: a named set of root modules",
              .example = "[[target]]"},
             [](W& w, N) { w.targets.emplace_back(); }},
    Field<W>{{.path = "target[].name", .type = Type::name, .required = true, .help = "name of the target",
              .example = "\"viewer\""},
             [](W& w, N n) { w.targets.back().name = word(n); }},
    Field<W>{{.path = "target[].modules", .type = Type::names, .required = true,
              .help = "its root modules; what they need comes along", .example = "[\"star_field\"]"},
             [](W& w, N n) { w.targets.back().modules = words(n); }},
    Field<W>{{.path = "pin[]", .type = Type::tables, .help = "holds a module at some versions", .example = "[[pin]]"},
             [](W& w, N) { w.pins.emplace_back(); }},
    Field<W>{{.path = "pin[].module", .type = Type::name, .required = true, .help = "the module held",
              .example = "\"sidereal\""},
             [](W& w, N n) { w.pins.back().module = word(n); }},
    Field<W>{{.path = "pin[].versions", .type = Type::requirement, .required = true,
              .help = "the versions it is held at", .example = "\"=1.1.4\""},
             [](W& w, N n) {
                 w.pins.back().versions = versions::parse_requirement(n.text).value();
                 w.pins.back().versions_span = n.span;
             }},
    Field<W>{{.path = "pin[].reason", .type = Type::line, .help = "why", .example = "\"1.2 drifts by a second a night\""},
             [](W& w, N n) { w.pins.back().reason = n.text; }},
};
// clang-format on

}  // namespace

std::span<const Field<WorkspaceFile>> workspace_fields() { return workspace_rows; }

WorkspaceFile read_workspace_file(const Document& document, std::vector<text::Finding>& findings) {
    WorkspaceFile file;
    findings.insert(findings.end(), document.findings.begin(), document.findings.end());
    if (document.valid) read_into(file, workspace_fields(), document, findings);
    if (document.valid && document.root.find("workspace") != nullptr &&
        document.root.find("workspace")->find("platforms") == nullptr)
        file.platforms = {{"linux", {}}, {"macos", {}}, {"windows", {}}};
    return file;
}

}  // namespace envar::model
