// Module versions by the million: what choosing and ordering need to know of each, with every name, version and
// requirement kept once and spoken of by its number. Rows come from manifests and from catalogues.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

#include "core/model/manifest.hpp"
#include "core/model/text_pool.hpp"
#include "core/versions/requirement.hpp"

namespace envar::model {

struct Module;

/// A dependency of a row.
struct Need {
    Id module = no_id;
    Id requirement = no_id;
    Id condition = 0;  // 0: none
    Stage stage = Stage::load;
    bool is_public = false;
    bool optional = false;
    std::uint32_t written = 0;  // its index in the manifest's or the line's list
};

/// Another name that a row answers to.
struct Offer {
    Id module = no_id;
    Id version = no_id;  // no_id: none that it tells, so only `any` is met
};

/// Versions of another module that a row cannot be with.
struct Bar {
    Id module = no_id;
    Id requirement = no_id;
    std::uint32_t written = 0;
};

using Digest = std::array<std::uint8_t, 32>;
/// What 64 hexadecimal digits in lower case say; nothing for any other text.
[[nodiscard]] std::optional<Digest> digest_of(std::string_view text);

/// One version of one module.
struct Row {
    Id module = no_id;
    Id version = no_id;
    Id host = no_id;
    std::uint32_t origin = 0;  // of ModuleTable::origins
    std::uint32_t line = 0;    // in its origin; 0: it came from a manifest
    std::uint32_t first_need = 0, needs = 0;
    std::uint32_t first_offer = 0, offers = 0;
    std::uint32_t first_bar = 0, bars = 0;
    Id digest = no_id;              // of ModuleTable::digests: of its archive
    bool withdrawn = false;         // only whoever holds it already keeps it
    std::uint64_t fingerprint = 0;  // of the line's bytes, for an order that does not go by places
    const Module* from = nullptr;   // its manifest; null: it has none
};

class ModuleTable {
  public:
    ModuleTable();

    TextPool names;  // of modules
    TextPool hosts;
    std::vector<std::string> origins;  // "workspace", or a file as it was named
    std::vector<Row> rows;
    std::vector<Need> needs;
    std::vector<Offer> offers;
    std::vector<Bar> bars;
    std::vector<Digest> digests;
    std::vector<Condition> conditions;  // the first one always holds

    /// The version's number; nothing when the text is none in the scheme.
    [[nodiscard]] Id add_version(std::string_view text, versions::Scheme scheme);
    Id add_version(const versions::Version& version);
    /// The requirement's number, or what is wrong with it.
    [[nodiscard]] tl::expected<Id, versions::RequirementError> add_requirement(std::string_view text);
    Id add_condition(const Condition& condition);

    [[nodiscard]] const versions::Version& version(Id id) const { return versions_[id]; }
    [[nodiscard]] std::string_view version_text(Id id) const { return version_texts_.text(id); }
    /// Parsed anew at each call.
    [[nodiscard]] versions::Requirement requirement(Id id) const;
    [[nodiscard]] std::string_view requirement_text(Id id) const { return requirement_texts_.text(id); }
    [[nodiscard]] std::size_t requirement_count() const { return requirement_texts_.size(); }
    [[nodiscard]] std::size_t version_count() const { return versions_.size(); }

    /// Adds a module's manifest as a row of the origin. It must outlive the table.
    void add(const Module& module, std::uint32_t origin);
    /// Adds a version of which only the file is known, as an origin of its own; passed over when the text is no
    /// version.
    void add_found(std::string_view name, std::string_view version, versions::Scheme scheme, std::string_view host,
                   const std::string& file);
    /// Adds all rows of another table. Its origins come behind those that are there.
    void add(ModuleTable&& other);
    /// Makes room for so many more.
    void reserve(std::size_t more_rows, std::size_t more_needs);

  private:
    TextPool version_texts_;
    std::vector<versions::Version> versions_;
    TextPool requirement_texts_;
    TextPool condition_texts_;
};

}  // namespace envar::model
