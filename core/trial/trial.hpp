// The trial: modules are loaded in the real host, and what it did is compared with what Envar predicted.
//
// The host is started without a shell, in an empty folder, with a scrubbed environment that holds the search
// variables and no start-up files of the user's. The card's probe loads the modules in the predicted order
// and reports to a file; a report is a line of fields separated by U+001F and ended by U+001E and a line end:
//
//     ask NAME · begin NAME · loaded NAME FILE VERSION MILLISECONDS · member NAME MEMBER [KIND] ·
//     called NAME MEMBER PARAMETER… · failed NAME MESSAGE · end
//
// `called` tells what a function is called with, where the host knows: names in order, those that can be left out
// with `=` behind them, `_` for one that the host has no name for.
//
// `ask` is said whenever a module of the workspace is asked for, loaded or not; between the `begin` and the
// `loaded` of another one it is that one's need, and must be declared.
//
// The probe must report a module when the host has really finished loading it, also when another module
// caused that; so the order of `loaded` is the host's own.
#pragma once

#include <filesystem>
#include <functional>
#include <map>
#include <string>
#include <vector>

#include "core/members/scan.hpp"
#include "core/model/space.hpp"
#include "core/resolve/resolve.hpp"

namespace envar::trial {

/// One run of a build system for a module.
struct BuildStep {
    std::string name;
    bool passed = false;
    double milliseconds = 0;
};

struct ModuleTrial {
    std::string module;
    std::string host;
    std::string predicted_file;
    std::string picked_file;
    std::size_t predicted_position = 0;  // among the host's modules, from 1
    std::size_t actual_position = 0;     // 0: it was not loaded
    std::string version;                 // as the host saw it; empty: the module does not tell
    double milliseconds = 0;
    std::vector<std::string> expected_members;
    std::vector<std::string> seen_members;
    std::vector<members::FoundMember> expected_calls;  // of the source: those that tell what they are called with
    std::vector<members::FoundMember> seen;            // as the host shows them: name, kind and parameters
    std::string error;                                 // the host's own words
    std::string blame;                     // place in the manifest that the error speaks of; empty: none is known
    std::vector<BuildStep> steps;          // of a native module
    std::vector<std::string> differences;  // empty: the host did as predicted

    [[nodiscard]] bool agrees() const { return differences.empty() && error.empty(); }
};

/// One test of a module, run by the real host: it passes when the host ends with status 0.
struct TestRun {
    std::string module;
    std::string file;  // relative to the workspace
    bool passed = false;
    double milliseconds = 0;
    std::string words;  // what the host said when it failed
};

struct HostTrial {
    std::string host;
    std::string program;
    std::string version;
    double milliseconds = 0;
    std::string trouble;               // empty, or why the run as a whole went wrong
    std::string folder;                // the sandbox, when it was kept
    std::vector<ModuleTrial> modules;  // in predicted order
    std::vector<TestRun> tests;
};

struct Trial {
    std::vector<HostTrial> hosts;
    std::vector<std::string> untried;   // modules that no host was asked to load, and why
    bool hindered = false;              // some of them as what they need is not there, or the host does not see them
    [[nodiscard]] bool agrees() const;  // the hosts did as predicted
    [[nodiscard]] bool tests_pass() const;
};

struct Settings {
    resolve::Question question;
    std::vector<std::string> modules;  // only what these need; empty: all
    std::string program_path;          // PATH to find hosts in
    std::filesystem::path temporary;   // where sandboxes are made
    double time_limit = 0;             // seconds; 0: the card's
    bool keep = false;
    bool tests = false;                            // run the modules' tests too
    unsigned jobs = 1;                             // of a build
    std::map<std::string, std::string> compilers;  // variables by which a build chooses its compiler and its flags
    std::function<void(const std::string&)> progress;  // told before each long step; may be empty
};

/// Fails when a host is not installed or cannot be started; what a host did wrong is in the result.
[[nodiscard]] text::Result<Trial> run_trial(const Settings& settings);

/// What a host said; where it is very long, without its middle: about so many bytes of its beginning and of its end.
[[nodiscard]] std::string host_words(std::string_view text, std::size_t kept = 8000);

/// The tests that a module's manifest names: its files, then the files of its folder, relative to the module.
[[nodiscard]] std::vector<std::string> test_files(const model::Module& module, const model::Card& card);

/// The host's version as it tells it, or empty.
[[nodiscard]] std::string host_version(const model::Card& card, const std::filesystem::path& program);

}  // namespace envar::trial
