// JSON as text, written piece by piece, for results of a hundred thousand rows. Looks as nlohmann::json prints it
// with two blanks, but that a row of a list may stand in one line.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace envar::cli {

class JsonText {
  public:
    /// Of a part that stands so many brackets deep in a whole, and is written by itself.
    explicit JsonText(std::size_t depth = 0) : depth_(depth) {}

    JsonText& object() { return open('{'); }
    /// An object with all that is in it in one line.
    JsonText& row() { return open('{', true); }
    JsonText& list() { return open('['); }
    JsonText& end();
    JsonText& key(std::string_view name);
    JsonText& value(std::string_view text);
    JsonText& value(const char* text) { return value(std::string_view(text)); }
    JsonText& value(std::size_t number);
    JsonText& value(bool truth);
    JsonText& null();
    JsonText& value(const std::vector<std::string>& texts);
    /// Room for so many bytes more.
    void reserve(std::size_t bytes) { out_.reserve(out_.size() + bytes); }
    /// A part that was written by itself.
    JsonText& part(std::string_view ready);
    /// Without a line end.
    [[nodiscard]] std::string take_part() { return std::move(out_); }
    /// With a line end.
    [[nodiscard]] std::string take() { return std::move(out_ += '\n'); }

  private:
    JsonText& open(char bracket, bool in_line = false);
    void place();
    void begin_line();
    void quote(std::string_view text);
    struct Level {
        char close;
        bool in_line = false;
        bool empty = true;
    };
    std::string out_;
    std::vector<Level> levels_;
    std::size_t depth_;
    bool after_key_ = false;
};

}  // namespace envar::cli
