// The field table of the module manifest. A row is easier to read than a column, so rows are left as they are.
#include "core/model/binding.hpp"
#include "core/model/manifest.hpp"

namespace envar::model {
namespace {

// clang-format off
const Fields entry_table = {
    {.key = "file", .type = Type::inner_path, .help = "the file loaded first; left out: the card's",
     .example = "\"init.lua\"", .synonyms = {"main", "path", "script", "root"}, .bound = at<&EntryPoint::file>()},
    {.key = "start", .type = Type::name, .help = "member called after loading", .example = "\"start\"",
     .synonyms = {"init", "begin", "on_load", "startup", "setup"}, .bound = at<&EntryPoint::start>()},
    {.key = "stop", .type = Type::name, .help = "member called before the host ends", .example = "\"stop\"",
     .synonyms = {"end", "exit", "on_unload", "shutdown", "teardown"}, .bound = at<&EntryPoint::stop>()},
    {.key = "phase", .type = Type::name, .help = "slot of the host's start-up, one of the card's",
     .example = "\"main\"", .synonyms = {"slot", "priority", "order"}, .bound = at<&EntryPoint::phase>()},
    {.key = "after", .type = Type::names, .preset = "[]",
     .help = "modules to come after, if they are loaded anyway", .example = "[\"sky_clock\"]",
     .synonyms = {"load_after", "behind"}, .bound = at<&EntryPoint::after>()},
};

const Fields when_table = {
    {.key = "platform", .type = Type::names,
     .help = "platforms, one of which must be the present one; `!` before a name means not",
     .example = "[\"linux\", \"macos\"]", .synonyms = {"platforms", "os", "system"},
     .bound = at<&Condition::platforms>()},
    {.key = "target", .type = Type::names,
     .help = "targets, one of which must be the present one; `!` before a name means not",
     .example = "[\"viewer\"]", .synonyms = {"targets", "product"}, .bound = at<&Condition::targets>()},
};

const Fields dependency_table = {
    {.key = "module", .type = Type::name, .required = true, .help = "the module needed",
     .example = "\"sidereal\"", .synonyms = {"name", "id"}, .bound = at<&Dependency::module>()},
    {.key = "versions", .type = Type::requirement, .preset = "\"any\"", .help = "the versions that will do",
     .example = "\">=1.1, <2\"", .synonyms = {"version", "range", "requirement"},
     .bound = at<&Dependency::versions, &Dependency::versions_span>()},
    {.key = "visibility", .type = Type::word, .values = {"private", "public"}, .preset = "\"private\"",
     .help = "public: whoever depends on this module sees the dependency too", .example = "\"public\"",
     .synonyms = {"scope", "access", "public", "private"}, .bound = at<&Dependency::is_public>()},
    {.key = "stage", .type = Type::word, .values = {"load", "build", "test"}, .preset = "\"load\"",
     .help = "when it is needed", .example = "\"test\"", .synonyms = {"phase", "scope_stage", "kind"},
     .bound = at<&Dependency::stage>()},
    {.key = "optional", .type = Type::boolean, .preset = "false", .help = "true: the module works without it",
     .example = "true", .synonyms = {"required", "soft"}, .bound = at<&Dependency::optional>()},
    {.key = "origin", .type = Type::word, .values = {"system"},
     .help = "system: the host or the operating system brings it along", .example = "\"system\"",
     .synonyms = {"source", "from"}, .bound = at<&Dependency::system>()},
    {.key = "uses", .type = Type::word, .values = {"headers", "link"}, .preset = "\"headers\"",
     .help = "link: nothing of it is included; it is only linked, loaded at run time or read as data",
     .example = "\"link\"", .synonyms = {"use", "needs_headers", "link_only"}, .bound = at<&Dependency::link_only>()},
    {.key = "reason", .type = Type::line, .help = "why it is needed",
     .example = "\"star positions need local sidereal time\"", .synonyms = {"why", "comment", "because", "summary"},
     .bound = at<&Dependency::reason>()},
    {.key = "when", .type = Type::table, .help = "needed only where this holds",
     .example = "{ platform = [\"!windows\"] }", .synonyms = {"if", "condition", "only"},
     .bound = within<&Dependency::when>(), .fields = &when_table},
};

const Fields exports_table = {
    {.key = "mode", .type = Type::word, .values = {"listed", "all"}, .preset = "\"listed\"",
     .help = "listed: the [[member]] tables; all: whatever the code makes visible", .example = "\"listed\"",
     .synonyms = {"kind", "type"}, .bound = at<&Manifest::exports_all>()},
    {.key = "written", .type = Type::boolean, .preset = "false",
     .help = "true: `emit` writes the host's own list of what is exported into a block of the entry file, where the host has one",
     .example = "true", .synonyms = {"generate", "emit"}, .bound = at<&Manifest::exports_written>()},
};

const Fields member_parameter_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "name of the parameter",
     .example = "\"magnitude\"", .synonyms = {"id"}, .bound = at<&Parameter::name>()},
    {.key = "type", .type = Type::line, .help = "its type, in the host's words", .example = "\"number\"",
     .synonyms = {"kind"}, .bound = at<&Parameter::type>()},
    {.key = "required", .type = Type::boolean, .preset = "true", .help = "false: it may be left out",
     .example = "false", .synonyms = {"optional", "mandatory"},
     .bound = at<&Parameter::required, &Parameter::required_span>()},
    {.key = "default", .type = Type::any, .help = "what holds when it is left out", .example = "\"J2000\"",
     .synonyms = {"preset", "value"}, .bound = at<&Parameter::preset>()},
    {.key = "summary", .type = Type::text, .help = "what it means, with its unit",
     .example = "\"faintest magnitude shown\"", .synonyms = {"description", "help", "doc"},
     .bound = at<&Parameter::summary>()},
};

const Fields member_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "the name in the code", .example = "\"place\"",
     .synonyms = {"id"}, .bound = at<&Member::name>()},
    {.key = "kind", .type = Type::word, .values = {"function", "command", "variable", "constant", "class", "type", "macro"},
     .preset = "\"function\"", .help = "what it is", .example = "\"function\"", .synonyms = {"type"},
     .bound = at<&Member::kind>()},
    {.key = "summary", .type = Type::text, .help = "one sentence: what it does",
     .example = "\"Places the stars brighter than a magnitude.\"", .synonyms = {"description", "help", "doc"},
     .bound = at<&Member::summary>()},
    {.key = "parameters", .type = Type::tables, .help = "what it is called with, in order",
     .example = "[{ name = \"magnitude\", type = \"number\" }]", .synonyms = {"arguments", "args", "params"},
     .bound = within<&Member::parameters>(), .fields = &member_parameter_table},
    {.key = "returns", .type = Type::text, .help = "what it gives back", .example = "\"number of stars placed\"",
     .synonyms = {"return", "result"}, .bound = at<&Member::returns>()},
    {.key = "since", .type = Type::version, .help = "version of the module that brought it",
     .example = "\"1.0.0\"", .synonyms = {"added", "version"}, .bound = at<&Member::since>()},
    {.key = "dynamic", .type = Type::boolean, .preset = "false",
     .help = "true: the code makes it while it runs, so it stands in no source", .example = "true",
     .bound = at<&Member::dynamic>()},
};

const Fields asset_table = {
    {.key = "folder", .type = Type::inner_path, .required = true, .help = "where they lie",
     .example = "\"images\"", .synonyms = {"path", "directory", "dir"}, .bound = at<&Asset::folder>()},
    {.key = "extension", .type = Type::line, .help = "how their names end; left out: every file",
     .example = "\".sprite.toml\"", .synonyms = {"suffix", "ext", "pattern", "type"},
     .bound = at<&Asset::extension>()},
    {.key = "recursive", .type = Type::boolean, .preset = "false", .help = "true: folders within count too",
     .example = "true", .synonyms = {"deep", "subfolders"}, .bound = at<&Asset::recursive>()},
    {.key = "ignore", .type = Type::texts, .preset = "[]",
     .help = "names or paths below it that do not count; `*` is any text, `?` one letter",
     .example = "[\"*.draft.*\", \"old/*\"]", .synonyms = {"exclude", "except", "skip"},
     .bound = at<&Asset::ignore>()},
    {.key = "summary", .type = Type::line, .help = "what they are", .example = "\"sprites of the caption bar\"",
     .synonyms = {"description", "purpose"}, .bound = at<&Asset::summary>()},
};

const Fields native_part_table = {
    {.key = "when", .type = Type::table, .required = true, .help = "the condition",
     .example = "{ platform = [\"windows\"] }", .synonyms = {"if", "on"}, .bound = within<&NativePart::when>(),
     .fields = &when_table},
    {.key = "sources", .type = Type::inner_paths, .preset = "[]", .help = "files compiled only then",
     .example = "[\"src/clock_windows.cpp\"]", .synonyms = {"source", "src", "files"},
     .bound = at<&NativePart::sources>()},
    {.key = "defines", .type = Type::texts, .preset = "[]", .help = "macros defined only then, `NAME` or `NAME=VALUE`",
     .example = "[\"HAS_CLOCK\"]", .synonyms = {"define", "macros"}, .bound = at<&NativePart::defines>()},
};

const Fields native_table = {
    {.key = "kind", .type = Type::word, .values = {"static", "shared", "headers", "program", "plugin"},
     .preset = "\"static\"",
     .help = "a static or shared library, one of headers alone, a program, or a library that is loaded at run time",
     .example = "\"shared\"",
     .synonyms = {"type", "library"}, .bound = at<&Native::kind>()},
    {.key = "public_headers", .type = Type::inner_paths, .preset = "[]", .help = "headers that others include; left out: all of the folder include",
     .example = "[\"include/sky_math.hpp\"]", .synonyms = {"headers", "includes", "interface"},
     .bound = at<&Native::public_headers>()},
    {.key = "private_headers", .type = Type::inner_paths, .preset = "[]",
     .help = "headers for the module's own sources; left out: all of the folder src", .example = "[\"src/table.hpp\"]",
     .synonyms = {"internal_headers"}, .bound = at<&Native::private_headers>()},
    {.key = "sources", .type = Type::inner_paths, .preset = "[]",
     .help = "files that are compiled; left out: all of the folder src", .example = "[\"src/sky_math.cpp\"]", .synonyms = {"source", "src", "files"}, .bound = at<&Native::sources>()},
    {.key = "standard", .type = Type::word,
     .values = {"c99", "c11", "c17", "c++11", "c++14", "c++17", "c++20", "c++23"},
     .help = "language and the standard that it is written to", .example = "\"c++20\"",
     .synonyms = {"language", "std", "language_standard"}, .bound = at<&Native::standard>()},
    {.key = "umbrella", .type = Type::inner_path, .help = "header that includes all public ones; Envar writes it",
     .example = "\"include/sky.hpp\"", .synonyms = {"umbrella_header", "main_header"},
     .bound = at<&Native::umbrella>()},
    {.key = "descriptors", .type = Type::names, .preset = "[]",
     .help = "further build systems whose descriptors are written, besides that of the module's host",
     .example = "[\"meson\", \"make\"]", .synonyms = {"build_systems", "also", "emit"},
     .bound = at<&Native::descriptors>()},
    {.key = "part", .type = Type::tables, .help = "sources that are compiled only under a condition",
     .example = "[{ when = { platform = [\"windows\"] }, sources = [\"src/clock_windows.cpp\"] }]",
     .synonyms = {"parts", "variant", "conditional"}, .bound = within<&Native::parts, &NativePart::span>(),
     .fields = &native_part_table},
};

const Fields front_table = {
    {.key = "kind", .type = Type::word, .required = true, .values = {"command", "plugin", "binding"},
     .help = "what the native core is surfaced as", .example = "\"command\"", .synonyms = {"type"},
     .bound = at<&Front::kind>()},
    {.key = "name", .type = Type::name, .help = "what it is called; left out: the module's name",
     .example = "\"ephemeris\"", .synonyms = {"id"}, .bound = at<&Front::name>()},
    {.key = "host", .type = Type::name, .help = "of a plugin or a binding: the host that loads it",
     .example = "\"lua\"", .synonyms = {"for", "engine"}, .bound = at<&Front::host>()},
    {.key = "sources", .type = Type::inner_paths, .preset = "[]", .help = "files compiled for this front alone",
     .example = "[\"src/command.cpp\"]", .synonyms = {"source", "src", "files"}, .bound = at<&Front::sources>()},
    {.key = "summary", .type = Type::line, .help = "one sentence: what it is for",
     .example = "\"Prints where a planet stands.\"", .synonyms = {"description", "help"},
     .bound = at<&Front::summary>()},
};

const Fields tunable_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "what it is called", .example = "\"magnitude\"",
     .synonyms = {"id", "key"}, .bound = at<&Tunable::name>()},
    {.key = "role", .type = Type::word, .values = {"setting", "input", "output"}, .preset = "\"setting\"",
     .help = "setting: it holds for many calls; input: it is given with each; output: a call gives it back",
     .example = "\"input\"", .synonyms = {"direction", "way"}, .bound = at<&Tunable::role>()},
    {.key = "type", .type = Type::word, .values = {"text", "integer", "number", "boolean", "path"},
     .preset = "\"text\"", .help = "what values it takes", .example = "\"number\"", .synonyms = {"kind"},
     .bound = at<&Tunable::type>()},
    {.key = "required", .type = Type::boolean, .preset = "false", .help = "true: it must be given",
     .example = "true", .synonyms = {"optional", "mandatory"}, .bound = at<&Tunable::required>()},
    {.key = "default", .type = Type::any, .help = "what holds when it is not given", .example = "6.5",
     .synonyms = {"preset", "value"}, .bound = at<&Tunable::preset>()},
    {.key = "values", .type = Type::texts, .preset = "[]", .help = "of a text: the only values that it takes",
     .example = "[\"J2000\", \"of date\"]", .synonyms = {"enum", "choices", "allowed", "options"},
     .bound = at<&Tunable::values>()},
    {.key = "least", .type = Type::number, .help = "smallest value", .example = "-1.5",
     .synonyms = {"min", "minimum", "from"}, .bound = at<&Tunable::least>()},
    {.key = "most", .type = Type::number, .help = "largest value", .example = "12",
     .synonyms = {"max", "maximum", "to"}, .bound = at<&Tunable::most>()},
    {.key = "unit", .type = Type::line, .help = "unit of its values", .example = "\"mag\"",
     .synonyms = {"units"}, .bound = at<&Tunable::unit>()},
    {.key = "summary", .type = Type::text, .help = "what it means", .example = "\"faintest magnitude shown\"",
     .synonyms = {"description", "help", "doc"}, .bound = at<&Tunable::summary>()},
};

const Fields provides_table = {
    {.key = "module", .type = Type::name, .required = true,
     .help = "name that dependencies may ask for instead of this module's", .example = "\"sky_clock\"",
     .synonyms = {"name", "id", "capability"}, .bound = at<&Provided::module>()},
    {.key = "version", .type = Type::version, .help = "as which version; left out: the module's own",
     .example = "\"1.2.0\"", .synonyms = {"versions"}, .bound = at<&Provided::version>()},
};

const Fields conflict_table = {
    {.key = "module", .type = Type::name, .required = true, .help = "the module that cannot be loaded beside it",
     .example = "\"old_sky\"", .synonyms = {"name", "id", "with"}, .bound = at<&Conflict::module>()},
    {.key = "versions", .type = Type::requirement, .preset = "\"any\"", .help = "versions that do not go with it",
     .example = "\"<2\"", .synonyms = {"version", "range"},
     .bound = at<&Conflict::versions, &Conflict::versions_span>()},
    {.key = "reason", .type = Type::line, .help = "why", .example = "\"both draw the horizon\"",
     .synonyms = {"why", "comment", "because"}, .bound = at<&Conflict::reason>()},
};

const Fields file_set_table = {
    {.key = "folder", .type = Type::inner_path, .help = "where they lie", .example = "\"tests\"",
     .synonyms = {"path", "directory", "dir"}, .bound = at<&FileSet::folder>()},
    {.key = "files", .type = Type::inner_paths, .preset = "[]", .help = "the files, when they are not all in it",
     .example = "[\"tests/place.lua\"]", .synonyms = {"file", "sources"}, .bound = at<&FileSet::files>()},
};

const Fields release_table = {
    {.key = "leave_out", .type = Type::texts, .preset = "[]",
     .help = "names or paths that are not released; `*` is any text, `?` one letter",
     .example = "[\"*.draft.lua\", \"notes/*\"]", .synonyms = {"exclude", "ignore", "omit"},
     .bound = at<&Release::leave_out>()},
    {.key = "license_file", .type = Type::inner_path, .help = "the licence's text, released with it",
     .example = "\"LICENSE\"", .synonyms = {"licence_file", "license", "licence"},
     .bound = at<&Release::license_file>()},
};

const Fields module_table = {
    {.key = "name", .type = Type::name, .required = true,
     .help = "the name the host finds the module by; also the folder's name", .example = "\"star_field\"",
     .synonyms = {"module", "title"}, .bound = at<&Manifest::name>()},
    {.key = "version", .type = Type::version, .required = true,
     .help = "version of the module: Semantic Versioning 2.0.0, unless the card says otherwise",
     .example = "\"1.2.0\"", .synonyms = {"versions", "release"}, .bound = at<&Manifest::version_text>()},
    {.key = "host", .type = Type::name, .required = true, .help = "the host that loads the module: the name of a card",
     .example = "\"lua\"", .synonyms = {"for", "engine", "interpreter", "shell", "kind", "type"},
     .bound = at<&Manifest::host>()},
    {.key = "summary", .type = Type::text, .preset = "\"\"", .help = "one sentence: what the module does",
     .example = "\"Places the stars on the dome.\"",
     .synonyms = {"description", "about", "desc", "help", "doc"}, .bound = at<&Manifest::summary>()},
    {.key = "license", .type = Type::license, .help = "SPDX licence expression", .example = "\"MIT\"",
     .synonyms = {"licence", "copyright"}, .bound = at<&Manifest::license>()},
    {.key = "authors", .type = Type::texts, .preset = "[]", .help = "who made it, each `Name <address>`",
     .example = "[\"Dome tools team <tools@varnhill.example>\"]",
     .synonyms = {"author", "maintainer", "maintainers", "contact"}, .bound = at<&Manifest::authors>()},
    {.key = "emits", .type = Type::word, .values = {"all", "none"}, .preset = "\"all\"",
     .help = "none: the module came with files of its own, and Envar generates none beside them",
     .example = "\"none\"", .synonyms = {"generates", "generated"}, .bound = at<&Manifest::keeps_own_files>()},
    {.key = "folder", .type = Type::line,
     .help = "where the module's files lie, relative to the manifest; left out: beside it", .example = "\"../../foreign/star_pool\"",
     .synonyms = {"location", "root"}, .bound = at<&Manifest::folder>()},
    {.key = "identity", .type = Type::identity, .help = "UUID that stays when the module is renamed",
     .example = "\"6f1c0c1e-8a54-4f0e-9a53-0b8f6c1b7a10\"", .synonyms = {"id", "uuid", "guid"},
     .bound = at<&Manifest::identity>()},
    {.key = "tags", .type = Type::texts, .preset = "[]", .help = "words to find the module by",
     .example = "[\"sky\"]", .synonyms = {"keywords", "categories", "labels"}, .bound = at<&Manifest::tags>()},
    {.key = "host_versions", .type = Type::requirement, .preset = "\"any\"",
     .help = "versions of the host that the module works with", .example = "\">=5.3\"",
     .synonyms = {"host_version", "requires", "engine_version"}, .bound = at<&Manifest::host_versions>()},
    {.key = "platforms", .type = Type::names, .help = "platforms it runs on; left out: all",
     .example = "[\"linux\", \"macos\"]", .synonyms = {"platform", "os", "systems"},
     .bound = at<&Manifest::platforms>()},
};

const Fields manifest_table = {
    {.key = "module", .type = Type::table, .required = true, .help = "what the module is",
     .example = "{ name = \"star_field\", version = \"1.0.0\", host = \"lua\" }",
     .synonyms = {"package", "project", "plugin"}, .bound = same<Manifest, &Manifest::module_span>(),
     .fields = &module_table},
    {.key = "entry", .type = Type::table, .help = "how the host enters the module",
     .example = "{ file = \"init.lua\" }", .synonyms = {"main", "start", "load"},
     .bound = within<&Manifest::entry>(), .fields = &entry_table},
    {.key = "dependency", .type = Type::tables, .help = "a module that this one needs",
     .example = "[{ module = \"sidereal\", versions = \">=1.1, <2\" }]",
     .synonyms = {"dependencies", "depends", "requires", "needs", "require"},
     .bound = within<&Manifest::dependencies, &Dependency::span>(), .fields = &dependency_table},
    {.key = "exports", .type = Type::table, .help = "what others may use of the module",
     .example = "{ mode = \"listed\" }", .synonyms = {"export", "public"}, .bound = same<Manifest>(),
     .fields = &exports_table},
    {.key = "member", .type = Type::tables, .help = "something that the module exports",
     .example = "[{ name = \"place\", kind = \"function\" }]",
     .synonyms = {"members", "function", "functions", "symbol"},
     .bound = within<&Manifest::members>(), .fields = &member_table},
    {.key = "asset", .type = Type::tables, .help = "a folder of files that are not code",
     .example = "[{ folder = \"images\", extension = \".sprite.toml\" }]",
     .synonyms = {"assets", "data", "resource", "resources"}, .bound = within<&Manifest::assets>(),
     .fields = &asset_table},
    {.key = "native", .type = Type::table, .help = "the compiled core of the module",
     .example = "{ kind = \"shared\", sources = [\"src/sky_math.cpp\"] }",
     .synonyms = {"library", "lib", "build", "compiled"}, .bound = within<&Manifest::native, &Native::span>(),
     .fields = &native_table},
    {.key = "front", .type = Type::tables, .help = "a form in which the native core is surfaced",
     .example = "[{ kind = \"command\" }]", .synonyms = {"fronts", "frontend", "binding", "plugin", "command"},
     .bound = within<&Manifest::fronts, &Front::span>(), .fields = &front_table},
    {.key = "parameter", .type = Type::tables, .help = "a value that users can set, the same in every front",
     .example = "[{ name = \"magnitude\", type = \"number\", default = 6.5 }]",
     .synonyms = {"parameters", "setting", "settings", "option", "options"},
     .bound = within<&Manifest::parameters>(), .fields = &tunable_table},
    {.key = "provides", .type = Type::tables, .help = "another name that the module answers to",
     .example = "[{ module = \"sky_clock\", version = \"1.2.0\" }]", .synonyms = {"provide", "implements", "alias"},
     .bound = within<&Manifest::provides>(), .fields = &provides_table},
    {.key = "conflict", .type = Type::tables, .help = "a module that cannot be loaded beside this one",
     .example = "[{ module = \"old_sky\", versions = \"<2\" }]",
     .synonyms = {"conflicts", "incompatible", "breaks"}, .bound = within<&Manifest::conflicts>(),
     .fields = &conflict_table},
    {.key = "tests", .type = Type::table, .help = "where the module's tests lie",
     .example = "{ folder = \"tests\" }", .synonyms = {"test"}, .bound = within<&Manifest::tests>(),
     .fields = &file_set_table},
    {.key = "examples", .type = Type::table, .help = "where the module's examples lie",
     .example = "{ folder = \"examples\" }", .synonyms = {"example", "demo", "samples"},
     .bound = within<&Manifest::examples>(), .fields = &file_set_table},
    {.key = "release", .type = Type::table, .help = "what an archive of the module holds",
     .example = "{ leave_out = [\"notes/*\"], license_file = \"LICENSE\" }",
     .synonyms = {"package", "dist", "publish", "archive"}, .bound = within<&Manifest::release>(),
     .fields = &release_table},
};
// clang-format on

}  // namespace

const Fields& manifest_fields() { return manifest_table; }
const Field& dependency_list() { return field_of(manifest_table, "dependency"); }
const Field& member_list() { return field_of(manifest_table, "member"); }

}  // namespace envar::model
