#include "core/model/manifest.hpp"

#include <algorithm>
#include <array>

#include "core/model/node_values.hpp"

namespace envar::model {
namespace {

std::string scalar_text(const Node& node) {
    switch (node.kind) {
        case NodeKind::integer:
            return std::to_string(node.integer);
        case NodeKind::boolean:
            return node.boolean ? "true" : "false";
        default:
            return node.text;
    }
}

using M = Manifest;
using N = const Node&;

// A row is easier to read than a column.
// clang-format off
const std::array manifest_rows = {
    Field<M>{{.path = "module", .type = Type::table, .required = true,
              .help = "what the module is", .example = "{ name = \"star_field\", version = \"1.0.0\", host = \"lua\" }"},
             [](M& m, N n) { m.module_span = n.span; }},
    Field<M>{{.path = "module.name", .type = Type::name, .required = true,
              .help = "the name the host finds the module by; also the folder's name", .example = "\"star_field\""},
             [](M& m, N n) { m.name = word(n); }},
    Field<M>{{.path = "module.version", .type = Type::version, .required = true,
              .help = "version of the module, Semantic Versioning 2.0.0", .example = "\"1.2.0\""},
             [](M& m, N n) {
                 m.version_text = word(n);
                 m.version = versions::parse_version(n.text);
             }},
    Field<M>{{.path = "module.host", .type = Type::name, .required = true,
              .help = "the host that loads the module: the name of a card", .example = "\"lua\""},
             [](M& m, N n) { m.host = word(n); }},
    Field<M>{{.path = "module.summary", .type = Type::text, .preset = "\"\"",
              .help = "one sentence: what the module does", .example = "\"Places the stars on the dome.\""},
             [](M& m, N n) { m.summary = n.text; }},
    Field<M>{{.path = "module.license", .type = Type::line, .help = "SPDX licence expression", .example = "\"MIT\""},
             [](M& m, N n) { m.license = n.text; }},
    Field<M>{{.path = "module.authors", .type = Type::texts, .preset = "[]",
              .help = "who made it, each `Name <address>`", .example = "[\"Dome tools team <tools@varnhill.example>\"]"},
             [](M& m, N n) { m.authors = texts(n); }},
    Field<M>{{.path = "module.identity", .type = Type::identity,
              .help = "UUID that stays when the module is renamed",
              .example = "\"6f1c0c1e-8a54-4f0e-9a53-0b8f6c1b7a10\""},
             [](M& m, N n) { m.identity = n.text; }},
    Field<M>{{.path = "module.tags", .type = Type::texts, .preset = "[]", .help = "words to find the module by",
              .example = "[\"sky\"]"},
             [](M& m, N n) { m.tags = texts(n); }},
    Field<M>{{.path = "module.host_versions", .type = Type::requirement, .preset = "\"any\"",
              .help = "versions of the host that the module works with", .example = "\">=5.3\""},
             [](M& m, N n) { m.host_versions = word(n); }},
    Field<M>{{.path = "module.platforms", .type = Type::names, .help = "platforms it runs on; left out: all",
              .example = "[\"linux\", \"macos\"]"},
             [](M& m, N n) { m.platforms = words(n); }},

    Field<M>{{.path = "entry", .type = Type::table, .help = "how the host enters the module",
              .example = "{ file = \"init.lua\" }"}, nullptr},
    Field<M>{{.path = "entry.file", .type = Type::inner_path, .help = "the file loaded first; left out: the card's",
              .example = "\"init.lua\""},
             [](M& m, N n) { m.entry.file = word(n); }},
    Field<M>{{.path = "entry.start", .type = Type::name, .help = "member called after loading",
              .example = "\"start\""},
             [](M& m, N n) { m.entry.start = word(n); }},
    Field<M>{{.path = "entry.stop", .type = Type::name, .help = "member called before the host ends",
              .example = "\"stop\""},
             [](M& m, N n) { m.entry.stop = word(n); }},
    Field<M>{{.path = "entry.phase", .type = Type::name, .help = "slot of the host's start-up, one of the card's",
              .example = "\"main\""},
             [](M& m, N n) { m.entry.phase = word(n); }},
    Field<M>{{.path = "entry.after", .type = Type::names, .preset = "[]",
              .help = "modules to come after, if they are loaded anyway", .example = "[\"sky_clock\"]"},
             [](M& m, N n) { m.entry.after = words(n); }},

    Field<M>{{.path = "dependency[]", .type = Type::tables, .help = "a module that this one needs",
              .example = "[[dependency]]"},
             [](M& m, N n) { m.dependencies.emplace_back().span = n.span; }},
    Field<M>{{.path = "dependency[].module", .type = Type::name, .required = true, .help = "the module needed",
              .example = "\"sidereal\""},
             [](M& m, N n) { m.dependencies.back().module = word(n); }},
    Field<M>{{.path = "dependency[].versions", .type = Type::requirement, .preset = "\"any\"",
              .help = "the versions that will do", .example = "\">=1.1, <2\""},
             [](M& m, N n) {
                 m.dependencies.back().versions = versions::parse_requirement(n.text).value();
                 m.dependencies.back().versions_span = n.span;
             }},
    Field<M>{{.path = "dependency[].visibility", .type = Type::word, .values = {"public", "private"},
              .preset = "\"private\"", .help = "public: whoever depends on this module sees the dependency too",
              .example = "\"public\""},
             [](M& m, N n) { m.dependencies.back().is_public = n.text == "public"; }},
    Field<M>{{.path = "dependency[].stage", .type = Type::word, .values = {"load", "build", "test"},
              .preset = "\"load\"", .help = "when it is needed", .example = "\"test\""},
             [](M& m, N n) {
                 m.dependencies.back().stage =
                     n.text == "build" ? Stage::build : n.text == "test" ? Stage::test : Stage::load;
             }},
    Field<M>{{.path = "dependency[].optional", .type = Type::boolean, .preset = "false",
              .help = "true: the module works without it", .example = "true"},
             [](M& m, N n) { m.dependencies.back().optional = n.boolean; }},
    Field<M>{{.path = "dependency[].origin", .type = Type::word, .values = {"system"},
              .help = "system: the host or the operating system brings it along", .example = "\"system\""},
             [](M& m, N) { m.dependencies.back().system = true; }},
    Field<M>{{.path = "dependency[].reason", .type = Type::line, .help = "why it is needed",
              .example = "\"star positions need local sidereal time\""},
             [](M& m, N n) { m.dependencies.back().reason = n.text; }},
    Field<M>{{.path = "dependency[].when", .type = Type::table, .help = "needed only where this holds",
              .example = "{ platform = [\"!windows\"] }"}, nullptr},
    Field<M>{{.path = "dependency[].when.platform", .type = Type::names,
              .help = "platforms, one of which must be the present one; `!` before a name means not",
              .example = "[\"linux\", \"macos\"]"},
             [](M& m, N n) { m.dependencies.back().when.platforms = words(n); }},
    Field<M>{{.path = "dependency[].when.target", .type = Type::names,
              .help = "targets, one of which must be the present one; `!` before a name means not",
              .example = "[\"viewer\"]"},
             [](M& m, N n) { m.dependencies.back().when.targets = words(n); }},

    Field<M>{{.path = "exports", .type = Type::table, .help = "what others may use of the module",
              .example = "{ mode = \"listed\" }"}, nullptr},
    Field<M>{{.path = "exports.mode", .type = Type::word, .values = {"listed", "all"}, .preset = "\"listed\"",
              .help = "listed: the [[member]] tables; all: whatever the code makes visible",
              .example = "\"listed\""},
             [](M& m, N n) { m.exports_all = n.text == "all"; }},
    Field<M>{{.path = "member[]", .type = Type::tables, .help = "something that the module exports",
              .example = "[[member]]"},
             [](M& m, N n) { m.members.emplace_back().name.span = n.span; }},
    Field<M>{{.path = "member[].name", .type = Type::name, .required = true, .help = "the name in the code",
              .example = "\"place\""},
             [](M& m, N n) { m.members.back().name = word(n); }},
    Field<M>{{.path = "member[].kind", .type = Type::word,
              .values = {"function", "command", "variable", "constant", "class"}, .preset = "\"function\"",
              .help = "what it is", .example = "\"function\""},
             [](M& m, N n) { m.members.back().kind = n.text; }},
    Field<M>{{.path = "member[].summary", .type = Type::text, .help = "one sentence: what it does",
              .example = "\"Places the stars brighter than a magnitude.\""},
             [](M& m, N n) { m.members.back().summary = n.text; }},
    Field<M>{{.path = "member[].parameters[]", .type = Type::tables, .help = "what it is called with, in order",
              .example = "[{ name = \"magnitude\", type = \"number\" }]"},
             [](M& m, N) { m.members.back().parameters.emplace_back(); }},
    Field<M>{{.path = "member[].parameters[].name", .type = Type::name, .required = true,
              .help = "name of the parameter", .example = "\"magnitude\""},
             [](M& m, N n) { m.members.back().parameters.back().name = n.text; }},
    Field<M>{{.path = "member[].parameters[].type", .type = Type::line, .help = "its type, in the host's words",
              .example = "\"number\""},
             [](M& m, N n) { m.members.back().parameters.back().type = n.text; }},
    Field<M>{{.path = "member[].parameters[].required", .type = Type::boolean, .preset = "true",
              .help = "false: it may be left out", .example = "false"},
             [](M& m, N n) { m.members.back().parameters.back().required = n.boolean; }},
    Field<M>{{.path = "member[].parameters[].default", .type = Type::any, .help = "what holds when it is left out",
              .example = "\"J2000\""},
             [](M& m, N n) { m.members.back().parameters.back().preset = scalar_text(n); }},
    Field<M>{{.path = "member[].parameters[].summary", .type = Type::text, .help = "what it means, with its unit",
              .example = "\"faintest magnitude shown\""},
             [](M& m, N n) { m.members.back().parameters.back().summary = n.text; }},
    Field<M>{{.path = "member[].returns", .type = Type::text, .help = "what it gives back",
              .example = "\"number of stars placed\""},
             [](M& m, N n) { m.members.back().returns = n.text; }},
    Field<M>{{.path = "member[].since", .type = Type::version, .help = "version of the module that brought it",
              .example = "\"1.0.0\""},
             [](M& m, N n) { m.members.back().since = n.text; }},

    Field<M>{{.path = "asset[]", .type = Type::tables, .help = "a folder of files that are not code",
              .example = "[[asset]]"}, nullptr},
    Field<M>{{.path = "asset[].folder", .type = Type::inner_path, .required = true, .help = "where they lie",
              .example = "\"images\""}, nullptr},
    Field<M>{{.path = "asset[].extension", .type = Type::line, .help = "how their names end",
              .example = "\".sprite.toml\""}, nullptr},
    Field<M>{{.path = "asset[].recursive", .type = Type::boolean, .preset = "false",
              .help = "true: folders within count too", .example = "true"}, nullptr},
};
// clang-format on

bool one_holds(const std::vector<Word>& words, std::string_view present) {
    if (words.empty() || present.empty()) return true;
    bool only_negations = true;
    for (const Word& word : words) {
        const std::string_view text = word.value;
        if (!text.empty() && text.front() == '!') {
            if (text.substr(1) == present) return false;
        } else {
            only_negations = false;
            if (text == present) return true;
        }
    }
    return only_negations;
}

}  // namespace

std::span<const Field<Manifest>> manifest_fields() { return manifest_rows; }

Manifest read_manifest(const Document& document, std::vector<text::Finding>& findings) {
    Manifest manifest;
    findings.insert(findings.end(), document.findings.begin(), document.findings.end());
    if (document.valid) read_into(manifest, manifest_fields(), document, findings);
    std::erase_if(manifest.dependencies, [](const Dependency& d) { return d.module.value.empty(); });
    std::erase_if(manifest.members, [](const Member& m) { return m.name.value.empty(); });
    return manifest;
}

bool holds(const Condition& condition, std::string_view platform, std::string_view target) {
    return one_holds(condition.platforms, platform) && one_holds(condition.targets, target);
}

std::string_view stage_name(Stage stage) {
    switch (stage) {
        case Stage::load:
            return "load";
        case Stage::build:
            return "build";
        case Stage::test:
            return "test";
    }
    return "load";
}

}  // namespace envar::model
