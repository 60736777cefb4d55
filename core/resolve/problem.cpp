#include "core/resolve/problem.hpp"

#include <algorithm>
#include <utility>

namespace envar::resolve {

using model::Id;

namespace {

/// Tags: all needs of the table, then its conflicts, then roots, pins and givens.
struct Tags {
    Tags(const Universe& universe, const Demand& demand)
        : bars(static_cast<Tag>(universe.table().needs.size())),
          roots(bars + static_cast<Tag>(universe.table().bars.size())),
          pins(roots + static_cast<Tag>(demand.roots.size())),
          givens(pins + static_cast<Tag>(demand.pins.size())) {}
    Tag bars, roots, pins, givens;
};

}  // namespace

Problem::Problem(const Universe& universe, const Demand& demand, const Variation& variation)
    : universe_(universe),
      demand_(demand),
      variation_(variation),
      solver_(*this),
      vars_(universe.table().names.size(), no_var) {
    const Tags tags(universe, demand);
    for (std::size_t i = 0; i < demand.roots.size(); ++i)
        add_wanted(demand.roots[i], Kind::there, tags.roots + static_cast<Tag>(i));
    for (std::size_t i = 0; i < demand.pins.size(); ++i)
        add_wanted(demand.pins[i], Kind::if_there, tags.pins + static_cast<Tag>(i));
    for (std::size_t i = 0; i < demand.givens.size(); ++i)
        add_given(demand.givens[i], tags.givens + static_cast<Tag>(i));
}

bool Problem::active(Tag tag) const { return variation_.only == nullptr || variation_.only->count(tag) != 0; }

const std::optional<versions::Requirement>* Problem::changed(Tag tag) const {
    if (variation_.changed == nullptr) return nullptr;
    const auto found = variation_.changed->find(tag);
    return found == variation_.changed->end() ? nullptr : &found->second;
}

Var Problem::var_of(Id module) {
    if (vars_[module] != no_var) return vars_[module];
    vars_[module] = static_cast<Var>(modules_.size());
    modules_.push_back(module);
    first_value_.push_back(static_cast<std::uint32_t>(values_.size()));
    const auto& rows = universe_.table().rows;
    const auto counts = [&](std::uint32_t row) { return !rows[row].withdrawn || demand_.held.count(row) != 0; };
    const std::size_t first = values_.size();
    for (const std::uint32_t row : universe_.rows_of(module))
        if (counts(row)) values_.push_back({row, no_row, universe_.rank(rows[row].version)});
    const std::size_t own = values_.size();
    for (const auto& provider : universe_.providers_of(module))
        if (counts(provider.row)) values_.push_back({provider.row, provider.offer, 0});
    if (universe_.setting().oldest_first) {
        std::reverse(values_.begin() + static_cast<std::ptrdiff_t>(first),
                     values_.begin() + static_cast<std::ptrdiff_t>(own));
        std::reverse(values_.begin() + static_cast<std::ptrdiff_t>(own), values_.end());
    }
    return solver_.add_variable(static_cast<std::uint32_t>(values_.size() - first));
}

std::uint32_t Problem::value_of(Var var, std::uint32_t row) const {
    for (std::uint32_t value = 1; value <= solver_.sets().values(var); ++value)
        if (row_of(var, value) == row && !is_provided(var, value)) return value;
    return 0;
}

Literal Problem::within(Var var, Kind kind, const versions::Requirement& requirement) {
    return literal(var, kind, [&](const Value& value) {
        if (value.offer == no_row) return universe_.meets(universe_.table().rows[value.row].version, requirement);
        const Id version = universe_.table().offers[value.offer].version;
        return version == model::no_id ? requirement.is_any() : universe_.meets(version, requirement);
    });
}

Problem::Slot& Problem::slot(std::uint64_t key) {
    constexpr std::uint64_t golden = 0x9E3779B97F4A7C15U;
    if (2 * (used_slots_ + 1) > slots_.size()) {
        std::vector<Slot> old =
            std::exchange(slots_, std::vector<Slot>(std::max<std::size_t>(64, 2 * slots_.size())));
        used_slots_ = 0;
        for (const Slot& one : old)
            if (one.key != 0) slot(one.key) = one, ++used_slots_;
    }
    const std::size_t mask = slots_.size() - 1;
    std::size_t at = static_cast<std::size_t>((key * golden) >> 32U) & mask;
    while (slots_[at].key != 0 && slots_[at].key != key) at = (at + 1) & mask;
    return slots_[at];
}

Solver::Target Problem::target(Id module, Id requirement, Kind kind) {
    const Var var = var_of(module);
    const std::uint64_t key =
        (std::uint64_t{var} << 34U) | (std::uint64_t{requirement} << 2U) | (static_cast<std::uint64_t>(kind) + 1);
    Slot& place = slot(key);
    if (place.key == key) return place.target;
    place.key = key;
    ++used_slots_;
    const auto& table = universe_.table();
    const bool any = requirement == model::no_id || table.requirement(requirement).is_any();
    const auto& intervals = universe_.intervals_of(requirement);
    return place.target = solver_.add_target(literal(var, kind, [&](const Value& value) {
        if (value.offer == no_row) return universe_.within(value.rank, intervals);
        const Id version = table.offers[value.offer].version;
        return version == model::no_id ? any : universe_.within(universe_.rank(version), intervals);
    }));
}

void Problem::ask(Var var, std::uint32_t value, Id module, Id requirement, Kind kind, Tag tag) {
    if (!active(tag)) return;
    const auto* other = changed(tag);
    if (other == nullptr) return solver_.add_rule(var, value, target(module, requirement, kind), tag);
    if (*other) solver_.add_rule(var, value, solver_.add_target(within(var_of(module), kind, **other)), tag);
}

void Problem::rules_of(Var var, std::uint32_t value) {
    const Value one = values_[first_value_[var] + value - 1];
    const auto& table = universe_.table();
    const model::Row& row = table.rows[one.row];
    if (one.offer != no_row) {  // it is what the provider is
        const Var provider = var_of(row.module);
        return solver_.add_rule(var, value, solver_.add_target(is_row(provider, one.row, false)), no_tag);
    }
    const Tags tags(universe_, demand_);
    for (std::uint32_t i = row.first_need; i < row.first_need + row.needs; ++i) {
        const model::Need& need = table.needs[i];
        if (universe_.counts(row, need))
            ask(var, value, need.module, need.requirement, need.optional ? Kind::if_there : Kind::there, i);
    }
    for (std::uint32_t i = row.first_bar; i < row.first_bar + row.bars; ++i) {
        const model::Bar& bar = table.bars[i];
        const Tag tag = tags.bars + i;
        if (bar.module == row.module || !active(tag)) continue;
        // Who provides what it cannot be with stands for it, and is not barred by itself.
        const Var barred = var_of(bar.module);
        const bool stands_for_it =
            std::any_of(values_.begin() + first_value_[barred],
                        values_.begin() + first_value_[barred] + solver_.sets().values(barred),
                        [&](const Value& other) { return table.rows[other.row].module == row.module; });
        if (!stands_for_it) {
            ask(var, value, bar.module, bar.requirement, Kind::not_there, tag);
        } else if (changed(tag) == nullptr) {
            const Literal others = literal(barred, Kind::not_there, [&](const Value& other) {
                return other.offer == no_row && universe_.meets(table.rows[other.row].version, bar.requirement);
            });
            solver_.add_rule(var, value, solver_.add_target(others), tag);
        }
    }
}

Literal Problem::is_row(Var var, std::uint32_t row, bool or_none) {
    return literal(var, or_none ? Kind::if_there : Kind::there,
                   [&](const Value& value) { return value.row == row && value.offer == no_row; });
}

Literal Problem::satisfies(const model::Need& need) {
    const Solver::Target made = target(need.module, need.requirement, Kind::there);
    return solver_.literal(made);
}

void Problem::add_wanted(const Wanted& wanted, Kind kind, Tag tag) {
    if (!active(tag)) return;
    const auto* other = changed(tag);
    if (other != nullptr && !*other) return;
    const Id module = universe_.table().names.find(wanted.module);
    if (module == model::no_id && kind == Kind::if_there) return;
    const Var var = module == model::no_id ? solver_.add_variable(0) : var_of(module);
    if (module == model::no_id) {
        modules_.push_back(module);
        first_value_.push_back(static_cast<std::uint32_t>(values_.size()));
    }
    const Literal made = wanted.everything ? literal(var, kind, [](const Value&) { return true; })
                                           : within(var, kind, other != nullptr ? **other : wanted.versions);
    solver_.add_fact(solver_.add_target(made), tag);
}

void Problem::add_given(const Given& given, Tag tag) {
    if (!active(tag)) return;
    const Var var = var_of(given.module);
    solver_.add_fact(solver_.add_target(is_row(var, given.row, false)), tag);
}

Asked asked(const Universe& universe, const Demand& demand, Tag tag) {
    const Tags tags(universe, demand);
    const auto& rows = universe.table().rows;
    const auto row_with = [&](std::uint32_t index, auto first) {
        // Rows hold their needs one behind the other, in the order of the rows.
        std::size_t low = 0, high = rows.size();
        while (high - low > 1) {
            const std::size_t middle = (low + high) / 2;
            (rows[middle].*first <= index ? low : high) = middle;
        }
        return static_cast<std::uint32_t>(low);
    };
    if (tag < tags.bars) return {AskedBy::need, row_with(tag, &model::Row::first_need), tag};
    if (tag < tags.roots)
        return {AskedBy::conflict, row_with(tag - tags.bars, &model::Row::first_bar), tag - tags.bars};
    if (tag < tags.pins) return {AskedBy::root, no_row, tag - tags.roots};
    if (tag < tags.givens) return {AskedBy::pin, no_row, tag - tags.pins};
    return {AskedBy::given, no_row, tag - tags.givens};
}

}  // namespace envar::resolve
