// The module manifest, `module.envar.toml`: the single truth about one module.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/document.hpp"
#include "core/model/fields.hpp"
#include "core/versions/requirement.hpp"
#include "core/versions/version.hpp"

namespace envar::model {

inline constexpr std::string_view manifest_name = "module.envar.toml";

/// A text and its place in the manifest.
struct Word {
    std::string value;
    text::Span span;
};

/// Words of which one must hold; a leading '!' means "not". Both lists empty: always.
struct Condition {
    std::vector<Word> platforms;
    std::vector<Word> targets;
};

enum class Stage { load, build, test };

struct Dependency {
    Word module;
    versions::Requirement versions;
    text::Span versions_span;  // empty when left out
    text::Span span;           // the head of the table
    bool is_public = false;
    Stage stage = Stage::load;
    bool optional = false;
    bool system = false;
    Condition when;
    std::string reason;
};

struct Parameter {
    std::string name;
    std::string type;
    bool required = true;
    std::string preset;
    std::string summary;
};

struct Member {
    Word name;
    std::string kind = "function";
    std::string summary;
    std::vector<Parameter> parameters;
    std::string returns;
    std::string since;
};

struct EntryPoint {
    Word file;  // empty: the card's
    Word start;
    Word stop;
    Word phase;
    std::vector<Word> after;
};

struct Manifest {
    text::Span module_span;  // the head of [module]
    Word name;
    Word version_text;
    std::optional<versions::Version> version;
    Word host;
    std::string summary;
    std::string license;
    std::vector<std::string> authors;
    std::string identity;
    std::vector<std::string> tags;
    Word host_versions;
    std::vector<Word> platforms;
    EntryPoint entry;
    std::vector<Dependency> dependencies;
    bool exports_all = false;
    std::vector<Member> members;
};

[[nodiscard]] std::span<const Field<Manifest>> manifest_fields();

/// Reads a parsed document; what is wrong in it goes to `findings`, what is fine into the manifest.
[[nodiscard]] Manifest read_manifest(const Document& document, std::vector<text::Finding>& findings);

/// Whether the condition holds. An unset platform or target (empty text) meets every condition on it.
[[nodiscard]] bool holds(const Condition& condition, std::string_view platform, std::string_view target);

[[nodiscard]] std::string_view stage_name(Stage stage);

}  // namespace envar::model
