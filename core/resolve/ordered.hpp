// How much of a search goes in order.
#pragma once

#include <algorithm>
#include <cstdint>

#include "core/resolve/solver.hpp"

namespace envar::resolve {

/// Not beyond the largest number there is.
[[nodiscard]] inline std::uint64_t sum(std::uint64_t now, std::uint64_t more) {
    return more > UINT64_MAX - now ? UINT64_MAX : now + more;
}

/// How many levels are decided in order; the ones behind them are decided freely. At first all are in order. Where
/// that meets too many conflicts, none are; a solution then proves that what is in order can stay so, with all that
/// is decided next as it has it. Behind the first solution all is tried in order once more, then as many levels as
/// that got to, in strides that grow with every solution and shrink where none is found soon. A stride of one level
/// goes on until it is known whether there is one, or until that has cost its share of what all of this may cost;
/// then the level is as the solution known has it. When all is spent, so are the levels behind it.
class Ordered {
  public:
    Ordered(bool wanted, std::uint64_t conflicts, const Limits& limits, std::uint32_t assumed)
        : levels_(wanted ? all : 0),
          sure_(assumed),
          next_(wanted ? sum(conflicts, limits.patience) : UINT64_MAX),
          may_cost_(limits.proving) {}
    [[nodiscard]] bool covers(std::uint32_t level) const { return level < levels_; }
    [[nodiscard]] std::uint32_t levels() const { return levels_; }
    /// Levels of which it is known that there is a solution with them.
    [[nodiscard]] std::uint32_t sure() const { return sure_; }
    /// The next level is as it is in the solution.
    void one_more_is_sure() {
        ++sure_;
        if (levels_ != all) ++levels_;
    }
    /// Whether it is time for less order; there is less then. `reached`: so many levels are decided.
    bool gives_way(std::uint64_t conflicts, std::uint64_t work, std::uint32_t reached) {
        if (conflicts < next_) return false;
        if (levels_ != all) {
            stride_ = std::max(1U, stride_ / stride_decline);
        } else {
            stride_ = solvable_ ? std::max(shortest_stride, reached - std::min(reached, sure_)) : 0;
        }
        levels_ = sure_ + stride_;
        next_ = stride_ <= 1 ? UINT64_MAX : conflicts + conflicts_of_a_stride;
        if (stride_ == 1) level_may_end_ = share(work);
        return true;
    }
    void found_solution(std::uint64_t conflicts, std::uint64_t work) {
        if (!solvable_) may_end_ = sum(work, may_cost_);
        sure_ = std::max(sure_, levels_);
        stride_ = solvable_ ? std::max(shortest_stride, std::min(stride_growth * stride_, longest_stride)) : all;
        levels_ = solvable_ ? sure_ + stride_ : all;
        next_ = conflicts + (solvable_ ? conflicts_of_a_stride : conflicts_of_all);
        solvable_ = true;
    }
    /// Whether all that may be spent behind the first solution was.
    [[nodiscard]] bool has_spent_all(std::uint64_t work) const { return solvable_ && work >= may_end_; }
    /// Whether the next level has cost its share without a result.
    [[nodiscard]] bool gives_up_a_level(std::uint64_t work) const {
        return solvable_ && stride_ == 1 && levels_ != all && work >= level_may_end_;
    }
    /// So many levels are as in the solution known; the last of them is left so.
    void left_a_level(std::uint32_t levels, std::uint64_t work) {
        sure_ = levels;
        levels_ = sure_ + stride_;
        level_may_end_ = share(work);
    }
    /// All is left as it is known.
    void leaves_all() {
        levels_ = all;
        next_ = may_end_ = UINT64_MAX;
    }

  private:
    static constexpr std::uint32_t all = UINT32_MAX;
    static constexpr std::uint64_t conflicts_of_all = 100, conflicts_of_a_stride = 30;
    static constexpr std::uint32_t shortest_stride = 8, longest_stride = 1U << 26U;
    static constexpr std::uint32_t stride_growth = 8, stride_decline = 2;
    static constexpr std::uint64_t share_of_a_level = 4;  // one level may take a fourth of what is left to spend

    /// What one level may cost: until when.
    [[nodiscard]] std::uint64_t share(std::uint64_t work) const {
        return may_end_ == UINT64_MAX ? UINT64_MAX : work + (may_end_ - std::min(may_end_, work)) / share_of_a_level;
    }

    std::uint32_t levels_;
    std::uint32_t sure_;
    std::uint32_t stride_ = 0;
    std::uint64_t next_;
    std::uint64_t may_cost_, may_end_ = UINT64_MAX, level_may_end_ = UINT64_MAX;
    bool solvable_ = false;  // a solution was found
};

}  // namespace envar::resolve
