#include "core/text/diff.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

namespace envar::text {
namespace {

using Lines = std::vector<std::string_view>;

using Edit = LineEdit;

/// Each line keeps its line end, so that a missing last one shows as a difference.
Lines split_lines(std::string_view text) {
    Lines lines;
    while (!text.empty()) {
        const std::size_t end = text.find('\n');
        const std::size_t length = end == std::string_view::npos ? text.size() : end + 1;
        lines.push_back(text.substr(0, length));
        text.remove_prefix(length);
    }
    return lines;
}

constexpr int most_edits = 2000;

/// The greedy forward search; `trace[d]` is the furthest reach on each diagonal before step d.
class MyersSearch {
  public:
    MyersSearch(const Lines& a, const Lines& b) : a_(a), b_(b) {}

    /// False when more than `most_edits` edits would be needed.
    bool run() {
        const int n = static_cast<int>(a_.size());
        const int m = static_cast<int>(b_.size());
        const int limit = std::min(n + m, most_edits);
        offset_ = limit + 1;
        reach_.assign(2 * static_cast<std::size_t>(limit) + 3, 0);
        for (int d = 0; d <= limit; ++d) {
            trace_.push_back(reach_);
            for (int k = -d; k <= d; k += 2) {
                int x = step_down(d, k) ? at(k + 1) : at(k - 1) + 1;
                int y = x - k;
                while (x < n && y < m && a_[static_cast<std::size_t>(x)] == b_[static_cast<std::size_t>(y)]) {
                    ++x;
                    ++y;
                }
                at(k) = x;
                if (x >= n && y >= m) return true;
            }
        }
        return false;
    }

    [[nodiscard]] std::vector<Edit> edits() {
        std::vector<Edit> reversed;
        int x = static_cast<int>(a_.size());
        int y = static_cast<int>(b_.size());
        for (int d = static_cast<int>(trace_.size()) - 1; d >= 0; --d) {
            reach_ = trace_[static_cast<std::size_t>(d)];
            const int k = x - y;
            const int from_k = step_down(d, k) ? k + 1 : k - 1;
            const int from_x = d == 0 ? 0 : at(from_k);
            const int from_y = d == 0 ? 0 : from_x - from_k;
            while (x > from_x && y > from_y) {
                reversed.push_back({' ', a_[static_cast<std::size_t>(--x)]});
                --y;
            }
            if (d == 0) break;
            if (x == from_x) {
                reversed.push_back({'+', b_[static_cast<std::size_t>(--y)]});
            } else {
                reversed.push_back({'-', a_[static_cast<std::size_t>(--x)]});
            }
        }
        std::reverse(reversed.begin(), reversed.end());
        return reversed;
    }

  private:
    int& at(int k) { return reach_[static_cast<std::size_t>(std::ptrdiff_t{k} + offset_)]; }
    bool step_down(int d, int k) { return k == -d || (k != d && at(k - 1) < at(k + 1)); }

    const Lines& a_;
    const Lines& b_;
    int offset_ = 0;
    std::vector<int> reach_;
    std::vector<std::vector<int>> trace_;
};

std::vector<Edit> edit_script(Lines a, Lines b) {
    std::vector<Edit> head;
    std::vector<Edit> tail;
    std::size_t same = 0;
    while (same < a.size() && same < b.size() && a[same] == b[same]) head.push_back({' ', a[same++]});
    a.erase(a.begin(), a.begin() + static_cast<std::ptrdiff_t>(same));
    b.erase(b.begin(), b.begin() + static_cast<std::ptrdiff_t>(same));
    while (!a.empty() && !b.empty() && a.back() == b.back()) {
        tail.push_back({' ', a.back()});
        a.pop_back();
        b.pop_back();
    }
    MyersSearch search(a, b);
    if (search.run()) {
        const auto middle = search.edits();
        head.insert(head.end(), middle.begin(), middle.end());
    } else {
        for (const auto line : a) head.push_back({'-', line});
        for (const auto line : b) head.push_back({'+', line});
    }
    head.insert(head.end(), tail.rbegin(), tail.rend());
    return head;
}

std::string range(std::size_t start, std::size_t count) {
    if (count == 1) return fmt::format("{}", start + 1);
    return fmt::format("{},{}", count == 0 ? start : start + 1, count);
}

void append_line(std::string& out, const Edit& edit) {
    out += edit.kind;
    out += edit.line;
    if (edit.line.empty() || edit.line.back() != '\n') out += "\n\\ No newline at end of file\n";
}

}  // namespace

std::vector<LineEdit> line_edits(std::string_view old_text, std::string_view new_text) {
    return edit_script(split_lines(old_text), split_lines(new_text));
}

std::string unified_diff(std::string_view old_text, std::string_view new_text, std::string_view old_name,
                         std::string_view new_name) {
    if (old_text == new_text) return {};
    const std::vector<Edit> edits = line_edits(old_text, new_text);
    constexpr std::size_t context = 3;
    std::string out = fmt::format("--- {}\n+++ {}\n", old_name, new_name);
    std::size_t old_line = 0;
    std::size_t new_line = 0;
    for (std::size_t i = 0; i < edits.size();) {
        std::size_t first = i;
        while (first < edits.size() && edits[first].kind == ' ') ++first;
        if (first == edits.size()) break;
        const std::size_t begin = std::max(i, first > context ? first - context : 0);
        old_line += begin - i;
        new_line += begin - i;
        std::size_t end = first;
        for (std::size_t last = first; last < edits.size() && last <= end + 2 * context; ++last)
            if (edits[last].kind != ' ') end = last;
        end = std::min(end + context + 1, edits.size());
        std::string body;
        std::size_t old_count = 0;
        std::size_t new_count = 0;
        for (std::size_t j = begin; j < end; ++j) {
            append_line(body, edits[j]);
            old_count += edits[j].kind != '+';
            new_count += edits[j].kind != '-';
        }
        out += fmt::format("@@ -{} +{} @@\n{}", range(old_line, old_count), range(new_line, new_count), body);
        old_line += old_count;
        new_line += new_count;
        i = end;
    }
    return out;
}

}  // namespace envar::text
