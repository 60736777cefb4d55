#include "core/order/loading.hpp"

#include <algorithm>

#include "core/search/naming.hpp"

namespace envar::order {
namespace {

using model::Id;

class Gatherer {
  public:
    Gatherer(const model::Space& space, const model::ModuleTable& table, const resolve::Setting& setting)
        : space_(space),
          table_(table),
          stages_(setting.stages),
          row_of_(table.names.size(), nothing),
          item_of_(table.names.size(), nothing) {
        for (const model::Condition& condition : table.conditions)
            holds_.push_back(model::holds(condition, setting.platform, setting.target));
        loading_.table = &table;
    }

    Loading run(const std::vector<std::string>& roots, const std::vector<std::uint32_t>& chosen, bool optional) {
        for (const std::uint32_t row : chosen) {
            row_of_[table_.rows[row].module] = row;
            for (std::uint32_t i = 0; i < table_.rows[row].offers; ++i) {
                std::uint32_t& provided = row_of_[table_.offers[table_.rows[row].first_offer + i].module];
                if (provided == nothing) provided = row;
            }
        }
        for (const auto& root : roots)
            if (const Id name = table_.names.find(root); name != model::no_id) static_cast<void>(take_up(name));
        for (Node at = 0; at < loading_.items.size(); ++at) follow(at, optional);
        if (!optional) find_optional();
        for (Node at = 0; at < loading_.items.size(); ++at) wish(at);
        return std::move(loading_);
    }

  private:
    /// The item of a name; `nothing` when it is not there.
    Node take_up(Id name) {
        const std::uint32_t row = row_of_[name];
        if (row == nothing) return nothing;
        const Id own = table_.rows[row].module;  // another one, when that provides it
        if (item_of_[own] == nothing) {
            item_of_[own] = static_cast<Node>(loading_.items.size());
            loading_.items.push_back(item(row));
        }
        return item_of_[own];
    }

    [[nodiscard]] Item item(std::uint32_t row) {
        const model::Row& one = table_.rows[row];
        Item item{row, table_.names.text(one.module), table_.hosts.text(one.host), "main", 0};
        if (one.host != last_host_) {
            last_host_ = one.host;
            card_ = space_.card(item.host);
        }
        if (one.from != nullptr && card_ == nullptr && !one.from->manifest.entry.phase.value.empty())
            item.phase = one.from->manifest.entry.phase.value;
        if (card_ == nullptr) return item;
        if (one.from != nullptr) item.phase = search::phase_of(one.from->manifest, *card_);
        const auto found = std::find(card_->phases.begin(), card_->phases.end(), item.phase);
        if (found != card_->phases.end()) item.phase_rank = static_cast<std::uint32_t>(found - card_->phases.begin());
        return item;
    }

    void follow(Node at, bool optional) {
        const model::Row& row = table_.rows[loading_.items[at].row];
        for (std::uint32_t i = row.first_need; i < row.first_need + row.needs; ++i) {
            const model::Need& need = table_.needs[i];
            if (!stages_.count(need.stage, row.from != nullptr) || !holds_[need.condition]) continue;
            const bool waits = need.optional && !optional;
            loading_.needs.push_back({at, waits ? nothing : take_up(need.module), i, need.optional});
        }
    }

    /// Optional needs of what came along by itself.
    void find_optional() {
        std::erase_if(loading_.needs, [&](Tie& tie) {
            if (!tie.optional) return false;
            const std::uint32_t row = row_of_[table_.needs[tie.need].module];
            if (row == nothing) return false;  // it is not there at all
            tie.to = item_of_[table_.rows[row].module];
            return tie.to == nothing;
        });
    }

    void wish(Node at) {
        const model::Module* module = table_.rows[loading_.items[at].row].from;
        if (module == nullptr) return;
        const auto& after = module->manifest.entry.after;
        for (std::uint32_t i = 0; i < after.size(); ++i) {
            const Id name = table_.names.find(after[i].value);
            const std::uint32_t row = name == model::no_id ? nothing : row_of_[name];
            const Node to = row == nothing ? nothing : item_of_[table_.rows[row].module];
            if (to != nothing) loading_.wishes.push_back({at, to, i, true});
        }
    }

    const model::Space& space_;
    const model::ModuleTable& table_;
    resolve::Stages stages_;
    std::vector<bool> holds_;
    std::vector<std::uint32_t> row_of_;
    std::vector<Node> item_of_;
    Loading loading_;
    Id last_host_ = model::no_id;
    const model::Card* card_ = nullptr;
};

}  // namespace

std::vector<std::uint32_t> chosen_rows(const model::ModuleTable& table, const resolve::Resolution& resolution) {
    std::vector<std::uint32_t> rows;
    for (const auto& one : resolution.selected) rows.push_back(one.row);
    if (!rows.empty()) return rows;
    std::vector<std::uint32_t> newest(table.names.size(), nothing);
    for (std::uint32_t row = 0; row < table.rows.size(); ++row) {
        std::uint32_t& best = newest[table.rows[row].module];
        if (best == nothing ||
            versions::compare(table.version(table.rows[best].version), table.version(table.rows[row].version)) < 0)
            best = row;
    }
    for (const std::uint32_t row : newest)
        if (row != nothing) rows.push_back(row);
    return rows;
}

Loading loading_of(const model::Space& space, const model::ModuleTable& table, const resolve::Setting& setting,
                   const std::vector<std::string>& roots, const std::vector<std::uint32_t>& chosen, bool optional) {
    return Gatherer(space, table, setting).run(roots, chosen, optional);
}

}  // namespace envar::order
