// What would help: smallest sets of changes, each tried before it is told.
//
// A requirement is first asked for in any version; the version that the solution then takes tells how far the range
// must be widened. When no single change is enough, smallest sets are found by hitting cores until none is left.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <set>

#include "core/resolve/explain.hpp"
#include "core/versions/widen.hpp"

namespace envar::resolve {
namespace {

using model::Id;
using Changes = std::map<Tag, Counts>;  // the others count as they are

constexpr std::size_t most_tried = 24;
constexpr std::size_t most_rounds = 64;
constexpr std::size_t most_changes = 20;  // in one advice
constexpr std::size_t few_roots = 3;      // to do without so many of the roots is advice, whatever their number
/// What each way of finding advice may cost, as the solver counts it.
constexpr std::uint64_t work_for_advice = 1'000'000;
/// Likewise, where so many requirements clash that hardly any small change helps.
constexpr std::uint64_t work_for_little_hope = 60'000;
constexpr std::size_t many_clash = 100;
constexpr std::size_t too_many_clash = 300;  // only what was asked for is looked at
/// What it may cost to find out how much is wrong.
constexpr std::uint64_t work_to_look_around = 40'000;

versions::Requirement any_version() { return versions::Requirement{{}, "any"}; }

class Adviser {
  public:
    Adviser(const Universe& universe, const Demand& demand, const Limits& limits)
        : universe_(universe), demand_(demand), limits_(limits) {}

    std::vector<std::vector<Advice>> run(const LeastCore& least, std::size_t most) {
        std::vector<Tag> core = least.tags;
        const bool is_small = core.size() <= many_clash, is_large = core.size() > too_many_clash;
        if (!is_small) most_work_ = work_for_little_hope;
        sort_by_reach(core);
        cores_.push_back(core);
        std::vector<std::vector<Advice>> found;
        if (least.is_proven && !is_large && one_may_be_enough()) one_by_one(core, most, found);
        if (found.empty() && least.is_proven && is_small) add(together(), found);
        if (found.empty()) add(without_roots(), found);
        return found;
    }

  private:
    static void add(std::vector<Advice> advice, std::vector<std::vector<Advice>>& found) {
        if (!advice.empty()) found.push_back(std::move(advice));
    }

    [[nodiscard]] bool is_root(Tag tag) const { return asked(universe_, demand_, tag).by == AskedBy::root; }

    /// Single changes, the ones that are nearest at hand first: wider ranges, and then what would do without.
    void one_by_one(const std::vector<Tag>& core, std::size_t most, std::vector<std::vector<Advice>>& found) {
        selectable_.insert(core.begin(), core.end());
        std::set<Tag> told;
        for (const Counts how : {Counts::in_any_version, Counts::not_at_all}) {
            std::size_t tried = 0;
            for (std::size_t i = 0; i < core.size() && tried < most_tried && found.size() < most && left_ > 0; ++i) {
                const Tag tag = core[i];
                if (is_root(tag) && !found.empty()) break;  // to do without what was asked for helps always
                if (helpless_.count(tag) != 0 || told.count(tag) != 0) continue;
                if (how == Counts::in_any_version && !can_be_wider(tag)) continue;
                ++tried;
                const Tried result = attempt({{tag, how}});
                if (result.verdict != Verdict::solved) continue;
                told.insert(tag);
                found.push_back({advice_of(tag, how == Counts::not_at_all ? std::nullopt : widened(tag, result))});
            }
        }
    }

    /// Whether there is a version that the range leaves out.
    [[nodiscard]] bool can_be_wider(Tag tag) const {
        const Asked one = asked(universe_, demand_, tag);
        if (one.by == AskedBy::conflict) return false;
        const auto& table = universe_.table();
        const bool is_need = one.by == AskedBy::need;
        const Id module = is_need ? table.needs[one.index].module : table.names.find(wanted(one).module);
        if (module == model::no_id) return false;
        if (!universe_.providers_of(module).empty()) return true;
        const versions::Requirement range = range_of(one);
        const auto rows = universe_.rows_of(module);
        return std::any_of(rows.begin(), rows.end(),
                           [&](std::uint32_t row) { return !universe_.meets(table.rows[row].version, range); });
    }

    /// Whether there is a version in the range that may be taken.
    [[nodiscard]] bool can_be_met(Id module, const versions::Requirement& range) const {
        const auto rows = universe_.rows_of(module);
        const auto& all = universe_.table().rows;
        return std::any_of(rows.begin(), rows.end(), [&](std::uint32_t row) {
            return (!all[row].withdrawn || demand_.held.count(row) != 0) && universe_.meets(all[row].version, range);
        });
    }

    [[nodiscard]] versions::Requirement range_of(const Asked& one) const {
        if (one.by != AskedBy::need) return wanted(one).versions;
        const Id requirement = universe_.table().needs[one.index].requirement;
        return requirement == model::no_id ? any_version() : universe_.table().requirement(requirement);
    }

    /// What may still be spent, and what was.
    [[nodiscard]] Limits limits() const {
        Limits limits = limits_;
        limits.work = std::min(limits.work, left_);
        return limits;
    }
    void spend(std::uint64_t work) { left_ -= std::min(left_, work); }

    /// What the user wrote, and modules that can be edited, come before what others have published.
    void sort_by_reach(std::vector<Tag>& core) const {
        sort_asked(universe_, demand_, core);
        std::array<std::vector<Tag>, 4> by_reach;
        for (const Tag tag : core) by_reach[reach(tag)].push_back(tag);
        core.clear();
        for (const auto& tags : by_reach) core.insert(core.end(), tags.begin(), tags.end());
    }

    [[nodiscard]] std::size_t reach(Tag tag) const {
        const Asked one = asked(universe_, demand_, tag);
        if (one.by == AskedBy::pin) return 0;
        if (one.by == AskedBy::root) return 3;
        return universe_.table().rows[one.row].from != nullptr ? 0 : 2;
    }

    struct Tried {
        Verdict verdict = Verdict::impossible;
        std::map<Id, std::uint32_t> rows;  // chosen
    };

    /// The problem with changes. One problem is posed for all tries, so that what one of them taught the next one
    /// knows.
    Tried attempt(const Changes& changes) {
        Tried tried;
        for (const auto& [tag, how] : changes)
            if (selectable_.count(tag) == 0) problem_.reset();
        for (const auto& [tag, how] : changes) selectable_.insert(tag);
        if (!problem_) problem_.emplace(universe_, demand_, Variation{nullptr, &selectable_});
        Solver& solver = problem_->solver();
        std::vector<Literal> assumed;
        std::vector<Tag> tags(selectable_.begin(), selectable_.end());
        sort_asked(universe_, demand_, tags);
        for (const Tag tag : tags) {
            const auto found = changes.find(tag);
            assumed.push_back(problem_->counting(tag, found == changes.end() ? Counts::as_it_is : found->second));
        }
        const std::uint64_t before = solver.work_done();
        tried.verdict = solver.solve(Decisions::frugal, limits(), assumed);
        spend(solver.work_done() - before);
        if (tried.verdict == Verdict::refused || tried.verdict == Verdict::impossible) in_the_way(solver.core());
        if (tried.verdict == Verdict::refused) {
            // What the failure does not rest on does not help by itself: it was not asked whether it counts, and what
            // was changed now only asks for more when it counts as it is.
            const auto& by = solver.refused_by();
            for (std::uint32_t place = 0; place < tags.size(); ++place)
                if (std::find(by.begin(), by.end(), place) == by.end()) helpless_.insert(tags[place]);
        }
        for (Var var = 0; tried.verdict == Verdict::solved && var < solver.variables(); ++var) {
            const std::uint32_t value = solver.value(var);
            if (value == 0 || problem_->module_of(var) == model::no_id || problem_->is_provided(var, value)) continue;
            tried.rows[problem_->module_of(var)] = problem_->row_of(var, value);
        }
        return tried;
    }

    /// Takes note of requirements that cannot all be met. More than the least of them may be in a large set, which
    /// costs further rounds at most: large ones take long to be made minimal, and little goes.
    void in_the_way(std::vector<Tag> core) {
        sort_by_reach(core);
        cores_.push_back(std::move(core));
    }

    /// Advice for requirements without which there is a solution: wider ranges, where these do too.
    std::vector<Advice> with(const std::vector<Tag>& tags) {
        Changes changes;
        bool can_be_softer = false;
        for (const Tag tag : tags) {
            const bool bars = asked(universe_, demand_, tag).by == AskedBy::conflict;
            changes[tag] = bars ? Counts::not_at_all : Counts::in_any_version;
            can_be_softer = can_be_softer || !bars;
        }
        const Tried tried = can_be_softer ? attempt(changes) : Tried{};
        const bool is_soft = tried.verdict == Verdict::solved;
        std::vector<Advice> advice;
        advice.reserve(tags.size());
        for (const Tag tag : tags)
            advice.push_back(advice_of(
                tag, is_soft && changes[tag] == Counts::in_any_version ? widened(tag, tried) : std::nullopt));
        return advice;
    }

    /// The range with as little more as lets the chosen version in: what was found meets it too, and so is the proof.
    [[nodiscard]] std::optional<versions::Requirement> widened(Tag tag, const Tried& tried) const {
        const Asked one = asked(universe_, demand_, tag);
        const auto& table = universe_.table();
        const Id module =
            one.by == AskedBy::need ? table.needs[one.index].module : table.names.find(wanted(one).module);
        const auto chosen = tried.rows.find(module);
        if (chosen == tried.rows.end()) return any_version();
        const versions::Version& version = table.version(table.rows[chosen->second].version);
        const versions::Requirement now = range_of(one);
        if (universe_.meets(table.rows[chosen->second].version, now)) return now;
        std::string wider = versions::widened(now, version);
        // Beside what nothing meets there is no need to ask for both.
        if (wider.find('|') != std::string::npos && !can_be_met(module, now)) wider = "=" + version.text();
        const auto parsed = versions::parse_requirement(wider);
        if (parsed && universe_.meets(table.rows[chosen->second].version, *parsed)) return *parsed;
        return any_version();
    }

    [[nodiscard]] const Wanted& wanted(const Asked& one) const {
        return one.by == AskedBy::pin ? demand_.pins[one.index] : demand_.roots[one.index];
    }

    [[nodiscard]] Advice advice_of(Tag tag, const std::optional<versions::Requirement>& change) const {
        const Clash clash = clash_of(universe_, demand_, tag);
        Advice advice{change ? "relax" : "drop",
                      clash.module,
                      clash.version,
                      clash.requires_module,
                      "",
                      clash.kind,
                      "",
                      clash.place};
        if (change) advice.versions = range_text(*change);
        const std::string place = clash.place.text().empty() ? "" : fmt::format(" ({})", clash.place.text());
        const std::string& to = clash.requires_module;
        if (clash.kind == "pin") {
            advice.sentence = change ? fmt::format("pin {} to `{}`{}", to, advice.versions, place)
                                     : fmt::format("drop the pin on {}{}", to, place);
        } else if (clash.kind == "root") {
            advice.sentence = change ? fmt::format("ask for {} `{}`{}", to, advice.versions, place)
                                     : fmt::format("do without {}{}", to, place);
        } else if (clash.kind == "conflict") {
            advice.sentence = fmt::format("let {} {} be together with {}{}", clash.module, clash.version, to, place);
        } else {
            advice.sentence = change ? fmt::format("relax the requirement of {} {} on {} to `{}`{}", clash.module,
                                                   clash.version, to, advice.versions, place)
                                     : fmt::format("let {} {} do without {}, or make that optional{}", clash.module,
                                                   clash.version, to, place);
        }
        return advice;
    }

    /// Takes note of a set that is in the way and has nothing in common with those that are known. False when there
    /// is none, or none was found.
    bool see_another() {
        std::set<Tag> without;
        for (const auto& core : cores_) without.insert(core.begin(), core.end());
        Problem problem(universe_, demand_, Variation{nullptr, nullptr, &without});
        const Verdict verdict = problem.solver().solve(Decisions::frugal, limits());
        spend(problem.solver().work_done());
        if (verdict == Verdict::impossible) in_the_way(problem.solver().core());
        return verdict == Verdict::impossible;
    }

    /// No single change is enough where two sets that have nothing in common are in the way.
    bool one_may_be_enough() {
        left_ = work_to_look_around;
        const bool two = see_another();
        left_ = most_work_;
        return !two;
    }

    /// A smallest set of requirements without which there is a solution: one that takes something from every set
    /// that is in the way, until there is no further one.
    std::vector<Advice> together() {
        left_ = work_to_look_around;
        for (std::size_t round = 0; round < most_rounds && left_ > 0 && see_another(); ++round) {
        }
        if (left_ == 0) return {};  // so much is wrong that no small change helps
        left_ = most_work_;
        for (const auto& core : cores_) selectable_.insert(core.begin(), core.end());
        problem_.reset();
        auto advice = hit_all([](Tag) { return true; });
        if (advice.empty()) advice = hit_all([&](Tag tag) { return !is_root(tag); });
        if (advice.empty()) advice = none_too_many();
        return advice;
    }

    /// Requirements without which there is a solution; fewer others might do.
    std::vector<Advice> none_too_many() {
        left_ = most_work_ / 4;
        Changes changes;
        for (const Tag tag : selectable_) changes[tag] = Counts::not_at_all;
        for (Verdict verdict = attempt(changes).verdict; verdict != Verdict::solved;
             verdict = attempt(changes).verdict) {
            const std::size_t before = changes.size();
            if (verdict == Verdict::stopped) return {};
            for (const Tag tag : cores_.back()) changes.try_emplace(tag, Counts::not_at_all);
            if (changes.size() == before) return {};
        }
        const std::vector<Tag> dropped = needed_of(std::move(changes));
        return dropped.size() > most_changes ? std::vector<Advice>{} : with(dropped);
    }

    /// Of requirements without which there is a solution, those that have to go as long as the others do: one after
    /// the other counts again where that leaves a solution, the ones hardest to change first.
    std::vector<Tag> needed_of(Changes changes) {
        std::vector<Tag> tags;
        for (const auto& [tag, how] : changes) tags.push_back(tag);
        sort_by_reach(tags);
        for (auto tag = tags.rbegin(); tag != tags.rend() && left_ > 0; ++tag) {
            changes.erase(*tag);
            if (attempt(changes).verdict != Verdict::solved) changes[*tag] = Counts::not_at_all;
        }
        std::erase_if(tags, [&](Tag tag) { return changes.count(tag) == 0; });
        return tags;
    }

    /// The fewest of the things asked for from outside that have to go.
    std::vector<Advice> without_roots() {
        left_ = most_work_ / 4;
        const std::vector<Tag> roots = root_tags(universe_, demand_);
        selectable_ = {roots.begin(), roots.end()};
        problem_.reset();
        return hit_all([&](Tag tag) { return is_root(tag); }, std::max(few_roots, roots.size() / 2));
    }

    template <class May>
    std::vector<Advice> hit_all(May may, std::size_t most = SIZE_MAX) {
        for (std::size_t round = 0; round < most_rounds && left_ > 0; ++round) {
            std::vector<std::vector<Tag>> lists;
            for (const auto& core : cores_) {
                lists.emplace_back();
                std::copy_if(core.begin(), core.end(), std::back_inserter(lists.back()), may);
                if (lists.back().empty()) return {};
            }
            const std::vector<Tag> dropped = smallest_hit(lists);
            if (dropped.size() > most) return {};
            if (dropped.size() == demand_.roots.size() &&
                std::all_of(dropped.begin(), dropped.end(), [&](Tag tag) { return is_root(tag); }))
                return {};  // to ask for nothing is no advice
            Changes changes;
            for (const Tag tag : dropped) changes[tag] = Counts::not_at_all;
            const Verdict verdict = attempt(changes).verdict;
            if (verdict == Verdict::solved) return with(needed_of(std::move(changes)));
            if (verdict == Verdict::stopped) return {};
        }
        return {};
    }

    const Universe& universe_;
    const Demand& demand_;
    const Limits& limits_;
    std::set<Tag> selectable_;
    std::set<Tag> helpless_;               // a change of one of these is not enough
    std::vector<std::vector<Tag>> cores_;  // sets of requirements that cannot all be met
    std::optional<Problem> problem_;
    std::uint64_t most_work_ = work_for_advice;  // for each way of finding advice
    std::uint64_t left_ = work_for_advice;       // that may still be spent
};

}  // namespace

std::vector<std::vector<Advice>> advice_for(const Universe& universe, const Demand& demand, const LeastCore& core,
                                            std::size_t most, const Limits& limits) {
    if (most == 0) return {};
    return Adviser(universe, demand, limits).run(core, most);
}

}  // namespace envar::resolve
