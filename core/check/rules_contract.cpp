// A module's version against what was recorded of its contract.
#include <fmt/format.h>

#include "core/check/rules.hpp"
#include "core/files/read.hpp"
#include "core/members/record.hpp"

namespace envar::check {

void kept_promises(const Facts& facts, Findings& findings) {
    for (const auto& [module, scan] : facts.scans) {
        const std::string shown = files::shown_path(module->home / members::record_name, facts.space.root);
        const auto record = members::read_record(module->home, shown, model::schemes_of(facts.space.cards));
        const auto& version = module->manifest.version;
        if (!record || !version || !scan.readable) continue;
        if (!record->valid) {
            findings.push_back(record->source.finding("EV710", {}, "the recorded contract cannot be read",
                                                      "`envar compare --record` writes it anew"));
            continue;
        }
        const auto differences = members::since_record(*record, {&module->manifest, &scan, module->source.file()});
        if (differences.empty() || differences.front().weight == members::Weight::fix) continue;
        const auto follows = members::version_that_follows(*record->manifest.version, differences);
        if (!(*version < follows)) continue;
        const auto& worst = differences.front();
        std::size_t same = 0;
        for (const auto& one : differences) same += one.weight == worst.weight ? 1 : 0;
        findings.push_back(module->source.finding(
            "EV710", module->manifest.version_text.span,
            fmt::format("{} {} promises more than it keeps since {}: {}{}", module->name(), version->text(),
                        record->manifest.version->text(), worst.sentence,
                        same > 1 ? fmt::format(", and {} more", same - 1) : ""),
            fmt::format("{} follows; `envar compare {}` lists all of it", follows.text(), module->name())));
    }
}

}  // namespace envar::check
