// Cores from which nothing can be left out, by leaving out one requirement after the other; where that leaves no
// solution, only what the new failure rests on is kept. Each problem posed has only the requirements of the core, so
// it is small. Bakker and others, "Diagnosing and Solving Over-Determined Constraint Satisfaction Problems" (1993).
#include <algorithm>

#include "core/resolve/explain.hpp"

namespace envar::resolve {
namespace {

class Minimiser {
  public:
    Minimiser(const Universe& universe, const Demand& demand, const Limits& limits)
        : universe_(universe), demand_(demand), limits_(limits) {}

    std::vector<Tag> run(std::vector<Tag> core) {
        for (std::size_t size = core.size() / 4; size > 4; size /= 4) leave_out(core, size);
        leave_out(core, 1);
        if (stopped_) return {};
        return core;
    }

  private:
    /// Tries to do without each run of `size` requirements, the last first.
    void leave_out(std::vector<Tag>& core, std::size_t size) {
        std::set<Tag> kept(core.begin(), core.end());
        std::vector<Tag> order(core.rbegin(), core.rend());
        for (std::size_t at = 0; at < order.size() && !stopped_; at += size) {
            std::set<Tag> only = kept;
            for (std::size_t i = at; i < std::min(order.size(), at + size); ++i) only.erase(order[i]);
            if (only.size() == kept.size()) continue;
            if (impossible_with(only)) kept = std::move(found_);
        }
        core.assign(kept.begin(), kept.end());
    }

    bool impossible_with(const std::set<Tag>& only) {
        Problem problem(universe_, demand_, {&only, nullptr});
        const Verdict verdict = problem.solver().solve(Decisions::free, limits_);
        stopped_ = stopped_ || verdict == Verdict::stopped;
        if (verdict != Verdict::impossible) return false;
        const auto core = problem.solver().core();
        found_ = {core.begin(), core.end()};
        return true;
    }

    const Universe& universe_;
    const Demand& demand_;
    const Limits& limits_;
    std::set<Tag> found_;
    bool stopped_ = false;
};

}  // namespace

std::vector<Tag> minimal_core(const Universe& universe, const Demand& demand, std::vector<Tag> core,
                              const Limits& limits) {
    return Minimiser(universe, demand, limits).run(std::move(core));
}

}  // namespace envar::resolve
