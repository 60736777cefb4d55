// Checking: everything that can be known without running a host. Each rule is one function in a table; a rule
// looks at the facts and appends findings, and knows of no other rule.
#pragma once

#include <map>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/check/native_facts.hpp"
#include "core/emit/generated.hpp"
#include "core/members/scan.hpp"
#include "core/model/assets.hpp"
#include "core/model/space.hpp"
#include "core/resolve/supply.hpp"

namespace envar::check {

/// The scans of a module's [[asset]] tables, in their order.
using AssetScans = std::map<const model::Module*, std::vector<model::AssetScan>>;
[[nodiscard]] AssetScans scan_assets(const model::Space& space);

/// What rules look at. Read once, so that rules need not touch the disk more than they must.
struct Facts {
    const model::Space& space;
    emit::Survey survey;
    std::map<const model::Module*, members::Scan> scans;  // of modules whose card is known
    members::PatternsByCard patterns;                     // of their cards
    AssetScans assets;
    std::vector<NativeCode> natives;
    std::map<std::string, std::string> environment;  // variables that say where things lie on this machine
    const resolve::Supply& supply;                   // versions of modules, wherever they come from
    bool supply_is_whole = true;                     // every catalogue could be read
};

struct Rule {
    std::string_view name;     // "entry file"
    std::string_view summary;  // one line: what it looks at
    void (*run)(const Facts& facts, std::vector<text::Finding>& findings);
};

[[nodiscard]] std::span<const Rule> rules();

/// Runs all rules and adds what reading found; sorted, none twice. With module names, only findings in files
/// of these modules. Sources are scanned by `jobs` threads. `assets` takes the scans that were made.
[[nodiscard]] std::vector<text::Finding> check(const model::Space& space, const std::vector<std::string>& modules,
                                               AssetScans* assets = nullptr,
                                               const std::map<std::string, std::string>& environment = {},
                                               unsigned jobs = 1);

/// The rules for one card: patterns against their examples, templates that are there and are valid, no two
/// files at one place.
[[nodiscard]] std::vector<text::Finding> check_card(const model::Card& card);

/// What only shows when the card is used: a dry scaffold of each blueprint, and values that templates are not given.
[[nodiscard]] std::vector<text::Finding> check_blueprints(const model::Card& card);

}  // namespace envar::check
