// The field tables of the files that a card writes, and of how it gathers functions from scripts.
#include "core/model/binding.hpp"
#include "core/model/card.hpp"
#include "core/model/card_tables.hpp"

namespace envar::model {

// clang-format off
const Fields card_file_table = {
    {.key = "path", .type = Type::inner_path, .required = true,
     .help = "where, relative to the module's folder (Mustache)", .example = "\"about.lua\"",
     .bound = at<&CardFile::path>()},
    {.key = "template", .type = Type::inner_path, .required = true, .help = "its template, relative to the card",
     .example = "\"about.lua.mustache\"", .bound = at<&CardFile::template_file>()},
    {.key = "ownership", .type = Type::word, .required = true, .values = {"authored", "generated", "shared"},
     .help = "authored: written once, then the user's; generated: Envar's for good; shared: the user's, but for a block",
     .example = "\"generated\"", .bound = at<&CardFile::ownership>()},
    {.key = "scope", .type = Type::word, .values = {"module", "search", "member", "front", "workspace", "place", "target"},
     .preset = "\"module\"",
     .help = "module: one a module; search: one in the host's first search folder; member: one a member; front: one a front; workspace: one at its root; place: one in the folder that new modules are made in; target: one a target, at the workspace's root",
     .example = "\"search\"", .bound = at<&CardFile::scope>()},
    {.key = "dialect", .type = Type::line, .help = "the dialect that it is written in; left out: the card's language",
     .example = "\"xml\"", .bound = at<&CardFile::dialect>()},
    {.key = "test", .type = Type::boolean, .preset = "false",
     .help = "true: a test, which the manifest of a new module lists", .example = "true", .bound = at<&CardFile::test>()},
    {.key = "front", .type = Type::word, .values = {"command", "plugin", "binding"},
     .help = "of scope front: the kind of front that it is for", .example = "\"binding\"",
     .bound = at<&CardFile::front>()},
    {.key = "purpose", .type = Type::line, .required = true, .help = "what the file is for",
     .example = "\"name and version, for the code to read\"", .bound = at<&CardFile::purpose>()},
    {.key = "blueprints", .type = Type::names, .preset = "[]", .help = "blueprints that write it; left out: all. Of [[gather.file]]: one_file, file_each or both",
     .example = "[\"library\"]", .bound = at<&CardFile::blueprints>()},
};

namespace {

const Fields gather_along_table = {
    {.key = "pattern", .type = Type::pattern, .required = true,
     .help = "a statement at the outermost level, with the group `names`: what it sets or brings",
     .example = "'^local\\s+(?P<names>[\\w, ]+)='", .bound = at<&GatherAlong::pattern>()},
    {.key = "always", .type = Type::boolean, .preset = "false",
     .help = "true: it goes along whatever the functions use", .example = "true", .bound = at<&GatherAlong::always>()},
};

const Fields gather_warning_table = {
    {.key = "pattern", .type = Type::pattern, .required = true, .help = "over the code of a function",
     .example = "'\\bio\\.read\\b'", .bound = at<&GatherWarning::pattern>()},
    {.key = "unless", .type = Type::pattern, .help = "where this matches too, all is well", .example = "'\\breturn\\b'",
     .bound = at<&GatherWarning::unless>()},
    {.key = "message", .type = Type::line, .required = true, .help = "what it does, as in `NAME reads …`",
     .example = "\"reads from standard input\"", .bound = at<&GatherWarning::message>()},
    {.key = "programs", .type = Type::texts, .preset = "[]",
     .help = "only in scripts that one of these runs, by their first line; left out: in all", .example = "[\"sh\"]",
     .bound = at<&GatherWarning::programs>()},
};

}  // namespace

const Fields card_gather_table = {
    {.key = "scripts", .type = Type::texts, .required = true,
     .help = "names of scripts in a folder; files without an ending are told by the program in their first line",
     .example = "[\"*.lua\"]", .bound = at<&GatherRules::scripts>()},
    {.key = "programs", .type = Type::texts, .preset = "[]",
     .help = "other programs whose scripts the host understands, as a first line names them", .example = "[\"sh\"]",
     .bound = at<&GatherRules::programs>()},
    {.key = "own", .type = Type::texts, .preset = "[]",
     .help = "names that the module sets itself, such as its version: what sets them in a script stays behind",
     .example = "[\"VERSION\"]", .bound = at<&GatherRules::own>()},
    {.key = "along", .type = Type::tables, .help = "statements that go along with the functions that need them",
     .example = "[{ pattern = '^local\\s+(?P<names>\\w+)\\s*=' }]", .bound = within<&GatherRules::along>(),
     .fields = &gather_along_table},
    {.key = "inside", .type = Type::pattern,
     .help = "what a statement stands behind that begins within a line, in statements such as a condition; there it counts "
             "as along too", .example = "'\\b(?:then|else)\\s+'", .bound = at<&GatherRules::inside>()},
    {.key = "along_rewritten", .type = Type::pairs, .preset = "[]",
     .help = "a pattern and what it is replaced by, in such statements, where all functions are to see what they set", .example = "[['^local ', '']]",
     .bound = at<&GatherRules::along_rewritten>()},
    {.key = "head_rewritten", .type = Type::pairs, .preset = "[]",
     .help = "a pattern and what it is replaced by, where a function begins", .example = "[['^local ', '']]",
     .bound = at<&GatherRules::head_rewritten>()},
    {.key = "warning", .type = Type::tables, .help = "what may not survive when a function moves out of its script",
     .example = "[{ pattern = '\\bio\\.read\\b', message = \"reads from standard input\" }]",
     .bound = within<&GatherRules::warnings>(), .fields = &gather_warning_table},
    {.key = "file", .type = Type::tables,
     .help = "a file of such a module; scope `member`: one a function, in whose path `part` is `functions`, or `helpers` for what only other functions call; with `test` one a member",
     .example = "[{ path = \"init.lua\", template = \"gathered.lua.mustache\", ownership = \"authored\", "
                "purpose = \"entry file\" }]",
     .bound = within<&GatherRules::files>(), .fields = &card_file_table},
    {.key = "load", .type = Type::line, .help = "how a script loads the module (Mustache)",
     .example = "'local {{name}} = require(\"{{name}}\")'", .bound = at<&GatherRules::load>()},
    {.key = "exports_helpers", .type = Type::boolean, .preset = "false",
     .help = "true: everything that is defined is seen, so that helpers are members too", .example = "true",
     .bound = at<&GatherRules::exports_helpers>()},
};
// clang-format on

}  // namespace envar::model
