// Domains, and what follows from each change of one.
#include "core/resolve/solver.hpp"

#include <algorithm>
#include <bit>

namespace envar::resolve {
namespace {

constexpr std::size_t usual_asking = 24;  // values that ask for a variable
constexpr std::size_t block_size = 64;
constexpr std::uint32_t unknown = UINT32_MAX - 1;  // the rules of a value have not been asked for

template <class Visit>
void for_bits(std::uint64_t set, Visit visit) {
    for (; set != 0; set &= set - 1) visit(static_cast<std::size_t>(std::countr_zero(set)));
}

}  // namespace

Var Solver::add_variable(std::uint32_t values) {
    const auto var = static_cast<Var>(variables_.size());
    sets_.add_variable(values);
    Variable one;
    one.domain = static_cast<std::uint32_t>(domains_.size());
    one.first_value = static_cast<std::uint32_t>(rules_of_value_.size());
    domains_.resize(domains_.size() + words(var));
    var_of_word_.resize(domains_.size(), var);
    sets_.fill(var, &domains_[one.domain]);
    rules_of_value_.resize(rules_of_value_.size() + values + 1, unknown);
    rules_of_value_[one.first_value] = none;
    variables_.push_back(one);
    ahead_of_.emplace_back();
    watches_.emplace_back();
    work_.emplace_back();
    work_sets_.resize(domains_.size());
    return var;
}

Solver::Target Solver::add_target(Literal literal) {
    const auto target = static_cast<Target>(targets_.size());
    targets_.push_back({literal, none, !ValueSets::holds(sets_.at(literal.set), 0)});
    return target;
}

void Solver::add_rule(Var var, std::uint32_t value, Target target, Tag tag) {
    const Literal literal = targets_[target].literal;
    const auto rule = static_cast<std::uint32_t>(rules_.size());
    ++work_done_;
    if (literal.var == var && ValueSets::holds(sets_.at(literal.set), value)) return;  // it needs itself: it has it
    if (literal.var == var) {                                                          // it cannot be with itself
        const SetRef without = sets_.add(var, true);
        sets_.take(without, value);
        target = add_target({var, without});
    }
    std::uint32_t& first = rules_of_value_[variables_[var].first_value + value];
    std::uint32_t* last = &first;
    while (*last != none) last = &rules_[*last].next_of_value;
    *last = rule;
    rules_.push_back({literal.var == var ? none : var, value, target, tag, none});
}

void Solver::add_fact(Target target, Tag tag) {
    facts_.push_back(static_cast<std::uint32_t>(rules_.size()));
    rules_.push_back({none, 0, target, tag, none});
}

/// The first rule of the value, or none. The source is asked at most once.
std::uint32_t Solver::rules_of(Var var, std::uint32_t value) {
    const std::size_t at = variables_[var].first_value + value;
    if (rules_of_value_[at] == unknown) {
        rules_of_value_[at] = none;
        source_.rules_of(var, value);
    }
    return rules_of_value_[at];
}

void Solver::shrink(Var var, const std::uint64_t* set, Reason reason) {
    std::uint64_t* now = &domains_[variables_[var].domain];
    if (sets_.within(var, now, set)) return;
    if (!sets_.meet(var, now, set)) {
        conflicting_ = true;
        conflict_ = reason;
        return;
    }
    const bool was_needed = (*now & 1U) == 0;
    const auto before = static_cast<std::uint32_t>(saved_.size());
    for (std::uint32_t i = 0; i < words(var); ++i) {
        saved_.push_back(now[i]);
        now[i] &= set[i];
    }
    Variable& one = variables_[var];
    trail_.push_back({var, reason, one.latest, level(), before});
    one.latest = static_cast<std::uint32_t>(trail_.size() - 1);
    if (!was_needed && (*now & 1U) == 0 && one.in_heap == none) heap_insert(var);
}

void Solver::shrink_without(Var var, std::uint32_t value, Reason reason) {
    if (!ValueSets::holds(domain(var), value)) return;
    scratch_.assign(words(var), ~std::uint64_t{0});
    scratch_[value / 64] &= ~(std::uint64_t{1} << (value % 64));
    shrink(var, scratch_.data(), reason);
}

void Solver::back_to(std::uint32_t level) {
    if (this->level() <= level) return;
    const std::uint32_t trail = levels_[level].trail;
    levels_.resize(level);
    while (trail_.size() > trail) {
        const Entry& entry = trail_.back();
        Variable& one = variables_[entry.var];
        if (is_needed(entry.var)) {
            if (is_fixed(entry.var)) one.liked = sets_.best(entry.var, domain(entry.var));
            if (one.in_heap == none) heap_insert(entry.var);
        }
        std::copy_n(saved_.begin() + entry.before, words(entry.var),
                    domains_.begin() + static_cast<std::ptrdiff_t>(one.domain));
        saved_.resize(entry.before);
        one.latest = entry.previous;
        one.followed = std::min(one.followed, entry.previous + 1);
        trail_.pop_back();
    }
    head_ = std::min(head_, trail);
    while (!dealt_.empty() && dealt_.back().trail > trail) {
        const std::uint32_t size = dealt_.back().queue;
        while (queue_.size() > size) {
            variables_[queue_.back()].in_queue = false;
            queue_.pop_back();
        }
        dealt_.pop_back();
    }
    conflicting_ = false;
    if (!late_.empty()) say_again();
}

/// What clauses told later than they could have is told again, now that it was taken back.
void Solver::say_again() {
    std::erase_if(late_, [&](const Late& one) { return one.level > level(); });
    for (Late& one : late_) {
        if (conflicting_) return;
        if (one.taken_up <= level()) continue;
        one.taken_up = level();
        const Clause& clause = clauses_[one.clause];
        const Literal first = literals_[clause.first];
        if (clause.size > 1 && can_hold(literals_[clause.first + 1])) continue;
        shrink(first.var, sets_.at(first.set), Reason::of(Because::clause, one.clause));
    }
    std::erase_if(late_, [&](const Late& one) { return one.level == level(); });
}

/// What several changes of a variable lead to is worked out once, at the first of them.
void Solver::propagate() {
    while (!conflicting_ && head_ < trail_.size()) {
        const std::uint32_t at = head_++;
        const Var var = trail_[at].var;
        if (at < variables_[var].followed) continue;
        ++work_done_;
        variables_[var].followed = variables_[var].latest + 1;
        if (is_fixed(var)) follow_rules(var);
        if (conflicting_) return;
        const bool was_needed = (saved_[trail_[at].before] & 1U) == 0;
        if (ahead_ && !was_needed && is_needed(var)) look_ahead(var);
        if (conflicting_) return;
        if (ahead_) look_back(var, &saved_[trail_[at].before]);
        if (!conflicting_) visit_watches(var);
    }
}

/// What the only value left asks for.
void Solver::follow_rules(Var var) {
    const std::uint32_t value = sets_.best(var, domain(var));
    if (value == 0) return;
    for (std::uint32_t at = rules_of(var, value); at != none && !conflicting_; at = rules_[at].next_of_value) {
        const Literal literal = targets_[rules_[at].target].literal;
        shrink(literal.var, sets_.at(literal.set), Reason::of(Because::rule, at));
    }
}

/// Notes that a value asks for it.
void Solver::note_asking(Target target, Ahead::Asking asking) {
    TargetData& data = targets_[target];
    const Literal& literal = data.literal;
    Ahead& ahead = ahead_of_[literal.var];
    if (ahead.asking.empty()) ahead.asking.reserve(usual_asking);
    const std::size_t number = ahead.asking.size();
    ahead.asking.push_back(asking);
    if (words(literal.var) == 1) {
        const std::size_t values = sets_.values(literal.var) + 1, block = number / block_size * values;
        if (number % block_size == 0) ahead.content.resize(block + values);
        for_bits(*sets_.at(literal.set), [&](std::size_t value) {
            ahead.content[block + value] |= std::uint64_t{1} << (number % block_size);
        });
        return;
    }
    if (data.asked == none) {
        data.asked = static_cast<std::uint32_t>(ahead.asked.size());
        ahead.asked.push_back({target, *sets_.at(literal.set)});
    }
    Ahead::Asked& asked = ahead.asked[data.asked];
    (asked.latest == none ? asked.first : ahead.next[asked.latest]) = static_cast<std::uint32_t>(number);
    asked.latest = static_cast<std::uint32_t>(number);
    ahead.next.push_back(none);
}

/// From now on values of the module go as soon as something they ask for cannot be had.
void Solver::look_ahead(Var var) {
    if (variables_[var].looks_ahead) return;
    variables_[var].looks_ahead = true;
    source_.expect(var);
    for (std::uint32_t value = 1; value <= sets_.values(var); ++value) {
        for (std::uint32_t at = rules_of(var, value); at != none; at = rules_[at].next_of_value) {
            if (rules_[at].from == none) continue;
            const Literal literal = targets_[rules_[at].target].literal;
            note_asking(rules_[at].target, {64 * variables_[var].domain + value, at});
            if (!conflicting_ && !can_hold(literal)) shrink_without(var, value, Reason::of(Because::rule, at));
        }
    }
}

/// What can be had no more since the domain was `before` takes away the values that ask for it.
void Solver::look_back(Var var, const std::uint64_t* before) {
    const Ahead& ahead = ahead_of_[var];
    if (words(var) != 1) return look_back_far(var, before);
    const std::uint64_t is = *domain(var), gone = *before & ~is;
    const std::uint64_t* content = ahead.content.data();
    const std::size_t values = sets_.values(var) + 1;
    for (std::size_t first = 0; first < ahead.asking.size(); first += block_size, content += values) {
        std::uint64_t were = 0, are = 0;
        for_bits(gone, [&](std::size_t value) { were |= content[value]; });
        for_bits(is, [&](std::size_t value) { are |= content[value]; });
        for_bits(were & ~are, [&](std::size_t asking) { __builtin_prefetch(&ahead.asking[first + asking]); });
        for_bits(were & ~are, [&](std::size_t asking) { drop(ahead.asking[first + asking]); });
    }
}

/// The same for a module with many versions.
void Solver::look_back_far(Var var, const std::uint64_t* before) {
    const std::uint64_t first_is = *domain(var);
    was_.assign(before, before + words(var));
    const Ahead& ahead = ahead_of_[var];
    for (const Ahead::Asked& asked : ahead.asked) {
        if ((asked.first_word & first_is) != 0) continue;
        const Literal& literal = targets_[asked.target].literal;
        if (can_hold(literal) || !sets_.meet(var, was_.data(), sets_.at(literal.set))) continue;
        for (std::uint32_t i = asked.first; i != none; i = ahead.next[i]) drop(ahead.asking[i]);
    }
}

/// Takes away a value that asks for what cannot be had, where it is still there.
void Solver::drop(const Ahead::Asking& asking) {
    std::uint64_t& now = domains_[asking.bit / 64];
    const std::uint64_t bit = std::uint64_t{1} << (asking.bit % 64);
    if (conflicting_ || (now & bit) == 0) return;
    const Reason reason = Reason::of(Because::rule, asking.rule);
    const Var var = var_of_word_[asking.bit / 64];
    if (words(var) != 1) {
        shrink_without(var, rules_[asking.rule].value, reason);
    } else if (now == bit) {
        conflicting_ = true;
        conflict_ = reason;
    } else {
        Variable& one = variables_[var];
        trail_.push_back({var, reason, one.latest, level(), static_cast<std::uint32_t>(saved_.size())});
        saved_.push_back(now);
        now &= ~bit;
        one.latest = static_cast<std::uint32_t>(trail_.size() - 1);
    }
}

void Solver::visit_watches(Var var) {
    std::vector<Watch>& watches = watches_[var];
    std::size_t kept = 0;
    const std::uint64_t first = *domain(var);
    for (std::size_t i = 0; i < watches.size(); ++i) {
        const Watch watch = watches[i];
        if ((watch.first_word & first) != 0) {
            watches[kept++] = watch;
            continue;
        }
        if (clauses_[watch.clause].dropped) continue;
        if (conflicting_ || visit(watch, var)) watches[kept++] = watch;
    }
    watches.resize(kept);
}

/// Looks at a clause whose literal on `var` may hold no more. False when it is watched elsewhere from now on.
bool Solver::visit(const Watch& watch, Var var) {
    Clause& clause = clauses_[watch.clause];
    Literal* literals = &literals_[clause.first];
    const std::uint32_t own = literals[0].var == var ? 0 : 1;
    if (can_hold(literals[own])) return true;
    const Literal other = literals[1 - own];
    if (must_hold(other)) return true;
    // From where the last search ended, so that all of them together go through the clause once. Gent, "Optimal
    // Implementation of Watched Literals and More General Techniques" (2013).
    for (std::uint32_t looked = 2, i = clause.next; looked < clause.size; ++looked, ++i) {
        if (i == clause.size) i = 2;
        if (!can_hold(literals[i])) continue;
        clause.next = i;
        std::swap(literals[own], literals[i]);
        watches_[literals[own].var].push_back({watch.clause, *sets_.at(literals[own].set)});
        return false;
    }
    shrink(other.var, sets_.at(other.set), Reason::of(Because::clause, watch.clause));
    return true;
}

std::uint32_t Solver::value(Var var) const {
    return is_needed(var) && is_fixed(var) ? sets_.best(var, domain(var)) : 0;
}

}  // namespace envar::resolve
