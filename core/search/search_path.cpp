#include "core/search/search_path.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "core/files/read.hpp"
#include "core/text/template.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;

constexpr char name_mark = '?';

std::string absolute_folder(const model::Space& space, const std::string& folder) {
    std::string path = (space.root / folder).lexically_normal().string();
    while (path.size() > 1 && path.back() == '/') path.pop_back();
    return path;
}

/// The candidates of a folder as patterns with '?' for the name.
std::vector<std::string> folder_patterns(const model::Card& card, const std::string& folder) {
    std::vector<std::string> patterns;
    for (const auto& candidate : card.candidates)
        patterns.push_back(folder + "/" + text::fill(candidate, {{"path", std::string(1, name_mark)}}));
    return patterns;
}

std::vector<std::string> split(const std::string& value, const std::string& separator) {
    std::vector<std::string> parts;
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
        if (question_.space != nullptr) workspace_entries();
        const std::size_t own = path_.entries.size();
        environment_entries();
        path_.active = own > 0 && repeated_ >= own;
        mark_duplicates();
        for (std::size_t i = 0; i < path_.entries.size(); ++i) path_.entries[i].position = i + 1;
        return std::move(path_);
    }

  private:
    void workspace_entries() {
        const model::Space& space = *question_.space;
        for (const auto& search : space.settings.search) {
            if (search.host.value != card_.name.value || search.folder.value.empty()) continue;
            Entry entry;
            entry.folder = absolute_folder(space, search.folder.value);
            entry.patterns = folder_patterns(card_, entry.folder);
            entry.span = search.folder.span;
            entry.from = fmt::format("{}:{}", model::workspace_file_name,
                                     space.document.source.position(search.folder.span.begin).line);
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
            const std::size_t mark =
                variable.defaults_mark.empty() ? std::string::npos : value->find(variable.defaults_mark);
            if (mark == std::string::npos) {
                values(variable, *value, "environment " + name);
                if (variable.defaults_mark.empty()) defaults(variable);
                continue;
            }
            if (mark > 0) values(variable, value->substr(0, mark), "environment " + name);
            defaults(variable);
            const std::string rest = value->substr(mark + variable.defaults_mark.size());
            if (!rest.empty()) values(variable, rest, "environment " + name);
        }
        if (card_.variables.empty()) defaults({});
    }

    [[nodiscard]] std::pair<std::string, std::optional<std::string>> effective(const model::SearchVariable& v) const {
        for (const std::string& name : {v.name, v.instead_of}) {
            const auto found = question_.environment.find(name);
            if (!name.empty() && found != question_.environment.end()) return {name, found->second};
        }
        return {v.name, std::nullopt};
    }

    void defaults(const model::SearchVariable& variable) {
        for (const auto& entry : card_.defaults) add(variable, entry, "default");
    }

    void values(const model::SearchVariable& variable, const std::string& value, const std::string& from) {
        for (const auto& part : split(value, variable.separator))
            if (!part.empty()) add(variable, part, from);
    }

    void add(const model::SearchVariable& variable, const std::string& value, const std::string& from) {
        Entry entry;
        entry.from = from;
        if (variable.templates) {
            std::string pattern = value;
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
        if (!path_.entries.empty() && variable.templates) {
            Entry& last = path_.entries.back();
            if (last.folder == entry.folder && last.from == entry.from) {
                last.patterns.push_back(entry.patterns.front());
                return;
            }
        }
        path_.entries.push_back(std::move(entry));
    }

    /// A session that is active has put the workspace's own entries into the variable already.
    bool is_workspace_entry(const Entry& entry) {
        for (const Entry& own : path_.entries) {
            if (own.span.empty()) continue;
            const auto& patterns = own.patterns;
            if (std::find(patterns.begin(), patterns.end(), entry.patterns.front()) == patterns.end()) continue;
            if (entry.patterns.front() == patterns.front()) ++repeated_;
            return true;
        }
        return false;
    }

    void mark_duplicates() {
        for (std::size_t i = 0; i < path_.entries.size(); ++i)
            for (std::size_t j = 0; j < i; ++j)
                if (path_.entries[i].fault.empty() && path_.entries[i].folder == path_.entries[j].folder)
                    path_.entries[i].fault = fmt::format("is entry {} once more", j + 1);
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
    const std::size_t at = folder.find_first_of(variable.cannot_hold);
    if (at == std::string::npos) return {};
    return fmt::format("{} cannot hold a folder with `{}` in its name", variable.name, folder[at]);
}

std::string variable_value(const model::Card& card, const std::vector<std::string>& folders) {
    if (card.variables.empty()) return {};
    const model::SearchVariable& variable = card.variables.front();
    std::string value;
    const auto append = [&](const std::string& entry) { value += (value.empty() ? "" : variable.separator) + entry; };
    for (const auto& folder : folders) {
        if (!variable.templates) append(folder);
        if (!variable.templates) continue;
        for (const auto& candidate : card.candidates)
            append(folder + "/" + text::fill(candidate, {{"path", variable.mark}}));
    }
    return value;
}

std::vector<std::string> workspace_folders(const model::Space& space, const model::Card& card) {
    std::vector<std::string> folders;
    for (const auto& search : space.settings.search) {
        if (search.host.value != card.name.value || search.folder.value.empty()) continue;
        std::string folder = absolute_folder(space, search.folder.value);
        if (!cannot_hold(card, folder).empty()) continue;
        if (std::find(folders.begin(), folders.end(), folder) == folders.end()) folders.push_back(std::move(folder));
    }
    return folders;
}

}  // namespace envar::search
