// What all values that a needed variable has left ask for, each in its own way, holds whichever of them it will have.
// Found out where nothing is decided, it holds everywhere: a short way from the roots to a contradiction is seen,
// however hard all the rest may be. Van Hentenryck, Saraswat and Deville, "Design, Implementation, and Evaluation of
// the Constraint Language cc(FD)" (1998), "constructive disjunction".
#include <algorithm>

#include "core/resolve/solver.hpp"

namespace envar::resolve {

/// Of what `common` holds, only what this value asks for too stays. False when that is nothing.
bool Solver::narrow_by_one(std::vector<Common>& common, Var var, std::uint32_t value) {
    std::size_t kept = 0;
    for (Common& one : common) {
        std::uint32_t at = rules_of(var, value);
        while (at != none && (rules_[at].from == none || targets_[rules_[at].target].literal.var != one.var))
            at = rules_[at].next_of_value;
        if (at == none) continue;
        const std::uint64_t* const set = sets_.at(targets_[rules_[at].target].literal.set);
        for (std::uint32_t i = 0; i < words(one.var); ++i) one.set[i] |= set[i];
        one.rules.push_back(Reason::of(Because::rule, at));
        if (sets_.within(one.var, domain(one.var), one.set.data())) continue;
        if (&one != &common[kept]) common[kept] = std::move(one);
        ++kept;
    }
    common.resize(kept);
    return kept != 0;
}

void Solver::narrow_by(Var var) {
    std::vector<Common> common;
    const std::uint32_t first = sets_.best(var, domain(var));
    for (std::uint32_t at = rules_of(var, first); at != none; at = rules_[at].next_of_value) {
        if (rules_[at].from == none) continue;
        const Literal literal = targets_[rules_[at].target].literal;
        if (must_hold(literal)) continue;
        const std::uint64_t* const set = sets_.at(literal.set);
        common.push_back({literal.var, {set, set + words(literal.var)}, {Reason::of(Because::rule, at)}});
    }
    if (common.empty()) return;
    for (std::uint32_t value = first + 1; value <= sets_.values(var); ++value)
        if (ValueSets::holds(domain(var), value) && !narrow_by_one(common, var, value)) return;
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
