#include "core/model/pc_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

#include "core/files/read.hpp"

namespace envar::model {
namespace {

namespace fs = std::filesystem;
using text::Finding;

constexpr std::size_t largest_file = std::size_t{1} << 20U;
constexpr std::size_t longest_value = std::size_t{64} << 10U;
constexpr std::size_t most_requirements = 10000;

bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r'; }

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && is_blank(text.front())) text.remove_prefix(1);
    while (!text.empty() && is_blank(text.back())) text.remove_suffix(1);
    return text;
}

class Reader {
  public:
    Reader(PcFile& file, std::vector<Finding>& findings)
        : file_(file), text_(file.source.text()), findings_(findings) {}

    void run() {
        for (std::size_t at = 0; at < text_.size();) {
            const std::size_t end = logical_end(at);
            line(at, end);
            at = end + 1;
        }
        if (file_.version.empty())
            findings_.push_back(file_.source.finding("EV913", {}, "the file tells no version", "it counts as 0.0.0"));
    }

  private:
    [[nodiscard]] std::size_t logical_end(std::size_t at) const {
        std::size_t end = text_.find('\n', at);
        while (end != std::string::npos && end > at && text_[end - 1] == '\\') end = text_.find('\n', end + 1);
        return end == std::string::npos ? text_.size() : end;
    }

    void line(std::size_t begin, std::size_t end) {
        std::string_view line = std::string_view(text_).substr(begin, end - begin);
        if (const std::size_t comment = line.find('#'); comment != std::string_view::npos)
            if (comment == 0 || line[comment - 1] != '\\') line = line.substr(0, comment);
        const std::size_t mark = line.find_first_of(":=");
        if (trimmed(line).empty()) return;
        const text::Span whole{begin, begin + line.size()};
        if (mark == std::string_view::npos) {
            tell(whole, "the line is neither `name=value` nor `Name: value`", "it was passed over");
            return;
        }
        const std::string key(trimmed(line.substr(0, mark)));
        const std::string_view value = trimmed(line.substr(mark + 1));
        const auto place = static_cast<std::size_t>(value.data() - text_.data());
        if (line[mark] == '=') {
            variables_[key] = expanded(value, whole);
        } else if (key == "Version") {
            file_.version = expanded(value, whole);
        } else if (key == "Description") {
            file_.description = expanded(value, whole);
        } else if (key == "Requires") {
            requirements(expanded(value, whole), value, place, file_.public_needs);
        } else if (key == "Requires.private") {
            requirements(expanded(value, whole), value, place, file_.private_needs);
        }
    }

    /// A variable holds what its value meant when it was set, so that loops cannot come about.
    std::string expanded(std::string_view value, text::Span span) {
        std::string out;
        for (std::size_t at = 0; at < value.size();) {
            if (value[at] == '\\' && at + 1 < value.size() && (value[at + 1] == '\n' || value[at + 1] == '#')) {
                if (value[++at] == '\n') out += ' ';
                if (value[at] == '#') out += '#';
                ++at;
                continue;
            }
            if (value.substr(at, 2) == "$$") {
                out += '$';
                at += 2;
                continue;
            }
            const std::size_t close = value.substr(at, 2) == "${" ? value.find('}', at) : std::string_view::npos;
            if (close == std::string_view::npos) {
                out += value[at++];
                continue;
            }
            const std::string name(value.substr(at + 2, close - at - 2));
            const auto known = variables_.find(name);
            if (known == variables_.end() && name != "pcfiledir")
                tell(span, fmt::format("there is no variable `{}` up to here", name), "it counts as empty");
            if (known != variables_.end()) out += known->second;
            at = close + 1;
            if (out.size() > longest_value) {
                tell(span, "the value is longer than 64 KiB", "the rest was left out");
                out.resize(longest_value);
                return out;
            }
        }
        return std::string(trimmed(out));
    }

    void requirements(const std::string& text, std::string_view written, std::size_t place,
                      std::vector<PcRequirement>& into) {
        std::vector<std::string> words;
        for (std::size_t at = 0; at < text.size();) {
            const char c = text[at];
            if (is_blank(c) || c == ',' || c == '\n') {
                ++at;
                continue;
            }
            const bool comparator = std::string_view("=<>!").find(c) != std::string_view::npos;
            std::size_t end = at;
            while (end < text.size() && !is_blank(text[end]) && text[end] != ',' && text[end] != '\n' &&
                   (std::string_view("=<>!").find(text[end]) != std::string_view::npos) == comparator)
                ++end;
            words.push_back(text.substr(at, end - at));
            at = end;
        }
        for (std::size_t i = 0; i < words.size(); ++i) {
            if (into.size() >= most_requirements) {
                tell({place, place + written.size()}, "there are more than 10,000 requirements",
                     "the rest was left out");
                return;
            }
            PcRequirement one;
            one.module = words[i];
            const std::size_t at = written.find(one.module);
            one.span = at == std::string_view::npos ? text::Span{place, place + written.size()}
                                                    : text::Span{place + at, place + at + one.module.size()};
            if (is_comparator(words[i])) {
                tell(one.span, fmt::format("`{}` stands without a module before it", words[i]), "it was passed over");
                continue;
            }
            if (i + 1 < words.size() && is_comparator(words[i + 1])) {
                one.comparator = words[i + 1];
                one.version = i + 2 < words.size() && !is_comparator(words[i + 2]) ? words[i + 2] : "";
                i += one.version.empty() ? 1 : 2;
                judge(one);
            }
            if (one.module == file_.name) {
                tell(one.span, fmt::format("`{}` requires itself", one.module), "it was passed over");
                continue;
            }
            into.push_back(std::move(one));
        }
    }

    static bool is_comparator(const std::string& word) { return word.find_first_not_of("=<>!") == std::string::npos; }

    void judge(PcRequirement& one) {
        static constexpr std::array<std::string_view, 6> known = {"=", "!=", "<", "<=", ">", ">="};
        if (std::find(known.begin(), known.end(), one.comparator) == known.end()) {
            tell(one.span, fmt::format("`{}` is no comparator", one.comparator),
                 "there are = != < <= > >=; any version counts");
        } else if (one.version.empty()) {
            tell(one.span, fmt::format("no version stands behind `{} {}`", one.module, one.comparator),
                 "any version counts");
        } else {
            return;
        }
        one.comparator.clear();
        one.version.clear();
    }

    void tell(text::Span span, std::string message, std::string hint) {
        findings_.push_back(file_.source.finding("EV912", span, std::move(message), std::move(hint)));
    }

    PcFile& file_;
    const std::string& text_;
    std::vector<Finding>& findings_;
    std::map<std::string, std::string> variables_;
};

}  // namespace

PcFile read_pc(const std::string& name, text::Source source, std::vector<Finding>& findings) {
    PcFile file;
    file.name = name;
    file.source = std::move(source);
    Reader(file, findings).run();
    return file;
}

std::vector<PcFile> read_pc_folders(const std::vector<fs::path>& folders, const fs::path& shown_from,
                                    std::vector<Finding>& findings) {
    constexpr std::string_view ending = ".pc";
    constexpr std::string_view uninstalled = "-uninstalled";
    std::map<std::string, fs::path> chosen;
    for (const auto& folder : folders)
        for (const bool first : {true, false})
            for (const auto& file : files::list_folder(folder)) {
                if (!file.ends_with(ending)) continue;
                std::string name = file.substr(0, file.size() - ending.size());
                if (name.ends_with(uninstalled) != first) continue;
                if (first) name.resize(name.size() - uninstalled.size());
                chosen.emplace(name, folder / file);
            }
    std::vector<PcFile> out;
    for (const auto& [name, path] : chosen) {
        const std::string shown = files::shown_path(path, shown_from);
        auto content = files::read_file(path, largest_file);
        if (content) {
            out.push_back(read_pc(name, text::Source(shown, std::move(*content)), findings));
        } else {
            findings.push_back(text::Source(shown, "").finding(
                "EV101", {}, fmt::format("cannot read the file: {}", content.error().reason), "it was passed over"));
        }
    }
    return out;
}

std::vector<fs::path> pc_folders(const std::map<std::string, std::string>& environment) {
    std::vector<fs::path> out;
    const auto add = [&](const std::string& name) {
        const auto found = environment.find(name);
        if (found == environment.end()) return false;
        for (std::size_t at = 0; at <= found->second.size();) {
            const std::size_t end = std::min(found->second.find(':', at), found->second.size());
            if (end > at) out.emplace_back(found->second.substr(at, end - at));
            at = end + 1;
        }
        return true;
    };
    add("PKG_CONFIG_PATH");
    if (add("PKG_CONFIG_LIBDIR")) return out;
    for (const fs::path base : {"/usr/local", "/usr"}) {
        for (const auto& name : files::list_folder(base / "lib"))
            if (name.find("-linux-") != std::string::npos) out.push_back(base / "lib" / name / "pkgconfig");
        out.push_back(base / "lib" / "pkgconfig");
        out.push_back(base / "share" / "pkgconfig");
    }
    return out;
}

std::string plain_version(const std::string& version) {
    std::array<std::string, 3> numbers = {"0", "0", "0"};
    std::size_t at = 0;
    for (std::size_t i = 0; i < numbers.size() && at < version.size(); ++i) {
        std::size_t end = at;
        while (end < version.size() && version[end] >= '0' && version[end] <= '9') ++end;
        if (end == at) break;
        std::string digits = version.substr(at, end - at);
        digits.erase(0, std::min(digits.find_first_not_of('0'), digits.size() - 1));
        if (digits.size() > 18) digits.resize(18);
        numbers[i] = digits;
        at = end < version.size() && version[end] == '.' ? end + 1 : version.size();
        if (i == 0 && end == 0) return {};
    }
    if (version.empty() || version[0] < '0' || version[0] > '9') return {};
    return fmt::format("{}.{}.{}", numbers[0], numbers[1], numbers[2]);
}

}  // namespace envar::model
