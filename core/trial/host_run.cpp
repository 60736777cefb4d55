#include "core/trial/host_run.hpp"

#include <fmt/format.h>

#include <map>
#include <nlohmann/json.hpp>
#include <utility>

#include "core/emit/host_files.hpp"
#include "core/files/read.hpp"
#include "core/files/sandbox.hpp"
#include "core/members/scan.hpp"
#include "core/order/order.hpp"
#include "core/process/port.hpp"
#include "core/process/run.hpp"
#include "core/search/declared.hpp"
#include "core/search/locate.hpp"
#include "core/search/naming.hpp"
#include "core/search/session.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"
#include "core/trial/build.hpp"
#include "core/trial/judge.hpp"

namespace envar::trial {
namespace {

namespace fs = std::filesystem;
using text::fail;
using text::FailureKind;
using text::Result;

constexpr std::size_t largest_report = std::size_t{16} << 20U;
constexpr std::string_view probe_name = "probe";
constexpr std::string_view runner_name = "runner";

class HostRun {
  public:
    HostRun(const Settings& settings, const model::Card& card, std::vector<std::vector<std::string>> sequences)
        : settings_(settings),
          space_(*settings.question.space),
          card_(card),
          sequences_(std::move(sequences)),
          names_(sequences_.front()) {}

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
        port_ = process::free_udp_port();
        if (auto ready = prepare(*sandbox); !ready) return tl::unexpected(ready.error());
        predict(*sandbox);
        if (auto built = build(*sandbox); !built) return tl::unexpected(built.error());
        if (auto ran = run_all(*sandbox, *program); !ran) return tl::unexpected(ran.error());
        if (settings_.tests && !card_.test_arguments.empty())
            if (auto ran = run_tests(*sandbox, *program); !ran) return tl::unexpected(ran.error());
        return std::move(trial_);
    }

  private:
    /// The usual run, and those for phases that have one of their own, as far as there are modules for them.
    Result<void> run_all(const files::Sandbox& sandbox, const fs::path& program) {
        Judge judge(space_, card_, trial_, copies_);
        std::map<std::string, std::size_t> waiting;  // phase with a run of its own, or nothing → modules
        for (const auto& name : names_) {
            const std::string phase = search::phase_of(space_.module(name)->manifest, card_);
            const bool own = std::any_of(card_.trial_runs.begin(), card_.trial_runs.end(),
                                         [&](const model::TrialRun& run) { return run.phase == phase; });
            ++waiting[own ? phase : ""];
        }
        std::vector<model::TrialRun> runs = {{"", card_.trial_arguments}};
        runs.insert(runs.end(), card_.trial_runs.begin(), card_.trial_runs.end());
        for (const auto& run : runs) {
            if (waiting[run.phase] == 0) continue;
            auto outcome = start(sandbox, program, filled(run.arguments, sandbox));
            if (!outcome) return tl::unexpected(outcome.error());
            const fs::path report = sandbox.folder() / card_.trial_report;
            judge.take_run(*outcome, files::read_file(report, largest_report).value_or(""), time_limit());
            sandbox.remove_file(card_.trial_report);
        }
        predict_as_loaded();
        judge.finish();
        return {};
    }

    /// Where several orders are as good, the prediction is the one that came true.
    void predict_as_loaded() {
        if (sequences_.size() == 1) return;
        std::map<std::string, ModuleTrial*> trials;
        for (ModuleTrial& one : trial_.modules) trials[one.module] = &one;
        const auto comes_true = [&](const std::vector<std::string>& sequence) {
            std::size_t latest = 0;
            return std::all_of(sequence.begin(), sequence.end(), [&](const std::string& name) {
                const std::size_t position = trials.at(name)->actual_position;
                return position == 0 || std::exchange(latest, position) < position;
            });
        };
        const auto found = std::find_if(sequences_.begin(), sequences_.end(), comes_true);
        if (found == sequences_.end()) return;
        for (std::size_t i = 0; i < found->size(); ++i) trials.at((*found)[i])->predicted_position = i + 1;
        std::sort(trial_.modules.begin(), trial_.modules.end(), [](const ModuleTrial& a, const ModuleTrial& b) {
            return a.predicted_position < b.predicted_position;
        });
    }

    /// Modules of compiled code, and what they need of the kind, are built and installed first.
    Result<void> build(const files::Sandbox& sandbox) {
        if (card_.trial_steps.empty()) return {};
        resolve::Question question = settings_.question;
        question.roots = names_;
        for (const order::Placed& placed : order::load_order(question).placed) {
            const model::Card* card = space_.card(placed.host);
            if (card == nullptr || card->trial_steps.empty()) continue;
            auto built = install_modules(settings_, *card, {placed.module}, sandbox);
            if (!built) return tl::unexpected(built.error());
            const ModuleTrial& one = built->front();
            for (ModuleTrial& known : trial_.modules)
                if (known.module == placed.module) {
                    known.steps = one.steps;
                    known.error = one.error;
                    known.blame = one.blame;
                }
            if (placed.host != card_.name.value && !one.error.empty() && trial_.trouble.empty())
                trial_.trouble = fmt::format("{} could not be built: {}", placed.module, one.error);
        }
        return {};
    }

    Result<void> prepare(const files::Sandbox& sandbox) {
        for (const auto* folder : {"work", "home", "tmp"})
            if (auto made = sandbox.make_folder(folder); !made) return made;
        if (auto copied = copy_modules(sandbox); !copied) return copied;
        if (!card_.trial_probe.empty())
            if (auto probe = write_script(sandbox, card_.trial_probe, probe_name); !probe) return probe;
        if (!files::stays_inside(card_.trial_report)) return refuse_path(card_.trial_report);
        for (const auto& file : card_.trial_files) {
            const fs::path path = sandbox.folder() / file.path;
            if (!files::stays_inside(file.path)) return refuse_path(file.path);
            if (auto made = sandbox.make_folder(fs::path(file.path).parent_path().string()); !made) return made;
            if (auto written = write_script(sandbox, file.template_file, file.path); !written) return written;
        }
        if (!settings_.tests || card_.test_runner.empty()) return {};
        return write_script(sandbox, card_.test_runner, runner_name);
    }

    static Result<void> refuse_path(const std::string& path) {
        return fail(FailureKind::answer_is_no, fmt::format("`{}` leaves the folder of the trial", path),
                    "mend the card's [trial]");
    }

    /// What the host calls the place of a copied or an installed module.
    [[nodiscard]] std::string called(const model::Module& module, const files::Sandbox& sandbox) const {
        text::Values values = search::path_values(module.manifest, card_);
        values.emplace_back("sandbox", sandbox.folder().string());
        return text::fill(card_.trial_copy_called, values);
    }

    /// For hosts that write into what they load.
    Result<void> copy_modules(const files::Sandbox& sandbox) {
        if (card_.trial_copy.empty()) {
            for (const auto& name : names_)
                if (const model::Module& module = *space_.module(name); !card_.trial_copy_called.empty())
                    copies_[called(module, sandbox)] = module.folder.string();
            return {};
        }
        for (const auto& name : names_) {
            const model::Module& module = *space_.module(name);
            const std::string path = text::fill(card_.trial_copy, search::path_values(module.manifest, card_));
            if (!files::stays_inside(path)) return refuse_path(path);
            const fs::path copy = sandbox.folder() / path;
            if (auto made = sandbox.make_folder(fs::path(path).parent_path().string()); !made) return made;
            if (auto copied = sandbox.copy_folder(module.folder, path); !copied) return copied;
            copies_[copy.string()] = module.folder.string();
            if (!card_.trial_copy_called.empty()) copies_[called(module, sandbox)] = module.folder.string();
        }
        return {};
    }

    Result<void> write_script(const files::Sandbox& sandbox, const std::string& template_file,
                              std::string_view name) const {
        auto template_text = search::read_template(card_, template_file);
        if (!template_text) return tl::unexpected(template_text.error());
        auto script = text::render(*template_text, script_values(sandbox), search::dialect_of(card_));
        if (!script) return tl::unexpected(script.error());
        return sandbox.write(name, *script);
    }

    /// What the module needs of those that are tried.
    [[nodiscard]] nlohmann::json needs_of(const model::Module& module) const {
        nlohmann::json needs = nlohmann::json::array();
        for (const auto& d : module.manifest.dependencies)
            if (!d.optional && std::find(names_.begin(), names_.end(), d.module.value) != names_.end())
                needs.push_back({{"need", d.module.value}});
        return needs;
    }

    [[nodiscard]] nlohmann::json script_values(const files::Sandbox& sandbox) const {
        nlohmann::json modules = nlohmann::json::array();
        const auto declared_at = search::declared_folders(space_, card_);
        std::string base;
        for (const auto& name : names_) {
            const model::Module& module = *space_.module(name);
            nlohmann::json members = nlohmann::json::array();
            for (const auto& member : module.manifest.members) members.push_back({{"member", member.name.value}});
            const std::string& entry = module.manifest.entry.file.value;
            const auto* holder = search::holder_of(declared_at, module);
            const bool based = holder != nullptr && !holder->base.empty();
            if (based && base.empty()) base = holder->base;
            modules.push_back(
                {{"name", name},
                 {"path", search::name_path(card_, name)},
                 {"folder", module.folder.filename().string()},
                 {"entry",
                  entry.empty() ? text::fill(card_.entry_file, search::path_values(module.manifest, card_)) : entry},
                 {"start", module.manifest.entry.start.value},
                 {"stop", module.manifest.entry.stop.value},
                 {"members", members},
                 {"name_pascal", text::in_form(name, text::NameForm::pascal)},
                 {"in_phase", {{search::phase_of(module.manifest, card_), true}}},
                 {"version", module.version()},
                 {"phase", search::phase_of(module.manifest, card_)},
                 {"needs", needs_of(module)},
                 {"based", based},
                 {"first", modules.empty()},
                 {"last", &name == &names_.back()}});
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
        const auto* first = card_.variables.empty() ? nullptr : &card_.variables.front();
        for (const auto& folder : search::session_folders(space_, card_, first))
            folders.push_back({{"folder", folder}});
        return {{"modules", modules},
                {"known", known},
                {"files", loaders},
                {"folders", folders},
                {"workspace", space_.settings.name.value},
                {"base", base},
                {"card_phases", emit::phase_values(card_)},
                {"sandbox", sandbox.folder().string()},
                {"port", std::to_string(port_)},
                {"report", (sandbox.folder() / card_.trial_report).string()}};
    }

    [[nodiscard]] search::Environment search_environment(const files::Sandbox& sandbox) const {
        search::Environment environment;
        for (const auto& [name, value] : card_.trial_environment) environment[name] = filled(value, sandbox);
        for (const auto& variable : card_.variables) {
            if (variable.own_shell_only) continue;
            const auto folders = search::session_folders(space_, card_, &variable);
            std::string value = search::variable_value(card_, variable, folders);
            const auto further = environment.find(variable.name);
            const bool given = further != environment.end();
            const std::string rest = given ? further->second : variable.when_unset;
            if (!rest.empty()) value += (given && value.empty() ? "" : variable.separator) + rest;
            environment[variable.name] = value;
        }
        return environment;
    }

    void predict(const files::Sandbox& sandbox) {
        std::size_t position = 0;
        const members::Patterns patterns(card_);
        for (const auto& name : names_) {
            const model::Module& module = *space_.module(name);
            ModuleTrial one;
            one.module = name;
            one.host = card_.name.value;
            one.predicted_position = ++position;
            if (card_.looks_up()) {
                const auto located = search::locate(name, {&space_, &card_, {}, sandbox.folder() / "work"});
                if (located.chosen) one.predicted_file = located.chosen->file;
            } else {
                one.predicted_file = members::entry_file(module, card_).string();
            }
            const members::Scan scan = members::scan(module, card_, space_.root, patterns);
            one.expected_members = members::expected_members(module.manifest, scan);
            // What stands above a definition, such as a decorator, may change what it is called with; of definitions
            // in branches it is not known which one counts.
            for (const auto& member : scan.members)
                if (member.tells_parameters && member.extent.begin == member.whole.begin && !member.nested)
                    one.expected_calls.push_back(member);
            trial_.modules.push_back(std::move(one));
        }
    }

    [[nodiscard]] std::vector<std::string> filled(const std::vector<std::string>& arguments,
                                                  const files::Sandbox& sandbox) const {
        std::vector<std::string> out;
        out.reserve(arguments.size());
        for (const auto& argument : arguments) out.push_back(filled(argument, sandbox));
        return out;
    }

    [[nodiscard]] std::string filled(const std::string& text, const files::Sandbox& sandbox) const {
        return text::fill(text, {{"probe", (sandbox.folder() / probe_name).string()},
                                 {"sandbox", sandbox.folder().string()},
                                 {"port", std::to_string(port_)}});
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
        command.environment = search_environment(sandbox);
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
                TestRun test;
                test.module = name;
                test.file = files::shown_path(path, space_.root);
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
        const std::string said = host_words(outcome.errors.empty() ? outcome.output : outcome.errors);
        return said.empty() ? words : words + ": " + said;
    }

    const Settings& settings_;
    const model::Space& space_;
    const model::Card& card_;
    std::vector<std::vector<std::string>> sequences_;
    std::vector<std::string> names_;
    unsigned port_ = 0;                          // that nobody listens on
    std::map<std::string, std::string> copies_;  // where a module was copied to → its folder
    HostTrial trial_;
};

}  // namespace

Result<HostTrial> run_host(const Settings& settings, const model::Card& card,
                           std::vector<std::vector<std::string>> sequences) {
    return HostRun(settings, card, std::move(sequences)).run();
}

}  // namespace envar::trial
