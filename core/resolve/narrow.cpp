// What all values that a needed variable has left ask for, each in its own way, holds whichever of them it will have.
// Found out where nothing is decided, it holds everywhere: a short way from the roots to a contradiction is seen,
// however hard all the rest may be. Van Hentenryck, Saraswat and Deville, "Design, Implementation, and Evaluation of
// the Constraint Language cc(FD)" (1998), "constructive disjunction".
#include <vector>

#include "core/resolve/solver.hpp"

namespace envar::resolve {

/// Of what `common` holds, only what this value asks for too stays; `common_of_` tells where a variable is in it.
void Solver::narrow_by_one(std::vector<Common>& common, Var var, std::uint32_t value) {
    const std::size_t values = common.front().rules.size();
    for (std::uint32_t at = rules_of(var, value); at != none; at = rules_[at].next_of_value) {
        const Literal literal = targets_[rules_[at].target].literal;
        const std::uint32_t place = rules_[at].from == none ? none : common_of_[literal.var];
        if (place == none || common[place].rules.size() != values) continue;
        const std::uint64_t* const set = sets_.at(literal.set);
        for (std::uint32_t i = 0; i < words(literal.var); ++i) common[place].set[i] |= set[i];
        common[place].rules.push_back(Reason::of(Because::rule, at));
    }
    std::erase_if(common, [&](const Common& one) {
        const bool goes = one.rules.size() == values || sets_.within(one.var, domain(one.var), one.set.data());
        if (goes) common_of_[one.var] = none;
        return goes;
    });
    for (std::uint32_t i = 0; i < common.size(); ++i) common_of_[common[i].var] = i;
}

void Solver::narrow_by(Var var) {
    std::vector<Common> common;
    const std::uint32_t first = sets_.best(var, domain(var));
    const std::uint32_t begin = rules_of(var, first);  // which may bring new variables
    common_of_.resize(variables_.size(), none);
    for (std::uint32_t at = begin; at != none; at = rules_[at].next_of_value) {
        if (rules_[at].from == none) continue;
        const Literal literal = targets_[rules_[at].target].literal;
        if (must_hold(literal) || common_of_[literal.var] != none) continue;
        common_of_[literal.var] = static_cast<std::uint32_t>(common.size());
        const std::uint64_t* const set = sets_.at(literal.set);
        common.push_back({literal.var, {set, set + words(literal.var)}, {Reason::of(Because::rule, at)}});
    }
    for (std::uint32_t value = first + 1; value <= sets_.values(var) && !common.empty(); ++value) {
        if (!ValueSets::holds(domain(var), value)) continue;
        static_cast<void>(rules_of(var, value));  // which may bring new variables
        common_of_.resize(variables_.size(), none);
        narrow_by_one(common, var, value);
    }
    for (const Common& one : common) common_of_[one.var] = none;
    if (common.empty()) return;
    std::vector<std::uint64_t> gone(domain(var), domain(var) + words(var));
    for (std::uint64_t& word : gone) word = ~word;
    for (const Common& one : common) {
        made_now_ = one.rules;
        note_ground(var, gone.data(), variables_[var].latest);
        const std::uint32_t clause = store_fact(one.var, one.set.data());
        if (!conflicting_) shrink(one.var, one.set.data(), Reason::of(Because::clause, clause));
    }
}

/// Only where nothing is decided. A variable is looked at again when it has lost values.
void Solver::narrow() {
    for (; narrowed_ < trail_.size() && !conflicting_; ++narrowed_) {
        const Var var = trail_[narrowed_].var;
        if (variables_[var].latest != narrowed_ || !is_open(var)) continue;
        narrow_by(var);
        if (!conflicting_) propagate();
    }
}

}  // namespace envar::resolve
