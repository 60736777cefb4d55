#include "core/text/translations.hpp"

#include <fmt/format.h>

#include <set>

namespace envar::text {
namespace {

constexpr std::size_t longest_line = 76;
constexpr std::string_view doubtful = "fuzzy";  // the format's word for what is yet to be looked at

void append_escaped(std::string& out, std::string_view text) {
    for (const char c : text) switch (c) {
            case '"':
                out += "\\\"";
                break;
            case '\\':
                out += "\\\\";
                break;
            case '\n':
                out += "\\n";
                break;
            case '\t':
                out += "\\t";
                break;
            case '\r':
                out += "\\r";
                break;
            default:
                if (static_cast<unsigned char>(c) < 0x20 || c == 0x7F) {
                    out += fmt::format("\\{:03o}", static_cast<unsigned char>(c));
                } else {
                    out += c;
                }
        }
}

/// `msgid "…"`, over several lines where the text is long or has line ends.
std::string keyword(std::string_view word, std::string_view text) {
    std::string flat;
    append_escaped(flat, text);
    if (flat.size() + word.size() + 3 <= longest_line && text.find('\n') == std::string_view::npos)
        return fmt::format("{} \"{}\"\n", word, flat);
    std::string out = fmt::format("{} \"\"\n", word);
    for (std::size_t at = 0; at < text.size();) {
        // Up to a line end, else to a blank near the longest line.
        std::size_t end = std::min(text.find('\n', at), text.size() - 1) + 1;
        if (end - at > longest_line) {
            const std::size_t blank = text.rfind(' ', at + longest_line);
            if (blank != std::string_view::npos && blank > at) end = blank + 1;
        }
        std::string line;
        append_escaped(line, text.substr(at, end - at));
        out += fmt::format("\"{}\"\n", line);
        at = end;
    }
    return out;
}

std::string entry(const Translatable& one, std::string_view translation = "") {
    std::string out;
    if (!one.note.empty()) out += fmt::format("#. {}\n", one.note);
    for (const auto& place : one.places) out += fmt::format("#: {}\n", place);
    return out + keyword("msgid", one.text) + keyword("msgstr", translation);
}

/// Each text once, with all of its places.
std::vector<Translatable> joined(const std::vector<Translatable>& texts) {
    std::vector<Translatable> out;
    std::map<std::string_view, std::size_t> known;
    for (const auto& one : texts) {
        if (one.text.empty()) continue;
        const auto [at, fresh] = known.try_emplace(one.text, out.size());
        if (fresh) {
            out.push_back(one);
        } else {
            auto& places = out[at->second].places;
            places.insert(places.end(), one.places.begin(), one.places.end());
        }
    }
    return out;
}

std::string header(std::string_view project, std::string_view language) {
    return "msgid \"\"\nmsgstr \"\"\n" + fmt::format("\"Project-Id-Version: {}\\n\"\n", project) +
           (language.empty() ? std::string("\"Language: \\n\"\n") : fmt::format("\"Language: {}\\n\"\n", language)) +
           "\"MIME-Version: 1.0\\n\"\n\"Content-Type: text/plain; charset=UTF-8\\n\"\n"
           "\"Content-Transfer-Encoding: 8bit\\n\"\n";
}

/// The inside of a quoted string from `at` on; the quotes and what is behind are passed over.
std::string unquoted(std::string_view line) {
    const std::size_t open = line.find('"');
    std::string out;
    if (open == std::string_view::npos) return out;
    for (std::size_t at = open + 1; at < line.size() && line[at] != '"'; ++at) {
        if (line[at] != '\\' || at + 1 >= line.size()) {
            out += line[at];
            continue;
        }
        const char c = line[++at];
        if (c >= '0' && c <= '7') {
            unsigned value = 0;
            std::size_t digits = 0;
            while (digits < 3 && at < line.size() && line[at] >= '0' && line[at] <= '7') {
                value = value * 8 + static_cast<unsigned>(line[at++] - '0');
                ++digits;
            }
            --at;
            out += static_cast<char>(value);
            continue;
        }
        out += c == 'n' ? '\n' : c == 't' ? '\t' : c == 'r' ? '\r' : c;
    }
    return out;
}

/// Calls `take(text, translation, fuzzy)` with each entry that is not obsolete.
template <class Take>
void each_entry(std::string_view file, const Take& take) {
    std::string text, translation;
    std::string* open = nullptr;
    bool fuzzy = false, has_text = false, special = false;
    const auto finish = [&] {
        if (has_text && !special) take(text, translation, fuzzy);
        text.clear();
        translation.clear();
        has_text = fuzzy = special = false;
        open = nullptr;
    };
    for (std::size_t at = 0; at < file.size();) {
        const std::size_t end = std::min(file.find('\n', at), file.size());
        std::string_view line = file.substr(at, end - at);
        at = end + 1;
        while (!line.empty() && (line.front() == ' ' || line.front() == '\t')) line.remove_prefix(1);
        if (line.starts_with("#")) {
            if (has_text && open == &translation) finish();
            if (line.starts_with("#,") && line.find(doubtful) != std::string_view::npos) fuzzy = true;
        } else if (line.starts_with("msgid ") || line.starts_with("msgctxt ")) {
            if (has_text) finish();
            // Contexts and plurals are none of ours.
            special = special || line.starts_with("msgctxt ");
            if (line.starts_with("msgctxt ")) continue;
            has_text = true;
            text = unquoted(line);
            open = &text;
        } else if (line.starts_with("msgid_plural ") || line.starts_with("msgstr[")) {
            special = true;
            open = nullptr;
        } else if (line.starts_with("msgstr ")) {
            translation = unquoted(line);
            open = &translation;
        } else if (line.starts_with("\"") && open != nullptr) {
            *open += unquoted(line);
        }
    }
    finish();
}

}  // namespace

std::string translation_template(const std::vector<Translatable>& texts, std::string_view project) {
    std::string out = header(project, "");
    for (const auto& one : joined(texts)) out += "\n" + entry(one);
    return out;
}

std::string new_translations(const std::vector<Translatable>& texts, std::string_view project,
                             std::string_view language) {
    std::string out = header(project, language);
    for (const auto& one : joined(texts)) out += "\n" + entry(one);
    return out;
}

std::string with_missing(const std::string& file, const std::vector<Translatable>& texts) {
    std::set<std::string> known;
    each_entry(file, [&](const std::string& text, const std::string&, bool) { known.insert(text); });
    std::string out = file;
    for (const auto& one : joined(texts)) {
        if (known.count(one.text) != 0) continue;
        if (!out.empty() && out.back() != '\n') out += '\n';
        out += "\n" + entry(one);
    }
    return out;
}

std::map<std::string, std::string> read_translations(std::string_view file) {
    std::map<std::string, std::string> out;
    if (file.starts_with("\xEF\xBB\xBF")) file.remove_prefix(3);
    each_entry(file, [&](const std::string& text, const std::string& translation, bool fuzzy) {
        if (!text.empty() && !translation.empty() && !fuzzy) out.emplace(text, translation);
    });
    return out;
}

}  // namespace envar::text
