#include "core/text/merge.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include "core/text/diff.hpp"

namespace envar::text {
namespace {

using Lines = std::vector<std::string_view>;

/// Lines [begin, end) of the base, and what one side made of them.
struct Run {
    std::size_t begin = 0;
    std::size_t end = 0;
    Lines now;
};

std::vector<Run> runs_of(const std::vector<LineEdit>& edits) {
    std::vector<Run> runs;
    std::size_t line = 0;
    bool open = false;
    for (const LineEdit& edit : edits) {
        if (edit.kind == ' ') {
            open = false;
            ++line;
            continue;
        }
        if (!open) runs.push_back({line, line, {}});
        open = true;
        if (edit.kind == '-') runs.back().end = ++line;
        if (edit.kind == '+') runs.back().now.push_back(edit.line);
    }
    return runs;
}

class Merger {
  public:
    Merger(Lines base, std::vector<Run> mine, std::vector<Run> theirs)
        : base_(std::move(base)), mine_(std::move(mine)), theirs_(std::move(theirs)) {}

    Merge run(std::string_view mine_name, std::string_view theirs_name) {
        std::size_t line = 0;
        while (m_ < mine_.size() || t_ < theirs_.size()) {
            const std::size_t begin = std::min(next_begin(mine_, m_), next_begin(theirs_, t_));
            const std::size_t end = place_end(begin);
            put(Lines(base_.begin() + at(line), base_.begin() + at(begin)));
            const Lines mine = side(mine_, m_, begin, end);
            const Lines theirs = side(theirs_, t_, begin, end);
            const Lines before(base_.begin() + at(begin), base_.begin() + at(end));
            if (mine == theirs || theirs == before) {
                put(mine);
            } else if (mine == before) {
                put(theirs);
            } else {
                ++merge_.conflicts;
                mark(fmt::format("<<<<<<< {}", mine_name));
                put(mine);
                mark("=======");
                put(theirs);
                mark(fmt::format(">>>>>>> {}", theirs_name));
            }
            line = end;
        }
        put(Lines(base_.begin() + at(line), base_.end()));
        return std::move(merge_);
    }

  private:
    static std::ptrdiff_t at(std::size_t index) { return static_cast<std::ptrdiff_t>(index); }

    static std::size_t next_begin(const std::vector<Run>& runs, std::size_t index) {
        return index < runs.size() ? runs[index].begin : std::string_view::npos;
    }

    /// How far runs of either side that touch one another reach from `begin`.
    [[nodiscard]] std::size_t place_end(std::size_t begin) const {
        std::size_t end = begin;
        for (std::size_t m = m_, t = t_;;) {
            if (m < mine_.size() && mine_[m].begin <= end) {
                end = std::max(end, mine_[m++].end);
            } else if (t < theirs_.size() && theirs_[t].begin <= end) {
                end = std::max(end, theirs_[t++].end);
            } else {
                return end;
            }
        }
    }

    /// What a side has in place of the base's lines [begin, end).
    Lines side(const std::vector<Run>& runs, std::size_t& index, std::size_t begin, std::size_t end) {
        Lines out;
        std::size_t line = begin;
        for (; index < runs.size() && runs[index].begin <= end; ++index) {
            const Run& run = runs[index];
            out.insert(out.end(), base_.begin() + at(line), base_.begin() + at(run.begin));
            out.insert(out.end(), run.now.begin(), run.now.end());
            line = run.end;
        }
        out.insert(out.end(), base_.begin() + at(line), base_.begin() + at(end));
        return out;
    }

    void put(const Lines& lines) {
        for (const auto line : lines) {
            end_line();
            merge_.text += line;
        }
    }

    void mark(const std::string& text) {
        end_line();
        merge_.text += text + "\n";
    }

    /// A last line without end is one only at the end of the result.
    void end_line() {
        if (!merge_.text.empty() && merge_.text.back() != '\n') merge_.text += '\n';
    }

    Lines base_;
    std::vector<Run> mine_;
    std::vector<Run> theirs_;
    std::size_t m_ = 0;
    std::size_t t_ = 0;
    Merge merge_;
};

}  // namespace

Merge merge(std::string_view base, std::string_view mine, std::string_view theirs, std::string_view mine_name,
            std::string_view theirs_name) {
    Lines lines;
    const auto to_mine = line_edits(base, mine);
    for (const LineEdit& edit : to_mine)
        if (edit.kind != '+') lines.push_back(edit.line);
    return Merger(std::move(lines), runs_of(to_mine), runs_of(line_edits(base, theirs))).run(mine_name, theirs_name);
}

}  // namespace envar::text
