// What the scanner finds in other people's code, against what the real interpreters have after reading it.
#include <doctest/doctest.h>

#include <atomic>
#include <filesystem>
#include <set>
#include <sstream>
#include <thread>
#include <tuple>

#include "core/files/read.hpp"
#include "core/members/definitions.hpp"
#include "core/process/run.hpp"

using namespace envar;
namespace fs = std::filesystem;

namespace {

/// What is compared of a definition: each with what stands before it.
enum class Compared { names, lines, parameters };

// Under the sanitizers every step is watched, and an eighth of the files is enough.
#ifdef ENVAR_SANITIZED
constexpr std::size_t share = 8;
#else
constexpr std::size_t share = 1;
#endif

using Fact = std::tuple<std::string, std::string, std::string>;  // name, line, parameters

model::Card card_of(const std::string& name) {
    std::vector<text::Finding> findings;
    for (auto& card : model::load_cards({{ENVAR_SOURCE_FOLDER "/hosts", "shipped"}}, "/", findings))
        if (card.name.value == name) return card;
    return {};
}

std::vector<fs::path> files_in(const std::vector<fs::path>& folders, const std::string& ending) {
    std::set<fs::path> out;  // each once, whatever links lead to it
    for (const auto& folder : folders)
        for (const auto& entry : fs::directory_iterator(folder))
            if (entry.is_regular_file() && entry.path().string().ends_with(ending))
                out.insert(fs::canonical(entry.path()));
    return {out.begin(), out.end()};
}

/// Lines of NAME, LINE and PARAMETERS, with tabs between; nothing when the interpreter cannot load the file.
std::set<Fact> told_by(const std::string& interpreter, const std::string& script, const fs::path& file) {
    const auto program = process::find_program({interpreter}, "/usr/local/bin:/usr/bin:/bin");
    if (!program) return {};
    process::Command command;
    command.arguments = {program->string(), std::string(ENVAR_SOURCE_FOLDER "/tests/truth/") + script, file.string()};
    command.folder = "/tmp";
    command.environment = {{"PATH", "/usr/local/bin:/usr/bin:/bin"}, {"HOME", "/nonexistent"}};
    const auto run = process::run(command);
    if (!run) return {};
    std::set<Fact> facts;
    std::istringstream lines(run->output);
    for (std::string line; std::getline(lines, line);) {
        std::istringstream words(line);
        std::string name, number, parameters;
        std::getline(words, name, '\t');
        std::getline(words, number, '\t');
        std::getline(words, parameters);
        facts.insert({name, number, parameters});
    }
    return facts;
}

/// What the interpreter tells of each file; several at a time.
std::vector<std::set<Fact>> told_by(const std::string& interpreter, const std::string& script,
                                    const std::vector<fs::path>& files) {
    std::vector<std::set<Fact>> facts(files.size());
    std::atomic<std::size_t> next{0};
    const auto work = [&] {
        for (std::size_t i = next++; i < files.size(); i = next++) facts[i] = told_by(interpreter, script, files[i]);
    };
    std::vector<std::thread> threads;
    for (unsigned i = 1; i < std::thread::hardware_concurrency(); ++i) threads.emplace_back(work);
    work();
    for (auto& thread : threads) thread.join();
    return facts;
}

}  // namespace

TEST_CASE("members in packages of others are those that the real interpreters have") {
    struct Corpus {
        std::string host, interpreter, script, ending;
        std::vector<fs::path> folders;
        std::size_t least, dynamic;
        Compared compared = Compared::parameters;
        std::size_t every = 1;      // of so many files one is looked at
        std::size_t elsewhere = 0;  // of those found, which the code defines on conditions that do not hold here
    };
    const std::vector<Corpus> corpora = {
        {"lua", "lua5.4", "truth.lua", ".lua", {"/usr/share/lua/5.4/pl"}, 400, 15},
        {"bash",
         "bash",
         "truth.bash",
         "",
         {"/usr/share/bash-completion", "/usr/share/bash-completion/completions"},
         1000,
         7},
        {"python", "python3", "truth.py", ".py", {"/usr/lib/python3.11", "/usr/lib/python3.11/email"}, 2000, 0},
        {"fish", "fish", "truth.fish", ".fish", {"/usr/share/fish/functions"}, 250, 0},
        {"tcl", "tclsh", "truth.tcl", ".tcl", {"/usr/share/tcltk/tcl8.6"}, 50, 0, Compared::parameters, 1, 3},
        {"perl", "perl", "truth.pl", ".pm", {"/usr/share/perl/5.36", "/usr/share/perl/5.36/File"}, 500, 4},
        {"guile",
         "guile",
         "truth.scm",
         ".scm",
         {"/usr/share/guile/3.0/ice-9", "/usr/share/guile/3.0/srfi", "/usr/share/guile/3.0/web"},
         1400,
         0},
        {"zsh",
         "zsh",
         "truth.zsh",
         "",
         {"/usr/share/zsh/functions/Completion/Unix", "/usr/share/zsh/functions/Zle"},
         1000,
         0,
         Compared::names},
        {"cxx", "sh", "truth_header.sh", ".h", {"/usr/include/openssl"}, 3000, 0, Compared::lines, 3},
    };
    for (const auto& corpus : corpora) {
        model::Card card = card_of(corpus.host);
        card.internal_pattern.clear();  // they count too
        card.export_pattern.clear();
        const members::Patterns patterns(card);
        std::size_t all = 0, missed = 0, wrong = 0;
        std::string some;
        std::vector<fs::path> files;
        for (const auto& file : files_in(corpus.folders, corpus.ending))
            if (std::hash<std::string>{}(file.filename().string()) % (corpus.every * share) == 0)
                files.push_back(file);
        const auto truths = told_by(corpus.interpreter, corpus.script, files);
        for (std::size_t i = 0; i < files.size(); ++i) {
            const fs::path& file = files[i];
            const auto& truth = truths[i];
            const auto text = files::read_file(file, std::size_t{16} << 20U);
            REQUIRE(text.has_value());
            std::set<Fact> found;
            for (const auto& member :
                 members::definitions(text::Source(file.string(), *text), card, patterns.compiled(), false, "")) {
                if (member.kind != "function" && member.kind != "command" && member.kind != "macro" &&
                    member.kind != "class")
                    continue;
                std::string parameters;
                for (const auto& p : member.parameters)
                    if (p.name != "self" && corpus.compared == Compared::parameters)
                        parameters += (parameters.empty() ? "" : " ") + p.name;
                const bool lines = corpus.compared != Compared::names;
                found.insert({member.name, lines ? std::to_string(member.line) : "", parameters});
            }
            if (truth.empty()) continue;
            for (const Fact& fact : truth) {
                if (found.count(fact) == 0)
                    some += file.string() + " lacks " + std::get<0>(fact) + ":" + std::get<1>(fact) + "\n";
                missed += found.count(fact) == 0 ? 1 : 0;
            }
            for (const Fact& fact : found) {
                if (truth.count(fact) == 0)
                    some += file.string() + " invents " + std::get<0>(fact) + ":" + std::get<1>(fact) + " " +
                            std::get<2>(fact) + "\n";
                wrong += truth.count(fact) == 0 ? 1 : 0;
            }
            all += truth.size();
        }
        CAPTURE(corpus.host);
        CAPTURE(all);
        CAPTURE(missed);
        CAPTURE(wrong);
        CAPTURE(some);
        CHECK(all > 0);
        if (share > 1) continue;  // too few for shares of them to say anything
        CHECK(all >= corpus.least);
        // Besides what is made while the code runs, and what is defined for other systems.
        CHECK(100 * (missed - std::min(missed, corpus.dynamic)) <= all);
        CHECK(100 * (wrong - std::min(wrong, corpus.elsewhere)) <= all);
    }
}
