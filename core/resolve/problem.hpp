// A problem of choice: what is asked for, on a universe, as variables and rules of a solver. Every requirement has a
// number, its tag, so that a problem can also be posed with some of them only, or with one of them changed: that is
// how a failure is explained and how advice is tried before it is given.
#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/resolve/solver.hpp"
#include "core/resolve/universe.hpp"

namespace envar::resolve {

/// What a tag stands for.
enum class AskedBy { need, conflict, root, pin, given };

struct Asked {
    AskedBy by = AskedBy::need;
    std::uint32_t row = no_row;  // of a need or a conflict
    std::uint32_t index = 0;     // of the table's needs or bars, of the roots, pins or givens
};

/// A version that is taken as given, to see what follows.
struct Given {
    model::Id module = model::no_id;
    std::uint32_t row = no_row;
};

struct Demand {
    std::vector<Wanted> roots;
    std::vector<Wanted> pins;
    std::vector<Given> givens;
    std::set<std::uint32_t> held;  // rows that are locked: they count though they are withdrawn
};

/// Changes of a problem. All null: none.
struct Variation {
    const std::set<Tag>* only = nullptr;        // just these requirements
    const std::set<Tag>* selectable = nullptr;  // how far these count is said by what is assumed
    const std::set<Tag>* without = nullptr;     // these do not count
};

/// How far a selectable requirement counts.
enum class Counts : std::uint32_t { as_it_is = 1, in_any_version = 2, not_at_all = 3 };

class Problem final : public Solver::Source {
  public:
    Problem(const Universe& universe, const Demand& demand, const Variation& variation = {});

    [[nodiscard]] Solver& solver() { return solver_; }
    [[nodiscard]] const Universe& universe() const { return universe_; }
    void rules_of(Var var, std::uint32_t value) override;
    void expect(Var var) const override;
    [[nodiscard]] std::size_t most_rules() const override {
        return universe_.table().needs.size() + universe_.table().bars.size();
    }

    Var var_of(model::Id module);
    [[nodiscard]] model::Id module_of(Var var) const { return modules_[var]; }
    /// The row that a value stands for; the provider's, where the module is provided by another one.
    [[nodiscard]] std::uint32_t row_of(Var var, std::uint32_t value) const {
        return values_[first_value_[var] + value - 1].row;
    }
    [[nodiscard]] bool is_provided(Var var, std::uint32_t value) const {
        return values_[first_value_[var] + value - 1].offer != no_row;
    }
    /// After a solution: the module's row in it, no_row where it is not there.
    [[nodiscard]] std::uint32_t chosen_row(model::Id module) const {
        const std::uint32_t value = vars_[module] == no_var ? 0 : solver_.value(vars_[module]);
        return value == 0 ? no_row : row_of(vars_[module], value);
    }
    /// A literal: the module has this row; with `or_none` also when nobody needs it.
    Literal is_row(Var var, std::uint32_t row, bool or_none);
    /// A literal: the module is there, in a version that the need accepts.
    Literal satisfies(const model::Need& need);
    /// A literal: the selectable requirement counts like this. Every selectable one wants one of these assumed.
    Literal counting(Tag tag, Counts how);

  private:
    static constexpr Var no_var = UINT32_MAX;
    enum class Kind : std::uint32_t {
        there,
        if_there,
        not_there,
        not_there_itself,  // whoever provides it may be
    };
    static bool bars(Kind kind) { return kind == Kind::not_there || kind == Kind::not_there_itself; }
    struct Value {
        std::uint32_t row;
        std::uint32_t offer;  // no_row: the module itself
    };
    /// What a need or a conflict asks for.
    struct Ask {
        model::Id module;
        model::Id requirement;
        Kind kind;
    };
    /// A selectable requirement: a variable with the values of Counts, which the asking one leads to and which leads
    /// on to what is asked for.
    struct Selector {
        Tag tag = no_tag;
        Ask ask{model::no_id, model::no_id, Kind::there};  // of a need or a conflict
        std::optional<Literal> as_it_is, in_any_version;   // of what is asked for from outside
    };
    Solver::Target target(model::Id module, model::Id requirement, Kind kind);
    /// The values that accepts(value) holds for.
    template <class Accepts>
    Literal literal(Var var, Kind kind, Accepts accepts) {
        ValueSets& sets = solver_.sets();
        const SetRef set = sets.add(var);
        if (kind != Kind::there) sets.put(set, 0);
        for (std::uint32_t value = 1; value <= sets.values(var); ++value)
            if (accepts(values_[first_value_[var] + value - 1]) != bars(kind)) sets.put(set, value);
        return {var, set};
    }
    [[nodiscard]] bool is_ranged(Var var) const { return !has_providers_[var] && solver_.sets().words(var) == 1; }
    Literal ranged(Var var, Kind kind, const Universe::Interval& interval);
    Literal within(Var var, Kind kind, const versions::Requirement& requirement);
    [[nodiscard]] bool active(Tag tag) const;
    [[nodiscard]] bool selectable(Tag tag) const;
    Var add_special(std::uint32_t values);
    Solver::Target any_count(Var selector);
    void rules_of_selector(Var var, const Selector& selector, Counts how);
    void add_wanted(const Wanted& wanted, Kind kind, Tag tag);
    void add_outer(const Literal& as_it_is, Var var, Kind kind, Tag tag);
    void ask(Var var, std::uint32_t value, const Ask& ask, Tag tag);
    void add_given(const Given& given, Tag tag);

    const Universe& universe_;
    const Demand& demand_;
    Variation variation_;
    Solver solver_;
    std::vector<Var> vars_;  // of each name; no_var: not yet
    std::vector<model::Id> modules_;
    std::vector<std::uint32_t> first_value_;
    std::vector<Value> values_;
    std::vector<std::uint32_t> keys_;  // of values_ that are the module itself: their versions' keys
    std::vector<bool> has_providers_;  // of each variable
    std::map<Var, Selector> selectors_;
    std::map<Tag, Var> selector_of_;
    /// Targets by variable, requirement and kind: open addressing, a power of two, at most half full.
    struct Slot {
        std::uint64_t key = 0;  // 0: free
        Solver::Target target = 0;
    };
    Slot& slot(std::uint64_t key);
    std::vector<Slot> slots_;
    std::size_t used_slots_ = 0;
};

/// Puts tags in an order that goes by what they stand for, and not by the order in which it was read.
void sort_asked(const Universe& universe, const Demand& demand, std::vector<Tag>& tags);

/// The tags of what is asked for from outside.
[[nodiscard]] std::vector<Tag> root_tags(const Universe& universe, const Demand& demand);

/// What the tag stands for in problems of this universe and demand.
[[nodiscard]] Asked asked(const Universe& universe, const Demand& demand, Tag tag);

}  // namespace envar::resolve
