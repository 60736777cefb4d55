// From one proof that a requirement cannot be left out to the next ones, without a search.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <vector>

#include "core/resolve/problem.hpp"

namespace envar::resolve {

/// A choice of versions that meets all requirements of a core but one proves that this one cannot be left out. Often
/// the choice for a single module can be turned so that it meets all but another one. Marques-Silva and Lynce, "On
/// Improving MUS Extraction Algorithms" (2011), there for formulas.
class Turning {
  public:
    /// A row for each module, none for those that are not there.
    using Choice = std::function<std::uint32_t(model::Id)>;

    Turning(const Universe& universe, const Demand& demand, const std::vector<Tag>& tags);

    /// Marks in `proven` all that can be proven from a choice that meets all of `in_core` but `unmet`. All by place
    /// in the tags. Does nothing where modules stand for others, or where the choice is none of that kind.
    void turn(const Choice& choice, std::size_t unmet, const std::vector<bool>& in_core, std::vector<bool>& proven);

  private:
    static constexpr std::size_t outside = SIZE_MAX;
    /// A requirement: where `from` has the value, `to` must have one of those that are fine. Values: 0, not there;
    /// then the module's rows.
    struct Ask {
        std::size_t from = outside;  // of modules_
        std::size_t from_value = 0;
        std::size_t to = 0;
        std::vector<bool> fine;
    };
    struct Module {
        std::vector<std::uint32_t> rows;
        std::vector<std::size_t> asked;              // of it, by others or from outside
        std::vector<std::vector<std::size_t>> asks;  // by each of its values, from 0 on; may be short
    };
    struct Turned {
        std::vector<std::uint32_t> values;
        std::size_t unmet;
    };

    std::size_t module_of(const Universe& universe, const Demand& demand, model::Id name);
    void add_ask(const Universe& universe, const Demand& demand, Tag tag);
    template <class Accepts>
    void make_fine(Ask& ask, bool fine_without, Accepts accepts) const;
    [[nodiscard]] bool is_met(const Ask& ask, const std::vector<std::uint32_t>& values) const {
        return (ask.from != outside && values[ask.from] != ask.from_value) || ask.fine[values[ask.to]];
    }
    /// Takes note of what is asked of the module in this choice, whatever its own value.
    void note_active(std::size_t module, const std::vector<std::uint32_t>& values, const std::vector<bool>& in_core);
    /// The only requirement that the module's choice leaves unmet; outside: there is none, or several. For the module
    /// that note_active was called for last.
    [[nodiscard]] std::size_t only_unmet(std::size_t module, const std::vector<std::uint32_t>& values,
                                         const std::vector<bool>& in_core) const;

    std::vector<Module> modules_;
    std::vector<model::Id> names_;
    std::map<model::Id, std::size_t> places_;
    std::vector<Ask> asks_;
    std::vector<std::size_t> active_;
    bool is_usable_ = true;
};

}  // namespace envar::resolve
