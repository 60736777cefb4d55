#include "core/model/name_advice.hpp"

#include "core/model/binding.hpp"

namespace envar::model {
namespace {

// clang-format off
Fields advice_rows(Fields rows) {
    const Fields common = {
    {.key = "of", .type = Type::word, .values = {"module", "member", "parameter"}, .preset = "\"member\"",
     .help = "whose names it is about", .example = "\"member\"", .bound = at<&NameAdvice::of>()},
    {.key = "kinds", .type = Type::texts, .preset = "[]", .help = "kinds of members that it is about; left out: all",
     .example = "[\"command\"]", .bound = at<&NameAdvice::kinds>()},
    {.key = "prefix", .type = Type::line,
     .help = "what the name begins with (Mustache with the module's `name`, `name_snake` and the like)",
     .example = "\"{{name_snake}}_\"", .bound = at<&NameAdvice::prefix>()},
    {.key = "first", .type = Type::name,
     .help = "the list of words that the first word of the name, behind the prefix, is from", .example = "\"verbs\"",
     .bound = at<&NameAdvice::first>()},
    {.key = "pattern", .type = Type::pattern, .help = "the whole name", .example = "'[a-z][a-z0-9_]*'",
     .bound = at<&NameAdvice::pattern>()},
    {.key = "form", .type = Type::word, .values = {"snake", "kebab", "camel", "pascal", "upper"},
     .help = "form that a better name is offered in; left out: the card's", .example = "\"pascal\"",
     .bound = at<&NameAdvice::form>()},
    {.key = "reason", .type = Type::line, .help = "why", .example = "\"commands say what they do\"",
     .bound = at<&NameAdvice::reason>()},
    };
    rows.insert(rows.end(), common.begin(), common.end());
    return rows;
}

}  // namespace

const Fields word_list_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "what advice calls the list",
     .example = "\"verbs\"", .bound = at<&WordList::name>()},
    {.key = "words", .type = Type::texts, .required = true, .help = "the words", .example = "[\"open\", \"close\"]",
     .bound = at<&WordList::words>()},
    {.key = "instead", .type = Type::pairs, .preset = "[]",
     .help = "a word that is not in the list, and the one that is offered for it", .example = "[['shut', 'close']]",
     .bound = at<&WordList::instead>()},
};

const Fields name_advice_table = advice_rows({});

const Fields workspace_advice_table = advice_rows({
    {.key = "host", .type = Type::name, .help = "the host whose modules it is about; left out: all",
     .example = "\"bash\"", .bound = at<&NameAdvice::host>()},
});
// clang-format on

}  // namespace envar::model
