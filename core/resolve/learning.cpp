// What a conflict teaches: reasons are resolved, set by set, until one literal of the latest level is left.
//
// Resolving (x in T or A) with the reason (x in S or B) of a change of x gives (x in T∩S or A or B): the smaller the
// set, the stronger the clause. A literal became false at the first entry behind which T has nothing left; when T∩S
// is not empty, an earlier entry made it false.
#include <algorithm>

#include "core/resolve/solver.hpp"

namespace envar::resolve {
namespace {

constexpr double bump_growth = 1.0 / 0.95;
constexpr std::uint32_t much_in_order = 8, much_in_free = 8;
constexpr float clause_bump_growth = 1.001F;

}  // namespace

/// Calls each(var, set) for the literals of a rule or clause.
template <class Each>
void Solver::for_literals(Reason reason, Each each) const {
    if (reason.because() == Because::rule) {
        const Rule& rule = rules_[reason.number()];
        if (rule.from != none) {
            std::uint64_t small = ~(std::uint64_t{1} << (rule.value % 64));
            if (words(rule.from) == 1) {
                each(rule.from, &small);
            } else {
                std::vector<std::uint64_t> others(words(rule.from), ~std::uint64_t{0});
                others[rule.value / 64] = small;
                each(rule.from, others.data());
            }
        }
        const Literal target = targets_[rule.target].literal;
        each(target.var, sets_.at(target.set));
    } else if (reason.because() == Because::clause) {
        const Clause& clause = clauses_[reason.number()];
        for (std::uint32_t i = 0; i < clause.size; ++i) {
            const Literal& literal = literals_[clause.first + i];
            each(literal.var, sets_.at(literal.set));
        }
    }
}

/// The entry behind which the set had nothing left, `latest` or an earlier one; none when it never had.
std::uint32_t Solver::falsified_at(Var var, const std::uint64_t* set, std::uint32_t latest) const {
    for (std::uint32_t at = latest; at != none; at = trail_[at].previous)
        if (sets_.meet(var, &saved_[trail_[at].before], set)) return at;
    return none;
}

/// A literal that is false without any decision, from entry `at` on, goes, but the proof keeps what made it so.
void Solver::note_ground(Var var, const std::uint64_t* set, std::uint32_t at) {
    ground_.assign(set, set + words(var));
    for (; at != none; at = falsified_at(var, ground_.data(), trail_[at].previous)) {
        made_now_.push_back(Reason::of(Because::entry, at));
        for_literals(trail_[at].reason, [&](Var of, const std::uint64_t* values) {
            if (of != var) return;
            for (std::uint32_t i = 0; i < words(var); ++i) ground_[i] &= values[i];
        });
    }
}

/// Finds out where the literal on `var` became false, at the entry `latest` or before it, and lines it up.
void Solver::place(Var var, std::uint32_t latest) {
    Work& work = work_[var];
    const std::uint32_t before = work.in && work.at != none ? trail_[work.at].level : 0;
    if (before == conflict_level_ && work.at != none) --at_level_;
    work.at = falsified_at(var, work_set(var), latest);
    if (work.at == none) {  // nothing of it was ever possible: it holds nowhere and says nothing
        work.in = false;
        return;
    }
    if (trail_[work.at].level == 0) {
        note_ground(var, work_set(var), work.at);
        work.in = false;
        work.at = none;
        return;
    }
    if (trail_[work.at].level == conflict_level_) ++at_level_;
    open_.emplace_back(work.at, var);
    std::push_heap(open_.begin(), open_.end());
}

void Solver::take_in(Var var, const std::uint64_t* set) {
    Work& work = work_[var];
    const std::uint32_t at = falsified_at(var, set);
    if (at == none) return;
    if (trail_[at].level == 0) return note_ground(var, set, at);
    if (!work.in) {
        work.in = true;
        work.at = none;
        std::fill_n(work_set(var), words(var), 0);
        working_.push_back(var);
    }
    for (std::uint32_t i = 0; i < words(var); ++i) work_set(var)[i] |= set[i];
    place(var, variables_[var].latest);
    bump(var);
}

/// Takes in the literals of a reason but the one on `except`.
void Solver::take_reason(Reason reason, Var except) {
    made_now_.push_back(reason);
    if (reason.because() == Because::clause) {
        Clause& clause = clauses_[reason.number()];
        clause.activity += clause_bump_;
        if (clause.activity > 1e20F) {
            for (Clause& one : clauses_) one.activity *= 1e-20F;
            clause_bump_ *= 1e-20F;
        }
    }
    for_literals(reason, [&](Var var, const std::uint64_t* set) {
        if (var != except) take_in(var, set);
    });
}

/// Resolves the literal that became false last with the reason for it.
void Solver::resolve_top() {
    const Var var = open_.front().second;
    const Entry entry = trail_[open_.front().first];
    const Reason reason = entry.reason;
    for_literals(reason, [&](Var of, const std::uint64_t* set) {
        if (of != var) return;
        for (std::uint32_t i = 0; i < words(var); ++i) work_set(var)[i] &= set[i];
    });
    std::pop_heap(open_.begin(), open_.end());
    open_.pop_back();
    place(var, entry.previous);
    take_reason(reason, var);
}

/// Puts the worked-out clause down: the asserting literal first, one of the next lower level behind it. Gives its
/// number, and that level.
std::uint32_t Solver::store(std::uint32_t& second_level) {
    Clause clause;
    clause.first = static_cast<std::uint32_t>(literals_.size());
    std::vector<std::pair<std::uint32_t, Var>> order;
    for (const Var var : working_)
        if (work_[var].in) order.emplace_back(work_[var].at, var);
    std::sort(order.rbegin(), order.rend());
    order.erase(std::unique(order.begin(), order.end()), order.end());
    std::vector<std::uint32_t> levels;
    for (const auto& [at, var] : order) {
        literals_.push_back({var, sets_.add(var, work_set(var))});
        levels.push_back(trail_[at].level);
    }
    std::sort(levels.begin(), levels.end());
    levels.erase(std::unique(levels.begin(), levels.end()), levels.end());
    second_level = order.size() > 1 ? trail_[order[1].first].level : 0;
    clause.size = static_cast<std::uint32_t>(order.size());
    clause.levels = static_cast<std::uint32_t>(levels.size());
    clause.activity = clause_bump_;
    clause.first_made_of = static_cast<std::uint32_t>(made_of_.size());
    clause.made_of = static_cast<std::uint32_t>(made_now_.size());
    made_of_.insert(made_of_.end(), made_now_.begin(), made_now_.end());
    const auto number = static_cast<std::uint32_t>(clauses_.size());
    clauses_.push_back(clause);
    ++live_;
    return number;
}

/// Puts down what follows from made_now_ without a decision. Gives its number.
std::uint32_t Solver::store_fact(Var var, const std::uint64_t* set) {
    Clause clause;
    clause.first = static_cast<std::uint32_t>(literals_.size());
    clause.size = 1;
    literals_.push_back({var, sets_.add(var, set)});
    clause.first_made_of = static_cast<std::uint32_t>(made_of_.size());
    clause.made_of = static_cast<std::uint32_t>(made_now_.size());
    made_of_.insert(made_of_.end(), made_now_.begin(), made_now_.end());
    clauses_.push_back(clause);
    return static_cast<std::uint32_t>(clauses_.size() - 1);
}

/// Learns from the conflict and takes decisions back. False when there is none left above `floor` to take back.
bool Solver::learn(bool in_order, std::uint32_t floor) {
    made_now_.clear();
    open_.clear();
    working_.clear();
    at_level_ = 0;
    conflict_level_ = 0;
    for_literals(conflict_, [&](Var var, const std::uint64_t* set) {
        const std::uint32_t at = falsified_at(var, set);
        if (at != none) conflict_level_ = std::max(conflict_level_, trail_[at].level);
    });
    if (conflict_level_ == 0) {
        impossible_ = true;
        return false;
    }
    if (conflict_level_ <= floor) return false;
    take_reason(conflict_, none);
    while (at_level_ > 1) {
        const auto [at, var] = open_.front();
        if (!work_[var].in || work_[var].at != at) {  // an older place of it
            std::pop_heap(open_.begin(), open_.end());
            open_.pop_back();
            continue;
        }
        resolve_top();
    }
    std::uint32_t second_level = 0;
    const std::uint32_t clause = store(second_level);
    for (const Var var : working_) work_[var].in = false;
    bump_ *= bump_growth;
    clause_bump_ *= clause_bump_growth;
    // What was decided since is as good as before: taking it back would mostly mean to decide it again. Nadel and
    // Ryvchin, "Chronological Backtracking" (2018).
    const std::uint32_t much = in_order ? much_in_order : much_in_free;
    const bool far = conflict_level_ > second_level + much;
    back_to(std::max(far ? conflict_level_ - 1 : second_level, floor));
    if (far) late_.push_back({clause, second_level, level()});
    const Clause& learnt = clauses_[clause];
    const Literal* literals = &literals_[learnt.first];
    if (learnt.size > 1)
        for (std::uint32_t i = 0; i < 2; ++i)
            watches_[literals[i].var].push_back({clause, *sets_.at(literals[i].set)});
    shrink(literals[0].var, sets_.at(literals[0].set), Reason::of(Because::clause, clause));
    return true;
}

/// Which of the assumed literals, each the decision of one level above `floor`, keep this one from holding.
void Solver::analyse_refusal(std::span<const Literal> assumed, std::uint32_t floor) {
    const Literal literal = assumed[level() - floor];
    made_now_.clear();
    open_.clear();
    working_.clear();
    at_level_ = 0;
    conflict_level_ = UINT32_MAX;
    refused_by_ = {level() - floor};
    take_in(literal.var, sets_.at(literal.set));
    while (!open_.empty()) {
        const auto [at, var] = open_.front();
        if (!work_[var].in || work_[var].at != at) {
            std::pop_heap(open_.begin(), open_.end());
            open_.pop_back();
        } else if (trail_[at].reason.because() == Because::decision) {
            std::pop_heap(open_.begin(), open_.end());
            open_.pop_back();
            if (trail_[at].level <= floor) {
                work_[var].in = false;
                continue;
            }
            // What was assumed left some values; if the literal has one of them, it was false before.
            const std::uint32_t by = trail_[at].level - floor - 1;
            refused_by_.push_back(by);
            const std::uint64_t* left = sets_.at(assumed[by].set);
            for (std::uint32_t i = 0; i < words(var); ++i) work_set(var)[i] &= left[i];
            place(var, variables_[var].latest);
        } else {
            resolve_top();
        }
    }
    for (const Var var : working_) work_[var].in = false;
    refused_since_ = made_now_;
    std::sort(refused_by_.begin(), refused_by_.end());
    refused_by_.erase(std::unique(refused_by_.begin(), refused_by_.end()), refused_by_.end());
}

std::vector<Tag> Solver::core() const {
    std::vector<Tag> tags;
    std::vector<bool> seen_entry(trail_.size()), seen_clause(clauses_.size()), seen_rule(rules_.size());
    std::vector<Reason> open;
    std::vector<std::uint64_t> left;
    const auto ground = [&](Reason reason, Var except) {
        for_literals(reason, [&](Var var, const std::uint64_t* set) {
            if (var == except) return;
            left.assign(set, set + words(var));
            for (std::uint32_t at = falsified_at(var, left.data()); at != none;
                 at = falsified_at(var, left.data(), trail_[at].previous)) {
                if (!seen_entry[at]) open.push_back(Reason::of(Because::entry, at));
                for_literals(trail_[at].reason, [&](Var of, const std::uint64_t* values) {
                    if (of != var) return;
                    for (std::uint32_t i = 0; i < words(var); ++i) left[i] &= values[i];
                });
            }
        });
    };
    if (impossible_) {
        open.push_back(conflict_);
        ground(conflict_, none);
    } else {
        open = refused_since_;
    }
    const auto is_new = [](std::vector<bool>& seen, std::uint32_t number) {
        const bool was_seen = seen[number];
        seen[number] = true;
        return !was_seen;
    };
    while (!open.empty()) {
        const Reason reason = open.back();
        const std::uint32_t number = reason.number();
        open.pop_back();
        if (reason.because() == Because::rule && is_new(seen_rule, number)) {
            if (rules_[number].tag != no_tag) tags.push_back(rules_[number].tag);
        } else if (reason.because() == Because::clause && is_new(seen_clause, number)) {
            const Clause& clause = clauses_[number];
            open.insert(open.end(), made_of_.begin() + clause.first_made_of,
                        made_of_.begin() + clause.first_made_of + clause.made_of);
        } else if (reason.because() == Because::entry && is_new(seen_entry, number)) {
            const Entry& entry = trail_[number];
            open.push_back(entry.reason);
            ground(entry.reason, entry.var);
        }
    }
    std::sort(tags.begin(), tags.end());
    tags.erase(std::unique(tags.begin(), tags.end()), tags.end());
    return tags;
}

}  // namespace envar::resolve
