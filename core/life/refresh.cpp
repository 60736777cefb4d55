#include "core/life/refresh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/emit/generated.hpp"
#include "core/files/read.hpp"
#include "core/text/merge.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;
using text::refuse;

constexpr std::size_t largest_record = std::size_t{64} << 20U;

bool is_identity(const std::string& text) {
    return text.size() == 36 && text.find_first_not_of("0123456789abcdefABCDEF-") == std::string::npos;
}

class Refresher {
  public:
    Refresher(const model::Space& space, const model::Module& module, const model::Card& card, FirstWritten first)
        : space_(space), module_(module), card_(card), first_(std::move(first)) {}

    text::Result<Refresh> run() {
        refresh_.plan.root = space_.root;
        std::vector<text::Finding> findings;
        const model::Manifest then = model::read_manifest(
            model::parse_document(text::Source(std::string(model::manifest_name), first_.manifest)), findings,
            [&](std::string_view) { return card_.scheme; });
        const emit::Place place = emit::place_of(space_, card_, module_.folder);
        auto files = emit::authored_files(then, card_, first_.blueprint, first_.settings, place);
        if (!files) return tl::unexpected(files.error());
        const FirstWritten before = first_;
        for (const auto& file : *files) take(file, before);
        const emit::Survey survey = emit::survey(space_, {module_.name()}, false);
        const files::Plan generated = emit::emit_plan(survey, space_.root, false);
        for (const auto& change : generated.changes) refresh_.plan.add(change);
        record(before);
        return std::move(refresh_);
    }

  private:
    void take(const emit::AuthoredFile& file, const FirstWritten& before) {
        const fs::path path = module_.folder / file.path;
        const std::string shown = files::shown_path(path, space_.root);
        const auto base = before.files.find(file.path);
        const auto mine = files::read_file(path, largest_record);
        first_.files[file.path] = file.body;
        if (base == before.files.end()) {
            if (!files::is_there(path)) {
                refresh_.plan.add({path, std::nullopt, file.body, file.purpose + " (yours, new in the card)"});
                refresh_.merged.push_back(shown);
            } else if (!mine || *mine != file.body) {
                refresh_.left.push_back(shown);
            }
            return;
        }
        if (base->second == file.body) return;
        if (!mine) {
            refresh_.left.push_back(shown);
            return;
        }
        const text::Merge merged = text::merge(base->second, *mine, file.body, "yours", "the card's template");
        if (merged.text == *mine) return;
        if (merged.conflicts > 0) refresh_.conflicts.push_back(shown);
        refresh_.merged.push_back(shown);
        refresh_.plan.add(
            {path, *mine, merged.text,
             merged.conflicts > 0 ? "merged, with conflicts marked" : "merged with the card's template"});
    }

    void record(const FirstWritten& before) {
        const fs::path file = first_written_file(space_.root, module_.manifest.identity);
        files::Change change{file, first_written_text(before), first_written_text(first_), "what the card wrote"};
        if (change.before != change.after) refresh_.plan.add(std::move(change));
    }

    const model::Space& space_;
    const model::Module& module_;
    const model::Card& card_;
    FirstWritten first_;
    Refresh refresh_;
};

}  // namespace

fs::path first_written_file(const fs::path& root, const std::string& identity) {
    return root / files::notes_folder / (identity + ".json");
}

std::string first_written_text(const FirstWritten& first) {
    const json whole = {{"blueprint", first.blueprint},
                        {"settings", first.settings},
                        {"manifest", first.manifest},
                        {"files", first.files}};
    return whole.dump(1, ' ', false, json::error_handler_t::replace) + "\n";
}

std::optional<FirstWritten> read_first_written(const fs::path& root, const std::string& identity) {
    if (!is_identity(identity)) return std::nullopt;
    const auto content = files::read_file(first_written_file(root, identity), largest_record);
    if (!content) return std::nullopt;
    const json whole = json::parse(*content, nullptr, false);
    if (!whole.is_object() || !whole.contains("files") || !whole["files"].is_object()) return std::nullopt;
    const auto texts = [&](const char* key) {
        std::map<std::string, std::string> out;
        if (!whole.contains(key) || !whole[key].is_object()) return out;
        for (const auto& [name, value] : whole[key].items())
            if (value.is_string()) out[name] = value.get<std::string>();
        return out;
    };
    const auto text = [&](const char* key) {
        return whole.contains(key) && whole[key].is_string() ? whole[key].get<std::string>() : std::string();
    };
    return FirstWritten{text("blueprint"), texts("settings"), text("manifest"), texts("files")};
}

text::Result<Refresh> refresh_plan(const model::Space& space, const std::string& name) {
    const model::Module* module = space.module(name);
    if (module == nullptr) return refuse(fmt::format("there is no module `{}`", name));
    const model::Card* card = space.card(module->manifest.host.value);
    if (card == nullptr)
        return refuse(fmt::format("there is no card for the host `{}`", module->manifest.host.value));
    if (!module->sound)
        return refuse(fmt::format("the manifest of `{}` has errors", name),
                      "nothing was written; `envar check` shows them");
    auto first = read_first_written(space.root, module->manifest.identity);
    if (!first)
        return refuse(fmt::format("what was first written for `{}` is not known here", name),
                      "only modules that were scaffolded in this copy of the workspace can be refreshed; "
                      "`envar emit` brings generated files up to date");
    return Refresher(space, *module, *card, std::move(*first)).run();
}

}  // namespace envar::life
