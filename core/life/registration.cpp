#include "core/life/registration.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/emit/block.hpp"
#include "core/emit/host_files.hpp"
#include "core/emit/native.hpp"
#include "core/files/read.hpp"
#include "core/model/edit.hpp"
#include "core/model/toml_layout.hpp"
#include "core/search/search_path.hpp"
#include "core/search/session.hpp"
#include "core/search/walk.hpp"
#include "core/text/template.hpp"

#include <nlohmann/json.hpp>

namespace envar::life {
namespace {

namespace fs = std::filesystem;

bool covers(const std::string& folder, const std::string& inner) {
    return folder == "." || inner == folder || inner.rfind(folder + "/", 0) == 0;
}

text::Result<std::string> with_folder(const model::Space& space, const model::Document& document,
                                      const model::WorkspaceFile& settings, const std::string& parent) {
    const std::string& content = document.source.text();
    const auto& folders = settings.folders;
    const model::Node* list = model::written_folders(document);
    // An empty list means everywhere; it stays so as long as that is what keeps modules in sight.
    const bool elsewhere = std::any_of(space.modules.begin(), space.modules.end(), [&](const model::Module& module) {
        return !covers(parent, module.shown_folder);
    });
    const bool known = list == nullptr || (folders.empty() && elsewhere) ||
                       std::any_of(folders.begin(), folders.end(), [&](const model::Word& folder) {
                           std::string name = folder.value;
                           while (name.size() > 1 && name.back() == '/') name.pop_back();
                           return covers(name, parent);
                       });
    if (known) return content;
    return model::append_to_list(content, list->span, model::toml_string(parent));
}

/// Whether every folder from below `top` down to `folder` is a group of modules.
bool all_groups(const model::Card& card, const fs::path& top, const fs::path& folder) {
    fs::path at = top;
    for (const auto& part : folder.lexically_relative(top)) {
        if (part.empty() || part == ".") continue;
        at /= part;
        if (!search::is_group(card.walk, at)) return false;
    }
    return true;
}

}  // namespace

text::Result<void> register_module(const model::Space& space, const model::Card& card, const Place& place,
                                   files::Plan& plan) {
    if (!space.document.valid)
        return text::fail(text::FailureKind::answer_is_no,
                          fmt::format("{} has syntax errors", space.document.source.file()),
                          "nothing was written; `envar check` shows them");
    const std::string parent = files::shown_path(place.manifests, space.root);
    const bool looked_up = card.looks_up();
    const std::string& before = space.document.source.text();
    // The plan may have changed the file already, for another module.
    const fs::path path = space.root / model::workspace_file_name;
    const files::Change* planned = plan.find(path);
    const model::Document document = planned == nullptr
                                         ? space.document
                                         : model::parse_document(text::Source(std::string(model::workspace_file_name),
                                                                              planned->after.value_or("")));
    std::vector<text::Finding> known_already;
    const model::WorkspaceFile settings = model::read_workspace_file(document, known_already);
    auto content = with_folder(space, document, settings, parent);
    if (!content) return tl::unexpected(content.error());
    const fs::path wanted = (place.search_folder / "").lexically_normal();
    const bool found = std::any_of(settings.search.begin(), settings.search.end(), [&](const auto& search) {
        if (search.host.value != card.name.value) return false;
        const fs::path declared = (space.root / search.folder.value / "").lexically_normal();
        if (declared == wanted) return true;
        // A host that goes through its folders comes to what lies deeper by itself, if all above are groups.
        return !card.walk.entry.empty() && wanted.string().starts_with(declared.string()) &&
               all_groups(card, declared, wanted);
    });
    if (!found && looked_up) {
        const std::string folder = place.search_folder.lexically_relative(space.root).generic_string();
        const model::SearchFolder entry{{card.name.value, {}}, {folder, {}}, {place.variable, {}}, {}};
        const model::Field& list = model::search_list();
        *content = model::append_element(*content, list.key, model::assignments_of(*list.fields, &entry));
    }
    if (*content != before) plan.add({path, before, *content, "knows where the module lies"});
    return {};
}

text::Result<void> add_host_files(const model::Space& space, const std::vector<model::Module>& made,
                                  files::Plan& plan) {
    model::Space after = space;
    after.modules.insert(after.modules.end(), made.begin(), made.end());
    std::sort(after.modules.begin(), after.modules.end(),
              [](const model::Module& a, const model::Module& b) { return a.name() < b.name(); });
    if (const files::Change* planned = plan.find(space.root / model::workspace_file_name)) {
        std::vector<text::Finding> known_already;
        after.settings = model::read_workspace_file(
            model::parse_document(text::Source(std::string(model::workspace_file_name), planned->after.value_or(""))),
            known_already);
    }
    for (const model::Card& card : space.cards) {
        const bool touched = std::any_of(made.begin(), made.end(), [&](const model::Module& module) {
            return module.manifest.host.value == card.name.value || emit::is_described(module.manifest, card);
        });
        if (!touched) continue;
        auto files = emit::host_files(after, card);
        if (!files) return tl::unexpected(files.error());
        for (auto& file : *files) {
            // The plan may write the file that a block goes into.
            if (const files::Change* planned = plan.find(file.path); planned != nullptr && file.shared()) {
                auto joined = emit::with_block(planned->after.value_or(""), file.block, file.wanted, *file.dialect);
                if (!joined) return tl::unexpected(joined.error());
                plan.add({file.path, planned->before, *joined, file.purpose + ownership_note(file)});
                continue;
            }
            if (auto compared = emit::compare(file); !compared) return compared;
            if (file.drift == emit::Drift::missing || file.drift == emit::Drift::stale)
                plan.add({file.path, file.there, file.wanted, file.purpose + ownership_note(file)});
        }
    }
    return {};
}

std::string ownership_note(const emit::GeneratedFile& file) {
    return file.shared() ? " (yours, with a block of Envar's)" : " (generated)";
}

}  // namespace envar::life
