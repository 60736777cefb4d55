#include "core/resolve/resolve.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <numeric>

#include "core/files/tree_digest.hpp"
#include "core/resolve/reasons.hpp"
#include "core/text/side_by_side.hpp"

namespace envar::resolve {
namespace {

using model::Id;
using model::Module;
using model::Space;

constexpr std::size_t most_repeats_told = 20;
constexpr std::size_t worth_a_thread = 200;  // requirements to be told

/// The request in the numbers of a universe.
class Job {
  public:
    Job(const Supply& supply, const Request& request) : request_(request), universe_(supply.table, request.setting) {
        wish_.limits = request.limits;
        wish_.demand.roots = request.roots;
        wish_.demand.pins = request.pins;
        const auto& names = supply.table.names;
        for (const LockedModule& one : request.locked) {
            const Id module = names.find(one.module);
            if (module == model::no_id) continue;
            for (const std::uint32_t row : universe_.rows_of(module))
                if (universe_.version(row) == one.version) {
                    wish_.locked.push_back(row);
                    wish_.demand.held.insert(row);
                }
        }
        for (const std::string& name : request.refresh)
            if (const Id module = names.find(name); module != model::no_id) wish_.refresh.push_back(module);
    }

    [[nodiscard]] const Universe& universe() const { return universe_; }
    [[nodiscard]] const Wish& wish() const { return wish_; }

    Resolution run() {
        Resolution resolution;
        tell_repeats(resolution);
        const Choice choice = choose(universe_, wish_);
        resolution.conflicts = choice.conflicts;
        resolution.unproven = choice.unproven;
        resolution.left_open = choice.left_open.size();
        resolution.stopped = choice.verdict == Verdict::stopped;
        if (choice.verdict == Verdict::solved) {
            select(choice, resolution);
            tell_unproven(choice, resolution);
        } else if (choice.verdict == Verdict::impossible) {
            resolution.unsolved = explain(choice.core);
            resolution.stopped = !request_.brief && resolution.unsolved->requirements.empty();
        }
        return resolution;
    }

    /// What every solution with the given versions would run into; nothing when there is one.
    [[nodiscard]] std::optional<std::vector<std::string>> against(const std::vector<Given>& givens) const {
        Demand demand = wish_.demand;
        demand.givens = givens;
        Problem problem(universe_, demand);
        if (problem.solver().solve(Decisions::free, request_.limits) != Verdict::impossible) return std::nullopt;
        const auto core = minimal_core(universe_, demand, problem.solver().core(), request_.limits);
        return reasons_for(universe_, demand, core.tags);
    }

  private:
    void tell_repeats(Resolution& resolution) const {
        std::vector<text::Finding> findings;
        for (const std::uint32_t row : universe_.repeats()) {
            const Place place = place_of(universe_.table(), row);
            text::Finding finding;
            finding.code = "EV918";
            finding.severity = text::Severity::warning;
            finding.file = place.file;
            finding.position = {place.line, 1};
            finding.message = fmt::format("{} {} stands twice", universe_.name(row), universe_.version(row));
            finding.hint = "one of the two counts; take the other one out";
            findings.push_back(std::move(finding));
        }
        text::sort_findings(findings);
        if (findings.size() > most_repeats_told) {
            findings[most_repeats_told].message =
                fmt::format("{} more versions stand twice", findings.size() - most_repeats_told);
            findings.resize(most_repeats_told + 1);
        }
        resolution.findings = std::move(findings);
    }

    void tell_unproven(const Choice& choice, Resolution& resolution) const {
        const auto tell = [&](const std::string& what) {
            text::Finding finding;
            finding.code = "EV919";
            finding.severity = text::Severity::hint;
            finding.message = fmt::format("{} may fit too: the search for them was ended after {} wrong turns", what,
                                          resolution.conflicts);
            finding.hint = fmt::format("`--steps {}` searches longer", 10 * resolution.conflicts);
            resolution.findings.push_back(std::move(finding));
        };
        if (choice.unproven != 0)
            tell(fmt::format("{} versions of {}", request_.setting.oldest_first ? "older" : "newer",
                             choice.unproven == 1 ? "one module" : fmt::format("{} modules", choice.unproven)));
        std::vector<std::string_view> names;
        for (const Id id : choice.left_open) names.push_back(universe_.table().names.text(id));
        if (!names.empty()) tell(fmt::format("optional modules ({})", fmt::join(names, ", ")));
    }

    void select(const Choice& choice, Resolution& resolution) const {
        const auto& table = universe_.table();
        std::vector<std::uint32_t> by_name(choice.rows.size());  // places in choice.rows
        std::iota(by_name.begin(), by_name.end(), 0U);
        std::sort(by_name.begin(), by_name.end(), [&](std::uint32_t a, std::uint32_t b) {
            return universe_.name(choice.rows[a]) < universe_.name(choice.rows[b]);
        });
        const auto askers = request_.brief ? Askers() : askers_of(choice.rows, by_name);
        resolution.selected.reserve(by_name.size());
        for (std::uint32_t at = 0; at < by_name.size(); ++at) {
            const std::uint32_t row = choice.rows[by_name[at]];
            const model::Row& one = table.rows[row];
            Selected selected;
            selected.module = universe_.name(row);
            selected.version = universe_.version(row);
            selected.row = row;
            selected.from = one.from;
            if (!request_.brief) {
                selected.host = table.hosts.text(one.host);
                selected.origin = table.origins[one.origin];
                selected.place = place_of(table, row);
                for (const std::uint32_t asker : askers[at])
                    selected.required_by.emplace_back(universe_.name(choice.rows[by_name[asker]]));
                if (one.digest != model::no_id)
                    for (const std::uint8_t byte : table.digests[one.digest])
                        selected.digest += fmt::format("{:02x}", byte);
            }
            resolution.selected.push_back(std::move(selected));
        }
    }

    using Askers = std::vector<std::vector<std::uint32_t>>;  // places in `by_name`, rising, each once

    /// Who asks for each of the chosen rows.
    [[nodiscard]] Askers askers_of(const std::vector<std::uint32_t>& rows,
                                   const std::vector<std::uint32_t>& by_name) const {
        const auto& table = universe_.table();
        std::vector<std::uint32_t> place_of_name(table.names.size(), no_row);
        std::map<Id, std::vector<std::uint32_t>> providers;
        for (std::uint32_t at = 0; at < by_name.size(); ++at) {
            const model::Row& row = table.rows[rows[by_name[at]]];
            place_of_name[row.module] = at;
            for (std::uint32_t i = 0; i < row.offers; ++i)
                providers[table.offers[row.first_offer + i].module].push_back(at);
        }
        Askers askers(by_name.size());
        const auto note = [&](std::uint32_t wanted, std::uint32_t asker) {
            if (wanted != asker && (askers[wanted].empty() || askers[wanted].back() != asker))
                askers[wanted].push_back(asker);
        };
        for (std::uint32_t at = 0; at < by_name.size(); ++at) {
            const model::Row& row = table.rows[rows[by_name[at]]];
            for (std::uint32_t i = row.first_need; i < row.first_need + row.needs; ++i) {
                const model::Need& need = table.needs[i];
                if (!universe_.counts(row, need)) continue;
                if (place_of_name[need.module] != no_row) {
                    note(place_of_name[need.module], at);
                } else if (const auto found = providers.find(need.module); found != providers.end()) {
                    for (const std::uint32_t provider : found->second) note(provider, at);
                }
            }
        }
        return askers;
    }

    [[nodiscard]] Unsolved explain(const std::vector<Tag>& core) const {
        Unsolved unsolved;
        if (request_.brief) return unsolved;
        const LeastCore least = minimal_core(universe_, wish_.demand, core, request_.limits, request_.work_for_least);
        const std::vector<Tag>& minimal = least.tags;
        if (minimal.empty()) return unsolved;
        unsolved.is_minimal = least.is_proven;
        const auto tell = [&] {
            unsolved.sentences = least.is_proven ? sentences_for(universe_, wish_.demand, minimal)
                                                 : brief_sentences_for(universe_, wish_.demand, minimal);
            unsolved.requirements.reserve(minimal.size());
            for (const Tag tag : minimal) unsolved.requirements.push_back(clash_of(universe_, wish_.demand, tag));
        };
        const auto advise = [&] {
            unsolved.advice = advice_for(universe_, wish_.demand, least, request_.most_advice, request_.limits);
        };
        universe_.find_intervals();
        const bool is_worth_a_thread = minimal.size() >= worth_a_thread;
        text::side_by_side(2, is_worth_a_thread ? request_.jobs : 1,
                           [&](std::size_t i) { i == 0 ? advise() : tell(); });
        return unsolved;
    }

    const Request& request_;
    Universe universe_;
    Wish wish_;
};

Place place_in(const text::Source& source, text::Span span) {
    return {source.file(), source.position(span.begin).line};
}

/// Every version of it: the workspace wants the module that it has.
Wanted own_module(const Space& space, const std::string& name) {
    Wanted wanted{name, {}, fmt::format("{} is a module of the workspace", name), "", 0, true};
    if (const Module* module = space.module(name)) {
        const Place place = place_in(module->source, module->manifest.name.span);
        wanted.file = place.file;
        wanted.line = place.line;
    } else {
        wanted.sentence = fmt::format("{} is asked for", name);
    }
    return wanted;
}

using Rows = std::map<std::string, std::uint32_t>;  // chosen, by name

/// Why this newer version was not taken. `open`: for some modules it was not found out whether a newer one would do.
std::string passed_over(const Job& job, const Request& request, const Selected& chosen, std::uint32_t row,
                        const Rows& rows, bool open) {
    const Universe& universe = job.universe();
    const auto& table = universe.table();
    const Id module = table.rows[row].module;
    if (table.rows[row].withdrawn) return fmt::format("it was withdrawn ({})", place_of(table, row).text());
    if (const auto reasons = job.against({{module, row}})) return fmt::format("{}", fmt::join(*reasons, "; "));
    const bool is_locked = std::any_of(request.locked.begin(), request.locked.end(), [&](const LockedModule& one) {
        return one.module == chosen.module && one.version == chosen.version;
    });
    if (is_locked)
        return fmt::format("the lock holds {}; `envar resolve --refresh {}` lets it move", chosen.version,
                           chosen.module);
    std::vector<Given> givens = {{module, row}};
    for (const auto& [name, other] : rows)
        if (name != chosen.module) givens.push_back({table.names.find(name), other});
    if (const auto reasons = job.against(givens))
        return fmt::format("what is needed before it keeps a newer version so: {}", fmt::join(*reasons, "; "));
    if (request.setting.oldest_first) return "the older one comes first";
    return open ? "it may fit too: the search ended before that was known" : "another choice comes first";
}

}  // namespace

std::vector<std::string> roots_of(const Space& space, std::string_view target) {
    std::vector<std::string> roots;
    if (const model::Target* found = space.target(target)) {
        for (const auto& module : found->modules) roots.push_back(module.value);
    } else {
        for (const Module& module : space.modules) roots.push_back(module.name());
    }
    roots.erase(std::unique(roots.begin(), roots.end()), roots.end());
    return roots;
}

Request request_of(const Question& question) {
    const Space& space = *question.space;
    Request request;
    request.setting.platform = question.platform;
    request.setting.target = question.target;
    request.setting.prereleases = space.settings.prereleases;
    const model::Target* target = space.target(question.target);
    for (const auto& root : question.roots.empty() ? roots_of(space, question.target) : question.roots) {
        Wanted wanted = own_module(space, root);
        if (target != nullptr && question.roots.empty()) {
            wanted.sentence = fmt::format("the target {} loads {}", target->name.value, root);
            for (const auto& word : target->modules)
                if (word.value == root) {
                    wanted.file = space.document.source.file();
                    wanted.line = space.document.source.position(word.span.begin).line;
                }
        }
        request.roots.push_back(std::move(wanted));
    }
    for (const model::Pin& pin : space.settings.pins) {
        const Place place = place_in(space.document.source, pin.versions_span);
        std::string sentence = fmt::format("the workspace pins {} to {}", pin.module.value, range_text(pin.versions));
        if (!pin.reason.empty()) sentence += fmt::format(", since {}", pin.reason);
        request.pins.push_back({pin.module.value, pin.versions, std::move(sentence), place.file, place.line, false});
    }
    return request;
}

Resolution resolve(const Supply& supply, const Request& request) { return Job(supply, request).run(); }

Resolution resolve(const Question& question) { return resolve(own_supply(*question.space), request_of(question)); }

std::vector<LockedModule> to_lock(const Resolution& resolution) {
    std::vector<LockedModule> locked;
    for (const Selected& one : resolution.selected) {
        LockedModule module{one.module, one.version, one.host, one.origin, one.digest, {}};
        if (one.from != nullptr && module.digest.empty())
            module.digest = files::tree_digest(one.from->folder, [](const std::string& name, const auto&) {
                return name == "__pycache__" || name == "build" || name == "envar-results";
            });
        locked.push_back(std::move(module));
    }
    return locked;
}

std::vector<std::string> why(const Supply& supply, const Request& request, const Resolution& resolution,
                             std::string_view module) {
    constexpr std::size_t most_newer = 5;
    std::vector<std::string> lines;
    const auto find = [&](std::string_view name) {
        return std::find_if(resolution.selected.begin(), resolution.selected.end(),
                            [&](const Selected& s) { return s.module == name; });
    };
    const auto chosen = find(module);
    if (chosen == resolution.selected.end()) return lines;
    const Job job(supply, request);
    const Universe& universe = job.universe();
    const auto& table = universe.table();
    lines.push_back(fmt::format("{} {} from {} ({})", chosen->module, chosen->version,
                                chosen->origin == "workspace" ? "the workspace" : chosen->origin,
                                chosen->place.text()));
    for (const Wanted& root : request.roots)
        if (root.module == module)
            lines.push_back(root.file.empty() ? root.sentence
                                              : fmt::format("{} ({}:{})", root.sentence, root.file, root.line));
    const Id id = table.names.find(module);
    Rows rows;
    for (const Selected& one : resolution.selected)
        for (const std::uint32_t row : universe.rows_of(table.names.find(one.module)))
            if (universe.version(row) == one.version) rows.try_emplace(one.module, row);
    for (const auto& name : chosen->required_by) {
        const model::Row& row = table.rows[rows.at(name)];
        for (std::uint32_t i = row.first_need; i < row.first_need + row.needs; ++i) {
            const model::Need& need = table.needs[i];
            if (need.module != id || !universe.counts(row, need)) continue;
            const std::string range =
                need.requirement == model::no_id ? "any" : range_text(table.requirement(need.requirement));
            lines.push_back(fmt::format("asked for by {} {}: {}{} ({})", name, universe.version(rows.at(name)), range,
                                        need.optional ? ", optional" : "",
                                        place_of(universe.table(), rows.at(name), need).text()));
        }
    }
    for (const Wanted& pin : request.pins)
        if (pin.module == module) lines.push_back(fmt::format("{} ({}:{})", pin.sentence, pin.file, pin.line));

    std::vector<std::uint32_t> newer;
    for (const std::uint32_t row : universe.rows_of(id)) {
        if (universe.version(row) == chosen->version) break;
        newer.push_back(row);
    }
    std::reverse(newer.begin(), newer.end());  // the next newer one first
    std::string last;                          // the reason told last, with the versions it was told for
    for (std::size_t i = 0; i < std::min(newer.size(), most_newer); ++i) {
        const std::string reason = passed_over(job, request, *chosen, newer[i], rows, resolution.unproven != 0);
        const std::string version(universe.version(newer[i]));
        if (reason == last) {
            lines.back().insert(lines.back().find(": "), ", " + version);
        } else {
            lines.push_back(fmt::format("not {}: {}", version, reason));
        }
        last = reason;
    }
    if (newer.size() > most_newer) lines.push_back(fmt::format("and {} newer ones", newer.size() - most_newer));
    return lines;
}

}  // namespace envar::resolve
