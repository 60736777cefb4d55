// Cores from which nothing can be left out, by leaving out one requirement after the other; where that leaves no
// solution, only what the new failure rests on is kept. The problem posed has only the requirements of the core, so
// it is small, and which of them count is assumed, so that what one try taught the next one knows; once many of them
// are decided, they are settled and need no more be assumed. Where leaving one out does leave a solution, that is
// turned into solutions without others (turning.hpp). Bakker and others, "Diagnosing and Solving Over-Determined
// Constraint Satisfaction Problems" (1993).
#include <algorithm>
#include <optional>

#include "core/resolve/explain.hpp"
#include "core/resolve/turning.hpp"

namespace envar::resolve {
namespace {

/// Cores so large that nobody would read what is left of them.
constexpr std::size_t worth_trying = 5'000;
constexpr std::size_t worth_telling = 3'000;
constexpr std::uint64_t work_beyond_telling = 150'000;  // that may be spent on getting there

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
        settled_.assign(tags_.size(), false);
    }

    LeastCore run() {
        LeastCore least;
        for (std::size_t at = tags_.size(); at-- > 0 && !stopped_;) {
            if (!in_core_[at] || proven_[at]) continue;
            least.is_proven = spent_ < may_spend() && leave_out(at);
            if (!least.is_proven) break;
        }
        for (std::size_t at = 0; at < tags_.size() && !stopped_; ++at)
            if (in_core_[at]) least.tags.push_back(tags_[at]);
        return least;
    }

  private:
    [[nodiscard]] std::uint64_t may_spend() const {
        return size_ > worth_telling ? std::min(most_work_, work_beyond_telling) : most_work_;
    }

    /// Once much is decided that is assumed all the same, it is settled.
    void settle_decided() {
        std::vector<std::size_t> decided;
        std::ptrdiff_t open = 0;
        for (std::size_t at = 0; at < tags_.size(); ++at) {
            if (settled_[at]) continue;
            if (!in_core_[at] || proven_[at]) {
                decided.push_back(at);
            } else {
                ++open;
            }
        }
        if (std::ssize(decided) < 16 + open / 4) return;
        for (const std::size_t at : decided) {
            problem_.solver().settle(in_core_[at] ? counts_[at] : is_out_[at]);
            settled_[at] = true;
        }
    }

    /// Tries to do without the requirement. False when it was given up.
    bool leave_out(std::size_t without) {
        settle_decided();
        std::vector<std::size_t> tried;
        std::vector<Literal> assumed;
        for (std::size_t at = 0; at < tags_.size(); ++at)
            if (in_core_[at] && at != without && !settled_[at]) tried.push_back(at), assumed.push_back(counts_[at]);
        for (std::size_t at = 0; at < tags_.size(); ++at)
            if ((!in_core_[at] || at == without) && !settled_[at]) assumed.push_back(is_out_[at]);
        const std::uint64_t before = problem_.solver().work_done();
        Limits limits = limits_;
        const std::uint64_t may_spend = this->may_spend();
        limits.work = std::min(limits.work, may_spend - spent_);
        const Verdict verdict = problem_.solver().solve(Decisions::free, limits, assumed);
        spent_ += problem_.solver().work_done() - before;
        if (verdict == Verdict::stopped) {
            stopped_ = spent_ < may_spend || limits_.stop_asked();
            return false;
        }
        if (verdict == Verdict::solved) {
            proven_[without] = true;
            turning_->turn([this](model::Id module) { return problem_.chosen_row(module); }, without, in_core_,
                           proven_);
            return true;
        }
        for (std::size_t at = 0; at < tags_.size(); ++at) in_core_[at] = in_core_[at] && settled_[at];
        if (verdict == Verdict::refused)  // else what is settled rules a solution out by itself
            for (const std::uint32_t at : problem_.solver().refused_by())
                if (at < tried.size()) in_core_[tried[at]] = true;
        size_ = static_cast<std::size_t>(std::count(in_core_.begin(), in_core_.end(), true));
        return true;
    }

    const Limits& limits_;
    std::uint64_t most_work_;
    std::vector<Tag> tags_;
    std::set<Tag> set_;
    Problem problem_;
    std::vector<Literal> counts_, is_out_;  // by place in tags_
    std::vector<bool> in_core_;
    std::size_t size_ = tags_.size();  // how many of them are
    std::vector<bool> proven_;         // without it the rest can be met
    std::vector<bool> settled_;        // no longer assumed: it is proven, or out
    std::optional<Turning> turning_;
    std::uint64_t spent_ = 0;
    bool stopped_ = false;
};

}  // namespace

LeastCore minimal_core(const Universe& universe, const Demand& demand, const std::vector<Tag>& core,
                       const Limits& limits, std::uint64_t most_work) {
    if (core.size() <= worth_trying) return Minimiser(universe, demand, limits, core, most_work).run();
    LeastCore least{core, false};
    sort_asked(universe, demand, least.tags);
    return least;
}

}  // namespace envar::resolve
