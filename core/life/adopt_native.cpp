#include "core/life/adopt_native.hpp"

#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <set>

#include "core/emit/native_files.hpp"
#include "core/files/read.hpp"
#include "core/members/includes.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_code = std::size_t{16} << 20U;
constexpr std::array<std::string_view, 10> no_part = {"test", "tests", "example", "examples",   "build",
                                                      "doc",  "docs",  "bench",   "benchmarks", "third_party"};

/// The code of the module itself, without tests, examples and what was built.
std::vector<std::string> own_code(const fs::path& folder) {
    std::vector<std::string> code = emit::code_below(folder, ".");
    for (auto& file : code)
        if (file.starts_with("./")) file.erase(0, 2);
    std::erase_if(code, [](const std::string& file) {
        const std::string first = file.substr(0, file.find('/'));
        return first.size() < file.size() && std::find(no_part.begin(), no_part.end(), first) != no_part.end();
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
        if (compiled.ok() && known != kinds.end() && re2::RE2::PartialMatch(entry, compiled)) return known->second;
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

std::vector<model::Word> words(const std::vector<std::string>& texts) {
    std::vector<model::Word> out;
    out.reserve(texts.size());
    for (const auto& text : texts) out.push_back({text, {}});
    return out;
}

}  // namespace

void add_headers(const fs::path& folder, const std::string& module, HeaderOwners& owners) {
    const std::string below = std::string(emit::public_folder) + "/";
    const bool has_folder = files::is_folder(folder / emit::public_folder);
    for (const auto& file : own_code(folder)) {
        if (!emit::is_header(file) || (has_folder && !file.starts_with(below))) continue;
        owners.emplace(has_folder ? file.substr(below.size()) : file, module);
    }
}

NativeTree read_native_tree(const fs::path& folder, const model::Card& card, const std::string& entry,
                            const std::string& module, const HeaderOwners& owners) {
    NativeTree out;
    const std::vector<std::string> code = own_code(folder);
    const std::string include = std::string(emit::public_folder) + "/",
                      source = std::string(emit::source_folder) + "/";
    const bool has_include =
        std::any_of(code.begin(), code.end(), [&](const auto& f) { return f.starts_with(include); });
    std::vector<std::string> open, hidden, compiled;
    for (const auto& file : code) {
        out.usual = out.usual && (file.starts_with(include) || file.starts_with(source));
        if (!emit::is_header(file)) {
            compiled.push_back(file);
        } else if (has_include ? file.starts_with(include) : file.find('/') == std::string::npos) {
            open.push_back(file);
        } else {
            hidden.push_back(file);
        }
    }
    out.native.span = {0, 1};  // there is such a table
    out.native.kind = kind_of(card, entry, !compiled.empty());
    out.native.standard = standard_of(entry, code);
    if (!out.usual) {
        out.native.public_headers = words(open);
        out.native.private_headers = words(hidden);
        out.native.sources = words(compiled);
    }
    std::set<std::string> seen_by_all, seen;
    for (const auto& file : code) {
        const bool is_open = std::find(open.begin(), open.end(), file) != open.end();
        const auto text = files::read_file(folder / file, largest_code);
        if (!text) continue;
        for (const auto& one : members::scan_code(*text).includes) {
            const auto owner = owners.find(one.name);
            if (owner == owners.end() || owner->second == module) continue;
            (is_open ? seen_by_all : seen).insert(owner->second);
        }
    }
    for (const auto& name : seen_by_all) seen.erase(name);
    out.public_needs.assign(seen_by_all.begin(), seen_by_all.end());
    out.private_needs.assign(seen.begin(), seen.end());
    return out;
}

}  // namespace envar::life
