// The looks that figures share: colours, texts in the DOT language, heads with a legend.
#pragma once

#include <initializer_list>
#include <string>
#include <string_view>

namespace envar::figures {

// Okabe and Ito's colours and the red of Tol's vibrant ones, told apart by colour-blind eyes; light fills keep dark
// text readable in print.
inline constexpr std::string_view ink = "#1b1b1b";
inline constexpr std::string_view quiet = "#6b6b6b";
inline constexpr std::string_view pale = "#b8b8b8";
inline constexpr std::string_view alarm = "#cc3311";
inline constexpr std::string_view chain = "#0072b2";

[[nodiscard]] std::string dot_string(std::string_view text);
/// A label of several lines; empty ones are left out.
[[nodiscard]] std::string label(std::initializer_list<std::string> lines);
[[nodiscard]] std::string html(std::string_view text);
/// A light fill for the index-th of several kinds.
[[nodiscard]] std::string_view fill_of(std::size_t index);

/// The head of a graph with a title and, below it in small type, how to read the figure: `key` is HTML as Graphviz
/// knows it.
[[nodiscard]] std::string graph_head(std::string_view title, std::string_view key, bool dense);

}  // namespace envar::figures
