// The search behind the choice of versions: conflict-driven, over variables with many values.
//
// A variable is a module. Its value 0 means that the module is left out; 1, 2, … are its versions, the one to be
// liked best first. A literal says that a variable has one of a set of values. A rule says "if this variable has this
// value, then that one has one of these"; a clause says that one of its literals holds. The domain of a variable, the
// values it can still have, only shrinks: by a decision, by a rule, or because all other literals of a clause cannot
// hold any more. When a domain would become empty, the reasons are resolved, set by set, into a new clause that tells
// what was decided wrongly; it is kept, and decisions are taken back as far as it asks. A clause remembers what it
// was made from, so that in the end the rules can be told from which it follows that there is no solution.
//
// Literature: Marques-Silva and Sakallah, "GRASP: A Search Algorithm for Propositional Satisfiability" (1999);
// Moskewicz and others, "Chaff: Engineering an Efficient SAT Solver" (2001) for activities and watched literals;
// Beckert, Hähnle and Manyà, "The SAT Problem of Signed CNF Formulas" (2000) for literals with sets.
//
// Rules are asked for once they matter, so that the work does not grow with what lies about: those of a value when it
// is tried, and all those of a needed module only when conflicts show that looking ahead pays.
#pragma once

#include <atomic>
#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include "core/resolve/value_sets.hpp"

namespace envar::resolve {

using Tag = std::uint32_t;  // what a rule is called outside; the solver only hands it back
inline constexpr Tag no_tag = UINT32_MAX;

struct Literal {
    Var var = 0;
    SetRef set = 0;
};

enum class Verdict {
    solved,
    impossible,  // whatever is decided; see core()
    refused,     // with what was assumed; see refused_by()
    stopped,     // by a limit, before a solution was found
};

struct Limits {
    std::uint64_t conflicts = UINT64_MAX;     // of one search
    std::uint64_t work = UINT64_MAX;          // of one search: changes of domains, and rules asked for
    std::uint64_t ahead = 100;                // conflicts after which rules are followed backwards too
    std::uint64_t patience = 100;             // conflicts after which a search in order is freer on its way
    std::uint64_t proving = UINT64_MAX;       // work that a search in order may take behind its first solution
    std::uint64_t optional = UINT64_MAX;      // conflicts for each thing that is wanted besides
    const std::atomic<bool>* stop = nullptr;  // set from outside to end the search; may be null
    [[nodiscard]] bool stop_asked() const { return stop != nullptr && stop->load(); }
};

/// How decisions are taken. `in_order`: best value left of the module that was needed first; the solution found is
/// the one in which, going through the modules in that order, each has the best value that any solution with the same
/// values before it has. Where proving that would go beyond a limit, the variable is as in the best solution known
/// (see unproven()); what is not in order yet is frugal. `free`: whatever is likely to be quick. `frugal`: likewise,
/// with as few modules as are easily found.
enum class Decisions { in_order, free, frugal };

class Solver {
  public:
    /// Gives the rules of a value, once, when it is first tried, by calls of add_rule.
    class Source {
      public:
        virtual ~Source() = default;
        virtual void rules_of(Var var, std::uint32_t value) = 0;
        /// Those of all its values will be asked for now: what they are made from may be fetched together.
        virtual void expect(Var var) const = 0;
        /// About as many rules as there may be in all.
        [[nodiscard]] virtual std::size_t most_rules() const = 0;
    };

    explicit Solver(Source& source) : source_(source) {}
    Solver(const Solver&) = delete;
    Solver& operator=(const Solver&) = delete;

    /// A variable with `values` values besides 0.
    Var add_variable(std::uint32_t values);
    [[nodiscard]] ValueSets& sets() { return sets_; }
    [[nodiscard]] const ValueSets& sets() const { return sets_; }

    /// A literal that rules may lead to. Sets must not change from then on.
    using Target = std::uint32_t;
    Target add_target(Literal literal);
    [[nodiscard]] Literal literal(Target target) const { return targets_[target].literal; }
    void add_rule(Var var, std::uint32_t value, Target target, Tag tag);
    /// A rule without a condition; only before the first search.
    void add_fact(Target target, Tag tag);

    /// The literal holds from now on, whatever is assumed.
    void settle(Literal literal);

    /// Searches. Literals of `assumed` are decided first, in their order.
    Verdict solve(Decisions decisions, const Limits& limits, std::span<const Literal> assumed = {});
    /// After a solution: whether the literal can hold too, with all that was decided left as it is. After `solved`
    /// the solution has it, with what it needs; else it stays. The literal's module must be one that nobody needs.
    Verdict also(Literal wish, const Limits& limits);
    void forget_decisions() { back_to(0); }

    /// After a solution: the value, 0 for what nobody needs.
    [[nodiscard]] std::uint32_t value(Var var) const;
    /// After `solved` in order: the variables that are needed, in the order in which they were.
    [[nodiscard]] const std::vector<Var>& needed() const { return queue_; }
    /// Calls each(var) for what the value asks for without a choice.
    template <class Each>
    void for_needs(Var var, std::uint32_t value, Each each) {
        for (std::uint32_t at = rules_of(var, value); at != none; at = rules_[at].next_of_value)
            if (targets_[rules_[at].target].requires_it && rules_[at].from != none)
                each(targets_[rules_[at].target].literal.var);
    }
    [[nodiscard]] std::uint32_t variables() const { return static_cast<std::uint32_t>(variables_.size()); }
    /// After `solved` in order: how many of them may have a better value in another solution, which a limit kept from
    /// being found out.
    [[nodiscard]] std::size_t unproven() const;
    /// After `refused`: the places in `assumed` of literals that cannot all hold.
    [[nodiscard]] const std::vector<std::uint32_t>& refused_by() const { return refused_by_; }
    /// After `impossible`: the tags of rules that together leave no solution, rising, each once. After `refused`: of
    /// those that leave none with what was assumed.
    [[nodiscard]] std::vector<Tag> core() const;
    [[nodiscard]] std::uint64_t conflicts() const { return conflicts_; }
    [[nodiscard]] std::uint64_t work_done() const { return work_done_; }

  private:
    static constexpr std::uint32_t none = UINT32_MAX;

    /// Why a domain shrank.
    enum class Because : std::uint32_t { decision, rule, clause, entry };
    struct Reason {
        std::uint32_t bits = 0;
        static Reason of(Because because, std::uint32_t number) {
            return {(static_cast<std::uint32_t>(because) << 30U) | number};
        }
        [[nodiscard]] Because because() const { return static_cast<Because>(bits >> 30U); }
        [[nodiscard]] std::uint32_t number() const { return bits & 0x3FFFFFFFU; }
    };
    struct Rule {
        Var from = none;  // none: a fact
        std::uint32_t value = 0;
        Target target = 0;
        Tag tag = no_tag;
        std::uint32_t next_of_value = none;
    };
    struct TargetData {
        Literal literal;
        std::uint32_t asked = none;  // place in the list of its variable, see Ahead
        bool requires_it = false;    // 0 is not in the set
    };
    struct Clause {
        std::uint32_t first = 0, size = 0;             // of literals_
        std::uint32_t first_made_of = 0, made_of = 0;  // of made_of_
        std::uint32_t levels = 0;                      // different decisions in it when it was made
        float activity = 0;
        std::uint32_t next = 2;  // where to look for another literal to watch
        bool dropped = false;
    };
    struct Entry {
        Var var;
        Reason reason;
        std::uint32_t previous;  // entry of the same variable
        std::uint32_t level;
        std::uint32_t before;  // the domain before it, in saved_
    };
    struct Variable {
        std::uint32_t domain = 0;       // in domains_
        std::uint32_t latest = none;    // entry
        std::uint32_t followed = 0;     // from all its entries before this one it is known what follows
        std::uint32_t first_value = 0;  // in rules_of_value_
        std::uint32_t liked = 0;        // value to try first
        std::uint32_t in_heap = none;
        bool looks_ahead = false;
        bool in_queue = false;
        double activity = 0;
    };
    struct Level {
        std::uint32_t trail;
    };
    struct Watch {
        std::uint32_t clause;
        std::uint64_t first_word;  // of the watched literal's set
    };

    /// Which values of others ask for something of a variable. Where its values fit in a word, it is kept for each of
    /// them who is content with it, 64 that ask to a block: who has nothing left is found in a few words. Else it is
    /// kept for each literal that is asked for who asks.
    struct Ahead {
        struct Asking {
            std::uint32_t bit;  // of the asking value, counted through all of domains_
            std::uint32_t rule;
        };
        struct Asked {
            Target target;
            std::uint64_t first_word;                   // of the literal's set
            std::uint32_t first = none, latest = none;  // who asks
        };
        std::vector<Asking> asking;
        std::vector<std::uint64_t> content;  // of each block, for each value
        std::vector<Asked> asked;
        std::vector<std::uint32_t> next;  // of asking: who asks for the same
    };

    // Values and domains (solver.cpp).
    [[nodiscard]] const std::uint64_t* domain(Var var) const { return &domains_[variables_[var].domain]; }
    [[nodiscard]] std::uint32_t words(Var var) const { return sets_.words(var); }
    [[nodiscard]] bool can_hold(const Literal& literal) const {
        return sets_.meet(literal.var, domain(literal.var), sets_.at(literal.set));
    }
    [[nodiscard]] bool must_hold(const Literal& literal) const {
        return sets_.within(literal.var, domain(literal.var), sets_.at(literal.set));
    }
    [[nodiscard]] bool is_needed(Var var) const { return (*domain(var) & 1U) == 0; }
    [[nodiscard]] bool is_fixed(Var var) const { return sets_.is_one(var, domain(var)); }
    [[nodiscard]] bool is_open(Var var) const { return is_needed(var) && !is_fixed(var); }
    [[nodiscard]] std::uint32_t level() const { return static_cast<std::uint32_t>(levels_.size()); }
    void shrink(Var var, const std::uint64_t* set, Reason reason);
    void shrink_without(Var var, std::uint32_t value, Reason reason);
    void new_level() { levels_.push_back({static_cast<std::uint32_t>(trail_.size())}); }
    void back_to(std::uint32_t level);

    // Propagation (solver.cpp).
    void propagate();
    void say_again();
    void follow_rules(Var var);
    void look_ahead(Var var);
    void note_asking(Target target, Ahead::Asking asking);
    void look_back(Var var, const std::uint64_t* before);
    void drop(const Ahead::Asking& asking);
    void look_back_far(Var var, const std::uint64_t* before);
    void visit_watches(Var var);
    bool visit(const Watch& watch, Var var);
    std::uint32_t rules_of(Var var, std::uint32_t value);

    // Search (search.cpp).
    Verdict search(Decisions decisions, const Limits& limits, std::span<const Literal> assumed, std::uint32_t floor);
    void note_solution();
    void like_what_is_known();
    [[nodiscard]] bool is_as_known(std::uint32_t level) const;
    [[nodiscard]] std::uint32_t levels_as_known(std::uint32_t from, std::uint32_t to) const;
    bool decide_in_order(bool leave);
    Var next_in_order();
    bool decide_freely(Decisions decisions);
    std::uint32_t frugal(Var var);
    bool try_value(Var var, std::uint32_t value);
    void take_up_needed(Var var);
    void watch_all_ahead();
    void narrow();
    std::uint32_t reusable_level();
    void drop_clauses();
    void heap_insert(Var var);
    void heap_up(std::uint32_t at);
    void heap_down(std::uint32_t at);
    Var heap_take(std::uint32_t at);
    bool has_open();
    std::uint32_t likeliest_in_heap();
    void bump(Var var);

    // What all values of a needed variable ask for (narrow.cpp).
    struct Common {
        Var var;
        std::vector<std::uint64_t> set;
        std::vector<Reason> rules;
    };
    std::vector<std::uint32_t> common_of_;  // by variable, while one is looked at
    void narrow_by(Var var);
    void narrow_by_one(std::vector<Common>& common, Var var, std::uint32_t value);

    // Learning (learning.cpp).
    bool learn(bool in_order, std::uint32_t floor);
    void analyse_refusal(std::span<const Literal> assumed, std::uint32_t floor);
    template <class Each>
    void for_literals(Reason reason, Each each) const;
    [[nodiscard]] std::uint32_t falsified_at(Var var, const std::uint64_t* set) const {
        return falsified_at(var, set, variables_[var].latest);
    }
    [[nodiscard]] std::uint32_t falsified_at(Var var, const std::uint64_t* set, std::uint32_t latest) const;
    void take_in(Var var, const std::uint64_t* set);
    void take_reason(Reason reason, Var except);
    void resolve_top();
    void place(Var var, std::uint32_t latest);
    void note_ground(Var var, const std::uint64_t* set, std::uint32_t at);
    std::uint32_t store(std::uint32_t& second_level);
    std::uint32_t store_fact(Var var, const std::uint64_t* set);

    Source& source_;
    ValueSets sets_;
    std::vector<Variable> variables_;
    std::vector<std::uint64_t> domains_;
    std::vector<Var> var_of_word_;               // of domains_
    std::vector<std::uint32_t> rules_of_value_;  // first rule of each value; unknown: not asked for yet
    std::vector<Rule> rules_;
    std::vector<TargetData> targets_;
    std::vector<Ahead> ahead_of_;
    std::vector<std::uint32_t> facts_;
    std::vector<Entry> trail_;
    std::vector<std::uint64_t> saved_;
    std::vector<Level> levels_;
    /// A clause whose first literal follows at a lower level than where it was taken up last.
    struct Late {
        std::uint32_t clause;
        std::uint32_t level;
        std::uint32_t taken_up;
    };
    std::vector<Late> late_;
    std::uint32_t head_ = 0;
    bool conflicting_ = false;
    Reason conflict_;
    bool started_ = false;
    bool impossible_ = false;
    std::uint64_t conflicts_ = 0, work_done_ = 0;
    bool ahead_ = false;          // rules are followed backwards too
    std::uint32_t narrowed_ = 0;  // entries without a decision from which it is known what all values ask for
    std::vector<std::uint64_t> scratch_, was_, only_, ground_;

    std::vector<Clause> clauses_;
    std::vector<Literal> literals_;
    std::vector<Reason> made_of_;
    std::vector<std::vector<Watch>> watches_;
    std::size_t live_ = 0, most_live_ = 4000;
    double bump_ = 1.0;
    float clause_bump_ = 1.0F;
    struct Candidate {
        double activity;  // as its variable's
        Var var;
    };
    std::vector<Candidate> heap_;

    // Decisions in order: needed variables, and at which trail size each was dealt with.
    std::vector<Var> queue_;
    struct Dealt {
        std::uint32_t trail;
        std::uint32_t queue;
    };
    std::vector<Dealt> dealt_;
    std::vector<Literal> assumed_;  // of the search before
    std::vector<std::uint32_t> refused_by_;
    std::vector<std::uint32_t> known_;  // the latest solution of this search, by variable; empty: none yet
    /// Whether a variable is to be as in that solution, and whether better values were possible then.
    enum class Left : std::uint8_t { no, as_known, unproven };
    std::vector<Left> left_;  // by variable; empty: none is left
    std::vector<Reason> refused_since_;

    // Of the analysis of one conflict.
    struct Work {
        bool in = false;
        std::uint32_t at = 0;  // the entry that made it false
    };
    std::vector<Work> work_;
    std::vector<std::uint64_t> work_sets_;  // as domains_
    [[nodiscard]] std::uint64_t* work_set(Var var) { return &work_sets_[variables_[var].domain]; }
    std::vector<Var> working_;
    std::vector<Reason> made_now_;
    std::vector<std::pair<std::uint32_t, Var>> open_;  // heap by entry
    std::uint32_t conflict_level_ = 0;
    std::uint32_t at_level_ = 0;  // literals that became false at that level
};

}  // namespace envar::resolve
