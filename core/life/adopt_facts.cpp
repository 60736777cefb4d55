#include "core/life/adopt_facts.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <map>

#include "core/files/read.hpp"
#include "core/text/utf8.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_file = std::size_t{1} << 20U;
constexpr std::string_view byte_order_mark = "\xEF\xBB\xBF";
constexpr std::size_t most_notes = 20;

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

std::string first_match(const std::string& pattern, const std::string& text) {
    const re2::RE2 compiled("(?m)" + pattern, re2::RE2::Quiet);
    if (pattern.empty() || !compiled.ok() || compiled.NumberOfCapturingGroups() < 1) return {};
    std::string value;
    re2::RE2::PartialMatch(text, compiled, &value);
    return value;
}

}  // namespace envar::life
