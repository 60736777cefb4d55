#include "core/life/adopt_native.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <filesystem>
#include <set>

#include "core/emit/native_files.hpp"
#include "core/files/read.hpp"
#include "core/life/adopt_facts.hpp"
#include "core/life/adopt_installed.hpp"
#include "core/life/adopt_named.hpp"
#include "core/members/includes.hpp"
#include "core/text/names.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_code = std::size_t{16} << 20U;

/// The code of the module itself, without tests, examples and what was built.
std::vector<std::string> own_code(const fs::path& folder) {
    std::vector<std::string> code = emit::code_below(folder, ".");
    for (auto& file : code)
        if (file.starts_with("./")) file.erase(0, 2);
    std::erase_if(code, [](const std::string& file) {
        const std::string first = file.substr(0, file.find('/'));
        return first.size() < file.size() && is_beside_the_code(first);
    });
    return code;
}

model::NativeKind kind_of(const model::Card& card, const std::string& entry, bool has_sources) {
    static const std::map<std::string_view, model::NativeKind> kinds = {{"static", model::NativeKind::static_library},
                                                                        {"shared", model::NativeKind::shared_library},
                                                                        {"headers", model::NativeKind::headers},
                                                                        {"program", model::NativeKind::program},
                                                                        {"plugin", model::NativeKind::plugin}};
    for (const auto& [pattern, kind] : card.adopt.kinds) {
        const re2::RE2 compiled("(?m)" + pattern, re2::RE2::Quiet);
        const auto known = kinds.find(kind);
        if (known == kinds.end() || (has_sources && known->second == model::NativeKind::headers)) continue;
        if (compiled.ok() && re2::RE2::PartialMatch(entry, compiled)) return known->second;
    }
    return has_sources ? model::NativeKind::static_library : model::NativeKind::headers;
}

std::string standard_of(const std::string& entry, const std::vector<std::string>& code) {
    static const re2::RE2 cxx(R"((?i)(?:CXX_STANDARD\s+|cpp_std=|std=(?:c|gnu)\+\+|cxx_std_|'c\+\+)(\d\d))");
    std::string year;
    if (re2::RE2::PartialMatch(entry, cxx, &year)) {
        static const std::set<std::string> known = {"11", "14", "17", "20", "23"};
        if (known.count(year) != 0) return "c++" + year;
    }
    const bool is_c = std::all_of(code.begin(), code.end(), [](const std::string& file) {
        return file.ends_with(".c") || file.ends_with(".h");
    });
    return is_c && !code.empty() ? "c11" : "";
}

/// The public ones of a tree's headers: those that its build files install; else those in the folder for them; else
/// those at its top; else those that are called like the module; else those that lie highest.
std::vector<std::string> public_headers(const std::vector<std::string>& installed,
                                        const std::vector<std::string>& headers, const std::string& module) {
    if (!installed.empty()) return installed;
    const std::string include = std::string(emit::public_folder) + "/";
    const std::string name = letters_of(module);
    const auto chosen = [&](const auto& fits) {
        std::vector<std::string> out;
        std::copy_if(headers.begin(), headers.end(), std::back_inserter(out), fits);
        return out;
    };
    const auto depth = [](const std::string& file) { return std::count(file.begin(), file.end(), '/'); };
    auto out = chosen([&](const std::string& file) { return file.starts_with(include); });
    if (out.empty()) out = chosen([&](const std::string& file) { return depth(file) == 0; });
    if (out.empty())
        out = chosen(
            [&](const std::string& file) { return letters_of(fs::path(file).stem().string()).starts_with(name); });
    if (!out.empty()) return out;
    std::ptrdiff_t highest = PTRDIFF_MAX;
    for (const auto& file : headers) highest = std::min(highest, depth(file));
    return chosen([&](const std::string& file) { return depth(file) == highest; });
}

/// "1.2.3" where the text says so: whole, as macros, constants or settings for its parts, or as a number with two
/// digits for each part behind the first.
std::string version_in(const std::string& text) {
    static const re2::RE2 whole(
        R"((?m)^[ \t]*#[ \t]*define[ \t]+\w*VERSION(?:_STR(?:ING)?)?[ \t]+"v?(\d+(?:\.\d+)+))");
    static const re2::RE2 number(
        R"((?m)^[ \t]*#[ \t]*define[ \t]+\w*VERSION(?:_NUM(?:BER)?)?[ \t]+(\d)(\d\d)(\d\d)\b)");
    std::string version;
    if (re2::RE2::PartialMatch(text, whole, &version)) return version;
    const auto part = [&](const std::string& names) {
        const re2::RE2 pattern(R"re((?m)\b\w*(?:VER(?:SION)?_(?:)re" + names + ")|(?:" + names +
                               R"re()_VERSION)(?:\s*=)?[ \t]+[("]?(\d+)\b)re");
        std::string found;
        return re2::RE2::PartialMatch(text, pattern, &found) ? found : "";
    };
    const std::string major = part("MAJOR"), minor = part("MINOR"),
                      patch = part("PATCH|MICRO|RELEASE|REVISION|PATCHLEVEL");
    if (!major.empty() && !minor.empty()) return major + "." + minor + (patch.empty() ? "" : "." + patch);
    int first = 0, second = 0, third = 0;
    if (re2::RE2::PartialMatch(text, number, &first, &second, &third))
        return std::to_string(first) + "." + std::to_string(second) + "." + std::to_string(third);
    return {};
}

/// What the tree's file for `pkg-config` says, or where the build system makes that one, its own files.
void describe(const fs::path& folder, const model::Card& card, const std::vector<BuildFile>& build,
              const std::string& module, NativeTree& out) {
    static const re2::RE2 description(R"((?m)^Description:[ \t]*([^\s@$][^\r\n@$]*))");
    const std::string name = letters_of(module);
    struct Description {
        std::size_t distance;  // of what is described from the module's name, in letters
        std::string text, file;
    };
    std::vector<Description> told;
    const auto tell = [&](const std::string& called, const std::string& file, const std::string& summary) {
        const std::string letters = letters_of(called);
        const std::size_t at = letters.find(name);
        told.push_back({at == std::string::npos ? SIZE_MAX : letters.size() - name.size(), summary, file});
    };
    std::string summary;
    for (const auto& file : build_files({.files = {"*.pc", "*.pc.*"}}, folder)) {
        const std::string called = file.file.substr(file.file.rfind('/') + 1);
        if (re2::RE2::PartialMatch(file.text, description, &summary))
            tell(called.substr(0, called.find(".pc")), file.file, summary);
    }
    if (told.empty())
        for (const auto& file : build)
            if (summary = first_match(card.adopt.summary, file.text); !summary.empty())
                tell(fs::path(file.file).parent_path().filename().string(), file.file, summary);
    const auto best = std::min_element(told.begin(), told.end(),
                                       [](const auto& a, const auto& b) { return a.distance < b.distance; });
    if (best == told.end() || (best->distance == SIZE_MAX && told.size() > 1)) return;
    out.summary = best->text;
    out.summary_by = best->file;
}

std::vector<model::Word> words(const std::vector<std::string>& texts) {
    std::vector<model::Word> out;
    out.reserve(texts.size());
    for (const auto& text : texts) out.push_back({text, {}});
    return out;
}

}  // namespace

void add_headers(const fs::path& folder, const model::Card& card, const std::string& module, HeaderOwners& owners) {
    const std::string below = std::string(emit::public_folder) + "/";
    std::vector<std::string> headers = own_code(folder);
    std::erase_if(headers, [](const auto& file) { return !emit::is_header(file); });
    const auto installed = installed_headers(card.adopt.build, build_files(card.adopt.build, folder), headers);
    for (const auto& file : public_headers(installed, headers, module)) {
        owners.emplace(file.starts_with(below) ? file.substr(below.size()) : file, module);
        if (!file.starts_with(below)) owners.emplace(fs::path(file).filename().string(), module);
    }
}

NativeTree read_native_tree(const fs::path& folder, const model::Card& card, const std::string& entry,
                            const std::string& text, const std::string& module, const HeaderOwners& owners) {
    NativeTree out;
    const std::vector<std::string> code = own_code(folder);
    const std::vector<BuildFile> build = build_files(card.adopt.build, folder);
    const std::string include = std::string(emit::public_folder) + "/",
                      source = std::string(emit::source_folder) + "/";
    std::vector<std::string> headers;
    std::copy_if(code.begin(), code.end(), std::back_inserter(headers),
                 [](const auto& file) { return emit::is_header(file); });
    const auto installed = installed_headers(card.adopt.build, build, headers);
    out.installs = !installed.empty();
    std::vector<std::string> open = public_headers(installed, headers, module), hidden, compiled;
    for (const auto& file : code) {
        const bool is_open = std::find(open.begin(), open.end(), file) != open.end();
        const bool is_header = emit::is_header(file);
        out.usual = out.usual && file.starts_with(is_open ? include : source);
        if (!is_open) (is_header ? hidden : compiled).push_back(file);
    }
    out.native.span = {0, 1};  // there is such a table
    out.native.kind = kind_of(card, text, !compiled.empty());
    out.native.standard = standard_of(text, code);
    if (!out.usual) {
        out.native.public_headers = words(open);
        out.native.private_headers = words(hidden);
        out.native.sources = words(compiled);
    }
    describe(folder, card, build, module, out);
    out.version = version_in(text);
    if (!out.version.empty()) out.version_by = entry;
    std::string hidden_version, hidden_by;
    std::set<std::string> seen_by_all, seen;
    for (const auto& file : code) {
        const bool is_open = std::find(open.begin(), open.end(), file) != open.end();
        const auto content = files::read_file(folder / file, largest_code);
        if (!content) continue;
        if (is_open && out.version.empty() && !(out.version = version_in(*content)).empty()) out.version_by = file;
        if (!is_open && hidden_version.empty() && emit::is_header(file)) {
            hidden_version = version_in(*content);
            hidden_by = file;
        }
        for (const auto& one : members::scan_code(*content).includes) {
            const auto owner = owners.find(one.name);
            if (owner == owners.end() || owner->second == module) continue;
            (is_open ? seen_by_all : seen).insert(owner->second);
        }
    }
    if (out.version.empty()) out.version = hidden_version, out.version_by = hidden_by;
    for (const auto& name : seen_by_all) seen.erase(name);
    out.public_needs.assign(seen_by_all.begin(), seen_by_all.end());
    out.private_needs.assign(seen.begin(), seen.end());
    return out;
}

std::string asks_for(const std::string& entry, std::vector<std::string> names) {
    constexpr std::size_t most_named = 12;
    const bool one = names.size() == 1;
    for (auto& name : names) name = fmt::format("`{}`", name);
    return fmt::format("{} asks for {} that {} of the workspace: {}; say with `envar depend` what the system brings",
                       entry, one ? "one thing" : fmt::format("{} things", names.size()),
                       one ? "is no module" : "are no modules", text::listed(names, most_named));
}

}  // namespace envar::life
