// The field table of a card's [language] and of its further dialects. A row is easier to read than a column, so rows
// are left as they are.
#include "core/model/binding.hpp"
#include "core/model/card.hpp"
#include "core/model/card_tables.hpp"

namespace envar::model {
namespace {

// clang-format off
const Fields language_member_table = {
    {.key = "pattern", .type = Type::pattern, .required = true,
     .help = "over the code where a statement begins, with the groups `name` (or `names`: several, with blanks or commas "
             "between them, with the table where there is one; or `declared`: what comes before the name, and the name), "
             "`parameters`, `table`, `alias` and `behind`: a condition that it stands behind, so that no piece of it can be "
             "taken by itself",
     .example = "'function M\\.(?P<name>\\w+)'", .bound = at<&MemberPattern::pattern>()},
    {.key = "kind", .type = Type::word, .values = {"function", "command", "variable", "constant", "class", "type", "macro"},
     .preset = "\"function\"", .help = "what it defines", .example = "\"function\"",
     .bound = at<&MemberPattern::kind>()},
    {.key = "example", .type = Type::line, .help = "a line that the pattern matches",
     .example = "\"function M.place(stars)\"", .bound = at<&MemberPattern::example>()},
    {.key = "in", .type = Type::word, .values = {"all", "parts"}, .preset = "\"all\"",
     .help = "parts: only in files of [[language.part]], not in the entry file", .example = "\"parts\"",
     .bound = at<&MemberPattern::only_in_parts>()},
    {.key = "bare", .type = Type::text,
     .help = "only where what the module exports is the table of this name: what is written without a table is then in it, "
             "but for names that a pattern with `local` tells",
     .example = "\"_ENV\"", .bound = at<&MemberPattern::bare>()},
    {.key = "role", .type = Type::word, .values = {"member", "local", "gone", "none", "listed", "taken", "other_name", "table"}, .preset = "\"member\"",
     .help = "local: no member, but what a group `alias` of another pattern may name; gone: takes members away again; "
             "none: no definition, whatever patterns below this one say; listed: a member where `export` names it; "
             "taken: `names` are taken over from the module's file that the group `from` names, without `names` all that it "
             "exports; or all of the one whose path the group `file` ends with, or which has the ending of the card's files and the path in the group `ending` behind "
             "something else; other_name: a member where "
             "what the group `alias` names is one, or `export` names it; table: `name` is another name of the table that the "
             "group `table` names",
     .example = "\"local\"", .bound = at<&MemberPattern::role>()},
    {.key = "owner", .type = Type::pattern,
     .help = "it is an item of a block with a separator, and this matches the block's head, with the group `table`",
     .example = "'(?P<table>\\w+)\\s*=\\s*$'", .bound = at<&MemberPattern::owner>()},
    {.key = "each", .type = Type::pattern,
     .help = "what one of `names` looks like, with groups whose names begin with `name`; left out: they are words",
     .example = "'(?P<name>\\w+)\\s*=>'", .bound = at<&MemberPattern::each>()},
};

const Fields language_quote_table = {
    {.key = "open", .type = Type::text, .help = "what opens it; RE2 where `close` has `\\1` in it",
     .example = "'\"'", .bound = at<&LanguageQuote::open>()},
    {.key = "close", .type = Type::text, .help = "what closes it; left out: the same as `open`",
     .example = "'\"'", .bound = at<&LanguageQuote::close>()},
    {.key = "words", .type = Type::texts, .preset = "[]",
     .help = "instead of `open`: words that a mark follows, which closes it too", .example = "[\"qw\", \"qq\"]",
     .bound = at<&LanguageQuote::words>()},
    {.key = "parts", .type = Type::integer, .preset = "1", .help = "how many stretches follow such a word",
     .example = "2", .bound = at<&LanguageQuote::parts>()},
    {.key = "escape", .type = Type::text, .help = "takes the meaning off the next character", .example = "'\\'",
     .bound = at<&LanguageQuote::escape>()},
    {.key = "code", .type = Type::pairs, .preset = "[]", .help = "what opens and closes code in it",
     .example = "[['$(', ')']]", .bound = at<&LanguageQuote::code>()},
    {.key = "lines", .type = Type::boolean, .preset = "true", .help = "false: it ends with its line at the latest",
     .example = "false", .bound = at<&LanguageQuote::lines>()},
    {.key = "value", .type = Type::boolean, .preset = "false",
     .help = "true: it opens only where a value may begin", .example = "true", .bound = at<&LanguageQuote::value>()},
    {.key = "after", .type = Type::texts, .preset = "[]", .help = "words that a value may begin after",
     .example = "[\"if\", \"and\"]", .bound = at<&LanguageQuote::after>()},
    {.key = "plain_in", .type = Type::texts, .preset = "[]",
     .help = "opening marks of `code` in other quotes in which it is text, and opens nothing", .example = "[\"${\"]",
     .bound = at<&LanguageQuote::plain_in>()},
};

const Fields language_block_table = {
    {.key = "open", .type = Type::texts, .preset = "[]", .help = "words or marks that open a block",
     .example = "[\"do\", \"if\"]", .bound = at<&LanguageBlock::open>()},
    {.key = "close", .type = Type::texts, .preset = "[]", .help = "words or marks that close it",
     .example = "[\"end\"]", .bound = at<&LanguageBlock::close>()},
    {.key = "indented", .type = Type::boolean, .preset = "false",
     .help = "true: a block is what is indented more than the line before it", .example = "true",
     .bound = at<&LanguageBlock::indented>()},
    {.key = "anywhere", .type = Type::boolean, .preset = "false",
     .help = "true: its words count also where no command begins", .example = "true",
     .bound = at<&LanguageBlock::anywhere>()},
    {.key = "inner", .type = Type::texts, .preset = "[]", .help = "the opening marks that count in it; left out: all",
     .example = "[\"$(\"]", .bound = at<&LanguageBlock::inner>()},
    {.key = "documents", .type = Type::boolean, .preset = "true",
     .help = "false: neither documents nor comments begin in it", .example = "false", .bound = at<&LanguageBlock::documents>()},
    {.key = "separator", .type = Type::text,
     .help = "stands between what the block has, each of which counts like a statement", .example = "\",\"",
     .bound = at<&LanguageBlock::separator>()},
    {.key = "hides", .type = Type::word, .values = {"all", "none", "bodies", "others"}, .preset = "\"all\"",
     .help = "which definitions in it are hidden: bodies: where `head` matches; others: where it does not",
     .example = "\"none\"", .bound = at<&LanguageBlock::hides>()},
    {.key = "head", .type = Type::pattern, .help = "over the code from the beginning of the statement to the block",
     .example = "'\\)\\s*$'", .bound = at<&LanguageBlock::head>()},
    {.key = "unless", .type = Type::pattern,
     .help = "over the text from the opening word or mark on, as far as 1,024 bytes: where it matches, nothing opens",
     .example = "'^case\\s+\\S+\\s*\\{'", .bound = at<&LanguageBlock::unless>()},
};

const Fields language_part_table = {
    {.key = "files", .type = Type::inner_path, .required = true,
     .help = "which files, relative to the module's folder, with `*`", .example = "\"functions/*.lua\"",
     .bound = at<&LanguagePart::files>()},
    {.key = "members", .type = Type::word, .values = {"defined", "named"}, .preset = "\"defined\"",
     .help = "defined: in the file's text; named: the file's name is the member's", .example = "\"named\"",
     .bound = at<&LanguagePart::named>()},
};

/// A binding to a member of CardDialect: of the dialect itself, or of the one that `Of` is in the card.
template <auto Of, auto Member>
constexpr Binding within_dialect() {
    if constexpr (std::is_null_pointer_v<decltype(Of)>) {
        return at<Member>();
    } else {
        Binding binding;
        binding.set = [](void* owner, const Field& field, const Node& value) {
            at<Member>().set(&(static_cast<Card*>(owner)->*Of), field, value);
        };
        binding.get = [](const void* owner, const Field& field) {
            return at<Member>().get(&(static_cast<const Card*>(owner)->*Of), field);
        };
        return binding;
    }
}

/// What a card's language and its further dialects both have.
template <auto Of>
Fields dialect_rows(Fields rows) {
    const Fields common = {
    {.key = "comment", .type = Type::line, .help = "starts a comment", .example = "\"--\"",
     .bound = within_dialect<Of, &CardDialect::comment>()},
    {.key = "comment_end", .type = Type::line, .help = "ends a comment; left out: the end of the line does",
     .example = "\"-->\"", .bound = within_dialect<Of, &CardDialect::comment_end>()},
    {.key = "doc_comment", .type = Type::line,
     .help = "starts the first line of documentation; left out: the same as comment", .example = "\"---\"",
     .bound = within_dialect<Of, &CardDialect::doc_comment>()},
    {.key = "string", .type = Type::texts, .help = "opens and closes a string in templates",
     .example = "['\"', '\"']", .bound = within_dialect<Of, &CardDialect::string_marks>()},
    {.key = "escapes", .type = Type::pairs, .preset = "[]", .help = "what is replaced within such a string",
     .example = "[['\\', '\\\\'], ['\"', '\\\"']]", .bound = within_dialect<Of, &CardDialect::escapes>()},
    {.key = "comment_escapes", .type = Type::pairs, .preset = "[]", .help = "what is replaced within a comment",
     .example = "[['--', '- -']]", .bound = within_dialect<Of, &CardDialect::comment_escapes>()},
    {.key = "prose_escapes", .type = Type::pairs, .preset = "[]",
     .help = "what is replaced within a block of documentation", .example = "[['<', 'E<lt>']]",
     .bound = within_dialect<Of, &CardDialect::prose_escapes>()},
    };
    rows.insert(rows.end(), common.begin(), common.end());
    return rows;
}

/// Two lists of rows as one table.
Fields joined(Fields first, const Fields& second) {
    first.insert(first.end(), second.begin(), second.end());
    return first;
}

}  // namespace

const Fields card_dialect_table = dialect_rows<nullptr>({
    {.key = "name", .type = Type::name, .required = true, .help = "what files call it", .example = "\"xml\"",
     .bound = at<&CardDialect::name>()},
});

const Fields card_language_table = joined(dialect_rows<&Card::language>({}), {
    {.key = "long_comments", .type = Type::pairs, .preset = "[]",
     .help = "comments over several lines: how they open and close", .example = "[['--[[', ']]']]",
     .bound = at<&Card::long_comments>()},
    {.key = "long_strings", .type = Type::pairs, .preset = "[]",
     .help = "strings over several lines: how they open and close", .example = "[['[[', ']]']]",
     .bound = at<&Card::long_strings>()},
    {.key = "nested_comments", .type = Type::boolean, .preset = "false",
     .help = "true: long comments may stand in each other", .example = "true", .bound = at<&Card::nested_comments>()},
    {.key = "form_comment", .type = Type::line, .help = "takes away the form that follows it", .example = "\"#;\"",
     .bound = at<&Card::form_comment>()},
    {.key = "comment_begins", .type = Type::line,
     .help = "what starts a comment, where less than `comment` does", .example = "\";\"", .bound = at<&Card::comment_begins>()},
    {.key = "comment_where", .type = Type::word, .values = {"anywhere", "word", "spaced", "command"},
     .help = "where a comment may begin: anywhere, at the beginning of a word, of one behind white space, or of a command; left out: of a word, where its mark is one character",
     .example = "\"anywhere\"", .bound = at<&Card::comment_where>()},
    {.key = "quote", .type = Type::tables, .help = "a stretch of text whose marks are none of the code's; left out: the usual two quotation marks",
     .example = "[{ open = '\"', escape = '\\' }]", .bound = within<&Card::quotes>(),
     .fields = &language_quote_table},
    {.key = "block", .type = Type::tables, .help = "what opens and closes a block, and which definitions it hides",
     .example = "[{ open = [\"do\"], close = [\"end\"], hides = \"none\" }]", .bound = within<&Card::blocks>(),
     .fields = &language_block_table},
    {.key = "heredoc", .type = Type::pattern,
     .help = "how a document that begins in the next line is announced, with the group `word` that ends it and `indent`",
     .example = "'<<(?P<indent>-?)(?P<word>\\w+)'", .bound = at<&Card::heredoc>()},
    {.key = "plain", .type = Type::texts, .preset = "[]", .help = "patterns of text that looks like marks and is none",
     .example = "['\\$#']", .bound = at<&Card::plain>()},
    {.key = "raw_lines", .type = Type::texts, .preset = "[]",
     .help = "marks that begin a line in which quotes and blocks mean nothing, only long comments; a backslash at its "
             "end goes on with it", .example = "[\"#\"]", .bound = at<&Card::raw_lines>()},
    {.key = "command_after", .type = Type::texts, .preset = "[]",
     .help = "marks and words behind which a command begins; where it is given, words of blocks count only there",
     .example = "[\";\", \"then\"]", .bound = at<&Card::command_after>()},
    {.key = "raw_blocks", .type = Type::boolean, .preset = "false",
     .help = "true: within a block neither quotes nor comments hide its marks", .example = "true",
     .bound = at<&Card::raw_blocks>()},
    {.key = "docstrings", .type = Type::boolean, .preset = "false",
     .help = "true: a string that begins a definition's body documents it", .example = "true",
     .bound = at<&Card::docstrings>()},
    {.key = "parameter_separator", .type = Type::text, .preset = "\",\"",
     .help = "what stands between parameters; a blank: any white space", .example = "\" \"",
     .bound = at<&Card::parameter_separator>()},
    {.key = "parameter", .type = Type::pattern,
     .help = "one parameter, with the groups `name` and `type` (or `declared`: the type, and the name behind it) and "
             "`default`; `optional` where it takes what is left, `named` where that is given by name; left out: the "
             "whole is the name",
     .example = "'^(?P<name>\\w+)(?:\\s*=\\s*(?P<default>.*))?$'", .bound = at<&Card::parameter_pattern>()},
    {.key = "type_words", .type = Type::pairs, .preset = "[]",
     .help = "words in types, and what is as good as them; an empty one: they tell nothing besides what follows. Where it "
             "is given, types are the same if their words are, whatever stands between",
     .example = "[[\"Union\", \"\"], [\"Optional\", \"None\"]]", .bound = at<&Card::type_words>()},
    {.key = "optional_after", .type = Type::texts, .preset = "[]",
     .help = "marks in a list of parameters behind which they can be left out", .example = "[\"#:optional\"]",
     .bound = at<&Card::optional_after>()},
    {.key = "called_by_name", .type = Type::boolean, .preset = "true",
     .help = "false: what parameters are called is nobody else's business, as they are given by where they stand",
     .example = "false", .bound = at<&Card::called_by_name>()},
    {.key = "named_after", .type = Type::texts, .preset = "[]",
     .help = "marks in a list of parameters behind which they are given by name only, whatever their order",
     .example = "[\"*\"]", .bound = at<&Card::named_after>()},
    {.key = "doc_parameter", .type = Type::pattern,
     .help = "a line of documentation on a parameter, with the groups `name`, `type` and `summary`",
     .example = "'^@param (?P<name>\\w+) (?P<summary>.*)'", .bound = at<&Card::doc_parameter_pattern>()},
    {.key = "table", .type = Type::pattern,
     .help = "the line that tells the table whose fields are the members, as group 1", .example = "'return (\\w+)'",
     .bound = at<&Card::table_pattern>()},
    {.key = "own_table", .type = Type::boolean, .preset = "false",
     .help = "the table whose fields are a module's members is called like the module, and all its files see it; `table` is "
             "for scripts that are no module yet",
     .example = "true", .bound = at<&Card::own_table>()},
    {.key = "scope", .type = Type::pattern,
     .help = "the head of a block whose names are in a namespace, which is the group `name`; of a module's members those "
             "count that are in the namespace of its name, where there are some",
     .example = "'^namespace\\s+eval\\s+(?P<name>\\S+)\\s*$'", .bound = at<&Card::scope_pattern>()},
    {.key = "scope_line", .type = Type::pattern,
     .help = "a statement behind which, up to the next such one or the end of its block, names are in the namespace whose "
             "whole name is the group `name`; what `scope` tells is then a whole name too",
     .example = "'^package\\s+(?P<name>[\\w:]+)\\s*;'", .bound = at<&Card::scope_line_pattern>()},
    {.key = "scope_outermost", .type = Type::line, .help = "the namespace of what is in none that is said",
     .example = "\"main\"", .bound = at<&Card::scope_outermost>()},
    {.key = "internal", .type = Type::pattern, .help = "names of members that are not exported", .example = "'_.*'",
     .bound = at<&Card::internal_pattern>()},
    {.key = "before", .type = Type::texts, .preset = "[]",
     .help = "patterns of what may stand before a definition in its statement, any number of times",
     .example = "['template\\s*<[^<>]*>']", .bound = at<&Card::before_patterns>()},
    {.key = "condition_begin", .type = Type::pattern,
     .help = "a line behind which things count on some condition only, as group 1; what such lines take away is there all the same",
     .example = "'^#(if)'", .bound = at<&Card::condition_begin>()},
    {.key = "condition_end", .type = Type::pattern, .help = "a line that ends the nearest such one, as group 1",
     .example = "'^#(endif)'", .bound = at<&Card::condition_end>()},
    {.key = "attached", .type = Type::pattern,
     .help = "a statement that belongs to the definition below it", .example = "'^@'",
     .bound = at<&Card::attached_pattern>()},
    {.key = "continues", .type = Type::pattern,
     .help = "a statement that goes on with the one before it, such as another branch", .example = "'^(?:else|except)\\b'",
     .bound = at<&Card::continues_pattern>()},
    {.key = "leads", .type = Type::pattern,
     .help = "the end of a statement that the next one belongs to, such as a condition", .example = "'(?:&&|\\bwhile)$'",
     .bound = at<&Card::leads_pattern>()},
    {.key = "import", .type = Type::pattern, .help = "a line that loads another module, group `name`; or several, group `names`",
     .example = "'require \"(?P<name>\\w+)\"'", .bound = at<&Card::import_pattern>()},
    {.key = "import_each", .type = Type::pattern,
     .help = "what one of those `names` looks like, with groups whose names begin with `name`",
     .example = "'(?P<name>\\w+)(?: as \\w+)?'", .bound = at<&Card::import_each>()},
    {.key = "truth", .type = Type::texts, .preset = "[\"true\", \"false\"]",
     .help = "true and false as the language writes them", .example = "[\"#t\", \"#f\"]", .bound = at<&Card::truth>()},
    {.key = "export", .type = Type::pattern,
     .help = "a list of what is exported, group `names`; where there is one, nothing else counts",
     .example = "'__all__ = \\[(?P<names>[^\\]]*)'", .bound = at<&Card::export_pattern>()},
    {.key = "export_lists", .type = Type::pattern,
     .help = "a list that the one of `export` may name: the group `name` as it is written there, the group `names`",
     .example = "'(?P<name>@\\w+)\\s*=\\s*qw\\((?P<names>[^)]*)'", .bound = at<&Card::export_lists>()},
    {.key = "export_made_by", .type = Type::pattern,
     .help = "code that makes members as it runs: where there is some, names in that list count though no source defines them",
     .example = "'\\bload_compiled\\('", .bound = at<&Card::export_made_by>()},
    {.key = "export_word", .type = Type::pattern,
     .help = "such a name there, or its group `name`", .example = "'[A-Za-z_]\\w*'", .bound = at<&Card::export_word>()},
    {.key = "export_in_quotes", .type = Type::boolean, .preset = "false",
     .help = "true: such names stand in quotes there; what does not is an expression", .example = "true",
     .bound = at<&Card::export_in_quotes>()},
    {.key = "export_globs", .type = Type::boolean, .preset = "false",
     .help = "true: in that list `*`, `?` and `[a-z]` stand for other text", .example = "true",
     .bound = at<&Card::export_globs>()},
    {.key = "qualifier", .type = Type::line,
     .help = "what stands between a definition's own name and the names before it, which are left off",
     .example = "\"::\"", .bound = at<&Card::qualifier>()},
    {.key = "member", .type = Type::tables, .help = "how a member's definition looks",
     .example = "[{ pattern = 'function (?P<name>\\w+)' }]",
     .bound = within<&Card::members>(),
     .fields = &language_member_table},
    {.key = "part", .type = Type::tables, .help = "source files besides the entry file that bring members",
     .example = "[{ files = \"functions/*.lua\", members = \"named\" }]", .bound = within<&Card::parts>(),
     .fields = &language_part_table},
});

// clang-format on

}  // namespace envar::model
