// Cores from which nothing can be left out, by leaving out one requirement after the other; where that leaves no
// solution, only what the new failure rests on is kept. The problem posed has only the requirements of the core, so
// it is small, and which of them count is assumed, so that what one try taught the next one knows. Bakker and others,
// "Diagnosing and Solving Over-Determined Constraint Satisfaction Problems" (1993).
#include <algorithm>

#include "core/resolve/explain.hpp"

namespace envar::resolve {
namespace {

class Minimiser {
  public:
    Minimiser(const Universe& universe, const Demand& demand, const Limits& limits, const std::vector<Tag>& core)
        : universe_(universe),
          demand_(demand),
          limits_(limits),
          all_(core.begin(), core.end()),
          problem_(universe, demand, Variation{&all_, &all_}) {}

    std::vector<Tag> run() {
        std::vector<Tag> core(all_.begin(), all_.end());
        sort_asked(universe_, demand_, core);
        const std::vector<Tag> order = core;
        for (auto tag = order.rbegin(); tag != order.rend() && !stopped_; ++tag)
            if (std::find(core.begin(), core.end(), *tag) != core.end()) leave_out(*tag, core);
        if (stopped_) return {};
        return core;
    }

  private:
    /// Tries to do without the requirement.
    void leave_out(Tag tag, std::vector<Tag>& core) {
        std::vector<Tag> tried;
        std::vector<Literal> assumed;
        std::set<Tag> rest = all_;
        for (const Tag one : core) {
            if (one == tag) continue;
            tried.push_back(one);
            assumed.push_back(problem_.counting(one, Counts::as_it_is));
            rest.erase(one);
        }
        for (const Tag one : rest) assumed.push_back(problem_.counting(one, Counts::not_at_all));
        const Verdict verdict = problem_.solver().solve(Decisions::free, limits_, assumed);
        stopped_ = verdict == Verdict::stopped;
        if (verdict != Verdict::refused) return;
        core.clear();
        for (const std::uint32_t at : problem_.solver().refused_by())
            if (at < tried.size()) core.push_back(tried[at]);
    }

    const Universe& universe_;
    const Demand& demand_;
    const Limits& limits_;
    std::set<Tag> all_;
    Problem problem_;
    bool stopped_ = false;
};

}  // namespace

std::vector<Tag> minimal_core(const Universe& universe, const Demand& demand, const std::vector<Tag>& core,
                              const Limits& limits) {
    return Minimiser(universe, demand, limits, core).run();
}

}  // namespace envar::resolve
