// The contract as it was last recorded, `contract.envar.toml` beside the manifest: what the version of then promised.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/members/contract.hpp"

namespace envar::members {

inline constexpr std::string_view record_name = "contract.envar.toml";

/// As a manifest that holds only what dependants may rely on.
[[nodiscard]] std::string record_text(const State& state);

struct Record {
    text::Source source;
    model::Manifest manifest;
    bool valid = false;
};

/// Nothing when there is none. `shown` is how the file is called.
[[nodiscard]] std::optional<Record> read_record(const std::filesystem::path& home, const std::string& shown,
                                                const model::SchemeOf& scheme_of);

/// What changed since the record. Bodies are not recorded, so that what is the same for callers is no difference.
[[nodiscard]] std::vector<Difference> since_record(const Record& record, const State& now);

}  // namespace envar::members
