// Findings: what is wrong or noteworthy in a user's files, each with a stable code and an exact place.
//
// A Source holds one file's text and turns byte ranges into lines and columns; it is the factory for the
// findings about that file, so that every finding carries its own excerpt.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace envar::text {

/// A half-open byte range in a Source. The empty range at 0 stands for "the file as a whole".
struct Span {
    std::size_t begin = 0;
    std::size_t end = 0;
    [[nodiscard]] bool empty() const { return begin >= end; }
    bool operator==(const Span&) const = default;
};

/// Line and column count from 1; a column counts code points.
struct Position {
    std::size_t line = 1;
    std::size_t column = 1;
    bool operator==(const Position&) const = default;
};

enum class Severity { error, warning, hint };

[[nodiscard]] std::string_view severity_name(Severity severity);

struct Finding {
    std::string code;  // a row of the table in codes.hpp
    Severity severity = Severity::error;
    std::string file;  // relative to the workspace, with '/'; empty when no file is to blame
    Position position;
    std::size_t width = 0;  // code points underlined, 0: no excerpt is shown
    std::string excerpt;    // the source line
    std::string message;    // the problem, lower case, no full stop, the value quoted
    std::string hint;       // what to do; may be empty
};

class Source {
  public:
    Source() = default;
    Source(std::string file, std::string content);

    [[nodiscard]] const std::string& file() const { return file_; }
    [[nodiscard]] const std::string& text() const { return text_; }

    [[nodiscard]] Position position(std::size_t offset) const;
    /// Its line alone, from 1.
    [[nodiscard]] std::size_t line_of(std::size_t offset) const;
    /// Byte offset of a line and column (code points, from 1); positions past the end give the text's size.
    [[nodiscard]] std::size_t offset(Position position) const;
    /// The line (from 1) without its line end.
    [[nodiscard]] std::string_view line(std::size_t number) const;

    /// A finding of the code's usual severity at `span`; only the first line of the span is underlined.
    [[nodiscard]] Finding finding(std::string_view code, Span span, std::string message, std::string hint = "") const;

  private:
    std::string file_;
    std::string text_;
    std::vector<std::size_t> line_starts_ = {0};
    bool ascii_ = true;  // one byte a code point: places are found without counting
};

/// Sorts by file, position, code, message and drops repeats.
void sort_findings(std::vector<Finding>& findings);

[[nodiscard]] std::size_t count_severity(const std::vector<Finding>& findings, Severity severity);

}  // namespace envar::text
