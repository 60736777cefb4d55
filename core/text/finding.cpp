#include "core/text/finding.hpp"

#include <algorithm>
#include <tuple>

#include "core/text/codes.hpp"
#include "core/text/utf8.hpp"

namespace envar::text {

std::string_view severity_name(Severity severity) {
    switch (severity) {
        case Severity::error:
            return "error";
        case Severity::warning:
            return "warning";
        case Severity::hint:
            return "hint";
    }
    return "error";
}

Source::Source(std::string file, std::string content) : file_(std::move(file)), text_(std::move(content)) {
    for (std::size_t at = text_.find('\n'); at != std::string::npos; at = text_.find('\n', at + 1))
        line_starts_.push_back(at + 1);
    unsigned char bits = 0;
    for (const char c : text_) bits |= static_cast<unsigned char>(c);
    ascii_ = bits < 0x80;
}

Position Source::position(std::size_t offset) const {
    offset = std::min(offset, text_.size());
    const std::size_t line = line_of(offset);
    const std::size_t start = line_starts_[line - 1];
    return {line, count_code_points(std::string_view(text_).substr(start, offset - start)) + 1};
}

std::size_t Source::line_of(std::size_t offset) const {
    const auto after = std::upper_bound(line_starts_.begin(), line_starts_.end(), std::min(offset, text_.size()));
    return static_cast<std::size_t>(after - line_starts_.begin());
}

std::size_t Source::offset(Position position) const {
    if (position.line == 0 || position.line > line_starts_.size()) return text_.size();
    std::size_t at = line_starts_[position.line - 1];
    if (ascii_) return std::min(at + std::max<std::size_t>(position.column, 1) - 1, text_.size());
    for (std::size_t column = 1; column < position.column && at < text_.size(); ++column) {
        ++at;
        while (at < text_.size() && (static_cast<unsigned char>(text_[at]) & 0xC0U) == 0x80U) ++at;
    }
    return at;
}

std::string_view Source::line(std::size_t number) const {
    if (number == 0 || number > line_starts_.size()) return {};
    const std::size_t start = line_starts_[number - 1];
    std::size_t end = number < line_starts_.size() ? line_starts_[number] - 1 : text_.size();
    if (end > start && text_[end - 1] == '\r') --end;
    return std::string_view(text_).substr(start, end - start);
}

Finding Source::finding(std::string_view code, Span span, std::string message, std::string hint) const {
    Finding finding;
    finding.code = code;
    finding.severity = code_severity(code);
    finding.file = file_;
    finding.message = std::move(message);
    finding.hint = std::move(hint);
    if (span.empty() && span.begin == 0) return finding;
    finding.position = position(span.begin);
    finding.excerpt = line(finding.position.line);
    const Position end = position(std::max(span.end, span.begin));
    const std::size_t line_width = count_code_points(finding.excerpt);
    const std::size_t last = end.line == finding.position.line ? end.column : line_width + 1;
    finding.width = std::max<std::size_t>(1, last > finding.position.column ? last - finding.position.column : 1);
    return finding;
}

void sort_findings(std::vector<Finding>& findings) {
    const auto key = [](const Finding& f) {
        return std::tie(f.file, f.position.line, f.position.column, f.code, f.message);
    };
    std::stable_sort(findings.begin(), findings.end(),
                     [&](const Finding& a, const Finding& b) { return key(a) < key(b); });
    findings.erase(std::unique(findings.begin(), findings.end(),
                               [&](const Finding& a, const Finding& b) { return key(a) == key(b); }),
                   findings.end());
}

std::size_t count_severity(const std::vector<Finding>& findings, Severity severity) {
    return static_cast<std::size_t>(
        std::count_if(findings.begin(), findings.end(), [&](const Finding& f) { return f.severity == severity; }));
}

}  // namespace envar::text
