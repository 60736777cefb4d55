// The manifest of a module that was made without Envar, as far as its files tell it.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/life/adopt.hpp"
#include "core/life/adopt_facts.hpp"
#include "core/life/adopt_find.hpp"
#include "core/life/adopt_imports.hpp"
#include "core/life/adopt_native.hpp"
#include "core/members/scan.hpp"

namespace envar::life {

/// A module on its way, with what its files tell.
struct Taken {
    Foreign from;
    std::filesystem::path root;  // the folder that was named, or the one that the module lies in
    std::string reads;           // of a module that gets an entry file: what that reads in; empty: nothing
    std::string entry_text;
    Told told;
    std::string name;
    std::string name_by;              // the file that tells it; empty: none does
    std::string beside = {};          // the version that its folder is called like, beside others; empty: it is not
    std::string key = {};             // its name, with its version where others have the name
    std::filesystem::path home = {};  // the folder that is called like it: its own, or the one around that
};

/// What the modules around it are for it.
struct Around {
    const HeaderOwners& owners;
    const std::vector<Loaded>& loaded;              // what its code loads of them
    const std::vector<std::string>& loaded_later;   // of that, what would make a circle
    std::function<bool(const std::string&)> knows;  // whether there is a module of that name for its host
};

struct WithEntry {
    model::Manifest manifest;
    std::optional<std::string> entry_text;  // of an entry file that is to be written
};

/// Fills in the manifest, but for where it lies, and says in `adopted` how sure each thing is. Fails when the
/// template of an entry file cannot be rendered.
[[nodiscard]] text::Result<WithEntry> manifest_of(const Taken& taken, const Around& around,
                                                  const members::Patterns& patterns, const model::Space& space,
                                                  Adopted& adopted);

}  // namespace envar::life
