#include "cli/workbench.hpp"

#include <fmt/format.h>

#include <random>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/views.hpp"
#include "core/files/read.hpp"
#include "core/files/write.hpp"
#include "core/search/defaults.hpp"
#include "core/text/names.hpp"

namespace envar::cli {
namespace {

namespace fs = std::filesystem;
using text::fail;
using text::FailureKind;
using text::refuse;
using text::Result;

constexpr int lock_wait_seconds = 10;

/// Shipped cards lie beside an installed program, or in the source tree above a built one.
std::optional<fs::path> shipped_cards(const fs::path& executable) {
    const fs::path folder = executable.parent_path();
    for (const fs::path& candidate : {folder / "../share/envar/hosts", folder / "hosts", folder / "../hosts",
                                      folder / "../../hosts", folder / "../../../hosts"})
        if (files::is_file(candidate / "bash" / "bash.host.toml")) return candidate.lexically_normal();
    return std::nullopt;
}

std::string change_note(const files::Change& change) {
    if (!change.after) return "removed";
    return fmt::format("{}{}", change.before ? "changed: " : "", change.purpose);
}

fs::path results_folder(const Invocation& invocation, const fs::path& root) {
    if (invocation.shared.results.empty()) return root / "envar-results";
    return (invocation.folder / invocation.shared.results).lexically_normal();
}

std::string json_text(const nlohmann::ordered_json& value) {
    return value.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

Result<model::Space> read_space(const Invocation& invocation, const fs::path& root) {
    const auto folders = card_folders(invocation, root);
    auto space = model::load_space(root, folders, invocation.shared.jobs);
    if (!space) return space;
    prefer_locked(*space);
    invocation.terminal->detail(fmt::format("workspace {}: {}, {}", root.string(),
                                            counted(space->modules.size(), "module"),
                                            counted(space->cards.size(), "card")));
    for (const auto& folder : folders)
        invocation.terminal->detail(
            fmt::format("cards ({}) are looked for in {}", folder.origin, folder.folder.string()));
    return space;
}

}  // namespace

Result<fs::path> workspace_root(const Invocation& invocation) {
    if (!invocation.shared.workspace.empty()) {
        fs::path root = (invocation.folder / invocation.shared.workspace).lexically_normal();
        if (!root.has_filename() && root.has_relative_path()) root = root.parent_path();
        if (files::is_there(root / model::workspace_file_name)) return root;
        return fail(FailureKind::wrong_usage,
                    fmt::format("`{}` is no workspace: it has no {}", root.string(), model::workspace_file_name),
                    "start one with `envar begin`");
    }
    if (auto root = model::find_workspace(invocation.folder)) return *root;
    return fail(FailureKind::wrong_usage,
                fmt::format("there is no {} here or in a folder above", model::workspace_file_name),
                "start a workspace with `envar begin`, or name one with --workspace");
}

std::vector<model::CardFolder> card_folders(const Invocation& invocation, const std::optional<fs::path>& root) {
    std::vector<model::CardFolder> folders;
    if (root) folders.push_back({*root / "hosts", "workspace"});
    std::string data = invocation.variable("XDG_DATA_HOME");
    if (data.empty() && !invocation.variable("HOME").empty()) data = invocation.variable("HOME") + "/.local/share";
    if (!data.empty()) folders.push_back({fs::path(data) / "envar" / "hosts", "user"});
    if (const auto shipped = shipped_cards(invocation.executable)) folders.push_back({*shipped, "shipped", true});
    return folders;
}

Result<model::Space> open_space(const Invocation& invocation) {
    const auto root = workspace_root(invocation);
    if (!root) return tl::unexpected(root.error());
    if (files::needs_recovery(*root)) {
        // Another command may be at work right now: then its change is seen half done at worst.
        const auto lock = files::WorkspaceLock::take(*root, 1);
        if (!lock) invocation.terminal->warn(lock.error().message);
    }
    return read_space(invocation, *root);
}

text::Result<std::map<std::string, std::string>> settings_of(const Invocation& invocation) {
    std::map<std::string, std::string> settings;
    for (const auto& setting : invocation.texts("set")) {
        const std::size_t equals = setting.find('=');
        if (equals == std::string::npos)
            return text::fail(text::FailureKind::wrong_usage, fmt::format("`{}` is no KEY=VALUE", setting),
                              "as in --set summary=\"Places the stars.\"");
        settings[setting.substr(0, equals)] = setting.substr(equals + 1);
    }
    return settings;
}

std::string fresh_identity() {
    std::random_device random;
    std::string out;
    for (int i = 0; i < 16; ++i) {
        unsigned byte = random() & 0xFFU;
        if (i == 6) byte = (byte & 0x0FU) | 0x40U;
        if (i == 8) byte = (byte & 0x3FU) | 0x80U;
        if (i == 4 || i == 6 || i == 8 || i == 10) out += '-';
        out += fmt::format("{:02x}", byte);
    }
    return out;
}

void ask_host(const Invocation& invocation, model::Card& card) {
    if (card.origin == "workspace") return;
    std::string cache = invocation.variable("XDG_CACHE_HOME");
    if (cache.empty() && !invocation.variable("HOME").empty()) cache = invocation.variable("HOME") + "/.cache";
    const fs::path folder = cache.empty() ? fs::path() : fs::path(cache) / "envar" / "search";
    search::fill_defaults(card, {invocation.variable("PATH"), folder});
}

Result<std::optional<files::WorkspaceLock>> hold(const Invocation& invocation, const fs::path& root) {
    std::optional<files::WorkspaceLock> lock;
    if (invocation.shared.dry_run) return lock;
    auto taken = files::WorkspaceLock::take(root, lock_wait_seconds);
    if (!taken) return tl::unexpected(taken.error());
    lock.emplace(std::move(*taken));
    return lock;
}

Result<Desk> open_desk(const Invocation& invocation) {
    const auto root = workspace_root(invocation);
    if (!root) return tl::unexpected(root.error());
    auto lock = hold(invocation, *root);
    if (!lock) return tl::unexpected(lock.error());
    auto space = read_space(invocation, *root);
    if (!space) return tl::unexpected(space.error());
    return Desk{std::move(*space), std::move(*lock)};
}

Outcome carry_out(Invocation& invocation, const files::Plan& plan, const std::optional<files::WorkspaceLock>& lock,
                  const std::vector<std::string>& next) {
    Terminal& terminal = *invocation.terminal;
    nlohmann::ordered_json changes = nlohmann::ordered_json::array();
    std::vector<TreeItem> items;
    for (const auto& change : plan.changes) {
        if (files::is_note(change.path, plan.root)) continue;
        const std::string path = files::shown_path(change.path, plan.root);
        if (!change.outside) items.push_back({path, change_note(change)});
        changes.push_back({{"file", path},
                           {"action", !change.after   ? "remove"
                                      : change.before ? "change"
                                                      : "write"},
                           {"purpose", change.purpose}});
    }
    if (invocation.shared.dry_run) {
        if (invocation.shared.json) {
            terminal.raw(json_text({{"dry_run", true}, {"changes", changes}, {"diff", files::plan_diff(plan)}}));
        } else {
            terminal.diff(files::plan_diff(plan));
            terminal.remark(plan.empty()
                                ? "nothing would be changed"
                                : counted(changes.size(), "file") + " would be changed; nothing was written");
        }
        return fine;
    }
    if (auto done = files::apply(plan, {invocation.command_line, invocation.time}, *lock); !done)
        return tl::unexpected(done.error());
    if (invocation.shared.json) {
        terminal.raw(json_text({{"changes", changes}}));
        return fine;
    }
    if (plan.empty()) {
        terminal.remark("nothing to change");
    } else if (!terminal.quiet()) {
        for (const auto& change : plan.changes)
            if (change.outside) terminal.line(fmt::format("{}  {}", change.path.string(), change_note(change)));
        if (!items.empty()) terminal.tree(plan.root.filename().string() + "/", items);
    }
    for (const auto& step : next) terminal.remark(step);
    return fine;
}

Result<std::string> leave_file(Invocation& invocation, const fs::path& root, const std::string& name,
                               const std::string& content) {
    const fs::path folder = results_folder(invocation, root);
    const fs::path file = folder / name;
    // What is there already stays: writing over a file waits for the disk on some file systems.
    if (!files::holds(file, content)) {
        auto done = files::make_folders(folder).and_then(
            [&](const auto&) { return files::write_file(file, content, files::Sync::none); });
        if (!done) return tl::unexpected(done.error());
    }
    return shown(file.string(), root);
}

Result<bool> leave_results(Invocation& invocation, const fs::path& root, const std::string& command,
                           const nlohmann::ordered_json& result, const Table* table) {
    return leave_results(invocation, root, command, json_text(result), table);
}

Result<bool> leave_results(Invocation& invocation, const fs::path& root, const std::string& command,
                           const std::string& json, const Table* table) {
    if (!invocation.shared.dry_run) {
        auto left = leave_file(invocation, root, command + ".json", json);
        if (left && table != nullptr) left = leave_file(invocation, root, command + ".csv", csv(*table));
        if (!left && !invocation.shared.results.empty()) return tl::unexpected(left.error());
        if (!left) invocation.terminal->warn(left.error().message + "; the result is only shown here");
    }
    if (invocation.shared.json) invocation.terminal->raw(json);
    return !invocation.shared.json;
}

Result<resolve::Question> question_of(const Invocation& invocation, const model::Space& space) {
    resolve::Question question;
    question.space = &space;
    question.target = invocation.shared.target;
    question.platform = invocation.shared.platform;
    const auto unknown = [](std::string_view what, const std::string& name, const std::vector<std::string>& known) {
        const std::string near = text::did_you_mean(name, known);
        return fail(FailureKind::wrong_usage, fmt::format("the workspace declares no {} `{}`", what, name),
                    !near.empty()   ? near
                    : known.empty() ? fmt::format("it declares no {} at all", what)
                                    : fmt::format("it declares: {}", fmt::join(known, ", ")));
    };
    std::vector<std::string> targets;
    for (const auto& target : space.settings.targets) targets.push_back(target.name.value);
    if (!question.target.empty() && space.target(question.target) == nullptr)
        return unknown("target", question.target, targets);
    std::vector<std::string> platforms;
    for (const auto& platform : space.settings.platforms) platforms.push_back(platform.value);
    if (!question.platform.empty() &&
        std::find(platforms.begin(), platforms.end(), question.platform) == platforms.end())
        return unknown("platform", question.platform, platforms);
    return question;
}

Result<void> known_modules(const model::Space& space, const std::vector<std::string>& names) {
    for (const auto& name : names) {
        if (space.module(name) != nullptr || space.is_broken(name)) continue;
        std::vector<std::string> known;
        for (const auto& module : space.modules) known.push_back(module.name());
        const std::string near = text::did_you_mean(name, known);
        return refuse(fmt::format("there is no module `{}`", name),
                      near.empty() ? "`envar modules` lists those that there are" : near);
    }
    return {};
}

Result<const model::Card*> known_card(const std::vector<model::Card>& cards, const std::string& name) {
    std::vector<std::string> names;
    for (const auto& card : cards) {
        if (card.name.value == name) return &card;
        names.push_back(card.name.value);
    }
    const std::string near = text::did_you_mean(name, names);
    return refuse(fmt::format("there is no card for the host `{}`", name),
                  near.empty() ? fmt::format("there are: {}", fmt::join(names, ", ")) : near);
}

std::string shown(const std::string& path, const fs::path& root) {
    return fs::path(path).is_absolute() ? files::shown_path(path, root) : path;
}

}  // namespace envar::cli
