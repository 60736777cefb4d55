#include "core/resolve/turning.hpp"

#include <algorithm>
#include <utility>

namespace envar::resolve {

using model::Id;

Turning::Turning(const Universe& universe, const Demand& demand, const std::vector<Tag>& tags) {
    asks_.reserve(tags.size());
    for (const Tag tag : tags) add_ask(universe, demand, tag);
}

std::size_t Turning::module_of(const Universe& universe, const Demand& demand, Id name) {
    const auto [at, fresh] = places_.try_emplace(name, modules_.size());
    if (!fresh) return at->second;
    names_.push_back(name);
    Module& module = modules_.emplace_back();
    if (name == model::no_id) return at->second;  // asked for, and there is none
    if (!universe.providers_of(name).empty()) is_usable_ = false;
    for (const std::uint32_t row : universe.rows_of(name))
        if (!universe.table().rows[row].withdrawn || demand.held.count(row) != 0) module.rows.push_back(row);
    return at->second;
}

template <class Accepts>
void Turning::make_fine(Ask& ask, bool fine_without, Accepts accepts) const {
    ask.fine.push_back(fine_without);
    for (const std::uint32_t row : modules_[ask.to].rows) ask.fine.push_back(accepts(row));
}

void Turning::add_ask(const Universe& universe, const Demand& demand, Tag tag) {
    const Asked one = asked(universe, demand, tag);
    const auto& table = universe.table();
    Ask ask;
    const auto from_row = [&](Id to, Id requirement, bool fine_without, bool bars) {
        ask.from = module_of(universe, demand, table.rows[one.row].module);
        const auto& rows = modules_[ask.from].rows;
        ask.from_value = static_cast<std::size_t>(std::find(rows.begin(), rows.end(), one.row) - rows.begin()) + 1;
        ask.to = module_of(universe, demand, to);
        const auto& intervals = universe.intervals_of(requirement);
        make_fine(ask, fine_without, [&](std::uint32_t row) {
            return Universe::within(universe.key(table.rows[row].version), intervals) != bars;
        });
    };
    const auto from_outside = [&](const Wanted& wanted, bool fine_without) {
        ask.to = module_of(universe, demand, table.names.find(wanted.module));
        make_fine(ask, fine_without, [&](std::uint32_t row) {
            return wanted.everything || universe.meets(table.rows[row].version, wanted.versions);
        });
    };
    switch (one.by) {
        case AskedBy::need: {
            const model::Need& need = table.needs[one.index];
            from_row(need.module, need.requirement, need.optional, false);
            break;
        }
        case AskedBy::conflict: {
            const model::Bar& bar = table.bars[one.index];
            from_row(bar.module, bar.requirement, true, true);
            break;
        }
        case AskedBy::root:
            from_outside(demand.roots[one.index], false);
            break;
        case AskedBy::pin:
            from_outside(demand.pins[one.index], true);
            break;
        case AskedBy::given: {
            const Given& given = demand.givens[one.index];
            ask.to = module_of(universe, demand, given.module);
            make_fine(ask, false, [&](std::uint32_t row) { return row == given.row; });
        }
    }
    const std::size_t number = asks_.size();
    if (ask.from != ask.to) modules_[ask.to].asked.push_back(number);
    if (ask.from != outside) {
        auto& by_value = modules_[ask.from].asks;
        if (by_value.size() <= ask.from_value) by_value.resize(ask.from_value + 1);
        by_value[ask.from_value].push_back(number);
    }
    asks_.push_back(std::move(ask));
}

void Turning::note_active(std::size_t module, const std::vector<std::uint32_t>& values,
                          const std::vector<bool>& in_core) {
    active_.clear();
    for (const std::size_t number : modules_[module].asked) {
        const Ask& ask = asks_[number];
        if (in_core[number] && (ask.from == outside || values[ask.from] == ask.from_value)) active_.push_back(number);
    }
}

std::size_t Turning::only_unmet(std::size_t module, const std::vector<std::uint32_t>& values,
                                const std::vector<bool>& in_core) const {
    std::size_t found = outside;
    for (const std::size_t ask : active_) {
        if (asks_[ask].fine[values[module]]) continue;
        if (found != outside) return outside;
        found = ask;
    }
    const auto& by_value = modules_[module].asks;
    if (values[module] >= by_value.size()) return found;
    for (const std::size_t ask : by_value[values[module]]) {
        if (!in_core[ask] || asks_[ask].fine[values[asks_[ask].to]]) continue;
        if (found != outside) return outside;
        found = ask;
    }
    return found;
}

void Turning::turn(const Choice& choice, std::size_t unmet, const std::vector<bool>& in_core,
                   std::vector<bool>& proven) {
    if (!is_usable_) return;
    std::vector<std::uint32_t> values;
    for (std::size_t at = 0; at < modules_.size(); ++at) {
        const auto& rows = modules_[at].rows;
        const std::uint32_t row = names_[at] == model::no_id ? no_row : choice(names_[at]);
        const auto found = std::find(rows.begin(), rows.end(), row);
        values.push_back(found == rows.end() ? 0 : static_cast<std::uint32_t>(found - rows.begin()) + 1);
    }
    for (std::size_t ask = 0; ask < asks_.size(); ++ask)
        if (in_core[ask] && is_met(asks_[ask], values) == (ask == unmet)) return;
    std::vector<Turned> open = {{std::move(values), unmet}};
    while (!open.empty()) {
        Turned now = std::move(open.back());
        open.pop_back();
        const Ask& ask = asks_[now.unmet];
        for (const std::size_t module : {ask.from, ask.to}) {
            if (module == outside) continue;
            const std::uint32_t before = now.values[module];
            note_active(module, now.values, in_core);
            for (std::uint32_t value = 0; value <= modules_[module].rows.size(); ++value) {
                now.values[module] = value;
                if (!is_met(ask, now.values)) continue;
                const std::size_t other = only_unmet(module, now.values, in_core);
                if (other == outside || proven[other]) continue;
                proven[other] = true;
                open.push_back({now.values, other});
            }
            now.values[module] = before;
        }
    }
}

}  // namespace envar::resolve
