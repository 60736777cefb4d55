// Advice on names: what a card or a workspace would like names to look like, beyond what the host demands.
#pragma once

#include <string>
#include <vector>

#include "core/model/fields.hpp"
#include "core/model/values.hpp"

namespace envar::model {

/// Words that names may begin with, and which of them is meant by another.
struct WordList {
    std::string name;
    std::vector<std::string> words;
    Pairs instead;  // word → the one of the list that is better
};

struct NameAdvice {
    std::string host;                // of a workspace's advice: the host that it is for; empty: all
    std::string of = "member";       // "module", "member" or "parameter"
    std::vector<std::string> kinds;  // of members; empty: all
    std::string prefix;              // Mustache with the module's names; what the name begins with
    std::string first;               // the word list that its first word, behind the prefix, is from; empty: any word
    std::string pattern;             // RE2 of the whole name; empty: any
    std::string form;                // that a better name is offered in
    std::string reason;
};

/// Their rows: of [[naming.words]], of [[naming.advice]], and of a workspace's [[advice]].
extern const Fields word_list_table;
extern const Fields name_advice_table;
extern const Fields workspace_advice_table;

}  // namespace envar::model
