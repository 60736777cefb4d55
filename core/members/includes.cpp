#include "core/members/includes.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <set>

#include "core/members/masked.hpp"
#include "core/text/pattern.hpp"

namespace envar::members {
namespace {

constexpr std::size_t longest_delimiter = 16;  // of a raw string, by the language's own rule

constexpr std::string_view language_macro = "__cplusplus";

bool is_digit(char c) { return c >= '0' && c <= '9'; }
bool begins_word(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; }
bool in_word(char c) { return begins_word(c) || is_digit(c); }
bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\f' || c == '\v'; }

/// The text without the ends of continued lines, and where each character came from.
struct Joined {
    std::string text;
    std::vector<std::size_t> origin;  // one more than characters
};

Joined join_lines(std::string_view text) {
    Joined out;
    out.text.reserve(text.size());
    out.origin.reserve(text.size() + 1);
    for (std::size_t at = 0; at < text.size();) {
        std::size_t end = at + 1;
        if (end < text.size() && text[end] == '\r') ++end;
        if (text[at] == '\\' && end < text.size() && text[end] == '\n') {
            at = end + 1;
            continue;
        }
        out.text += text[at];
        out.origin.push_back(at++);
    }
    out.origin.push_back(text.size());
    return out;
}

class CodeScan {
  public:
    explicit CodeScan(std::string_view text) : joined_(join_lines(text)), text_(joined_.text) {}

    CodeFacts run() {
        if (text_.starts_with("\xEF\xBB\xBF")) at_ = 3;  // a mark that some editors leave
        while (at_ < text_.size()) step();
        return std::move(facts_);
    }

  private:
    struct Level {
        bool counts = false;  // makes what is within it conditional
        bool dead = false;
    };

    [[nodiscard]] char peek(std::size_t ahead = 0) const {
        return at_ + ahead < text_.size() ? text_[at_ + ahead] : '\0';
    }

    void step() {
        const char c = peek();
        if (c == '\n') {
            line_begins_ = true;
            ++at_;
        } else if (is_blank(c)) {
            ++at_;
        } else if (c == '/' && (peek(1) == '/' || peek(1) == '*')) {
            pass_comment();
        } else if (c == '#' && line_begins_) {
            directive();
        } else {
            line_begins_ = false;
            code(c);
        }
    }

    void pass_comment() {
        const bool line = peek(1) == '/';
        const std::size_t end = text_.find(line ? "\n" : "*/", at_ + 2);
        at_ = end == std::string::npos ? text_.size() : end + (line ? 0 : 2);
    }

    void code(char c) {
        seen_code_ = true;
        if (begins_word(c)) {
            word();
        } else if (is_digit(c)) {
            while (in_word(peek()) || peek() == '.' || (peek() == '\'' && in_word(peek(1)))) ++at_;
        } else if (c == '"' || c == '\'') {
            pass_string(c);
        } else {
            brace(c);
            ++at_;
        }
    }

    void brace(char c) {
        if (c == '{') {
            if (names_space_ && depth_ == 0 && !namespace_.name.empty())
                keep(facts_.namespaces, namespaces_, namespace_);
            // Within a namespace others may follow, but only the outermost counts.
            ++depth_;
        }
        if (c == '}' && depth_ > 0) --depth_;
        if (c != ':') names_space_ = false;
    }

    void word() {
        const std::size_t begin = at_;
        while (in_word(peek())) ++at_;
        const std::string_view word = std::string_view(text_).substr(begin, at_ - begin);
        if (peek() == '"' && (word == "R" || word == "LR" || word == "uR" || word == "UR" || word == "u8R"))
            return pass_raw_string();
        if (word == "namespace") {
            names_space_ = !after_using_;
            namespace_ = {};
        } else if (names_space_ && namespace_.name.empty()) {
            namespace_ = {std::string(word), span(begin, at_)};
        }
        after_using_ = word == "using";
        if (dead()) return;
        keep(facts_.words, words_, {std::string(word), span(begin, at_)});
    }

    void pass_string(char quote) {
        for (++at_; at_ < text_.size() && text_[at_] != quote && text_[at_] != '\n'; ++at_)
            if (text_[at_] == '\\') ++at_;
        // One that is never closed ends with its line.
        at_ = std::min(at_ < text_.size() && text_[at_] == quote ? at_ + 1 : at_, text_.size());
    }

    void pass_raw_string() {
        const std::size_t open = text_.find('(', at_);
        if (open == std::string::npos || open - at_ > longest_delimiter + 1) return pass_string('"');
        const std::string close = ")" + text_.substr(at_ + 1, open - at_ - 1) + "\"";
        const std::size_t end = text_.find(close, open);
        at_ = end == std::string::npos ? text_.size() : end + close.size();
    }

    void pass_blanks() {
        while (is_blank(peek()) || (peek() == '/' && peek(1) == '*')) {
            if (peek() == '/') {
                pass_comment();
            } else {
                ++at_;
            }
        }
    }

    std::string directive_word() {
        pass_blanks();
        const std::size_t begin = at_;
        while (in_word(peek())) ++at_;
        return text_.substr(begin, at_ - begin);
    }

    /// The rest of the line without comments.
    std::string rest_of_line() {
        std::string out;
        while (at_ < text_.size() && peek() != '\n') {
            if (peek() == '/' && (peek(1) == '/' || peek(1) == '*')) {
                pass_comment();
                out += ' ';
            } else {
                out += text_[at_++];
            }
        }
        const auto first = out.find_first_not_of(" \t\r\f\v");
        if (first == std::string::npos) return {};
        return out.substr(first, out.find_last_not_of(" \t\r\f\v") - first + 1);
    }

    void directive() {
        ++at_;
        line_begins_ = false;
        const std::string name = directive_word();
        if (name == "include" || name == "include_next" || name == "import") {
            include();
        } else if (name == "define") {
            define();
        } else if (name == "if" || name == "ifdef" || name == "ifndef") {
            open_level(name);
        } else if (name == "else" || name == "elif" || name == "elifdef" || name == "elifndef") {
            const std::string condition = rest_of_line();
            if (!levels_.empty()) levels_.back().dead = name == "elif" && condition == "0";
        } else if (name == "endif") {
            if (!levels_.empty()) levels_.pop_back();
        }
        if (name != "pragma" && name != "define")
            awaited_guard_ = name == "ifndef" || name == "if" ? awaited_guard_ : "";
        // What is left of the line is no code, but a comment may begin in it that goes on.
        static_cast<void>(rest_of_line());
    }

    void open_level(const std::string& name) {
        const std::size_t begin = at_;
        const std::string condition = rest_of_line();
        Level level{true, condition == "0" && name == "if"};
        std::string guard;
        if (name == "ifndef") guard = condition;
        if (name == "if") {
            static const re2::RE2 form(R"(!\s*defined\s*\(?\s*(\w+)\s*\)?)");
            re2::RE2::FullMatch(condition, form, &guard);
        }
        awaited_guard_.clear();
        if (!guard.empty() && levels_.empty() && !seen_code_ && facts_.includes.empty() &&
            facts_.guard.name.empty()) {
            level.counts = false;
            awaited_guard_ = guard;
            guard_span_ = span(text_.find(guard, begin), text_.find(guard, begin) + guard.size());
        }
        if (condition.find(language_macro) != std::string::npos) level.counts = false;
        levels_.push_back(level);
    }

    void define() {
        pass_blanks();
        const std::size_t begin = at_;
        const std::string name = directive_word();
        // What has parameters is there to be used, and set where others have not.
        if (!name.empty() && name == awaited_guard_ && peek() != '(') {
            facts_.guard = {name, guard_span_};
        } else if (!name.empty() && !dead()) {
            // A guard that was awaited and did not come was a condition after all.
            if (!awaited_guard_.empty() && !levels_.empty()) levels_.front().counts = true;
            if (!conditional()) keep(facts_.macros, macros_, {name, span(begin, at_)});
        }
        awaited_guard_.clear();
    }

    void include() {
        pass_blanks();
        const char open = peek();
        if (open != '<' && open != '"') return;  // by a macro: nobody knows
        const std::size_t begin = at_ + 1;
        const std::size_t end = text_.find(open == '<' ? '>' : '"', begin);
        if (end == std::string::npos || text_.find('\n', begin) < end) return;
        at_ = end + 1;
        if (dead()) return;
        facts_.includes.push_back({text_.substr(begin, end - begin), open == '<', conditional(), span(begin, end)});
    }

    [[nodiscard]] bool dead() const {
        return std::any_of(levels_.begin(), levels_.end(), [](const Level& level) { return level.dead; });
    }
    [[nodiscard]] bool conditional() const {
        return std::any_of(levels_.begin(), levels_.end(), [](const Level& level) { return level.counts; });
    }
    [[nodiscard]] text::Span span(std::size_t begin, std::size_t end) const {
        if (begin >= text_.size()) return {};
        return {joined_.origin[begin], joined_.origin[std::min(end, text_.size())]};
    }
    static void keep(std::vector<NamedPlace>& list, std::set<std::string>& known, NamedPlace place) {
        if (known.insert(place.name).second) list.push_back(std::move(place));
    }

    Joined joined_;
    const std::string& text_;
    std::size_t at_ = 0;
    bool line_begins_ = true;
    bool seen_code_ = false;
    bool names_space_ = false;
    bool after_using_ = false;
    NamedPlace namespace_;
    std::size_t depth_ = 0;
    std::vector<Level> levels_;
    std::string awaited_guard_;
    text::Span guard_span_;
    std::set<std::string> macros_, namespaces_, words_;
    CodeFacts facts_;
};

}  // namespace

CodeFacts scan_code(std::string_view text) { return CodeScan(text).run(); }

}  // namespace envar::members
