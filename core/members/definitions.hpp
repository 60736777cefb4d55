// The definitions of one source text: what its statements define, with parameters and documentation.
#pragma once

#include <re2/re2.h>
#include <re2/set.h>

#include <array>
#include <memory>
#include <string>
#include <vector>

#include "core/members/finder.hpp"
#include "core/members/lexer.hpp"
#include "core/members/scan.hpp"
#include "core/text/pattern.hpp"

namespace envar::members {

struct Patterns::Compiled {
    using Pattern = std::unique_ptr<re2::RE2>;
    struct Member {
        Pattern pattern, owner;
        std::string kind;
        int name = 0, parameters = 0, table = 0, alias = 0, owner_table = 0;  // groups; 0: none
        bool in_line = false;                                                 // the pattern is for anywhere in a line
        bool only_in_parts = false;
        text::Opening opening;
        model::MemberRole role = model::MemberRole::member;
    };

    explicit Compiled(const model::Card& card);

    Grammar grammar;
    std::vector<Member> members;
    std::unique_ptr<re2::RE2::Set> any;  // whether a statement can be a definition; null: all can
    std::array<bool, 256> may_begin{};   // what a definition can begin with
    text::Opening doc_opening;           // of a line on a parameter
    struct ParameterGroups {
        int name = 0, type = 0, preset = 0, optional = 0, summary = 0;
    };
    ParameterGroups parameter_groups, doc_groups;
    Finder table, exports;
    Pattern internal, parameter, attached, continues;
    Pattern doc_parameter;  // null: lines on parameters look as they usually do
};

/// In the order of the text, without internal ones; with `part`, of a file that is no entry file.
[[nodiscard]] std::vector<FoundMember> definitions(const text::Source& source, const model::Card& card,
                                                   const Patterns::Compiled& patterns, bool part);

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
