// Cores from which nothing can be left out, by leaving out one requirement after the other; where that leaves no
// solution, only what the new failure rests on is kept. The problem posed has only the requirements of the core, so
// it is small, and which of them count is assumed, so that what one try taught the next one knows. Where leaving one
// out does leave a solution, that is turned into solutions without others (turning.hpp). Bakker and others,
// "Diagnosing and Solving Over-Determined Constraint Satisfaction Problems" (1993).
#include <algorithm>
#include <optional>

#include "core/resolve/explain.hpp"
#include "core/resolve/turning.hpp"

namespace envar::resolve {
namespace {

class Minimiser {
  public:
    Minimiser(const Universe& universe, const Demand& demand, const Limits& limits, const std::vector<Tag>& core,
              std::uint64_t most_work)
        : limits_(limits),
          most_work_(most_work),
          tags_(core),
          set_(core.begin(), core.end()),
          problem_(universe, demand, {&set_, &set_}) {
        sort_asked(universe, demand, tags_);
        turning_.emplace(universe, demand, tags_);
        for (const Tag tag : tags_) {
            counts_.push_back(problem_.counting(tag, Counts::as_it_is));
            is_out_.push_back(problem_.counting(tag, Counts::not_at_all));
        }
        in_core_.assign(tags_.size(), true);
        proven_.assign(tags_.size(), false);
    }

    LeastCore run() {
        LeastCore least;
        std::size_t tries = 0;
        for (std::size_t at = tags_.size(); at-- > 0 && !stopped_;) {
            if (!in_core_[at] || proven_[at]) continue;
            least.is_proven = spent_ < most_work_ && !is_beyond_telling(++tries) && leave_out(at);
            if (!least.is_proven) break;
        }
        for (std::size_t at = 0; at < tags_.size() && !stopped_; ++at)
            if (in_core_[at]) least.tags.push_back(tags_[at]);
        return least;
    }

  private:
    /// Whether nobody would read what is left. Two tries make a core a good deal smaller, but not ever so much.
    [[nodiscard]] bool is_beyond_telling(std::size_t tries) const {
        constexpr std::ptrdiff_t worth_telling = 3'000, worth_trying = 10'000;
        return std::count(in_core_.begin(), in_core_.end(), true) > (tries > 2 ? worth_telling : worth_trying);
    }

    /// Tries to do without the requirement. False when it was given up.
    bool leave_out(std::size_t without) {
        std::vector<std::size_t> tried;
        std::vector<Literal> assumed;
        for (std::size_t at = 0; at < tags_.size(); ++at)
            if (in_core_[at] && at != without) tried.push_back(at), assumed.push_back(counts_[at]);
        for (std::size_t at = 0; at < tags_.size(); ++at)
            if (!in_core_[at] || at == without) assumed.push_back(is_out_[at]);
        const std::uint64_t before = problem_.solver().work_done();
        Limits limits = limits_;
        limits.work = std::min(limits.work, most_work_ - spent_);
        const Verdict verdict = problem_.solver().solve(Decisions::free, limits, assumed);
        spent_ += problem_.solver().work_done() - before;
        stopped_ = verdict == Verdict::stopped && (spent_ < most_work_ || limits_.stop_asked());
        if (verdict == Verdict::solved) {
            proven_[without] = true;
            turning_->turn([this](model::Id module) { return problem_.chosen_row(module); }, without, in_core_,
                           proven_);
        }
        if (verdict != Verdict::refused) return verdict != Verdict::stopped;
        in_core_.assign(tags_.size(), false);
        for (const std::uint32_t at : problem_.solver().refused_by())
            if (at < tried.size()) in_core_[tried[at]] = true;
        return true;
    }

    const Limits& limits_;
    std::uint64_t most_work_;
    std::vector<Tag> tags_;
    std::set<Tag> set_;
    Problem problem_;
    std::vector<Literal> counts_, is_out_;  // by place in tags_
    std::vector<bool> in_core_;
    std::vector<bool> proven_;  // without it the rest can be met
    std::optional<Turning> turning_;
    std::uint64_t spent_ = 0;
    bool stopped_ = false;
};

}  // namespace

LeastCore minimal_core(const Universe& universe, const Demand& demand, const std::vector<Tag>& core,
                       const Limits& limits, std::uint64_t most_work) {
    return Minimiser(universe, demand, limits, core, most_work).run();
}

}  // namespace envar::resolve
