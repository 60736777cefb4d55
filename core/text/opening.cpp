#include "core/text/opening.hpp"

#include <optional>

namespace envar::text {
namespace {

using Way = Opening::Way;

constexpr std::size_t most_ways = 12;
constexpr std::size_t longest_way = 16;

Characters range(unsigned char first, unsigned char last) {
    Characters out;
    for (std::size_t c = first; c <= last; ++c) out.set(c);
    return out;
}

Characters one(char c) { return range(static_cast<unsigned char>(c), static_cast<unsigned char>(c)); }

/// Bytes of characters that take several: which of them they are is not told apart.
Characters beyond_ascii() { return range(128, 255); }

/// `\w` and its like; nothing for other escapes.
std::optional<Characters> kind_of(char escaped) {
    Characters out;
    switch (escaped) {
        case 'd':
        case 'D':
            out = range('0', '9');
            break;
        case 's':
        case 'S':
            out = one(' ') | one('\t') | one('\n') | one('\f') | one('\r');
            break;
        case 'w':
        case 'W':
            out = range('0', '9') | range('a', 'z') | range('A', 'Z') | one('_');
            break;
        default:
            return std::nullopt;
    }
    return escaped >= 'a' ? out : ~out;
}

/// A character that is written as an escape.
std::optional<char> escaped_character(char c) {
    switch (c) {
        case 'n':
            return '\n';
        case 't':
            return '\t';
        case 'r':
            return '\r';
        case 'f':
            return '\f';
        case 'v':
            return '\v';
        default:
            break;
    }
    if ((c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9')) return std::nullopt;
    return c;
}

/// A way on its making; nothing is known of what stands behind an open one.
struct Path {
    Way steps;
    bool open = false;
};
using Paths = std::vector<Path>;

/// Reads a pattern up to what it does not understand.
class Reader {
  public:
    explicit Reader(std::string_view pattern) : pattern_(pattern) {}

    std::optional<Paths> run() {
        Paths out = choice();
        if (lost_ || at_ < pattern_.size()) return std::nullopt;
        return out;
    }

  private:
    [[nodiscard]] bool is_at(char c) const { return at_ < pattern_.size() && pattern_[at_] == c; }
    bool taken(std::string_view mark) {
        if (pattern_.substr(at_, mark.size()) != mark) return false;
        at_ += mark.size();
        return true;
    }

    Paths choice() {
        Paths out = sequence();
        while (!lost_ && taken("|")) {
            Paths more = sequence();
            out.insert(out.end(), more.begin(), more.end());
        }
        if (out.size() > most_ways) out = {{{}, true}};
        return out;
    }

    Paths sequence() {
        Paths out(1);
        while (!lost_ && at_ < pattern_.size() && !is_at('|') && !is_at(')')) append(out, repeated(atom()));
        return out;
    }

    static void append(Paths& paths, const Paths& next) {
        Paths out;
        for (const Path& path : paths) {
            if (path.open || path.steps.size() >= longest_way) {
                out.push_back(path);
                out.back().open = true;
                continue;
            }
            for (const Path& more : next) {
                out.push_back(path);
                out.back().steps.insert(out.back().steps.end(), more.steps.begin(), more.steps.end());
                out.back().open = more.open;
            }
        }
        if (out.size() <= most_ways) {
            paths = std::move(out);
        } else {
            for (Path& path : paths) path.open = true;
        }
    }

    Paths repeated(Paths atom) {
        const bool simple = atom.size() == 1 && atom.front().steps.size() == 1 && !atom.front().open;
        if (taken("?")) {
            if (simple) stop_behind_several_bytes(atom.front());
            atom.emplace_back();
        } else if (is_at('*') || is_at('+')) {
            const bool least = pattern_[at_++] == '+';
            if (simple) {
                Opening::Step& step = atom.front().steps.front();
                step.many = true;
                step.least = step.least && least;
            } else if (least) {
                for (Path& path : atom) path.open = true;
            } else {
                atom = {{{}, true}};
            }
        } else if (is_at('{')) {
            lost_ = true;
        } else {
            if (simple) stop_behind_several_bytes(atom.front());
            return atom;
        }
        taken("?");  // as few as can be: what is matched as a whole is the same
        return atom;
    }

    /// Where one character is wanted that may take several bytes, it is not known how many.
    static void stop_behind_several_bytes(Path& path) {
        const Opening::Step& step = path.steps.front();
        path.open = !step.many && (step.characters & beyond_ascii()).any();
    }

    static Paths step(const Characters& characters) { return {{{{characters, false, true}}, false}}; }

    Paths atom() {
        const char c = pattern_[at_++];
        if (c == '^' || c == '$') return {{}};
        if (c == '(') return group();
        if (c == '[') return step(characters());
        if (c == '.') return step(lines_too_ ? ~Characters() : ~one('\n'));
        if (c == '\\') return escape();
        if (c == '*' || c == '+' || c == '?' || c == '{') lost_ = true;
        if (static_cast<unsigned char>(c) < 128) return step(one(c));
        while (at_ < pattern_.size() && (static_cast<unsigned char>(pattern_[at_]) & 0xC0U) == 0x80U) ++at_;
        return {{{{one(c), false, true}}, true}};
    }

    Paths escape() {
        if (at_ == pattern_.size()) return lose();
        const char c = pattern_[at_++];
        if (c == 'b' || c == 'B') return {{}};
        if (const auto kind = kind_of(c)) return step(*kind);
        if (const auto character = escaped_character(c)) return step(one(*character));
        return lose();
    }

    Paths lose() {
        lost_ = true;
        return {{}};
    }

    Paths group() {
        if (taken("?P<")) {
            at_ = std::min(pattern_.find('>', at_), pattern_.size() - 1) + 1;
        } else if (is_at('?') && at_ + 2 < pattern_.size() && pattern_[at_ + 2] == ')') {
            return mode(pattern_[at_ + 1]);
        } else if (!taken("?:") && is_at('?')) {
            return lose();
        }
        Paths out = choice();
        if (!taken(")")) return lose();
        return out;
    }

    /// `(?s)`, which is nothing itself, so that what is repeated behind it is what stands before.
    Paths mode(char name) {
        at_ += 3;
        const bool repeats = is_at('?') || is_at('*') || is_at('+') || is_at('{');
        if ((name != 's' && name != 'm') || repeats) return lose();
        lines_too_ = lines_too_ || name == 's';
        return {{}};
    }

    Characters characters() {
        Characters out;
        const bool others = taken("^");
        for (bool first = true; !lost_ && (first || !is_at(']')); first = false) {
            if (at_ >= pattern_.size() || pattern_.substr(at_, 2) == "[:") {
                lost_ = true;
                break;
            }
            char c = pattern_[at_++];
            if (c == '\\' && at_ < pattern_.size()) {
                const char escaped = pattern_[at_++];
                if (const auto kind = kind_of(escaped)) {
                    out |= *kind;
                    continue;
                }
                const auto character = escaped_character(escaped);
                if (!character) lost_ = true;
                c = character.value_or(c);
            }
            if (static_cast<unsigned char>(c) >= 128) {
                if (!others) out |= beyond_ascii();
                continue;
            }
            const bool is_range = is_at('-') && at_ + 1 < pattern_.size() && pattern_[at_ + 1] != ']';
            if (!is_range) {
                out |= one(c);
                continue;
            }
            const char last = pattern_[at_ + 1];
            if (last == '\\' || static_cast<unsigned char>(last) >= 128) lost_ = true;
            at_ += 2;
            if (!lost_) out |= range(static_cast<unsigned char>(c), static_cast<unsigned char>(last));
        }
        if (!lost_) ++at_;
        return others ? ~out | beyond_ascii() : out;
    }

    std::string_view pattern_;
    std::size_t at_ = 0;
    bool lost_ = false;
    bool lines_too_ = false;  // `.` is a line end too
};

/// Ends the way where taking as many characters as there are could take some that the next step wants.
Way certain(const Way& way) {
    for (std::size_t i = 0; i < way.size(); ++i) {
        if (!way[i].many) continue;
        Characters next;
        for (std::size_t k = i + 1; k < way.size(); ++k) {
            next |= way[k].characters;
            if (way[k].least) break;
        }
        if ((next & way[i].characters).any()) return {way.begin(), way.begin() + static_cast<std::ptrdiff_t>(i) + 1};
    }
    return way;
}

}  // namespace

Opening::Opening(const re2::RE2& pattern) {
    const auto paths = Reader(pattern.pattern()).run();
    if (!paths) return;
    for (const Path& path : *paths) {
        Way way = certain(path.steps);
        bool certainly = false;
        for (const Step& step : way) {
            firsts_ |= step.characters;
            certainly = certainly || step.least;
            if (certainly) break;
        }
        if (!certainly) {
            ways_.clear();
            return;
        }
        while (!way.back().least) way.pop_back();
        ways_.push_back(std::move(way));
    }
    tell();
}

/// Gives each set of characters a bit; where there are more of them, ways end before.
void Opening::tell() {
    constexpr std::size_t most = 32;
    std::vector<Characters> known;
    for (const Way& way : ways_) {
        std::vector<Told>& told = told_.emplace_back();
        for (const Step& step : way) {
            const auto at = std::find(known.begin(), known.end(), step.characters);
            const auto number = static_cast<std::size_t>(at - known.begin());
            if (number == most) break;
            if (at == known.end()) known.push_back(step.characters);
            told.push_back({std::uint32_t{1} << number, step.many, step.least});
        }
    }
    for (std::size_t number = 0; number < known.size(); ++number)
        for (std::size_t c = 0; c < bits_.size(); ++c)
            if (known[number].test(c)) bits_.at(c) |= std::uint32_t{1} << number;
}

std::string Opening::prefix() const {
    std::string out;
    if (ways_.empty()) return out;
    for (std::size_t i = 0; i < ways_.front().size(); ++i) {
        const Step& first = ways_.front()[i];
        const bool is_same =
            !first.many && first.characters.count() == 1 &&
            std::all_of(ways_.begin(), ways_.end(), [&](const Way& way) {
                return i < way.size() && !way[i].many && way[i].least && way[i].characters == first.characters;
            });
        if (!is_same) break;
        for (std::size_t c = 0; c < first.characters.size(); ++c)
            if (first.characters.test(c)) out += static_cast<char>(c);
    }
    return out;
}

}  // namespace envar::text
