// Why there is no solution, in sentences, and what would help.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/resolve/choose.hpp"

namespace envar::resolve {

/// A requirement that takes part in the failure.
struct Clash {
    std::string module;   // who asks; empty: it is asked for from outside
    std::string version;  // its version
    std::string requires_module;
    std::string versions;  // the range asked for, or that it cannot be with
    std::string kind;      // "need", "optional", "conflict", "root", "pin", "given"
    Place place;
};

/// A change after which there is a solution: it was tried.
struct Advice {
    std::string change;  // "relax": ask for `versions` instead; "drop": ask for nothing
    std::string module;  // who asks; empty: a root or a pin
    std::string version;
    std::string requires_module;
    std::string versions;
    std::string kind;  // as in Clash
    std::string sentence;
    Place place;
};

struct Unsolved {
    std::vector<std::string> sentences;       // from what is asked for to the contradiction, each with its place
    std::vector<Clash> requirements;          // each is needed: without any one of them the rest can be met; those of
                                              // modules first, by name and version
    std::vector<std::vector<Advice>> advice;  // each entry by itself leads to a solution, with all its changes
    bool is_minimal = true;                   // false: the search for the fewest requirements was given up
};

/// Requirements that cannot all be met.
struct LeastCore {
    std::vector<Tag> tags;  // none: the search was stopped from outside
    bool is_proven = true;  // none of them can be left out; false: finding that out would have taken too long
};

inline constexpr std::uint64_t usual_work_for_least = 10'000'000;  // some seconds

/// The requirements of a core from which none can be left out. The problem with these alone has no solution.
[[nodiscard]] LeastCore minimal_core(const Universe& universe, const Demand& demand, const std::vector<Tag>& core,
                                     const Limits& limits, std::uint64_t most_work = usual_work_for_least);

/// Sentences for a minimal core, from the roots on.
[[nodiscard]] std::vector<std::string> sentences_for(const Universe& universe, const Demand& demand,
                                                     const std::vector<Tag>& core);

/// For a core that may hold more than it takes: only what is asked for, and how much takes part.
[[nodiscard]] std::vector<std::string> brief_sentences_for(const Universe& universe, const Demand& demand,
                                                           const std::vector<Tag>& core);

[[nodiscard]] Clash clash_of(const Universe& universe, const Demand& demand, Tag tag);

/// The smallest changes of requirements that lead to a solution, at most `most` of them.
[[nodiscard]] std::vector<std::vector<Advice>> advice_for(const Universe& universe, const Demand& demand,
                                                          const LeastCore& core, std::size_t most,
                                                          const Limits& limits);

/// "star_field 1.0.0 to 1.2.0 and 1.4.0"; the rows are of one module.
[[nodiscard]] std::string versions_text(const Universe& universe, const std::vector<std::uint32_t>& rows);

[[nodiscard]] std::string range_text(const versions::Requirement& requirement);

}  // namespace envar::resolve
