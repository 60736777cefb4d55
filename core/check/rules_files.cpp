// What the manifest says of files of the module: those it names, assets, and where its schema lies.
#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/check/rules.hpp"
#include "core/files/read.hpp"
#include "core/model/assets.hpp"
#include "core/model/schema.hpp"
#include "core/text/names.hpp"

namespace envar::check {
namespace {

namespace fs = std::filesystem;
using model::Module;
using model::Word;

void named_file(const Module& module, const Word& word, bool folder, Findings& findings) {
    if (word.value.empty()) return;
    const fs::path path = (module.folder / word.value).lexically_normal();
    if (!files::resolves_inside(path, module.folder)) {
        findings.push_back(module.source.finding("EV204", word.span,
                                                 fmt::format("`{}` leaves the module through a link", word.value),
                                                 "put the file itself into the module"));
        return;
    }
    if (folder ? files::is_folder(path) : files::is_file(path)) return;
    const std::string near = text::did_you_mean(path.filename().string(), files::list_folder(path.parent_path()));
    findings.push_back(module.source.finding(
        "EV209", word.span, fmt::format("there is no {} `{}`", folder ? "folder" : "file", word.value),
        near.empty() ? fmt::format("make it, or name another ({})", module.shown_folder) : near));
}

/// The end of the path's file name that has as many dots as the extension.
std::string ending_like(const std::string& path, const std::string& extension) {
    const std::string name = fs::path(path).filename().string();
    std::size_t at = name.size();
    for (auto dots = std::count(extension.begin(), extension.end(), '.'); dots > 0 && at > 0; --dots)
        at = std::min(name.rfind('.', at - 1), name.size());
    return name.substr(at);
}

/// The file's name with the extension in place of what nearly is it.
std::string mended_name(const std::string& path, const std::string& extension) {
    const std::string name = fs::path(path).filename().string();
    return name.substr(0, name.size() - ending_like(path, extension).size()) + extension;
}

std::string nothing_hint(const model::Asset& asset, const model::AssetScan& scan) {
    if (scan.deeper > 0)
        return fmt::format("`recursive = true` would take in {} below it",
                           scan.deeper == 1 ? "one file" : fmt::format("{} files", scan.deeper));
    if (scan.ignored > 0) return fmt::format("`ignore` takes out all of the {} that match", scan.ignored);
    if (!scan.near_misses.empty())
        return fmt::format("did you mean `{}`?", ending_like(scan.near_misses.front(), asset.extension.value));
    if (scan.other_endings.empty()) return "it holds no file that counts";
    const std::vector<std::string> first(
        scan.other_endings.begin(), scan.other_endings.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(
                                                                     3, scan.other_endings.size())));
    return fmt::format(
        "files there end in: {}{}", fmt::join(first, ", "),
        asset.extension.value.empty() || asset.extension.value.front() == '.' ? "" : "; extensions begin with a dot");
}

void one_asset(const Module& module, const model::Asset& asset, const model::AssetScan& scan, Findings& findings) {
    const auto add = [&](std::string_view code, text::Span span, std::string message, std::string hint) {
        findings.push_back(module.source.finding(code, span, std::move(message), std::move(hint)));
    };
    if (!scan.folder_there) {
        named_file(module, asset.folder, true, findings);
        return;
    }
    const Word& ending = asset.extension.value.empty() ? asset.folder : asset.extension;
    if (scan.files.empty() && scan.leaving.empty())
        add("EV210", ending.span,
            asset.extension.value.empty()
                ? fmt::format("no asset lies in `{}`", asset.folder.value)
                : fmt::format("no file in `{}` ends in `{}`", asset.folder.value, asset.extension.value),
            nothing_hint(asset, scan));
    // When nothing matches, the extension is the slip, and one hint says so.
    for (const std::string& path : scan.files.empty() ? std::vector<std::string>() : scan.near_misses)
        add("EV211", ending.span, fmt::format("`{}` ends almost as the assets do", path),
            fmt::format("rename it to `{}`, or say `ignore` for it", mended_name(path, asset.extension.value)));
    for (const std::string& path : scan.leaving)
        add("EV204", asset.folder.span, fmt::format("`{}` leaves the module through a link", path),
            "put the file itself into the module");
    if (scan.cut_short)
        add("EV105", asset.folder.span, fmt::format("`{}` holds too many files", asset.folder.value),
            fmt::format("at most {} are looked at", model::most_asset_files));
}

}  // namespace

void named_files(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules) {
        const auto& m = module.manifest;
        if (!m.folder.value.empty() && !files::is_folder(module.folder))
            findings.push_back(module.source.finding("EV209", m.folder.span,
                                                     fmt::format("there is no folder `{}`", m.folder.value),
                                                     "it is where the module's files lie, relative to the manifest"));
        if (!m.folder.value.empty() && !m.keeps_own_files)
            findings.push_back(module.source.finding(
                "EV115", m.folder.span, "the module's files lie elsewhere, so none can be generated beside them",
                "say `emits = \"none\"`"));
        for (const auto* list : {&m.native.public_headers, &m.native.private_headers, &m.native.sources,
                                 &m.tests.files, &m.examples.files})
            for (const Word& word : *list) named_file(module, word, false, findings);
        for (const model::Front& front : m.fronts)
            for (const Word& word : front.sources) named_file(module, word, false, findings);
        named_file(module, m.release.license_file, false, findings);
        named_file(module, m.tests.folder, true, findings);
        named_file(module, m.examples.folder, true, findings);
    }
}

void assets(const Facts& facts, Findings& findings) {
    for (const auto& [module, scans] : facts.assets) {
        std::map<std::string, std::size_t> first;  // path → the table that declared it first
        for (std::size_t i = 0; i < scans.size(); ++i) {
            const model::Asset& asset = module->manifest.assets[i];
            one_asset(*module, asset, scans[i], findings);
            std::vector<std::string> twice;
            for (const auto& file : scans[i].files)
                if (!first.emplace(file.path, i).second) twice.push_back(file.path);
            if (twice.empty()) continue;
            const auto& other = module->manifest.assets[first[twice.front()]].folder;
            findings.push_back(module->source.finding(
                "EV212", asset.folder.span,
                twice.size() == 1
                    ? fmt::format("`{}` is declared twice", twice.front())
                    : fmt::format("{} files are declared twice, `{}` for one", twice.size(), twice.front()),
                fmt::format("an earlier table, on line {}, takes in the same",
                            module->source.position(other.span.begin).line)));
        }
    }
}

namespace {

std::size_t folders_up(const std::string& path) {
    std::size_t count = 0;
    for (std::size_t at = 0; path.compare(at, 3, "../") == 0; at += 3) ++count;
    return count;
}

std::string in_words(std::size_t folders) {
    constexpr std::string_view words[] = {"none", "one", "two", "three", "four", "five", "six", "seven", "eight"};
    return folders < std::size(words) ? std::string(words[folders]) : std::to_string(folders);
}

void one_directive(const fs::path& root, const fs::path& folder, const text::Source& source,
                   std::string_view document, Findings& findings) {
    const auto written = model::written_directive(source.text());
    if (!written) return;
    const std::string right_line = model::schema_directive(root, folder, document);
    const std::string right = model::written_directive(right_line)->path;
    if (written->path == right || written->path.find("://") != std::string::npos) return;
    const text::Span span = written->path.empty() ? written->line : written->path_span;
    if (!written->path.empty() && files::is_file((folder / written->path).lexically_normal())) return;
    const std::size_t wanted = folders_up(right);
    const std::size_t there = folders_up(written->path);
    const bool same_rest =
        written->path.substr(std::min(there * 3, written->path.size())) == right.substr(wanted * 3);
    findings.push_back(
        source.finding("EV213", span,
                       written->path.empty() ? "the schema's path is missing"
                                             : fmt::format("there is no schema at `{}`", written->path),
                       same_rest ? fmt::format("the schema lies {} {} up, not {}: `{}`", in_words(wanted),
                                               wanted == 1 ? "folder" : "folders", in_words(there), right)
                                 : fmt::format("the schema is at `{}`; `envar schema --point` mends it", right)));
}

}  // namespace

void schema_directives(const Facts& facts, Findings& findings) {
    const auto& space = facts.space;
    one_directive(space.root, space.root, space.document.source, "workspace", findings);
    for (const Module& module : space.modules)
        one_directive(space.root, module.home, module.source, "module", findings);
}

}  // namespace envar::check
