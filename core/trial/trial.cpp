#include "core/trial/trial.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <set>

#include "core/files/read.hpp"
#include "core/order/host_order.hpp"
#include "core/process/run.hpp"
#include "core/trial/build.hpp"
#include "core/trial/host_run.hpp"

namespace envar::trial {
namespace {

namespace fs = std::filesystem;
using text::Result;

/// The names, and whatever they need, in the load order's own sequence.
std::set<std::string> with_needs(const order::Order& order, const std::vector<std::string>& modules) {
    std::set<std::string> wanted(modules.begin(), modules.end());
    for (auto it = order.placed.rbegin(); it != order.placed.rend(); ++it)
        if (wanted.count(it->module) != 0) wanted.insert(it->needs.begin(), it->needs.end());
    return wanted;
}

/// The names in the sequences that may be the host's own. What a host with a rule of its own drops is not tried.
std::vector<std::vector<std::string>> as_loaded(const Settings& settings, const model::Card& card,
                                                std::vector<std::string> names, Trial& trial) {
    if (card.host_order == model::HostOrder::planned) return {names};
    const std::set<std::string> wanted(names.begin(), names.end());
    const auto orders = order::host_orders(
        {settings.question.space, names, settings.question.target, settings.question.platform}, card);
    std::vector<std::vector<std::string>> sequences;
    for (const auto& order : orders) {
        auto& loaded = sequences.emplace_back();
        for (const auto& placed : order.placed)
            if (wanted.count(placed.module) != 0) loaded.push_back(placed.module);
    }
    for (const auto& skipped : orders.front().skipped)
        if (wanted.count(skipped.module) != 0) {
            trial.untried.push_back(fmt::format("{}: {}", skipped.module, skipped.reason));
            trial.hindered = true;
        }
    return sequences;
}

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

std::string host_words(std::string_view text, std::size_t kept) {
    while (!text.empty() && (text.back() == '\n' || text.back() == '\r')) text.remove_suffix(1);
    if (text.size() <= 2 * kept) return std::string(text);
    std::size_t begins = text.find('\n', text.size() - kept), ends = text.rfind('\n', kept);
    if (begins == std::string_view::npos) begins = text.size() - kept;
    if (ends == std::string_view::npos) ends = kept;
    const auto inside_character = [&](std::size_t at) {
        return (static_cast<unsigned char>(text[at]) & 0xC0U) == 0x80U;
    };
    while (begins + 1 < text.size() && inside_character(begins)) ++begins;
    while (ends > 0 && inside_character(ends)) --ends;
    return fmt::format("{}\n… {} bytes left out …\n{}", text.substr(0, ends), begins - ends,
                       text.substr(begins + (text[begins] == '\n' ? 1 : 0)));
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
        if (card != nullptr && !card->trial_steps.empty() && card->trial_arguments.empty()) {
            auto built = run_build(settings, *card, names);
            if (!built) return tl::unexpected(built.error());
            trial.hosts.push_back(std::move(*built));
            continue;
        }
        if (card == nullptr || card->trial_arguments.empty()) {
            for (const auto& name : names)
                trial.untried.push_back(fmt::format("{}: no trial is known for the host {}", name, host));
            continue;
        }
        auto run = run_host(settings, *card, as_loaded(settings, *card, std::move(names), trial));
        if (!run) return tl::unexpected(run.error());
        trial.hosts.push_back(std::move(*run));
    }
    for (const auto& skipped : order.skipped)
        if (settings.modules.empty() || wanted.count(skipped.module) != 0) {
            trial.untried.push_back(fmt::format("{}: {}", skipped.module, skipped.reason));
            trial.hindered = trial.hindered || !order.missing.empty() || !order.cycles.empty();
        }
    return trial;
}

}  // namespace envar::trial
