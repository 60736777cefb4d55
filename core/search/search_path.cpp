#include "core/search/search_path.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "core/files/read.hpp"
#include "core/search/declared.hpp"
#include "core/text/template.hpp"
#include "core/text/utf8.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;

/// The candidates of a folder as patterns with marks for the name and for a version.
std::vector<std::string> patterns_in(const std::vector<std::string>& candidates, const std::string& folder) {
    std::vector<std::string> patterns;
    const text::Values marks = {{"path", std::string(1, name_mark)}, {"version", std::string(1, version_mark)}};
    patterns.reserve(candidates.size());
    for (const auto& candidate : candidates)
        patterns.push_back(fmt::format("{}/{}", folder, text::fill(candidate, marks)));
    return patterns;
}

std::vector<std::string> folder_patterns(const model::Card& card, const std::string& folder) {
    std::vector<std::string> patterns = patterns_in(card.candidates, folder);
    if (card.candidates.empty())
        for (const auto& file : card.index.files) patterns.push_back(fmt::format("{}/{}", folder, file));
    if (!card.walk.entry.empty()) patterns = {folder + "/*/" + card.walk.entry};
    return patterns;
}

constexpr std::string_view list_blanks = " \t\r\n";
constexpr std::string_view list_specials = " \t\r\n{}[]$\";\\#";

/// An element of a list with its special characters behind backslashes.
std::string list_element(const std::string& text) {
    std::string out;
    for (const char c : text) {
        if (c == '\n') {
            out += "\\n";
            continue;
        }
        if (list_specials.find(c) != std::string_view::npos) out += '\\';
        out += c;
    }
    return out.empty() ? "{}" : out;
}

/// One element that begins at `at`; a list that is not well formed is read as far as it goes.
std::string take_element(std::string_view list, std::size_t& at) {
    std::string out;
    if (list[at] == '{') {
        int depth = 1;
        for (++at; at < list.size(); ++at) {
            if (list[at] == '{') ++depth;
            if (list[at] == '}' && --depth == 0) break;
            out += list[at];
        }
        ++at;
        return out;
    }
    const bool quoted = list[at] == '"';
    if (quoted) ++at;
    for (; at < list.size(); ++at) {
        if (quoted ? list[at] == '"' : list_blanks.find(list[at]) != std::string_view::npos) break;
        if (list[at] == '\\' && at + 1 < list.size()) {
            out += list[++at] == 'n' ? '\n' : list[at];
        } else {
            out += list[at];
        }
    }
    if (quoted) ++at;
    return out;
}

std::vector<std::string> split_list(std::string_view list) {
    std::vector<std::string> out;
    for (std::size_t at = 0; at < list.size();) {
        if (list_blanks.find(list[at]) != std::string_view::npos) {
            ++at;
        } else {
            out.push_back(take_element(list, at));
        }
    }
    return out;
}

std::vector<std::string> split(const std::string& value, const std::string& separator) {
    std::vector<std::string> parts;
    if (separator.empty()) return {value};
    for (std::size_t at = 0;;) {
        const std::size_t end = value.find(separator, at);
        parts.push_back(value.substr(at, end == std::string::npos ? end : end - at));
        if (end == std::string::npos) return parts;
        at = end + separator.size();
    }
}

/// The folder that a pattern lies in: what stands before the part with the mark.
std::string pattern_folder(const std::string& pattern) {
    const std::size_t mark = pattern.find(name_mark);
    const std::size_t slash = mark == std::string::npos ? pattern.rfind('/') : pattern.rfind('/', mark);
    if (slash == std::string::npos) return ".";
    return slash == 0 ? "/" : pattern.substr(0, slash);
}

class Builder {
  public:
    explicit Builder(const PathQuestion& question) : question_(question), card_(*question.card) {
        path_.host = card_.name.value;
        if (!card_.variables.empty()) path_.variable = card_.variables.front().name;
    }

    SearchPath build() {
        if (card_.script_first && !question_.brief) script_entry();
        if (question_.space != nullptr) workspace_entries();
        const auto own = static_cast<std::size_t>(std::count_if(
            path_.entries.begin(), path_.entries.end(), [](const Entry& entry) { return !entry.span.empty(); }));
        environment_entries();
        path_.active = own > 0 && repeated_ >= own;
        mark_duplicates();
        for (std::size_t i = 0; i < path_.entries.size(); ++i) path_.entries[i].position = i + 1;
        return std::move(path_);
    }

  private:
    void script_entry() {
        const bool script = !question_.script_folder.empty();
        Entry entry;
        entry.folder = (script ? question_.script_folder : question_.start_folder).string();
        entry.patterns = folder_patterns(card_, entry.folder);
        entry.from = script ? "the script's folder" : "the present folder";
        entry.exists = true;
        path_.entries.push_back(std::move(entry));
    }

    void workspace_entries() {
        const model::Space& space = *question_.space;
        for (const DeclaredFolder& declared : declared_folders(space, card_)) {
            Entry entry;
            entry.folder = declared.folder;
            entry.patterns = folder_patterns(card_, entry.folder);
            if (declared.search != nullptr) entry.span = declared.search->folder.span;
            entry.from = declared.is_view ? "view of the chosen versions"
                                          : fmt::format("{}:{}", model::workspace_file_name,
                                                        space.document.source.position(entry.span.begin).line);
            entry.exists = files::is_folder(entry.folder);
            entry.fault = cannot_hold(card_, entry.folder);
            if (!entry.fault.empty()) entry.patterns.clear();
            if (entry.fault.empty() && !entry.exists) entry.fault = missing_reason(entry.folder);
            path_.entries.push_back(std::move(entry));
        }
    }

    static std::string missing_reason(const std::string& folder) {
        return files::is_there(folder) ? "is no folder" : "does not exist";
    }

    /// What the variables hold, the defaults where they are asked for.
    void environment_entries() {
        for (const auto& variable : card_.variables) {
            const auto [name, value] = effective(variable);
            if (!value) {
                defaults(variable);
                continue;
            }
            const auto [before, after] = around_mark(variable, *value);
            values(variable, before, "environment " + name);
            if (after) {
                defaults(variable);
                values(variable, *after, "environment " + name);
            } else if (variable.defaults == model::DefaultEntries::behind) {
                defaults(variable);
            }
        }
        if (card_.variables.empty()) defaults({});
    }

    /// What stands before and behind the place of the defaults; no second part when the value names none.
    static std::pair<std::string, std::optional<std::string>> around_mark(const model::SearchVariable& variable,
                                                                          const std::string& value) {
        const std::string& mark = variable.defaults_mark;
        if (mark.empty()) return {value, std::nullopt};
        const bool entry = variable.form != model::EntryForm::templates;  // then the mark is a whole entry
        const std::string framed = entry ? variable.separator + mark + variable.separator : mark;
        const std::string text = entry ? variable.separator + value + variable.separator : value;
        const std::size_t at = text.find(framed);
        if (at == std::string::npos) return {value, std::nullopt};
        const auto unframed = [&](std::string part) {
            if (entry && part.rfind(variable.separator, 0) == 0) part.erase(0, variable.separator.size());
            if (entry && part.ends_with(variable.separator)) part.erase(part.size() - variable.separator.size());
            return part;
        };
        return {unframed(text.substr(0, at)), unframed(text.substr(at + framed.size()))};
    }

    [[nodiscard]] std::pair<std::string, std::optional<std::string>> effective(const model::SearchVariable& v) const {
        for (const std::string& name : {v.name, v.instead_of}) {
            const auto found = question_.environment.find(name);
            if (name.empty() || found == question_.environment.end()) continue;
            if (!found->second.empty() || !v.empty_is_unset) return {name, found->second};
        }
        return {v.name, std::nullopt};
    }

    void defaults(const model::SearchVariable& variable) {
        for (const auto& entry : card_.defaults)
            add(variable, entry, card_.defaults_asked ? "the host's own" : "default");
    }

    void values(const model::SearchVariable& variable, const std::string& value, const std::string& from) {
        if (value.empty() && !variable.empty_is_here) return;
        const auto parts =
            variable.form == model::EntryForm::list ? split_list(value) : split(value, variable.separator);
        for (const auto& part : parts) {
            if (!part.empty()) add(variable, part, from);
            if (part.empty() && variable.empty_is_here) add(variable, ".", from);
        }
    }

    void add(const model::SearchVariable& variable, const std::string& value, const std::string& from) {
        if (!variable.below.empty()) {
            for (const auto& folder : folders_below(question_.start_folder / value, variable.below))
                add_one(variable, folder, from);
            return;
        }
        add_one(variable, value, from);
    }

    void add_one(const model::SearchVariable& variable, const std::string& value, const std::string& from) {
        Entry entry;
        entry.from = from;
        if (variable.form == model::EntryForm::templates) {
            std::string pattern = with_mark(value, variable.mark);
            entry.folder = pattern_folder(pattern);
            entry.patterns = {std::move(pattern)};
        } else {
            entry.folder = value;
            entry.patterns = folder_patterns(card_, value);
        }
        if (is_workspace_entry(entry)) return;
        const fs::path real = question_.start_folder / entry.folder;
        entry.exists = files::is_folder(real);
        if (!entry.exists) entry.fault = missing_reason(real.string());
        if (!path_.entries.empty() && variable.form == model::EntryForm::templates) {
            Entry& last = path_.entries.back();
            if (last.folder == entry.folder && last.from == entry.from) {
                last.patterns.push_back(entry.patterns.front());
                return;
            }
        }
        path_.entries.push_back(std::move(entry));
    }

    static std::string with_mark(std::string value, const std::string& mark) {
        for (std::size_t at = value.find(mark); !mark.empty() && at != std::string::npos;
             at = value.find(mark, at + 1))
            value.replace(at, mark.size(), 1, name_mark);
        return value;
    }

    /// A session that is active has put the workspace's own entries into the variable already.
    bool is_workspace_entry(const Entry& entry) {
        for (const Entry& own : path_.entries) {
            if (own.span.empty()) continue;
            const auto& patterns = own.patterns;
            if (entry.patterns.empty() || patterns.empty()) continue;
            if (std::find(patterns.begin(), patterns.end(), entry.patterns.front()) == patterns.end()) continue;
            if (entry.patterns.front() == patterns.front()) ++repeated_;
            return true;
        }
        return false;
    }

    void mark_duplicates() {
        std::map<std::string, std::size_t> first;
        for (std::size_t i = 0; i < path_.entries.size(); ++i) {
            const auto [known, fresh] = first.try_emplace(path_.entries[i].folder, i + 1);
            if (!fresh && path_.entries[i].fault.empty())
                path_.entries[i].fault = fmt::format("is entry {} once more", known->second);
        }
    }

    const PathQuestion& question_;
    const model::Card& card_;
    SearchPath path_;
    std::size_t repeated_ = 0;
};

}  // namespace

SearchPath search_path(const PathQuestion& question) { return Builder(question).build(); }

std::string cannot_hold(const model::Card& card, const std::string& folder) {
    if (card.variables.empty()) return {};
    const model::SearchVariable& variable = card.variables.front();
    if (variable.utf8_only && text::first_invalid_utf8(folder))
        return fmt::format("{} cannot hold a folder whose name is not UTF-8", variable.name);
    const std::size_t at = folder.find_first_of(variable.cannot_hold);
    if (at == std::string::npos) return {};
    return fmt::format("{} cannot hold a folder with `{}` in its name", variable.name, folder[at]);
}

std::string variable_value(const model::Card& card, const model::SearchVariable& variable,
                           const std::vector<std::string>& folders) {
    std::string value;
    const auto append = [&](const std::string& entry) { value += (value.empty() ? "" : variable.separator) + entry; };
    for (const auto& folder : folders) {
        if (variable.form == model::EntryForm::folders) append(folder);
        if (variable.form == model::EntryForm::list) append(list_element(folder));
        if (variable.form != model::EntryForm::templates) continue;
        for (const auto& candidate : card.candidates)
            append(folder + "/" + text::fill(candidate, {{"path", variable.mark}}));
    }
    return value;
}

std::vector<Entry> entries_before(const PathQuestion& question) {
    const model::SearchBefore& before = question.card->before;
    std::vector<Entry> entries;
    const auto add = [&](const std::string& folder, const std::string& from) {
        Entry entry;
        entry.folder = folder;
        entry.from = from;
        entry.patterns = patterns_in(before.candidates, folder);
        entry.exists = files::is_folder(question.start_folder / folder);
        entries.push_back(std::move(entry));
    };
    if (before.candidates.empty()) return entries;
    const auto found = question.environment.find(before.variable);
    if (!before.variable.empty() && found != question.environment.end()) {
        auto parts = split(found->second, ":");
        std::reverse(parts.begin(), parts.end());
        for (const auto& part : parts)
            if (!part.empty()) add(part, "environment " + before.variable);
    }
    for (const auto& folder : before.entries) add(folder, "the host's own");
    return entries;
}

std::string shown_pattern(std::string pattern) {
    std::replace(pattern.begin(), pattern.end(), name_mark, '?');
    std::replace(pattern.begin(), pattern.end(), version_mark, '*');
    return pattern;
}

}  // namespace envar::search
