// The module manifest, `module.envar.toml`: the single truth about one module. Its field table is in
// manifest_fields.cpp.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/document.hpp"
#include "core/model/fields.hpp"
#include "core/model/values.hpp"
#include "core/versions/requirement.hpp"
#include "core/versions/version.hpp"

namespace envar::model {

inline constexpr std::string_view manifest_name = "module.envar.toml";

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
    bool link_only = false;  // nothing of it is included
    Condition when;
    std::string reason;
};

/// What a member is called with.
struct Parameter {
    Word name;
    std::string type;
    bool required = true;
    text::Span required_span;        // empty when left out
    std::string given = "in_place";  // how it is handed over; see the field's help
    Scalar preset;
    std::string summary;

    /// Code calls `_` what it does not use: no name, and there may be several.
    [[nodiscard]] bool is_unused() const { return name.value.find_first_not_of('_') == std::string::npos; }
};

struct Member {
    Word name;
    std::string kind = "function";
    std::string summary;
    std::vector<Parameter> parameters;
    std::string returns;
    Word since;
    bool dynamic = false;  // the code makes it while it runs: it stands in no source
};

struct EntryPoint {
    Word file;  // empty: the card's
    Word start;
    Word stop;
    Word phase;
    std::vector<Word> after;
};

/// A folder of files that are not code.
struct Asset {
    Word folder;
    Word extension;  // empty: every file
    bool recursive = false;
    std::vector<Word> ignore;  // file names or paths below the folder; `*` and `?` stand for any text, one letter
    std::string summary;
};

enum class NativeKind { static_library, shared_library, headers, program, plugin };

/// Sources that are compiled only under a condition.
struct NativePart {
    text::Span span;
    Condition when;
    std::vector<Word> sources;
    std::vector<std::string> defines;
};

/// A module of compiled code. Lists that are left out are those of the folders `include` and `src`.
struct Native {
    text::Span span;  // the head of the table; empty when there is none
    NativeKind kind = NativeKind::static_library;
    std::vector<Word> public_headers;
    std::vector<Word> private_headers;
    std::vector<Word> sources;
    std::vector<NativePart> parts;
    std::string standard;
    Word umbrella;
    std::vector<Word> descriptors;  // further build systems that are written for, besides the module's host
    Pairs settings;                 // what a build of the module is told: names and values
    Pairs without_tests;            // the same, where no tests are asked for
};

enum class FrontKind { command, plugin, binding };

/// One of the forms in which a native core is surfaced.
struct Front {
    FrontKind kind = FrontKind::command;
    text::Span span;
    Word name;  // empty: the module's
    Word host;  // for a plugin or a binding
    std::vector<Word> sources;
    std::string summary;
};

/// What a value is to a native core: set once, given with each call, or what a call gives back.
enum class TunableRole { setting, input, output };

/// A value that users of the module set, give or get, declared once for every front.
struct Tunable {
    Word name;
    TunableRole role = TunableRole::setting;
    std::string type = "text";
    bool required = false;
    Scalar preset;
    std::vector<Word> values;
    Scalar least;
    Scalar most;
    std::string unit;
    std::string summary;
};

struct Provided {
    Word module;
    Word version;
};

struct Conflict {
    Word module;
    versions::Requirement versions;
    text::Span versions_span;
    std::string reason;
};

/// Where tests or examples lie.
struct FileSet {
    Word folder;
    std::vector<Word> files;
};

struct Release {
    std::vector<Word> leave_out;
    Word license_file;
};

struct Manifest {
    text::Span module_span;  // the head of [module]
    Word name;
    Word version_text;
    std::optional<versions::Version> version;
    Word host;
    std::string summary;
    Word license;
    std::vector<std::string> authors;
    std::string identity;
    std::vector<std::string> tags;
    Word folder;                   // where its files lie, relative to the manifest or absolute; empty: beside it
    bool keeps_own_files = false;  // it came with its own; Envar generates none beside them
    Word host_versions;
    std::vector<Word> platforms;
    EntryPoint entry;
    std::vector<Dependency> dependencies;
    bool exports_all = false;
    bool exports_written = false;  // the host's list of what is exported is written into the entry file
    std::vector<Member> members;
    std::vector<Asset> assets;
    Native native;
    std::vector<Front> fronts;
    std::vector<Tunable> parameters;
    std::vector<Provided> provides;
    std::vector<Conflict> conflicts;
    FileSet tests;
    FileSet examples;
    Release release;
};

[[nodiscard]] const Fields& manifest_fields();
/// The rows of [[dependency]] and [[member]].
[[nodiscard]] const Field& dependency_list();
[[nodiscard]] const Field& member_list();

/// How versions of a host's modules are written: what its card says.
using SchemeOf = std::function<versions::Scheme(std::string_view host)>;

/// Reads a parsed document; what is wrong in it goes to `findings`, what is fine into the manifest. Without
/// `scheme_of` versions are semantic.
[[nodiscard]] Manifest read_manifest(const Document& document, std::vector<text::Finding>& findings,
                                     const SchemeOf& scheme_of = nullptr);

/// Whether the condition holds. An unset platform or target (empty text) meets every condition on it.
[[nodiscard]] bool holds(const Condition& condition, std::string_view platform, std::string_view target);

[[nodiscard]] std::string_view stage_name(Stage stage);
/// The stage of that name; `load` when there is none.
[[nodiscard]] Stage stage_of(std::string_view name);

}  // namespace envar::model
