#include "core/text/utf8.hpp"

#include <fmt/format.h>

namespace envar::text {
namespace {

bool is_continuation(unsigned char byte) { return (byte & 0xC0U) == 0x80U; }

/// Length of the well-formed sequence at `at`, or 0. Bounds are those of the Unicode standard, table 3-7.
std::size_t sequence_length(std::string_view text, std::size_t at) {
    const auto byte = [&](std::size_t offset) { return static_cast<unsigned char>(text[at + offset]); };
    const auto has = [&](std::size_t count) {
        if (text.size() - at < count) return false;
        for (std::size_t i = 1; i < count; ++i)
            if (!is_continuation(byte(i))) return false;
        return true;
    };
    const unsigned char lead = byte(0);
    if (lead < 0x80) return 1;
    if (lead >= 0xC2 && lead <= 0xDF) return has(2) ? 2 : 0;
    if (lead >= 0xE0 && lead <= 0xEF) {
        if (!has(3)) return 0;
        if (lead == 0xE0 && byte(1) < 0xA0) return 0;
        if (lead == 0xED && byte(1) > 0x9F) return 0;
        return 3;
    }
    if (lead >= 0xF0 && lead <= 0xF4) {
        if (!has(4)) return 0;
        if (lead == 0xF0 && byte(1) < 0x90) return 0;
        if (lead == 0xF4 && byte(1) > 0x8F) return 0;
        return 4;
    }
    return 0;
}

}  // namespace

std::optional<std::size_t> first_invalid_utf8(std::string_view text) {
    for (std::size_t at = 0; at < text.size();) {
        if (static_cast<unsigned char>(text[at]) < 0x80) {
            ++at;
            continue;
        }
        const std::size_t length = sequence_length(text, at);
        if (length == 0) return at;
        at += length;
    }
    return std::nullopt;
}

std::size_t count_code_points(std::string_view text) {
    std::size_t count = 0;
    for (const char c : text)
        if (!is_continuation(static_cast<unsigned char>(c))) ++count;
    return count;
}

std::string printable(std::string_view text) {
    std::string shown;
    for (std::size_t at = 0; at < text.size();) {
        const auto byte = static_cast<unsigned char>(text[at]);
        const std::size_t length = sequence_length(text, at);
        if (byte == '\n') {
            shown += "\\n";
        } else if (byte == '\t') {
            shown += "\\t";
        } else if (length == 0 || byte < 0x20 || byte == 0x7F) {
            shown += fmt::format("\\x{:02X}", byte);
        } else {
            shown += text.substr(at, length);
        }
        at += length == 0 ? 1 : length;
    }
    return shown;
}

std::string shortened(std::string_view text, std::size_t limit) {
    if (count_code_points(text) <= limit) return std::string(text);
    std::size_t end = 0;
    std::size_t taken = 0;
    const std::size_t keep = limit > 3 ? limit - 3 : 0;
    while (end < text.size()) {
        if (!is_continuation(static_cast<unsigned char>(text[end])) && taken++ == keep) break;
        ++end;
    }
    return std::string(text.substr(0, end)) + "...";
}

}  // namespace envar::text
