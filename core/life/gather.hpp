// A module from functions that lie in loose scripts: what is there, what of it is twofold, what goes along with the
// functions that are chosen, and the module with them. The scripts stay as they are.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "core/files/plan.hpp"
#include "core/life/scaffold.hpp"
#include "core/members/scan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

struct LooseFunction {
    members::FoundMember member;
    std::size_t script = 0;          // in `LooseScripts::scripts`
    std::string code;                // with the comment above it
    std::string uses;                // the same without words that name nothing
    std::size_t lines = 0;           // of the code
    std::vector<std::string> calls;  // names of functions of any of the scripts, sorted
    std::string body;                // by which it is compared: no name, no comments, blanks made one

    [[nodiscard]] const std::string& name() const { return member.name; }
};

/// A statement of a script that defines no function.
struct LooseStatement {
    std::size_t begin = 0;  // in the text
    std::size_t line = 0;
    std::string code;
    std::string uses;                // the same without words that name nothing
    std::vector<std::string> names;  // what it sets or brings, where the card can tell
    std::vector<std::string> words;  // that it is made of
    bool along = false;              // it can go along with functions that use the names
    bool always = false;             // it goes along with any
    bool own = false;                // it sets what a module sets itself
};

struct LooseScript {
    std::string file;  // as shown
    std::vector<LooseStatement> statements;
    std::string program;  // that its first line names, where that is not the host's; empty: else
};

enum class Likeness {
    same,      // the same name, the same body
    versions,  // the same name, different bodies
    copies,    // different names, the same body
    alike,     // different names, most lines are the same
};
[[nodiscard]] std::string_view likeness_name(Likeness likeness);

struct Duplicate {
    Likeness likeness = Likeness::same;
    std::vector<std::size_t> functions;  // in `LooseScripts::functions`, at least two
    std::string difference;              // unified, of the first two that differ; empty: there is none
};

struct LooseScripts {
    std::vector<LooseScript> scripts;
    std::vector<LooseFunction> functions;  // by script, in order of the text
    std::vector<Duplicate> duplicates;     // by name of the first, `same` before `versions` …
    std::vector<std::string> passed_over;  // files that are no text, cannot be read …, and why

    /// "a.sh:3", for people.
    [[nodiscard]] std::string place(std::size_t function) const;
};

/// Scripts, or folders of them, with how they are called.
struct NamedPath {
    std::filesystem::path path;
    std::string shown;
};

/// Reads scripts, and those in folders, with up to `jobs` threads. Fails when a name is neither file nor folder, or
/// nothing in them is a script for the card's host.
[[nodiscard]] text::Result<LooseScripts> loose_scripts(const model::Card& card, const std::vector<NamedPath>& from,
                                                       unsigned jobs);

/// Fills in `duplicates`.
void find_duplicates(LooseScripts& scripts);

struct GatherWishes {
    std::vector<std::string> pick;    // NAME or FILE:NAME; empty: all that can be
    std::vector<std::string> drop;    // the same
    std::vector<std::string> prefer;  // files; of functions of one name that of the first of them counts
};

/// A name that stands for different bodies, of which no wish chooses.
struct Clash {
    std::string name;
    std::vector<std::size_t> functions;
    std::string needed_by;  // empty: it is picked itself
};

struct Chosen {
    std::vector<std::size_t> exported;                      // functions, in order
    std::vector<std::size_t> helpers;                       // that they call
    std::map<std::size_t, std::vector<std::size_t>> along;  // script → its statements that go along
    std::vector<Clash> clashes;                             // when there are any, there is no module yet
    std::vector<std::string> warnings;                      // what would not survive the move, with places
    std::vector<std::string> left_out;                      // functions that cannot be taken, and why
};

/// Fails when a wish names what is not there.
[[nodiscard]] text::Result<Chosen> choose_functions(const LooseScripts& scripts, const model::Card& card,
                                                    const std::string& module, const GatherWishes& wishes);

/// Scripts that have functions of the module in them and could load it instead: which, and how many.
struct Loader {
    std::size_t script = 0;
    std::vector<std::string> functions;
};
[[nodiscard]] std::vector<Loader> possible_loaders(const LooseScripts& scripts, const Chosen& chosen);

/// What goes into the module's files.
[[nodiscard]] emit::GatheredCode gathered_code(const LooseScripts& scripts, const model::Card& card,
                                               const Chosen& chosen);

/// The plan of the new module. `order` names it; its members and blueprint are left empty. `form`: "one_file" or
/// "file_each"; empty: the first that the card knows.
[[nodiscard]] text::Result<files::Plan> gather_plan(const model::Space& space, ScaffoldOrder order,
                                                    const std::string& form, const LooseScripts& scripts,
                                                    const Chosen& chosen);

}  // namespace envar::life
