#include "core/emit/native_files.hpp"

#include <algorithm>
#include <initializer_list>
#include <set>

#include "core/files/read.hpp"

namespace envar::emit {
namespace {

namespace fs = std::filesystem;

constexpr int deepest_folder = 16;

bool ends_as(std::string_view file, std::initializer_list<std::string_view> endings) {
    return std::any_of(endings.begin(), endings.end(),
                       [&](std::string_view ending) { return file.ends_with(ending); });
}

void walk(const fs::path& folder, const std::string& shown, int depth, std::vector<std::string>& out) {
    for (const auto& name : files::list_folder(folder)) {
        const fs::path path = folder / name;
        std::string inner = shown;
        (inner += '/') += name;
        if (name.front() == '.') continue;
        if (files::is_folder(path)) {
            if (depth < deepest_folder && !files::link_target(path)) walk(path, inner, depth + 1, out);
        } else if (is_header(name) || is_source(name)) {
            out.push_back(inner);
        }
    }
}

}  // namespace

bool is_header(std::string_view file) { return ends_as(file, {".h", ".hh", ".hpp", ".hxx", ".inl", ".ipp"}); }
bool is_source(std::string_view file) { return ends_as(file, {".c", ".cc", ".cpp", ".cxx"}); }

std::vector<std::string> code_below(const fs::path& module, std::string_view folder) {
    std::vector<std::string> out;
    walk(module / folder, std::string(folder), 0, out);
    std::sort(out.begin(), out.end());
    return out;
}

NativeFiles native_files(const model::Manifest& manifest, const fs::path& folder,
                         const std::vector<std::string>& planned, const std::vector<std::string>& absent) {
    std::set<std::string> elsewhere(absent.begin(), absent.end());
    for (const auto& part : manifest.native.parts)
        for (const auto& source : part.sources) elsewhere.insert(source.value);
    const auto listed = [&](const std::vector<model::Word>& words, std::string_view below,
                            bool (*fits)(std::string_view)) {
        std::set<std::string> out;
        for (const auto& word : words) out.insert(word.value);
        if (words.empty()) {
            for (auto& file : code_below(folder, below)) out.insert(std::move(file));
            for (const auto& file : planned)
                if (file.starts_with(std::string(below) + "/")) out.insert(file);
        }
        std::vector<std::string> kept;
        for (const auto& file : out)
            if (fits(file) && elsewhere.count(file) == 0) kept.push_back(file);
        return kept;
    };
    const auto set = [&](const model::FileSet& files, std::string_view usual) {
        const std::string& named = files.folder.value;
        return listed(files.files, named.empty() ? usual : std::string_view(named), is_source);
    };
    const model::Native& native = manifest.native;
    NativeFiles out;
    out.public_headers = listed(native.public_headers, public_folder, is_header);
    out.sources = listed(native.sources, source_folder, is_source);
    out.private_headers = listed(native.private_headers, source_folder, is_header);
    out.tests = set(manifest.tests, "tests");
    out.examples = set(manifest.examples, "examples");
    if (native.kind == model::NativeKind::headers) out.sources.clear();
    return out;
}

}  // namespace envar::emit
