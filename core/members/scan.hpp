// Members and imports as they stand in a module's entry file, found by the patterns of its card.
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
    text::Span span;      // of the name
};

struct Scan {
    text::Source source;  // the entry file, relative to the workspace
    bool readable = false;
    std::vector<FoundMember> members;  // in order of the source, without internal ones
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

/// Names that the manifest declares and the source does not have, and the other way about.
struct Comparison {
    std::vector<const model::Member*> not_found;
    std::vector<const FoundMember*> not_listed;  // empty when all are exported
};
[[nodiscard]] Comparison compare(const model::Manifest& manifest, const Scan& scan);

/// What a host is expected to show of the module after loading it: found or declared, sorted.
[[nodiscard]] std::vector<std::string> expected_members(const model::Manifest& manifest, const Scan& scan);

}  // namespace envar::members
