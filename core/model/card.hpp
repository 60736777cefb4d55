// A card, `NAME.host.toml`: everything Envar knows of one host, as data.
//
// Texts marked "Mustache" are rendered with the values of the module at hand; the templates of files lie
// beside the card. Nothing else in Envar knows one host from another.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/model/document.hpp"
#include "core/model/fields.hpp"
#include "core/model/manifest.hpp"
#include "core/model/name_advice.hpp"

namespace envar::model {

inline constexpr std::string_view card_suffix = ".host.toml";

/// What an entry of a search variable is: a folder, a pattern with a mark for the name, or a folder that is an
/// element of a list with blanks between, in which a backslash or braces take the special meaning away.
enum class EntryForm { folders, templates, list };

/// Where a host's own entries come when the variable is set: behind what it holds, only where it says so with
/// `defaults_mark`, or nowhere.
enum class DefaultEntries { behind, mark, none };

/// An environment variable that holds a search path.
struct SearchVariable {
    std::string name;
    std::string separator = ":";
    EntryForm form = EntryForm::folders;
    std::string mark = "?";     // stands for the name in a template entry
    std::string cannot_hold;    // characters that no entry can contain
    std::string when_unset;     // what to put behind new entries when the variable is not set
    std::string defaults_mark;  // an entry that the host replaces by its defaults, such as an empty one
    std::string instead_of;     // a further variable that counts only while this one is not set
    DefaultEntries defaults = DefaultEntries::behind;
    bool empty_is_here = false;   // an empty entry stands for the present folder; else it is passed over
    bool empty_is_unset = false;  // an empty value counts as none
    std::string below;       // modules lie deeper: folders in it that such as `*/mods` leads to; empty: right in it
    bool utf8_only = false;  // folders must be UTF-8
    bool own_shell_only = false;  // only the shell itself sets it; handed over by the environment it does harm
};

/// What a folder does that lies where a file is expected: it is passed over, it ends the search, or it is taken and
/// loading fails.
enum class FolderInPlace { passed, ends, taken };

/// How a host that keeps lists of its modules in files finds them.
struct SearchIndex {
    std::vector<std::string> files;  // in an entry's folder; '*' stands for the name of a folder
    std::string pattern;             // RE2 with the groups `name`, `version` and `file`, relative to the list
    std::string extends;             // RE2 of a line by which the list's own folder becomes an entry too; empty: none
};

/// How the real host is asked for the entries that it has by itself: it prints one a line.
struct SearchAsk {
    std::vector<std::string> arguments;
    std::string input;  // given on standard input
};

/// How a host finds modules that goes through the folders of its path by itself: each folder in an entry is a module,
/// or a group that is gone into in its turn.
struct SearchWalk {
    std::string entry;                // the file by which a module is loaded; empty: the host does not walk
    std::vector<std::string> groups;  // a folder with one of these files is a group
    std::string file;                 // tells a module's name; where it does not, the folder's name is the module's
    std::string name;                 // RE2 over it, group 1; the last match counts
};

/// Folders that the host goes through before its search path; when the name is there, the path is not looked at.
struct SearchBefore {
    std::vector<std::string> candidates;  // as those of the search path
    std::vector<std::string> entries;     // that the host has by itself
    SearchAsk ask;
    std::string variable;  // further entries, joined by ':'; the last one comes first
};

/// Whose a file is: written once and then the user's; Envar's for good; or the user's with one block of Envar's.
enum class Ownership { authored, generated, shared };

/// How often a file is written: once a module, once in the host's first search folder, once a member, once a front,
/// once at the root of a workspace that has modules of the host, once in the folder that a new module's own lies in
/// (with `--in`), once a target of the workspace that has modules of the host.
enum class FileScope { module, search, member, front, workspace, place, target };

/// In which order a host loads modules: in the one that is planned and written down for it; or of those whose needs
/// are met always the one that was last to become so, beginning with the last by folder, groups before others.
enum class HostOrder { planned, last_ready_first };

struct CardFile {
    std::string path;  // Mustache; relative to the module's folder, or to the search folder
    std::string template_file;
    Ownership ownership = Ownership::authored;
    FileScope scope = FileScope::module;
    std::string purpose;                  // shown to the user
    std::vector<std::string> blueprints;  // empty: all
    std::string dialect;                  // name of the dialect it is written in; empty: the card's language
    bool test = false;                    // a test, which the manifest lists
    std::string front;                    // of scope `front`: for fronts of this kind

    [[nodiscard]] bool generated() const { return ownership == Ownership::generated; }
    [[nodiscard]] bool per_search() const { return scope == FileScope::search; }
};

/// What a blueprint can be told with `--set`, besides what every module has.
struct BlueprintSetting {
    std::string name;
    std::string preset;  // Mustache
    std::string help;
    std::string pattern;  // RE2 of the whole value; empty: any text
};

struct Blueprint {
    std::string name;
    std::string summary;
    std::string manifest;  // template of what a new manifest holds besides, as TOML
    std::string folder;    // Mustache; where a new module goes within its search folder; empty: the layout's
    std::string variable;  // that its search folder is for; empty: the first
    std::string phase;     // in which the new module is loaded; empty: the usual one
    std::string place;     // the search folder of the first one; empty: the host's usual
    std::string member;    // Mustache; the member of a new module for which none is given; empty: the layout's
    std::string kind = "function";
    std::vector<BlueprintSetting> settings;
};

/// What a host needs to see in an entry file.
struct EntryRule {
    std::string pattern;  // RE2; a group `name`, if there is one, must be the module's name
    std::string message;  // what is wrong without it: "the entry file returns nothing"
    std::string hint;
};

/// What a file of a module tells of it.
struct AdoptFact {
    std::string file;
    std::string pattern;     // RE2, group 1
    std::string gives;       // "name", "version", "summary", "author", "needs", "optional_needs" or "switch"
    std::string off;         // of a switch of the build for tests and the like: what turns it off
    std::string separator;   // between the items of a list; empty: each match is one. White space counts for nothing
    std::string item;        // RE2 of a whole item; what differs is told and passed over
    bool otherwise = false;  // only where no fact of another file gives needs of either kind
    std::vector<std::string> without;  // items that are no modules: what the host itself brings
};

/// What the statements of a build system's files say of the files of a module. Patterns are RE2; of several groups
/// the one that takes part in the match counts.
struct BuildStatements {
    std::vector<std::string> files;  // names of the files that hold them, with '*'
    std::string installs;            // group: headers that are installed, and names of lists of them
    std::string folders;             // group: folders whose headers are
    std::string lists;               // group 1: the name of a list; a further group: what it holds
    std::string spelled;             // over the entry file, group: the name as other modules ask for it
};

/// An entry file that adopt writes for a module whose files the host cannot load by its name.
struct Bridge {
    std::string path;           // Mustache
    std::string template_file;  // speaks of `reads`: the file that it reads in, from the module's folder, or empty
    std::vector<std::string> reads;  // Mustache; where that file may lie; `*`: the only one of a folder that is named
    std::string ends;      // RE2: a statement by which a script that a `*` stands for ends whoever reads it in
    bool renames = false;  // also where the host would find the file, but takes its name for none
};

/// How a module that was made without Envar is recognised, and what its files tell. Patterns are RE2 with one group.
struct AdoptRules {
    std::vector<std::string> entries;      // Mustache: where the entry file may lie; the first that is there counts
    std::vector<std::string> files;        // further files that tell the version
    std::vector<std::string> passed_over;  // names of files beside modules that are none, with '*'
    std::string name;                      // over the entry file; empty: the folder's name is the module's
    std::string version;                   // over the entry file and `files`
    std::string summary;                   // over the entry file
    Pairs kinds;  // of native modules: RE2 over the entry file → kind of library; the first that matches counts
    std::vector<AdoptFact> facts;
    BuildStatements build;
    Bridge bridge;
    Pairs understood;  // file → RE2 of statements that are understood, or of no interest
};

/// Statements of a script that go along with the functions that need them.
struct GatherAlong {
    std::string pattern;  // RE2 at the beginning of a statement; the group `names`: what it sets, `a, b as c`
    bool always = false;  // whatever the functions use
};

/// What may not survive when a function moves out of its script.
struct GatherWarning {
    std::string pattern;                     // RE2 over the code of the function
    std::string unless;                      // RE2; where it matches too, all is well
    std::string message;                     // "reads from standard input"
    std::vector<std::string> programs = {};  // only in scripts that these run; empty: in all
};

/// How functions of loose scripts become a module.
struct GatherRules {
    std::vector<std::string> scripts;   // patterns of the names of scripts; others are told by their first line
    std::vector<std::string> programs;  // that run scripts which the host understands too, besides its own
    std::vector<GatherAlong> along;
    std::vector<std::string> own;  // names that a module sets itself: what sets them in a script stays there
    std::string inside;            // RE2: what a statement stands behind that is part of another one
    Pairs along_rewritten;         // RE2 → what it is replaced by, in such statements
    Pairs head_rewritten;          // the same at the beginning of a function
    std::vector<GatherWarning> warnings;
    std::vector<CardFile> files;   // "blueprints" says of which form: `one_file` or `file_each`
    std::string load;              // Mustache; how a script loads the module
    bool exports_helpers = false;  // what is defined is seen, so that helpers are members too
};

/// Files of one sort that the host takes from a module besides code.
struct AssetKind {
    std::string kind;
    std::string folder;                   // in the module
    std::vector<std::string> extensions;  // that the host takes
    std::vector<std::string> beside;      // names with `*`: what authors keep there for themselves
};

/// What a native core can be surfaced as, and how that is built.
struct CardFront {
    std::string kind;                          // "command", "plugin" or "binding"
    std::string host;                          // of a plugin or a binding: who loads it
    std::string form = "program";              // "program" or "loadable"
    std::string file;                          // Mustache: what the built file is called, without an ending
    std::string ending;                        // of the built file; empty: the platform's
    std::string install;                       // Mustache: where it goes in a prefix
    std::vector<std::string> along;            // Mustache; files of the module that are installed beside it
    std::vector<std::string> packages;         // system packages it is compiled with, as `.pc` files call them
    std::vector<std::string> trial_arguments;  // Mustache with `file`, `folder` and `name`: proves that it loads
    std::vector<std::string> trial_programs;   // what is run with them; empty: the built file itself
};

/// One run of the build system in a trial.
struct TrialStep {
    std::string name;
    std::string program;                 // empty: the host's first
    std::vector<std::string> arguments;  // Mustache with source, build, prefix, consumer, module and jobs
    std::string setting;                 // Mustache: a further argument for each setting; empty: it takes none
    Pairs environment;                   // Mustache
    bool tests = false;                  // only when tests are asked for
    bool consumer = false;               // builds what uses the installed module
};

/// A file that is written for a trial: of the project that uses an installed module, or in the folder where the host
/// is started.
struct TrialFile {
    std::string path;
    std::string template_file;
};

/// A run of the host by itself for modules of one phase.
struct TrialRun {
    std::string phase;
    std::vector<std::string> arguments;  // Mustache, as for the usual run
};

/// A line of what the host says in a trial, and what it means.
struct TrialLine {
    std::string event;    // "loaded", "failed", "trouble" or "end"
    std::string pattern;  // RE2 with the groups `name`, `file`, `version`, `milliseconds` and `message`, as far as
                          // there are any
};

/// Source files besides the entry file that bring members.
struct LanguagePart {
    std::string files;   // relative to the module's folder, with '*'
    bool named = false;  // the file's name is the member's; else its text defines members as an entry file does
};

/// How text looks in one language that a card's templates write.
struct CardDialect {
    std::string name;
    std::string comment;                    // starts a comment
    std::string comment_end;                // ends it; empty: the end of the line does
    std::string doc_comment;                // starts the first line of documentation
    std::vector<std::string> string_marks;  // what opens and what closes a string; empty: none
    Pairs escapes;                          // within a string, first match wins
    Pairs comment_escapes;                  // within a comment
    Pairs prose_escapes;                    // within a block of documentation
};

/// A stretch of text whose marks are none of the code's.
struct LanguageQuote {
    std::string open, close;              // close empty: as open; with `\1` in it, open is RE2 with a group
    std::vector<std::string> words;       // instead of open: words, followed by a mark that closes it too
    std::int64_t parts = 1;               // how many stretches follow such a word, each closed by its mark
    std::string escape;                   // takes the meaning off the next character; empty: nothing does
    Pairs code;                           // what opens and closes code in it
    bool lines = true;                    // it may go on in the next line
    bool value = false;                   // it opens only where a value may begin: behind a mark, or one of `after`
    std::vector<std::string> after = {};  // words
    /// Opening marks of code in other quotes, in which it means nothing.
    std::vector<std::string> plain_in = {};
};

/// What a block hides: every definition in it, none, those where `head` matches what stands before the block, or
/// those where it does not.
enum class BlockHides { all, none, bodies, others };

/// What opens and closes a block: words, or marks.
struct LanguageBlock {
    std::vector<std::string> open, close;
    bool indented = false;           // a line that is indented more than the one before opens it
    bool anywhere = false;           // also where no command begins
    std::vector<std::string> inner;  // opening marks that count in it; empty: all
    bool documents = true;           // documents can be announced in it
    std::string separator;           // stands between what the block has, each of which counts like a statement
    BlockHides hides = BlockHides::all;
    std::string head;         // RE2, from the beginning of the statement to the block
    std::string unless = {};  // RE2, from the mark on: where it matches, the mark opens nothing
};

/// Which definitions a pattern finds: members; such as become members by an alias; what is taken away again; nothing;
/// such as are members where a list of exports names them; names that are taken over from another file; other names
/// of what they name; or another name of the table that members are put into.
enum class MemberRole { member, local, gone, none, listed, taken, other_name, table };

/// How members are recognised: a pattern over the code where a statement begins that no block hides.
struct MemberPattern {
    std::string pattern;  // RE2 with the groups `name` or `declared`, and perhaps `parameters`, `table`, `alias`
    std::string kind = "function";
    std::string example;
    bool only_in_parts = false;  // not in the entry file
    std::string bare = {};       // the table that names without one are in; empty: they are in none
    MemberRole role = MemberRole::member;
    std::string owner = {};  // RE2 over the head of the block that it is an item of; empty: it is no item
    std::string each = {};   // RE2 with a group `name…`, of one of the names in the group `names`; empty: words
};

struct Card {
    std::filesystem::path folder;       // where its templates lie
    std::filesystem::path base_folder;  // where those of the card lie that it builds on; empty: none
    std::string origin;                 // "shipped", "user" or "workspace"
    text::Source source;
    Word name;
    std::string kind;
    Word base;                   // the card it builds on
    bool language_only = false;  // of that only the language: no files, no blueprints, no fronts
    std::string summary;
    versions::Scheme scheme = versions::Scheme::semantic;  // of its modules' versions
    std::vector<std::string> programs;                     // the first one found is used
    std::vector<std::string> version_arguments;
    std::string version_input;  // on standard input
    Word version_pattern;
    std::string package;  // Debian package that brings the host

    Word module_pattern;
    std::string module_example;
    std::string member_pattern;
    std::string form;
    std::vector<std::string> keywords;  // names of nothing
    std::vector<std::string> reserved;  // names of no module
    std::vector<WordList> word_lists;
    std::vector<NameAdvice> name_advice;

    std::string module_folder = "{{folder_name}}";  // Mustache; where a new module goes within its search folder
    std::string entry_file;                         // Mustache
    std::string extension;
    std::string cannot_list;         // characters that no file in a descriptor's lists can have in its name
    std::string install;             // Mustache; where a built module goes in a prefix; empty: where such files go
    std::vector<std::string> along;  // Mustache; what is installed beside it
    std::string usual_member;        // Mustache with `name`: the member of a new module for which none is given

    std::vector<SearchVariable> variables;
    std::string name_separator;           // between parts of a name, replaced by '/'
    std::vector<std::string> candidates;  // Mustache with `path`; in the host's order
    FolderInPlace folder_in_place = FolderInPlace::passed;
    std::vector<std::string> defaults;  // entries in the form of the variable's own
    bool defaults_asked = false;        // the host itself told them
    SearchAsk ask;
    std::string inside;         // each module's own subfolder of this name is an entry; empty: the search folder is
    bool script_first = false;  // the folder of the script that is run, else the present one, comes before all
    bool highest = false;       // the highest version counts, and only among equals the first
    std::string compiled;       // Mustache with `file`: taken instead of the file when it is newer
    SearchIndex index;
    SearchWalk walk;
    SearchBefore before;

    std::vector<std::string> phases;
    std::vector<EntryRule> entry_rules;
    HostOrder host_order = HostOrder::planned;
    bool hooks = false;
    bool by_name = false;  // the member of a module's own name loads it, and is a member only where the manifest says

    CardDialect language;               // the language that modules are written in; its name is empty
    std::vector<CardDialect> dialects;  // further ones, of descriptors
    Pairs long_comments;                // open, close
    Pairs long_strings;                 // open, close
    bool nested_comments = false;       // long comments stand in each other
    std::string form_comment;           // takes away the form behind it; empty: nothing does
    std::string comment_begins;         // what starts a comment, where less than the usual mark does
    std::string comment_where;          // "anywhere", "word" or "command": where one begins; empty: by the mark
    std::vector<LanguageQuote> quotes;  // empty: the usual two
    std::vector<LanguageBlock> blocks;
    std::string heredoc;                     // RE2 at its mark, with the group `word` and maybe `indent`
    std::vector<std::string> raw_lines;      // marks of lines that are taken as they are, up to a comment
    std::vector<std::string> plain;          // RE2: text that looks like marks and is none
    std::vector<std::string> command_after;  // marks and words a command begins after; empty: words count anywhere
    bool raw_blocks = false;                 // in a block neither quotes nor comments hide its marks
    bool docstrings = false;                 // a string that begins a definition's body documents it
    std::string parameter_separator = ",";   // between parameters; a blank: any white space
    std::string parameter_pattern;           // RE2 of one parameter: groups `name`, `type`, `declared`, `default`
    std::string doc_parameter_pattern;       // RE2 of a line of documentation: groups `name`, `type`, `summary`
    std::vector<MemberPattern> members;
    std::string table_pattern;       // RE2, group 1: the name of the table that members are put into
    bool own_table = false;          // that of a module has its name, whichever of its files fills it
    std::string scope_pattern;       // RE2 of the head of a block in a namespace, with the group `name`
    std::string scope_line_pattern;  // RE2 of a statement behind which things are in one, with its whole name
    std::string scope_outermost;     // the one that things are in where none is said
    std::string internal_pattern;    // members of such names are nobody else's business
    std::vector<std::string> before_patterns;  // RE2 of what may stand before a definition in its statement
    std::string condition_begin;    // RE2, group 1 in the line where something begins that counts on a condition only
    std::string condition_end;      // the same where it ends
    std::string attached_pattern;   // RE2 at the beginning of a statement that belongs to the definition below it
    std::string continues_pattern;  // RE2 at the beginning of a statement that goes on with the one before it
    std::string leads_pattern;      // RE2 at the end of a statement that the next one belongs to
    std::string import_pattern;     // RE2 with the group `name` or `names`
    std::string import_each;        // RE2 with a group `name…`, of one of those
    std::vector<std::string> truth = {"true", "false"};  // as the language writes them
    std::string export_pattern;     // RE2 with the group `names`: a list of what is exported; empty: there is none
    std::string export_lists;       // RE2 with the groups `name` and `names`: a list that such a list may name
    std::string export_made_by;     // RE2 of code that makes what no source defines; empty: none does
    std::string export_word;        // RE2 of a name there, which may be its group `name`
    bool export_in_quotes = false;  // they stand in quotes there
    Pairs type_words;               // of types: what they stand for besides; see the field's help
    bool called_by_name = true;     // parameters can be given by their names
    std::vector<std::string> named_after;     // marks there too: what comes behind is given by its name only
    std::vector<std::string> optional_after;  // marks in parameter lists: what comes behind can be left out
    bool export_globs = false;                // its names may be patterns
    std::string qualifier;                    // what stands before a definition's own name ends with it
    std::vector<LanguagePart> parts;

    AdoptRules adopt;
    GatherRules gather;
    std::vector<AssetKind> assets;
    std::vector<CardFile> files;
    std::vector<Blueprint> blueprints;

    std::vector<std::string> trial_arguments;  // Mustache with `probe`, `sandbox` and `port`
    std::string trial_probe;                   // template file; empty: what is loaded is in the files of the trial
    std::string trial_report = "report";       // where the probe reports to, in the folder of the trial
    std::int64_t trial_seconds = 10;
    Pairs trial_environment;             // further variables; Mustache
    std::vector<TrialLine> trial_lines;  // what the host says of its modules by itself
    std::vector<TrialRun> trial_runs;    // further ones, for modules of some phase
    std::string trial_copy_called;       // Mustache; what the host calls that place; empty: by its path
    std::string trial_copy;              // Mustache; where each module is copied to; empty: it stays in its place
    std::vector<std::string> test_arguments;  // Mustache with `file` and `runner`; empty: it runs no tests
    std::string test_runner;                  // template of a file that is run around each test
    std::vector<TrialStep> trial_steps;       // of a build system, for each module
    std::vector<TrialFile> trial_files;
    std::string trial_found;  // RE2 with `version` and `file`: what that project says it found

    std::vector<CardFront> fronts;
    Pairs platforms;  // platform → how a condition on it is written

    SearchAsk system;  // Mustache with `name`: prints the version of a module that the host has; fails without one

    std::string session_template;  // of a shell: how search variables are set
    std::string notice;            // how a running host takes up a new or changed module
    std::string notice_variables;  // how it takes up a changed search variable

    /// No host of its own, but what other cards build on.
    [[nodiscard]] bool is_base() const { return kind == "base"; }
    /// It looks modules up.
    [[nodiscard]] bool looks_up() const { return !candidates.empty() || !index.files.empty() || !walk.entry.empty(); }
    /// Its modules are built, not loaded from their sources.
    [[nodiscard]] bool is_native() const { return kind == "native" || !base.value.empty(); }
    [[nodiscard]] const CardDialect* dialect(std::string_view name) const;  // null: there is none of that name
    [[nodiscard]] const Blueprint* blueprint(std::string_view name) const;
    /// Whether the blueprint writes the file.
    [[nodiscard]] static bool belongs(const CardFile& file, std::string_view blueprint);
};

[[nodiscard]] const Fields& card_fields();

/// What the cards say of their hosts' versions; they must outlive it.
[[nodiscard]] SchemeOf schemes_of(const std::vector<Card>& cards);

/// Reads a card. `folder` is where its templates lie. What the card does not say, `base` says, if there is one; of
/// lists of tables, those of `base` come first.
[[nodiscard]] Card read_card(const Document& document, std::filesystem::path folder, std::string origin,
                             std::vector<text::Finding>& findings, const Card* base = nullptr);

}  // namespace envar::model
