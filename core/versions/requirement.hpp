// Requirements: which versions a dependency accepts.
//
//     any
//     COMPARATOR { "," COMPARATOR } { "|" COMPARATOR { "," COMPARATOR } }     "," is and, "|" is or
//     COMPARATOR = ( "=" | "!=" | "<" | "<=" | ">" | ">=" | "compatible" ) VERSION
//
// A partial version stands for all versions that begin so: `=1.2` is any 1.2.x, `>1.2` begins at 1.3.0; where
// versions have four numbers, `=1.2.3` is any 1.2.3.x. `compatible V` is at least V and below the next breaking
// version. A pre-release takes part only where a comparator of the same alternative names a pre-release of the same
// major.minor.patch.
#pragma once

#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

#include "core/versions/version.hpp"

namespace envar::versions {

enum class Operator { equal, not_equal, less, less_equal, greater, greater_equal, compatible };

struct Comparator {
    Operator op = Operator::equal;
    Version version;
    int count = 3;  // numbers written, 1 to 4
};

struct Requirement {
    std::vector<std::vector<Comparator>> alternatives;  // empty: any version
    std::string text;                                   // as written

    [[nodiscard]] bool is_any() const { return alternatives.empty(); }
};

struct RequirementError {
    std::size_t offset = 0;  // byte in the text where reading stopped
    std::string message;
    std::string hint;
};

/// Parses the grammar above; at most 64 comparators.
[[nodiscard]] tl::expected<Requirement, RequirementError> parse_requirement(std::string_view text);

/// Whether `version` meets it. With `prereleases`, pre-releases take part everywhere.
[[nodiscard]] bool meets(const Version& version, const Requirement& requirement, bool prereleases = false);

/// "star_field >=1.1, <2" → name and requirement text ("any" when only a name is given).
struct NamedRequirement {
    std::string name;
    std::string versions;
};
[[nodiscard]] NamedRequirement split_named_requirement(std::string_view text);

}  // namespace envar::versions
