// Sets of versions as ranges, with the algebra that choosing versions needs.
//
// A set has two halves, since a pre-release takes part by other rules than a release: `>=1.1, <2 | =3` is the
// releases [1.1, 2) and [3, 4) and no pre-release; `>=1.0.0-rc.1` is the releases from 1.0.0 on and the pre-releases
// of 1.0.0 from rc.1 on. Each half is kept in normal form: half-open ranges in order that neither touch nor overlap.
// Half-open does for everything, since each version has a next one of its kind: behind release 1.2.3 comes 1.2.4
// (1.2.3.1 where there are four numbers), behind pre-release 1.0.0-rc.1 comes 1.0.0-rc.1.0. Two sets are equal when
// they hold the same versions.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/versions/requirement.hpp"

namespace envar::versions {

/// From `least`, which is in it, to `limit`, which is not; nothing: without end.
struct Range {
    Version least;
    std::optional<Version> limit;
    bool operator==(const Range& other) const;
};

class RangeSet {
  public:
    /// No version, not even a pre-release.
    RangeSet() = default;
    /// Every version, pre-releases too.
    [[nodiscard]] static RangeSet all();
    /// Just this one.
    [[nodiscard]] static RangeSet only(const Version& version);

    [[nodiscard]] bool empty() const { return releases_.empty() && prereleases_.empty(); }
    [[nodiscard]] bool contains(const Version& version) const;
    [[nodiscard]] bool contains(const RangeSet& inner) const;
    [[nodiscard]] const std::vector<Range>& releases() const { return releases_; }
    [[nodiscard]] const std::vector<Range>& prereleases() const { return prereleases_; }

    /// What is in both; what is in either; what is not in it.
    [[nodiscard]] RangeSet operator&(const RangeSet& other) const;
    [[nodiscard]] RangeSet operator|(const RangeSet& other) const;
    [[nodiscard]] RangeSet operator~() const;
    bool operator==(const RangeSet&) const = default;

  private:
    friend RangeSet set_of(const Requirement& requirement, bool prereleases);
    std::vector<Range> releases_;
    std::vector<Range> prereleases_;
};

/// What meets the requirement. With `prereleases`, they take part everywhere.
[[nodiscard]] RangeSet set_of(const Requirement& requirement, bool prereleases = false);

/// The releases that meet the requirement, in normal form; none when nothing does.
[[nodiscard]] std::vector<Range> ranges_of(const Requirement& requirement);

/// The numbers without zeros at the end: 1.2.0 → "1.2", 0.0.0 → "0".
[[nodiscard]] std::string short_text(const Version& version);

}  // namespace envar::versions
