// What commands share: opening the workspace, carrying out plans, leaving results.
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "cli/command.hpp"
#include "core/files/plan.hpp"
#include "core/files/transaction.hpp"
#include "core/model/space.hpp"
#include "core/resolve/resolve.hpp"
#include "core/trial/trial.hpp"

namespace envar::cli {

/// The workspace that --workspace names, or the nearest above the present folder.
[[nodiscard]] text::Result<std::filesystem::path> workspace_root(const Invocation& invocation);

/// Folders with cards, nearest first: the workspace's, the user's, the shipped ones.
[[nodiscard]] std::vector<model::CardFolder> card_folders(const Invocation& invocation,
                                                          const std::optional<std::filesystem::path>& root);

/// Opens the workspace for reading. First lets a killed command's change be rolled back.
[[nodiscard]] text::Result<model::Space> open_space(const Invocation& invocation);

/// The workspace, held for writing. With --dry-run nothing is held, as nothing is written.
struct Desk {
    model::Space space;
    std::optional<files::WorkspaceLock> lock;
};
[[nodiscard]] text::Result<Desk> open_desk(const Invocation& invocation);
[[nodiscard]] text::Result<std::optional<files::WorkspaceLock>> hold(const Invocation& invocation,
                                                                     const std::filesystem::path& root);

/// Carries the plan out and shows what was written as a tree; with --dry-run shows it as a diff. `next` says
/// what to do now.
[[nodiscard]] Outcome carry_out(Invocation& invocation, const files::Plan& plan,
                                const std::optional<files::WorkspaceLock>& lock,
                                const std::vector<std::string>& next);

/// Leaves `<command>.json` and, with a table, `<command>.csv` in the results folder; prints the JSON with
/// --format json. Gives whether text is still to be printed.
[[nodiscard]] text::Result<bool> leave_results(Invocation& invocation, const std::filesystem::path& root,
                                               const std::string& command, const nlohmann::ordered_json& result,
                                               const Table* table = nullptr);
/// The same for a result that is JSON text already.
[[nodiscard]] text::Result<bool> leave_results(Invocation& invocation, const std::filesystem::path& root,
                                               const std::string& command, const std::string& json,
                                               const Table* table = nullptr);
/// A further file in the results folder; gives where it lies, as shown.
[[nodiscard]] text::Result<std::string> leave_file(Invocation& invocation, const std::filesystem::path& root,
                                                   const std::string& name, const std::string& content);

/// The question that --target and --platform ask. Fails when the workspace does not declare them.
[[nodiscard]] text::Result<resolve::Question> question_of(const Invocation& invocation, const model::Space& space);

/// How modules are tried in the real hosts: those that the words name.
[[nodiscard]] text::Result<trial::Settings> trial_settings(Invocation& invocation, model::Space& space);

/// Fails unless every name is a module of the workspace.
[[nodiscard]] text::Result<void> known_modules(const model::Space& space, const std::vector<std::string>& names);

/// The card of a name given by the user.
[[nodiscard]] text::Result<const model::Card*> known_card(const std::vector<model::Card>& cards,
                                                          const std::string& name);

/// What `--set K=V` says.
[[nodiscard]] text::Result<std::map<std::string, std::string>> settings_of(const Invocation& invocation);

/// A random UUID, version 4 of RFC 9562.
[[nodiscard]] std::string fresh_identity();

/// Lets the host itself tell its own search entries, if it is installed and its card knows how to ask. A card that
/// came with the workspace may be anybody's: nothing that it names is run but by `trial`.
void ask_host(const Invocation& invocation, model::Card& card);

/// A path as the user should read it: relative to the workspace where it lies inside.
[[nodiscard]] std::string shown(const std::string& path, const std::filesystem::path& root);

}  // namespace envar::cli
