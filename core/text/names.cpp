#include "core/text/names.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <utility>

namespace envar::text {
namespace {

char lower(char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); }
char upper(char c) { return static_cast<char>(std::toupper(static_cast<unsigned char>(c))); }
bool is_upper(char c) { return std::isupper(static_cast<unsigned char>(c)) != 0; }

std::string lowered(std::string_view word) {
    std::string out(word);
    std::transform(out.begin(), out.end(), out.begin(), lower);
    return out;
}

std::string capitalised(std::string word) {
    if (!word.empty()) word[0] = upper(word[0]);
    return word;
}

std::string joined(const std::vector<std::string>& words, char separator) {
    std::string out;
    for (const auto& word : words) {
        if (!out.empty()) out += separator;
        out += word;
    }
    return out;
}

}  // namespace

std::optional<NameForm> name_form(std::string_view word) {
    static constexpr std::array<std::pair<std::string_view, NameForm>, 5> forms = {{{"snake", NameForm::snake},
                                                                                    {"kebab", NameForm::kebab},
                                                                                    {"camel", NameForm::camel},
                                                                                    {"pascal", NameForm::pascal},
                                                                                    {"upper", NameForm::upper}}};
    for (const auto& [name, form] : forms)
        if (name == word) return form;
    return std::nullopt;
}

std::vector<std::string> name_words(std::string_view name) {
    std::vector<std::string> words;
    std::string word;
    const auto finish = [&] {
        if (!word.empty()) words.push_back(std::exchange(word, {}));
    };
    for (std::size_t i = 0; i < name.size(); ++i) {
        const char c = name[i];
        if (c == '_' || c == '-' || c == '.' || c == ' ') {
            finish();
            continue;
        }
        if (is_upper(c) && i > 0 && !is_upper(name[i - 1])) finish();
        word += lower(c);
    }
    finish();
    return words;
}

std::string in_form(std::string_view name, NameForm form) {
    std::vector<std::string> words = name_words(name);
    switch (form) {
        case NameForm::snake:
            return joined(words, '_');
        case NameForm::kebab:
            return joined(words, '-');
        case NameForm::upper: {
            std::string out = joined(words, '_');
            std::transform(out.begin(), out.end(), out.begin(), upper);
            return out;
        }
        case NameForm::camel:
        case NameForm::pascal: {
            std::string out;
            for (std::size_t i = 0; i < words.size(); ++i)
                out += i == 0 && form == NameForm::camel ? words[i] : capitalised(words[i]);
            return out;
        }
    }
    return std::string(name);
}

std::size_t edit_distance(std::string_view a, std::string_view b, std::size_t limit) {
    const std::size_t longer = std::max(a.size(), b.size());
    if (longer - std::min(a.size(), b.size()) > limit) return limit + 1;
    std::vector<std::size_t> before(b.size() + 1);
    std::vector<std::size_t> above(b.size() + 1);
    std::vector<std::size_t> row(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j) above[j] = j;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        row[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t change = above[j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1);
            row[j] = std::min({above[j] + 1, row[j - 1] + 1, change});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                row[j] = std::min(row[j], before[j - 2] + 1);
        }
        std::swap(before, above);
        std::swap(above, row);
    }
    return std::min(above[b.size()], limit + 1);
}

std::optional<std::string> nearest(std::string_view word, const std::vector<std::string>& candidates) {
    return nearest(word, candidates, std::max<std::size_t>(1, (word.size() + 1) / 3));
}

std::optional<std::string> nearest(std::string_view word, const std::vector<std::string>& candidates,
                                   std::size_t limit) {
    if (word.size() > 80) return std::nullopt;
    const std::string wanted = lowered(word);
    std::optional<std::string> best;
    std::size_t best_distance = limit + 1;
    for (const auto& candidate : candidates) {
        const std::size_t distance = edit_distance(wanted, lowered(candidate), limit);
        if (distance < best_distance && distance < candidate.size()) {
            best = candidate;
            best_distance = distance;
        }
    }
    return best;
}

std::string did_you_mean(std::string_view word, const std::vector<std::string>& candidates) {
    const auto near = nearest(word, candidates);
    return near ? "did you mean `" + *near + "`?" : "";
}

std::string listed(const std::vector<std::string>& names, std::size_t most) {
    std::string out;
    for (std::size_t i = 0; i < std::min(most, names.size()); ++i) out += (i == 0 ? "" : ", ") + names[i];
    return names.size() <= most ? out : out + " and " + std::to_string(names.size() - most) + " more";
}

}  // namespace envar::text
