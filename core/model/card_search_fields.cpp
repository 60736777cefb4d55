// The part of the field table of cards that says how a host looks modules up. Rows are left as they are.
#include "core/model/binding.hpp"
#include "core/model/card.hpp"
#include "core/model/card_tables.hpp"

namespace envar::model {

// clang-format off
namespace {

const Fields search_variable_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "its name", .example = "\"LUA_PATH_5_4\"",
     .bound = at<&SearchVariable::name>()},
    {.key = "separator", .type = Type::line, .preset = "\":\"", .help = "stands between its entries",
     .example = "\";\"", .bound = at<&SearchVariable::separator>()},
    {.key = "form", .type = Type::word, .values = {"folders", "templates", "list"}, .preset = "\"folders\"",
     .help = "what an entry is: a folder, a pattern, or an element of a list with backslashes before what is special",
     .example = "\"templates\"", .bound = at<&SearchVariable::form>()},
    {.key = "mark", .type = Type::line, .preset = "\"?\"", .help = "stands for the name in a template",
     .example = "\"?\"", .bound = at<&SearchVariable::mark>()},
    {.key = "cannot_hold", .type = Type::line, .preset = "\"\"", .help = "characters that an entry cannot contain",
     .example = "\";?\"", .bound = at<&SearchVariable::cannot_hold>()},
    {.key = "when_unset", .type = Type::line, .preset = "\"\"",
     .help = "what stands behind new entries while the variable is not set", .example = "\";;\"",
     .bound = at<&SearchVariable::when_unset>()},
    {.key = "defaults_mark", .type = Type::line, .preset = "\"\"",
     .help = "text within the value that the host replaces by its defaults, once", .example = "\";;\"",
     .bound = at<&SearchVariable::defaults_mark>()},
    {.key = "instead_of", .type = Type::line, .preset = "\"\"",
     .help = "variable that counts only while this one is not set", .example = "\"LUA_PATH\"",
     .bound = at<&SearchVariable::instead_of>()},
    {.key = "defaults", .type = Type::word, .values = {"behind", "mark", "none"}, .preset = "\"behind\"",
     .help = "where the host's own entries come when the variable is set: behind, only at `defaults_mark`, or nowhere",
     .example = "\"mark\"", .bound = at<&SearchVariable::defaults>()},
    {.key = "empty_entry", .type = Type::word, .values = {"dropped", "here"}, .preset = "\"dropped\"",
     .help = "what an entry without text stands for: nothing, or the present folder", .example = "\"here\"",
     .bound = at<&SearchVariable::empty_is_here>()},
    {.key = "empty_value", .type = Type::word, .values = {"set", "unset"}, .preset = "\"set\"",
     .help = "unset: an empty value counts as if the variable were not there", .example = "\"unset\"",
     .bound = at<&SearchVariable::empty_is_unset>()},
    {.key = "below", .type = Type::inner_path,
     .help = "modules lie deeper: in the folders that this leads to, with `*` for any name", .example = "\"*/mods\"",
     .bound = at<&SearchVariable::below>()},
    {.key = "names", .type = Type::word, .values = {"any", "utf8"}, .preset = "\"any\"",
     .help = "utf8: a folder whose name is not well-formed UTF-8 cannot be held", .example = "\"utf8\"",
     .bound = at<&SearchVariable::utf8_only>()},
    {.key = "reach", .type = Type::word, .values = {"environment", "shell"}, .preset = "\"environment\"",
     .help = "shell: only the shell's own session sets it, as handing it over does harm", .example = "\"shell\"",
     .bound = at<&SearchVariable::own_shell_only>()},
};

const Fields search_index_table = {
    {.key = "files", .type = Type::texts, .required = true,
     .help = "where the lists lie in an entry's folder; `*` stands for any folder", .example = "[\"*/index.txt\"]",
     .bound = at<&SearchIndex::files>()},
    {.key = "pattern", .type = Type::pattern, .required = true,
     .help = "a line of a list, with the groups `name`, `version` and `file`",
     .example = "'^(?P<name>\\w+) (?P<version>\\S+) (?P<file>\\S+)'", .bound = at<&SearchIndex::pattern>()},
    {.key = "extends", .type = Type::pattern, .help = "a line by which the list's own folder becomes an entry too",
     .example = "'^also here$'", .bound = at<&SearchIndex::extends>()},
};

const Fields search_walk_table = {
    {.key = "entry", .type = Type::inner_path, .required = true, .help = "the file by which a module is loaded",
     .example = "\"init.lua\"", .bound = at<&SearchWalk::entry>()},
    {.key = "groups", .type = Type::inner_paths, .preset = "[]",
     .help = "a folder with one of these files is no module, but is gone into", .example = "[\"pack.conf\"]",
     .bound = at<&SearchWalk::groups>()},
    {.key = "file", .type = Type::inner_path, .help = "tells a module's name; left out: the folder's name is it",
     .example = "\"module.conf\"", .bound = at<&SearchWalk::file>()},
    {.key = "name", .type = Type::pattern, .help = "the name in that file, as group 1; the last match counts",
     .example = "'^name = (\\w+)'", .bound = at<&SearchWalk::name>()},
};

const Fields search_before_table = {
    {.key = "candidates", .type = Type::texts, .required = true,
     .help = "what is tried in a folder for a name, as in [search]", .example = "[\"{{path}}-{{version}}.tm\"]",
     .bound = at<&SearchBefore::candidates>()},
    {.key = "entries", .type = Type::texts, .preset = "[]", .help = "folders that the host has by itself",
     .example = "[\"/usr/lib/tcltk/tcl8/8.6\"]", .bound = at<&SearchBefore::entries>()},
    {.key = "ask", .type = Type::table, .help = "how the host is asked for them",
     .example = "{ arguments = [\"/dev/stdin\"], input = \"puts [tcl::tm::path list]\" }",
     .bound = within<&SearchBefore::ask>(), .fields = &card_ask_table},
    {.key = "variable", .type = Type::name, .help = "variable with further folders joined by `:`; the last comes first",
     .example = "\"TCL8_6_TM_PATH\"", .bound = at<&SearchBefore::variable>()},
};

}  // namespace

const Fields card_ask_table = {
    {.key = "arguments", .type = Type::texts, .required = true,
     .help = "arguments with which the program prints its own entries, one a line",
     .example = "[\"-e\", \"print(package.path)\"]", .bound = at<&SearchAsk::arguments>()},
    {.key = "input", .type = Type::text, .preset = "\"\"", .help = "what it is given on standard input",
     .example = "\"puts $auto_path\"", .bound = at<&SearchAsk::input>()},
};

const Fields card_search_table = {
    {.key = "candidates", .type = Type::texts, .preset = "[]",
     .help = "what is tried in a folder for a name, in the host's order (Mustache with `path`)",
     .example = "[\"{{path}}.lua\", \"{{path}}/init.lua\"]", .bound = at<&Card::candidates>()},
    {.key = "name_separator", .type = Type::line, .help = "between the parts of a name; a `/` in the path",
     .example = "\".\"", .bound = at<&Card::name_separator>()},
    {.key = "folder_in_place", .type = Type::word, .values = {"passed", "ends", "taken"}, .preset = "\"passed\"",
     .help = "what a folder does that lies where a file is expected: it is passed over, it ends the search, or it is taken and loading fails",
     .example = "\"taken\"", .bound = at<&Card::folder_in_place>()},
    {.key = "defaults", .type = Type::texts, .preset = "[]",
     .help = "entries that the host has by itself, in the variable's form",
     .example = "[\"/usr/share/lua/5.4/?.lua\"]", .bound = at<&Card::defaults>()},
    {.key = "variable", .type = Type::tables, .help = "an environment variable with a search path",
     .example = "[{ name = \"LUA_PATH\" }]",
     .bound = within<&Card::variables>(),
     .fields = &search_variable_table},
    {.key = "inside", .type = Type::inner_path,
     .help = "the host looks only right inside its folders: this subfolder of each module is an entry of its own",
     .example = "\"functions\"", .bound = at<&Card::inside>()},
    {.key = "script_folder", .type = Type::word, .values = {"ignored", "first"}, .preset = "\"ignored\"",
     .help = "first: the folder of the script that is run (without one: the present folder) comes before all entries",
     .example = "\"first\"", .bound = at<&Card::script_first>()},
    {.key = "choose", .type = Type::word, .values = {"first", "highest"}, .preset = "\"first\"",
     .help = "which of several is taken: the first, or the highest version and among equals the first",
     .example = "\"highest\"", .bound = at<&Card::highest>()},
    {.key = "compiled", .type = Type::line, .help = "what is taken instead of a file when it is newer (Mustache with `file`)",
     .example = "\"{{file}}.zwc\"", .bound = at<&Card::compiled>()},
    {.key = "index", .type = Type::table, .help = "lists by which the host finds its modules, instead of candidates",
     .example = "{ files = [\"*/index.txt\"], pattern = '^(?P<name>\\w+) (?P<version>\\S+) (?P<file>\\S+)' }",
     .bound = within<&Card::index>(), .fields = &search_index_table},
    {.key = "walk", .type = Type::table,
     .help = "the host goes through its folders by itself: each folder in them is a module or a group of such",
     .example = "{ entry = \"init.lua\" }", .bound = within<&Card::walk>(), .fields = &search_walk_table},
    {.key = "before", .type = Type::table,
     .help = "folders that are gone through before the path; a name that is there is not looked for on the path",
     .example = "{ candidates = [\"{{path}}-{{version}}.tm\"] }", .bound = within<&Card::before>(),
     .fields = &search_before_table},
    {.key = "ask", .type = Type::table, .help = "how the host is asked for the entries that it has by itself",
     .example = "{ arguments = [\"-e\", \"print(package.path)\"] }", .bound = within<&Card::ask>(),
     .fields = &card_ask_table},
};
// clang-format on

}  // namespace envar::model
