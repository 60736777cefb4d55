#include "core/model/card.hpp"

#include <array>

#include "core/model/node_values.hpp"

namespace envar::model {
namespace {

using C = Card;
using N = const Node&;
using Pairs = std::vector<std::pair<std::string, std::string>>;

Pairs pairs(const Node& node) {
    Pairs out;
    for (const Node& item : node.items) out.emplace_back(item.items[0].text, item.items[1].text);
    return out;
}

// A row is easier to read than a column.
// clang-format off
const std::array card_rows = {
    Field<C>{{.path = "host", .type = Type::table, .required = true, .help = "what the host is",
              .example = "{ name = \"lua\", kind = \"script\" }"}, nullptr},
    Field<C>{{.path = "host.name", .type = Type::name, .required = true, .help = "what manifests call the host",
              .example = "\"lua\""},
             [](C& c, N n) { c.name = word(n); }},
    Field<C>{{.path = "host.kind", .type = Type::word, .required = true,
              .values = {"shell", "script", "engine", "native"}, .help = "what sort of program it is",
              .example = "\"script\""},
             [](C& c, N n) { c.kind = n.text; }},
    Field<C>{{.path = "host.summary", .type = Type::line, .required = true, .help = "one sentence for the list",
              .example = "\"The Lua interpreter.\""},
             [](C& c, N n) { c.summary = n.text; }},
    Field<C>{{.path = "host.programs", .type = Type::texts, .preset = "[]",
              .help = "its programs; the first one found in PATH is run", .example = "[\"lua5.4\", \"lua\"]"},
             [](C& c, N n) { c.programs = texts(n); }},
    Field<C>{{.path = "host.version_arguments", .type = Type::texts, .preset = "[]",
              .help = "what makes it tell its version", .example = "[\"-v\"]"},
             [](C& c, N n) { c.version_arguments = texts(n); }},
    Field<C>{{.path = "host.version_pattern", .type = Type::pattern, .help = "where the version stands in the answer",
              .example = "'Lua (\\d+\\.\\d+\\.\\d+)'"},
             [](C& c, N n) { c.version_pattern = word(n); }},
    Field<C>{{.path = "host.package", .type = Type::line, .help = "Debian package that brings it",
              .example = "\"lua5.4\""},
             [](C& c, N n) { c.package = n.text; }},

    Field<C>{{.path = "naming", .type = Type::table, .help = "what names must look like",
              .example = "{ module = '[a-z_]+' }"}, nullptr},
    Field<C>{{.path = "naming.module", .type = Type::pattern, .help = "a module's whole name",
              .example = "'[a-z][a-z0-9_]*'"},
             [](C& c, N n) { c.module_pattern = word(n); }},
    Field<C>{{.path = "naming.example", .type = Type::line, .help = "a name that the pattern matches",
              .example = "\"star_field\""},
             [](C& c, N n) { c.module_example = n.text; }},
    Field<C>{{.path = "naming.member", .type = Type::pattern, .help = "a member's whole name",
              .example = "'[A-Za-z_]\\w*'"},
             [](C& c, N n) { c.member_pattern = n.text; }},
    Field<C>{{.path = "naming.form", .type = Type::word, .values = {"snake", "kebab", "camel", "pascal", "upper"},
              .preset = "\"snake\"", .help = "form that a wrong name is offered in", .example = "\"snake\""},
             [](C& c, N n) { c.form = n.text; }},
    Field<C>{{.path = "naming.reserved", .type = Type::texts, .preset = "[]", .help = "words that are no names",
              .example = "[\"end\", \"local\"]"},
             [](C& c, N n) { c.reserved = texts(n); }},

    Field<C>{{.path = "layout", .type = Type::table, .help = "where the parts of a module lie",
              .example = "{ entry = \"init.lua\" }"}, nullptr},
    Field<C>{{.path = "layout.entry", .type = Type::inner_path, .help = "the usual entry file (Mustache)",
              .example = "\"init.lua\""},
             [](C& c, N n) { c.entry_file = n.text; }},
    Field<C>{{.path = "layout.extension", .type = Type::line, .help = "how source files end", .example = "\".lua\""},
             [](C& c, N n) { c.extension = n.text; }},

    Field<C>{{.path = "layout.member", .type = Type::line,
              .help = "the member of a new module for which none is given (Mustache)", .example = "\"describe\""},
             [](C& c, N n) { c.usual_member = n.text; }},

    Field<C>{{.path = "search", .type = Type::table, .help = "how a name is looked up",
              .example = "{ candidates = [\"{{path}}.lua\"] }"}, nullptr},
    Field<C>{{.path = "search.candidates", .type = Type::texts, .preset = "[]",
              .help = "what is tried in a folder for a name, in the host's order (Mustache with `path`)",
              .example = "[\"{{path}}.lua\", \"{{path}}/init.lua\"]"},
             [](C& c, N n) { c.candidates = texts(n); }},
    Field<C>{{.path = "search.name_separator", .type = Type::line, .help = "between the parts of a name; a `/` in the path",
              .example = "\".\""},
             [](C& c, N n) { c.name_separator = n.text; }},
    Field<C>{{.path = "search.folder_counts", .type = Type::boolean, .preset = "false",
              .help = "true: a folder where a file is expected ends the search, and loading fails",
              .example = "true"},
             [](C& c, N n) { c.folder_counts = n.boolean; }},
    Field<C>{{.path = "search.defaults", .type = Type::texts, .preset = "[]",
              .help = "entries that the host has by itself, in the variable's form",
              .example = "[\"/usr/share/lua/5.4/?.lua\"]"},
             [](C& c, N n) { c.defaults = texts(n); }},
    Field<C>{{.path = "search.variable[]", .type = Type::tables, .help = "an environment variable with a search path",
              .example = "[[search.variable]]"},
             [](C& c, N) { c.variables.emplace_back(); }},
    Field<C>{{.path = "search.variable[].name", .type = Type::name, .required = true, .help = "its name",
              .example = "\"LUA_PATH_5_4\""},
             [](C& c, N n) { c.variables.back().name = n.text; }},
    Field<C>{{.path = "search.variable[].separator", .type = Type::line, .preset = "\":\"",
              .help = "stands between its entries", .example = "\";\""},
             [](C& c, N n) { c.variables.back().separator = n.text; }},
    Field<C>{{.path = "search.variable[].form", .type = Type::word, .values = {"folders", "templates"},
              .preset = "\"folders\"", .help = "what an entry is", .example = "\"templates\""},
             [](C& c, N n) { c.variables.back().templates = n.text == "templates"; }},
    Field<C>{{.path = "search.variable[].mark", .type = Type::line, .preset = "\"?\"",
              .help = "stands for the name in a template", .example = "\"?\""},
             [](C& c, N n) { c.variables.back().mark = n.text; }},
    Field<C>{{.path = "search.variable[].cannot_hold", .type = Type::line, .preset = "\"\"",
              .help = "characters that an entry cannot contain", .example = "\";?\""},
             [](C& c, N n) { c.variables.back().cannot_hold = n.text; }},
    Field<C>{{.path = "search.variable[].when_unset", .type = Type::line, .preset = "\"\"",
              .help = "what stands behind new entries while the variable is not set", .example = "\";;\""},
             [](C& c, N n) { c.variables.back().when_unset = n.text; }},
    Field<C>{{.path = "search.variable[].defaults_mark", .type = Type::line, .preset = "\"\"",
              .help = "text within the value that the host replaces by its defaults, once", .example = "\";;\""},
             [](C& c, N n) { c.variables.back().defaults_mark = n.text; }},
    Field<C>{{.path = "search.variable[].instead_of", .type = Type::line, .preset = "\"\"",
              .help = "variable that counts only while this one is not set", .example = "\"LUA_PATH\""},
             [](C& c, N n) { c.variables.back().instead_of = n.text; }},

    Field<C>{{.path = "load", .type = Type::table, .help = "how modules are loaded", .example = "{ phases = [\"main\"] }"},
             nullptr},
    Field<C>{{.path = "load.phases", .type = Type::names, .preset = "[\"main\"]",
              .help = "slots of the start-up, in order", .example = "[\"early\", \"main\", \"late\"]"},
             [](C& c, N n) { c.phases = texts(n); }},
    Field<C>{{.path = "load.hooks", .type = Type::boolean, .preset = "false",
              .help = "true: start and stop members are called", .example = "true"},
             [](C& c, N n) { c.hooks = n.boolean; }},

    Field<C>{{.path = "language", .type = Type::table, .help = "what the language's text looks like",
              .example = "{ comment = \"--\" }"}, nullptr},
    Field<C>{{.path = "language.comment", .type = Type::line, .help = "starts a comment that ends with the line",
              .example = "\"--\""},
             [](C& c, N n) { c.comment = n.text; }},
    Field<C>{{.path = "language.doc_comment", .type = Type::line,
              .help = "starts the first line of documentation; left out: the same as comment", .example = "\"---\""},
             [](C& c, N n) { c.doc_comment = n.text; }},
    Field<C>{{.path = "language.string", .type = Type::texts, .help = "opens and closes a string in templates",
              .example = "['\"', '\"']"},
             [](C& c, N n) {
                 if (n.items.size() == 2) {
                     c.string_open = n.items[0].text;
                     c.string_close = n.items[1].text;
                 }
             }},
    Field<C>{{.path = "language.escapes", .type = Type::pairs, .preset = "[]",
              .help = "what is replaced within such a string", .example = "[['\\', '\\\\'], ['\"', '\\\"']]"},
             [](C& c, N n) { c.escapes = pairs(n); }},
    Field<C>{{.path = "language.long_comments", .type = Type::pairs, .preset = "[]",
              .help = "comments over several lines: how they open and close", .example = "[['--[[', ']]']]"},
             [](C& c, N n) { c.long_comments = pairs(n); }},
    Field<C>{{.path = "language.long_strings", .type = Type::pairs, .preset = "[]",
              .help = "strings over several lines: how they open and close", .example = "[['[[', ']]']]"},
             [](C& c, N n) { c.long_strings = pairs(n); }},
    Field<C>{{.path = "language.nesting", .type = Type::pairs, .preset = "[]",
              .help = "patterns of what opens and closes a block", .example = "[['\\bdo\\b', '\\bend\\b']]"},
             [](C& c, N n) { c.nesting = pairs(n); }},
    Field<C>{{.path = "language.table", .type = Type::pattern,
              .help = "the line that tells the table whose fields are the members, as group 1",
              .example = "'return (\\w+)'"},
             [](C& c, N n) { c.table_pattern = n.text; }},
    Field<C>{{.path = "language.internal", .type = Type::pattern, .help = "names of members that are not exported",
              .example = "'_.*'"},
             [](C& c, N n) { c.internal_pattern = n.text; }},
    Field<C>{{.path = "language.import", .type = Type::pattern, .help = "a line that loads another module, group `name`",
              .example = "'require \"(?P<name>\\w+)\"'"},
             [](C& c, N n) { c.import_pattern = n.text; }},
    Field<C>{{.path = "language.member[]", .type = Type::tables, .help = "how a member's definition looks",
              .example = "[[language.member]]"},
             [](C& c, N) { c.members.emplace_back(); }},
    Field<C>{{.path = "language.member[].pattern", .type = Type::pattern, .required = true,
              .help = "over a line of code, with the groups `name` and `parameters`",
              .example = "'function M\\.(?P<name>\\w+)'"},
             [](C& c, N n) { c.members.back().pattern = n.text; }},
    Field<C>{{.path = "language.member[].kind", .type = Type::word,
              .values = {"function", "command", "variable", "constant", "class"}, .preset = "\"function\"",
              .help = "what it defines", .example = "\"function\""},
             [](C& c, N n) { c.members.back().kind = n.text; }},
    Field<C>{{.path = "language.member[].example", .type = Type::line, .help = "a line that the pattern matches",
              .example = "\"function M.place(stars)\""},
             [](C& c, N n) { c.members.back().example = n.text; }},

    Field<C>{{.path = "file[]", .type = Type::tables, .help = "a file that Envar writes", .example = "[[file]]"},
             [](C& c, N) { c.files.emplace_back(); }},
    Field<C>{{.path = "file[].path", .type = Type::inner_path, .required = true,
              .help = "where, relative to the module's folder (Mustache)", .example = "\"about.lua\""},
             [](C& c, N n) { c.files.back().path = n.text; }},
    Field<C>{{.path = "file[].template", .type = Type::inner_path, .required = true,
              .help = "its template, relative to the card", .example = "\"about.lua.mustache\""},
             [](C& c, N n) { c.files.back().template_file = n.text; }},
    Field<C>{{.path = "file[].ownership", .type = Type::word, .required = true, .values = {"authored", "generated"},
              .help = "authored: written once, then the user's; generated: Envar's for good",
              .example = "\"generated\""},
             [](C& c, N n) { c.files.back().generated = n.text == "generated"; }},
    Field<C>{{.path = "file[].scope", .type = Type::word, .values = {"module", "search"}, .preset = "\"module\"",
              .help = "module: one a module; search: one in the host's first search folder",
              .example = "\"search\""},
             [](C& c, N n) { c.files.back().per_search = n.text == "search"; }},
    Field<C>{{.path = "file[].purpose", .type = Type::line, .required = true, .help = "what the file is for",
              .example = "\"name and version, for the code to read\""},
             [](C& c, N n) { c.files.back().purpose = n.text; }},
    Field<C>{{.path = "file[].blueprints", .type = Type::names, .preset = "[]",
              .help = "blueprints that write it; left out: all", .example = "[\"library\"]"},
             [](C& c, N n) { c.files.back().blueprints = texts(n); }},
    Field<C>{{.path = "blueprint[]", .type = Type::tables, .help = "a set of files to start from; the first is the usual one",
              .example = "[[blueprint]]"},
             [](C& c, N) { c.blueprints.emplace_back(); }},
    Field<C>{{.path = "blueprint[].name", .type = Type::name, .required = true, .help = "its name",
              .example = "\"minimal\""},
             [](C& c, N n) { c.blueprints.back().name = n.text; }},
    Field<C>{{.path = "blueprint[].summary", .type = Type::line, .required = true, .help = "what one gets",
              .example = "\"a module in one file\""},
             [](C& c, N n) { c.blueprints.back().summary = n.text; }},

    Field<C>{{.path = "trial", .type = Type::table, .help = "how the real host is run for a trial",
              .example = "{ probe = \"probe.lua.mustache\" }"}, nullptr},
    Field<C>{{.path = "trial.arguments", .type = Type::texts, .required = true,
              .help = "arguments of the program (Mustache with `probe`)", .example = "[\"{{probe}}\"]"},
             [](C& c, N n) { c.trial_arguments = texts(n); }},
    Field<C>{{.path = "trial.probe", .type = Type::inner_path, .required = true,
              .help = "template of the script that loads the modules and reports",
              .example = "\"probe.lua.mustache\""},
             [](C& c, N n) { c.trial_probe = n.text; }},
    Field<C>{{.path = "trial.seconds", .type = Type::integer, .preset = "10", .help = "time limit",
              .example = "10"},
             [](C& c, N n) { c.trial_seconds = static_cast<double>(n.integer); }},
    Field<C>{{.path = "session", .type = Type::table, .help = "of a shell: how it sets search variables",
              .example = "{ template = \"session.bash.mustache\" }"}, nullptr},
    Field<C>{{.path = "session.template", .type = Type::inner_path, .required = true,
              .help = "template of the script", .example = "\"session.bash.mustache\""},
             [](C& c, N n) { c.session_template = n.text; }},
    Field<C>{{.path = "notice", .type = Type::table, .help = "how a running host takes up a change",
              .example = "{ modules = \"restart the program\" }"}, nullptr},
    Field<C>{{.path = "notice.modules", .type = Type::line, .required = true,
              .help = "what to do so that a running host sees a new or changed module",
              .example = "\"restart the program\""},
             [](C& c, N n) { c.notice = n.text; }},
};
// clang-format on

}  // namespace

std::span<const Field<Card>> card_fields() { return card_rows; }

Card read_card(const Document& document, std::filesystem::path folder, std::string origin,
               std::vector<text::Finding>& findings) {
    Card card;
    card.folder = std::move(folder);
    card.origin = std::move(origin);
    card.source = document.source;
    findings.insert(findings.end(), document.findings.begin(), document.findings.end());
    if (document.valid) read_into(card, card_fields(), document, findings);
    if (card.phases.empty()) card.phases = {"main"};
    return card;
}

}  // namespace envar::model
