// Sets of values of variables, as bits in one store. A set's first word has the values 0 to 63.
#pragma once

#include <bit>
#include <cstdint>
#include <vector>

namespace envar::resolve {

using Var = std::uint32_t;
using SetRef = std::uint32_t;  // where a set begins in the store

class ValueSets {
  public:
    void add_variable(std::uint32_t values) { words_.push_back(values / 64 + 1), values_.push_back(values); }
    [[nodiscard]] std::uint32_t words(Var var) const { return words_[var]; }
    [[nodiscard]] std::uint32_t values(Var var) const { return values_[var]; }

    /// A new set, empty or with everything.
    SetRef add(Var var, bool full = false) {
        const auto set = static_cast<SetRef>(store_.size());
        store_.resize(store_.size() + words_[var], 0);
        if (full) fill(var, &store_[set]);
        return set;
    }
    SetRef add(Var var, const std::uint64_t* from) {
        const auto set = static_cast<SetRef>(store_.size());
        store_.insert(store_.end(), from, from + words_[var]);
        return set;
    }
    void put(SetRef set, std::uint32_t value) { store_[set + value / 64] |= std::uint64_t{1} << (value % 64); }
    void take(SetRef set, std::uint32_t value) { store_[set + value / 64] &= ~(std::uint64_t{1} << (value % 64)); }
    [[nodiscard]] const std::uint64_t* at(SetRef set) const { return &store_[set]; }

    void fill(Var var, std::uint64_t* set) const {
        for (std::uint32_t i = 0; i < words_[var]; ++i) set[i] = ~std::uint64_t{0};
        const std::uint32_t used = values_[var] % 64 + 1;
        if (used < 64) set[words_[var] - 1] = (std::uint64_t{1} << used) - 1;
    }
    static bool holds(const std::uint64_t* set, std::uint32_t value) {
        return (set[value / 64] >> (value % 64) & 1U) != 0;
    }
    [[nodiscard]] bool meet(Var var, const std::uint64_t* a, const std::uint64_t* b) const {
        if ((*a & *b) != 0) return true;
        for (std::uint32_t i = 1; i < words_[var]; ++i)
            if ((a[i] & b[i]) != 0) return true;
        return false;
    }
    [[nodiscard]] bool within(Var var, const std::uint64_t* inner, const std::uint64_t* outer) const {
        for (std::uint32_t i = 0; i < words_[var]; ++i)
            if ((inner[i] & ~outer[i]) != 0) return false;
        return true;
    }
    /// How many values are in it, counted up to about `enough`.
    [[nodiscard]] std::uint32_t count(Var var, const std::uint64_t* set, std::uint32_t enough = UINT32_MAX) const {
        std::uint32_t found = 0;
        for (std::uint32_t i = 0; i < words_[var] && found < enough; ++i)
            found += static_cast<std::uint32_t>(std::popcount(set[i]));
        return found;
    }
    [[nodiscard]] bool is_one(Var var, const std::uint64_t* set) const {
        if (words_[var] == 1) return *set != 0 && (*set & (*set - 1)) == 0;
        return count(var, set, 2) == 1;
    }
    /// The lowest value besides 0; 0 when there is none.
    [[nodiscard]] std::uint32_t best(Var var, const std::uint64_t* set) const {
        const std::uint64_t first = *set & ~std::uint64_t{1};
        if (first != 0) return static_cast<std::uint32_t>(std::countr_zero(first));
        for (std::uint32_t i = 1; i < words_[var]; ++i)
            if (set[i] != 0) return 64 * i + static_cast<std::uint32_t>(std::countr_zero(set[i]));
        return 0;
    }

  private:
    std::vector<std::uint32_t> words_, values_;
    std::vector<std::uint64_t> store_;
};

}  // namespace envar::resolve
