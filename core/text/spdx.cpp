#include "core/text/spdx.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <utility>
#include <vector>

namespace envar::text {
namespace {

struct Token {
    std::size_t begin;
    std::size_t end;
    std::string_view text;
};

constexpr std::size_t most_tokens = 200;

bool is_id_char(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '-' || c == '.' ||
           c == '+' || c == ':';
}

std::string plain(std::string_view text) {
    std::string out;
    for (const char c : text)
        if (is_id_char(c) && c != '-' && c != '.') out += c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
    return out;
}

/// What people write, plainly, and the identifier that they mean.
std::string_view meant_identifier(std::string_view written) {
    constexpr std::array<std::pair<std::string_view, std::string_view>, 24> known = {{
        {"apache", "Apache-2.0"},
        {"apache2", "Apache-2.0"},
        {"apachelicense20", "Apache-2.0"},
        {"apachev2", "Apache-2.0"},
        {"bsd", "BSD-3-Clause"},
        {"bsd2", "BSD-2-Clause"},
        {"bsd3", "BSD-3-Clause"},
        {"boost", "BSL-1.0"},
        {"gpl", "GPL-3.0-or-later"},
        {"gpl2", "GPL-2.0-only"},
        {"gplv2", "GPL-2.0-only"},
        {"gplv2+", "GPL-2.0-or-later"},
        {"gpl3", "GPL-3.0-only"},
        {"gplv3", "GPL-3.0-only"},
        {"gplv3+", "GPL-3.0-or-later"},
        {"lgpl", "LGPL-3.0-or-later"},
        {"lgplv3", "LGPL-3.0-only"},
        {"lgplv21", "LGPL-2.1-only"},
        {"mitlicense", "MIT"},
        {"themitlicense", "MIT"},
        {"mitlicence", "MIT"},
        {"mpl", "MPL-2.0"},
        {"mpl2", "MPL-2.0"},
        {"proprietary", "LicenseRef-proprietary"},
    }};
    const std::string key = plain(written);
    const auto found = std::find_if(known.begin(), known.end(), [&](const auto& row) { return row.first == key; });
    return found == known.end() ? std::string_view() : found->second;
}

/// compound = simple [ "WITH" exception ] { ("AND" | "OR") compound }, with parentheses; read without recursion:
/// only the number of open parentheses matters, for precedence changes nothing of what is valid.
class Reader {
  public:
    explicit Reader(std::string_view text) : text_(text) {}

    /// True when the expression is fine; else `error` says why it is not.
    bool read() {
        if (const auto meant = meant_identifier(text_); !meant.empty())
            return bad({0, text_.size(), text_}, "is no SPDX identifier", meant);
        if (!split()) return false;
        if (tokens_.empty()) return fail(0, text_.size(), "the licence expression is empty");
        for (const Token& token : tokens_)
            if (!step(token)) return false;
        const Token& last = tokens_.back();
        if (wants_operand_)
            return fail(last.begin, last.end, fmt::format("a licence is missing behind `{}`", last.text));
        return depth_ == 0 || bad(last, "leaves a parenthesis open");
    }

    LicenseError error;

  private:
    static constexpr const char* hint = "as in MIT, or Apache-2.0 OR (GPL-2.0-only WITH Classpath-exception-2.0)";

    bool fail(std::size_t begin, std::size_t end, std::string message) {
        error = {begin, end, std::move(message), hint};
        return false;
    }
    bool bad(const Token& token, std::string_view what, std::string_view meant = {}) {
        fail(token.begin, token.end, fmt::format("`{}` {}", token.text, what));
        if (!meant.empty()) error.hint = fmt::format("did you mean `{}`?", meant);
        return false;
    }

    bool split() {
        for (std::size_t at = 0; at < text_.size();) {
            const std::size_t begin = at;
            if (text_[at] == ' ' || text_[at] == '\t') {
                ++at;
                continue;
            }
            if (text_[at] == '(' || text_[at] == ')') {
                ++at;
            } else {
                while (at < text_.size() && is_id_char(text_[at])) ++at;
            }
            if (at == begin) return fail(begin, begin + 1, "a character that no licence expression has");
            tokens_.push_back({begin, at, text_.substr(begin, at - begin)});
            if (tokens_.size() > most_tokens) return fail(begin, at, "the licence expression is too long");
        }
        return true;
    }

    bool step(const Token& token) {
        const bool join = token.text == "AND" || token.text == "OR" || token.text == "WITH";
        if (wants_operand_) {
            if (token.text == "(" && !exception_) {
                ++depth_;
                return true;
            }
            if (token.text == ")" || token.text == "(" || join) return bad(token, "stands where a licence is wanted");
            return operand(token);
        }
        if (join) {
            if (token.text == "WITH" && !simple_) return bad(token, "can only follow one licence");
            wants_operand_ = true;
            exception_ = token.text == "WITH";
            return true;
        }
        if (token.text != ")") return misplaced(token);
        if (depth_ == 0) return bad(token, "closes nothing");
        --depth_;
        simple_ = false;
        return true;
    }

    bool operand(const Token& token) {
        if (const auto meant = meant_identifier(token.text); !meant.empty())
            return bad(token, "is no SPDX identifier", meant);
        const bool plus_inside = token.text.find('+') < token.text.size() - 1;
        if (plus_inside || token.text.front() == '+' || token.text.front() == ':' || token.text.back() == ':')
            return bad(token, "is no SPDX identifier");
        wants_operand_ = false;
        simple_ = !exception_;
        exception_ = false;
        return true;
    }

    bool misplaced(const Token& token) {
        std::string upper(token.text);
        std::transform(upper.begin(), upper.end(), upper.begin(),
                       [](char c) { return c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c; });
        const bool small = upper == "AND" || upper == "OR" || upper == "WITH";
        return bad(token, "stands where AND, OR or WITH is wanted", small ? std::string_view(upper) : "");
    }

    std::string_view text_;
    std::vector<Token> tokens_;
    std::size_t depth_ = 0;
    bool wants_operand_ = true;
    bool exception_ = false;  // the operand wanted is an exception
    bool simple_ = false;     // the operand before was one licence
};

}  // namespace

std::optional<LicenseError> license_error(std::string_view expression) {
    Reader reader(expression);
    if (reader.read()) return std::nullopt;
    return std::move(reader.error);
}

}  // namespace envar::text
