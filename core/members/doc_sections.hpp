// Sections of a documentation: a heading with parameters, or what is returned, in lines of their own below it.
//
//   Args:                          Parameters
//       magnitude (float): which   ----------
//           stars are placed       magnitude : float
//                                      which stars are placed
#pragma once

#include <string_view>
#include <vector>

namespace envar::members {

struct DocumentedParameter {
    std::string_view name, type, summary;
    bool ends_low = false;  // a `_` that was written `\_` stands behind the name
};

/// How many blanks the line begins with.
[[nodiscard]] std::size_t indent_of(std::string_view line);

class DocSection {
  public:
    enum class About { nothing, parameters, returned };

    /// The section whose heading is line `at`; about nothing where it is no heading of a section with what it names.
    /// `lines` must outlive it.
    DocSection(const std::vector<std::string_view>& lines, std::size_t at);

    [[nodiscard]] About about() const { return about_; }
    /// Of the heading, with the line below it.
    [[nodiscard]] std::size_t lines_of_heading() const { return underlined_ ? 2 : 1; }

    /// Whether a line of its own is still in the section: not where it stands further out, or is a heading itself.
    [[nodiscard]] bool holds(std::size_t at) const;
    /// The parameters that a line of the section tells of; empty: none.
    [[nodiscard]] std::vector<DocumentedParameter> parameters_in(std::string_view line) const;

  private:
    const std::vector<std::string_view>& lines_;
    About about_ = About::nothing;
    bool underlined_ = false;
    std::size_t indent_ = 0;  // of the heading
};

}  // namespace envar::members
