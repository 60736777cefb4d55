// Who needs whom.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/figures/figures.hpp"
#include "core/figures/style.hpp"

namespace envar::figures {
namespace {

using order::Node;
using order::Tie;

class DependencyFigure {
  public:
    explicit DependencyFigure(const Scene& scene)
        : scene_(scene), loading_(*scene.loading), table_(*loading_.table), shown_(loading_.items.size(), true) {}

    std::string draw() {
        if (!scene_.around.empty()) keep_neighbours();
        const auto count = static_cast<std::size_t>(std::count(shown_.begin(), shown_.end(), true));
        dense_ = count > many_modules;
        note_trouble();
        std::string key = fmt::format(
            "solid: public, its users see it too · dashed: private · dotted: optional · "
            "<font color=\"{}\">red: missing, in a circle or in conflict</font>",
            alarm);
        if (dense_) key += " · ranges are left out";
        std::string title = scene_.title + ": who needs whom";
        if (!scene_.around.empty()) title += fmt::format(", {} away from {}", scene_.depth, scene_.around);
        out_ = graph_head(title, key, dense_);
        clusters();
        for (const Tie& tie : loading_.needs)
            if (shown_[tie.from]) edge(tie);
        conflicts();
        return out_ + "}\n";
    }

  private:
    [[nodiscard]] std::string name(Node node) const { return std::string(loading_.items[node].name); }

    /// Only modules at most `depth` needs away from the middle one, whichever way the needs go.
    void keep_neighbours() {
        std::vector<std::vector<Node>> both(loading_.items.size());
        for (const Tie& tie : loading_.needs)
            if (tie.to != order::nothing) {
                both[tie.from].push_back(tie.to);
                both[tie.to].push_back(tie.from);
            }
        std::vector<std::size_t> away(loading_.items.size(), SIZE_MAX);
        std::vector<Node> open;
        for (Node at = 0; at < loading_.items.size(); ++at)
            if (loading_.items[at].name == scene_.around) {
                away[at] = 0;
                open.push_back(at);
            }
        for (std::size_t next = 0; next < open.size(); ++next)
            for (const Node to : both[open[next]])
                if (away[to] == SIZE_MAX && away[open[next]] < scene_.depth) {
                    away[to] = away[open[next]] + 1;
                    open.push_back(to);
                }
        for (Node at = 0; at < loading_.items.size(); ++at) shown_[at] = away[at] != SIZE_MAX;
    }

    void note_trouble() {
        for (const auto& cycle : scene_.order->cycles)
            for (const auto& one : cycle.edges) red_.insert({one.from, one.to});
        if (scene_.unsolved == nullptr) return;
        for (const auto& clash : scene_.unsolved->requirements)
            if (!clash.module.empty())
                red_.insert({clash.module, clash.requires_module});
            else
                red_modules_.insert(clash.requires_module);
    }

    void clusters() {
        std::map<std::string_view, std::vector<Node>> by_host;
        for (Node at = 0; at < loading_.items.size(); ++at)
            if (shown_[at]) by_host[loading_.items[at].host].push_back(at);
        std::size_t index = 0;
        for (auto& [host, nodes] : by_host) {
            std::sort(nodes.begin(), nodes.end(),
                      [&](Node a, Node b) { return loading_.items[a].name < loading_.items[b].name; });
            const bool boxed = !host.empty() && by_host.size() > 1;
            if (boxed)
                out_ += fmt::format(
                    "  subgraph {} {{\n    label={}; labeljust=l; fontsize=12; style=\"rounded\"; color=\"{}\"; "
                    "margin=14;\n",
                    dot_string("cluster_" + std::string(host)), dot_string(host), pale);
            for (const Node at : nodes) node(at, index);
            if (boxed) out_ += "  }\n";
            ++index;
        }
    }

    void node(Node at, std::size_t index) {
        const auto& item = loading_.items[at];
        const std::string version(table_.version_text(table_.rows[item.row].version));
        const bool middle = item.name == scene_.around;
        const bool red = red_modules_.count(std::string(item.name)) != 0;
        out_ += fmt::format(
            "    {} [label={}, fillcolor={}{}];\n", dot_string(item.name),
            dense_ ? dot_string(std::string(item.name) + " " + version) : label({std::string(item.name), version}),
            dot_string(fill_of(index)),
            red      ? fmt::format(", color={}, penwidth=2.2", dot_string(alarm))
            : middle ? ", penwidth=2.4"
                     : "");
    }

    void edge(const Tie& tie) {
        const model::Need& need = table_.needs[tie.need];
        const std::string to(table_.names.text(need.module));
        if (tie.to == order::nothing) absent(to, tie.optional);
        if (tie.to != order::nothing && !shown_[tie.to]) return;
        const std::string end = tie.to == order::nothing ? to : name(tie.to);
        std::string range;
        if (need.requirement != model::no_id && !table_.requirement(need.requirement).is_any())
            range = table_.requirement(need.requirement).text;
        const bool red = red_.count({name(tie.from), to}) != 0 || (tie.to == order::nothing && !tie.optional);
        const std::string when = condition(need);
        const std::string stage = need.stage == model::Stage::load ? "" : std::string(model::stage_name(need.stage));
        std::string more = dense_ && !red ? "" : fmt::format(", label={}", label({range, stage, when}));
        if (red) more += fmt::format(", color={0}, fontcolor={0}, penwidth=1.8", dot_string(alarm));
        if (dense_ && !red) more += ", color=\"#8a8a8a\", penwidth=0.8, arrowsize=0.5";
        out_ += fmt::format("  {} -> {} [style={}{}];\n", dot_string(name(tie.from)), dot_string(end),
                            need.optional    ? "dotted"
                            : need.is_public ? "solid"
                                             : "dashed",
                            more);
    }

    [[nodiscard]] std::string condition(const model::Need& need) const {
        std::string out;
        const model::Condition& when = table_.conditions[need.condition];
        for (const auto* words : {&when.platforms, &when.targets})
            for (const auto& word : *words) out += (out.empty() ? "when " : ", ") + word.value;
        return out;
    }

    void absent(const std::string& to, bool optional) {
        if (!absent_.insert(to).second) return;
        const std::string color = dot_string(optional ? quiet : alarm);
        out_ += fmt::format("  {} [label={}, style=\"rounded,dashed\", color={}, fontcolor={}];\n", dot_string(to),
                            label({to, "not there"}), color, color);
    }

    /// Modules that say they cannot be with another one.
    void conflicts() {
        std::map<std::string_view, Node> index;
        for (Node at = 0; at < loading_.items.size(); ++at) index[loading_.items[at].name] = at;
        for (Node at = 0; at < loading_.items.size(); ++at) {
            const model::Row& row = table_.rows[loading_.items[at].row];
            for (std::uint32_t i = row.first_bar; shown_[at] && i < row.first_bar + row.bars; ++i) {
                const auto other = index.find(table_.names.text(table_.bars[i].module));
                if (other == index.end() || !shown_[other->second]) continue;
                const auto requirement = table_.bars[i].requirement;
                const std::string range =
                    requirement == model::no_id ? "any" : resolve::range_text(table_.requirement(requirement));
                out_ += fmt::format(
                    "  {} -> {} [style=bold, dir=both, arrowhead=tee, arrowtail=tee, constraint=false, "
                    "color={}, fontcolor={}, label={}];\n",
                    dot_string(name(at)), dot_string(name(other->second)), dot_string(alarm), dot_string(alarm),
                    dot_string("not with " + range));
            }
        }
    }

    const Scene& scene_;
    const order::Loading& loading_;
    const model::ModuleTable& table_;
    std::vector<bool> shown_;
    bool dense_ = false;
    std::set<std::string> absent_;
    std::set<std::pair<std::string, std::string>> red_;
    std::set<std::string> red_modules_;
    std::string out_;
};

}  // namespace

std::string dependencies_dot(const Scene& scene) { return DependencyFigure(scene).draw(); }

}  // namespace envar::figures
