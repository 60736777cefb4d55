#include "core/check/native_facts.hpp"

#include <algorithm>
#include <filesystem>
#include <set>

#include "core/emit/generated.hpp"
#include "core/files/read.hpp"

namespace envar::check {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_source = std::size_t{16} << 20U;

NativeCode read_module(const model::Space& space, const model::Module& module) {
    NativeCode out;
    out.module = &module;
    out.files = emit::native_files(module.manifest, module.folder);
    std::set<std::string> taken;
    const auto take = [&](const std::vector<std::string>& files, Reach reach) {
        for (const auto& file : files) {
            if (!taken.insert(file).second || !files::stays_inside(file)) continue;
            auto text = files::read_file(module.folder / file, largest_source);
            if (!text) continue;
            CodeFile code;
            code.file = file;
            code.reach = reach;
            code.generated = emit::authorship(*text, file) != emit::Authorship::foreign;
            code.facts = members::scan_code(*text);
            code.source = text::Source(files::shown_path(module.folder / file, space.root), std::move(*text));
            out.code.push_back(std::move(code));
        }
    };
    take(out.files.public_headers, Reach::everybody);
    take(out.files.sources, Reach::module);
    take(out.files.private_headers, Reach::module);
    for (const auto& part : module.manifest.native.parts)
        for (const auto& source : part.sources) take({source.value}, Reach::module);
    take(emit::code_below(module.folder, "fronts"), Reach::module);
    for (const auto& front : module.manifest.fronts)
        for (const auto& source : front.sources) take({source.value}, Reach::module);
    take(out.files.tests, Reach::tests);
    take(out.files.examples, Reach::tests);
    return out;
}

/// What public headers include of the module's own is public too.
void spread(NativeCode& native) {
    std::vector<std::size_t> open;
    for (std::size_t i = 0; i < native.code.size(); ++i)
        if (native.code[i].reach == Reach::everybody) open.push_back(i);
    while (!open.empty()) {
        const std::size_t at = open.back();
        open.pop_back();
        const fs::path here = fs::path(native.code[at].file).parent_path();
        for (const auto& include : native.code[at].facts.includes) {
            for (const fs::path& place :
                 {here, fs::path(emit::public_folder), fs::path(emit::source_folder), fs::path()}) {
                const std::string file = (place / include.name).lexically_normal().generic_string();
                const auto found = std::find_if(native.code.begin(), native.code.end(),
                                                [&](const CodeFile& code) { return code.file == file; });
                if (found == native.code.end() || !emit::is_header(file)) continue;
                if (found->reach != Reach::everybody) {
                    found->reach = Reach::everybody;
                    open.push_back(static_cast<std::size_t>(found - native.code.begin()));
                }
                break;
            }
        }
    }
}

constexpr int deepest_folder = 16;

/// `event-config.h` of `event-config.h.cmake.in`; other names stay.
std::string made_from_template(std::string_view name) {
    for (const std::string_view ending : {".in", ".cmake", ".meson"})
        if (name.ends_with(ending)) name.remove_suffix(ending.size());
    return std::string(name);
}

}  // namespace

TreeHeaders::TreeHeaders(const fs::path& folder) { walk(folder, "/", 0); }

void TreeHeaders::walk(const fs::path& folder, const std::string& below, int depth) {
    for (const auto& name : files::list_folder(folder)) {
        const fs::path path = folder / name;
        if (name.front() == '.') continue;
        if (files::is_folder(path)) {
            if (depth < deepest_folder && !files::link_target(path)) walk(path, below + name + "/", depth + 1);
            continue;
        }
        const std::string header = made_from_template(name);
        if (emit::is_header(header)) paths_.emplace(header, below + header);
    }
}

bool TreeHeaders::has(const std::string& name) const {
    std::string wanted = fs::path(name).lexically_normal().generic_string();
    while (wanted.starts_with("../")) wanted.erase(0, 3);
    const auto [begin, end] = paths_.equal_range(fs::path(wanted).filename().string());
    return std::any_of(begin, end, [&](const auto& one) { return one.second.ends_with("/" + wanted); });
}

const CodeFile* NativeCode::find(const std::string& file) const {
    const auto found = std::find_if(code.begin(), code.end(), [&](const CodeFile& one) { return one.file == file; });
    return found == code.end() ? nullptr : &*found;
}

std::vector<NativeCode> read_native_code(const model::Space& space) {
    std::vector<NativeCode> out;
    for (const auto& module : space.modules) {
        const model::Card* card = space.card(module.manifest.host.value);
        if (card == nullptr || !card->is_native() || !module.sound) continue;
        out.push_back(read_module(space, module));
        spread(out.back());
    }
    return out;
}

}  // namespace envar::check
