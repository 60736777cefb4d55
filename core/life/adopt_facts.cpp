#include "core/life/adopt_facts.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <cctype>
#include <map>

#include "core/files/read.hpp"
#include "core/life/adopt_named.hpp"
#include "core/text/sentence.hpp"
#include "core/text/utf8.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_file = std::size_t{1} << 20U;
constexpr std::string_view byte_order_mark = "\xEF\xBB\xBF";
constexpr std::size_t most_notes = 20;
constexpr std::size_t most_matches = 10'000;

struct Match {
    std::string text;
    std::size_t line = 0;
};

std::size_t line_of(std::string_view text, std::size_t at) {
    return 1 +
           static_cast<std::size_t>(std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n'));
}

std::vector<Match> matches(const std::string& pattern, const std::string& text) {
    const re2::RE2 compiled("(?m)" + pattern, re2::RE2::Quiet);
    std::vector<Match> found;
    if (!compiled.ok() || compiled.NumberOfCapturingGroups() < 1) return found;
    re2::StringPiece rest(text);
    re2::StringPiece group;
    while (re2::RE2::FindAndConsume(&rest, compiled, &group)) {
        // A group that took no part in the match points nowhere.
        const std::size_t at = group.data() == nullptr ? 0 : static_cast<std::size_t>(group.data() - text.data());
        found.push_back({std::string(group), line_of(text, at)});
    }
    return found;
}

std::vector<std::string> split(const std::string& text, const std::string& separator) {
    if (separator.empty()) return {text};
    std::vector<std::string> parts;
    for (std::size_t at = 0;;) {
        const std::size_t end = text.find(separator, at);
        parts.push_back(text.substr(at, end == std::string::npos ? end : end - at));
        if (end == std::string::npos) return parts;
        at = end + separator.size();
    }
}

std::string without_blanks(std::string text) {
    std::erase_if(text, [](char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n'; });
    return text;
}

class Reader {
  public:
    Reader(const model::Card& card, const fs::path& folder) : card_(card), folder_(folder) {}

    Told run() {
        for (const auto& fact : card_.adopt.facts) {
            const bool needs = fact.gives == "needs" || fact.gives == "optional_needs";
            if (fact.otherwise && needs && !needs_from_.empty() && needs_from_ != fact.file) continue;
            take(fact, needs);
        }
        std::erase_if(told_.optional_needs, [&](const std::string& name) {
            return std::find(told_.needs.begin(), told_.needs.end(), name) != told_.needs.end();
        });
        return std::move(told_);
    }

  private:
    const std::string& text_of(const std::string& file) {
        const auto [known, fresh] = texts_.try_emplace(file);
        if (!fresh) return known->second;
        auto content = files::read_file(folder_ / file, largest_file);
        if (!content) {
            if (content.error().problem != files::ReadProblem::missing) note(fmt::format("{}: cannot be read", file));
            return known->second;
        }
        known->second = std::move(*content);
        if (known->second.starts_with(byte_order_mark))
            note(fmt::format("{}:1: begins with a byte-order mark, which hides the first key from the host", file));
        if (text::first_invalid_utf8(known->second)) note(fmt::format("{}: is not UTF-8 throughout", file));
        look_at_lines(file, known->second);
        return known->second;
    }

    /// What stands in a file that the card says how to understand, statement by statement.
    void look_at_lines(const std::string& file, const std::string& text) {
        for (const auto& [name, pattern] : card_.adopt.understood) {
            if (name != file) continue;
            const re2::RE2 statement("(?:" + pattern + ")(?:\\r?\\n|\\z)", re2::RE2::Quiet);
            if (!statement.ok()) continue;
            re2::StringPiece rest(text);
            if (text.starts_with(byte_order_mark)) skip_line(rest);  // has its own note
            while (!rest.empty()) {
                const re2::StringPiece before = rest;
                if (re2::RE2::Consume(&rest, statement) && rest.size() < before.size()) continue;
                rest = before;
                const std::size_t number = line_of(text, static_cast<std::size_t>(rest.data() - text.data()));
                const re2::StringPiece line = skip_line(rest);
                note(fmt::format("{}:{}: `{}` is not understood", file, number, shown(line)));
            }
        }
    }

    static re2::StringPiece skip_line(re2::StringPiece& rest) {
        const std::size_t end = rest.find('\n');
        const re2::StringPiece line = rest.substr(0, end);
        rest.remove_prefix(end == re2::StringPiece::npos ? rest.size() : end + 1);
        return line;
    }

    static std::string shown(re2::StringPiece line) {
        std::string text(line.substr(0, 60));
        for (char& c : text)
            if (static_cast<unsigned char>(c) < 0x20 || static_cast<unsigned char>(c) > 0x7E) c = '?';
        return text;
    }

    void take(const model::AdoptFact& fact, bool needs) {
        const auto found = matches(fact.pattern, text_of(fact.file));
        if (found.empty()) return;
        if (needs) needs_from_ = fact.file;
        if (fact.gives == "switch") return take_switches(fact, found);
        if (!needs) {
            std::string& into = fact.gives == "name"      ? told_.name
                                : fact.gives == "version" ? told_.version
                                : fact.gives == "author"  ? told_.author
                                                          : told_.summary;
            if (into.empty()) into = fact.otherwise ? found.front().text : found.back().text;
            if (found.size() > 1 && !fact.otherwise)
                note(fmt::format("{}:{}: the {} stands there {} times; the last counts", fact.file, found.back().line,
                                 fact.gives, found.size()));
            return;
        }
        if (!fact.separator.empty() && found.size() > 1)
            note(fmt::format("{}:{}: such a list stands there {} times; the last counts", fact.file,
                             found.back().line, found.size()));
        const std::size_t first = fact.separator.empty() ? 0 : found.size() - 1;
        for (std::size_t i = first; i < found.size(); ++i) take_list(fact, found[i]);
    }

    void take_switches(const model::AdoptFact& fact, const std::vector<Match>& found) {
        for (const Match& match : found) {
            const bool known = std::any_of(told_.switches.begin(), told_.switches.end(),
                                           [&](const auto& one) { return one.first == match.text; });
            if (!known) told_.switches.emplace_back(match.text, fact.off);
        }
    }

    void take_list(const model::AdoptFact& fact, const Match& match) {
        std::string text = match.text;
        // A value over several lines stands between three quotes.
        if (text.starts_with("\"\"\"") && text.size() >= 6) text = text.substr(3, text.size() - 6);
        auto items = split(text, fact.separator);
        if (items.size() == 1 && without_blanks(items.front()).empty()) return;
        const re2::RE2 item(fact.item, re2::RE2::Quiet);
        auto& into = fact.gives == "needs" ? told_.needs : told_.optional_needs;
        for (auto& raw : items) {
            std::string name = without_blanks(std::move(raw));
            if (std::find(fact.without.begin(), fact.without.end(), name) != fact.without.end()) continue;
            if (name.empty()) {
                note(fmt::format("{}:{}: a comma too many: the host takes the empty name for one more need",
                                 fact.file, match.line));
            } else if (!fact.item.empty() && item.ok() && !re2::RE2::FullMatch(name, item)) {
                note(fmt::format("{}:{}: `{}` is no name of a module, and is passed over", fact.file, match.line,
                                 shown(name)));
            } else if (std::find(into.begin(), into.end(), name) == into.end()) {
                into.push_back(std::move(name));
            }
        }
    }

    void note(std::string text) {
        if (told_.notes.size() < most_notes) told_.notes.push_back(std::move(text));
    }

    const model::Card& card_;
    const fs::path& folder_;
    std::map<std::string, std::string> texts_;
    std::string needs_from_;  // the file whose facts gave needs
    Told told_;
};

}  // namespace

Told told_by_files(const model::Card& card, const fs::path& folder) { return Reader(card, folder).run(); }

bool has_facts(const model::Card& card, const fs::path& folder) {
    return std::any_of(card.adopt.facts.begin(), card.adopt.facts.end(),
                       [&](const model::AdoptFact& fact) { return files::is_file(folder / fact.file); });
}

std::vector<std::string> all_matches(const std::string& pattern, const std::string& text) {
    const re2::RE2 compiled("(?m)" + pattern, re2::RE2::Quiet);
    std::vector<std::string> found;
    if (!compiled.ok() || compiled.NumberOfCapturingGroups() < 1) return found;
    re2::StringPiece rest(text), group;
    while (found.size() < most_matches && re2::RE2::FindAndConsume(&rest, compiled, &group))
        found.emplace_back(group);
    return found;
}

std::string first_match(const std::string& pattern, const std::string& text) {
    const re2::RE2 compiled("(?m)" + pattern, re2::RE2::Quiet);
    if (pattern.empty() || !compiled.ok() || compiled.NumberOfCapturingGroups() < 1) return {};
    std::string value;
    re2::RE2::PartialMatch(text, compiled, &value);
    return value;
}

namespace {

/// Where a line without words comes, or one that is no comment.
std::size_t end_of_paragraph(const std::string& text, std::size_t at, const std::string& mark) {
    while (at < text.size()) {
        at = std::min(text.find('\n', at), text.size() - 1) + 1;
        const std::string line = text.substr(at, std::min(text.find('\n', at), text.size()) - at);
        const std::size_t word = line.find_first_not_of(" \t\r" + mark);
        if (word == std::string::npos || line.find(mark) == std::string::npos) return at;
    }
    return text.size();
}

constexpr std::size_t longest_summary = 300;

/// The first sentence of what is said there in the text, which may go on in the lines below: of a comment with its
/// marks, else up to the quotes that end it.
std::string sentence_at(const std::string& text, std::string_view said, const std::string& mark, bool in_comment) {
    std::string out(said);
    std::size_t at = static_cast<std::size_t>(said.data() - text.data()) + said.size();
    for (;;) {
        while (!out.empty() && std::isspace(static_cast<unsigned char>(out.back())) != 0) out.pop_back();
        const std::size_t dot = text::end_of_sentence(out);
        if (dot != std::string::npos) return out.substr(0, dot + 1);
        const bool ends = !out.empty() && out.back() == '.' && !text::is_cut_short(out, out.size() - 1);
        if (out.empty() || ends || out.size() > longest_summary) return out;
        const std::size_t end = std::min(text.find('\n', at), text.size());
        if (text.find_first_not_of(" \t\r", at) < end) return out;  // what ends it
        at = std::min(end + 1, text.size());
        std::string_view line = std::string_view(text).substr(at, text.find('\n', at) - at);
        const auto drop = [&](std::string_view what) {
            line.remove_prefix(std::min(line.find_first_not_of(what), line.size()));
        };
        drop(" \t");
        if (in_comment && !line.starts_with(mark)) return out;
        if (in_comment) drop(" \t" + mark);
        // Names and titles stand below each other; a sentence that goes on does so in small letters.
        const bool goes_on =
            !line.empty() && (std::islower(static_cast<unsigned char>(line.front())) != 0 ||
                              (out.back() == ',' && std::isalpha(static_cast<unsigned char>(line.front())) != 0));
        if (!goes_on) return out;
        out += ' ';
        line = line.substr(0, in_comment ? line.size() : std::min(line.find("\"\"\""), line.find("'''")));
        out += line;
        at = static_cast<std::size_t>(line.data() - text.data()) + line.size();
    }
}

}  // namespace

const re2::RE2& no_summary() {
    static const re2::RE2 pattern(
        R"((?i)copyright|\(c\)|^\d{4}\b|licen[cs]e|rights reserved|public domain|SPDX|warrant|redistribut|free software|hereby granted|in the hope|the terms of|^this \w+ is (?:part|distributed|licensed|provided|covered)\b|^you (?:may|should have)\b|part of (?:the )?GNU|^[\w ]+:\s*$|(?-i:^[a-z]+:)|)"
        R"(\bauthors?\b|^written (?:in|by)\b|-\*-|\bvim?:|\$\w+:|coding[:=]|shellcheck|https?://|^[\w./-]+\.\w+(?:\s*--?)?\s*$)");
    return pattern;
}

std::string summary_in(const model::Card& card, const std::string& text) {
    const re2::RE2 compiled("(?m)" + card.adopt.summary, re2::RE2::Quiet);
    if (card.adopt.summary.empty() || !compiled.ok() || compiled.NumberOfCapturingGroups() < 1) return {};
    const std::string& mark = card.language.comment;
    const auto is_comment = [&](re2::StringPiece line) {
        while (!line.empty() && (line[0] == ' ' || line[0] == '\t')) line.remove_prefix(1);
        return line.empty() || line[0] == '\r' || (!mark.empty() && line.starts_with(mark)) || line.starts_with("#!");
    };
    // Comments count as long as there is no code above them.
    std::size_t code = 0;
    for (re2::StringPiece rest(text); code < text.size();) {
        const std::size_t end = std::min(rest.find('\n'), rest.size());
        if (!is_comment(rest.substr(0, end))) break;
        code += end + 1;
        rest.remove_prefix(std::min(end + 1, rest.size()));
    }
    std::size_t legal_until = 0;
    std::vector<re2::StringPiece> groups(static_cast<std::size_t>(compiled.NumberOfCapturingGroups()) + 1);
    for (std::size_t at = 0; at < text.size();) {
        if (!compiled.Match(text, at, text.size(), re2::RE2::UNANCHORED, groups.data(),
                            static_cast<int>(groups.size())))
            break;
        const auto begin = static_cast<std::size_t>(groups[0].data() - text.data());
        at = std::max(begin + groups[0].size(), at + 1);
        const auto own =
            std::find_if(groups.begin() + 1, groups.end(), [](const auto& g) { return g.data() != nullptr; });
        if (own == groups.end() || begin < legal_until || (begin >= code && is_comment(groups[0]))) continue;
        if (re2::RE2::PartialMatch(*own, no_summary())) {
            // What follows in the same comment is of the same sort.
            legal_until = end_of_paragraph(text, at, mark);
            continue;
        }
        const bool in_comment = !groups[0].empty() && !mark.empty() && is_comment(groups[0]);
        std::string summary = sentence_at(text, {own->data(), own->size()}, mark, in_comment);
        if (!summary.empty()) return summary;
    }
    return {};
}

ReadMe read_me(const fs::path& folder, const std::string& module) {
    static const re2::RE2 prose(R"(^\p{L}[^|#<>{}]*\p{Ll}{3}[^|#<>{}]*$)"), link(R"(!?\[([^\]]*)\]\([^)]*\))"),
        marks(R"(\*\*|__|`+)"), underline(R"(^\s*[=~^-]{3,}\s*$)");
    for (const char* name : {"README.md", "README", "README.rst", "README.txt", "readme.md"}) {
        const auto text = files::read_file(folder / name, largest_file);
        if (!text || text::first_invalid_utf8(*text)) continue;
        std::string paragraph;
        for (const auto& raw : split(*text + "\n\n", "\n")) {
            std::string line = raw;
            while (!line.empty() && std::isspace(static_cast<unsigned char>(line.back())) != 0) line.pop_back();
            if (re2::RE2::FullMatch(line, underline)) {
                paragraph.clear();  // what stood above was a heading
            } else if (!line.empty()) {
                paragraph += (paragraph.empty() ? "" : " ") + line;
            } else {
                re2::RE2::GlobalReplace(&paragraph, link, "\\1");
                re2::RE2::GlobalReplace(&paragraph, marks, "");
                const std::size_t dot = text::end_of_sentence(paragraph);
                const std::string sentence = dot == std::string::npos ? paragraph : paragraph.substr(0, dot + 1);
                const bool shown = std::string_view(name).ends_with(".md");
                const bool names = letters_of(sentence).find(letters_of(module)) != std::string::npos;
                const bool says = (shown || names) && std::count(sentence.begin(), sentence.end(), ' ') > 2 &&
                                  sentence.size() <= longest_summary && sentence.back() != ':';
                // What a file or a release says of itself is not what the module is for.
                static const re2::RE2 of_itself(
                    R"((?i)\bread\s?me\b|\breleased?\b|^(?:for|see|please)\b|^this (?:file|document|directory|folder)\b)");
                if (says && !re2::RE2::PartialMatch(sentence, of_itself) && re2::RE2::PartialMatch(sentence, prose) &&
                    !re2::RE2::PartialMatch(sentence, no_summary()))
                    return {name, sentence};
                paragraph.clear();
            }
        }
    }
    return {};
}

}  // namespace envar::life
