// The universe: all versions that there are, lined up for the choice among them.
//
// Rows of a table (core/model/module_table.hpp) become values of variables, needs become rules, each asked for only
// when the solver comes to it. Nothing depends on the order of the rows: modules and versions are gone through by
// their names and by precedence.
#pragma once

#include <cstdint>
#include <deque>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/model/module_table.hpp"
#include "core/resolve/solver.hpp"
#include "core/text/finding.hpp"

namespace envar::resolve {

/// Something asked for from outside: a root, or a pin.
struct Wanted {
    std::string module;
    versions::Requirement versions;
    std::string sentence;  // "the target viewer loads star_field"
    std::string file;      // empty: the command line
    std::size_t line = 0;
    bool everything = false;  // any version, pre-releases too
};

struct Stages {
    bool load = true;
    bool build = true;
    bool test = false;
    bool test_of_workspace = true;  // test needs of modules with a manifest count
    [[nodiscard]] bool count(model::Stage stage, bool of_workspace) const;
};

struct Setting {
    std::string platform;  // empty: conditions on platforms hold
    std::string target;    // empty: conditions on targets hold
    Stages stages;
    bool prereleases = false;
    bool oldest_first = false;
};

inline constexpr std::uint32_t no_row = UINT32_MAX;

class Universe {
  public:
    Universe(const model::ModuleTable& table, const Setting& setting);

    [[nodiscard]] const model::ModuleTable& table() const { return table_; }
    [[nodiscard]] const Setting& setting() const { return setting_; }
    /// Rows of a module that count, newest first; of several of one version the first origin's.
    [[nodiscard]] std::span<const std::uint32_t> rows_of(model::Id module) const;
    /// Rows of other modules that provide it, by their module's name, newest first: pairs of row and offer.
    struct Provider {
        std::uint32_t row;
        std::uint32_t offer;
    };
    [[nodiscard]] std::vector<Provider> providers_of(model::Id module) const;
    /// Rows that say the same module and version as an earlier one of their origin.
    [[nodiscard]] const std::vector<std::uint32_t>& repeats() const { return repeats_; }

    [[nodiscard]] bool counts(const model::Row& row, const model::Need& need) const;
    /// Whether a version meets a requirement, by numbers.
    [[nodiscard]] bool meets(model::Id version, model::Id requirement) const;
    [[nodiscard]] bool meets(model::Id version, const versions::Requirement& requirement) const;
    /// A requirement as ranges of keys: from the first one up to before the second one.
    struct Interval {
        std::uint32_t from, to;
    };
    [[nodiscard]] std::span<const Interval> intervals_of(model::Id requirement) const;
    /// Finds out all intervals, after which several threads may ask for them.
    void find_intervals() const;
    /// The intervals will be asked for soon.
    void expect(model::Id requirement) const {
        if (requirement != model::no_id) __builtin_prefetch(&intervals_[requirement]);
    }
    [[nodiscard]] static bool within(std::uint32_t key, std::span<const Interval> intervals) {
        for (const Interval& one : intervals)
            if (key - one.from < one.to - one.from) return true;
        return false;
    }
    /// The version's rank, with pre-releases apart from releases, as ranges tell them apart.
    [[nodiscard]] std::uint32_t key(model::Id version) const { return keys_[version]; }
    /// Place of the version among all, by precedence.
    [[nodiscard]] std::uint32_t rank(model::Id version) const { return ranks_[version]; }
    [[nodiscard]] std::string_view name(std::uint32_t row) const {
        return table_.names.text(table_.rows[row].module);
    }
    [[nodiscard]] std::string_view version(std::uint32_t row) const {
        return table_.version_text(table_.rows[row].version);
    }

  private:
    void rank_versions();
    void line_up_rows();
    void note_offers();
    [[nodiscard]] std::uint32_t rank_of(const versions::Numbers& numbers) const;
    [[nodiscard]] std::vector<Interval> intervals(const versions::Requirement& requirement) const;
    /// Intervals of a requirement: one of its own, or a list of them in `several_`, by the number in `from`.
    struct Known {
        enum class Form : std::uint8_t { unknown, one, several } form = Form::unknown;
        Interval interval{0, 0};
    };

    const model::ModuleTable& table_;
    Setting setting_;
    std::vector<std::uint32_t> ranks_;      // of versions
    std::vector<model::Id> by_rank_;        // versions
    std::vector<std::uint32_t> keys_;       // of versions
    std::vector<std::uint32_t> first_row_;  // of each name, in rows_; one more at the end
    std::vector<std::uint32_t> rows_;
    std::vector<std::uint32_t> count_;  // of each name: rows that count
    std::vector<std::uint32_t> repeats_;
    std::vector<std::pair<model::Id, Provider>> offers_;  // by name provided
    std::vector<bool> holds_;                             // of each condition
    mutable std::vector<Known> intervals_;                // of each requirement
    mutable std::deque<std::vector<Interval>> several_;
};

/// A place in a file for people: "shared.jsonl:12", "lua/star_field/module.envar.toml:14".
struct Place {
    std::string file;
    std::size_t line = 0;
    [[nodiscard]] std::string text() const;
    bool operator==(const Place&) const = default;
};
/// Where a row says which version it is, and where it says what it needs or cannot be with.
[[nodiscard]] Place place_of(const model::ModuleTable& table, std::uint32_t row);
[[nodiscard]] Place place_of(const model::ModuleTable& table, std::uint32_t row, const model::Need& need);
[[nodiscard]] Place place_of(const model::ModuleTable& table, std::uint32_t row, const model::Bar& bar);

}  // namespace envar::resolve
