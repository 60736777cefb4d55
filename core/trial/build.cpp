#include "core/trial/build.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "core/emit/generated.hpp"
#include "core/emit/native.hpp"
#include "core/files/read.hpp"
#include "core/files/sandbox.hpp"
#include "core/process/run.hpp"
#include "core/search/naming.hpp"
#include "core/search/session.hpp"
#include "core/text/template.hpp"

namespace envar::trial {
namespace {

namespace fs = std::filesystem;
using text::fail;
using text::FailureKind;
using text::Result;

constexpr std::string_view standard_path = "/usr/local/bin:/usr/bin:/bin";

bool is_library(const model::Native& native) {
    return native.kind == model::NativeKind::static_library || native.kind == model::NativeKind::shared_library ||
           native.kind == model::NativeKind::headers;
}

class BuildRun {
  public:
    BuildRun(const Settings& settings, const model::Card& card, const files::Sandbox& sandbox)
        : settings_(settings), space_(*settings.question.space), card_(card), sandbox_(sandbox) {}

    Result<HostTrial> run(const std::vector<std::string>& names) {
        trial_.host = card_.name.value;
        for (const auto* folder : {"home", "tmp", "prefix", "build", "consumer", "source"})
            if (auto made = sandbox_.make_folder(folder); !made) return tl::unexpected(made.error());
        for (const auto& name : names) {
            auto one = try_module(*space_.module(name));
            if (!one) return tl::unexpected(one.error());
            for (const BuildStep& step : one->steps) trial_.milliseconds += step.milliseconds;
            trial_.modules.push_back(std::move(*one));
        }
        return std::move(trial_);
    }

  private:
    Result<ModuleTrial> try_module(const model::Module& module) {
        ModuleTrial one;
        one.module = module.name();
        one.host = card_.name.value;
        one.predicted_position = trial_.modules.size() + 1;
        for (const auto& d : module.manifest.dependencies)
            if (failed_.count(d.module.value) != 0 && !d.optional) {
                one.error = fmt::format("not built, since {} was not", d.module.value);
                failed_.insert(module.name());
                return one;
            }
        if (auto ready = write_consumer(module); !ready) return tl::unexpected(ready.error());
        if (is_copied(module))
            if (auto copied = sandbox_.copy_folder(module.folder, "source/" + module.name()); !copied)
                return tl::unexpected(copied.error());
        for (const model::TrialStep& step : card_.trial_steps) {
            if (step.tests && !settings_.tests) continue;
            // What comes with its own descriptors is installed as these like, if at all.
            if (step.consumer && (!is_library(module.manifest.native) || module.manifest.keeps_own_files)) continue;
            auto fine = run_step(module, step, one);
            if (!fine) return tl::unexpected(fine.error());
            if (!*fine) return one;
        }
        for (const auto& front : module.manifest.fronts) {
            auto fine = run_front(module, front, one);
            if (!fine) return tl::unexpected(fine.error());
            if (!*fine) return one;
        }
        one.actual_position = ++built_;
        for (const BuildStep& step : one.steps) one.milliseconds += step.milliseconds;
        if (const std::string declared = module.version(); !one.version.empty() && one.version != declared)
            one.differences.push_back(
                fmt::format("is found as version {}, the manifest says {}", one.version, declared));
        return one;
    }

    /// A build system that builds where the sources lie is given a copy of what others wrote; what Envar wrote builds
    /// elsewhere.
    [[nodiscard]] bool is_copied(const model::Module& module) const {
        return module.manifest.keeps_own_files && !card_.trial_copy.empty();
    }

    [[nodiscard]] text::Values step_values(const model::Module& module) const {
        const fs::path& root = sandbox_.folder();
        return {{"source", is_copied(module) ? (root / "source" / module.name()).string() : module.folder.string()},
                {"build", (root / "build" / module.name()).string()},
                {"prefix", (root / "prefix").string()},
                {"consumer", (root / "consumer" / module.name()).string()},
                {"module", module.name()},
                {"jobs", std::to_string(settings_.jobs)}};
    }

    Result<void> write_consumer(const model::Module& module) const {
        if (card_.trial_files.empty()) return {};
        const std::string folder = "consumer/" + module.name();
        if (auto made = sandbox_.make_folder(folder); !made) return made;
        const auto values = emit::module_values(module.manifest, card_, emit::place_of(space_, card_, module.folder));
        for (const auto& file : card_.trial_files) {
            auto template_text = search::read_template(card_, file.template_file);
            if (!template_text) return tl::unexpected(template_text.error());
            auto body = text::render(*template_text, values, search::dialect_of(card_));
            if (!body) return tl::unexpected(body.error());
            if (auto written = sandbox_.write(folder + "/" + file.path, *body); !written) return written;
        }
        return {};
    }

    [[nodiscard]] Result<process::Outcome> start(const fs::path& program, const std::vector<std::string>& arguments,
                                                 const process::Environment& more) const {
        process::Command command;
        command.arguments = arguments;
        command.arguments.insert(command.arguments.begin(), program.string());
        command.folder = sandbox_.folder() / "tmp";
        command.environment = {{"HOME", (sandbox_.folder() / "home").string()},
                               {"TMPDIR", (sandbox_.folder() / "tmp").string()},
                               {"PATH", std::string(standard_path)},
                               {"LANG", "C.UTF-8"}};
        for (const auto& [name, value] : settings_.compilers) command.environment[name] = value;
        for (const auto& [name, value] : more) command.environment[name] = value;
        command.time_limit_seconds = time_limit();
        return process::run(command);
    }

    [[nodiscard]] double time_limit() const {
        return settings_.time_limit > 0 ? settings_.time_limit : static_cast<double>(card_.trial_seconds);
    }

    /// False when the build system refused; what it said is in `one`.
    Result<bool> run_step(const model::Module& module, const model::TrialStep& step, ModuleTrial& one) {
        if (settings_.progress) settings_.progress(fmt::format("{}: {}", module.name(), step.name));
        const auto values = step_values(module);
        std::vector<std::string> arguments;
        for (const auto& argument : step.arguments) arguments.push_back(text::fill(argument, values));
        const model::Native& native = module.manifest.native;
        for (const auto* settings : {&native.settings, settings_.tests ? nullptr : &native.without_tests})
            if (settings != nullptr && !step.setting.empty())
                for (const auto& [name, value] : *settings)
                    arguments.push_back(text::fill(step.setting, {{"name", name}, {"value", value}}));
        process::Environment environment;
        for (const auto& [name, value] : step.environment) environment[name] = text::fill(value, values);
        const std::vector<std::string> programs =
            step.program.empty() ? card_.programs : std::vector<std::string>{step.program};
        const auto program = process::find_program(programs, settings_.program_path);
        if (!program)
            return fail(FailureKind::machine_failed, fmt::format("`{}` is not in PATH", programs.front()),
                        card_.package.empty() ? "" : fmt::format("install the package {}", card_.package));
        auto outcome = start(*program, arguments, environment);
        if (!outcome) return tl::unexpected(outcome.error());
        const bool passed = take(module, step.name, *outcome, one);
        if (step.tests) {
            TestRun test{module.name(), module.shown_folder + "/tests", passed, outcome->milliseconds, {}};
            if (!passed) {
                test.words = one.error;
                one.error.clear();
                failed_.erase(module.name());
            }
            trial_.tests.push_back(std::move(test));
            return true;
        }
        if (passed && step.consumer) take_found(*outcome, one);
        return passed;
    }

    /// Where the project that uses the module found it, and in which version.
    void take_found(const process::Outcome& outcome, ModuleTrial& one) const {
        const re2::RE2 pattern(card_.trial_found, re2::RE2::Quiet);
        if (card_.trial_found.empty() || !pattern.ok() || !one.version.empty()) return;
        const auto& groups = pattern.NamedCapturingGroups();
        if (groups.count("version") == 0 || groups.count("file") == 0) return;
        std::vector<re2::StringPiece> found(static_cast<std::size_t>(pattern.NumberOfCapturingGroups()) + 1);
        if (!pattern.Match(outcome.output, 0, outcome.output.size(), re2::RE2::UNANCHORED, found.data(),
                           static_cast<int>(found.size())))
            return;
        one.version = found[static_cast<std::size_t>(groups.at("version"))].as_string();
        const std::string file = found[static_cast<std::size_t>(groups.at("file"))].as_string();
        const std::string root = (sandbox_.folder() / "prefix").string() + "/";
        const std::string normal = fs::path(file).lexically_normal().string();
        one.picked_file = normal.starts_with(root) ? normal.substr(root.size()) : normal;
    }

    Result<bool> run_front(const model::Module& module, const model::Front& front, ModuleTrial& one) {
        const emit::FrontCard by = emit::front_card(front, card_, &space_.cards);
        if (by.front == nullptr || by.front->trial_arguments.empty()) return true;
        // What a card that came with the workspace names is run here, as it is by every trial.
        const std::string name = front.name.value.empty() ? module.name() : front.name.value;
        text::Values values = search::path_values(module.manifest, card_);
        values.emplace_back("front", name);
        const fs::path folder = sandbox_.folder() / "prefix" / text::fill(by.front->install, values);
        const fs::path file = folder / (text::fill(by.front->file, values) + by.front->ending);
        values.emplace_back("folder", folder.string());
        values.emplace_back("file", file.string());
        std::optional<fs::path> program = file;
        if (!by.front->trial_programs.empty())
            program = process::find_program(by.front->trial_programs, settings_.program_path);
        const std::string step = by.front->host.empty() ? by.front->kind : by.front->host;
        if (!program)
            return fail(FailureKind::machine_failed,
                        fmt::format("`{}` is not in PATH, which loads the front", by.front->trial_programs.front()),
                        by.card->package.empty() ? "" : fmt::format("install the package {}", by.card->package));
        if (settings_.progress) settings_.progress(fmt::format("{}: {}", module.name(), step));
        std::vector<std::string> arguments;
        for (const auto& argument : by.front->trial_arguments) arguments.push_back(text::fill(argument, values));
        auto outcome = start(*program, arguments, {});
        if (!outcome) return tl::unexpected(outcome.error());
        return take(module, step, *outcome, one);
    }

    bool take(const model::Module& module, const std::string& step, const process::Outcome& outcome,
              ModuleTrial& one) {
        const bool passed = outcome.exit_status == 0 && !outcome.timed_out;
        one.steps.push_back({step, passed, outcome.milliseconds});
        if (passed) return true;
        failed_.insert(module.name());
        const std::string said = outcome.errors + outcome.output;
        one.error = outcome.timed_out ? fmt::format("{}: ended by the time limit of {:g} s", step, time_limit())
                                      : fmt::format("{}: exit status {}", step, outcome.exit_status);
        const std::string words =
            host_words(outcome.errors.find_first_not_of(" \t\r\n") == std::string::npos ? outcome.output : said);
        if (!words.empty()) one.error += ":\n" + words;
        one.blame = place_to_blame(module, said);
        return false;
    }

    const Settings& settings_;
    const model::Space& space_;
    const model::Card& card_;
    const files::Sandbox& sandbox_;
    HostTrial trial_;
    std::set<std::string> failed_;
    std::size_t built_ = 0;
};

bool is_word_char(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_';
}

bool names_word(const std::string& message, const std::string& word) {
    if (word.empty()) return false;
    for (std::size_t at = message.find(word); at != std::string::npos; at = message.find(word, at + 1)) {
        const std::string_view before = std::string_view(message).substr(0, at);
        const bool begins =
            at == 0 || !is_word_char(message[at - 1]) || before.ends_with("-l") || before.ends_with("lib");
        const std::size_t end = at + word.size();
        if (begins && (end == message.size() || !is_word_char(message[end]))) return true;
    }
    return false;
}

}  // namespace

std::string place_to_blame(const model::Module& module, const std::string& message) {
    struct Fact {
        std::string word;
        text::Span span;
        std::string what;
    };
    std::vector<Fact> facts;
    const model::Manifest& manifest = module.manifest;
    const auto add = [&](const std::vector<model::Word>& words, const char* what) {
        for (const auto& word : words)
            facts.push_back({word.value, word.span, fmt::format("the {} `{}`", what, word.value)});
    };
    add(manifest.native.sources, "source");
    add(manifest.native.public_headers, "public header");
    add(manifest.native.private_headers, "private header");
    add(manifest.tests.files, "test");
    add(manifest.examples.files, "example");
    for (const auto& part : manifest.native.parts) add(part.sources, "source");
    for (const auto& front : manifest.fronts) {
        add(front.sources, "source");
        facts.push_back({front.host.value, front.host.span, fmt::format("the front for {}", front.host.value)});
    }
    for (const auto& d : manifest.dependencies)
        facts.push_back({d.module.value,
                         d.versions_span.end > d.versions_span.begin ? d.versions_span : d.module.span,
                         fmt::format("the dependency `{}`", d.module.value)});
    const Fact* best = nullptr;
    for (const Fact& fact : facts)
        if (names_word(message, fact.word) && (best == nullptr || fact.word.size() > best->word.size())) best = &fact;
    if (best == nullptr) return {};
    return fmt::format("{}:{}: {}", module.source.file(), module.source.position(best->span.begin).line, best->what);
}

Result<HostTrial> run_build(const Settings& settings, const model::Card& card,
                            const std::vector<std::string>& names) {
    const auto program = process::find_program(card.programs, settings.program_path);
    if (!program)
        return fail(FailureKind::machine_failed,
                    fmt::format("the build system {} is not installed: none of {} is in PATH", card.name.value,
                                fmt::join(card.programs, ", ")),
                    card.package.empty() ? "" : fmt::format("install the package {}", card.package));
    auto sandbox = files::Sandbox::make(settings.temporary);
    if (!sandbox) return tl::unexpected(sandbox.error());
    if (settings.keep) sandbox->keep();
    auto trial = BuildRun(settings, card, *sandbox).run(names);
    if (!trial) return trial;
    trial->program = program->string();
    trial->version = host_version(card, *program);
    if (settings.keep) trial->folder = sandbox->folder().string();
    return trial;
}

Result<std::vector<ModuleTrial>> install_modules(const Settings& settings, const model::Card& card,
                                                 const std::vector<std::string>& names,
                                                 const files::Sandbox& sandbox) {
    model::Card plain = card;  // nobody else is to use what is installed
    std::erase_if(plain.trial_steps, [](const model::TrialStep& step) { return step.consumer || step.tests; });
    plain.trial_files.clear();
    return BuildRun(settings, plain, sandbox).run(names).map([](HostTrial trial) {
        return std::move(trial.modules);
    });
}

}  // namespace envar::trial
