#include "core/figures/figures.hpp"

#include <fmt/format.h>

#include <array>

#include "core/figures/style.hpp"
#include "core/files/read.hpp"
#include "core/files/sandbox.hpp"
#include "core/process/run.hpp"

namespace envar::figures {

std::string dot_string(std::string_view text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        out += c == '\n' ? ' ' : c;
    }
    return out + '"';
}

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
    static constexpr std::array<std::string_view, 8> fills = {"#dcebf7", "#fdecd0", "#d9f0e6", "#f4dfec",
                                                              "#f8f4c4", "#e4e4e4", "#e6dff2", "#fbdcd3"};
    return fills.at(index % fills.size());
}

std::string html(std::string_view text) {
    std::string out;
    for (const char c : text)
        out += c == '<' ? "&lt;" : c == '>' ? "&gt;" : c == '&' ? "&amp;" : c == '"' ? "&quot;" : std::string(1, c);
    return out;
}

std::string graph_head(std::string_view title, std::string_view key, bool dense) {
    return fmt::format(
        "digraph envar {{\n"
        "  graph [rankdir=LR, newrank=true, fontname=\"DejaVu Sans\", labelloc=t, labeljust=l, pad=0.3, nodesep={4}, ranksep={5},\n"
        "         bgcolor=white, fontcolor=\"{0}\", compound=true,\n"
        "         label=<<table border=\"0\" cellspacing=\"2\"><tr><td align=\"left\"><font point-size=\"15\">{2}</font></td></tr>"
        "<tr><td align=\"left\"><font point-size=\"10\" color=\"{1}\">{3}</font></td></tr></table>>];\n"
        "  node [shape=box, style=\"rounded,filled\", fontname=\"DejaVu Sans\", fontsize={6}, color=\"{1}\", fontcolor=\"{0}\",\n"
        "        fillcolor=white, margin=\"{7}\"];\n"
        "  edge [fontname=\"DejaVu Sans\", fontsize=9, color=\"{0}\", fontcolor=\"{0}\", arrowsize=0.7];\n",
        ink, quiet, html(title), key, dense ? 0.12 : 0.28, dense ? 0.9 : 0.7, dense ? 10 : 11,
        dense ? "0.08,0.04" : "0.16,0.09");
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
