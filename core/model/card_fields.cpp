// The field table of cards. A row is easier to read than a column, so rows are left as they are.
#include "core/model/binding.hpp"
#include "core/model/card.hpp"
#include "core/model/card_tables.hpp"

namespace envar::model {
namespace {

// clang-format off
const Fields host_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "what manifests call the host",
     .example = "\"lua\"", .bound = at<&Card::name>()},
    {.key = "kind", .type = Type::word, .required = true, .values = {"shell", "script", "engine", "native", "base"},
     .help = "what sort of program it is; base: none, but what other cards build on", .example = "\"script\"", .bound = at<&Card::kind>()},
    {.key = "base", .type = Type::name, .help = "the card that this one builds on: it says what this one does not",
     .example = "\"cxx\"", .bound = at<&Card::base>()},
    {.key = "takes", .type = Type::word, .values = {"all", "language"}, .preset = "\"all\"",
     .help = "what it takes of that card: language: no files, no blueprints and no fronts", .example = "\"language\"",
     .bound = at<&Card::language_only>()},
    {.key = "summary", .type = Type::line, .required = true, .help = "one sentence for the list",
     .example = "\"The Lua interpreter.\"", .bound = at<&Card::summary>()},
    {.key = "versions", .type = Type::word, .values = {"semantic", "integer", "dotted"}, .preset = "\"semantic\"",
     .help = "how versions of its modules are written: 1.2.3-rc.1, 42, or two to four numbers", .example = "\"dotted\"",
     .synonyms = {"version_scheme", "scheme"}, .bound = at<&Card::scheme>()},
    {.key = "programs", .type = Type::texts, .preset = "[]",
     .help = "its programs; the first one found in PATH is run", .example = "[\"lua5.4\", \"lua\"]",
     .bound = at<&Card::programs>()},
    {.key = "version_arguments", .type = Type::texts, .preset = "[]", .help = "what makes it tell its version",
     .example = "[\"-v\"]", .bound = at<&Card::version_arguments>()},
    {.key = "version_input", .type = Type::line, .preset = "\"\"", .help = "what it is given on standard input for that",
     .example = "\"puts [info patchlevel]\"", .bound = at<&Card::version_input>()},
    {.key = "version_pattern", .type = Type::pattern, .help = "where the version stands in the answer",
     .example = "'Lua (\\d+\\.\\d+\\.\\d+)'", .bound = at<&Card::version_pattern>()},
    {.key = "package", .type = Type::line, .help = "Debian package that brings it", .example = "\"lua5.4\"",
     .bound = at<&Card::package>()},
};

const Fields naming_table = {
    {.key = "module", .type = Type::pattern, .help = "a module's whole name", .example = "'[a-z][a-z0-9_]*'",
     .bound = at<&Card::module_pattern>()},
    {.key = "example", .type = Type::line, .help = "a name that the pattern matches", .example = "\"star_field\"",
     .bound = at<&Card::module_example>()},
    {.key = "member", .type = Type::pattern, .help = "a member's whole name", .example = "'[A-Za-z_]\\w*'",
     .bound = at<&Card::member_pattern>()},
    {.key = "form", .type = Type::word, .values = {"snake", "kebab", "camel", "pascal", "upper"},
     .preset = "\"snake\"", .help = "form that a wrong name is offered in", .example = "\"snake\"",
     .bound = at<&Card::form>()},
    {.key = "own_words", .type = Type::texts, .preset = "[]",
     .help = "words of the language: no names of modules, members or parameters", .example = "[\"end\", \"local\"]",
     .bound = at<&Card::keywords>()},
    {.key = "reserved", .type = Type::texts, .preset = "[]", .help = "further words that are no names of modules",
     .example = "[\"string\", \"table\"]", .bound = at<&Card::reserved>()},
    {.key = "words", .type = Type::tables, .help = "lists of words that advice on names goes by",
     .example = "[{ name = \"verbs\", words = [\"open\", \"close\"] }]", .bound = within<&Card::word_lists>(),
     .fields = &word_list_table},
    {.key = "advice", .type = Type::tables, .help = "what names should look like; `check` advises",
     .example = "[{ kinds = [\"command\"], first = \"verbs\" }]", .bound = within<&Card::name_advice>(),
     .fields = &name_advice_table},
};

const Fields layout_table = {
    {.key = "entry", .type = Type::inner_path, .help = "the usual entry file (Mustache)", .example = "\"init.lua\"",
     .bound = at<&Card::entry_file>()},
    {.key = "folder", .type = Type::inner_path, .preset = "\"{{folder_name}}\"",
     .help = "where a new module goes within its search folder (Mustache with name, folder_name and version)",
     .example = "\"{{folder_name}}/{{version}}\"", .bound = at<&Card::module_folder>()},
    {.key = "extension", .type = Type::line, .help = "how source files end", .example = "\".lua\"",
     .bound = at<&Card::extension>()},
    {.key = "install", .type = Type::inner_path,
     .help = "where a built module goes below a prefix (Mustache); left out: where such files go", .example = "\"lib/dome/{{name}}\"",
     .bound = at<&Card::install>()},
    {.key = "along", .type = Type::inner_paths, .preset = "[]",
     .help = "files of the module that are installed beside it (Mustache)", .example = "[\"{{name}}.xml\"]",
     .bound = at<&Card::along>()},
    {.key = "cannot_list", .type = Type::text, .preset = "\"\"",
     .help = "characters that no file in a descriptor's lists can have in its name", .example = "\" $#\"",
     .bound = at<&Card::cannot_list>()},
    {.key = "member", .type = Type::line, .help = "the member of a new module for which none is given (Mustache)",
     .example = "\"describe\"", .bound = at<&Card::usual_member>()},
};

const Fields entry_rule_table = {
    {.key = "pattern", .type = Type::pattern, .required = true,
     .help = "what must stand in the entry file; a group `name` must be the module's name",
     .example = "'^package\\s+(?P<name>\\w+)'", .bound = at<&EntryRule::pattern>()},
    {.key = "message", .type = Type::line, .required = true, .help = "what is wrong without it",
     .example = "\"the entry file declares no package of its name\"", .bound = at<&EntryRule::message>()},
    {.key = "hint", .type = Type::line, .help = "what to do", .example = "\"begin it with `package NAME;`\"",
     .bound = at<&EntryRule::hint>()},
};

const Fields load_table = {
    {.key = "phases", .type = Type::names, .preset = "[\"main\"]", .help = "slots of the start-up, in order",
     .example = "[\"early\", \"main\", \"late\"]", .bound = at<&Card::phases>()},
    {.key = "entry", .type = Type::tables, .help = "what the host needs to see in an entry file",
     .example = "[{ pattern = '^return\\b', message = \"the entry file returns nothing\" }]",
     .bound = within<&Card::entry_rules>(), .fields = &entry_rule_table},
    {.key = "host_order", .type = Type::word, .values = {"planned", "last_ready_first"}, .preset = "\"planned\"",
     .help = "planned: the host loads in the order that is written down for it; last_ready_first: of the modules whose needs are met, always the one that was last to become so, at first the last by folder, groups before others",
     .example = "\"last_ready_first\"", .bound = at<&Card::host_order>()},
    {.key = "hooks", .type = Type::boolean, .preset = "false", .help = "true: start and stop members are called",
     .example = "true", .bound = at<&Card::hooks>()},
    {.key = "by_name", .type = Type::boolean, .preset = "false",
     .help = "true: what has a module's own name loads it, and is a member only where the manifest says so",
     .example = "true", .bound = at<&Card::by_name>()},
};

const Fields blueprint_setting_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "its name, in `--set NAME=VALUE` and in templates",
     .example = "\"part\"", .bound = at<&BlueprintSetting::name>()},
    {.key = "default", .type = Type::line, .preset = "\"\"", .help = "its value when none is given (Mustache with `name`)",
     .example = "\"catalogue\"", .bound = at<&BlueprintSetting::preset>()},
    {.key = "help", .type = Type::line, .required = true, .help = "what it decides", .example = "\"name of the part\"",
     .bound = at<&BlueprintSetting::help>()},
    {.key = "pattern", .type = Type::pattern, .help = "what a value must look like as a whole",
     .example = "'[a-z_]+'", .bound = at<&BlueprintSetting::pattern>()},
};

const Fields blueprint_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "its name", .example = "\"minimal\"",
     .bound = at<&Blueprint::name>()},
    {.key = "summary", .type = Type::line, .required = true, .help = "what one gets",
     .example = "\"a module in one file\"", .bound = at<&Blueprint::summary>()},
    {.key = "member", .type = Type::line,
     .help = "the member of a new module for which none is given (Mustache with `name`); left out: the layout's",
     .example = "\"{{name}}\"", .bound = at<&Blueprint::member>()},
    {.key = "kind", .type = Type::word, .values = {"function", "command", "variable", "constant", "class"},
     .preset = "\"function\"", .help = "what that member is", .example = "\"command\"", .bound = at<&Blueprint::kind>()},
    {.key = "manifest", .type = Type::inner_path, .help = "template of what a new manifest holds besides, as TOML",
     .example = "\"library.toml.mustache\"", .bound = at<&Blueprint::manifest>()},
    {.key = "folder", .type = Type::inner_path,
     .help = "where the new module goes within its search folder (Mustache, with the settings); left out: the layout's",
     .example = "\"{{group}}/{{folder_name}}\"", .bound = at<&Blueprint::folder>()},
    {.key = "variable", .type = Type::name,
     .help = "the search variable that its search folder is for; left out: the host's first",
     .example = "\"MINETEST_SUBGAME_PATH\"", .bound = at<&Blueprint::variable>()},
    {.key = "phase", .type = Type::name, .help = "the phase in which it is loaded; left out: the usual one",
     .example = "\"editor\"", .bound = at<&Blueprint::phase>()},
    {.key = "place", .type = Type::inner_path,
     .help = "search folder of the first such module; left out: the host's usual one", .example = "\"games\"",
     .bound = at<&Blueprint::place>()},
    {.key = "setting", .type = Type::tables, .help = "what else it can be told",
     .example = "[{ name = \"part\", default = \"catalogue\", help = \"name of the part\" }]",
     .bound = within<&Blueprint::settings>(), .fields = &blueprint_setting_table},
};

const Fields adopt_fact_table = {
    {.key = "file", .type = Type::inner_path, .required = true, .help = "the file that tells it", .example = "\"module.conf\"",
     .bound = at<&AdoptFact::file>()},
    {.key = "pattern", .type = Type::pattern, .required = true,
     .help = "what it says, as group 1; the last match counts", .example = "'^depends = (.*)'",
     .bound = at<&AdoptFact::pattern>()},
    {.key = "gives", .type = Type::word, .required = true,
     .values = {"name", "version", "summary", "author", "needs", "optional_needs", "switch"},
     .help = "what that is; a switch is a setting of the build that brings tests, examples or documents",
     .example = "\"needs\"", .bound = at<&AdoptFact::gives>()},
    {.key = "off", .type = Type::line, .help = "of a switch: the value that turns it off", .example = "\"OFF\"",
     .bound = at<&AdoptFact::off>()},
    {.key = "separator", .type = Type::line,
     .help = "between the items of a list of needs; left out: each match is one", .example = "\",\"",
     .bound = at<&AdoptFact::separator>()},
    {.key = "item", .type = Type::pattern, .help = "a whole item of needs; what looks different is told and passed over",
     .example = "'[a-z_]+'", .bound = at<&AdoptFact::item>()},
    {.key = "otherwise", .type = Type::boolean, .preset = "false",
     .help = "true: only where no other file's facts give needs of either kind", .example = "true",
     .bound = at<&AdoptFact::otherwise>()},
    {.key = "without", .type = Type::texts, .preset = "[]", .help = "items that are no modules, as the host itself brings them",
     .example = "[\"Threads\"]", .bound = at<&AdoptFact::without>()},
};

const Fields build_statements_table = {
    {.key = "files", .type = Type::texts, .required = true, .help = "names of the files that hold them, with `*`",
     .example = "[\"CMakeLists.txt\"]", .bound = at<&BuildStatements::files>()},
    {.key = "installs", .type = Type::pattern, .help = "the headers that one installs, and names of lists of them, as a group",
     .example = "'install_headers\\(([^()]*)\\)'", .bound = at<&BuildStatements::installs>()},
    {.key = "folders", .type = Type::pattern, .help = "the folders whose headers one installs, as a group",
     .example = "'install_subdir\\(([^(),]*)'", .bound = at<&BuildStatements::folders>()},
    {.key = "lists", .type = Type::pattern, .help = "a list of files: its name as group 1, what it holds as a further group",
     .example = "'^(\\w+)\\s*=(.*)'", .bound = at<&BuildStatements::lists>()},
    {.key = "spelled", .type = Type::pattern,
     .help = "the name as others ask for it, as a group; where only its spelling differs from the project's name, it counts",
     .example = "'^add_library\\((\\S+)'", .bound = at<&BuildStatements::spelled>()},
};

const Fields bridge_table = {
    {.key = "path", .type = Type::inner_path, .required = true, .help = "where it goes in the module's folder (Mustache)",
     .example = "\"functions/{{name}}\"", .bound = at<&Bridge::path>()},
    {.key = "template", .type = Type::inner_path, .required = true,
     .help = "its text (Mustache), which can speak of `reads` too: the file that it reads in; nothing, where there are but "
             "files of a member each, which it makes known",
     .example = "\"bridge.mustache\"", .bound = at<&Bridge::template_file>()},
    {.key = "reads", .type = Type::texts, .preset = "[]",
     .help = "where that file may lie (Mustache), the first that is there counts; `*`: where the folder was named, the "
             "only one that fits, and the module is called as the `*` says; without an ending: where the folder was named, "
             "and the file defines something",
     .example = "[\"{{name}}.sh\", \"*.sh\"]", .bound = at<&Bridge::reads>()},
    {.key = "ends", .type = Type::pattern,
     .help = "a statement that ends whoever reads the file in: one that a `*` stands for is a program then, and no module",
     .example = "'^exit\\b'", .bound = at<&Bridge::ends>()},
    {.key = "renames", .type = Type::boolean, .preset = "false",
     .help = "true: also for what the host finds by a name that it cannot load it by", .example = "true",
     .bound = at<&Bridge::renames>()},
};

const Fields asset_kind_table = {
    {.key = "kind", .type = Type::name, .required = true, .help = "what such files are", .example = "\"texture\"",
     .bound = at<&AssetKind::kind>()},
    {.key = "folder", .type = Type::inner_path, .required = true, .help = "where in a module they lie",
     .example = "\"textures\"", .bound = at<&AssetKind::folder>()},
    {.key = "extensions", .type = Type::texts, .required = true, .help = "how the files end that the host takes",
     .example = "[\".png\", \".jpg\"]", .bound = at<&AssetKind::extensions>()},
    {.key = "beside", .type = Type::texts, .preset = "[]",
     .help = "names, with `*`, of files that authors keep there for themselves",
     .example = "[\"*.xcf\", \"LICENSE*\"]", .bound = at<&AssetKind::beside>()},
};

const Fields adopt_table = {
    {.key = "entries", .type = Type::texts, .required = true,
     .help = "where the entry file of a module may lie (Mustache); the first that is there counts",
     .example = "[\"init.lua\", \"{{name}}.lua\"]", .bound = at<&AdoptRules::entries>()},
    {.key = "files", .type = Type::inner_paths, .preset = "[]", .help = "further files that may tell the version",
     .example = "[\"about.lua\"]", .bound = at<&AdoptRules::files>()},
    {.key = "passed_over", .type = Type::texts, .preset = "[]",
     .help = "names of files that are no modules though they lie where such do, with `*`",
     .example = "[\"setup.py\"]", .bound = at<&AdoptRules::passed_over>()},
    {.key = "name", .type = Type::pattern, .help = "the module's name in the entry file, as group 1; left out: the folder's",
     .example = "'^package (\\w+)'", .bound = at<&AdoptRules::name>()},
    {.key = "version", .type = Type::pattern, .help = "the version in those files, as group 1",
     .example = "'_VERSION = \"([^\"]+)\"'", .bound = at<&AdoptRules::version>()},
    {.key = "summary", .type = Type::pattern, .help = "one sentence in the entry file, as group 1",
     .example = "'^--- (.+)'", .bound = at<&AdoptRules::summary>()},
    {.key = "kinds", .type = Type::pairs, .preset = "[]",
     .help = "of native modules: a pattern over the entry file, and the kind of library that it means; the first that matches counts",
     .example = "[['library\\([^)]*\\bSHARED', \"shared\"]]", .bound = at<&AdoptRules::kinds>()},
    {.key = "understood", .type = Type::pairs, .preset = "[]",
     .help = "a file and the pattern of its statements that are understood or of no interest; other lines are told",
     .example = "[[\"module.conf\", '\\w+ = .*|#.*|']]", .bound = at<&AdoptRules::understood>()},
    {.key = "fact", .type = Type::tables, .help = "what a file of the module tells of it",
     .example = "[{ file = \"module.conf\", pattern = '^depends = (.*)', gives = \"needs\", separator = \",\" }]",
     .bound = within<&AdoptRules::facts>(), .fields = &adopt_fact_table},
    {.key = "build", .type = Type::table, .help = "what statements of a build system say of a module's files",
     .example = "{ files = [\"Makefile\"], lists = '^(\\w+)\\s*=(.*)' }", .bound = within<&AdoptRules::build>(),
     .fields = &build_statements_table},
    {.key = "bridge", .type = Type::table,
     .help = "an entry file that adopt writes where the host could not load by its name what is there",
     .example = "{ path = \"{{name}}.lua\", template = \"bridge.lua.mustache\", reads = [\"main.lua\"] }",
     .bound = within<&AdoptRules::bridge>(), .fields = &bridge_table},
};

const Fields platform_table = {
    {.key = "tests", .type = Type::pairs, .required = true,
     .help = "platform and what its condition is; `*` stands for any further one, and for its name behind it",
     .example = "[[\"windows\", \"WIN32\"], [\"*\", \"SYSTEM STREQUAL \\\"*\\\"\"]]", .bound = at<&Card::platforms>()},
};

const Fields system_table = {
    {.key = "arguments", .type = Type::texts, .required = true,
     .help = "arguments with which the program prints the version of a module that it has, and fails without it (Mustache with `name`)",
     .example = "[\"-e\", \"print(require('{{name}}')._VERSION)\"]", .bound = at<&SearchAsk::arguments>()},
    {.key = "input", .type = Type::text, .preset = "\"\"", .help = "what it is given on standard input (Mustache with `name`)",
     .example = "\"puts [package require {{name}}]\"", .bound = at<&SearchAsk::input>()},
};

const Fields session_table = {
    {.key = "template", .type = Type::inner_path, .required = true, .help = "template of the script",
     .example = "\"session.bash.mustache\"", .bound = at<&Card::session_template>()},
};

const Fields notice_table = {
    {.key = "modules", .type = Type::line, .required = true,
     .help = "what to do so that a running host sees a new or changed module", .example = "\"restart the program\"",
     .bound = at<&Card::notice>()},
    {.key = "variables", .type = Type::line,
     .help = "what to do so that a running host sees a changed search variable", .example = "\"restart the program\"",
     .bound = at<&Card::notice_variables>()},
};

const Fields card_table = {
    {.key = "host", .type = Type::table, .required = true, .help = "what the host is",
     .example = "{ name = \"lua\", kind = \"script\", summary = \"The Lua interpreter.\" }", .bound = same<Card>(), .fields = &host_table},
    {.key = "naming", .type = Type::table, .help = "what names must look like", .example = "{ module = '[a-z_]+' }",
     .bound = same<Card>(), .fields = &naming_table},
    {.key = "layout", .type = Type::table, .help = "where the parts of a module lie",
     .example = "{ entry = \"init.lua\" }", .bound = same<Card>(), .fields = &layout_table},
    {.key = "search", .type = Type::table, .help = "how a name is looked up",
     .example = "{ candidates = [\"{{path}}.lua\"] }", .bound = same<Card>(), .fields = &card_search_table},
    {.key = "load", .type = Type::table, .help = "how modules are loaded", .example = "{ phases = [\"main\"] }",
     .bound = same<Card>(), .fields = &load_table},
    {.key = "language", .type = Type::table, .help = "what the language's text looks like",
     .example = "{ comment = \"--\" }", .bound = same<Card>(), .fields = &card_language_table},
    {.key = "dialect", .type = Type::tables, .help = "how text looks in a further language that files are written in",
     .example = "[{ name = \"xml\", comment = \"<!--\", comment_end = \"-->\" }]", .bound = within<&Card::dialects>(),
     .fields = &card_dialect_table},
    {.key = "file", .type = Type::tables, .help = "a file that Envar writes",
     .example = "[{ path = \"about.lua\", template = \"about.lua.mustache\", ownership = \"generated\", "
                "purpose = \"name and version, for the code to read\" }]",
     .bound = within<&Card::files>(), .fields = &card_file_table},
    {.key = "blueprint", .type = Type::tables, .help = "a set of files to start from; the first is the usual one",
     .example = "[{ name = \"minimal\", summary = \"a module in one file\" }]",
     .bound = within<&Card::blueprints>(),
     .fields = &blueprint_table},
    {.key = "adopt", .type = Type::table, .help = "how modules that were made without Envar are read",
     .example = "{ entries = [\"init.lua\"] }", .bound = within<&Card::adopt>(), .fields = &adopt_table},
    {.key = "gather", .type = Type::table, .help = "how functions of loose scripts become a module",
     .example = "{ scripts = [\"*.lua\"] }", .bound = within<&Card::gather>(), .fields = &card_gather_table},
    {.key = "asset", .type = Type::tables, .help = "files of one sort that the host takes besides code",
     .example = "[{ kind = \"texture\", folder = \"textures\", extensions = [\".png\"] }]",
     .bound = within<&Card::assets>(), .fields = &asset_kind_table},
    {.key = "trial", .type = Type::table, .help = "how the real host is run for a trial",
     .example = "{ arguments = [\"{{probe}}\"], probe = \"probe.lua.mustache\" }", .bound = same<Card>(), .fields = &card_trial_table},
    {.key = "front", .type = Type::tables, .help = "what a native core can be surfaced as for this host",
     .example = "[{ kind = \"command\", file = \"{{name}}\", install = \"bin\" }]",
     .bound = within<&Card::fronts>(), .fields = &card_front_table},
    {.key = "platform", .type = Type::table, .help = "how descriptors write conditions on platforms",
     .example = "{ tests = [[\"windows\", \"WIN32\"]] }", .bound = same<Card>(), .fields = &platform_table},
    {.key = "system", .type = Type::table, .help = "how the host is asked for a module that it brings along",
     .example = "{ arguments = [\"-e\", \"print(require('{{name}}')._VERSION)\"] }", .bound = within<&Card::system>(),
     .fields = &system_table},
    {.key = "session", .type = Type::table, .help = "of a shell: how it sets search variables",
     .example = "{ template = \"session.bash.mustache\" }", .bound = same<Card>(), .fields = &session_table},
    {.key = "notice", .type = Type::table, .help = "how a running host takes up a change",
     .example = "{ modules = \"restart the program\" }", .bound = same<Card>(), .fields = &notice_table},
};
// clang-format on

}  // namespace

const Fields& card_fields() { return card_table; }

}  // namespace envar::model
