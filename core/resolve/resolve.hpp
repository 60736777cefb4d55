// Choosing versions: which modules come along with the roots, at which version, and why not when it fails.
//
// The universe is the workspace: one version of each module. The choice is therefore the closure of the roots
// over their required dependencies, and the work lies in checking every requirement and telling the reason. Where a
// host goes by versions itself, its own rule is followed: the highest version on its search path that meets every
// requirement is what it will load, also when it lies outside the workspace.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/space.hpp"
#include "core/search/search_path.hpp"

namespace envar::resolve {

inline constexpr std::string_view lock_name = "lock.envar.toml";

struct Question {
    const model::Space* space = nullptr;
    std::vector<std::string> roots;        // empty: all modules of the workspace
    std::string target;                    // empty: conditions on targets hold
    std::string platform;                  // empty: conditions on platforms hold
    search::Environment environment = {};  // variables that hosts would be started with
};

struct Selected {
    std::string module;
    std::string version;
    std::string host;
    std::string origin;                    // "workspace", or the file that the host finds
    std::vector<std::string> required_by;  // modules, sorted; empty: a root only
};

/// A requirement that takes part in the failure.
struct Clash {
    std::string module;   // who asks
    std::string version;  // its version
    std::string requires_module;
    std::string versions;  // the range asked for
    std::string file;
    std::size_t line = 0;
};

struct Unsolved {
    std::vector<std::string> sentences;  // plain, each with its place
    std::vector<Clash> requirements;
};

struct Resolution {
    std::vector<Selected> selected;  // by name
    std::optional<Unsolved> unsolved;
};

/// The roots that a target or, without one, the whole workspace stands for.
[[nodiscard]] std::vector<std::string> roots_of(const model::Space& space, std::string_view target);

[[nodiscard]] Resolution resolve(const Question& question);

/// "1.1.4, asked for by star_field 1.2.0 (lua/star_field/module.envar.toml:14: >=1.1, <2)": why a module was
/// chosen, as lines.
[[nodiscard]] std::vector<std::string> why(const Question& question, const Resolution& resolution,
                                           std::string_view module);

/// The lock file's text: one table a module, sorted by name.
[[nodiscard]] std::string lock_text(const Resolution& resolution);

struct LockedModule {
    std::string module;
    std::string version;
    text::Span span;  // the version's
    std::string origin;
};
struct Lock {
    text::Source source;
    std::vector<LockedModule> modules;
};

/// The lock of the workspace, or nothing when there is none or it cannot be read as one.
[[nodiscard]] std::optional<Lock> read_lock(const std::filesystem::path& root);

}  // namespace envar::resolve
