// The definitions of one source text: what its statements define, with parameters and documentation.
#pragma once

#include <re2/re2.h>

#include <array>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "core/members/finder.hpp"
#include "core/members/lexer.hpp"
#include "core/members/scan.hpp"
#include "core/text/glob.hpp"
#include "core/text/opening.hpp"

namespace envar::members {

/// Sources of more bytes are not read.
inline constexpr std::size_t largest_source = std::size_t{16} << 20U;

/// A name, and what is written before it.
struct Declared {
    std::string_view type, name;
};

struct Outside;

/// What is on a list of exports as a name by itself, and no expression that makes some.
struct WrittenName {
    std::string name;
    text::Span span;
};

/// What is exported though nothing of the module defines it: its place is that of the name on the list.
[[nodiscard]] FoundMember listed_only(std::string name, std::string kind, text::Span span,
                                      const text::Source& source);

/// Lists of exports, and those with names of their own that such a list may name.
class ExportLists {
  public:
    explicit ExportLists(const model::Card& card);
    /// Adds what stands in the list, a piece of `code`, which is the text without comments and strings. Names may
    /// stand in strings, so they are read from the text itself.
    void add(std::string_view list, std::string_view code, std::string_view text, Outside& outside) const;
    /// Adds what the lists have that are among the exports.
    void follow(std::string_view code, std::string_view text, Outside& outside) const;
    /// Adds the names on the lists that the code may make as it runs: all, where it makes any and some are not
    /// defined.
    void add_made(const std::function<bool(std::string_view)>& is_defined, std::string_view code,
                  std::string_view text, Outside& outside) const;

  private:
    /// What the card takes of a word for a name; empty: it is none.
    [[nodiscard]] std::string name_in(std::string_view word) const;
    [[nodiscard]] bool is_plain(std::string_view list) const;
    void add_written(text::Span list, std::string_view code, std::string_view text, Outside& outside) const;

    std::unique_ptr<re2::RE2> pattern_;         // null: the card tells of none with names
    std::unique_ptr<re2::RE2> word_, made_by_;  // null: what no source defines does not count
    std::string comment_;
    std::set<std::string, std::less<>> quote_words_;  // such as begin a text
    int name_ = 0, word_name_ = 0;                    // groups
    std::vector<int> lists_;
    bool globs_ = false, in_quotes_ = false;
};

struct Patterns::Compiled {
    using Pattern = std::unique_ptr<re2::RE2>;
    struct Member {
        Pattern pattern, owner;
        std::string kind;
        int name = 0, names = 0, declared = 0, parameters = 0, table = 0, alias = 0, from = 0, file = 0, ending = 0,
            behind = 0,
            owner_table = 0;   // groups; 0: none
        bool in_line = false;  // the pattern is for anywhere in a line
        bool only_in_parts = false;
        std::string bare;  // the module's table must have this name; empty: whichever it has
        text::Opening opening;
        Finder each = Finder("", "");  // one of `names`; finds nothing: they are words
        model::MemberRole role = model::MemberRole::member;
    };

    explicit Compiled(const model::Card& card);

    Grammar grammar;
    std::vector<Member> members;
    bool has_other_names = false;           // some of them
    std::array<bool, 256> begins_before{};  // characters that `before` can begin with
    /// By the character that a definition begins with: those of statements by themselves, and of items of blocks.
    std::array<std::array<std::vector<const Member*>, 2>, 256> beginning_with;
    text::Opening doc_opening;  // of a line on a parameter
    struct ParameterGroups {
        int name = 0, type = 0, declared = 0, preset = 0, optional = 0, named = 0, summary = 0;
    };
    ParameterGroups parameter_groups, doc_groups;
    struct Before {
        Pattern pattern;
        text::Opening opening;
    };
    std::set<std::string, std::less<>> own_words;  // of the card's language: these are no names
    std::array<std::uint64_t, 256> own_sizes{};    // which sizes they have, by first character
    [[nodiscard]] bool is_own_word(std::string_view text) const {
        return !text.empty() && text.size() < 64 &&
               (own_sizes.at(static_cast<unsigned char>(text.front())) >> text.size() & 1U) != 0 &&
               own_words.find(text) != own_words.end();
    }
    std::vector<Before> before;  // what may stand before a definition in its statement
    Finder table, exports, condition_begins, condition_ends;
    ExportLists export_lists;
    Pattern internal, parameter, attached, continues, leads, scope, scope_line;
    int scope_name = 0, scope_line_name = 0;  // their groups
    [[nodiscard]] bool has_scopes() const { return scope || scope_line; }
    text::Opening scope_line_opening;
    struct Imports {
        Pattern pattern;
        int name = 0, names = 0;  // groups; 0: none
        Finder each;              // one of `names`
    };
    Imports imports;
    /// As declared_in; words of the language are no names.
    [[nodiscard]] Declared declared(std::string_view text) const;
    /// Whether a statement goes on with the one before it, or leads on to the one behind it.
    [[nodiscard]] bool goes_on(std::string_view statement) const;
    [[nodiscard]] bool leads_on(std::string_view statement) const;
    text::Opening parameter_opening;  // where its pattern is for the text's beginning only
    Pattern doc_parameter;            // null: lines on parameters look as they usually do
};

/// Names that a text takes over from another file.
struct TakenNames {
    std::string from;      // as it is written
    text::Span names;      // of their list
    bool read_in = false;  // `from` is a path: what that file says counts as if it stood here
    bool whole = false;    // no names are told: the file's own exports are the text's, but for what the text defines
};

/// One more name of something that the text does not define.
struct OtherName {
    std::string name, of;
    text::Span span;
};

/// What a text says of names that it may not define itself.
struct Outside {
    bool lists_exports = false;
    std::vector<std::string> exports;                         // as they are listed
    std::vector<text::Span> lists;                            // of these
    std::vector<WrittenName> written;                         // names on them that the code may make as it runs
    std::map<std::string, std::string, std::less<>> renamed;  // as it is defined → as it is exported
    std::vector<TakenNames> taken;
    std::vector<OtherName> other_names;
    std::set<std::string, std::less<>> gone;  // as they are called here; taken away again
};

/// The names of a list of exports; with `globs` some are patterns.
class ListedNames {
  public:
    ListedNames(const std::vector<std::string>& names, bool globs);
    [[nodiscard]] bool has(std::string_view name) const;

  private:
    std::set<std::string, std::less<>> plain_;  // most are
    text::Globs patterns_;
};

/// In the order of the text, without internal ones; with `part`, of a file that is no entry file. `module` is
/// the one that it is of; empty where nobody knows.
[[nodiscard]] std::vector<FoundMember> definitions(const text::Source& source, const model::Card& card,
                                                   const Patterns::Compiled& patterns, bool part,
                                                   std::string_view module, Outside* outside = nullptr);

/// All that the text defines, internal or not and whatever it exports.
[[nodiscard]] std::vector<FoundMember> all_definitions(const text::Source& source, const model::Card& card,
                                                       const Patterns::Compiled& patterns, Outside& outside);

/// A text by itself, whoever loads it: what can be called in it, internal or not, and what else it does.
struct Everything {
    struct Other {
        text::Span span;
        std::vector<std::size_t> begins;  // of the statements in it, its own first
    };
    Lexed lexed;
    std::vector<FoundMember> defined;  // in the order of the text; of several definitions of a name the last one
    std::vector<Other> others;         // statements at the outermost level that define nothing
};
[[nodiscard]] Everything everything_in(const text::Source& source, const model::Card& card,
                                       const Patterns::Compiled& patterns);

}  // namespace envar::members
