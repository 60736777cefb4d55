// Manifests for modules that were made without Envar: what the card's [adopt] and its patterns can tell from the
// files.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

struct AdoptOrder {
    std::vector<std::filesystem::path> folders;  // absolute: modules, trees with modules in them, or modules' files
    std::string host;                            // empty: the only one whose modules look so
    std::string into;   // folder in the workspace for the manifests; empty: beside the modules' files
    bool copy = false;  // with `into`: the modules' files go there too
    std::function<std::string()> identity;  // gives fresh UUIDs
};

/// How far something that was found out about a module can be relied on: its files say so; their form tells; nothing
/// tells.
enum class Sureness { sure, likely, guess };
[[nodiscard]] std::string_view sureness_name(Sureness sureness);

struct Known {
    std::string what;  // "name", "version", "summary", "entry", "kind", "members", "needs NAME"
    std::string value;
    Sureness sureness = Sureness::sure;
    std::string by;  // "mod.conf", "the folder's name"
};

struct Adopted {
    std::string module;
    std::string folder;  // as shown
    std::string host;
    std::string version;
    std::size_t members = 0;
    std::size_t needs = 0;
    std::vector<Known> known;          // how sure each thing is
    std::vector<std::string> guessed;  // what the files did not tell: "version", "summary"
    std::vector<std::string> notes;    // what could not be understood, or is worth a look
    bool in_version_folder = false;    // hosts that know no versions see it through a view
};

struct Adoption {
    files::Plan plan;
    std::vector<Adopted> modules;
    std::vector<std::string> passed_over;  // modules of a tree that were not adopted, and why
};

/// Writes a manifest for each module and makes it known to the workspace; no other file is touched. The module keeps
/// the files that it came with: the manifest says so. Fails when a folder is no module of a known host, or of
/// several; in a tree, what has a manifest or a name that is taken is passed over.
[[nodiscard]] text::Result<Adoption> adopt_plan(const model::Space& space, const AdoptOrder& order);

}  // namespace envar::life
