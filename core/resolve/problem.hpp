// A problem of choice: what is asked for, on a universe, as variables and rules of a solver. Every requirement has a
// number, its tag, so that a problem can also be posed with some of them only, or with one of them changed: that is
// how a failure is explained and how advice is tried before it is given.
#pragma once

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

/// Changes of a problem. Both null: none.
struct Variation {
    const std::set<Tag>* only = nullptr;  // just these requirements
    const std::map<Tag, std::optional<versions::Requirement>>* changed =
        nullptr;  // other versions, or nothing at all
};

class Problem final : public Solver::Source {
  public:
    Problem(const Universe& universe, const Demand& demand, const Variation& variation = {});

    [[nodiscard]] Solver& solver() { return solver_; }
    [[nodiscard]] const Universe& universe() const { return universe_; }
    void rules_of(Var var, std::uint32_t value) override;

    Var var_of(model::Id module);
    [[nodiscard]] model::Id module_of(Var var) const { return modules_[var]; }
    /// The row that a value stands for; the provider's, where the module is provided by another one.
    [[nodiscard]] std::uint32_t row_of(Var var, std::uint32_t value) const {
        return values_[first_value_[var] + value - 1].row;
    }
    [[nodiscard]] bool is_provided(Var var, std::uint32_t value) const {
        return values_[first_value_[var] + value - 1].offer != no_row;
    }
    /// The value of a row; 0 when the module has no such value.
    [[nodiscard]] std::uint32_t value_of(Var var, std::uint32_t row) const;
    /// A literal: the module has this row; with `or_none` also when nobody needs it.
    Literal is_row(Var var, std::uint32_t row, bool or_none);
    /// A literal: the module is there, in a version that the need accepts.
    Literal satisfies(const model::Need& need);

  private:
    static constexpr Var no_var = UINT32_MAX;
    enum class Kind : std::uint32_t { there, if_there, not_there };
    struct Value {
        std::uint32_t row;
        std::uint32_t offer;  // no_row: the module itself
        std::uint32_t rank;   // of the module's own version
    };
    Solver::Target target(model::Id module, model::Id requirement, Kind kind);
    /// The values that accepts(value) holds for.
    template <class Accepts>
    Literal literal(Var var, Kind kind, Accepts accepts) {
        ValueSets& sets = solver_.sets();
        const SetRef set = sets.add(var);
        if (kind != Kind::there) sets.put(set, 0);
        for (std::uint32_t value = 1; value <= sets.values(var); ++value)
            if (accepts(values_[first_value_[var] + value - 1]) != (kind == Kind::not_there)) sets.put(set, value);
        return {var, set};
    }
    Literal within(Var var, Kind kind, const versions::Requirement& requirement);
    [[nodiscard]] bool active(Tag tag) const;
    [[nodiscard]] const std::optional<versions::Requirement>* changed(Tag tag) const;
    void add_wanted(const Wanted& wanted, Kind kind, Tag tag);
    void ask(Var var, std::uint32_t value, model::Id module, model::Id requirement, Kind kind, Tag tag);
    void add_given(const Given& given, Tag tag);

    const Universe& universe_;
    const Demand& demand_;
    Variation variation_;
    Solver solver_;
    std::vector<Var> vars_;  // of each name; no_var: not yet
    std::vector<model::Id> modules_;
    std::vector<std::uint32_t> first_value_;
    std::vector<Value> values_;
    /// Targets by variable, requirement and kind: open addressing, a power of two, at most half full.
    struct Slot {
        std::uint64_t key = 0;  // 0: free
        Solver::Target target = 0;
    };
    Slot& slot(std::uint64_t key);
    std::vector<Slot> slots_;
    std::size_t used_slots_ = 0;
};

/// What the tag stands for in problems of this universe and demand.
[[nodiscard]] Asked asked(const Universe& universe, const Demand& demand, Tag tag);

}  // namespace envar::resolve
