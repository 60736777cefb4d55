#include "core/versions/ranges.hpp"

#include <algorithm>

#include "core/versions/scan.hpp"

namespace envar::versions {
namespace {

using Ranges = std::vector<Range>;
using Limit = std::optional<Version>;  // nothing: behind all versions

Version release_of(const Version& version) {
    Version out;
    out.numbers = version.numbers;
    out.count = 4;
    return out;
}

/// The lowest pre-release of these numbers, before which no other one of them lies.
Version first_prerelease(const Version& version) {
    Version out = release_of(version);
    out.count = 3;
    out.prerelease = {"0"};
    return out;
}

Limit behind(const Version& version, int count) {
    const auto numbers = versions::behind(version.numbers, count);
    if (!numbers) return std::nullopt;
    Version out;
    out.numbers = *numbers;
    out.count = 4;
    return out;
}

bool is_less(const Limit& a, const Limit& b) {
    if (!a) return false;
    return !b || compare(*a, *b) < 0;
}

Ranges both(const Ranges& a, const Ranges& b) {
    Ranges out;
    for (auto x = a.begin(), y = b.begin(); x != a.end() && y != b.end();) {
        Range range{compare(x->least, y->least) < 0 ? y->least : x->least,
                    is_less(x->limit, y->limit) ? x->limit : y->limit};
        if (is_less(range.least, range.limit)) out.push_back(std::move(range));
        is_less(x->limit, y->limit) ? ++x : ++y;
    }
    return out;
}

Ranges either(Ranges all, const Ranges& more) {
    all.insert(all.end(), more.begin(), more.end());
    std::sort(all.begin(), all.end(), [](const Range& a, const Range& b) { return compare(a.least, b.least) < 0; });
    Ranges joined;
    for (Range& range : all) {
        if (joined.empty() || is_less(joined.back().limit, range.least)) {
            joined.push_back(std::move(range));
        } else if (is_less(joined.back().limit, range.limit)) {
            joined.back().limit = std::move(range.limit);
        }
    }
    return joined;
}

/// Everything of a half but these; `first` is its lowest version.
Ranges others(const Ranges& ranges, const Version& first) {
    Ranges out;
    Limit from = first;
    for (const Range& range : ranges) {
        if (is_less(from, range.least)) out.push_back({*from, range.least});
        from = range.limit;
        if (!from) return out;
    }
    out.push_back({*from, std::nullopt});
    return out;
}

/// A place between versions, and what it cuts each half at.
struct Cut {
    Limit release;
    Limit prerelease;
};

/// Before everything that begins with these numbers, pre-releases too.
Cut cut_before(const Limit& numbers) {
    if (!numbers) return {};
    return {release_of(*numbers), first_prerelease(*numbers)};
}

/// Right before the version itself, as precedence goes.
Cut cut_at(const Version& version) {
    if (!version.prerelease.empty()) return {release_of(version), version};
    const Limit next = behind(version, 3);
    return {release_of(version), next ? Limit(first_prerelease(*next)) : std::nullopt};
}

/// Right behind the version and, where it is no pre-release, whatever begins with its numbers.
Cut cut_behind(const Version& version, int count) {
    if (version.prerelease.empty()) return cut_before(behind(version, count));
    Version next = version;
    next.build.clear();
    next.prerelease.emplace_back("0");
    return {release_of(version), next};
}

struct Halves {
    Ranges releases;
    Ranges prereleases;
};

const Version& first_release() {
    static const Version version = release_of({});
    return version;
}
const Version& lowest_prerelease() {
    static const Version version = first_prerelease({});
    return version;
}

Ranges between(const Limit& least, const Limit& limit) {
    return is_less(least, limit) ? Ranges{{*least, limit}} : Ranges{};
}

Halves between(const Cut& least, const Cut& limit) {
    return {between(least.release, limit.release), between(least.prerelease, limit.prerelease)};
}

Halves halves_of(const Comparator& comparator) {
    const Version& version = comparator.version;
    const bool partial = comparator.count < 3;
    const Cut start = {first_release(), lowest_prerelease()};
    const Cut first = partial ? cut_before(version) : cut_at(version);
    const Cut next = cut_behind(version, comparator.count);
    switch (comparator.op) {
        case Operator::equal:
            return between(first, next);
        case Operator::not_equal: {
            const Halves in = between(first, next);
            return {others(in.releases, first_release()), others(in.prereleases, lowest_prerelease())};
        }
        case Operator::less:
            return between(start, first);
        case Operator::less_equal:
            return between(start, next);
        case Operator::greater:
            return between(next, {});
        case Operator::greater_equal:
            return between(first, {});
        case Operator::compatible:
            return between(first, cut_before(behind(version, breaking_count(version.numbers, comparator.count))));
    }
    return {};
}

/// The pre-releases of the numbers that the comparators name a pre-release of.
Ranges named_prereleases(const std::vector<Comparator>& group) {
    Ranges out;
    for (const Comparator& comparator : group)
        if (!comparator.version.prerelease.empty())
            out = either(std::move(out), between(first_prerelease(comparator.version),
                                                 cut_before(behind(comparator.version, 3)).prerelease));
    return out;
}

}  // namespace

bool Range::operator==(const Range& other) const {
    return compare(least, other.least) == 0 && !is_less(limit, other.limit) && !is_less(other.limit, limit);
}

RangeSet RangeSet::all() { return ~RangeSet(); }

RangeSet RangeSet::only(const Version& version) {
    RangeSet set;
    Ranges& half = version.prerelease.empty() ? set.releases_ : set.prereleases_;
    Version next = version;
    next.prerelease.emplace_back("0");
    half = {{version, version.prerelease.empty() ? behind(version, 4) : Limit(next)}};
    return set;
}

bool RangeSet::contains(const Version& version) const {
    const Ranges& half = version.prerelease.empty() ? releases_ : prereleases_;
    const auto above = std::upper_bound(half.begin(), half.end(), version, [](const Version& v, const Range& range) {
        return compare(v, range.least) < 0;
    });
    return above != half.begin() && is_less(version, std::prev(above)->limit);
}

bool RangeSet::contains(const RangeSet& inner) const { return (*this & inner) == inner; }

RangeSet RangeSet::operator&(const RangeSet& other) const {
    RangeSet out;
    out.releases_ = both(releases_, other.releases_);
    out.prereleases_ = both(prereleases_, other.prereleases_);
    return out;
}

RangeSet RangeSet::operator|(const RangeSet& other) const {
    RangeSet out;
    out.releases_ = either(releases_, other.releases_);
    out.prereleases_ = either(prereleases_, other.prereleases_);
    return out;
}

RangeSet RangeSet::operator~() const {
    RangeSet out;
    out.releases_ = others(releases_, first_release());
    out.prereleases_ = others(prereleases_, lowest_prerelease());
    return out;
}

RangeSet set_of(const Requirement& requirement, bool prereleases) {
    RangeSet set;
    const Ranges every_release = {{first_release(), std::nullopt}};
    const Ranges every_prerelease = {{lowest_prerelease(), std::nullopt}};
    if (requirement.is_any()) {
        set.releases_ = every_release;
        if (prereleases) set.prereleases_ = every_prerelease;
        return set;
    }
    for (const auto& alternative : requirement.alternatives) {
        Halves one = {every_release, prereleases ? every_prerelease : named_prereleases(alternative)};
        for (const Comparator& comparator : alternative) {
            const Halves of_one = halves_of(comparator);
            one.releases = both(one.releases, of_one.releases);
            one.prereleases = both(one.prereleases, of_one.prereleases);
        }
        set.releases_ = either(std::move(set.releases_), one.releases);
        set.prereleases_ = either(std::move(set.prereleases_), one.prereleases);
    }
    return set;
}

std::vector<Range> ranges_of(const Requirement& requirement) { return set_of(requirement).releases(); }

std::string short_text(const Version& version) {
    std::size_t count = version.numbers.size();
    while (count > 1 && version.numbers.at(count - 1) == 0) --count;
    std::string out;
    for (std::size_t i = 0; i < count; ++i) out += (i == 0 ? "" : ".") + std::to_string(version.numbers.at(i));
    return out;
}

}  // namespace envar::versions
