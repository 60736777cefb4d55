#include "core/model/document.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>
#include <set>
#include <utility>

#include "core/model/limits.hpp"
#include "core/model/toml_layout.hpp"
#include "core/model/toml_reader.hpp"
#include "core/text/utf8.hpp"

namespace envar::model {
namespace {

using text::Finding;
using text::Source;
using text::Span;

/// The parser's words, cut to the problem, in the house form.
std::string parser_message(std::string_view description) {
    constexpr std::string_view lead = "Error while parsing ";
    if (description.substr(0, lead.size()) == lead) description.remove_prefix(lead.size());
    std::string message = text::printable(description);
    if (!message.empty() && message.back() == '.') message.pop_back();
    return text::shortened("cannot read " + message, 200);
}

std::optional<Finding> refuse_before_parsing(const Source& source, std::size_t limit) {
    if (source.text().size() > limit)
        return source.finding("EV104", {}, fmt::format("the file is larger than {} KiB", limit / 1024),
                              "this is no manifest written by hand; it was not read");
    if (const auto bad = text::first_invalid_utf8(source.text()))
        return source.finding(
            "EV103", {*bad, *bad + 1},
            fmt::format("byte 0x{:02X} is not UTF-8", static_cast<unsigned char>(source.text()[*bad])),
            "save the file as UTF-8");
    return std::nullopt;
}

/// Whether a line has so many dots that a key on it may be too deep: a cheap look that spares the layout.
bool has_deep_key(std::string_view text) {
    std::size_t dots = 0;
    for (const char c : text) {
        if (c == '\n') dots = 0;
        if (c == '.' && ++dots >= deepest_key) return true;
    }
    return false;
}

std::string joined(const std::vector<std::string>& path, std::size_t count) {
    return fmt::format("{}", fmt::join(path.begin(), path.begin() + static_cast<std::ptrdiff_t>(count), "."));
}

/// Reads a text with syntax errors: the statement to blame is told and blanked out, then the rest is read, until
/// nothing is to blame. Blanking keeps every place where it is.
class Recovery {
  public:
    explicit Recovery(Document& document) : document_(document), source_(document.source) {
        text_ = source_.text();
        statements_ = toml_layout(text_);
        blanked_.resize(statements_.size());
        std::size_t header = no_header;
        for (std::size_t i = 0; i < statements_.size(); ++i) {
            header_of_.push_back(header);
            if (is_header(statements_[i])) header = i;
        }
    }

    void read() {
        for (std::size_t i = 0; i < statements_.size(); ++i)
            if (statements_[i].path.size() > deepest_key) too_deep(i);
        // A statement that is wrong by itself is wrong wherever it stands, so these go first: one parse each.
        for (std::size_t i = 0; i < statements_.size(); ++i)
            if (!blanked_[i]) by_itself(i);
        for (std::size_t round = 0; round < most_rounds && !document_.readable; ++round) {
            Node root;
            if (const auto error = read_toml(source_, text_, root)) {
                blame(*error);
            } else {
                document_.root = std::move(root);
                document_.readable = true;
            }
        }
        for (const auto& [table, key] : lost_) document_.lost.push_back({table, key});
        if (untold_ > 0)
            document_.findings.back().hint += fmt::format("; {} more syntax errors are not shown", untold_);
    }

  private:
    static constexpr std::size_t no_header = std::string::npos;
    static constexpr std::size_t most_rounds = 50;  // of reading and blanking one more statement

    [[nodiscard]] static bool is_header(const Statement& s) {
        return s.kind == StatementKind::table || s.kind == StatementKind::table_array;
    }

    void add(std::string_view code, Span span, std::string message, std::string hint) {
        if (document_.findings.size() >= most_syntax_errors) {
            ++untold_;
            return;
        }
        document_.findings.push_back(source_.finding(code, span, std::move(message), std::move(hint)));
    }

    void too_deep(std::size_t i) {
        const Statement& s = statements_[i];
        add("EV105", {s.key.begin, s.key.begin + 1},
            fmt::format("a key of {} parts is nested too deeply", s.path.size()),
            fmt::format("at most {} parts are read", deepest_key));
        drop(i);
    }

    void by_itself(std::size_t i) {
        const Statement& s = statements_[i];
        if (s.kind == StatementKind::blank || s.kind == StatementKind::comment) return;
        const std::string_view own =
            std::string_view(source_.text()).substr(s.whole.begin, s.whole.end - s.whole.begin);
        Node ignored;
        const Source alone("", std::string(own));
        const auto error = read_toml(alone, own, ignored);
        if (!error) return;
        tell(i, error->at == std::string::npos ? error->at : s.whole.begin + error->at, error->description);
        drop(i);
    }

    void blame(const SyntaxError& error) {
        std::size_t at = 0;
        for (std::size_t i = 0; i < statements_.size(); ++i)
            if (!blanked_[i] && statements_[i].whole.begin <= error.at) at = i;
        if (blanked_.empty() || blanked_[at]) at = first_left();
        if (at == statements_.size()) return;  // nothing is left that could be to blame
        tell(at, error.at, error.description);
        drop(at);
    }

    [[nodiscard]] std::size_t first_left() const {
        std::size_t i = 0;
        while (i < statements_.size() && (blanked_[i] || statements_[i].kind == StatementKind::blank)) ++i;
        return i;
    }

    void tell(std::size_t i, std::size_t at, const std::string& description) {
        const Span whole = statements_[i].whole;
        if (description.find("maximum nested value depth") != std::string::npos) {
            add("EV105", statements_[i].key, "a value is nested too deeply",
                fmt::format("at most {} lists and inline tables within each other are read", deepest_value));
        } else if (!told_in_own_words(i, description)) {
            // Where the parser noticed is often the start of the next line; the slip is on this one.
            const Span own = trimmed(whole);
            const Span here = {std::clamp(at, own.begin, std::max(own.begin + 1, own.end) - 1), own.end};
            add("EV102", description.empty() ? own : Span{here.begin, here.begin + 1},
                description.empty() ? "cannot read this statement" : parser_message(description),
                "a line is `key = value`; text values stand in quotes");
        }
    }

    /// The slips that people make most, told with the whole of what is wrong underlined.
    bool told_in_own_words(std::size_t i, const std::string& description) {
        const Statement& s = statements_[i];
        const std::string& text = source_.text();
        if (description.find("redefine") != std::string::npos || description.find("existing") != std::string::npos) {
            stands_twice(i);
            return true;
        }
        if (s.kind == StatementKind::unclear && text[first_letter(s)] == '[') {
            add("EV102", trimmed({first_letter(s), s.whole.end}), "this table header is not closed",
                "a header is `[module]`, or `[[dependency]]` for one of a list of tables");
            return true;
        }
        if (s.kind != StatementKind::assignment) return false;
        const std::string value = text.substr(s.value.begin, s.value.end - s.value.begin);
        if (value.empty()) {
            add("EV102", s.key, fmt::format("`{}` has no value", ticked_key(s)), "a line is `key = value`");
        } else if (value.front() == '[' || value.front() == '{') {
            const bool ends = value.back() == (value.front() == '[' ? ']' : '}');
            if (ends && description.find("end-of-file") == std::string::npos) return false;
            add("EV102", s.value, fmt::format("this {} is never closed", value.front() == '[' ? "list" : "table"),
                fmt::format("look for a missing `{}`", value.front() == '[' ? ']' : '}'));
        } else if (value.front() == '"' || value.front() == '\'') {
            if (description.find("string") == std::string::npos || value.find('\\') != std::string::npos)
                return false;
            const std::string_view quotes = value.substr(0, 3) == std::string(3, value.front())
                                                ? std::string_view(value).substr(0, 3)
                                                : std::string_view(value).substr(0, 1);
            if (value.size() > quotes.size() &&
                std::string_view(value).substr(value.size() - quotes.size()) == quotes)
                return false;
            add("EV102", s.value, "this text is never closed", fmt::format("put a `{}` behind it", quotes));
        } else if (value.find_first_of("\"'[]{}=\n") == std::string::npos) {
            add("EV102", s.value, fmt::format("`{}` is no TOML value", text::shortened(text::printable(value), 60)),
                fmt::format("text stands in quotes: `{}`", text::shortened(toml_string(value), 60)));
        } else {
            return false;
        }
        return true;
    }

    static std::string ticked_key(const Statement& s) {
        return text::shortened(text::printable(joined(s.path, s.path.size())), 60);
    }

    void stands_twice(std::size_t i) {
        const Statement& s = statements_[i];
        std::size_t first = i;
        for (std::size_t j = i; j-- > 0;) {
            if (!is_header(s) && is_header(statements_[j])) break;
            if (statements_[j].path == s.path && !s.path.empty()) first = j;
        }
        const std::string name = is_header(s)
                                     ? text::printable(source_.text().substr(s.key.begin, s.key.end - s.key.begin))
                                     : ticked_key(s);
        add("EV102", s.key, fmt::format("`{}` stands here a second time", text::shortened(name, 60)),
            first == i ? "part of it stands above already: join the two"
                       : fmt::format("it stands first on line {}: join the two",
                                     source_.position(statements_[first].key.begin).line));
    }

    /// Without the line end and the blanks before it.
    [[nodiscard]] Span trimmed(Span span) const {
        const std::string& text = source_.text();
        while (span.end > span.begin + 1 &&
               std::string_view(" \t\r\n").find(text[span.end - 1]) != std::string_view::npos)
            --span.end;
        return span;
    }

    /// Blanks the statement out; of a header, or of what may have been one, all that stands below it as well.
    void drop(std::size_t i) {
        const Statement& s = statements_[i];
        const bool heads = is_header(s) || source_.text()[first_letter(s)] == '[';
        if (!heads) {
            const std::size_t header = header_of_[i];
            const std::string name =
                header == no_header ? "" : joined(statements_[header].path, statements_[header].path.size());
            lost_.insert({name, s.path.size() == 1 ? s.path.front() : ""});
        }
        for (std::size_t j = i; j < statements_.size() && (j == i || (heads && !is_header(statements_[j]))); ++j)
            blank(j);
        if (heads) lost_.insert({joined(s.path, std::min<std::size_t>(1, s.path.size())), ""});
    }

    [[nodiscard]] std::size_t first_letter(const Statement& s) const {
        const std::size_t at = source_.text().find_first_not_of(" \t", s.whole.begin);
        return at == std::string::npos || at >= s.whole.end ? s.whole.begin : at;
    }

    void blank(std::size_t i) {
        blanked_[i] = true;
        for (std::size_t at = statements_[i].whole.begin; at < statements_[i].whole.end; ++at)
            if (text_[at] != '\n' && text_[at] != '\r') text_[at] = ' ';
    }

    Document& document_;
    const Source& source_;
    std::string text_;
    std::vector<Statement> statements_;
    std::vector<bool> blanked_;
    std::vector<std::size_t> header_of_;  // the header above each statement
    std::set<std::pair<std::string, std::string>> lost_;
    std::size_t untold_ = 0;
};

}  // namespace

const Node* Node::find(std::string_view key) const {
    const auto found = std::find_if(entries.begin(), entries.end(), [&](const Entry& e) { return e.key == key; });
    return found == entries.end() ? nullptr : &found->value;
}

std::string_view kind_name(NodeKind kind) {
    switch (kind) {
        case NodeKind::text:
            return "text";
        case NodeKind::integer:
            return "a whole number";
        case NodeKind::number:
            return "a number with a fraction";
        case NodeKind::boolean:
            return "true or false";
        case NodeKind::time:
            return "a date or time";
        case NodeKind::list:
            return "a list";
        case NodeKind::table:
            return "a table";
    }
    return "a value";
}

Document parse_document(Source source, std::size_t limit) {
    Document document;
    document.source = std::move(source);
    const Source& from = document.source;
    if (auto refused = refuse_before_parsing(from, limit)) {
        document.findings.push_back(std::move(*refused));
        return document;
    }
    if (!has_deep_key(from.text())) {
        if (auto error = read_toml(from, from.text(), document.root); !error) {
            document.valid = document.readable = true;
            return document;
        }
    }
    Recovery(document).read();
    return document;
}

}  // namespace envar::model
