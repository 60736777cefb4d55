#include "core/check/check.hpp"

#include <algorithm>
#include <array>

#include "core/check/rules.hpp"
#include "core/text/side_by_side.hpp"

namespace envar::check {
namespace {

constexpr std::array table = {
    Rule{"known host", "every module's host has a card", known_host},
    Rule{"module name", "names follow the host's rule and the folder", module_name},
    Rule{"one module a name", "no two modules share a name", one_module_a_name},
    Rule{"entry file", "the entry file is there and inside the module", entry_file},
    Rule{"what entry files say", "the entry file says what its host needs to see", entry_rules},
    Rule{"values", "values of one manifest do not contradict each other", values_agree},
    Rule{"workspace lists", "nothing is listed twice in the workspace file", workspace_repeats},
    Rule{"named files", "files and folders that the manifest names are there", named_files},
    Rule{"assets", "declared folders hold assets, each once", assets},
    Rule{"host's assets", "files in the host's asset folders are such as it takes", host_assets},
    Rule{"host's order", "a host with an order of its own drops no module", host_drops},
    Rule{"schema", "schema comments point at the schema", schema_directives},
    Rule{"load phase", "the phase is one of the card's", load_phase},
    Rule{"members", "declared members against the source", members_in_source},
    Rule{"documentation", "comments speak of what is there", documentation},
    Rule{"kept promises", "a version promises no more than its contract keeps", kept_promises},
    Rule{"advised names", "names follow what the card and the workspace advise", advised_names},
    Rule{"dependencies", "every dependency is known, once, and in range", dependencies},
    Rule{"soft order", "`after` names modules that are there", soft_order},
    Rule{"conditions", "platforms and targets are declared", conditions},
    Rule{"cycles", "no modules need each other in a circle", cycles},
    Rule{"workspace names", "targets and pins name modules that are there", workspace_names},
    Rule{"phase order", "no module is needed before its phase", phase_order},
    Rule{"search folders", "search folders are there and can be held", search_folders},
    Rule{"search path", "every module is found, and found first", on_search_path},
    Rule{"views", "no module's own file hides another's in a view", hidden_in_views},
    Rule{"generated files", "what Envar wrote is up to date and untouched", generated_files},
    Rule{"includes", "what native code includes against what is declared", includes},
    Rule{"imports", "what scripts ask for against what is declared", imports},
    Rule{"system modules", "what the operating system must bring is here, in a version that will do", system_modules},
    Rule{"file lists", "code on the disk against the lists that name it", file_lists},
    Rule{"one owner", "no two native modules claim one file, name, guard, macro or namespace", one_owner},
    Rule{"old names", "no native module speaks of one that it has nothing to do with", old_names},
    Rule{"one identity", "no two modules have one identity", one_identity},
    Rule{"lock", "the lock fits the manifests", lock_fits},
};

void keep_only(const model::Space& space, const std::vector<std::string>& modules,
               std::vector<text::Finding>& findings) {
    if (modules.empty()) return;
    std::erase_if(findings, [&](const text::Finding& finding) {
        return std::none_of(modules.begin(), modules.end(), [&](const std::string& name) {
            const model::Module* module = space.module(name);
            return module != nullptr && finding.file.rfind(module->shown_folder + "/", 0) == 0;
        });
    });
}

}  // namespace

std::span<const Rule> rules() { return table; }

AssetScans scan_assets(const model::Space& space) {
    AssetScans scans;
    for (const model::Module& module : space.modules)
        for (const model::Asset& asset : module.manifest.assets)
            scans[&module].push_back(model::scan_asset(asset, module.folder));
    return scans;
}

std::vector<text::Finding> check(const model::Space& space, const std::vector<std::string>& modules,
                                 AssetScans* assets, const std::map<std::string, std::string>& environment,
                                 unsigned jobs) {
    std::vector<text::Finding> findings = space.findings;
    auto whole = resolve::supply_of(space, environment, jobs);
    if (!whole)
        findings.push_back(space.document.source.finding(
            "EV101", space.settings.origins.empty() ? text::Span() : space.settings.origins.front().catalogue.span,
            whole.error().message, whole.error().hint));
    const resolve::Supply supply = whole ? std::move(*whole) : resolve::own_supply(space);
    findings.insert(findings.end(), supply.findings.begin(), supply.findings.end());
    Facts facts{space,
                emit::survey(space, {}, false),
                {},
                {},
                scan_assets(space),
                read_native_code(space),
                environment,
                supply,
                whole.has_value()};
    for (const model::Module& module : space.modules) {
        const model::Card* card = space.card(module.manifest.host.value);
        if (card == nullptr) continue;
        facts.patterns.of(*card);
        facts.scans.try_emplace(&module);
    }
    std::vector<std::pair<const model::Module*, members::Scan*>> scans;
    for (auto& [module, scan] : facts.scans) scans.emplace_back(module, &scan);
    text::side_by_side(scans.size(), jobs, [&](std::size_t i) {
        const auto& [module, scan] = scans[i];
        const model::Card* card = space.card(module->manifest.host.value);
        *scan = members::scan(*module, *card, space.root, facts.patterns.at(*card));
    });
    for (const Rule& rule : table) rule.run(facts, findings);
    keep_only(space, modules, findings);
    text::sort_findings(findings);
    if (assets != nullptr) *assets = std::move(facts.assets);
    return findings;
}

std::vector<std::string> module_names(const model::Space& space) {
    std::vector<std::string> names;
    for (const auto& module : space.modules) names.push_back(module.name());
    return names;
}

}  // namespace envar::check
