// Members as they stand in a module's entry file and in the parts that its card knows, found by patterns.
#pragma once

#include <re2/re2.h>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/model/space.hpp"

namespace re2 {
class RE2;
}

namespace envar::members {

struct FoundParameter {
    std::string name;
    std::string type;     // as it is written, or documented; empty: not told
    std::string preset;   // its default as it is written; empty: none
    std::string summary;  // from the documentation
    bool required = true;
    bool named = false;  // given by name only
    bool rest = false;   // it takes whatever is left
};

/// As a manifest says it.
[[nodiscard]] std::string given(const FoundParameter& parameter);

struct FoundMember {
    std::string name;
    std::string kind;
    std::size_t line = 0;
    std::vector<FoundParameter> parameters;
    bool tells_parameters = false;  // the source says which there are; else none are known
    bool tells_defaults = false;    // and which of them may be left out
    bool has_unnamed = false;       // of some it tells the type only, and these are not among them
    std::string summary;            // first sentence of its documentation
    std::string documentation;      // all of it, without its marks
    std::string description;        // what it says besides the summary, parameters and what is returned
    std::string returns;            // what it says is returned
    std::vector<std::string> told;  // parameters that it documents and that are not there
    text::Span span;                // of the name, in `file`
    text::Span whole;               // of the definition's statement as far as the pattern goes
    text::Span extent;              // of all of it: what belongs to its head, and its body
    std::size_t top = 0;            // where the comment above it begins; else as `extent`
    std::string owner;              // the table that it is put into, as it is written; empty: none
    std::string scope;              // the namespace that it is defined in, from the outermost one; empty: none
    bool nested = false;            // it is defined in a block, such as a branch
    bool only_listed = false;       // it counts where a list of exports names it only
    std::string file;               // relative to the workspace
};

struct Scan {
    text::Source source;  // the entry file, relative to the workspace
    bool readable = false;
    const model::Card* card = nullptr;  // whose language it is in; null: nothing was scanned
    bool of_headers = false;            // of a native module: `parts` are its public headers, there is no entry file
    std::vector<text::Source> parts;    // further files that bring members
    std::vector<FoundMember> members;   // in order of the sources, without internal ones

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

/// Those of each card that is asked for, made once.
class PatternsByCard {
  public:
    const Patterns& of(const model::Card& card) { return made_.try_emplace(&card, card).first->second; }
    /// Of a card that was asked for before; several threads may do that.
    [[nodiscard]] const Patterns& at(const model::Card& card) const { return made_.at(&card); }

  private:
    std::map<const model::Card*, Patterns> made_;
};

/// Tells names that are nobody else's business, as the card has it.
class InternalNames {
  public:
    explicit InternalNames(const model::Card& card);
    InternalNames(InternalNames&&) noexcept;
    InternalNames& operator=(InternalNames&&) noexcept;
    ~InternalNames();
    [[nodiscard]] bool has(std::string_view name) const;

  private:
    std::unique_ptr<re2::RE2> pattern_;  // null: there are none
};

/// The files of the module that are a member each, which they are called like; its entry file among them only where
/// the manifest declares a member of that name.
[[nodiscard]] std::vector<std::filesystem::path> member_files(const model::Module& module, const model::Card& card);

/// Where the module's entry file lies.
[[nodiscard]] std::filesystem::path entry_file(const model::Module& module, const model::Card& card);

[[nodiscard]] Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root);
/// `entry_text`: what the entry file will say, where it is not there yet.
[[nodiscard]] Scan scan(const model::Module& module, const model::Card& card, const std::filesystem::path& root,
                        const Patterns& patterns, std::optional<std::string> entry_text = std::nullopt);

/// Whether the name is only what the module is loaded by, and no member of it.
[[nodiscard]] bool is_handle(const std::string& name, const model::Manifest& manifest, const model::Card& card);

/// Names that the manifest declares and the source does not have, and the other way about.
struct Comparison {
    std::vector<const model::Member*> not_found;
    std::vector<const FoundMember*> not_listed;  // empty when all are exported
    struct Different {
        const model::Member* declared;
        const FoundMember* found;
    };
    std::vector<Different> differently_called;  // other parameters, or in another order
};
/// Whether the manifest tells of parameters, and they are not those in the source.
[[nodiscard]] bool is_called_differently(const model::Member& declared, const FoundMember& found);
/// "magnitude, epoch": what it can be called with by name.
[[nodiscard]] std::vector<std::string> parameter_names(const FoundMember& member);
[[nodiscard]] std::vector<std::string> parameter_names(const model::Member& member);
[[nodiscard]] Comparison compare(const model::Manifest& manifest, const Scan& scan);
/// Whether all that is found counts as exported: where the manifest says so, and of native modules, whose public
/// headers are the list.
[[nodiscard]] bool exports_all(const model::Manifest& manifest, const Scan& scan);

/// What a host is expected to show of the module after loading it: found or declared, sorted.
[[nodiscard]] std::vector<std::string> expected_members(const model::Manifest& manifest, const Scan& scan);

}  // namespace envar::members
