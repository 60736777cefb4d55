// envar gather: a module from functions that lie in loose scripts.
#include "core/life/gather.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>
#include <iostream>
#include <set>

#include "cli/commands/commands.hpp"
#include "cli/json_text.hpp"
#include "cli/workbench.hpp"
#include "core/model/space.hpp"
#include "core/text/template.hpp"
#include "core/text/utf8.hpp"

namespace envar::cli {
namespace {

constexpr std::size_t most_rows = 60;        // functions told on the terminal
constexpr std::size_t most_duplicates = 12;  // with their difference
constexpr std::size_t most_warnings = 40;
constexpr std::size_t most_passed_told = 10;  // files that were passed over
constexpr std::ptrdiff_t taken_column = 6;

std::string places_of(const life::LooseScripts& scripts, const std::vector<std::size_t>& functions) {
    std::vector<std::string> out;
    out.reserve(functions.size());
    for (const std::size_t i : functions)
        out.push_back(fmt::format("{} ({})", scripts.functions[i].name(), scripts.place(i)));
    return fmt::format("{}", fmt::join(out, ", "));
}

/// What is done with a function, for tables.
std::string fate_of(std::size_t index, const life::Chosen* chosen) {
    if (chosen == nullptr) return "";
    const auto is_in = [&](const std::vector<std::size_t>& list) {
        return std::find(list.begin(), list.end(), index) != list.end();
    };
    if (is_in(chosen->exported)) return "member";
    if (is_in(chosen->helpers)) return "helper";
    return std::any_of(chosen->clashes.begin(), chosen->clashes.end(),
                       [&](const life::Clash& clash) { return is_in(clash.functions); })
               ? "to choose"
               : "";
}

Table table_of(const life::LooseScripts& scripts, const life::Chosen* chosen) {
    Table table{{"", "function", "place", "lines", "bytes", "calls", "taken as", "what it does"}, {}};
    for (std::size_t i = 0; i < scripts.functions.size(); ++i) {
        const auto& function = scripts.functions[i];
        table.rows.push_back({std::to_string(i + 1), function.name(), scripts.place(i),
                              std::to_string(function.lines), std::to_string(function.code.size()),
                              fmt::format("{}", fmt::join(function.calls, " ")), fate_of(i, chosen),
                              text::printable(function.member.summary)});
    }
    return table;
}

std::string json_of(const life::LooseScripts& scripts, const life::Chosen* chosen) {
    JsonText out;
    out.object().key("functions").list();
    for (std::size_t i = 0; i < scripts.functions.size(); ++i) {
        const auto& function = scripts.functions[i];
        out.row().key("name").value(function.name()).key("file").value(function.member.file);
        out.key("line").value(function.member.line).key("lines").value(function.lines);
        out.key("bytes").value(function.code.size()).key("summary").value(function.member.summary);
        out.key("calls").value(function.calls).key("taken_as").value(fate_of(i, chosen)).end();
    }
    out.end().key("duplicates").list();
    for (const auto& duplicate : scripts.duplicates) {
        out.object().key("kind").value(life::likeness_name(duplicate.likeness)).key("functions").list();
        for (const std::size_t i : duplicate.functions)
            out.row()
                .key("name")
                .value(scripts.functions[i].name())
                .key("file")
                .value(scripts.functions[i].member.file)
                .key("line")
                .value(scripts.functions[i].member.line)
                .end();
        out.end().key("difference").value(duplicate.difference).end();
    }
    out.end().key("clashes").list();
    if (chosen != nullptr)
        for (const auto& clash : chosen->clashes) {
            out.object().key("name").value(clash.name).key("needed_by").value(clash.needed_by).key("places").list();
            for (const std::size_t i : clash.functions) out.value(scripts.place(i));
            out.end().end();
        }
    out.end().key("warnings").value(chosen == nullptr ? std::vector<std::string>{} : chosen->warnings);
    out.key("left_out").value(chosen == nullptr ? std::vector<std::string>{} : chosen->left_out);
    out.key("scripts").list();
    if (chosen != nullptr)
        for (const auto& loader : life::possible_loaders(scripts, *chosen))
            out.row()
                .key("file")
                .value(scripts.scripts[loader.script].file)
                .key("functions")
                .value(loader.functions)
                .key("program")
                .value(scripts.scripts[loader.script].program)
                .end();
    return out.end().key("passed_over").value(scripts.passed_over).end().take();
}

class Gathering {
  public:
    Gathering(Invocation& invocation, const model::Card& card) : invocation_(invocation), card_(card) {
        wishes_ = {invocation.texts("pick"), invocation.texts("drop"), invocation.texts("prefer")};
    }

    text::Result<void> read() {
        std::vector<life::NamedPath> from;
        for (const auto& word : invocation_.texts("from"))
            from.push_back({(invocation_.folder / word / "").lexically_normal().parent_path(), word});
        if (from.empty())
            return text::fail(text::FailureKind::wrong_usage, "`gather` needs --from",
                              "name the scripts, or folders of them");
        invocation_.terminal->progress("reading the scripts");
        auto scripts = life::loose_scripts(card_, from, invocation_.shared.jobs);
        invocation_.terminal->progress("");
        if (!scripts) return tl::unexpected(scripts.error());
        scripts_ = std::move(*scripts);
        const auto& passed = scripts_.passed_over;
        for (std::size_t i = 0; i < std::min(passed.size(), most_passed_told); ++i)
            invocation_.terminal->warn("passed over: " + passed[i]);
        if (passed.size() > most_passed_told)
            invocation_.terminal->warn(
                fmt::format("passed over: {} more, in the results", passed.size() - most_passed_told));
        return {};
    }

    text::Result<void> choose() {
        auto chosen = life::choose_functions(scripts_, card_, module(), wishes_);
        if (!chosen) return tl::unexpected(chosen.error());
        chosen_ = std::move(*chosen);
        return {};
    }

    [[nodiscard]] std::string module() const {
        return invocation_.words.empty() ? std::string() : invocation_.words[0];
    }

    void show_functions(const life::Chosen* chosen) const {
        Table table = table_of(scripts_, chosen);
        const std::size_t all = table.rows.size();
        if (chosen == nullptr) {  // nothing is taken as anything yet
            table.head.erase(table.head.begin() + taken_column);
            for (auto& row : table.rows) row.erase(row.begin() + taken_column);
        }
        if (all > most_rows) table.rows.resize(most_rows);
        invocation_.terminal->table(table);
        if (all > most_rows)
            invocation_.terminal->line(fmt::format("… and {} more, in the results", all - most_rows));
    }

    void show_duplicates() const {
        std::size_t told = 0;
        for (const auto& duplicate : scripts_.duplicates) {
            if (told++ == most_duplicates) {
                invocation_.terminal->line(fmt::format("… and {} more duplicates, in the results",
                                                       scripts_.duplicates.size() - most_duplicates));
                break;
            }
            const std::string_view what = duplicate.likeness == life::Likeness::same ? "the same in several scripts"
                                          : duplicate.likeness == life::Likeness::versions
                                              ? "one name, different bodies"
                                          : duplicate.likeness == life::Likeness::copies ? "one body, different names"
                                                                                         : "most lines are the same";
            invocation_.terminal->line(fmt::format("\n{}: {}", what, places_of(scripts_, duplicate.functions)));
            if (!duplicate.difference.empty()) invocation_.terminal->diff(duplicate.difference);
        }
    }

    /// At a terminal the user picks; nothing typed: all.
    text::Result<void> ask() {
        if (!asks() || !wishes_.pick.empty()) return {};
        show_functions(nullptr);
        show_duplicates();
        const std::string answer = asked("\nwhich ones? names or numbers, as in `1 3-5 place`; nothing: all > ");
        for (std::size_t at = 0; at < answer.size();) {
            const std::size_t end = std::min(answer.find_first_of(" ,\t", at), answer.size());
            if (end > at)
                if (auto fine = take_answer(answer.substr(at, end - at)); !fine) return fine;
            at = end + 1;
        }
        return {};
    }

    /// Of functions of one name and different bodies the user chooses.
    text::Result<void> ask_clashes() {
        while (asks() && !chosen_.clashes.empty()) {
            const life::Clash clash = chosen_.clashes.front();
            invocation_.terminal->line(
                fmt::format("\n`{}` stands for different things{}:", clash.name,
                            clash.needed_by.empty() ? "" : ", and " + clash.needed_by + " calls it"));
            for (std::size_t i = 0; i < clash.functions.size(); ++i)
                invocation_.terminal->line(fmt::format("  {}  {}", i + 1, scripts_.place(clash.functions[i])));
            const std::string answer = asked("which one? its number > ");
            std::size_t number = 0;
            std::from_chars(answer.data(), answer.data() + answer.size(), number);
            if (number == 0 || number > clash.functions.size()) return {};
            wishes_.prefer.push_back(scripts_.functions[clash.functions[number - 1]].member.file);
            if (auto fine = choose(); !fine) return fine;
        }
        return {};
    }

    void show_clashes() const {
        for (const auto& clash : chosen_.clashes) {
            std::vector<std::string> places;
            for (const std::size_t i : clash.functions) places.push_back(scripts_.place(i));
            invocation_.terminal->failure(
                {text::FailureKind::answer_is_no,
                 fmt::format("`{}` stands for different things: {}{}", clash.name, fmt::join(places, ", "),
                             clash.needed_by.empty() ? "" : fmt::format("; {} calls it", clash.needed_by)),
                 fmt::format("--prefer {} takes that one; --drop {} none",
                             scripts_.functions[clash.functions[0]].member.file, clash.name)});
        }
    }

    [[nodiscard]] std::vector<std::string> remarks() const {
        std::vector<std::string> out;
        for (const auto& left : chosen_.left_out) out.push_back(left);
        for (std::size_t i = 0; i < chosen_.warnings.size(); ++i) {
            if (i == most_warnings) {
                out.push_back(fmt::format("… and {} more warnings, in the results", chosen_.warnings.size() - i));
                break;
            }
            invocation_.terminal->warn(chosen_.warnings[i]);
        }
        const auto loaders = life::possible_loaders(scripts_, chosen_);
        for (std::size_t i = 0; i < loaders.size(); ++i) {
            if (i == most_duplicates) {
                out.push_back(fmt::format("… and {} more scripts could load it, in the results", loaders.size() - i));
                break;
            }
            const life::LooseScript& script = scripts_.scripts[loaders[i].script];
            const std::string where =
                script.program.empty() || card_.programs.empty()
                    ? ""
                    : fmt::format(" where {} runs it, not {}", card_.programs.front(), script.program);
            out.push_back(fmt::format("{} could load it{}, and do without its own {}: {}", script.file, where,
                                      fmt::join(loaders[i].functions, ", "),
                                      text::fill(card_.gather.load, {{"name", module()}})));
        }
        return out;
    }

    [[nodiscard]] const life::LooseScripts& scripts() const { return scripts_; }
    [[nodiscard]] const life::Chosen& chosen() const { return chosen_; }

  private:
    [[nodiscard]] bool asks() const {
        return ::isatty(STDIN_FILENO) == 1 && ::isatty(STDOUT_FILENO) == 1 && !invocation_.shared.json &&
               !invocation_.terminal->quiet();
    }

    [[nodiscard]] std::string asked(const std::string& question) const {
        invocation_.terminal->raw(question);
        static_cast<void>(invocation_.terminal->flush());
        std::string answer;
        std::getline(std::cin, answer);
        return answer;
    }

    /// `3`, `3-5` or a name.
    text::Result<void> take_answer(const std::string& word) {
        std::size_t first = 0, last = 0;
        const char* end = word.data() + word.size();
        auto [at, error] = std::from_chars(word.data(), end, first);
        last = first;
        if (error == std::errc() && at != end && *at == '-') at = std::from_chars(at + 1, end, last).ptr;
        if (error != std::errc() || at != end) {
            wishes_.pick.push_back(word);
            return {};
        }
        if (first == 0 || last < first || last > scripts_.functions.size())
            return text::refuse(fmt::format("there is no number {}", word),
                                fmt::format("the list goes up to {}", scripts_.functions.size()));
        for (std::size_t i = first; i <= last; ++i)
            wishes_.pick.push_back(
                fmt::format("{}:{}", scripts_.functions[i - 1].member.file, scripts_.functions[i - 1].name()));
        return {};
    }

    Invocation& invocation_;
    const model::Card& card_;
    life::GatherWishes wishes_;
    life::LooseScripts scripts_;
    life::Chosen chosen_;
};

Outcome run_gather(Invocation& invocation) {
    const bool list = invocation.flag("list");
    if (invocation.text("host").empty())
        return text::fail(text::FailureKind::wrong_usage, "`gather` needs --host", "`envar hosts` lists the hosts");
    if (!list && invocation.words.empty())
        return text::fail(text::FailureKind::wrong_usage, "`gather` needs the name of the new module",
                          "`envar gather --list --host H --from FILE…` only lists the functions");
    auto desk = open_desk(invocation);
    if (!desk) return tl::unexpected(desk.error());
    const auto card = known_card(desk->space.cards, invocation.text("host"));
    if (!card) return tl::unexpected(card.error());
    if ((*card)->gather.scripts.empty())
        return text::refuse(fmt::format("the card {} does not say how functions are gathered", (*card)->name.value),
                            "a card needs [gather] for that; `envar explain gather` tells of it");
    Gathering gathering(invocation, **card);
    if (auto read = gathering.read(); !read) return tl::unexpected(read.error());
    // What is written answers by itself with --format json; what only lists or refuses by the listing.
    const auto leave = [&](const life::Chosen* chosen) {
        const Table table = table_of(gathering.scripts(), chosen);
        Invocation own = invocation;
        own.shared.json = invocation.shared.json && (chosen == nullptr || !chosen->clashes.empty());
        return leave_results(own, desk->space.root, "gather", json_of(gathering.scripts(), chosen), &table);
    };
    if (list) {
        auto print = leave(nullptr);
        if (!print) return tl::unexpected(print.error());
        if (!*print) return fine;
        gathering.show_functions(nullptr);
        gathering.show_duplicates();
        return fine;
    }
    if (auto asked = gathering.ask(); !asked) return tl::unexpected(asked.error());
    if (auto chosen = gathering.choose(); !chosen) return tl::unexpected(chosen.error());
    if (auto asked = gathering.ask_clashes(); !asked) return tl::unexpected(asked.error());
    auto print = leave(&gathering.chosen());
    if (!print) return tl::unexpected(print.error());
    if (!gathering.chosen().clashes.empty()) {
        if (*print) {
            gathering.show_functions(&gathering.chosen());
            gathering.show_duplicates();
        }
        gathering.show_clashes();
        return answer_is_no;
    }
    life::ScaffoldOrder order;
    order.name = gathering.module();
    order.host = (*card)->name.value;
    order.version = invocation.text("module-version");
    order.folder = invocation.text("in");
    order.identity = fresh_identity();
    auto settings = settings_of(invocation);
    if (!settings) return tl::unexpected(settings.error());
    order.settings = std::move(*settings);
    auto plan = life::gather_plan(desk->space, std::move(order), invocation.text("form"), gathering.scripts(),
                                  gathering.chosen());
    if (!plan) return tl::unexpected(plan.error());
    std::vector<std::string> next = gathering.remarks();
    next.push_back(fmt::format("the scripts are as they were; {} and {} are in the module",
                               counted(gathering.chosen().exported.size(), "member"),
                               counted(gathering.chosen().helpers.size(), "helper")));
    next.push_back(
        fmt::format("next: `envar check {0} && envar trial {0}`, and complete the tests", gathering.module()));
    return carry_out(invocation, *plan, desk->lock, next);
}

}  // namespace

Command gather_command() {
    return {
        "gather",
        "Start",
        "NAME",
        0,
        1,
        "make a module from functions that lie in loose scripts",
        "Lists the functions of the scripts, with what each calls, and tells duplicates: one name with different\n"
        "bodies, one body under different names, and what is much alike, with the difference. Then writes a new module\n"
        "with those that are chosen and with what they call, its manifest, and a test to be completed for each member,\n"
        "and warns of what would not survive the move. The scripts stay as they are. At a terminal it asks.\n\n"
        "  envar gather --list --host bash --from ~/scripts\n"
        "  envar gather night_tools --host bash --from scripts/open.sh scripts/close.sh\n"
        "  envar gather night_tools --host bash --from scripts --pick shutter_open --pick stamp\n"
        "  envar gather night_tools --host bash --from scripts --drop main --prefer scripts/close.sh\n"
        "  envar gather star_tools --host lua --from scripts --form file_each",
        [](options::options_description_easy_init option) {
            using Texts = std::vector<std::string>;
            option("host", options::value<std::string>()->value_name("H"),
                   "the host that the scripts are for; `envar hosts` lists them")  //
                ("from", options::value<Texts>()->multitoken()->composing()->value_name("FILE…"),
                 "the scripts, or folders of them")                      //
                ("list", "only list what there is; nothing is written")  //
                ("pick", options::value<Texts>()->composing()->value_name("F"),
                 "take this function, NAME or FILE:NAME; may be repeated; else all")  //
                ("drop", options::value<Texts>()->composing()->value_name("F"),
                 "leave this one out; may be repeated")  //
                ("prefer", options::value<Texts>()->composing()->value_name("FILE"),
                 "of functions of one name take that of this script; may be repeated")  //
                ("form", options::value<std::string>()->value_name("FORM"),
                 "one_file or file_each; else the card's first")  //
                ("module-version", options::value<std::string>()->value_name("V"),
                 "version to begin with; else what the scripts tell, or 0.1.0")  //
                ("in", options::value<std::string>()->value_name("FOLDER"),
                 "folder it is made in; else the host's first search folder")  //
                ("set", options::value<Texts>()->composing()->value_name("K=V"),
                 "summary, license or author; may be repeated");
        },
        run_gather};
}

}  // namespace envar::cli
