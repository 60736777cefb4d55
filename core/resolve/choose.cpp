#include "core/resolve/choose.hpp"

#include <algorithm>
#include <set>
#include <unordered_map>

namespace envar::resolve {
namespace {

class Chooser {
  public:
    Chooser(const Universe& universe, const Wish& wish)
        : universe_(universe), wish_(wish), problem_(universe, wish.demand), solver_(problem_.solver()) {}

    Choice run() {
        Choice choice;
        choice.verdict = settle_locked();
        if (choice.verdict == Verdict::solved)
            choice.verdict = solver_.solve(Decisions::in_order, limits(), assumed_);
        if (choice.verdict == Verdict::solved) choice.unproven = solver_.unproven();
        if (choice.verdict == Verdict::solved && wish_.optional) take_optional(choice);
        choice.conflicts = solver_.conflicts();
        if (choice.verdict == Verdict::impossible) choice.core = solver_.core();
        if (choice.verdict != Verdict::solved) return choice;
        std::set<std::uint32_t> seen;
        for (const Var var : solver_.needed()) {
            const std::uint32_t value = solver_.value(var);
            if (value == 0) continue;
            const std::uint32_t row = problem_.row_of(var, value);
            if (seen.insert(row).second) choice.rows.push_back(row);
        }
        return choice;
    }

  private:
    [[nodiscard]] Limits limits() const {
        Limits left = wish_.limits;
        left.conflicts -= std::min(left.conflicts, solver_.conflicts());
        return left;
    }

    /// Finds out which locked versions stay: a smallest set of them goes. Method: implicit hitting sets;
    /// Moreno-Centeno and Karp, "The Implicit Hitting Set Approach to Solve Combinatorial Optimization Problems"
    /// (2013).
    Verdict settle_locked() {
        if (wish_.locked.empty()) return Verdict::solved;
        if (const Verdict verdict = settle_refreshed(); verdict != Verdict::solved) return verdict;
        std::vector<Literal> keep;
        for (const std::uint32_t row : wish_.locked) {
            const model::Id module = universe_.table().rows[row].module;
            if (std::find(wish_.refresh.begin(), wish_.refresh.end(), module) != wish_.refresh.end()) continue;
            keep.push_back(problem_.is_row(problem_.var_of(module), row, true));
        }
        std::vector<std::vector<std::uint32_t>> clashes;
        const std::size_t fixed = assumed_.size();
        for (;;) {
            const auto go = smallest_hit(clashes);
            std::vector<std::uint32_t> places;
            assumed_.resize(fixed);
            for (std::uint32_t i = 0; i < keep.size(); ++i) {
                if (std::binary_search(go.begin(), go.end(), i)) continue;
                places.push_back(i);
                assumed_.push_back(keep[i]);
            }
            const Verdict verdict = solver_.solve(Decisions::free, limits(), assumed_);
            if (verdict != Verdict::refused) return verdict;
            std::vector<std::uint32_t> clash;
            for (const std::uint32_t at : solver_.refused_by())
                if (at >= fixed) clash.push_back(places[at - fixed]);
            if (clash.empty()) return Verdict::impossible;
            clashes.push_back(std::move(clash));
        }
    }

    /// Modules to be refreshed get their newest version that has a solution, one after the other.
    Verdict settle_refreshed() {
        std::vector<model::Id> modules = wish_.refresh;
        for (const model::Id module : modules) {
            const Var var = problem_.var_of(module);
            for (std::uint32_t value = 1; value <= solver_.sets().values(var); ++value) {
                const std::uint32_t row = problem_.row_of(var, value);
                if (problem_.is_provided(var, value)) continue;
                assumed_.push_back(problem_.is_row(var, row, false));
                const Verdict verdict = solver_.solve(Decisions::free, limits(), assumed_);
                assumed_.pop_back();
                if (verdict == Verdict::stopped || verdict == Verdict::impossible) return verdict;
                if (verdict == Verdict::refused) continue;
                assumed_.push_back(problem_.is_row(var, row, true));
                break;
            }
        }
        return Verdict::solved;
    }

    /// What the chosen modules would like to have, in the order of the choice.
    void take_optional(Choice& choice) {
        const auto& table = universe_.table();
        for (std::size_t at = 0; at < solver_.needed().size(); ++at) {
            const Var var = solver_.needed()[at];
            const std::uint32_t value = solver_.value(var);
            if (value == 0 || problem_.is_provided(var, value)) continue;
            const model::Row& row = table.rows[problem_.row_of(var, value)];
            for (std::uint32_t i = row.first_need; i < row.first_need + row.needs; ++i) {
                const model::Need& need = table.needs[i];
                if (!need.optional || !universe_.counts(row, need)) continue;
                const Var wanted = problem_.var_of(need.module);
                if (solver_.value(wanted) != 0) continue;
                Limits own = limits();
                own.optional /= 1 + choice.left_open.size();  // many hard ones together take little longer than one
                if (solver_.also(problem_.satisfies(need), own) != Verdict::stopped) continue;
                if (wish_.limits.stop_asked()) {
                    choice.verdict = Verdict::stopped;
                    return;
                }
                auto& open = choice.left_open;  // several may want it
                if (std::find(open.begin(), open.end(), need.module) == open.end()) open.push_back(need.module);
            }
        }
        // What was open for one that asked may have been taken for another.
        std::erase_if(choice.left_open, [this](model::Id id) { return solver_.value(problem_.var_of(id)) != 0; });
    }

    const Universe& universe_;
    const Wish& wish_;
    Problem problem_;
    Solver& solver_;
    std::vector<Literal> assumed_;
};

/// Depth first over the lists that are not hit yet, with a bound on the size that rises. Lists that have nothing in
/// common need one each, which tells soon where a bound is too low.
class Hitter {
  public:
    explicit Hitter(const std::vector<std::vector<std::uint32_t>>& lists) : lists_(lists), hits_(lists.size(), 0) {
        std::unordered_map<std::uint32_t, std::uint32_t> numbers;
        for (std::uint32_t i = 0; i < lists_.size(); ++i)
            for (std::uint32_t& one : lists_[i]) {
                const auto [place, is_new] = numbers.try_emplace(one, static_cast<std::uint32_t>(names_.size()));
                if (is_new) names_.push_back(one);
                one = place->second;
                holding_.resize(names_.size());
                holding_[one].push_back(i);
            }
        seen_.assign(names_.size(), 0);
    }

    std::vector<std::uint32_t> run() {
        for (std::size_t size = needed_at_least(); steps_ < most_steps; ++size)
            if (hit(size)) break;
        if (steps_ >= most_steps) greedy();
        std::vector<std::uint32_t> out;
        for (const std::uint32_t one : chosen_) out.push_back(names_[one]);
        std::sort(out.begin(), out.end());
        return out;
    }

  private:
    static constexpr std::size_t most_steps = 500'000;  // numbers looked at

    /// The first list that is not hit; all of them: there is none.
    [[nodiscard]] std::size_t missed() const {
        return static_cast<std::size_t>(std::find(hits_.begin(), hits_.end(), 0U) - hits_.begin());
    }

    /// How many of the lists that are not hit have nothing in common, gone through in their order.
    [[nodiscard]] std::size_t needed_at_least() {
        std::size_t count = 0;
        ++round_;
        for (std::size_t i = 0; i < lists_.size(); ++i) {
            const auto& list = lists_[i];
            ++steps_;
            if (hits_[i] != 0) continue;
            steps_ += list.size();
            if (std::any_of(list.begin(), list.end(), [&](std::uint32_t one) { return seen_[one] == round_; }))
                continue;
            for (const std::uint32_t one : list) seen_[one] = round_;
            ++count;
        }
        return count;
    }

    void choose_one(std::uint32_t one) {
        chosen_.push_back(one);
        for (const std::uint32_t list : holding_[one]) ++hits_[list];
    }

    void take_back() {
        for (const std::uint32_t list : holding_[chosen_.back()]) --hits_[list];
        chosen_.pop_back();
    }

    bool hit(std::size_t left) {
        const std::size_t list = missed();
        if (list == lists_.size()) return true;
        if (left == 0 || steps_ >= most_steps || needed_at_least() > left) return false;
        for (const std::uint32_t one : lists_[list]) {
            choose_one(one);
            if (hit(left - 1)) return true;
            take_back();
        }
        return false;
    }

    /// Of each list that is missed, what hits most of the others too.
    void greedy() {
        while (!chosen_.empty()) take_back();
        for (std::size_t list = missed(); list != lists_.size() && !lists_[list].empty(); list = missed()) {
            const auto gain = [&](std::uint32_t one) {
                return std::count_if(holding_[one].begin(), holding_[one].end(),
                                     [&](std::uint32_t other) { return hits_[other] == 0; });
            };
            choose_one(*std::max_element(lists_[list].begin(), lists_[list].end(),
                                         [&](std::uint32_t a, std::uint32_t b) { return gain(a) < gain(b); }));
        }
    }

    std::vector<std::vector<std::uint32_t>> lists_;    // with numbers of their own from 0
    std::vector<std::uint32_t> names_;                 // by number: as it is called outside
    std::vector<std::vector<std::uint32_t>> holding_;  // by number: the lists that hold it
    std::vector<std::size_t> seen_;                    // by number: the round it was seen in last
    std::vector<std::uint32_t> hits_;                  // of each list: how many are chosen
    std::vector<std::uint32_t> chosen_;
    std::size_t steps_ = 0, round_ = 0;
};

}  // namespace

std::vector<std::uint32_t> smallest_hit(const std::vector<std::vector<std::uint32_t>>& lists) {
    return Hitter(lists).run();
}

Choice choose(const Universe& universe, const Wish& wish) { return Chooser(universe, wish).run(); }

}  // namespace envar::resolve
