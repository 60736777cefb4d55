// envar trial: loads modules in the real host and compares.
#include "core/trial/trial.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "cli/commands/commands.hpp"
#include "cli/workbench.hpp"
#include "core/search/declared.hpp"
#include "core/search/search_path.hpp"

namespace envar::cli {
namespace {

using nlohmann::ordered_json;

ordered_json to_json(const std::vector<trial::TestRun>& tests) {
    ordered_json list = ordered_json::array();
    for (const auto& test : tests)
        list.push_back({{"module", test.module},
                        {"file", test.file},
                        {"passed", test.passed},
                        {"milliseconds", test.milliseconds},
                        {"words", test.words}});
    return list;
}

ordered_json to_json(const std::vector<trial::BuildStep>& steps) {
    ordered_json list = ordered_json::array();
    for (const auto& step : steps)
        list.push_back({{"step", step.name}, {"passed", step.passed}, {"milliseconds", step.milliseconds}});
    return list;
}

/// What the host calls members with, of those of which it tells.
ordered_json parameters_of(const trial::ModuleTrial& module) {
    ordered_json all = ordered_json::object();
    for (const auto& member : module.seen) {
        if (!member.tells_parameters) continue;
        ordered_json& list = all[member.name] = ordered_json::array();
        for (const auto& parameter : member.parameters)
            list.push_back({{"name", parameter.name}, {"required", parameter.required}});
    }
    return all;
}

ordered_json to_json(const trial::Trial& trial) {
    ordered_json hosts = ordered_json::array();
    for (const auto& host : trial.hosts) {
        ordered_json modules = ordered_json::array();
        for (const auto& m : host.modules)
            modules.push_back({{"module", m.module},
                               {"agrees", m.agrees()},
                               {"predicted_file", m.predicted_file},
                               {"picked_file", m.picked_file},
                               {"predicted_position", m.predicted_position},
                               {"actual_position", m.actual_position},
                               {"version", m.version},
                               {"milliseconds", m.milliseconds},
                               {"expected_members", m.expected_members},
                               {"seen_members", m.seen_members},
                               {"seen_parameters", parameters_of(m)},
                               {"error", m.error},
                               {"blame", m.blame},
                               {"steps", to_json(m.steps)},
                               {"differences", m.differences}});
        hosts.push_back({{"host", host.host},
                         {"program", host.program},
                         {"version", host.version},
                         {"milliseconds", host.milliseconds},
                         {"trouble", host.trouble},
                         {"folder", host.folder},
                         {"modules", modules},
                         {"tests", to_json(host.tests)}});
    }
    return {{"agrees", trial.agrees()}, {"hosts", hosts}, {"untried", trial.untried}, {"hindered", trial.hindered}};
}

/// What a host said; of many lines the first ones and the last ones. A compiler's call alone may have 2,000 bytes.
std::string in_few_lines(const std::string& words, std::ptrdiff_t first = 14, std::ptrdiff_t last = 14,
                         std::size_t kept = 4000) {
    std::vector<std::string_view> lines;
    for (std::size_t at = 0; at <= words.size();) {
        const std::size_t end = std::min(words.find('\n', at), words.size());
        lines.push_back(std::string_view(words).substr(at, end - at));
        at = end + 1;
    }
    const auto left_out = std::ssize(lines) - first - last;
    if (left_out <= 1) return trial::host_words(words, kept);
    return trial::host_words(fmt::format("{}\n    … {} more lines, in the results …\n{}",
                                         fmt::join(lines.begin(), lines.begin() + first, "\n"), left_out,
                                         fmt::join(lines.end() - last, lines.end(), "\n")),
                             kept);
}

void print_tests(Terminal& out, const trial::HostTrial& host) {
    for (const auto& test : host.tests) {
        out.line(fmt::format("  {} {} ({:.0f} ms)",
                             test.passed ? out.styled("passed", Style::good) : out.styled("failed", Style::bad),
                             test.file, test.milliseconds));
        if (!test.words.empty()) out.line(fmt::format("    {}", in_few_lines(test.words)));
    }
}

/// One line a module, with how long each step took.
void print_builds(Terminal& out, const trial::HostTrial& host) {
    std::vector<std::string> steps;
    for (const auto& m : host.modules)
        for (const auto& step : m.steps)
            if (std::find(steps.begin(), steps.end(), step.name) == steps.end()) steps.push_back(step.name);
    Table table{{" ", "module", "found as"}, {}};
    out.line("  milliseconds a step:");
    for (const auto& step : steps) table.head.push_back(step);
    table.head.emplace_back("installed");
    for (const auto& m : host.modules) {
        std::vector<std::string> row = {m.actual_position == 0 ? "-" : std::to_string(m.actual_position), m.module,
                                        m.version.empty() ? "-" : m.version};
        for (const auto& name : steps) {
            const auto step =
                std::find_if(m.steps.begin(), m.steps.end(), [&](const auto& s) { return s.name == name; });
            row.push_back(step == m.steps.end() ? "-"
                          : step->passed        ? fmt::format("{:.0f}", step->milliseconds)
                                                : out.styled("failed", Style::bad));
        }
        row.push_back(m.picked_file.empty() ? "-" : std::filesystem::path(m.picked_file).filename().string());
        table.rows.push_back(std::move(row));
    }
    out.table(table);
    for (const auto& m : host.modules) {
        for (const auto& difference : m.differences)
            out.line(fmt::format("  {}: {}", out.styled(m.module, Style::strong), difference));
        if (m.error.empty()) continue;
        out.line(fmt::format("  {}: {}", out.styled(m.module, Style::strong), in_few_lines(m.error)));
        if (!m.blame.empty()) out.line(fmt::format("  {} {}", out.styled("see", Style::warning), m.blame));
    }
    print_tests(out, host);
    if (!host.folder.empty()) out.line(fmt::format("  kept: {}", host.folder));
}

void print_host(Terminal& out, const trial::HostTrial& host, const std::filesystem::path& root) {
    out.line(fmt::format("{} {} ({}), {:.0f} ms", out.styled(host.host, Style::strong), host.version, host.program,
                         host.milliseconds));
    if (std::any_of(host.modules.begin(), host.modules.end(),
                    [](const auto& m) { return !m.steps.empty() && m.predicted_file.empty(); }))
        return print_builds(out, host);
    Table table{{" ", "module", "version", "members", "ms", "file", "as predicted"}, {}};
    for (const auto& m : host.modules)
        table.rows.push_back({m.actual_position == 0 ? "-" : std::to_string(m.actual_position), m.module,
                              m.version.empty() ? "-" : m.version, std::to_string(m.seen_members.size()),
                              m.milliseconds > 0 ? fmt::format("{:.1f}", m.milliseconds) : "-",
                              m.picked_file.empty() ? "-" : shown(m.picked_file, root),
                              m.agrees() ? out.styled("yes", Style::good) : out.styled("no", Style::bad)});
    out.table(table);
    for (const auto& m : host.modules) {
        for (const auto& difference : m.differences)
            out.line(fmt::format("  {}: {}", out.styled(m.module, Style::strong), difference));
        if (!m.error.empty())
            out.line(fmt::format("  {}: the host says: {}", out.styled(m.module, Style::strong),
                                 in_few_lines(m.error, 5, 4, 1000)));
        if (!m.blame.empty()) out.line(fmt::format("  {} {}", out.styled("see", Style::warning), m.blame));
    }
    print_tests(out, host);
    if (!host.trouble.empty())
        out.line(fmt::format("  {} {}", out.styled("trouble:", Style::bad), in_few_lines(host.trouble)));
    if (!host.folder.empty()) out.line(fmt::format("  kept: {}", host.folder));
}

Outcome run_trial(Invocation& invocation) {
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    if (auto known = known_modules(*space, invocation.words); !known) return tl::unexpected(known.error());
    auto asked = trial_settings(invocation, *space);
    if (!asked) return tl::unexpected(asked.error());
    trial::Settings& settings = *asked;
    settings.keep = invocation.flag("keep");
    settings.tests = invocation.flag("tests");
    if (invocation.flag("seconds")) settings.time_limit = invocation.values["seconds"].as<double>();
    auto trial = trial::run_trial(settings);
    invocation.terminal->progress("");
    if (!trial) return tl::unexpected(trial.error());
    Table rows{{"host", "module", "predicted_file", "picked_file", "predicted_position", "actual_position", "agrees"},
               {}};
    std::size_t modules = 0;
    std::size_t tests = 0;
    std::size_t failed = 0;
    for (const auto& host : trial->hosts) {
        tests += host.tests.size();
        for (const auto& test : host.tests) failed += test.passed ? 0 : 1;
    }
    for (const auto& host : trial->hosts)
        for (const auto& m : host.modules) {
            ++modules;
            rows.rows.push_back({m.host, m.module, m.predicted_file, m.picked_file,
                                 std::to_string(m.predicted_position), std::to_string(m.actual_position),
                                 m.agrees() ? "yes" : "no"});
        }
    auto print = leave_results(invocation, space->root, "trial", to_json(*trial), &rows);
    if (!print) return tl::unexpected(print.error());
    const ExitStatus status = trial->agrees() && trial->tests_pass() && !trial->hindered ? fine : answer_is_no;
    if (!*print) return status;
    Terminal& out = *invocation.terminal;
    for (std::size_t i = 0; i < trial->hosts.size(); ++i) {
        if (i > 0) out.line();
        print_host(out, trial->hosts[i], space->root);
    }
    for (const auto& line : trial->untried)
        out.line(fmt::format("{} {}", out.styled("not tried:", Style::warning), line));
    if (modules == 0) {
        out.remark(trial->hindered ? "nothing could be tried" : "there is nothing to load");
    } else {
        const bool all_built = std::all_of(trial->hosts.begin(), trial->hosts.end(), [](const auto& host) {
            return std::all_of(host.modules.begin(), host.modules.end(),
                               [](const auto& m) { return !m.steps.empty(); });
        });
        const std::string tested =
            !settings.tests ? "" : fmt::format("; {} passed, {} failed", counted(tests - failed, "test"), failed);
        out.remark((trial->agrees() ? fmt::format("\n{} {} as predicted", counted(modules, "module"),
                                                  all_built ? "built and found" : "loaded")
                                    : "\nthe trial differs from the prediction") +
                   tested + (trial->hindered ? "; not all could be tried" : ""));
    }
    return status;
}

}  // namespace

text::Result<trial::Settings> trial_settings(Invocation& invocation, model::Space& space) {
    auto question = question_of(invocation, space);
    if (!question) return tl::unexpected(question.error());
    trial::Settings settings;
    settings.question = *question;
    settings.modules = invocation.words;
    // Programs that ship with this one lie beside it.
    settings.program_path = invocation.variable("PATH") + ":" + invocation.executable.parent_path().string();
    const std::string temporary = invocation.variable("TMPDIR");
    settings.temporary = temporary.empty() ? "/tmp" : temporary;
    settings.jobs = invocation.shared.jobs;
    for (const auto* name : {"CC", "CXX", "CFLAGS", "CXXFLAGS", "CPPFLAGS", "LDFLAGS"})
        if (std::string value = invocation.variable(name); !value.empty())
            settings.compilers[name] = std::move(value);
    settings.progress = [&](const std::string& step) { invocation.terminal->progress(step); };
    for (auto& card : space.cards)
        if (!search::workspace_folders(space, card).empty()) ask_host(invocation, card);
    return settings;
}

Command trial_command() {
    return {
        "trial",
        "Run",
        "[MODULE…]",
        0,
        10000,
        "load modules in the real host and compare with the prediction",
        "Starts each host in an empty folder with a scrubbed environment and a time limit, loads the modules (with what\n"
        "they need) and compares the file picked, the order, the version and the members with what `locate`, `order`\n"
        "and `members` predict. Native modules are configured, built and installed from their descriptors, outside the\n"
        "source tree, each against those before it; then a small project finds each by name and version. CC, CXX,\n"
        "CFLAGS, CXXFLAGS, CPPFLAGS and LDFLAGS count there.\n"
        "Exit status 1 when anything differs, 3 when a host is not installed.\n\n"
        "  envar trial\n  envar trial --tests\n  envar trial star_field --keep",
        [](options::options_description_easy_init option) {
            option("tests", "run the modules' tests in their hosts too")   //
                ("keep", "leave the folder that the host was started in")  //
                ("seconds", options::value<double>()->value_name("S"), "time limit for each host; else the card's");
        },
        run_trial};
}

}  // namespace envar::cli
