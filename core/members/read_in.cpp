#include "core/members/read_in.hpp"

#include <algorithm>

#include "core/files/read.hpp"
#include "core/text/glob.hpp"

namespace envar::members {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t most_module_files = 5000, most_paths = 2000;
constexpr std::string_view white = " \t\r\n";

/// The first word: blanks within quotes and brackets are part of it.
std::string_view first_word(std::string_view text) {
    text.remove_prefix(std::min(text.find_first_not_of(white), text.size()));
    std::string open;  // brackets and quotes that are, innermost last
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        const char inner = open.empty() ? '\0' : open.back();
        if (c == '\\') {
            ++i;
        } else if (inner == '\'') {
            if (c == '\'') open.pop_back();
        } else if (c == '"' || c == '`') {
            inner == c ? open.pop_back() : open.push_back(c);
        } else if (c == '(' || c == '[' || c == '{' || (c == '\'' && inner != '"')) {
            open.push_back(c);
        } else if ((c == ')' && inner == '(') || (c == ']' && inner == '[') || (c == '}' && inner == '{')) {
            open.pop_back();
        } else if (open.empty() && white.find(c) != std::string_view::npos) {
            return text.substr(0, i);
        }
    }
    return text;
}

bool is_of_name(char c) {
    return (c >= '0' && c <= '9') || (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z') || c == '_';
}

/// Behind the last thing in it that the code works out as it runs; 0: there is none.
std::size_t behind_values(std::string_view word) {
    std::size_t behind = 0;
    const std::size_t bracket = word.find_last_of(")]}`");
    if (bracket != std::string_view::npos) behind = bracket + 1;
    const std::size_t value = word.rfind('$');
    if (value == std::string_view::npos || value < behind) return behind;
    std::size_t end = value + 1;
    while (end < word.size() && is_of_name(word[end])) ++end;
    if (end == value + 1 && end < word.size()) ++end;  // `$@`
    return end;
}

}  // namespace

std::string written_out(std::string_view path) {
    std::string_view word = first_word(path);
    const bool call = word.size() > 1 && word.front() == '[' && word.back() == ']';
    if (call) word = word.substr(1, word.size() - 2);
    const std::size_t values = behind_values(word);
    std::string end;
    const std::string_view before = word.substr(0, values);
    char quote = std::count(before.begin(), before.end(), '"') % 2 == 0 ? '\0' : '"';  // that is open
    for (const char c : word.substr(values)) {
        if (c == '"' || c == '\'') {
            quote = quote == '\0' ? c : quote == c ? '\0' : quote;
        } else {
            end += call && quote == '\0' && white.find(c) != std::string_view::npos ? '/' : c;
        }
    }
    if (values == 0 && (call || end.starts_with('/') || end.starts_with('~'))) return {};
    // What goes on with a value is but the end of a name.
    if (values != 0) end.erase(0, std::min(end.find('/'), end.size()));
    end.erase(0, std::min(end.find_first_not_of('/'), end.size()));
    if (values != 0 && end == "*") return {};  // all that lies somewhere
    const fs::path normal = fs::path(end).lexically_normal();
    return normal.has_filename() && normal != "." && normal != ".." ? normal.generic_string() : std::string();
}

std::vector<fs::path> ReadIn::meant(std::string_view path, const fs::path& by) {
    const std::string written = written_out(path);
    if (written.empty() || ++asked_ > most_paths) return {};
    for (const fs::path& base : {by.parent_path(), folder_})
        if (auto found = at((base / written).lexically_normal(), by); !found.empty()) return found;
    if (written.find('*') != std::string::npos || written.starts_with("..")) return {};
    const std::string end = "/" + written;
    std::vector<fs::path> ending;
    for (const std::string& file : all())
        if (("/" + file).ends_with(end) && folder_ / file != by) ending.push_back(folder_ / file);
    if (ending.size() != 1) ending.clear();
    return ending;
}

std::vector<fs::path> ReadIn::at(const fs::path& path, const fs::path& by) const {
    const auto is_one = [&](const fs::path& file) {
        return file != by && files::is_file(file) && files::resolves_inside(file, folder_);
    };
    const std::string name = path.filename().string();
    std::vector<fs::path> out;
    if (name.find('*') == std::string::npos) {
        if (is_one(path)) out.push_back(path);
        return out;
    }
    const text::Globs glob({name});
    for (const auto& file : files::list_folder(path.parent_path()))
        if (file.front() != '.' && glob.match(file) && is_one(path.parent_path() / file))
            out.push_back(path.parent_path() / file);
    return out;
}

const std::vector<std::string>& ReadIn::all() {
    if (all_) return *all_;
    all_.emplace();
    std::error_code error;
    for (fs::recursive_directory_iterator it(folder_, error), end;
         !error && it != end && all_->size() < most_module_files; it.increment(error)) {
        const std::string name = it->path().filename().string();
        if (name.front() == '.' || it->is_symlink()) {
            it.disable_recursion_pending();
        } else if (it->is_regular_file(error)) {
            all_->push_back(it->path().lexically_relative(folder_).generic_string());
        }
    }
    return *all_;
}

}  // namespace envar::members
