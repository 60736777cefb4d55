#include "core/emit/host_files.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/emit/native.hpp"
#include "core/order/host_order.hpp"
#include "core/search/declared.hpp"
#include "core/search/naming.hpp"
#include "core/text/names.hpp"

namespace envar::emit {
namespace {

namespace fs = std::filesystem;
using model::FileScope;
using nlohmann::json;

json loaded_values(const model::Space& space, const model::Module& module, const model::Card& card,
                   const order::Placed& placed) {
    const model::Manifest& manifest = module.manifest;
    json needs = json::array();
    for (const auto& need : placed.needs) {
        const model::Module* other = space.module(need);
        needs.push_back(
            {{"need", need}, {"same_host", other != nullptr && other->manifest.host.value == card.name.value}});
    }
    mark_ends(needs);
    const std::string& entry = manifest.entry.file.value;
    return {{"module", module.name()},
            {"module_version", module.version()},
            {"module_path", search::name_path(card, module.name())},
            {"module_folder", module.folder.filename().string()},
            {"entry", entry.empty() ? text::fill(card.entry_file, search::path_values(manifest, card)) : entry},
            {"start", manifest.entry.start.value},
            {"stop", manifest.entry.stop.value},
            {"phase", placed.phase},
            {"in_phase", {{placed.phase, true}}},
            {"module_pascal", text::in_form(module.name(), text::NameForm::pascal)},
            {"needs", needs},
            {"has_needs", std::any_of(needs.begin(), needs.end(), [](const json& n) { return n["same_host"]; })},
            {"assets", asset_values(manifest)}};
}

std::string way(const fs::path& to, const fs::path& from) { return to.lexically_relative(from).generic_string(); }

/// Cores of other hosts that are surfaced as modules of this one.
void add_fronts(json& loads, json& phases, const model::Module& module, const model::Card& card) {
    const std::string phase = search::phase_of({}, card);
    for (const auto& front : module.manifest.fronts) {
        if (front.kind != model::FrontKind::plugin || front.host.value != card.name.value) continue;
        const std::string name = front.name.value.empty() ? module.name() : front.name.value;
        phases[phase] = true;
        loads.push_back({{"module", name},
                         {"module_version", module.version()},
                         {"phase", phase},
                         {"in_phase", {{phase, true}}},
                         {"needs", json::array()},
                         {"has_needs", false},
                         {"assets", json::array()}});
    }
}

/// Whether there is anything in the workspace that the host loads: its own modules, or cores surfaced for it.
bool is_used(const model::Space& space, const model::Card& card) {
    return std::any_of(space.modules.begin(), space.modules.end(), [&](const model::Module& module) {
        const auto& fronts = module.manifest.fronts;
        return module.manifest.host.value == card.name.value ||
               std::any_of(fronts.begin(), fronts.end(),
                           [&](const model::Front& front) { return front.host.value == card.name.value; });
    });
}

class HostFiles {
  public:
    HostFiles(const model::Space& space, const model::Card& card) : space_(space), card_(card) {}

    text::Result<std::vector<GeneratedFile>> run() {
        for (const model::CardFile& file : card_.files) {
            if (file.ownership == model::Ownership::authored) continue;
            auto added = add(file);
            if (!added) return tl::unexpected(added.error());
        }
        return std::move(files_);
    }

  private:
    text::Result<void> add(const model::CardFile& file) {
        if (file.scope == FileScope::search) {
            const auto folders = search::workspace_folders(space_, card_);
            if (folders.empty()) return {};
            const fs::path path = fs::path(folders.front()) / file.path;
            return render(file, file.path, host_values(space_, card_, "", path), folders.front());
        }
        if (file.scope == FileScope::workspace) {
            if (workspace_.is_null()) workspace_ = workspace_values(space_, card_);
            return workspace_.is_null() ? text::Result<void>() : render(file, file.path, workspace_, space_.root);
        }
        if (file.scope != FileScope::target || !is_used(space_, card_)) return {};
        for (const auto& target : space_.settings.targets) {
            const std::string path = text::fill(file.path, {{"target", target.name.value}});
            json values = host_values(space_, card_, target.name.value, space_.root / path);
            if (values["loads"].empty()) continue;
            if (auto rendered = render(file, path, std::move(values), space_.root); !rendered) return rendered;
        }
        return {};
    }

    text::Result<void> render(const model::CardFile& file, const std::string& path, json values,
                              const fs::path& folder) {
        auto body = rendered(card_, file, path, std::move(values), {space_.root, folder, search_of(folder), {}});
        if (!body) return tl::unexpected(body.error());
        if (body->find_first_not_of(" \t\r\n") == std::string::npos) return {};
        GeneratedFile one{folder / path, file.purpose, ""};
        one.dialect = card_.dialect(file.dialect);
        if (file.ownership == model::Ownership::shared) one.block = card_.name.value;
        one.wanted = one.block.empty() ? with_header(*one.dialect, path, *body) : *body;
        one.name = path;
        files_.push_back(std::move(one));
        return {};
    }

    [[nodiscard]] fs::path search_of(const fs::path& otherwise) const {
        const auto folders = search::workspace_folders(space_, card_);
        return folders.empty() ? otherwise : fs::path(folders.front());
    }

    const model::Space& space_;
    const model::Card& card_;
    json workspace_;
    std::vector<GeneratedFile> files_;
};

}  // namespace

json phase_values(const model::Card& card) {
    json list = json::array();
    for (const auto& phase : card.phases) list.push_back({{"phase", phase}});
    mark_ends(list);
    return list;
}

json host_values(const model::Space& space, const model::Card& card, const std::string& target,
                 const fs::path& file) {
    json loads = json::array();
    const auto folders = search::declared_folders(space, card);
    std::string base;
    json phases = json::object();
    const bool fronts = card.host_order == model::HostOrder::planned && !target.empty();
    const resolve::Question question{&space, {}, target, ""};
    order::Order order;
    if (is_used(space, card)) order = fronts ? order::load_order(question) : order::host_order(question, card);
    for (const auto& placed : order.placed) {
        const model::Module& module = *space.module(placed.module);
        if (placed.host != card.name.value) {
            add_fronts(loads, phases, module, card);
            continue;
        }
        json item = loaded_values(space, module, card, placed);
        item["at"] = way(module.folder, file.parent_path());
        const auto* holder = search::holder_of(folders, module);
        item["below"] = holder == nullptr ? "" : way(module.folder, holder->folder);
        item["first_in_phase"] = !phases.contains(placed.phase);
        phases[placed.phase] = true;
        item["based"] = holder != nullptr && !holder->base.empty();
        if (base.empty() && holder != nullptr) base = holder->base;
        loads.push_back(std::move(item));
    }
    // Hosts that follow what is written down go through it phase by phase.
    const auto rank = [&](const json& item) {
        return std::find(card.phases.begin(), card.phases.end(), item["phase"].get<std::string>());
    };
    if (card.host_order == model::HostOrder::planned)
        std::stable_sort(loads.begin(), loads.end(), [&](const json& a, const json& b) { return rank(a) < rank(b); });
    mark_ends(loads);
    return {{"workspace", space.settings.name.value},
            {"host", card.name.value},
            {"target", target},
            {"base", base},
            {"phases", phases},
            {"card_phases", phase_values(card)},
            {"loads", loads},
            {"has_loads", !loads.empty()}};
}

text::Result<std::vector<GeneratedFile>> host_files(const model::Space& space, const model::Card& card) {
    return HostFiles(space, card).run();
}

}  // namespace envar::emit
