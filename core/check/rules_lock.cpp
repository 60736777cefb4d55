#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/check/rules.hpp"
#include "core/resolve/lock.hpp"
#include "core/resolve/resolve.hpp"

namespace envar::check {
namespace {

using model::Module;
using resolve::Lock;
using resolve::LockedModule;

/// The lock against what there is.
class LockCheck {
  public:
    LockCheck(const Facts& facts, const Lock& lock, Findings& findings)
        : facts_(facts),
          lock_(lock),
          findings_(findings),
          table_(facts.supply.table),
          universe_(table_, setting(facts)) {}

    void run() {
        for (const LockedModule& locked : lock_.modules) find_row(locked);
        for (const LockedModule& locked : lock_.modules)
            if (const auto row = rows_.find(locked.module); row != rows_.end()) needs_of(locked, row->second);
        for (const model::Pin& pin : facts_.space.settings.pins) pinned(pin);
        missing_modules();
    }

  private:
    static resolve::Setting setting(const Facts& facts) {
        resolve::Setting setting;
        setting.prereleases = facts.space.settings.prereleases;
        return setting;
    }

    void tell(const LockedModule& locked, std::string message) {
        findings_.push_back(lock_.source.finding("EV601", locked.span, std::move(message), "run `envar resolve`"));
    }

    void find_row(const LockedModule& locked) {
        const model::Id name = table_.names.find(locked.module);
        const auto rows = name == model::no_id ? std::span<const std::uint32_t>() : universe_.rows_of(name);
        for (const std::uint32_t row : rows)
            if (universe_.version(row) == locked.version) {
                rows_[locked.module] = row;
                return;
            }
        const Module* module = facts_.space.module(locked.module);
        if (facts_.space.is_broken(locked.module)) return;
        if (module != nullptr && locked.origin == "workspace") {
            tell(locked, fmt::format("the lock holds {} {}, the workspace has {}", locked.module, locked.version,
                                     module->version()));
        } else if (rows.empty()) {
            tell(locked, fmt::format("the lock holds `{}`, which is gone", locked.module));
        } else if (facts_.supply_is_whole) {
            tell(locked, fmt::format("the lock holds {} {}, which is gone; there is {}", locked.module,
                                     locked.version, universe_.version(rows.front())));
        }
    }

    void needs_of(const LockedModule& locked, std::uint32_t row) {
        const model::Row& one = table_.rows[row];
        for (std::uint32_t i = one.first_need; i < one.first_need + one.needs; ++i) {
            const model::Need& need = table_.needs[i];
            const auto other = rows_.find(std::string(table_.names.text(need.module)));
            if (other == rows_.end() || !universe_.counts(one, need)) continue;
            const auto version = table_.rows[other->second].version;
            if (universe_.meets(version, need.requirement)) continue;
            tell(*lock_.find(other->first), fmt::format("the lock holds {} {}, but {} {} needs {} ({})", other->first,
                                                        table_.version_text(version), locked.module, locked.version,
                                                        resolve::range_text(table_.requirement(need.requirement)),
                                                        resolve::place_of(table_, row, need).text()));
        }
    }

    void pinned(const model::Pin& pin) {
        const auto row = rows_.find(pin.module.value);
        if (row == rows_.end()) return;
        const auto version = table_.rows[row->second].version;
        if (!universe_.meets(version, pin.versions))
            tell(*lock_.find(pin.module.value),
                 fmt::format("the lock holds {} {}, but the workspace pins it to {}", pin.module.value,
                             table_.version_text(version), resolve::range_text(pin.versions)));
    }

    void missing_modules() {
        std::vector<std::string> missing;
        for (const Module& module : facts_.space.modules)
            if (lock_.find(module.name()) == nullptr &&
                (missing.empty() || missing.back() != "`" + module.name() + "`"))
                missing.push_back("`" + module.name() + "`");
        if (!missing.empty())
            findings_.push_back(lock_.source.finding(
                "EV601", {0, 1}, fmt::format("the lock does not hold {} yet", fmt::join(missing, ", ")),
                "run `envar resolve`"));
    }

    const Facts& facts_;
    const Lock& lock_;
    Findings& findings_;
    const model::ModuleTable& table_;
    resolve::Universe universe_;
    std::map<std::string, std::uint32_t> rows_;
};

}  // namespace

void lock_fits(const Facts& facts, Findings& findings) {
    const auto lock = resolve::read_lock(facts.space.root);
    if (!lock) return;
    findings.insert(findings.end(), lock->findings.begin(), lock->findings.end());
    if (lock->findings.empty()) LockCheck(facts, *lock, findings).run();
}

}  // namespace envar::check
