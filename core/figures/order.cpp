// The load order as a chart: a column a wave.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/figures/figures.hpp"
#include "core/figures/style.hpp"

namespace envar::figures {
namespace {

using order::Placed;

constexpr std::size_t tallest = 22;  // modules shown in one column
constexpr std::size_t most_linked = 40;
constexpr std::size_t most_columns = 16;
constexpr std::size_t last_columns = 3;  // shown behind a gap

class OrderFigure {
  public:
    explicit OrderFigure(const Scene& scene) : scene_(scene), order_(*scene.order) {
        if (order_.longest.size() > 1) chain_.insert(order_.longest.begin(), order_.longest.end());
        std::size_t waves = 0;
        for (const Placed& placed : order_.placed) waves = std::max(waves, placed.wave);
        columns_.resize(waves);
        for (const Placed& placed : order_.placed) {
            columns_[placed.wave - 1].push_back(&placed);
            hosts_.emplace(placed.host, 0);
        }
        std::size_t index = 0;
        for (auto& [host, number] : hosts_) number = index++;
    }

    std::string draw() {
        std::string key =
            "modules of one wave may load at the same time · <font color=\"#0072b2\">blue: the longest chain, each "
            "waits for the one before</font>";
        if (hosts_.size() > 1) {
            key +=
                "<br align=\"left\"/>grey: needs, dotted: wishes · fill: the host · number: the place in the order<br "
                "align=\"left\"/>";
        }
        out_ = graph_head(scene_.title + ": load order", key, false);
        out_ +=
            "  ranksep=0.5; nodesep=0.15; node [shape=plain, style=\"\", margin=0]; edge [color=\"#0072b2\", penwidth=2.0];\n";
        std::string before;
        for (std::size_t wave = 0; wave < columns_.size(); ++wave) {
            const bool gap = columns_.size() > most_columns && wave >= most_columns - last_columns - 1 &&
                             wave < columns_.size() - last_columns;
            if (gap && wave > most_columns - last_columns - 1) continue;
            const std::string id = gap ? "gap" : fmt::format("wave{}", wave + 1);
            if (gap) {
                out_ += fmt::format("  gap [label=\"… {} waves more …\", fontcolor=\"{}\"];\n",
                                    columns_.size() - most_columns + 1, quiet);
            } else {
                column(wave);
            }
            if (!before.empty()) out_ += fmt::format("  {} -> {} [style=invis, weight=10];\n", before, id);
            before = id;
        }
        links();
        if (order_.placed.size() <= most_linked) needs();
        not_loaded();
        legend();
        return out_ + "}\n";
    }

  private:
    void column(std::size_t wave) {
        const auto& members = columns_[wave];
        out_ += fmt::format(
            "  wave{0} [label=<<table border=\"0\" cellborder=\"1\" cellspacing=\"3\" cellpadding=\"4\" color=\"{1}\">"
            "<tr><td border=\"0\" align=\"left\"><font color=\"{2}\">wave {0}</font></td></tr>",
            wave + 1, pale, quiet);
        std::size_t shown = 0;
        for (const Placed* placed : members) {
            const bool on_chain = chain_.count(placed->module) != 0;
            if (shown >= tallest && !on_chain) continue;
            ++shown;
            cell(*placed, on_chain);
        }
        if (shown < members.size())
            out_ +=
                fmt::format("<tr><td border=\"0\" align=\"left\"><font color=\"{}\">… and {} more</font></td></tr>",
                            quiet, members.size() - shown);
        out_ += "</table>>];\n";
    }

    void cell(const Placed& placed, bool on_chain) {
        const std::string more =
            placed.phase == "main" || placed.phase.empty() ? placed.version : placed.version + " · " + placed.phase;
        out_ += fmt::format(
            "<tr><td port=\"p{}\" align=\"left\" bgcolor=\"{}\"{}>{}. {}<br align=\"left\"/><font point-size=\"9\" "
            "color=\"{}\">{}</font><br align=\"left\"/></td></tr>",
            placed.position, fill_of(hosts_[placed.host]),
            on_chain ? fmt::format(" color=\"{}\" border=\"3\"", chain) : "", placed.position, html(placed.module),
            "#4a4a4a", html(more));
    }

    /// The longest chain, box by box, where both ends are shown.
    void links() {
        std::map<std::string, const Placed*> placed_of;
        for (const Placed& placed : order_.placed)
            if (chain_.count(placed.module) != 0) placed_of[placed.module] = &placed;
        const auto is_shown = [&](const Placed& placed) {
            return columns_.size() <= most_columns || placed.wave <= most_columns - last_columns - 1 ||
                   placed.wave > columns_.size() - last_columns;
        };
        for (std::size_t i = 0; i + 1 < order_.longest.size(); ++i) {
            const Placed &a = *placed_of[order_.longest[i]], &b = *placed_of[order_.longest[i + 1]];
            if (is_shown(a) && is_shown(b))
                out_ += fmt::format("  wave{}:p{}:e -> wave{}:p{}:w;\n", a.wave, a.position, b.wave, b.position);
        }
    }

    /// In a small figure all needs, and wishes, are there too.
    void needs() {
        std::map<std::string, const Placed*> placed_of;
        for (const Placed& placed : order_.placed) placed_of[placed.module] = &placed;
        const auto link = [&](const std::string& from, const Placed& to, std::string_view style) {
            const Placed& first = *placed_of[from];
            if (chain_.count(from) != 0 && chain_.count(to.module) != 0) return;
            out_ += fmt::format(
                "  wave{}:p{}:e -> wave{}:p{}:w [color=\"#9a9a9a\", penwidth=0.9, arrowsize=0.5, "
                "weight=0, style={}];\n",
                first.wave, first.position, to.wave, to.position, style);
        };
        for (const Placed& placed : order_.placed) {
            for (const auto& need : placed.needs) link(need, placed, "solid");
            for (const auto& wish : placed.after) link(wish, placed, "dotted");
        }
    }

    void not_loaded() {
        if (order_.skipped.empty()) return;
        out_ += fmt::format(
            "  skipped [label=<<table border=\"0\" cellborder=\"0\" cellspacing=\"2\"><tr><td align=\"left\">"
            "<font color=\"{}\">not loaded</font></td></tr>",
            alarm);
        for (std::size_t i = 0; i < std::min(order_.skipped.size(), tallest); ++i)
            out_ += fmt::format("<tr><td align=\"left\"><font color=\"{}\">{}</font>: {}</td></tr>", alarm,
                                html(order_.skipped[i].module), html(order_.skipped[i].reason));
        if (order_.skipped.size() > tallest)
            out_ += fmt::format("<tr><td align=\"left\">… and {} more</td></tr>", order_.skipped.size() - tallest);
        out_ += "</table>>];\n";
    }

    void legend() {
        if (hosts_.size() < 2) return;
        out_ +=
            "  legend [label=<<table border=\"0\" cellborder=\"1\" cellspacing=\"3\" cellpadding=\"4\" color=\"#b8b8b8\"><tr>";
        for (const auto& [host, index] : hosts_)
            out_ += fmt::format("<td bgcolor=\"{}\">{}</td>", fill_of(index), html(host.empty() ? "no host" : host));
        out_ += "</tr></table>>];\n";
    }

    const Scene& scene_;
    const order::Order& order_;
    std::set<std::string> chain_;
    std::vector<std::vector<const Placed*>> columns_;
    std::map<std::string, std::size_t> hosts_;
    std::string out_;
};

}  // namespace

std::string order_dot(const Scene& scene) { return OrderFigure(scene).draw(); }

}  // namespace envar::figures
