#include "core/order/host_order.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <map>
#include <set>

#include "core/files/read.hpp"
#include "core/order/graph.hpp"
#include "core/search/declared.hpp"
#include "core/search/walk.hpp"

namespace envar::order {
namespace {

namespace fs = std::filesystem;
using model::Module;

constexpr std::size_t most_folders = 4;  // whose orders are all gone through

/// A module as the host lines it up.
struct Lined {
    const Module* module = nullptr;
    bool based = false;               // part of what the host starts from: before all that is added to it
    std::string holder;               // its entry of the search path
    std::size_t entry = 0;            // in the order in which the host goes through them
    std::vector<std::string> folder;  // parts of its path below the entry
    std::set<std::string> needs;      // that have not been loaded

    [[nodiscard]] bool grouped() const { return folder.size() > 1; }
};

/// Whether a note is about a module of the host: it begins with its name.
bool is_of(const std::string& note, const model::Space& space, const model::Card& card) {
    const Module* module = space.module(note.substr(0, note.find(' ')));
    return module != nullptr && module->manifest.host.value == card.name.value;
}

class StackRule {
  public:
    StackRule(const resolve::Question& question, const model::Card& card)
        : question_(question), space_(*question.space), card_(card) {}

    /// `nth`: of the orders in which it may go through its search folders.
    Order run(std::size_t nth = 0) {
        nth_ = nth;
        resolve::Question question = question_;
        question.optional = false;  // such a host loads what is switched on
        Order planned = load_order(question);
        for (const Placed& placed : planned.placed) take(placed);
        for (const Skipped& skipped : planned.skipped) take_skipped(skipped);
        order_.cycles = std::move(planned.cycles);
        order_.missing = std::move(planned.missing);
        note_dropped_wishes(planned.notes);
        line_up();
        load();
        tell_dropped();
        return std::move(order_);
    }

    /// After run(): how many orders there are.
    [[nodiscard]] std::size_t orders() const {
        std::size_t orders = 1;
        if (folders_.size() <= most_folders)
            for (std::size_t i = 2; i <= folders_.size(); ++i) orders *= i;
        return orders;
    }

  private:
    void take(const Placed& placed) {
        if (placed.host != card_.name.value) return;
        planned_[placed.module] = placed;
        add(placed.module);
    }

    /// What is skipped for a platform's sake is not even switched on; everything else the host sees, and drops.
    void take_skipped(const Skipped& skipped) {
        const Module* module = space_.module(skipped.module);
        if (module == nullptr || module->manifest.host.value != card_.name.value) return;
        const auto& platforms = module->manifest.platforms;
        const bool fits = platforms.empty() || question_.platform.empty() ||
                          std::any_of(platforms.begin(), platforms.end(),
                                      [&](const model::Word& p) { return p.value == question_.platform; });
        if (fits) {
            add(skipped.module);
        } else {
            order_.skipped.push_back(skipped);
        }
    }

    void add(const std::string& name) {
        Lined lined;
        lined.module = space_.module(name);
        names_.insert(name);
        line_.push_back(std::move(lined));
    }

    /// That a wish was dropped is not such a host's doing.
    void note_dropped_wishes(const std::vector<std::string>& notes) {
        for (const auto& note : notes)
            if (note.find("closes a circle") == std::string::npos && is_of(note, space_, card_))
                order_.notes.push_back(note);
    }

    /// The host starts from a base as a whole: with one of its modules come all.
    void add_rest_of_base(const std::vector<search::DeclaredFolder>& entries) {
        std::set<std::string> bases;
        for (const Lined& lined : line_)
            if (const auto* holder = search::holder_of(entries, *lined.module); holder && !holder->base.empty())
                bases.insert(holder->folder);
        for (const Module& module : space_.modules) {
            if (module.manifest.host.value != card_.name.value || names_.count(module.name()) != 0) continue;
            const auto* holder = search::holder_of(entries, module);
            if (holder != nullptr && bases.count(holder->folder) != 0) add(module.name());
        }
    }

    /// Whether every folder between the entry and the module is a group; one that is not there says nothing.
    [[nodiscard]] bool is_reached(const Module& module, const fs::path& entry) const {
        for (fs::path above = module.folder.parent_path(); above != entry && above.has_relative_path();
             above = above.parent_path()) {
            if (files::is_folder(above) && !search::is_group(card_.walk, above)) return false;
        }
        return true;
    }

    void line_up() {
        const auto entries = search::declared_folders(space_, card_);
        std::set<std::string> used;
        add_rest_of_base(entries);
        std::erase_if(line_, [&](Lined& lined) {
            const auto* holder = search::holder_of(entries, *lined.module);
            if (holder != nullptr && is_reached(*lined.module, holder->folder)) {
                for (const auto& part : lined.module->folder.lexically_relative(holder->folder))
                    lined.folder.push_back(part.string());
                lined.based = !holder->base.empty();
                lined.holder = holder->folder;
                if (!lined.based) used.insert(holder->folder);
                return false;
            }
            order_.skipped.push_back({lined.module->name(), "lies on no search entry, so the host does not see it"});
            names_.erase(lined.module->name());
            return true;
        });
        if (used.size() > 1)
            order_.notes.push_back(fmt::format(
                "{} goes through several search folders in an order that it tells nobody", card_.name.value));
        folders_.assign(used.begin(), used.end());
        std::vector<std::string> in_order = folders_;
        for (std::size_t i = 0; i < nth_; ++i) std::next_permutation(in_order.begin(), in_order.end());
        for (Lined& lined : line_)
            lined.entry = static_cast<std::size_t>(std::find(in_order.begin(), in_order.end(), lined.holder) -
                                                   in_order.begin());
        std::sort(line_.begin(), line_.end(), [](const Lined& a, const Lined& b) {
            return std::tuple(!a.based, !a.grouped(), a.entry, a.holder, a.folder) <
                   std::tuple(!b.based, !b.grouped(), b.entry, b.holder, b.folder);
        });
        for (Lined& lined : line_) {
            for (const auto& d : lined.module->manifest.dependencies) {
                if (d.stage != model::Stage::load || d.system) continue;
                // What is needed only under a condition is written down as a wish.
                const bool wish = d.optional || !d.when.platforms.empty() || !d.when.targets.empty();
                if (!wish || names_.count(d.module.value) != 0) lined.needs.insert(d.module.value);
            }
            for (const auto& after : lined.module->manifest.entry.after)
                if (names_.count(after.value) != 0) lined.needs.insert(after.value);
        }
    }

    /// Every module goes onto the stack once, and every need is taken off once.
    void load() {
        std::map<std::string, std::vector<std::size_t>> followers;  // by what they need, in the line's order
        std::vector<std::size_t> stack;
        std::vector<bool> loaded(line_.size(), false);
        for (std::size_t i = 0; i < line_.size(); ++i) {
            for (const auto& need : line_[i].needs) followers[need].push_back(i);
            if (line_[i].needs.empty()) stack.push_back(i);
        }
        std::map<std::string, std::size_t> waves;
        while (!stack.empty()) {
            const std::size_t at = stack.back();
            stack.pop_back();
            loaded[at] = true;
            place(line_[at], waves);
            const std::string& name = line_[at].module->name();
            for (const std::size_t follower : followers[name]) {
                line_[follower].needs.erase(name);
                if (line_[follower].needs.empty()) stack.push_back(follower);
            }
        }
        std::vector<Lined> left;
        for (std::size_t i = 0; i < line_.size(); ++i)
            if (!loaded[i]) left.push_back(std::move(line_[i]));
        line_ = std::move(left);
    }

    void place(const Lined& lined, std::map<std::string, std::size_t>& waves) {
        const std::string& name = lined.module->name();
        Placed placed = planned_[name];
        placed.position = order_.placed.size() + 1;
        placed.module = name;
        placed.version = lined.module->version();
        placed.host = card_.name.value;
        if (placed.phase.empty()) placed.phase = card_.phases.empty() ? "main" : card_.phases.front();
        placed.wave = 1;
        for (const auto* before : {&placed.needs, &placed.after})
            for (const auto& need : *before)
                if (const auto wave = waves.find(need); wave != waves.end())
                    placed.wave = std::max(placed.wave, wave->second + 1);
        waves[name] = placed.wave;
        order_.placed.push_back(std::move(placed));
    }

    void tell_dropped() {
        std::map<std::string, std::size_t> index;
        for (std::size_t i = 0; i < line_.size(); ++i) index[line_[i].module->name()] = i;
        std::vector<std::vector<Node>> graph(line_.size());
        for (std::size_t i = 0; i < line_.size(); ++i)
            for (const auto& need : line_[i].needs)
                if (const auto known = index.find(need); known != index.end())
                    graph[i].push_back(static_cast<Node>(known->second));
        std::vector<bool> in_circle(line_.size(), false);
        for (const auto& group : circular_groups(Graph(graph)))
            for (const Node at : group) in_circle[at] = true;
        for (std::size_t i = 0; i < line_.size(); ++i) {
            const auto& needs = line_[i].needs;
            const auto absent = std::find_if(needs.begin(), needs.end(),
                                             [&](const std::string& need) { return index.count(need) == 0; });
            std::string reason = fmt::format("needs {}, which is dropped", *needs.begin());
            if (in_circle[i]) reason = "needs or follows itself through a circle";
            if (absent != needs.end()) reason = fmt::format("needs {}, which is not there", *absent);
            order_.skipped.push_back({line_[i].module->name(), std::move(reason)});
        }
        std::sort(order_.skipped.begin(), order_.skipped.end(),
                  [](const Skipped& a, const Skipped& b) { return a.module < b.module; });
    }

    const resolve::Question& question_;
    const model::Space& space_;
    const model::Card& card_;
    std::map<std::string, Placed> planned_;
    std::set<std::string> names_;       // that the host sees
    std::vector<Lined> line_;           // in the end those that are dropped
    std::vector<std::string> folders_;  // of the search path, where modules of the line are
    std::size_t nth_ = 0;
    Order order_;
};

/// Hosts that follow what is written down for them.
Order as_planned(const resolve::Question& question, const model::Card& card) {
    Order order = load_order(question);
    std::erase_if(order.placed, [&](const Placed& placed) { return placed.host != card.name.value; });
    std::erase_if(order.skipped, [&](const Skipped& skipped) {
        const Module* module = question.space->module(skipped.module);
        return module == nullptr || module->manifest.host.value != card.name.value;
    });
    std::erase_if(order.notes, [&](const std::string& note) { return !is_of(note, *question.space, card); });
    for (std::size_t i = 0; i < order.placed.size(); ++i) order.placed[i].position = i + 1;
    return order;
}

}  // namespace

Order host_order(const resolve::Question& question, const model::Card& card) {
    if (card.host_order == model::HostOrder::last_ready_first) return StackRule(question, card).run();
    return as_planned(question, card);
}

std::vector<Order> host_orders(const resolve::Question& question, const model::Card& card) {
    if (card.host_order != model::HostOrder::last_ready_first) return {as_planned(question, card)};
    StackRule first(question, card);
    std::vector<Order> orders = {first.run()};
    for (std::size_t i = 1; i < first.orders(); ++i) orders.push_back(StackRule(question, card).run(i));
    return orders;
}

}  // namespace envar::order
