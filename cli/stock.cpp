#include "cli/stock.hpp"

#include <fmt/format.h>

#include <atomic>
#include <csignal>
#include <ctime>
#include <mutex>

#include "cli/workbench.hpp"
#include "core/search/declared.hpp"
#include "core/text/names.hpp"

namespace envar::cli {
namespace {

using text::fail;
using text::FailureKind;
using text::Result;

std::atomic<bool> stop_wanted = false;

/// Ends cleanly; a second wish, more than a second later, ends at once. What comes sooner is the same wish, as a
/// program and the group that it is in are both sent it.
void on_interrupt(int) {
    static volatile std::time_t first = 0;
    const std::time_t now = std::time(nullptr);
    if (!stop_wanted.exchange(true)) {
        first = now;
    } else if (now - first > 1) {
        std::signal(SIGINT, SIG_DFL);
        std::raise(SIGINT);
    }
}

/// Cards tell how versions of a host are written; they are read only when a line speaks of a host.
model::SchemeOf lazy_schemes(Invocation& invocation) {
    struct Cards {
        std::once_flag once;
        std::vector<model::Card> cards;
    };
    auto known = std::make_shared<Cards>();
    return [known, &invocation](std::string_view host) {
        if (host.empty()) return versions::Scheme::semantic;
        std::call_once(known->once, [&] {
            std::vector<text::Finding> findings;
            known->cards = model::load_cards(card_folders(invocation, std::nullopt), invocation.folder, findings,
                                             invocation.shared.jobs);
        });
        return model::schemes_of(known->cards)(host);
    };
}

Result<resolve::Stages> stages_of(const Invocation& invocation) {
    resolve::Stages stages;
    if (invocation.values.count("stage") == 0) return stages;
    stages = {false, false, false, false};
    for (const auto& name : invocation.texts("stage")) {
        bool* const stage = name == "load"    ? &stages.load
                            : name == "build" ? &stages.build
                            : name == "test"  ? &stages.test
                                              : nullptr;
        if (stage == nullptr)
            return fail(FailureKind::wrong_usage, fmt::format("`{}` is no stage", name),
                        "stages are load, build and test");
        *stage = true;
    }
    return stages;
}

Result<void> take_choice_options(const Invocation& invocation, resolve::Request& request) {
    const auto stages = stages_of(invocation);
    if (!stages) return tl::unexpected(stages.error());
    request.setting.stages = *stages;
    const std::string prefer = invocation.text("prefer");
    if (!prefer.empty() && prefer != "newest" && prefer != "oldest")
        return fail(FailureKind::wrong_usage, fmt::format("`{}` is neither newest nor oldest", prefer));
    request.setting.oldest_first = prefer == "oldest";
    if (invocation.values.count("steps") != 0) {
        request.limits.conflicts = invocation.values["steps"].as<std::uint64_t>();
        request.limits.proving = UINT64_MAX;
        request.limits.optional = UINT64_MAX;
    }
    request.limits.stop = &interrupted();
    request.jobs = invocation.shared.jobs;
    return {};
}

/// `NAME REQ` of --root.
Result<std::vector<resolve::Wanted>> wanted_roots(const Invocation& invocation, const model::ModuleTable& table) {
    std::vector<resolve::Wanted> roots;
    for (const auto& text : invocation.texts("root")) {
        const auto named = versions::split_named_requirement(text);
        auto requirement = versions::parse_requirement(named.versions);
        if (!requirement)
            return fail(FailureKind::wrong_usage, fmt::format("in `{}`: {}", text, requirement.error().message),
                        requirement.error().hint);
        if (table.names.find(named.name) == model::no_id) {
            std::vector<std::string> names;
            for (model::Id id = 0; id < table.names.size() && id < 100'000; ++id)
                names.emplace_back(table.names.text(id));
            return text::refuse(fmt::format("the catalogue holds no module `{}`", named.name),
                                text::did_you_mean(named.name, names));
        }
        const std::string range = requirement->is_any() ? "" : " " + requirement->text;
        roots.push_back(
            {named.name, std::move(*requirement), fmt::format("{}{} is asked for", named.name, range), "", 0, false});
    }
    if (invocation.values.count("root") != 0) return roots;
    std::vector<std::string_view> names;  // everything
    std::vector<bool> known(table.names.size());
    for (const model::Row& row : table.rows) {
        if (!known[row.module] && !row.withdrawn) names.push_back(table.names.text(row.module));
        known[row.module] = known[row.module] || !row.withdrawn;
    }
    std::sort(names.begin(), names.end());
    for (const auto name : names)
        roots.push_back({std::string(name), {}, fmt::format("{} is asked for", name), "", 0, true});
    return roots;
}

Result<std::unique_ptr<Stock>> open_catalogue(Invocation& invocation) {
    auto stock = std::make_unique<Stock>();
    stock->catalogue = invocation.text("catalogue");
    stock->space.root = invocation.folder;
    stock->question.space = &stock->space;
    const auto file = (invocation.folder / stock->catalogue).lexically_normal();
    auto supply =
        resolve::supply_of_catalogue(file, stock->catalogue, lazy_schemes(invocation), invocation.shared.jobs);
    if (!supply) return tl::unexpected(supply.error());
    stock->supply = std::move(*supply);
    warn_of(invocation, stock->supply.findings);
    auto roots = wanted_roots(invocation, stock->supply.table);
    if (!roots) return tl::unexpected(roots.error());
    stock->request.roots = std::move(*roots);
    stock->request.setting.platform = invocation.shared.platform;
    stock->request.setting.target = invocation.shared.target;
    if (auto taken = take_choice_options(invocation, stock->request); !taken) return tl::unexpected(taken.error());
    return stock;
}

}  // namespace

const std::atomic<bool>& interrupted() {
    static const bool installed = [] {
        struct sigaction action = {};
        action.sa_handler = on_interrupt;
        sigaction(SIGINT, &action, nullptr);
        return true;
    }();
    static_cast<void>(installed);
    return stop_wanted;
}

void warn_of(Invocation& invocation, const std::vector<text::Finding>& findings) {
    for (const auto& finding : findings)
        invocation.terminal->warn(fmt::format(
            "{}{} [{}]{}", finding.file.empty() ? "" : fmt::format("{}:{}: ", finding.file, finding.position.line),
            finding.message, finding.code, finding.hint.empty() ? "" : "\n  hint: " + finding.hint));
}

std::vector<std::string> Stock::roots() const {
    std::vector<std::string> names;
    for (const auto& root : request.roots) names.push_back(root.module);
    return names;
}

void catalogue_options(options::options_description_easy_init option) {
    option("catalogue", options::value<std::string>()->value_name("FILE"),
           "work on the modules of a catalogue, without a workspace")(
        "root", options::value<std::vector<std::string>>()->value_name("\"NAME REQ\""),
        "with --catalogue: what is wanted of it; else everything");
}

void choice_options(options::options_description_easy_init option) {
    option(
        "stage", options::value<std::vector<std::string>>()->value_name("S"),
        "needs of which stages count: load, build, test; else load and build, and test for modules with a manifest")(
        "prefer", options::value<std::string>()->value_name("newest|oldest"), "which versions come first (newest)")(
        "steps", options::value<std::uint64_t>()->value_name("N"),
        "give up after N wrong turns of the search; without it there is no end before a choice fits, and behind that "
        "about a second's work for newer versions");
}

Result<std::unique_ptr<Stock>> open_stock(Invocation& invocation) {
    static_cast<void>(interrupted());  // reading may take a while too
    if (invocation.flag("catalogue")) return open_catalogue(invocation);
    if (invocation.flag("root"))
        return fail(FailureKind::wrong_usage, "--root goes with --catalogue", "a workspace has its targets");
    auto space = open_space(invocation);
    if (!space) return tl::unexpected(space.error());
    return open_stock(invocation, std::move(*space));
}

Result<std::unique_ptr<Stock>> open_stock(Invocation& invocation, model::Space space) {
    auto stock = std::make_unique<Stock>();
    stock->space = std::move(space);
    auto question = question_of(invocation, stock->space);
    if (!question) return tl::unexpected(question.error());
    stock->question = *question;
    stock->question.environment = invocation.environment;
    for (auto& card : stock->space.cards)
        if (card.highest && !search::workspace_folders(stock->space, card).empty()) ask_host(invocation, card);
    auto supply = resolve::supply_of(stock->space, invocation.environment, invocation.shared.jobs);
    if (!supply) return tl::unexpected(supply.error());
    stock->supply = std::move(*supply);
    warn_of(invocation, stock->supply.findings);
    stock->request = resolve::request_of(stock->question);
    stock->lock = resolve::read_lock(stock->space.root);
    if (stock->lock) {
        warn_of(invocation, stock->lock->findings);
        stock->request.locked = stock->lock->modules;
    }
    if (auto taken = take_choice_options(invocation, stock->request); !taken) return tl::unexpected(taken.error());
    return stock;
}

}  // namespace envar::cli
