#include "core/resolve/universe.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <tuple>

#include "core/model/space.hpp"
#include "core/versions/bounds.hpp"
#include "core/versions/ranges.hpp"

namespace envar::resolve {
namespace {

Place place_in(const model::Module& module, text::Span span, text::Span otherwise) {
    const text::Span at = span.empty() ? otherwise : span;
    return {module.source.file(), module.source.position(at.begin).line};
}

constexpr std::uint32_t of_prereleases = 1U << 31U;  // in keys

Place place_in_origin(const model::ModuleTable& table, const model::Row& row) {
    return {table.origins[row.origin], row.line};
}

}  // namespace

using model::Id;

bool Stages::count(model::Stage stage, bool of_workspace) const {
    switch (stage) {
        case model::Stage::load:
            return load;
        case model::Stage::build:
            return build;
        case model::Stage::test:
            return test || (test_of_workspace && of_workspace);
    }
    return true;
}

std::string Place::text() const {
    if (file.empty()) return {};
    return line == 0 ? file : fmt::format("{}:{}", file, line);
}

Place place_of(const model::ModuleTable& table, std::uint32_t row) {
    const model::Row& one = table.rows[row];
    if (one.from == nullptr) return place_in_origin(table, one);
    return place_in(*one.from, one.from->manifest.version_text.span, one.from->manifest.module_span);
}

Place place_of(const model::ModuleTable& table, std::uint32_t row, const model::Need& need) {
    const model::Row& one = table.rows[row];
    if (one.from == nullptr) return place_in_origin(table, one);
    const model::Dependency& d = one.from->manifest.dependencies[need.written];
    return place_in(*one.from, d.versions_span, d.module.span);
}

Place place_of(const model::ModuleTable& table, std::uint32_t row, const model::Bar& bar) {
    const model::Row& one = table.rows[row];
    if (one.from == nullptr) return place_in_origin(table, one);
    const model::Conflict& conflict = one.from->manifest.conflicts[bar.written];
    return place_in(*one.from, conflict.versions_span, conflict.module.span);
}

Universe::Universe(const model::ModuleTable& table, const Setting& setting) : table_(table), setting_(setting) {
    rank_versions();
    line_up_rows();
    note_offers();
    for (const model::Condition& condition : table_.conditions)
        holds_.push_back(model::holds(condition, setting_.platform, setting_.target));
    intervals_.resize(table_.requirement_count());
}

void Universe::rank_versions() {
    by_rank_.resize(table_.version_count());
    std::iota(by_rank_.begin(), by_rank_.end(), Id{0});
    std::sort(by_rank_.begin(), by_rank_.end(), [&](Id a, Id b) {
        const auto order = versions::compare(table_.version(a), table_.version(b));
        return order != 0 ? order < 0 : table_.version_text(a) < table_.version_text(b);
    });
    ranks_.resize(by_rank_.size());
    keys_.resize(by_rank_.size());
    for (std::uint32_t rank = 0; rank < by_rank_.size(); ++rank) {
        const Id version = by_rank_[rank];
        ranks_[version] = rank;
        keys_[version] = table_.version(version).prerelease.empty() ? rank : rank + of_prereleases;
    }
}

/// Rows by module, each module's newest first, then by origin; what is not the first of its version goes last.
void Universe::line_up_rows() {
    const std::size_t names = table_.names.size();
    first_row_.assign(names + 1, 0);
    for (const model::Row& row : table_.rows) ++first_row_[row.module + 1];
    std::partial_sum(first_row_.begin(), first_row_.end(), first_row_.begin());
    rows_.resize(table_.rows.size());
    std::vector<std::uint32_t> next(first_row_.begin(), first_row_.end() - 1);
    for (std::uint32_t row = 0; row < table_.rows.size(); ++row) rows_[next[table_.rows[row].module]++] = row;
    count_.resize(names);
    for (Id module = 0; module < names; ++module) {
        const auto begin = rows_.begin() + first_row_[module];
        const auto end = rows_.begin() + first_row_[module + 1];
        std::sort(begin, end, [&](std::uint32_t a, std::uint32_t b) {
            const model::Row &x = table_.rows[a], &y = table_.rows[b];
            const std::uint32_t rx = ranks_[x.version], ry = ranks_[y.version];
            if (rx != ry) return rx > ry;
            return std::tie(x.origin, x.fingerprint, x.line, a) < std::tie(y.origin, y.fingerprint, y.line, b);
        });
        for (auto at = begin; at != end; ++at)
            if (at != begin && table_.rows[*at].version == table_.rows[*(at - 1)].version &&
                table_.rows[*at].origin == table_.rows[*(at - 1)].origin)
                repeats_.push_back(*at);
        const auto last = std::unique(begin, end, [&](std::uint32_t a, std::uint32_t b) {
            return table_.rows[a].version == table_.rows[b].version;
        });
        count_[module] = static_cast<std::uint32_t>(last - begin);
    }
}

void Universe::note_offers() {
    if (table_.offers.empty()) return;
    for (std::uint32_t row = 0; row < table_.rows.size(); ++row)
        for (std::uint32_t i = 0; i < table_.rows[row].offers; ++i) {
            const std::uint32_t offer = table_.rows[row].first_offer + i;
            if (table_.offers[offer].module != table_.rows[row].module)
                offers_.push_back({table_.offers[offer].module, {row, offer}});
        }
    std::sort(offers_.begin(), offers_.end(), [&](const auto& a, const auto& b) {
        if (a.first != b.first) return a.first < b.first;
        const auto version = [&](const Provider& one) {
            const Id id = table_.offers[one.offer].version;
            return id == model::no_id ? 0U : ranks_[id] + 1;
        };
        if (version(a.second) != version(b.second)) return version(a.second) > version(b.second);
        const model::Row &x = table_.rows[a.second.row], &y = table_.rows[b.second.row];
        if (x.module != y.module) return table_.names.text(x.module) < table_.names.text(y.module);
        if (x.version != y.version) return ranks_[x.version] > ranks_[y.version];
        return std::tie(x.origin, x.fingerprint) < std::tie(y.origin, y.fingerprint);
    });
}

std::span<const std::uint32_t> Universe::rows_of(Id module) const {
    return {rows_.data() + first_row_[module], count_[module]};
}

std::vector<Universe::Provider> Universe::providers_of(Id module) const {
    std::vector<Provider> found;
    auto at = std::lower_bound(offers_.begin(), offers_.end(), module,
                               [](const auto& one, Id wanted) { return one.first < wanted; });
    for (; at != offers_.end() && at->first == module; ++at) {
        const auto rows = rows_of(table_.rows[at->second.row].module);
        if (std::find(rows.begin(), rows.end(), at->second.row) != rows.end()) found.push_back(at->second);
    }
    return found;
}

bool Universe::counts(const model::Row& row, const model::Need& need) const {
    return holds_[need.condition] && setting_.stages.count(need.stage, row.from != nullptr);
}

/// The rank of the first release that has these numbers or larger ones.
std::uint32_t Universe::rank_of(const versions::Numbers& numbers) const {
    const auto place =
        std::lower_bound(by_rank_.begin(), by_rank_.end(), numbers, [&](Id id, const versions::Numbers& wanted) {
            const versions::Version& version = table_.version(id);
            return version.numbers < wanted || (version.numbers == wanted && !version.prerelease.empty());
        });
    return static_cast<std::uint32_t>(place - by_rank_.begin());
}

std::vector<Universe::Interval> Universe::intervals(const versions::Requirement& requirement) const {
    const auto rank_of = [&](const versions::Version& version) {
        return static_cast<std::uint32_t>(
            std::lower_bound(by_rank_.begin(), by_rank_.end(), version,
                             [&](Id id, const versions::Version& v) { return table_.version(id) < v; }) -
            by_rank_.begin());
    };
    const versions::RangeSet set = versions::set_of(requirement, setting_.prereleases);
    std::vector<Interval> found;
    for (const bool prereleases : {false, true}) {
        const std::uint32_t shift = prereleases ? of_prereleases : 0;
        for (const versions::Range& range : prereleases ? set.prereleases() : set.releases()) {
            const std::uint32_t from = rank_of(range.least);
            const auto to = range.limit ? rank_of(*range.limit) : static_cast<std::uint32_t>(by_rank_.size());
            if (from < to) found.push_back({from + shift, to + shift});
        }
    }
    return found;
}

std::span<const Universe::Interval> Universe::intervals_of(Id requirement) const {
    static constexpr Interval everything{0, UINT32_MAX};
    if (requirement == model::no_id) return {&everything, 1};
    Known& known = intervals_[requirement];
    if (known.form == Known::Form::unknown) {
        const auto bounds =
            setting_.prereleases ? std::nullopt : versions::release_bounds(table_.requirement_text(requirement));
        if (bounds) {
            const auto all = static_cast<std::uint32_t>(by_rank_.size());
            known.interval = {rank_of(bounds->least), bounds->limit ? rank_of(*bounds->limit) : all};
            known.interval.to = std::max(known.interval.from, known.interval.to);
            known.form = Known::Form::one;
        } else {
            known.interval.from = static_cast<std::uint32_t>(several_.size());
            several_.push_back(intervals(table_.requirement(requirement)));
            known.form = Known::Form::several;
        }
    }
    if (known.form == Known::Form::one) return {&known.interval, 1};
    return several_[known.interval.from];
}

void Universe::find_intervals() const {
    for (Id requirement = 0; requirement < intervals_.size(); ++requirement)
        static_cast<void>(intervals_of(requirement));
}

bool Universe::meets(Id version, Id requirement) const { return within(keys_[version], intervals_of(requirement)); }

bool Universe::meets(Id version, const versions::Requirement& requirement) const {
    return versions::meets(table_.version(version), requirement, setting_.prereleases);
}

}  // namespace envar::resolve
