// Choosing versions: which modules come along with the roots, at which version, and why not when it fails.
//
// supply.hpp says what there is, universe.hpp lines it up, solver.hpp searches, choose.hpp says which of all
// solutions is taken, explain.hpp tells why there is none. This header is what the rest of Envar uses.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/space.hpp"
#include "core/resolve/explain.hpp"
#include "core/resolve/lock.hpp"
#include "core/resolve/supply.hpp"
#include "core/search/search_path.hpp"

namespace envar::resolve {

/// What is asked of a workspace.
struct Question {
    const model::Space* space = nullptr;
    std::vector<std::string> roots;        // empty: all modules of the workspace
    std::string target;                    // empty: conditions on targets hold
    std::string platform;                  // empty: conditions on platforms hold
    search::Environment environment = {};  // variables that hosts would be started with
    bool optional = true;                  // optional needs bring modules along; some hosts load what is switched on
};

/// Work that goes into finding the newest versions once a solution is there: about a second.
inline constexpr std::uint64_t usual_work_for_newest = 2'000'000;
/// Of an optional module that does not fit this is nearly always found out in less.
inline constexpr std::uint64_t usual_conflicts_for_optional = 1000;

/// All that the choice depends on.
struct Request {
    std::vector<Wanted> roots;
    std::vector<Wanted> pins;
    Setting setting;
    std::vector<LockedModule> locked;  // empty: there is no lock, or it does not count
    std::vector<std::string> refresh;  // modules that need not keep their locked version
    std::size_t most_advice = 3;
    std::uint64_t work_for_least = usual_work_for_least;  // behind it an explanation may hold more than it takes
    bool brief = false;                                   // only rows, names and versions are wanted, and no reasons
    unsigned jobs = 1;                                    // threads to explain with
    Limits limits = {.proving = usual_work_for_newest, .optional = usual_conflicts_for_optional};
};

struct Selected {
    std::string module;
    std::string version;
    std::string host;
    std::string origin;                    // "workspace", or the file or folder that it comes from
    std::vector<std::string> required_by;  // modules, sorted; empty: a root only
    std::string digest;                    // of its archive, from the catalogue; empty: it tells none
    Place place;                           // where its version is told
    const model::Module* from = nullptr;   // its manifest, where it has one
    std::uint32_t row = no_row;            // of the supply's table
};

struct Resolution {
    std::vector<Selected> selected;  // by name
    std::optional<Unsolved> unsolved;
    bool stopped = false;                 // by a limit: nothing is known
    std::uint64_t conflicts = 0;          // steps that the search took
    std::size_t unproven = 0;             // modules of which it was left open whether a newer version would do
    std::size_t left_open = 0;            // optional modules of which it was left open whether they fit
    std::vector<text::Finding> findings;  // of versions that stand twice; and of what was left open
};

/// The roots that a target or, without one, the whole workspace stands for.
[[nodiscard]] std::vector<std::string> roots_of(const model::Space& space, std::string_view target);

/// The question as roots and pins with their places, for a supply of the same workspace.
[[nodiscard]] Request request_of(const Question& question);

[[nodiscard]] Resolution resolve(const Supply& supply, const Request& request);

/// The modules of the workspace alone, without a lock.
[[nodiscard]] Resolution resolve(const Question& question);

/// Why a module was chosen, as lines: who asks for it and with what; then which newer versions were passed over, and
/// because of what. None when it was not chosen.
[[nodiscard]] std::vector<std::string> why(const Supply& supply, const Request& request, const Resolution& resolution,
                                           std::string_view module);

/// What the lock is to hold. Digests of folders are asked for.
[[nodiscard]] std::vector<LockedModule> to_lock(const Resolution& resolution);

}  // namespace envar::resolve
