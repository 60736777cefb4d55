#include "core/text/codes.hpp"

#include <algorithm>
#include <array>

namespace envar::text {
namespace {

constexpr auto error = Severity::error;
constexpr auto warning = Severity::warning;
constexpr auto hint = Severity::hint;

constexpr std::array table = {
    Code{"EV101", error, "the file cannot be read",
         "The file is there, but the operating system refuses to give its content, or it is a folder. Nothing "
         "is known about what it declares, so whatever depends on it cannot be judged.",
         "  $ chmod u+r lua/star_field/module.envar.toml"},
    Code{"EV102", error, "the file is not valid TOML 1.0",
         "Envar's own files are TOML 1.0. The place shown is where reading could not go on; the slip is there or "
         "shortly before it: a bracket or a quote that was never closed, a key without a value, a table that "
         "stands twice.",
         "  wrong   authors = [\"Dome tools team\"\n  right   authors = [\"Dome tools team\"]"},
    Code{"EV103", error, "the file is not UTF-8",
         "All text files of Envar are UTF-8. The column shown is that of the first byte that cannot be part of "
         "UTF-8 text, often a letter saved in an older encoding.",
         "  $ iconv -f LATIN1 -t UTF-8 old.toml > module.envar.toml"},
    Code{"EV104", error, "the file is larger than the limit",
         "A manifest, a workspace file or a card is written by hand and is small. Above 1 MiB Envar does not read "
         "it at all, so that a file that is no manifest cannot stop the work.",
         "  look at what the file holds; data belongs into assets, not into the manifest"},
    Code{"EV105", error, "the value goes beyond a limit",
         "Manifests are written by hand and stay small. So that no file can make Envar stumble, nesting, lists and "
         "names have limits far above what a person writes; `envar explain limits` prints them.",
         "  at most 16 parts in a dotted key, 64 lists and inline tables within each other"},
    Code{"EV110", error, "the key is unknown",
         "A key that Envar does not know is never passed over in silence: a misspelt key would leave its default "
         "in force without a word. `envar explain` lists the fields that there are.",
         "  wrong   summery = \"Places the stars.\"\n  right   summary = \"Places the stars.\""},
    Code{"EV111", error, "the value has the wrong type",
         "Each field has one type. Text stands in quotes, lists in square brackets, true and false stand bare.",
         "  wrong   version = 1.2\n  right   version = \"1.2.0\""},
    Code{"EV112", error, "a required key is missing",
         "The table lacks a key without which it has no meaning. The finding points at the head of the table.",
         "  wrong   [module]\n          name = \"star_field\"\n  right   [module]\n          name = \"star_field\"\n"
         "          version = \"1.0.0\"\n          host = \"lua\""},
    Code{"EV113", error, "the value is not one of the allowed ones",
         "The field takes one of a few words. The hint lists them.",
         "  wrong   visibility = \"pubic\"\n  right   visibility = \"public\""},
    Code{"EV114", error, "the value does not have the form that the field needs",
         "Versions are Semantic Versioning 2.0.0, requirements follow the grammar that `envar explain requirement` "
         "shows, identities are UUIDs, and paths stay inside their module.",
         "  wrong   versions = \">= 1.1 and < 2\"\n  right   versions = \">=1.1, <2\""},
    Code{"EV115", error, "two values of one table contradict each other",
         "Each value is fine by itself, but together they make no sense: a default for what must always be given, a "
         "default outside its own limits, a member older than the module.",
         "  wrong   { name = \"epoch\", default = \"J2000\" }\n"
         "  right   { name = \"epoch\", default = \"J2000\", required = false }"},
    Code{"EV116", error, "the licence is no SPDX expression",
         "Licences are SPDX expressions: identifiers of the SPDX licence list joined by AND, OR and WITH, with "
         "parentheses. Identifiers of your own begin with LicenseRef-.",
         "  wrong   license = \"Apache 2\"\n  right   license = \"Apache-2.0\""},
    Code{"EV201", error, "the name breaks the host's rule for module names",
         "A host finds a module by its name, so the name must be one that the host can look up on every file "
         "system. The rule is the card's: `envar hosts show CARD` prints it.",
         "  wrong   name = \"Star-Field\"      (host lua)\n  right   name = \"star_field\""},
    Code{"EV202", error, "the module's folder and its name differ",
         "The host looks for the folder, the manifest says the name; when they differ the module is found under "
         "one and not under the other. Rename one of them.",
         "  wrong   lua/starfield/module.envar.toml with name = \"star_field\"\n  right   lua/star_field/…"},
    Code{"EV203", error, "the entry file is not there",
         "The entry file is what the host loads first. Without it the module cannot be loaded at all.",
         "  [entry]\n  file = \"init.lua\"       # must lie in the module's folder"},
    Code{"EV204", error, "a path leaves the module",
         "What a module is made of lies inside its folder, so that it can be copied, released and removed as one. "
         "A path in the manifest may not be absolute nor climb out with `..`, and no link may lead out.",
         "  wrong   file = \"../shared/init.lua\"\n  right   file = \"init.lua\""},
    Code{"EV205", error, "two modules have one name",
         "A dependency names a module, and so does a lock; within one workspace a name therefore belongs to one "
         "module. Both manifests are shown.",
         "  lua/sidereal/module.envar.toml and lua/old/sidereal/module.envar.toml both say name = \"sidereal\""},
    Code{"EV206", error, "the name is a reserved word of the host",
         "The host's language uses this word itself, so code cannot speak of the module by its name.",
         "  wrong   name = \"end\"             (host lua)\n  right   name = \"show_end\""},
    Code{"EV207", error, "no card for this host",
         "The module is for a host that no card describes. Cards come with Envar, from "
         "$XDG_DATA_HOME/envar/hosts, or from the workspace's folder `hosts`.",
         "  $ envar hosts            # lists the cards that there are"},
    Code{"EV208", error, "a folder of the workspace is not there",
         "The workspace file names a folder that does not exist, so its modules are not seen.",
         "  [workspace]\n  folders = [\"lua\", \"shell\"]"},
    Code{"EV209", error, "a file that the manifest names is not there",
         "Headers, sources, tests, examples and the licence file are named relative to the module's folder. One that "
         "is not there shows late otherwise: when something is built or released.",
         "  [native]\n  sources = [\"src/sky_math.cpp\"]     # must lie in the module's folder"},
    Code{"EV210", warning, "an asset table matches no file",
         "The folder is there, but no file in it is an asset by the table's own words, so nothing would be shipped. "
         "The hint says what does lie there, or what `recursive` would bring.",
         "  [[asset]]\n  folder = \"images\"\n  extension = \".sprite.toml\"\n  recursive = true"},
    Code{"EV211", warning, "a file is nearly an asset",
         "Its name ends almost like the extension that is declared: a letter is missing, or its case differs. It "
         "would be left out without a word.",
         "  images/sun.sprite.tml     with extension = \".sprite.toml\""},
    Code{"EV212", warning, "an asset is declared twice",
         "Two asset tables take in the same file. Join them, or give one of them an extension or an `ignore` list.",
         "  folder = \"images\" with recursive = true, and folder = \"images/stars\""},
    Code{"EV213", warning, "the schema comment points nowhere",
         "The first line of a manifest tells editors where its JSON Schema lies, relative to the manifest. When the "
         "path is wrong the editor helps no more, in silence.",
         "  $ envar schema --point      # writes the schemas and mends every such comment"},
    Code{
        "EV214", error, "the entry file lacks what its host needs to see",
        "Some hosts take a file only when it says what it is: a package of the right name, a function of the right name, "
        "a value that is returned. The card's [[load.entry]] knows what.",
        "  (define-module (star-field) …)      # the name must be the module's"},
    Code{
        "EV215", warning, "the host will not take an asset",
        "Hosts take files of certain endings from certain folders, and pass over everything else without a word. The "
        "host's card knows which.",
        "  textures/lamp.png, sounds/bell.ogg      # not texture/lamp.png, nor sounds/bell.wav"},
    Code{"EV301", error, "the dependency names a module that is nowhere",
         "The workspace has no module of this name. Misspelt names are the usual cause; "
         "a module that the host or the operating system brings along is declared with origin = \"system\".",
         "  [[dependency]]\n  module = \"sidereal\"\n  versions = \">=1.1, <2\""},
    Code{"EV302", error, "the module depends on itself",
         "A module is always there for itself; the entry is a slip, often left over from copying a manifest.",
         "  remove the [[dependency]] table, or name the module that was meant"},
    Code{"EV303", error, "the dependency is declared twice",
         "One module is needed by two tables, and their requirements may contradict each other. Join them into "
         "one.",
         "  versions = \">=1.1, <2\"     # both bounds in one requirement"},
    Code{"EV304", error, "no version that is there meets the requirement",
         "The module is known, but none of its versions lies in the range asked for.",
         "  sidereal is 1.1.4 and star_field asks for \">=2\": relax the requirement or raise the module"},
    Code{"EV305", error, "modules need each other in a circle",
         "Every one of these modules must be loaded before the other, so there is no order to load them in. Take "
         "out one of the edges shown: often the part that both need is a module of its own.",
         "  a needs b, b needs c, c needs a"},
    Code{"EV306", warning, "`after` names a module that is nowhere",
         "A soft order is harmless when the other module is absent, but a name that no module has is a slip.",
         "  after = [\"sky_clock\"]"},
    Code{"EV307", error, "the workspace does not declare this platform or target",
         "A condition that can never hold switches a dependency off in silence.",
         "  [workspace]\n  platforms = [\"linux\", \"macos\"]\n\n  [[target]]\n  name = \"viewer\""},
    Code{"EV308", warning, "a private dependency crosses hosts",
         "The module needs one that another host loads. Envar orders the two, but neither host can load the "
         "other's files; say origin = \"system\" or surface the module for this host too.",
         "  a lua module that depends on a bash module"},
    Code{"EV401", warning, "a search folder is not there",
         "The workspace puts a folder on a host's search path that does not exist; the host passes over it.",
         "  [[search]]\n  host = \"lua\"\n  folder = \"lua\""},
    Code{"EV402", error, "the module is on no search entry of its host",
         "The host will not find the module by its name: no entry of the search path leads to it. Add a [[search]] "
         "table for the folder that the module lies in.",
         "  [[search]]\n  host = \"lua\"\n  folder = \"lua\""},
    Code{"EV403", warning, "another file is found first",
         "An earlier entry of the search path has a file of the same name, so the host loads that one and not the "
         "module of this workspace.",
         "  $ envar locate sidereal      # shows every entry with what lies there"},
    Code{"EV404", error, "the search variable cannot hold this folder",
         "The variable separates its entries by a character that this folder's name contains, and the host knows "
         "no way to quote it. Move or rename the folder.",
         "  a folder with `;` in its name cannot stand in Lua's path"},
    Code{"EV405", warning, "another module's file is found first in a view",
         "A view puts the files of modules that lie in folders of versions next to each other. Two of them bring a "
         "file of the same name that says different things: whoever asks for it gets that of one module, even from "
         "the other.",
         "  shells/1.0.0/helper.lua and strings/2.0.0/helper.lua: call one of them strings_helper.lua"},
    Code{"EV501", warning, "a generated file was edited by hand",
         "The file says that Envar makes it, but its digest no longer fits: somebody changed it. It is kept. Bring "
         "the change into the manifest, or let it be rewritten; the old text stays reachable through `envar undo`.",
         "  $ envar emit --overwrite"},
    Code{"EV502", warning, "a generated file is out of date", "The manifest has changed since the file was made.",
         "  $ envar emit"},
    Code{"EV503", warning, "a generated file is missing",
         "Generated files may be deleted at any time; `emit` makes them again.", "  $ envar emit"},
    Code{"EV504", error, "a file that Envar did not make lies where a generated one belongs",
         "It is never overwritten. Move it away, or rename what it clashes with.",
         "  $ mv lua/star_field/about.lua lua/star_field/about_old.lua && envar emit"},
    Code{"EV505", error, "a reference page cannot be made",
         "The workspace wants reference pages for its modules, and this one cannot be written.",
         "  [help]\n  folder = \"help\""},
    Code{"EV506", hint, "a reference page is missing or out of date",
         "Manifest or comments say something else than the page does, or translations are missing in their file. No "
         "module needs pages to work, so this is only a hint.",
         "  $ envar emit"},
    Code{"EV601", warning, "the lock does not fit the manifests any more",
         "lock.envar.toml holds what the last `resolve` chose. A version or a requirement has changed since.",
         "  $ envar resolve"},
    Code{"EV602", error, "a module is loaded in a later phase than one that needs it",
         "Dependencies are loaded first, but the phases say otherwise. Move one of the two.",
         "  [entry]\n  phase = \"early\""},
    Code{"EV603", warning, "the host calls no start or stop member",
         "The manifest names a member to be called, but the host's card says that this host knows no such hooks, so "
         "nothing will ever call it.",
         "  take `start` and `stop` out of [entry], and call the member where it is needed"},
    Code{"EV604", error, "the host will drop the module",
         "The host orders modules by a rule of its own. A wish (`after`, an optional need) counts for it like a need "
         "when the other module is there, so a circle of wishes drops all of its modules; and what lies on no search "
         "entry it does not see.",
         "  $ envar order --as-host      # what is loaded, what is dropped and why"},
    Code{"EV701", error, "a declared member is not in the source",
         "The manifest promises a member that the code does not define, so whoever uses it gets nothing.",
         "  $ envar members star_field     # declared against found"},
    Code{"EV702", warning, "the source exports a member that the manifest does not list",
         "Exports are `listed`, and this one is missing from the list, so no one can rely on it. List it, make it "
         "local, or say mode = \"all\".",
         "  [[member]]\n  name = \"place\"\n  kind = \"function\""},
    Code{"EV703", error, "a member is listed twice", "The same name stands in two [[member]] tables.",
         "  remove one of the two"},
    Code{"EV704", warning, "a member's parameters are not those in the source",
         "Whoever calls the member goes by the manifest: names and order must be those of the code.",
         "  wrong   parameters = [{ name = \"epoch\" }, { name = \"magnitude\" }]\n"
         "  right   `envar members --sync` takes them from the code and keeps what was written about them"},
    Code{
        "EV705", warning, "a parameter is documented that is not there",
        "The comment on a member speaks of a parameter that the member does not take: it was renamed or removed, and "
        "the comment stayed.",
        "  wrong   -- @param limit faintest magnitude\n          function M.place(magnitude)\n"
        "  right   -- @param magnitude faintest magnitude"},
    Code{
        "EV706", hint, "a member has no summary",
        "The workspace publishes reference pages, and this member has nothing to say on them. One sentence is enough, "
        "in a comment above the definition or in the manifest.",
        "  [[member]]\n  name = \"place\"\n  summary = \"Places the stars brighter than a magnitude.\""},
    Code{"EV707", hint, "a parameter is not described",
         "The workspace publishes reference pages, and nobody says what this parameter is.",
         "  parameters = [{ name = \"magnitude\", summary = \"faintest magnitude shown\" }]"},
    Code{"EV708", warning, "an example names a member that is not there",
         "The documentation shows a call of something that the module does not export.",
         "  wrong   --   star_field.plaec(6)\n  right   --   star_field.place(6)"},
    Code{
        "EV709", hint, "a name could be better",
        "The card or the workspace advises what names look like: a prefix that a module's members share, a first word "
        "from a list, a form. Nothing breaks when it is not followed.",
        "  [[advice]]\n  host = \"bash\"\n  kinds = [\"command\"]\n  first = \"verbs\""},
    Code{"EV710", error, "a version promises more than it keeps",
         "The contract was recorded, and has changed since in a way that the version does not say: what breaks "
         "dependants needs a new major version (a new minor one while major is 0), what is new a new minor one.",
         "  $ envar compare star_field      # what changed since the record, and which version follows\n"
         "  $ envar compare --record        # the contract as it is now is what later states are compared with"},
    Code{"EV801", error, "a pattern of the card is refused",
         "Patterns are RE2, which works in linear time and therefore has no back-references and no look-around.",
         "  wrong   module = \"^(?!lua_)[a-z]+$\"\n  right   module = \"^[a-z]+$\""},
    Code{"EV802", error, "a pattern of the card does not match its own example",
         "The example beside a pattern shows what it is for; one that does not match proves one of them wrong.",
         "  module = \"^[a-z_]+$\"\n  example = \"star_field\""},
    Code{"EV803", error, "a template of the card cannot be used",
         "The template file is missing, lies outside the card's folder, or is not valid Mustache.",
         "  template = \"templates/init.lua.mustache\""},
    Code{"EV804", error, "two files of a blueprint have one place",
         "Both would be written to the same path, so one of them would be lost.",
         "  give each [[file]] its own `path`"},
    Code{
        "EV805", error, "a template or path of the card names a value that there is not",
        "Templates of modules know name, module, path, folder_name, name_snake, name_kebab, name_camel, name_pascal, "
        "name_upper, version, host, summary, license, authors (author), entry, start, stop, workspace, to_module, "
        "to_search, to_workspace, dependencies (module, path, versions, any, optional, public, ranges (least, limit)), "
        "members and member (name, kind, summary, returns, has_parameters, parameters (name, type, summary, required, "
        "optional, first_optional, default, default_literal)) with first and last in every list, and the blueprint's settings; within "
        "`string`, `comment`, `doc` and `prose` text is made safe for its place.",
        "  wrong   -- {{{sumary}}}\n  right   {{#comment}}{{{summary}}}{{/comment}}"},
    Code{
        "EV806", error, "a blueprint of the card cannot be made",
        "Every blueprint is made once with a sample module and its default settings. It must write the entry file that "
        "[layout] names, and its files must name blueprints that there are.",
        "  [[file]]\n  path = \"{{name}}.lua\"          # the same as `entry` in [layout]\n  blueprints = [\"minimal\"]"},
    Code{
        "EV807", error, "the card lacks something that it needs to be of use",
        "A host whose modules are looked up needs candidates or an index; a trial needs programs; a test runner needs "
        "arguments.",
        "  [search]\n  candidates = [\"{{path}}.lua\"]"},
    Code{
        "EV808", error, "the card builds on one that is not there",
        "`base` names a card of kind `base`, from the same folders. Without it the card lacks most of what it needs.",
        "  [host]\n  base = \"cxx\""},
    Code{
        "EV901", error, "code uses a module on which no dependency is declared",
        "It builds or loads by luck: as long as something else brings the module along, in a fitting version. A hint "
        "where an #if stands around it, or where the module comes through a public dependency of another one.",
        "  [[dependency]]\n  module = \"sky_math\"\n  versions = \">=1, <2\""},
    Code{
        "EV902", error, "a public header includes a private dependency",
        "Whoever includes the header needs the dependency too, and is not given it: the module builds, and its first "
        "user outside the workspace does not.",
        "  [[dependency]]\n  module = \"sky_math\"\n  visibility = \"public\""},
    Code{"EV903", hint, "a public dependency could be private",
         "No public header includes anything of it, so dependants need not see it.",
         "  [[dependency]]\n  module = \"sky_math\"                # private"},
    Code{"EV904", warning, "nothing of a dependency is included",
         "It may be left over. What is only linked, loaded at run time or read as data says so.",
         "  [[dependency]]\n  module = \"sky_tables\"\n  uses = \"link\""},
    Code{"EV905", warning, "a header that is included is nowhere",
         "It lies neither in the module, nor in a module of the workspace, nor where the compiler looks by itself.",
         "  #include \"sky_math/place.hpp\""},
    Code{"EV906", error, "a private header of another module is included",
         "It may change or go at any time, and is not installed.",
         "  #include \"sky_math/place.hpp\"    # from its folder include"},
    Code{"EV907", warning, "a file is in no list",
         "It lies among the module's code, but what builds the module does not name it.", "  envar emit"},
    Code{"EV908", error, "a listed file is not there", "The descriptor names it, so the build fails.",
         "  envar emit"},
    Code{"EV909", error, "two modules claim one thing",
         "Library files, programs, tests, header paths, include guards, macros and namespaces have one owner in a "
         "workspace. Build systems are silent about most of them: one file overwrites the other, or one header hides "
         "the other.",
         "  #ifndef EPHEMERIS_PLACE_HPP"},
    Code{"EV910", warning, "a module speaks of another one",
         "A macro, a guard, a folder or a descriptor bears the name of a module on which this one does not depend. "
         "That is what a copy looks like that was not renamed everywhere.",
         "  #define EPHEMERIS_API"},
    Code{"EV911", error, "two modules have one identity",
         "The identity stays with a module when it is renamed, and a copy is a module of its own.",
         "  identity = \"6f1c0c1e-8a54-4f0e-9a53-0b8f6c1b7a10\""},
    Code{"EV912", warning, "a `.pc` file says something that cannot be understood",
         "A line that is neither a variable nor a field, a comparator that there is not, a requirement without its "
         "version, a variable that is not set before it is used.",
         "  Requires: zlib >= 1.2, libpng"},
    Code{"EV913", hint, "a `.pc` file tells no version",
         "Without a line `Version:` it counts as 0.0.0, so most requirements on it cannot be met.",
         "  Version: 1.2.0"},
    Code{"EV914", warning, "a line of a catalogue cannot be read",
         "A catalogue is JSON Lines: each line is an object with `module` and `version`.",
         "  {\"module\": \"sky_math\", \"version\": \"1.2.0\"}"},
    Code{
        "EV915", warning, "what the operating system must bring is not here",
        "The dependency says `origin = \"system\"`, and no `.pc` file tells of it, or of a version that will do. `.pc` "
        "files are looked for in PKG_CONFIG_PATH, then in PKG_CONFIG_LIBDIR or where the system keeps them.",
        "  [[dependency]]\n  module = \"zlib\"\n  versions = \">=1.2\"\n  origin = \"system\""},
    Code{
        "EV916", error, "a build system cannot list a file of this name",
        "To make, a blank ends a name and `$` begins a variable; to CMake, `;` stands between the elements of a list. "
        "The file would be taken for several, or for another one.",
        "  src/place_stars.cpp      instead of src/place stars.cpp"},
    Code{
        "EV917", warning, "a key of a catalogue line is unknown",
        "What a line says beyond what Envar knows is passed over, and the rest of the line is used. A misspelt key would "
        "leave its default in force, so it is told.",
        "  wrong   {\"module\": \"sky_math\", \"version\": \"1.2.0\", \"dependancies\": []}"},
    Code{
        "EV918", warning, "a version stands twice in one catalogue",
        "Two lines speak of the same version of the same module. One of them counts, whatever the order of the lines; "
        "when they say different things, nobody can tell which was meant.",
        "  {\"module\": \"sky_math\", \"version\": \"1.2.0\"}\n  {\"module\": \"sky_math\", \"version\": \"1.2.0\"}"},
    Code{"EV919", hint, "it was left open whether newer versions, or optional modules, would fit",
         "A choice that fits was found, but proving for each module that no newer version fits can take very long. "
         "The search for them ends after a while, always at the same point, and these modules keep the version that "
         "they had in the best choice known. Likewise an optional module is left out when it takes very long to find "
         "out whether it fits.",
         "  $ envar resolve --steps 1000000"},
};

}  // namespace

std::span<const Code> codes() { return table; }

const Code* find_code(std::string_view code) {
    const auto row = std::find_if(table.begin(), table.end(), [&](const Code& c) { return c.code == code; });
    return row == table.end() ? nullptr : &*row;
}

Severity code_severity(std::string_view code) {
    const Code* row = find_code(code);
    return row != nullptr ? row->severity : Severity::error;
}

}  // namespace envar::text
