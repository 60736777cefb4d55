#include "cli/json_text.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>

namespace envar::cli {

void JsonText::begin_line() {
    out_ += '\n';
    out_.append(2 * (depth_ + levels_.size()), ' ');
}

void JsonText::place() {
    if (after_key_) {
        after_key_ = false;
        return;
    }
    if (levels_.empty()) return;
    Level& level = levels_.back();
    if (!level.empty) out_ += level.in_line ? ", " : ",";
    level.empty = false;
    if (!level.in_line) begin_line();
}

JsonText& JsonText::open(char bracket, bool in_line) {
    place();
    out_ += bracket;
    in_line = in_line || (!levels_.empty() && levels_.back().in_line);
    levels_.push_back({bracket == '{' ? '}' : ']', in_line});
    return *this;
}

JsonText& JsonText::end() {
    const Level level = levels_.back();
    levels_.pop_back();
    if (!level.empty && !level.in_line) begin_line();
    out_ += level.close;
    return *this;
}

JsonText& JsonText::key(std::string_view name) {
    place();
    quote(name);
    out_ += ": ";
    after_key_ = true;
    return *this;
}

JsonText& JsonText::value(std::string_view text) {
    place();
    quote(text);
    return *this;
}

JsonText& JsonText::value(std::size_t number) {
    place();
    out_ += std::to_string(number);
    return *this;
}

JsonText& JsonText::value(bool truth) {
    place();
    out_ += truth ? "true" : "false";
    return *this;
}

JsonText& JsonText::part(std::string_view ready) {
    place();
    out_ += ready;
    return *this;
}

JsonText& JsonText::null() {
    place();
    out_ += "null";
    return *this;
}

JsonText& JsonText::value(const std::vector<std::string>& texts) {
    list();
    for (const auto& text : texts) value(std::string_view(text));
    return end();
}

/// Text with anything special in it is left to the library.
void JsonText::quote(std::string_view text) {
    const bool plain = std::all_of(text.begin(), text.end(), [](char c) {
        return c >= ' ' && c != '"' && c != '\\' && static_cast<unsigned char>(c) < 0x7F;
    });
    if (!plain) {
        out_ += nlohmann::json(text).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
        return;
    }
    out_ += '"';
    out_ += text;
    out_ += '"';
}

}  // namespace envar::cli
