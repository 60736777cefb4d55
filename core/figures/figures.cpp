#include "core/figures/figures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>
#include <set>

#include "core/files/read.hpp"
#include "core/files/sandbox.hpp"
#include "core/process/run.hpp"

namespace envar::figures {
namespace {

using model::Dependency;
using model::Module;

// Okabe and Ito's colours, told apart by colour-blind eyes; light fills keep dark text readable in print.
constexpr std::string_view ink = "#1b1b1b";
constexpr std::string_view quiet = "#6b6b6b";
constexpr std::string_view alarm = "#d55e00";
constexpr std::string_view chain = "#0072b2";

std::string dot_string(std::string_view text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        out += c == '\n' ? ' ' : c;
    }
    return out + '"';
}

/// A label of several lines.
std::string label(std::initializer_list<std::string> lines) {
    std::string out;
    for (const auto& line : lines) {
        if (line.empty()) continue;
        std::string one = dot_string(line);
        if (!out.empty()) out += "\\n";
        out += one.substr(1, one.size() - 2);
    }
    return "\"" + out + "\"";
}

std::string_view fill_of(std::size_t index) {
    static constexpr std::array<std::string_view, 6> fills = {"#e3eef6", "#fdf1dc", "#e2f3ec",
                                                              "#f6e6ef", "#fbf8d8", "#ececec"};
    return fills.at(index % fills.size());
}

std::string html(std::string_view text) {
    std::string out;
    for (const char c : text) out += c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '&' ? "&amp;" : std::string(1, c);
    return out;
}

/// The head with title and, below it in small type, how to read the figure.
std::string graph_head(std::string_view title, std::string_view key) {
    return fmt::format(
        "digraph envar {{\n"
        "  graph [rankdir=LR, fontname=\"DejaVu Sans\", labelloc=t, labeljust=l, pad=0.3, nodesep=0.28, ranksep=0.7,\n"
        "         bgcolor=white, fontcolor=\"{0}\", compound=true,\n"
        "         label=<<table border=\"0\" cellspacing=\"2\"><tr><td align=\"left\"><font point-size=\"15\">{2}</font></td></tr>"
        "<tr><td align=\"left\"><font point-size=\"10\" color=\"{1}\">{3}</font></td></tr></table>>];\n"
        "  node [shape=box, style=\"rounded,filled\", fontname=\"DejaVu Sans\", fontsize=11, color=\"{1}\", fontcolor=\"{0}\",\n"
        "        fillcolor=white, margin=\"0.16,0.09\"];\n"
        "  edge [fontname=\"DejaVu Sans\", fontsize=9, color=\"{0}\", fontcolor=\"{0}\", arrowsize=0.7];\n",
        ink, quiet, html(title), html(key));
}

std::string condition_text(const Dependency& d) {
    std::string out;
    for (const auto* words : {&d.when.platforms, &d.when.targets})
        for (const auto& word : *words) out += (out.empty() ? "" : ", ") + word.value;
    return out;
}

class DependencyFigure {
  public:
    explicit DependencyFigure(const resolve::Question& question) : question_(question), space_(*question.space) {}

    std::string draw() {
        const auto order = order::load_order(question_);
        for (const auto& placed : order.placed) shown_.insert(placed.module);
        for (const auto& skipped : order.skipped) shown_.insert(skipped.module);
        for (const auto& cycle : order.cycles)
            for (const auto& edge : cycle.edges) circular_.insert({edge.from, edge.to});
        out_ = graph_head(
            space_.settings.name.value + ": who needs whom",
            "solid: public, its users see it too · dashed: private · dotted: optional · orange: missing or in a circle");
        clusters();
        edges();
        return out_ + "}\n";
    }

  private:
    void clusters() {
        std::map<std::string, std::vector<const Module*>> by_host;
        for (const Module& module : space_.modules)
            if (shown_.count(module.name()) != 0) by_host[module.manifest.host.value].push_back(&module);
        std::size_t index = 0;
        for (const auto& [host, modules] : by_host) {
            out_ += fmt::format(
                "  subgraph {} {{\n    label={}; labeljust=l; fontsize=12; style=\"rounded\"; color=\"#b8b8b8\"; margin=14;\n",
                dot_string("cluster_" + host), dot_string(host));
            for (const Module* module : modules)
                out_ += fmt::format("    {} [label={}, fillcolor={}];\n", dot_string(module->name()),
                                    label({module->name(), module->version()}), dot_string(fill_of(index)));
            out_ += "  }\n";
            ++index;
        }
    }

    void edges() {
        for (const Module& module : space_.modules) {
            if (shown_.count(module.name()) == 0) continue;
            for (const Dependency& d : module.manifest.dependencies) {
                if (d.system) continue;
                const std::string& to = d.module.value;
                const bool there = space_.module(to) != nullptr;
                if (shown_.count(to) == 0) absent(d, there);
                const std::string range = d.versions.is_any() ? "" : d.versions.text;
                const std::string when = condition_text(d);
                const bool red = circular_.count({module.name(), to}) != 0 || (!there && !d.optional);
                out_ += fmt::format(
                    "  {} -> {} [style={}, label={}, color={}];\n", dot_string(module.name()), dot_string(to),
                    d.optional    ? "dotted"
                    : d.is_public ? "solid"
                                  : "dashed",
                    label({range, when.empty() ? "" : "when " + when}), dot_string(red ? alarm : ink));
            }
        }
    }

    void absent(const Dependency& d, bool there) {
        if (!absent_.insert(d.module.value).second) return;
        out_ += fmt::format("  {} [label={}, style=\"rounded,dashed\", color={}, fontcolor={}];\n",
                            dot_string(d.module.value),
                            label({d.module.value, there ? "not in this target" : "not there"}),
                            dot_string(d.optional ? quiet : alarm), dot_string(d.optional ? quiet : alarm));
    }

    const resolve::Question& question_;
    const model::Space& space_;
    std::set<std::string> shown_;
    std::set<std::string> absent_;
    std::set<std::pair<std::string, std::string>> circular_;
    std::string out_;
};

/// Modules on a longest chain of needs, which bounds how soon the last module can be there.
std::set<std::string> longest_chain(const order::Order& order) {
    std::map<std::string, std::pair<std::size_t, std::string>> length;  // module → length, the one before
    std::string last;
    for (const auto& placed : order.placed) {
        auto& own = length[placed.module];
        own = {1, ""};
        for (const auto& need : placed.needs)
            if (length[need].first + 1 > own.first) own = {length[need].first + 1, need};
        if (last.empty() || own.first > length[last].first) last = placed.module;
    }
    std::set<std::string> chain_modules;
    if (last.empty() || length[last].first < 2) return chain_modules;
    for (std::string at = last; !at.empty(); at = length[at].second) chain_modules.insert(at);
    return chain_modules;
}

}  // namespace

std::string dependencies_dot(const resolve::Question& question) { return DependencyFigure(question).draw(); }

std::string order_dot(const resolve::Question& question) {
    const order::Order order = order::load_order(question);
    const auto marked = longest_chain(order);
    std::map<std::size_t, std::vector<const order::Placed*>> waves;
    std::map<std::string, std::size_t> hosts;
    for (const auto& placed : order.placed) {
        waves[placed.wave].push_back(&placed);
        hosts.emplace(placed.host, 0);
    }
    std::size_t index = 0;
    for (auto& [host, number] : hosts) number = index++;
    const std::string target = question.target.empty() ? "" : " for " + question.target;
    std::string out = graph_head(
        question.space->settings.name.value + ": load order" + target,
        "one wave may load at the same time, the first one is on the left · bold and blue: the longest chain · dotted: a wish to come after");
    for (const auto& [wave, members] : waves) {
        out += fmt::format(
            "  subgraph cluster_wave{0} {{\n    label=\"wave {0}\"; labeljust=l; fontsize=12; style=\"rounded\"; color=\"#b8b8b8\"; margin=14;\n",
            wave);
        for (const auto* placed : members)
            out +=
                fmt::format("    {} [label={}, fillcolor={}, color={}, penwidth={}];\n", dot_string(placed->module),
                            label({fmt::format("{}. {}", placed->position, placed->module),
                                   fmt::format("{} · {} · {}", placed->version, placed->host, placed->phase)}),
                            dot_string(fill_of(hosts[placed->host])),
                            dot_string(marked.count(placed->module) != 0 ? chain : quiet),
                            marked.count(placed->module) != 0 ? 2.4 : 1.0);
        out += "  }\n";
    }
    for (const auto& placed : order.placed)
        for (const auto& need : placed.needs) {
            const bool on_chain = marked.count(placed.module) != 0 && marked.count(need) != 0;
            out += fmt::format("  {} -> {} [color={}, penwidth={}];\n", dot_string(need), dot_string(placed.module),
                               dot_string(on_chain ? chain : quiet), on_chain ? 2.0 : 1.0);
        }
    for (const auto& placed : order.placed)
        for (const auto& before : placed.after)
            out += fmt::format("  {} -> {} [style=dotted, color={}];\n", dot_string(before),
                               dot_string(placed.module), dot_string(quiet));
    for (const auto& skipped : order.skipped)
        out += fmt::format("  {} [label={}, style=\"rounded,dashed\", color={}, fontcolor={}];\n",
                           dot_string(skipped.module), label({skipped.module, "not loaded: " + skipped.reason}),
                           dot_string(alarm), dot_string(alarm));
    return out + "}\n";
}

text::Result<std::string> draw(const std::string& dot, const std::string& format, const std::string& program_path,
                               const std::filesystem::path& temporary) {
    const auto program = process::find_program({"dot"}, program_path);
    if (!program)
        return text::fail(text::FailureKind::machine_failed, "Graphviz is not installed: `dot` is not in PATH",
                          "install the package graphviz; the figure's .dot file was written all the same");
    auto sandbox = files::Sandbox::make(temporary);
    if (!sandbox) return tl::unexpected(sandbox.error());
    if (auto written = sandbox->write("figure.dot", dot); !written) return tl::unexpected(written.error());
    process::Command command;
    command.arguments = {program->string(), "-T" + format, "-o", "figure.out", "figure.dot"};
    if (format == "png") command.arguments.insert(command.arguments.begin() + 1, "-Gdpi=110");
    command.folder = sandbox->folder();
    command.environment = {{"HOME", sandbox->folder().string()}, {"LANG", "C.UTF-8"}, {"PATH", "/usr/bin:/bin"}};
    command.time_limit_seconds = 120;
    const auto outcome = process::run(command);
    if (!outcome) return tl::unexpected(outcome.error());
    if (outcome->timed_out || outcome->exit_status != 0)
        return text::fail(text::FailureKind::machine_failed, outcome->timed_out
                                                                 ? "Graphviz did not finish within 120 s"
                                                                 : "Graphviz refused the figure: " + outcome->errors);
    return files::read_or_fail(sandbox->folder() / "figure.out", std::size_t{256} << 20U);
}

}  // namespace envar::figures
