#include "core/text/opening.hpp"

#include <cstring>
#include <optional>

namespace envar::text {
namespace {

using Way = Opening::Way;

constexpr std::size_t most_ways = 96;
constexpr std::size_t many_ways = 4;    // in what is repeated
constexpr std::size_t most_steps = 64;  // of a way

Characters characters_from(unsigned char first, unsigned char last) {
    Characters out;
    for (std::size_t c = first; c <= last; ++c) out.set(c);
    return out;
}

Characters one(char c) { return characters_from(static_cast<unsigned char>(c), static_cast<unsigned char>(c)); }

/// Bytes of characters that take several: which of them they are is not told apart.
Characters beyond_ascii() { return characters_from(128, 255); }

/// `\w` and its like; nothing for other escapes.
std::optional<Characters> kind_of(char escaped) {
    Characters out;
    switch (escaped) {
        case 'd':
        case 'D':
            out = characters_from('0', '9');
            break;
        case 's':
        case 'S':
            out = one(' ') | one('\t') | one('\n') | one('\f') | one('\r');
            break;
        case 'w':
        case 'W':
            out = characters_from('0', '9') | characters_from('a', 'z') | characters_from('A', 'Z') | one('_');
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
    Way way;
    bool open = false;

    /// It is more than its steps tell.
    void is_not_all() { way.whole = false; }
};
using Paths = std::vector<Path>;

/// Reads a pattern up to what it does not understand.
class PatternReader {
  public:
    explicit PatternReader(std::string_view pattern) : pattern_(pattern) {}

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
        const std::size_t begin = at_;
        while (!lost_ && at_ < pattern_.size() && !is_at('|') && !is_at(')')) {
            const bool first = at_ == begin && depth_ == 0;
            append(out, repeated(atom(first)));
        }
        return out;
    }

    static void append(Paths& paths, const Paths& next) {
        Paths out;
        for (const Path& path : paths) {
            if (path.open || path.way.steps.size() >= most_steps) {
                out.push_back(path);
                out.back().open = true;
                continue;
            }
            for (const Path& more : next) {
                Path& made = out.emplace_back(path);
                const std::size_t size = path.way.steps.size();
                made.way.steps.insert(made.way.steps.end(), more.way.steps.begin(), more.way.steps.end());
                for (Opening::Group group : more.way.groups) {
                    group.first += size;
                    group.behind += size;
                    made.way.groups.push_back(group);
                }
                made.way.whole = path.way.whole && more.way.whole && !path.way.ends;
                made.way.ends = more.way.ends;
                made.open = more.open;
            }
        }
        if (out.size() <= most_ways) {
            paths = std::move(out);
        } else {
            for (Path& path : paths) path.open = true;
        }
    }

    Paths repeated(Paths atom) {
        const bool simple = atom.size() == 1 && atom.front().way.steps.size() == 1 && !atom.front().open;
        if (taken("?")) {
            atom.emplace_back();
        } else if (is_at('*') || is_at('+')) {
            const bool least = pattern_[at_++] == '+';
            if (simple) {
                Opening::Step& step = atom.front().way.steps.front();
                // A group has what it was last, and behind an end there is nothing to be repeated.
                if (!atom.front().way.groups.empty() || atom.front().way.ends) atom.front().is_not_all();
                step.many = true;
                step.least = step.least && least;
            } else {
                for (Path& path : atom) path.open = true;
                if (atom.size() > many_ways) shorten(atom);
                if (!least) atom.emplace_back();  // not once
            }
        } else if (is_at('{')) {
            lost_ = true;
        } else {
            return atom;
        }
        // As few as can be: whether it matches is the same, but not what its groups are.
        if (taken("?"))
            for (Path& path : atom) path.is_not_all();
        return atom;
    }

    /// Of each of them only the first step; those that begin alike are one then.
    static void shorten(Paths& open) {
        Paths out;
        for (Path& path : open) {
            if (path.way.steps.size() > 1) path.way.steps.resize(1);
            path.way.groups.clear();
            const auto is_same = [&path](const Path& other) { return other.way.steps == path.way.steps; };
            if (std::none_of(out.begin(), out.end(), is_same)) out.push_back(std::move(path));
        }
        open = std::move(out);
    }

    static Paths step(const Characters& characters) {
        Paths out(1);
        out.front().way.steps.push_back({characters, false, true});
        return out;
    }

    /// Nothing by itself; a condition on what stands around, unless it holds wherever the match begins.
    static Paths condition(bool holds) {
        Paths out(1);
        out.front().way.whole = holds;
        return out;
    }

    Paths atom(bool first) {
        const char c = pattern_[at_++];
        if (c == '^') return condition(first);
        if (c == '$') {
            Paths out = condition(!by_lines_);
            out.front().way.ends = true;
            return out;
        }
        if (c == '(') return group();
        if (c == '[') return step(characters());
        if (c == '.') return step(lines_too_ ? ~Characters() : ~one('\n'));
        if (c == '\\') return escape();
        if (c == '*' || c == '+' || c == '?' || c == '{') lost_ = true;
        if (static_cast<unsigned char>(c) < 128) return step(one(c));
        while (at_ < pattern_.size() && (static_cast<unsigned char>(pattern_[at_]) & 0xC0U) == 0x80U) ++at_;
        Paths out = step(one(c));
        out.front().open = true;
        return out;
    }

    Paths escape() {
        if (at_ == pattern_.size()) return lose();
        const char c = pattern_[at_++];
        if (c == 'b' || c == 'B') return condition(false);
        if (const auto kind = kind_of(c)) return step(*kind);
        if (const auto character = escaped_character(c)) return step(one(*character));
        return lose();
    }

    Paths lose() {
        lost_ = true;
        return Paths(1);
    }

    Paths group() {
        std::size_t number = 0;
        if (taken("?P<")) {
            at_ = std::min(pattern_.find('>', at_), pattern_.size() - 1) + 1;
            number = ++groups_;
        } else if (is_at('?') && at_ + 2 < pattern_.size() && pattern_[at_ + 2] == ')') {
            return mode(pattern_[at_ + 1]);
        } else if (!taken("?:")) {
            if (is_at('?')) return lose();
            number = ++groups_;
        }
        ++depth_;
        Paths out = choice();
        --depth_;
        if (!taken(")")) return lose();
        if (number != 0)
            for (Path& path : out) path.way.groups.push_back({number, 0, path.way.steps.size()});
        return out;
    }

    /// `(?s)`, which is nothing itself, so that what is repeated behind it is what stands before.
    Paths mode(char name) {
        at_ += 3;
        const bool repeats = is_at('?') || is_at('*') || is_at('+') || is_at('{');
        if ((name != 's' && name != 'm') || repeats) return lose();
        lines_too_ = lines_too_ || name == 's';
        by_lines_ = by_lines_ || name == 'm';
        return Paths(1);
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
            if (!lost_) out |= characters_from(static_cast<unsigned char>(c), static_cast<unsigned char>(last));
        }
        if (!lost_) ++at_;
        return others ? ~out | beyond_ascii() : out;
    }

    std::string_view pattern_;
    std::size_t at_ = 0;
    bool lost_ = false;
    bool lines_too_ = false;  // `.` is a line end too
    bool by_lines_ = false;   // `$` is where a line ends
    std::size_t groups_ = 0, depth_ = 0;
};

bool is_ascii(const char* begin, const char* end) {
    std::uint64_t word = 0, all = 0;
    for (; end - begin >= static_cast<std::ptrdiff_t>(sizeof word); begin += sizeof word) {
        std::memcpy(&word, begin, sizeof word);
        all |= word;
    }
    for (; begin != end; ++begin) all |= static_cast<unsigned char>(*begin);
    return (all & 0x8080808080808080U) == 0;
}

/// Where taking as many characters as there are could take some that the next step wants, both together are one step:
/// some of the characters of either, in whatever order.
void join_where_uncertain(Way& way) {
    auto& steps = way.steps;
    for (std::size_t i = 0; i < steps.size();) {
        Characters next;
        for (std::size_t k = i + 1; k < steps.size(); ++k) {
            next |= steps[k].characters;
            if (steps[k].least) break;
        }
        if (!steps[i].many || (next & steps[i].characters).none()) {
            ++i;
            continue;
        }
        steps[i].characters |= steps[i + 1].characters;
        steps[i].least = steps[i].least || steps[i + 1].least;
        steps.erase(steps.begin() + static_cast<std::ptrdiff_t>(i) + 1);
        way.whole = false;
    }
}

/// What it can begin with; nothing where it can be nothing.
Characters firsts_of(const Way& way) {
    Characters out;
    for (const Opening::Step& step : way.steps) {
        out |= step.characters;
        if (step.least) return out;
    }
    return {};
}

/// What all ways begin with.
std::string prefix_of(const std::vector<Way>& ways) {
    std::string out;
    const auto& first = ways.front().steps;
    for (std::size_t i = 0; i < first.size(); ++i) {
        const bool is_same =
            first[i].characters.count() == 1 && std::all_of(ways.begin(), ways.end(), [&](const Way& way) {
                return i < way.steps.size() && !way.steps[i].many && way.steps[i].least &&
                       way.steps[i].characters == first[i].characters;
            });
        if (!is_same) break;
        for (std::size_t c = 0; c < first[i].characters.size(); ++c)
            if (first[i].characters.test(c)) out += static_cast<char>(c);
    }
    return out;
}

}  // namespace

Opening::Opening(const re2::RE2& pattern) {
    const auto paths = PatternReader(pattern.pattern()).run();
    if (!paths) return;
    std::vector<Way> ways;
    for (const Path& path : *paths) {
        Way& way = ways.emplace_back(path.way);
        join_where_uncertain(way);
        const Characters firsts = firsts_of(way);
        way.whole = way.whole && !path.open;
        firsts_ |= firsts;
        if (firsts.none()) return;
    }
    prefix_ = prefix_of(ways);
    tell(ways);
}

/// Gives each set of characters a bit; where there are more of them, ways end before.
void Opening::tell(const std::vector<Way>& ways) {
    constexpr std::size_t most = 32;
    std::vector<Characters> known;
    for (const Way& way : ways) {
        Told told;
        told.groups = way.groups;
        told.ends = way.ends;
        told.whole = way.whole;
        for (const Step& step : way.steps) {
            const auto at = std::find(known.begin(), known.end(), step.characters);
            const auto number = static_cast<std::size_t>(at - known.begin());
            if (number == most || told.steps.size() == longest_way) {
                told.whole = false;
                break;
            }
            if (at == known.end()) known.push_back(step.characters);
            told.steps.push_back({std::uint32_t{1} << number, step.many, step.least});
        }
        while (!told.whole && !told.steps.empty() && !told.steps.back().least) told.steps.pop_back();
        // One that goes as one before it is that one, but for what is behind the steps.
        const auto is_same = [&told](const Told& other) { return !other.whole && other.steps == told.steps; };
        if (std::any_of(told_.begin(), told_.end(), is_same)) continue;
        const std::size_t most_same = told_.empty() ? 0 : std::min(told_.back().steps.size(), told.steps.size());
        while (told.same < most_same && told_.back().steps[told.same] == told.steps[told.same]) ++told.same;
        told_.push_back(std::move(told));
    }
    // Where a way ends, those behind it end too that begin like it up to there.
    for (std::size_t way = 0; way < told_.size(); ++way)
        for (std::size_t at = 0; at <= told_[way].steps.size(); ++at) {
            std::size_t next = way + 1;
            while (next < told_.size() && told_[next].same > at) ++next;
            told_[way].next.push_back(static_cast<std::uint8_t>(next));
        }
    for (std::size_t number = 0; number < known.size(); ++number)
        for (std::size_t c = 0; c < bits_.size(); ++c)
            if (known[number].test(c)) bits_.at(c) |= std::uint32_t{1} << number;
}

std::optional<bool> Opening::match(std::string_view text, re2::StringPiece* groups, std::size_t count) const {
    if (told_.empty()) return std::nullopt;
    Walker walker(text);
    // The ways are in the order of RE2's preference.
    for (std::size_t number = 0; number < told_.size(); number = walker.next) {
        const Told& way = told_[number];
        const Walk walked = walk(number, walker);
        if (walked == Walk::nowhere) continue;
        if (walked == Walk::unsure || !way.whole) return std::nullopt;
        const auto& places = walker.places;
        const char* const begin = places[0];
        const char* const end = places[way.steps.size()];
        if (way.ends && end != walker.end) continue;
        if (!is_ascii(begin, end)) return std::nullopt;
        std::fill_n(groups, count, re2::StringPiece());
        if (count > 0) groups[0] = {begin, static_cast<std::size_t>(end - begin)};
        for (const Group& group : way.groups)
            if (group.number < count)
                groups[group.number] = {places[group.first],
                                        static_cast<std::size_t>(places[group.behind] - places[group.first])};
        return true;
    }
    return false;
}

}  // namespace envar::text
