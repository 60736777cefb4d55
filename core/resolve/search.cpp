// Decisions: in order, or by what has been in conflicts lately.
#include <algorithm>

#include "core/resolve/ordered.hpp"
#include "core/resolve/solver.hpp"

namespace envar::resolve {
namespace {

constexpr std::size_t most_weighed = 96;
constexpr std::uint64_t restart_unit = 128;

/// 1, 1, 2, 1, 1, 2, 4, 1, … Luby, Sinclair and Zuckerman, "Optimal Speedup of Las Vegas Algorithms" (1993).
std::uint64_t luby(std::uint64_t i) {
    for (std::uint64_t k = 1;; ++k) {
        if (i == (std::uint64_t{1} << k) - 1) return std::uint64_t{1} << (k - 1);
        if (i < (std::uint64_t{1} << k) - 1) {
            i -= (std::uint64_t{1} << (k - 1)) - 1;
            k = 0;
        }
    }
}

}  // namespace

Verdict Solver::solve(Decisions decisions, const Limits& limits, std::span<const Literal> assumed) {
    if (impossible_) return Verdict::impossible;
    // As far as the same is assumed as before, what follows from it stays.
    std::uint32_t same = 0;
    while (same < assumed.size() && same < assumed_.size() && assumed[same].set == assumed_[same].set) ++same;
    back_to(conflicting_ ? 0 : same);
    assumed_.assign(assumed.begin(), assumed.end());
    if (!started_) {
        started_ = true;
        for (const std::uint32_t fact : facts_) {
            const TargetData& target = targets_[rules_[fact].target];
            if (target.requires_it && !variables_[target.literal.var].in_queue) {
                variables_[target.literal.var].in_queue = true;
                queue_.push_back(target.literal.var);
            }
            if (!conflicting_)
                shrink(target.literal.var, sets_.at(target.literal.set), Reason::of(Because::rule, fact));
        }
    }
    return search(decisions, limits, assumed, 0);
}

void Solver::settle(Literal literal) {
    back_to(0);
    assumed_.clear();
    const auto fact = static_cast<std::uint32_t>(rules_.size());
    add_fact(add_target(literal), no_tag);
    if (started_ && !conflicting_) shrink(literal.var, sets_.at(literal.set), Reason::of(Because::rule, fact));
}

Verdict Solver::also(Literal wish, const Limits& limits) {
    const std::uint32_t floor = level();
    const std::size_t known = queue_.size();
    take_up_needed(wish.var);
    Limits all_in_order = limits;
    all_in_order.patience = UINT64_MAX;
    all_in_order.conflicts = std::min(limits.conflicts, limits.optional);
    const Verdict verdict = search(Decisions::in_order, all_in_order, std::span(&wish, 1), floor);
    if (verdict == Verdict::solved) return verdict;
    back_to(floor);
    conflicting_ = false;
    while (queue_.size() > known) {
        variables_[queue_.back()].in_queue = false;
        queue_.pop_back();
    }
    return verdict;
}

Verdict Solver::search(Decisions decisions, const Limits& limits, std::span<const Literal> assumed,
                       std::uint32_t floor) {
    const std::uint64_t limit = sum(conflicts_, limits.conflicts), most_work = sum(work_done_, limits.work);
    std::uint64_t restarts = 0, next_restart = conflicts_ + restart_unit, rounds = 0;
    const bool in_order = decisions == Decisions::in_order;
    const std::uint32_t first = floor + static_cast<std::uint32_t>(assumed.size());  // level that is decided here
    Ordered ordered(in_order, conflicts_, limits, first);
    refused_by_.clear();
    known_.clear();
    left_.clear();
    bool leaves_next = false;
    for (;;) {
        propagate();
        if (level() == 0 && ahead_ && !ordered.covers(0) && !conflicting_) narrow();
        if (conflicting_) {
            ++conflicts_;
            if (!learn(ordered.covers(level()), floor)) return impossible_ ? Verdict::impossible : Verdict::refused;
            const bool is_over = conflicts_ >= limit || work_done_ >= most_work;
            if (limits.stop_asked() || (is_over && known_.empty())) {
                back_to(floor);
                return Verdict::stopped;
            }
            if (!ahead_ && conflicts_ >= limits.ahead) watch_all_ahead();
            if (ordered.gives_way(conflicts_, work_done_, level())) {
                back_to(std::max(floor, ordered.levels()));
                like_what_is_known();
            }
            if (is_over || ordered.has_spent_all(work_done_)) {
                ordered.leaves_all();
                left_.assign(variables_.size(), Left::as_known);
                back_to(first);
            } else if (ordered.gives_up_a_level(work_done_)) {
                leaves_next = true;
                back_to(levels_as_known(first, ordered.levels()));
            }
            if (!ordered.covers(level()) && conflicts_ >= next_restart) {
                next_restart = conflicts_ + restart_unit * luby(++restarts);
                back_to(live_ > most_live_ ? floor : std::max(first, reusable_level()));
                if (level() == 0 && live_ > most_live_) drop_clauses();
            }
            continue;
        }
        if ((++rounds & 1023U) == 0 && limits.stop_asked()) {
            back_to(floor);
            return Verdict::stopped;
        }
        if (const std::uint32_t next = level() - floor; next < assumed.size()) {
            const Literal& literal = assumed[next];
            if (!can_hold(literal)) {
                analyse_refusal(assumed, floor);
                return Verdict::refused;
            }
            new_level();
            shrink(literal.var, sets_.at(literal.set), Reason::of(Because::decision, 0));
            continue;
        }
        const std::uint32_t decided = level();
        const bool next_in_order = ordered.covers(decided);
        if (next_in_order ? decide_in_order(leaves_next) : decide_freely(decisions)) {
            const bool next_to_sure = next_in_order && decided == ordered.sure() && level() > decided;
            if (leaves_next) {
                ordered.left_a_level(level(), work_done_);
            } else if (next_to_sure && is_as_known(decided)) {
                ordered.one_more_is_sure();
            }
            leaves_next = false;
            continue;
        }
        if (next_in_order || !in_order) return Verdict::solved;
        note_solution();
        back_to(ordered.levels());
        ordered.found_solution(conflicts_, work_done_);
    }
}

void Solver::note_solution() {
    known_.resize(variables_.size());
    for (Var var = 0; var < variables_.size(); ++var) known_[var] = is_needed(var) ? sets_.best(var, domain(var)) : 0;
}

/// What was tried in order went wrong: the solution known is nearer to the next one.
void Solver::like_what_is_known() {
    for (Var var = 0; var < known_.size(); ++var) variables_[var].liked = known_[var];
}

/// Whether the decision behind so many levels is as in the solution known.
bool Solver::is_as_known(std::uint32_t level) const {
    const Var var = trail_[levels_[level].trail].var;
    return var < known_.size() && known_[var] == sets_.best(var, domain(var));
}

/// How many of the levels before `to` are as in the solution known, those before `from` taken for granted.
std::uint32_t Solver::levels_as_known(std::uint32_t from, std::uint32_t to) const {
    while (from < std::min(to, level()) && is_as_known(from)) ++from;
    return from;
}

std::size_t Solver::unproven() const {
    return static_cast<std::size_t>(std::count_if(
        queue_.begin(), queue_.end(), [&](Var var) { return !left_.empty() && left_[var] == Left::unproven; }));
}

/// Adds the module to those that are to be decided, if it is new among them.
void Solver::take_up_needed(Var var) {
    if (variables_[var].in_queue) return;
    variables_[var].in_queue = true;
    queue_.push_back(var);
}

/// Decides on the next module in order. False when none has a choice. `leave`: it is left as the solution known has
/// it, here and whenever it is decided again.
bool Solver::decide_in_order(bool leave) {
    const Var var = next_in_order();
    if (var == none) return false;
    std::uint32_t value = sets_.best(var, domain(var));
    if (leave) {
        left_.resize(variables_.size(), Left::no);
        left_[var] = Left::as_known;
    }
    if (!left_.empty() && left_[var] != Left::no) {
        left_[var] = value == known_[var] ? Left::as_known : Left::unproven;
        value = known_[var];
    }
    static_cast<void>(try_value(var, value));
    return true;
}

/// Goes on along the queue to the first module that still has a choice; none: there is none.
Var Solver::next_in_order() {
    while (dealt_.size() < queue_.size()) {
        const Var var = queue_[dealt_.size()];
        if (!is_fixed(var)) return var;
        const auto size = static_cast<std::uint32_t>(queue_.size());
        const std::uint32_t value = sets_.best(var, domain(var));
        dealt_.push_back({static_cast<std::uint32_t>(trail_.size()), size});
        if (value != 0) for_needs(var, value, [&](Var need) { take_up_needed(need); });
    }
    return none;
}

/// Decides for the value, or takes it away when something that it asks for cannot be had.
bool Solver::try_value(Var var, std::uint32_t value) {
    for (std::uint32_t at = rules_of(var, value); at != none; at = rules_[at].next_of_value) {
        const bool possible = rules_[at].from != none && can_hold(targets_[rules_[at].target].literal);
        if (possible) continue;
        shrink_without(var, value, Reason::of(Because::rule, at));
        return false;
    }
    new_level();
    only_.assign(words(var), 0);
    only_[value / 64] = std::uint64_t{1} << (value % 64);
    shrink(var, only_.data(), Reason::of(Because::decision, 0));
    return true;
}

/// The value left that asks for the fewest modules that nobody needs yet; of several the best.
std::uint32_t Solver::frugal(Var var) {
    std::uint32_t found = 0, fewest = UINT32_MAX;
    for (std::uint32_t value = 1; value <= sets_.values(var) && fewest != 0; ++value) {
        if (!ValueSets::holds(domain(var), value)) continue;
        std::uint32_t count = 0;
        for (std::uint32_t at = rules_of(var, value); at != none && count < fewest; at = rules_[at].next_of_value) {
            const TargetData& asked = targets_[rules_[at].target];
            if (asked.requires_it && rules_[at].from != none && !is_needed(asked.literal.var)) ++count;
        }
        if (count < fewest) found = value, fewest = count;
    }
    return found;
}

/// Whether a needed module still has a choice; if so, the first one of the heap is such.
bool Solver::has_open() {
    while (!heap_.empty() && !is_open(heap_.front().var)) static_cast<void>(heap_take(0));
    return !heap_.empty();
}

/// Of the modules that have been in conflicts lately, the one where most of that falls on each value left; none when
/// nothing is open. Boussemart and others, "Boosting Systematic Search by Weighting Constraints" (2004).
std::uint32_t Solver::likeliest_in_heap() {
    if (!has_open()) return none;
    const auto all = [&](std::uint32_t at) { return heap_[at].activity + bump_ / 1000; };
    const auto weight = [&](std::uint32_t at) { return all(at) / sets_.count(heap_[at].var, domain(heap_[at].var)); };
    std::uint32_t found = 0;
    double most = weight(0);
    for (std::uint32_t at = 1; at < std::min(most_weighed, heap_.size()); ++at) {
        if (all(at) <= 2 * most || !is_open(heap_[at].var)) continue;  // there are two values or more
        const double now = weight(at);
        if (now <= most) continue;
        most = now;
        found = at;
    }
    return found;
}

bool Solver::decide_freely(Decisions decisions) {
    const std::uint32_t at = likeliest_in_heap();
    if (at == none) return false;
    const Var var = heap_take(at);
    const std::uint32_t liked = variables_[var].liked;
    const bool likes = liked != 0 && ValueSets::holds(domain(var), liked);
    const bool saves = !likes && decisions != Decisions::free;
    const std::uint32_t value = likes ? liked : saves ? frugal(var) : sets_.best(var, domain(var));
    if (!try_value(var, value) && variables_[var].in_heap == none) heap_insert(var);
    return true;
}

/// How many levels would be decided the same again after a restart. Van der Tak and others, "Reusing the Assignment
/// Trail in CDCL Solvers" (2011).
std::uint32_t Solver::reusable_level() {
    if (!has_open()) return level();
    const double next = heap_.front().activity;
    std::uint32_t same = 0;
    while (same < level() && levels_[same].trail < trail_.size() &&
           variables_[trail_[levels_[same].trail].var].activity > next)
        ++same;
    return same;
}

void Solver::watch_all_ahead() {
    ahead_ = true;
    const std::size_t rules = source_.most_rules();
    rules_.reserve(rules);
    targets_.reserve(rules);
    for (Var var = 0; var < variables_.size(); ++var)
        if (is_needed(var)) look_ahead(var);
}

/// Half of the learnt clauses go, those with many levels and little use first.
void Solver::drop_clauses() {
    std::vector<std::uint32_t> order;
    for (std::uint32_t i = 0; i < clauses_.size(); ++i)
        if (!clauses_[i].dropped && clauses_[i].size > 2 && clauses_[i].levels > 2) order.push_back(i);
    std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        const Clause &x = clauses_[a], &y = clauses_[b];
        if (x.activity != y.activity) return x.activity < y.activity;
        return x.levels != y.levels ? x.levels > y.levels : a < b;
    });
    order.resize(order.size() / 2);
    for (const std::uint32_t clause : order) clauses_[clause].dropped = true;
    live_ -= order.size();
    most_live_ += most_live_ / 8;
}

void Solver::bump(Var var) {
    Variable& one = variables_[var];
    one.activity += bump_;
    if (one.activity > 1e100) {
        for (Variable& other : variables_) other.activity *= 1e-100;
        for (Candidate& other : heap_) other.activity *= 1e-100;
        bump_ *= 1e-100;
    }
    if (one.in_heap == none) return;
    heap_[one.in_heap].activity = one.activity;
    heap_up(one.in_heap);
}

void Solver::heap_insert(Var var) {
    variables_[var].in_heap = static_cast<std::uint32_t>(heap_.size());
    heap_.push_back({variables_[var].activity, var});
    heap_up(variables_[var].in_heap);
}

void Solver::heap_up(std::uint32_t at) {
    const Candidate one = heap_[at];
    for (; at > 0; at = (at - 1) / 2) {
        const Candidate& above = heap_[(at - 1) / 2];
        if (above.activity >= one.activity) break;
        variables_[above.var].in_heap = at;
        heap_[at] = above;
    }
    heap_[at] = one;
    variables_[one.var].in_heap = at;
}

void Solver::heap_down(std::uint32_t at) {
    const Candidate one = heap_[at];
    const auto size = static_cast<std::uint32_t>(heap_.size());
    for (;;) {
        std::uint32_t child = 2 * at + 1;
        if (child >= size) break;
        if (child + 1 < size && heap_[child + 1].activity > heap_[child].activity) ++child;
        if (heap_[child].activity <= one.activity) break;
        heap_[at] = heap_[child];
        variables_[heap_[at].var].in_heap = at;
        at = child;
    }
    heap_[at] = one;
    variables_[one.var].in_heap = at;
}

Var Solver::heap_take(std::uint32_t at) {
    const Var taken = heap_[at].var;
    variables_[taken].in_heap = none;
    const Candidate last = heap_.back();
    heap_.pop_back();
    if (at < heap_.size()) {
        heap_[at] = last;
        heap_down(at);
        heap_up(variables_[last.var].in_heap);
    }
    return taken;
}

}  // namespace envar::resolve
