#include "core/model/toml_layout.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace envar::model {
namespace {

using text::Span;

bool is_bare(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '-';
}

class Scanner {
  public:
    explicit Scanner(std::string_view text) : text_(text) {}

    std::vector<Statement> scan() {
        std::vector<Statement> statements;
        while (at_ < text_.size()) {
            Statement statement;
            statement.whole.begin = at_;
            skip_blanks();
            statement_body(statement);
            skip_to_line_end();
            statement.whole.end = at_;
            statements.push_back(std::move(statement));
        }
        return statements;
    }

    std::vector<ListItem> list(Span brackets) {
        std::vector<ListItem> items;
        text_ = text_.substr(0, brackets.end - 1);
        at_ = brackets.begin + 1;
        while (skip_to_code()) {
            if (peek() == ',') {
                if (!items.empty() && !items.back().comma) items.back().comma = at_;
                ++at_;
                continue;
            }
            ListItem item;
            item.value.begin = at_;
            item.value.end = element();
            items.push_back(item);
        }
        return items;
    }

  private:
    /// To the next character that is no blank, line end or comment; false when there is none.
    bool skip_to_code() {
        while (at_ < text_.size()) {
            if (peek() == '#') {
                while (!at_line_end()) ++at_;
            } else if (std::string_view(" \t\r\n").find(peek()) == std::string_view::npos) {
                return true;
            } else {
                ++at_;
            }
        }
        return false;
    }

    /// Passes over an element of a list; gives where it ends.
    std::size_t element() {
        std::size_t depth = 0;
        const std::size_t begin = at_;
        while (at_ < text_.size()) {
            const char c = peek();
            if (c == '"' || c == '\'') {
                if (!string()) return at_;
                continue;
            }
            if (depth == 0 && at_ > begin && std::string_view(", \t\r\n#").find(c) != std::string_view::npos) break;
            if (c == '#') {
                while (!at_line_end()) ++at_;
                continue;
            }
            if (c == '[' || c == '{') ++depth;
            if ((c == ']' || c == '}') && depth > 0) --depth;
            ++at_;
        }
        return at_;
    }

    [[nodiscard]] char peek(std::size_t ahead = 0) const {
        return at_ + ahead < text_.size() ? text_[at_ + ahead] : '\0';
    }
    [[nodiscard]] bool at_line_end() const { return at_ >= text_.size() || text_[at_] == '\n'; }
    void skip_blanks() {
        while (peek() == ' ' || peek() == '\t' || peek() == '\r') ++at_;
    }
    void skip_to_line_end() {
        const std::size_t end = text_.find('\n', at_);
        at_ = end == std::string_view::npos ? text_.size() : end + 1;
    }

    void statement_body(Statement& statement) {
        if (at_line_end()) return;
        if (peek() == '#') {
            statement.kind = StatementKind::comment;
        } else if (peek() == '[') {
            header(statement);
        } else {
            assignment(statement);
        }
    }

    void header(Statement& statement) {
        const bool array = peek(1) == '[';
        statement.key.begin = at_;
        at_ += array ? 2 : 1;
        statement.kind = StatementKind::unclear;
        if (!key_path(statement.path) || peek() != ']' || (array && peek(1) != ']')) return;
        at_ += array ? 2 : 1;
        statement.key.end = at_;
        statement.kind = array ? StatementKind::table_array : StatementKind::table;
    }

    void assignment(Statement& statement) {
        statement.kind = StatementKind::unclear;
        statement.key.begin = at_;
        if (!key_path(statement.path)) return;
        statement.key.end = at_;
        while (statement.key.end > statement.key.begin &&
               (text_[statement.key.end - 1] == ' ' || text_[statement.key.end - 1] == '\t'))
            --statement.key.end;
        if (peek() != '=') return;
        ++at_;
        skip_blanks();
        statement.value.begin = at_;
        statement.value.end = value();
        statement.kind = StatementKind::assignment;
    }

    bool key_path(std::vector<std::string>& path) {
        do {
            skip_blanks();
            std::string part;
            if (peek() == '"' || peek() == '\'') {
                const std::size_t begin = at_ + 1;
                if (!string()) return false;
                part = text_.substr(begin, at_ - 1 - begin);
            } else {
                while (is_bare(peek())) part += text_[at_++];
                if (part.empty()) return false;
            }
            path.push_back(std::move(part));
            skip_blanks();
        } while (peek() == '.' && ++at_ > 0);
        return true;
    }

    /// Passes over the string that begins here; false when it does not end.
    bool string() {
        const char quote = peek();
        const bool long_form = peek(1) == quote && peek(2) == quote;
        at_ += long_form ? 3 : 1;
        while (at_ < text_.size()) {
            if (quote == '"' && peek() == '\\') {
                at_ = std::min(at_ + 2, text_.size());
            } else if (!long_form && peek() == '\n') {
                return false;
            } else if (peek() == quote && (!long_form || (peek(1) == quote && peek(2) == quote))) {
                at_ += long_form ? 3 : 1;
                while (long_form && peek() == quote) ++at_;  // up to two more quotes belong to the text
                return true;
            } else {
                ++at_;
            }
        }
        return false;
    }

    /// Passes over the value; gives where it ends, blanks and comment behind it left out.
    std::size_t value() {
        std::size_t depth = 0;
        std::size_t end = at_;
        while (at_ < text_.size()) {
            const char c = peek();
            if (c == '"' || c == '\'') {
                if (!string()) return at_;
                end = at_;
                continue;
            }
            if (c == '#') {
                while (!at_line_end()) ++at_;
                continue;
            }
            if (c == '\n') {
                if (depth == 0) return end;
                if (unclosed_before_statement()) return end;
            }
            if (c == '[' || c == '{') ++depth;
            if ((c == ']' || c == '}') && depth > 0) --depth;
            ++at_;
            if (c != ' ' && c != '\t' && c != '\r' && c != '\n') end = at_;
        }
        return end;
    }

    /// In a list that was never closed the next line may be a statement, which no list has: the list ends here.
    [[nodiscard]] bool unclosed_before_statement() const {
        std::size_t at = text_.find_first_not_of(" \t", at_ + 1);
        if (at == std::string_view::npos) return false;
        const bool header = text_[at] == '[';
        while (at < text_.size() && text_[at] == '[') ++at;
        const std::size_t begin = at;
        while (at < text_.size() && (is_bare(text_[at]) || text_[at] == '.')) ++at;
        const std::string_view word = text_.substr(begin, at - begin);
        if (word.empty() || (header && !starts_like_a_name(word))) return false;
        at = std::min(text_.find_first_not_of(" \t", at), text_.size());
        return at < text_.size() && text_[at] == (header ? ']' : '=');
    }

    /// Not a number, and no word that is a value.
    [[nodiscard]] static bool starts_like_a_name(std::string_view word) {
        const bool digit = word.front() >= '0' && word.front() <= '9';
        return !digit && word.front() != '-' && word != "true" && word != "false" && word != "inf" && word != "nan";
    }

    std::string_view text_;
    std::size_t at_ = 0;
};

}  // namespace

std::vector<Statement> toml_layout(std::string_view text) { return Scanner(text).scan(); }

std::vector<ListItem> list_layout(std::string_view text, Span list) { return Scanner(text).list(list); }

std::string toml_string(std::string_view text) {
    std::string out = "\"";
    for (const char c : text) {
        switch (c) {
            case '"':
                out += "\\\"";
                break;
            case '\\':
                out += "\\\\";
                break;
            case '\n':
                out += "\\n";
                break;
            case '\r':
                out += "\\r";
                break;
            case '\t':
                out += "\\t";
                break;
            default:
                if (static_cast<unsigned char>(c) < 0x20 || c == 0x7F) {
                    out += fmt::format("\\u{:04X}", static_cast<unsigned>(c));
                } else {
                    out += c;
                }
        }
    }
    return out + '"';
}

std::string toml_key(std::string_view key) {
    const bool bare = !key.empty() && std::all_of(key.begin(), key.end(), is_bare);
    return bare ? std::string(key) : toml_string(key);
}

}  // namespace envar::model
