// Members as they stand in a module's entry file and in the parts that its card knows, found by patterns.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "core/model/space.hpp"

namespace envar::members {

struct FoundMember {
    std::string name;
    std::string kind;
    std::size_t line = 0;
    std::vector<std::string> parameters;
    std::string summary;  // first line of the comment above
    text::Span span;      // of the name, in `file`
    std::string file;     // relative to the workspace
};

struct Scan {
    text::Source source;  // the entry file, relative to the workspace
    bool readable = false;
    std::vector<text::Source> parts;   // further files that bring members
    std::vector<FoundMember> members;  // in order of the sources, without internal ones

    [[nodiscard]] const text::Source& source_of(const FoundMember& member) const;
};

/// The card's patterns, compiled: make one for all modules of a host.
class Patterns {
  public:
    explicit Patterns(const model::Card& card);
    Patterns(Patterns&&) noexcept;
    Patterns& operator=(Patterns&&) noexcept;
    ~Patterns();

    struct Compiled;
    [[nodiscard]] const Compiled& compiled() const { return *compiled_; }

  private:
    std::unique_ptr<Compiled> compiled_;
};

/// Where the module's entry file lies.
[[nodiscard]] std::filesystem::path entry_file(const model::Module& module, const model::Card& card);

[[nodiscard]] Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root);
[[nodiscard]] Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root,
                        const Patterns& patterns);

/// Whether the name is only what the module is loaded by, and no member of it.
[[nodiscard]] bool is_handle(const std::string& name, const model::Manifest& manifest, const model::Card& card);

/// Names that the manifest declares and the source does not have, and the other way about.
struct Comparison {
    std::vector<const model::Member*> not_found;
    std::vector<const FoundMember*> not_listed;  // empty when all are exported
};
[[nodiscard]] Comparison compare(const model::Manifest& manifest, const Scan& scan);

/// What a host is expected to show of the module after loading it: found or declared, sorted.
[[nodiscard]] std::vector<std::string> expected_members(const model::Manifest& manifest, const Scan& scan);

}  // namespace envar::members
