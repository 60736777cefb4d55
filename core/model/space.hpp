// A workspace as it lies on the disk: its file, its modules, and the cards of their hosts.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/card.hpp"
#include "core/model/manifest.hpp"
#include "core/model/workspace_file.hpp"
#include "core/text/failure.hpp"

namespace envar::model {

struct Module {
    Manifest manifest;
    text::Source source;           // of the manifest, its name relative to the workspace
    std::filesystem::path folder;  // where its files lie, absolute
    std::filesystem::path home;    // where its manifest lies, absolute; most often the same
    std::string shown_folder;      // `folder`, relative to the workspace
    bool sound = true;             // reading the manifest found no error

    [[nodiscard]] const std::string& name() const { return manifest.name.value; }
    [[nodiscard]] std::string version() const { return manifest.version ? manifest.version->text() : "?"; }
};

/// A folder in which cards lie, and what to call it: "shipped", "user", "workspace".
struct CardFolder {
    std::filesystem::path folder;
    std::string origin;
    bool tested = false;  // its patterns were compiled before it was shipped: they are not compiled to see whether
};

struct Space {
    std::filesystem::path root;  // absolute
    Document document;           // of the workspace file
    WorkspaceFile settings;
    std::vector<Module> modules;            // by name, newest first, then folder; only those that have a name
    std::vector<std::string> broken_names;  // folder names of modules whose manifest could not be read
    std::vector<Card> cards;                // by name
    std::vector<text::Finding> findings;    // of reading all of it

    /// The module of that name; of several versions the newest.
    [[nodiscard]] const Module* module(std::string_view name) const;
    [[nodiscard]] const Card* card(std::string_view name) const;
    [[nodiscard]] bool is_broken(std::string_view name) const;
    [[nodiscard]] const Target* target(std::string_view name) const;
};

/// The nearest folder at or above `start` that has a workspace file.
[[nodiscard]] std::optional<std::filesystem::path> find_workspace(const std::filesystem::path& start);

/// Cards of all folders; of several cards of one name that of the earliest folder counts.
[[nodiscard]] std::vector<Card> load_cards(const std::vector<CardFolder>& folders, const std::filesystem::path& root,
                                           std::vector<text::Finding>& findings, unsigned jobs = 2);

/// One card from its file. `known` are those that it may build on.
[[nodiscard]] Card load_card(const std::filesystem::path& file, const std::filesystem::path& root, std::string origin,
                             const std::vector<Card>& known, std::vector<text::Finding>& findings);

/// Reads everything, the manifests with up to `jobs` threads. Fails only when the workspace file cannot be
/// read at all; every other problem is a finding.
[[nodiscard]] text::Result<Space> load_space(const std::filesystem::path& root,
                                             const std::vector<CardFolder>& card_folders, unsigned jobs);

/// A manifest outside the workspace's folders, such as one that a search entry leads to.
[[nodiscard]] std::optional<Manifest> read_foreign_manifest(const std::filesystem::path& folder);

}  // namespace envar::model
