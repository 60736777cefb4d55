#include "core/resolve/problem.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

namespace envar::resolve {

using model::Id;

namespace {

const versions::Requirement every_release{{}, "any"};

/// Tags: all needs of the table, then its conflicts, then roots, pins and givens.
struct Tags {
    Tags(const Universe& universe, const Demand& demand)
        : bars(static_cast<Tag>(universe.table().needs.size())),
          roots(bars + static_cast<Tag>(universe.table().bars.size())),
          pins(roots + static_cast<Tag>(demand.roots.size())),
          givens(pins + static_cast<Tag>(demand.pins.size())) {}
    Tag bars, roots, pins, givens;
};

/// The row whose first number is the last one up to `index`, of rows that have `count` numbers one behind the other.
/// They have about as many each: the place is guessed a few times, each time from where the guess before was.
template <class First>
std::uint32_t row_with(const std::vector<model::Row>& rows, First first, std::size_t count, std::uint32_t index) {
    constexpr int guesses = 4;
    const auto size = static_cast<std::int64_t>(rows.size());
    const auto is_behind = [&](std::int64_t row) {
        return row >= size || rows[static_cast<std::size_t>(row)].*first > index;
    };
    std::int64_t at = 0;
    for (int i = 0; i < guesses; ++i) {
        const std::int64_t off = std::int64_t{index} - rows[static_cast<std::size_t>(at)].*first;
        at = std::clamp<std::int64_t>(at + off * size / static_cast<std::int64_t>(count), 0, size - 1);
    }
    std::int64_t low = at, high = at + 1;  // the row is low or behind it, and before high
    for (std::int64_t step = 1; is_behind(low); step *= 2) high = low, low = std::max<std::int64_t>(low - step, 0);
    for (std::int64_t step = 1; !is_behind(high); step *= 2) low = high, high = std::min(high + step, size);
    while (high - low > 1) {
        const std::int64_t middle = (low + high) / 2;
        (is_behind(middle) ? high : low) = middle;
    }
    return static_cast<std::uint32_t>(low);
}

}  // namespace

Problem::Problem(const Universe& universe, const Demand& demand, const Variation& variation)
    : universe_(universe),
      demand_(demand),
      variation_(variation),
      solver_(*this),
      vars_(universe.table().names.size(), no_var) {
    const Tags tags(universe, demand);
    if (variation.selectable != nullptr)
        for (const Tag tag : *variation.selectable) {
            const Var var = add_special(static_cast<std::uint32_t>(Counts::not_at_all));
            selector_of_[tag] = var;
            selectors_[var].tag = tag;
        }
    for (std::size_t i = 0; i < demand.roots.size(); ++i)
        add_wanted(demand.roots[i], Kind::there, tags.roots + static_cast<Tag>(i));
    for (std::size_t i = 0; i < demand.pins.size(); ++i)
        add_wanted(demand.pins[i], Kind::if_there, tags.pins + static_cast<Tag>(i));
    for (std::size_t i = 0; i < demand.givens.size(); ++i)
        add_given(demand.givens[i], tags.givens + static_cast<Tag>(i));
}

bool Problem::active(Tag tag) const {
    return (variation_.only == nullptr || variation_.only->count(tag) != 0) &&
           (variation_.without == nullptr || variation_.without->count(tag) == 0);
}

bool Problem::selectable(Tag tag) const {
    return variation_.selectable != nullptr && variation_.selectable->count(tag) != 0;
}

/// A variable that is no module of the table.
Var Problem::add_special(std::uint32_t values) {
    modules_.push_back(model::no_id);
    first_value_.push_back(static_cast<std::uint32_t>(values_.size()));
    values_.resize(values_.size() + values, Value{no_row, 0});
    keys_.resize(values_.size());
    has_providers_.push_back(false);
    return solver_.add_variable(values);
}

/// However far it counts, but that is to be said.
Solver::Target Problem::any_count(Var selector) {
    const SetRef any = solver_.sets().add(selector, true);
    solver_.sets().take(any, 0);
    return solver_.add_target({selector, any});
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
        if (counts(row)) values_.push_back({row, no_row});
    const std::size_t own = values_.size();
    for (const auto& provider : universe_.providers_of(module))
        if (counts(provider.row)) values_.push_back({provider.row, provider.offer});
    if (universe_.setting().oldest_first) {
        std::reverse(values_.begin() + static_cast<std::ptrdiff_t>(first),
                     values_.begin() + static_cast<std::ptrdiff_t>(own));
        std::reverse(values_.begin() + static_cast<std::ptrdiff_t>(own), values_.end());
    }
    has_providers_.push_back(own != values_.size());
    for (std::size_t i = first; i < values_.size(); ++i) keys_.push_back(universe_.key(rows[values_[i].row].version));
    return solver_.add_variable(static_cast<std::uint32_t>(values_.size() - first));
}

/// The usual case of `literal`: one range, on versions of the module itself, in one word.
Literal Problem::ranged(Var var, Kind kind, const Universe::Interval& interval) {
    ValueSets& sets = solver_.sets();
    const std::uint32_t* keys = keys_.data() + first_value_[var];
    const std::uint32_t count = sets.values(var);
    std::uint64_t inside = 0;
    for (std::uint32_t i = 0; i < count; ++i)
        inside |= std::uint64_t{keys[i] - interval.from < interval.to - interval.from} << (i + 1);
    if (bars(kind)) inside ^= ((std::uint64_t{1} << count) - 1) << 1U;
    if (kind != Kind::there) inside |= 1U;
    return {var, sets.add(var, &inside)};
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
    const auto intervals = universe_.intervals_of(requirement);
    if (is_ranged(var) && intervals.size() == 1) return solver_.add_target(ranged(var, kind, intervals.front()));
    const std::uint64_t key =
        (std::uint64_t{var} + 1) << 34U | std::uint64_t{requirement} << 2U | static_cast<std::uint64_t>(kind);
    Slot& place = slot(key);
    if (place.key == key) return place.target;
    place.key = key;
    ++used_slots_;
    const auto& table = universe_.table();
    const bool any = requirement == model::no_id || table.requirement(requirement).is_any();
    return place.target = solver_.add_target(literal(var, kind, [&](const Value& value) {
        if (value.offer == no_row) return Universe::within(universe_.key(table.rows[value.row].version), intervals);
        if (kind == Kind::not_there_itself) return false;
        const Id version = table.offers[value.offer].version;
        return version == model::no_id ? any : Universe::within(universe_.key(version), intervals);
    }));
}

void Problem::ask(Var var, std::uint32_t value, const Ask& ask, Tag tag) {
    if (!active(tag)) return;
    if (!selectable(tag)) return solver_.add_rule(var, value, target(ask.module, ask.requirement, ask.kind), tag);
    const Var selector = selector_of_.at(tag);
    selectors_.at(selector).ask = ask;
    solver_.add_rule(var, value, any_count(selector), no_tag);
}

void Problem::rules_of_selector(Var var, const Selector& selector, Counts how) {
    const Ask& ask = selector.ask;
    const auto value = static_cast<std::uint32_t>(how);
    if (how == Counts::not_at_all) return;
    if (const auto& outer = how == Counts::as_it_is ? selector.as_it_is : selector.in_any_version)
        return solver_.add_rule(var, value, solver_.add_target(*outer), selector.tag);
    if (bars(ask.kind) && how == Counts::in_any_version) return;
    // Any version is what the range `any` means: pre-releases are none of it.
    const Solver::Target wanted = how == Counts::as_it_is
                                      ? target(ask.module, ask.requirement, ask.kind)
                                      : solver_.add_target(within(var_of(ask.module), ask.kind, every_release));
    solver_.add_rule(var, value, wanted, selector.tag);
}

void Problem::rules_of(Var var, std::uint32_t value) {
    if (const auto found = selectors_.find(var); found != selectors_.end())
        return rules_of_selector(var, found->second, static_cast<Counts>(value));
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
            ask(var, value, {need.module, need.requirement, need.optional ? Kind::if_there : Kind::there}, i);
    }
    for (std::uint32_t i = row.first_bar; i < row.first_bar + row.bars; ++i) {
        const model::Bar& bar = table.bars[i];
        const Tag tag = tags.bars + i;
        if (bar.module == row.module) continue;
        // Who provides what it cannot be with stands for it, and is not barred by itself.
        const Var barred = var_of(bar.module);
        const bool stands_for_it =
            std::any_of(values_.begin() + first_value_[barred],
                        values_.begin() + first_value_[barred] + solver_.sets().values(barred),
                        [&](const Value& other) { return table.rows[other.row].module == row.module; });
        ask(var, value, {bar.module, bar.requirement, stands_for_it ? Kind::not_there_itself : Kind::not_there}, tag);
    }
}

/// Each step asks for what the next one reads, so that the waits for memory overlap.
void Problem::expect(Var var) const {
    const auto& table = universe_.table();
    const std::span values(values_.data() + first_value_[var], solver_.sets().values(var));
    const auto for_rows = [&](auto each) {
        for (const Value& value : values)
            if (value.row != no_row) each(table.rows[value.row]);
    };
    const auto for_needs = [&](auto each) {
        for_rows([&](const model::Row& row) {
            for (std::uint32_t i = row.first_need; i < row.first_need + row.needs; ++i) each(table.needs[i]);
        });
    };
    for_rows([](const model::Row& row) { __builtin_prefetch(&row); });
    for_rows([&](const model::Row& row) {
        __builtin_prefetch(table.needs.data() + row.first_need);
        if (row.needs > 1) __builtin_prefetch(table.needs.data() + row.first_need + row.needs - 1);
    });
    for_needs([&](const model::Need& need) {
        __builtin_prefetch(&vars_[need.module]);
        universe_.expect(need.requirement);
    });
    for_needs([&](const model::Need& need) {
        if (const Var other = vars_[need.module]; other != no_var) __builtin_prefetch(&keys_[first_value_[other]]);
    });
}

Literal Problem::is_row(Var var, std::uint32_t row, bool or_none) {
    return literal(var, or_none ? Kind::if_there : Kind::there,
                   [&](const Value& value) { return value.row == row && value.offer == no_row; });
}

Literal Problem::satisfies(const model::Need& need) {
    const Solver::Target made = target(need.module, need.requirement, Kind::there);
    return solver_.literal(made);
}

Literal Problem::counting(Tag tag, Counts how) {
    const Var var = selector_of_.at(tag);
    const SetRef set = solver_.sets().add(var);
    solver_.sets().put(set, 0);
    solver_.sets().put(set, static_cast<std::uint32_t>(how));
    return {var, set};
}

void Problem::add_wanted(const Wanted& wanted, Kind kind, Tag tag) {
    if (!active(tag)) return;
    const Id module = universe_.table().names.find(wanted.module);
    if (module == model::no_id && kind == Kind::if_there) return;
    const Var var = module == model::no_id ? add_special(0) : var_of(module);
    const Literal made = wanted.everything ? literal(var, kind, [](const Value&) { return true; })
                                           : within(var, kind, wanted.versions);
    add_outer(made, var, kind, tag);
}

void Problem::add_given(const Given& given, Tag tag) {
    if (!active(tag)) return;
    const Var var = var_of(given.module);
    add_outer(is_row(var, given.row, false), var, Kind::there, tag);
}

void Problem::add_outer(const Literal& as_it_is, Var var, Kind kind, Tag tag) {
    if (!selectable(tag)) return solver_.add_fact(solver_.add_target(as_it_is), tag);
    const Var selector = selector_of_.at(tag);
    Selector& made = selectors_.at(selector);
    made.as_it_is = as_it_is;
    made.in_any_version = within(var, kind, every_release);
    solver_.add_fact(any_count(selector), no_tag);
}

std::vector<Tag> root_tags(const Universe& universe, const Demand& demand) {
    std::vector<Tag> tags(demand.roots.size());
    std::iota(tags.begin(), tags.end(), Tags(universe, demand).roots);
    return tags;
}

Asked asked(const Universe& universe, const Demand& demand, Tag tag) {
    const Tags tags(universe, demand);
    const auto& rows = universe.table().rows;
    if (tag < tags.bars) return {AskedBy::need, row_with(rows, &model::Row::first_need, tags.bars, tag), tag};
    if (tag < tags.roots)
        return {AskedBy::conflict, row_with(rows, &model::Row::first_bar, tags.roots - tags.bars, tag - tags.bars),
                tag - tags.bars};
    if (tag < tags.pins) return {AskedBy::root, no_row, tag - tags.roots};
    if (tag < tags.givens) return {AskedBy::pin, no_row, tag - tags.pins};
    return {AskedBy::given, no_row, tag - tags.givens};
}

void sort_asked(const Universe& universe, const Demand& demand, std::vector<Tag>& tags) {
    const auto& rows = universe.table().rows;
    struct Key {
        AskedBy by;
        std::string_view name;
        std::uint32_t rank, origin, index;
        std::uint64_t fingerprint;
        Tag tag;
        auto operator<=>(const Key&) const = default;
    };
    std::vector<Key> keys;
    keys.reserve(tags.size());
    for (const Tag tag : tags) {
        const Asked one = asked(universe, demand, tag);
        Key key{one.by, {}, 0, 0, one.index, 0, tag};
        if (one.row != no_row) {
            const model::Row& row = rows[one.row];
            key.name = universe.name(one.row);
            key.rank = universe.rank(row.version);
            key.origin = row.origin;
            key.fingerprint = row.fingerprint;
            key.index -= one.by == AskedBy::need ? row.first_need : row.first_bar;
        }
        keys.push_back(key);
    }
    if (std::is_sorted(keys.begin(), keys.end())) return;
    std::sort(keys.begin(), keys.end());
    std::transform(keys.begin(), keys.end(), tags.begin(), [](const Key& key) { return key.tag; });
}

}  // namespace envar::resolve
