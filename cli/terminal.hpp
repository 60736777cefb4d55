// Writing for people: colour where it is wanted, tables, trees, findings.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/text/failure.hpp"
#include "core/text/finding.hpp"

namespace envar::cli {

enum class Style { plain, strong, quiet, good, warning, bad, accent };

struct Table {
    std::vector<std::string> head;
    std::vector<std::vector<std::string>> rows;
};

/// A file or folder of a tree with a note behind it; `path` with '/'.
struct TreeItem {
    std::string path;
    std::string note;
};

class Terminal {
  public:
    struct Settings {
        bool color_out = false;
        bool color_errors = false;
        bool quiet = false;
        bool verbose = false;
    };
    explicit Terminal(Settings settings) : settings_(settings) {}

    /// A line of the answer, on standard output.
    void line(std::string_view text = "");
    /// Text as it is, without a line end of its own.
    void raw(std::string_view text);
    /// A line that is no answer but a remark; left out with --quiet.
    void remark(std::string_view text);
    /// A line for those who asked with --verbose, on standard error.
    void detail(std::string_view text);
    /// What long work is at, in one line that the next one replaces; an empty one wipes it. Only where somebody
    /// watches: on a terminal, on standard error.
    void progress(std::string_view text) const;
    void failure(const text::Failure& failure);
    void warn(std::string_view text);

    void table(const Table& table);
    void tree(std::string_view top, const std::vector<TreeItem>& items);
    /// With a blank line between each two.
    void findings(const std::vector<text::Finding>& findings);
    void finding(const text::Finding& finding);
    void diff(std::string_view unified);

    [[nodiscard]] std::string styled(std::string_view text, Style style) const;
    [[nodiscard]] bool quiet() const { return settings_.quiet; }
    /// Hands everything to the operating system; false when that failed.
    [[nodiscard]] bool flush();

  private:
    Settings settings_;
};

/// RFC 4180, with LF line ends.
[[nodiscard]] std::string csv(const Table& table);

/// "1 module", "3 modules".
[[nodiscard]] std::string counted(std::size_t count, std::string_view one, std::string_view many = "");

}  // namespace envar::cli
