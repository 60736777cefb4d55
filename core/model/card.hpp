// A card, `NAME.host.toml`: everything Envar knows of one host, as data.
//
// Texts marked "Mustache" are rendered with the values of the module at hand; the templates of files lie
// beside the card. Nothing else in Envar knows one host from another.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/model/document.hpp"
#include "core/model/fields.hpp"
#include "core/model/manifest.hpp"

namespace envar::model {

inline constexpr std::string_view card_suffix = ".host.toml";

/// An environment variable that holds a search path.
struct SearchVariable {
    std::string name;
    std::string separator = ":";
    bool templates = false;     // entries are patterns with `mark` for the name, not folders
    std::string mark = "?";     // stands for the name in a template entry
    std::string cannot_hold;    // characters that no entry can contain
    std::string when_unset;     // what to put behind new entries when the variable is not set
    std::string defaults_mark;  // an entry that the host replaces by its defaults, such as an empty one
    std::string instead_of;     // a further variable that counts only while this one is not set
};

struct CardFile {
    std::string path;  // Mustache; relative to the module's folder, or to the search folder
    std::string template_file;
    bool generated = false;
    bool per_search = false;              // once in the first search folder of the host, not once a module
    std::string purpose;                  // shown to the user
    std::vector<std::string> blueprints;  // authored files only; empty: all
};

struct Blueprint {
    std::string name;
    std::string summary;
};

/// How exported members are recognised: a pattern over one line of code at nesting depth 0.
struct MemberPattern {
    std::string pattern;  // RE2 with the groups `name` and, if there are any, `parameters`
    std::string kind = "function";
    std::string example;
};

struct Card {
    std::filesystem::path folder;  // where its templates lie
    std::string origin;            // "shipped", "user" or "workspace"
    text::Source source;
    Word name;
    std::string kind;
    std::string summary;
    versions::Scheme scheme = versions::Scheme::semantic;  // of its modules' versions
    std::vector<std::string> programs;                     // the first one found is used
    std::vector<std::string> version_arguments;
    Word version_pattern;
    std::string package;  // Debian package that brings the host

    Word module_pattern;
    std::string module_example;
    std::string member_pattern;
    std::string form;
    std::vector<std::string> reserved;

    std::string entry_file;  // Mustache
    std::string extension;
    std::string usual_member;  // Mustache with `name`: the member of a new module for which none is given

    std::vector<SearchVariable> variables;
    std::string name_separator;           // between parts of a name, replaced by '/'
    std::vector<std::string> candidates;  // Mustache with `path`; in the host's order
    bool folder_counts = false;           // a folder where a file is expected is taken, and loading fails
    std::vector<std::string> defaults;    // entries in the form of the variable's own

    std::vector<std::string> phases;
    bool hooks = false;

    std::string comment;                    // starts a comment that ends with the line
    std::string doc_comment;                // starts documentation
    std::vector<std::string> string_marks;  // what opens and what closes a string; empty: none
    Pairs escapes;                          // within a string, first match wins
    Pairs long_comments;                    // open, close
    Pairs long_strings;                     // open, close
    Pairs nesting;                          // patterns of words that open and close a block
    std::vector<MemberPattern> members;
    std::string table_pattern;     // RE2, group 1: the name of the table that members are put into
    std::string internal_pattern;  // members of such names are nobody else's business
    std::string import_pattern;    // RE2 with the group `name`

    std::vector<CardFile> files;
    std::vector<Blueprint> blueprints;

    std::vector<std::string> trial_arguments;  // Mustache with `probe`
    std::string trial_probe;                   // template file
    std::int64_t trial_seconds = 10;

    std::string session_template;  // of a shell: how search variables are set
    std::string notice;            // how a running host takes up a change
};

[[nodiscard]] const Fields& card_fields();

/// What the cards say of their hosts' versions; they must outlive it.
[[nodiscard]] SchemeOf schemes_of(const std::vector<Card>& cards);

/// Reads a card. `folder` is where its templates lie.
[[nodiscard]] Card read_card(const Document& document, std::filesystem::path folder, std::string origin,
                             std::vector<text::Finding>& findings);

}  // namespace envar::model
