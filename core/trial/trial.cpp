#include "core/trial/trial.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <set>

#include "core/files/read.hpp"
#include "core/files/sandbox.hpp"
#include "core/members/scan.hpp"
#include "core/order/order.hpp"
#include "core/process/run.hpp"
#include "core/search/locate.hpp"
#include "core/search/naming.hpp"
#include "core/search/session.hpp"
#include "core/text/template.hpp"
#include "core/text/utf8.hpp"
#include "core/trial/build.hpp"
#include "core/trial/report.hpp"

namespace envar::trial {
namespace {

namespace fs = std::filesystem;
using text::fail;
using text::FailureKind;
using text::Result;

constexpr std::size_t largest_report = std::size_t{16} << 20U;
constexpr std::string_view report_name = "report";
constexpr std::string_view probe_name = "probe";
constexpr std::string_view runner_name = "runner";

/// The names, and whatever they need, in the load order's own sequence.
std::set<std::string> with_needs(const order::Order& order, const std::vector<std::string>& modules) {
    std::set<std::string> wanted(modules.begin(), modules.end());
    for (auto it = order.placed.rbegin(); it != order.placed.rend(); ++it)
        if (wanted.count(it->module) != 0) wanted.insert(it->needs.begin(), it->needs.end());
    return wanted;
}

class HostRun {
  public:
    HostRun(const Settings& settings, const model::Card& card, std::vector<std::string> names)
        : settings_(settings), space_(*settings.question.space), card_(card), names_(std::move(names)) {}

    Result<HostTrial> run() {
        trial_.host = card_.name.value;
        const auto program = process::find_program(card_.programs, settings_.program_path);
        if (!program)
            return fail(FailureKind::machine_failed,
                        fmt::format("the host {} is not installed: none of {} is in PATH", card_.name.value,
                                    fmt::join(card_.programs, ", ")),
                        card_.package.empty() ? "" : fmt::format("install the package {}", card_.package));
        trial_.program = program->string();
        trial_.version = host_version(card_, *program);
        auto sandbox = files::Sandbox::make(settings_.temporary);
        if (!sandbox) return tl::unexpected(sandbox.error());
        if (settings_.keep) {
            sandbox->keep();
            trial_.folder = sandbox->folder().string();
        }
        if (auto ready = prepare(*sandbox); !ready) return tl::unexpected(ready.error());
        predict(*sandbox);
        auto outcome = start(*sandbox, *program, probe_arguments(*sandbox));
        if (!outcome) return tl::unexpected(outcome.error());
        judge(*sandbox, *outcome);
        if (settings_.tests && !card_.test_arguments.empty())
            if (auto ran = run_tests(*sandbox, *program); !ran) return tl::unexpected(ran.error());
        return std::move(trial_);
    }

  private:
    Result<void> prepare(const files::Sandbox& sandbox) const {
        for (const auto* folder : {"work", "home", "tmp"})
            if (auto made = sandbox.make_folder(folder); !made) return made;
        if (auto probe = write_script(sandbox, card_.trial_probe, probe_name); !probe) return probe;
        if (!settings_.tests || card_.test_runner.empty()) return {};
        return write_script(sandbox, card_.test_runner, runner_name);
    }

    Result<void> write_script(const files::Sandbox& sandbox, const std::string& template_file,
                              std::string_view name) const {
        auto template_text = search::read_template(card_, template_file);
        if (!template_text) return tl::unexpected(template_text.error());
        auto script = text::render(*template_text, script_values(sandbox), search::dialect_of(card_));
        if (!script) return tl::unexpected(script.error());
        return sandbox.write(name, *script);
    }

    [[nodiscard]] nlohmann::json script_values(const files::Sandbox& sandbox) const {
        nlohmann::json modules = nlohmann::json::array();
        for (const auto& name : names_) {
            const model::Module& module = *space_.module(name);
            nlohmann::json members = nlohmann::json::array();
            for (const auto& member : module.manifest.members) members.push_back({{"member", member.name.value}});
            modules.push_back({{"name", name}, {"path", search::name_path(card_, name)}, {"members", members}});
        }
        nlohmann::json known = nlohmann::json::array();
        for (const auto& module : space_.modules)
            if (module.manifest.host.value == card_.name.value)
                known.push_back({{"name", module.name()}, {"path", search::name_path(card_, module.name())}});
        nlohmann::json loaders = nlohmann::json::array();
        const auto declared = search::workspace_folders(space_, card_);
        for (const auto& file : card_.files)
            if (file.per_search() && !declared.empty())
                loaders.push_back({{"path", declared.front() + "/" + file.path}});
        nlohmann::json folders = nlohmann::json::array();
        for (const auto& folder : search::session_folders(space_, card_)) folders.push_back({{"folder", folder}});
        return {{"modules", modules},
                {"known", known},
                {"files", loaders},
                {"folders", folders},
                {"workspace", space_.settings.name.value},
                {"report", (sandbox.folder() / report_name).string()}};
    }

    [[nodiscard]] search::Environment search_environment() const {
        search::Environment environment;
        for (const auto& [name, value] : card_.trial_environment) environment[name] = value;
        if (card_.variables.empty() || card_.variables.front().own_shell_only) return environment;
        const auto& variable = card_.variables.front();
        std::string value = search::variable_value(card_, search::session_folders(space_, card_));
        if (!variable.when_unset.empty()) value += variable.separator + variable.when_unset;
        environment[variable.name] = value;
        return environment;
    }

    void predict(const files::Sandbox& sandbox) {
        std::size_t position = 0;
        for (const auto& name : names_) {
            const model::Module& module = *space_.module(name);
            ModuleTrial one;
            one.module = name;
            one.host = card_.name.value;
            one.predicted_position = ++position;
            const auto located = search::locate(name, {&space_, &card_, {}, sandbox.folder() / "work"});
            if (located.chosen) one.predicted_file = located.chosen->file;
            one.expected_members =
                members::expected_members(module.manifest, members::scan(module, card_, space_.root));
            trial_.modules.push_back(std::move(one));
        }
    }

    [[nodiscard]] std::vector<std::string> probe_arguments(const files::Sandbox& sandbox) const {
        std::vector<std::string> out;
        for (const auto& argument : card_.trial_arguments)
            out.push_back(text::fill(argument, {{"probe", (sandbox.folder() / probe_name).string()}}));
        return out;
    }

    [[nodiscard]] double time_limit() const {
        return settings_.time_limit > 0 ? settings_.time_limit : static_cast<double>(card_.trial_seconds);
    }

    [[nodiscard]] Result<process::Outcome> start(const files::Sandbox& sandbox, const fs::path& program,
                                                 std::vector<std::string> arguments) const {
        process::Command command;
        command.arguments = std::move(arguments);
        command.arguments.insert(command.arguments.begin(), program.string());
        command.folder = sandbox.folder() / "work";
        command.environment = search_environment();
        command.environment["HOME"] = (sandbox.folder() / "home").string();
        command.environment["TMPDIR"] = (sandbox.folder() / "tmp").string();
        command.environment["PATH"] = "/usr/local/bin:/usr/bin:/bin";
        command.environment["LANG"] = "C.UTF-8";
        command.time_limit_seconds = time_limit();
        return process::run(command);
    }

    Result<void> run_tests(const files::Sandbox& sandbox, const fs::path& program) {
        for (const auto& name : names_) {
            const model::Module& module = *space_.module(name);
            for (const auto& file : test_files(module, card_)) {
                const fs::path path = module.folder / file;
                TestRun test{name, files::shown_path(path, space_.root)};
                std::vector<std::string> arguments;
                for (const auto& argument : card_.test_arguments)
                    arguments.push_back(text::fill(
                        argument, {{"file", path.string()}, {"runner", (sandbox.folder() / runner_name).string()}}));
                auto outcome = start(sandbox, program, std::move(arguments));
                if (!outcome) return tl::unexpected(outcome.error());
                test.passed = outcome->exit_status == 0 && !outcome->timed_out;
                test.milliseconds = outcome->milliseconds;
                if (!test.passed) test.words = words_of(*outcome);
                trial_.tests.push_back(std::move(test));
            }
        }
        return {};
    }

    [[nodiscard]] std::string words_of(const process::Outcome& outcome) const {
        std::string words = outcome.timed_out ? fmt::format("ended by the time limit of {:g} s", time_limit())
                                              : fmt::format("exit status {}", outcome.exit_status);
        const std::string said = last_lines(outcome.errors.empty() ? outcome.output : outcome.errors);
        return said.empty() ? words : words + ": " + said;
    }

    void judge(const files::Sandbox& sandbox, const process::Outcome& outcome) {
        trial_.milliseconds = outcome.milliseconds;
        const auto report = files::read_file(sandbox.folder() / report_name, largest_report);
        bool ended = false;
        if (report)
            for (const Record& record : read_report(*report)) ended = take(record) || ended;
        if (!ended) explain_early_end(outcome);
        for (ModuleTrial& one : trial_.modules) compare(one);
    }

    /// True for the record that says the probe came to its end.
    bool take(const Record& record) {
        if (record[0] == "end") return true;
        if (record.size() < 2) return false;
        const std::string& name = record[1];
        if (record[0] == "ask") take_ask(name);
        if (record[0] == "begin") {
            underway_.push_back(name);
            last_begun_ = name;
        }
        if (record[0] == "loaded") leave(name);
        if (record[0] == "failed") underway_.clear();
        if (ModuleTrial* one = find(name)) take_of(*one, record);
        return false;
    }

    ModuleTrial* find(const std::string& name) {
        const auto found = std::find_if(trial_.modules.begin(), trial_.modules.end(),
                                        [&](const ModuleTrial& m) { return m.module == name; });
        return found == trial_.modules.end() ? nullptr : &*found;
    }

    void leave(const std::string& name) {
        const auto found = std::find(underway_.begin(), underway_.end(), name);
        underway_.erase(found, underway_.end());
    }

    /// Whoever is being loaded asks for the module: it must have said so in its manifest.
    void take_ask(const std::string& name) {
        ModuleTrial* asker = underway_.empty() ? nullptr : find(underway_.back());
        if (asker == nullptr) return;
        const auto& declared = space_.module(asker->module)->manifest.dependencies;
        const bool fine = asker->module == name || std::any_of(declared.begin(), declared.end(),
                                                               [&](const auto& d) { return d.module.value == name; });
        const std::string difference = fmt::format("loads {}, which its manifest does not declare", name);
        auto& differences = asker->differences;
        if (!fine && std::find(differences.begin(), differences.end(), difference) == differences.end())
            differences.push_back(difference);
    }

    void take_of(ModuleTrial& one, const Record& record) {
        if (record[0] == "loaded" && record.size() >= 5 && one.actual_position == 0) {
            one.actual_position = ++loaded_;
            one.picked_file = record[2];
            one.version = record[3];
            one.milliseconds = std::strtod(record[4].c_str(), nullptr);
        } else if (record[0] == "member" && record.size() >= 3) {
            if (!members::is_handle(record[2], space_.module(one.module)->manifest, card_))
                one.seen_members.push_back(record[2]);
        } else if (record[0] == "failed" && record.size() >= 3) {
            one.error = last_lines(record[2]);
        }
    }

    void explain_early_end(const process::Outcome& outcome) {
        const std::string& at = underway_.empty() ? last_begun_ : underway_.back();
        const std::string during = at.empty() ? "before it loaded anything" : fmt::format("while it loaded {}", at);
        if (outcome.timed_out) {
            trial_.trouble = fmt::format("the host was ended {} by the time limit of {:g} s", during, time_limit());
        } else {
            trial_.trouble = fmt::format("the host ended by itself {} (exit status {})", during, outcome.exit_status);
        }
        const std::string words = last_lines(outcome.errors);
        if (!words.empty()) trial_.trouble += ": " + words;
        if (outcome.output_cut) trial_.trouble += " (its output was longer than is kept)";
    }

    void compare(ModuleTrial& one) const {
        std::sort(one.seen_members.begin(), one.seen_members.end());
        one.seen_members.erase(std::unique(one.seen_members.begin(), one.seen_members.end()), one.seen_members.end());
        const auto differ = [&](std::string what) { one.differences.push_back(std::move(what)); };
        if (one.actual_position == 0) {
            if (one.error.empty()) differ("was not loaded");
            return;
        }
        if (one.picked_file != one.predicted_file)
            differ(fmt::format("the host picked {}, predicted was {}", one.picked_file,
                               one.predicted_file.empty() ? "nothing" : one.predicted_file));
        if (one.actual_position != one.predicted_position)
            differ(fmt::format("was loaded as number {}, predicted was {}", one.actual_position,
                               one.predicted_position));
        const std::string declared = space_.module(one.module)->version();
        if (!one.version.empty() && one.version != declared)
            differ(fmt::format("tells version {}, the manifest says {}", one.version, declared));
        compare_members(one);
    }

    void compare_members(ModuleTrial& one) const {
        const re2::RE2 internal(card_.internal_pattern, re2::RE2::Quiet);
        if (!card_.internal_pattern.empty() && internal.ok())
            std::erase_if(one.seen_members, [&](const std::string& m) { return re2::RE2::FullMatch(m, internal); });
        for (const auto& member : one.expected_members)
            if (!std::binary_search(one.seen_members.begin(), one.seen_members.end(), member))
                one.differences.push_back(fmt::format("`{}` is not visible after loading", member));
        for (const auto& member : one.seen_members)
            if (!std::binary_search(one.expected_members.begin(), one.expected_members.end(), member))
                one.differences.push_back(fmt::format("the host shows `{}`, which was not expected", member));
    }

    const Settings& settings_;
    const model::Space& space_;
    const model::Card& card_;
    std::vector<std::string> names_;
    HostTrial trial_;
    std::vector<std::string> underway_;  // being loaded, outermost first
    std::string last_begun_;
    std::size_t loaded_ = 0;
};

}  // namespace

bool Trial::agrees() const {
    return std::all_of(hosts.begin(), hosts.end(), [](const HostTrial& host) {
        return host.trouble.empty() &&
               std::all_of(host.modules.begin(), host.modules.end(), [](const ModuleTrial& m) { return m.agrees(); });
    });
}

bool Trial::tests_pass() const {
    return std::all_of(hosts.begin(), hosts.end(), [](const HostTrial& host) {
        return std::all_of(host.tests.begin(), host.tests.end(), [](const TestRun& test) { return test.passed; });
    });
}

std::string last_lines(std::string_view text) {
    while (!text.empty() && (text.back() == '\n' || text.back() == '\r')) text.remove_suffix(1);
    const std::size_t start = text.size() > 2000 ? text.find('\n', text.size() - 2000) : 0;
    return std::string(text.substr(start == std::string_view::npos ? text.size() - 2000 : start));
}

std::string host_version(const model::Card& card, const fs::path& program) {
    if (card.version_arguments.empty() || card.version_pattern.value.empty()) return {};
    process::Command command;
    command.arguments = {program.string()};
    command.arguments.insert(command.arguments.end(), card.version_arguments.begin(), card.version_arguments.end());
    command.folder = "/";
    command.environment = {{"LANG", "C.UTF-8"}, {"PATH", "/usr/local/bin:/usr/bin:/bin"}};
    command.input = card.version_input;
    command.time_limit_seconds = 5;
    command.output_limit = 4096;
    const auto outcome = process::run(command);
    if (!outcome) return {};
    const re2::RE2 pattern(card.version_pattern.value, re2::RE2::Quiet);
    std::string version;
    if (pattern.ok() && pattern.NumberOfCapturingGroups() > 0)
        re2::RE2::PartialMatch(outcome->output + outcome->errors, pattern, &version);
    return version;
}

std::vector<std::string> test_files(const model::Module& module, const model::Card& card) {
    std::vector<std::string> out;
    const model::FileSet& tests = module.manifest.tests;
    for (const auto& file : tests.files) out.push_back(file.value);
    if (tests.folder.value.empty()) return out;
    for (const auto& name : files::list_folder(module.folder / tests.folder.value)) {
        const std::string file = tests.folder.value + "/" + name;
        if (name.ends_with(card.extension) && files::is_file(module.folder / file) &&
            std::find(out.begin(), out.end(), file) == out.end())
            out.push_back(file);
    }
    return out;
}

Result<Trial> run_trial(const Settings& settings) {
    const model::Space& space = *settings.question.space;
    const order::Order order = order::load_order(settings.question);
    const auto wanted = with_needs(order, settings.modules);
    std::map<std::string, std::vector<std::string>> by_host;
    for (const order::Placed& placed : order.placed)
        if (settings.modules.empty() || wanted.count(placed.module) != 0)
            by_host[placed.host].push_back(placed.module);
    Trial trial;
    for (auto& [host, names] : by_host) {
        const model::Card* card = space.card(host);
        if (card != nullptr && !card->trial_steps.empty()) {
            auto built = run_build(settings, *card, names);
            if (!built) return tl::unexpected(built.error());
            trial.hosts.push_back(std::move(*built));
            continue;
        }
        if (card == nullptr || card->trial_probe.empty()) {
            for (const auto& name : names)
                trial.untried.push_back(fmt::format("{}: no trial is known for the host {}", name, host));
            continue;
        }
        auto run = HostRun(settings, *card, std::move(names)).run();
        if (!run) return tl::unexpected(run.error());
        trial.hosts.push_back(std::move(*run));
    }
    for (const auto& skipped : order.skipped)
        if (settings.modules.empty() || wanted.count(skipped.module) != 0)
            trial.untried.push_back(fmt::format("{}: {}", skipped.module, skipped.reason));
    return trial;
}

}  // namespace envar::trial
