#include "core/life/adopt_manifest.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <utility>

#include "core/emit/generated.hpp"
#include "core/emit/values.hpp"
#include "core/files/read.hpp"
#include "core/life/adopt_named.hpp"
#include "core/life/adopt_versions.hpp"
#include "core/life/sync.hpp"
#include "core/members/definitions.hpp"
#include "core/model/field_values.hpp"
#include "core/text/utf8.hpp"

namespace envar::life {
namespace {

using model::Card;

constexpr std::string_view the_folder = "the folder's name";

void add_need(model::Manifest& manifest, const std::string& name, bool optional) {
    model::Dependency& dependency = manifest.dependencies.emplace_back();
    dependency.module.value = name;
    dependency.optional = optional;
}

bool is_needed(const model::Manifest& manifest, const std::string& name) {
    return std::any_of(manifest.dependencies.begin(), manifest.dependencies.end(),
                       [&](const auto& d) { return d.module.value == name; });
}

/// What is installed beside other versions of it has a number behind its name: `sky-2`, `sky-2.0`.
std::string without_number(const std::string& name) {
    const std::size_t dash = name.rfind('-');
    const bool has_one = dash != std::string::npos && dash > 0 && dash + 1 < name.size() &&
                         name.find_first_not_of("0123456789.", dash + 1) == std::string::npos;
    return has_one ? name.substr(0, dash) : name;
}

class ManifestOf {
  public:
    ManifestOf(const Taken& taken, const Around& around, const model::Space& space, Adopted& adopted)
        : taken_(taken), card_(*taken.from.card), around_(around), space_(space), adopted_(adopted) {}

    text::Result<WithEntry> run(const members::Patterns& patterns) {
        manifest_.name.value = taken_.name;
        manifest_.host.value = card_.name.value;
        manifest_.keeps_own_files = true;
        if (!card_.is_native()) manifest_.entry.file.value = taken_.from.entry;
        know("name", taken_.name,
             taken_.from.one_of_many  ? Sureness::guess
             : taken_.name_by.empty() ? Sureness::likely
                                      : Sureness::sure,
             taken_.name_by.empty() ? std::string(the_folder) : taken_.name_by);
        if (card_.is_native()) {
            const auto& others = taken_.from.others;
            know("build system", card_.name.value, others.empty() ? Sureness::sure : Sureness::likely,
                 taken_.from.entry);
            if (!others.empty())
                adopted_.notes.push_back(fmt::format("{0} could build it too; `--host {1}` takes that",
                                                     fmt::join(others, " or "), others.front()));
        } else {
            const auto& placement = taken_.from.placement;
            know("entry", placement ? placed(*placement, card_, taken_.from.entry) : taken_.from.entry,
                 Sureness::sure,
                 !taken_.from.bridged   ? taken_.from.entry
                 : taken_.reads.empty() ? "a new file"
                                        : "a new file that reads " + taken_.reads);
        }
        take_version();
        if (card_.is_native())
            tree_ = read_native_tree(taken_.from.folder, card_, taken_.from.entry, taken_.entry_text, taken_.name,
                                     around_.owners);
        take_summary();
        if (!taken_.told.author.empty() && !text::first_invalid_utf8(taken_.told.author))
            manifest_.authors = {taken_.told.author};
        card_.is_native() ? add_native() : add_needs();
        WithEntry out;
        if (taken_.from.bridged) {
            auto text = bridge_text();
            if (!text) return tl::unexpected(text.error());
            out.entry_text = std::move(*text);
        }
        add_members(patterns, out.entry_text);
        out.manifest = std::move(manifest_);
        return out;
    }

  private:
    void know(std::string what, std::string value, Sureness sureness, std::string by) {
        adopted_.known.push_back({std::move(what), std::move(value), sureness, std::move(by)});
    }

    void take_version() {
        std::string by;
        manifest_.version_text.value = version_of(by);
        if (!taken_.beside.empty()) return take_version_of_folder();
        manifest_.version = versions::parse_version(manifest_.version_text.value, card_.scheme);
        // A build system's own statement tells, a pattern over a script's code may be mistaken.
        const bool by_folder = by == the_folder;
        const bool by_pattern =
            !card_.is_native() && taken_.told.version.empty() && adopted_.guessed.empty() && !by_folder;
        know("version", manifest_.version_text.value,
             !adopted_.guessed.empty() ? Sureness::guess
             : by_pattern || by_folder ? Sureness::likely
                                       : Sureness::sure,
             by_pattern ? "what looks like one in its code" : by);
    }

    /// What its folder is called counts, as it lies beside others.
    void take_version_of_folder() {
        const std::string told = std::exchange(manifest_.version_text.value, taken_.beside);
        if (adopted_.guessed.empty() && told != taken_.beside)
            adopted_.notes.push_back(fmt::format("its files tell version {}, its folder {}", told, taken_.beside));
        adopted_.guessed.clear();
        manifest_.version = versions::parse_version(taken_.beside, card_.scheme);
        know("version", taken_.beside, Sureness::sure, std::string(the_folder));
    }

    /// As a file of the module tells it; `by` is which one.
    std::string version_of(std::string& by) {
        std::string version = taken_.told.version;
        by = version.empty() ? taken_.from.entry : "its own files";
        if (version.empty()) version = first_match(card_.adopt.version, taken_.entry_text);
        for (const auto& file : card_.adopt.files) {
            if (!version.empty()) break;
            by = file;
            version = first_match(card_.adopt.version,
                                  files::read_file(taken_.from.folder / file, members::largest_source).value_or(""));
        }
        // The numbers of one may stand in a list: `(2, 1, 2)`.
        std::erase_if(version, [](char c) { return c == ' ' || c == '\t'; });
        std::replace(version.begin(), version.end(), ',', '.');
        if (versions::parse_version(version, card_.scheme)) return version;
        if (const auto mended = versions::nearest_version(version, card_.scheme)) return *mended;
        by = the_folder;
        if (std::string unpacked = version_of_unpacked(); !unpacked.empty()) return unpacked;
        adopted_.guessed.emplace_back("version");
        by = "nothing";
        return card_.scheme == versions::Scheme::integer ? "1" : "0.1.0";
    }

    /// As the folder tells it, where it is called like the module too (`lua-5.4` says nothing of what is in it); or
    /// the one that was unpacked, where it is called just so.
    [[nodiscard]] std::string version_of_unpacked() const {
        const std::string own = letters_of(taken_.name);
        for (const auto& folder : {taken_.home, taken_.root}) {
            const FolderName unpacked = unpacked_name_of(card_, folder);
            const std::string name = letters_of(unpacked.name);
            const bool is_within = name.find(own) != std::string::npos || own.find(name) != std::string::npos;
            const bool is_like = folder == taken_.home ? is_within && !name.empty() && !own.empty() : name == own;
            if (is_like && folder_name_of(card_, folder).version.empty() && !unpacked.version.empty())
                return unpacked.version;
        }
        return {};
    }

    /// Where the build system's file does not tell it, a public header may.
    void take_version_of_tree() {
        const auto guessed = std::find(adopted_.guessed.begin(), adopted_.guessed.end(), "version");
        const auto version = versions::nearest_version(tree_.version, card_.scheme);
        if (guessed == adopted_.guessed.end() || !version) return;
        adopted_.guessed.erase(guessed);
        manifest_.version_text.value = *version;
        manifest_.version = versions::parse_version(*version, card_.scheme);
        for (Known& known : adopted_.known)
            if (known.what == "version") known = {"version", *version, Sureness::likely, tree_.version_by};
    }

    void take_summary() {
        const auto take = [this](const std::string& summary, Sureness sureness, const std::string& by) {
            if (summary.empty() || text::first_invalid_utf8(summary) || !manifest_.summary.empty()) return;
            manifest_.summary = summary;
            know("summary", summary, sureness, by);
        };
        take(taken_.told.summary, Sureness::sure, "its own files");
        const Sureness by_pattern = card_.is_native() ? Sureness::sure : Sureness::likely;
        take(summary_in(card_, taken_.entry_text), by_pattern,
             (card_.is_native() ? "" : "a comment in ") + (taken_.reads.empty() ? taken_.from.entry : taken_.reads));
        take(tree_.summary, Sureness::likely, tree_.summary_by);
        if (!manifest_.summary.empty()) return;
        const ReadMe about = read_me(taken_.from.folder, taken_.name);
        take(about.summary, Sureness::guess, about.file);
        if (!manifest_.summary.empty()) return;
        manifest_.summary = fmt::format("What {} does, in one sentence.", taken_.name);
        adopted_.guessed.emplace_back("summary");
        know("summary", "", Sureness::guess, "nothing");
    }

    void add_native() {
        manifest_.native = tree_.native;
        take_version_of_tree();
        know("files", tree_.usual ? "include, src" : "listed one by one",
             tree_.usual ? Sureness::sure : Sureness::likely, "what lies in the folder");
        const auto need = [this](const std::string& name, bool is_public) {
            add_need(manifest_, name, false);
            manifest_.dependencies.back().is_public = is_public;
            know("needs " + name, is_public ? "public" : "private", Sureness::sure,
                 is_public ? "what its public headers include" : "what its code includes");
        };
        for (const auto& name : tree_.public_needs) need(name, true);
        for (const auto& name : tree_.private_needs) need(name, false);
        std::vector<std::string> unknown;
        for (const auto& told : taken_.told.needs) {
            const std::string name = around_.knows(told) ? told : without_number(told);
            if (is_needed(manifest_, name)) continue;
            if (!around_.knows(name)) {
                unknown.push_back(told);
                continue;
            }
            add_need(manifest_, name, false);
            manifest_.dependencies.back().link_only = true;
            know("needs " + name, "private", Sureness::likely,
                 taken_.from.entry + ", though nothing of it is included");
        }
        if (!unknown.empty()) adopted_.notes.push_back(asks_for(taken_.from.entry, unknown));
        manifest_.native.without_tests = taken_.told.switches;
        for (const auto& [name, off] : taken_.told.switches)
            know("without tests", fmt::format("{} = {}", name, off), Sureness::likely, "what its build can be told");
    }

    void add_needs() {
        for (const auto& need : taken_.told.needs) add_need(manifest_, need, false);
        for (const auto& need : taken_.told.optional_needs) add_need(manifest_, need, true);
        for (const auto& d : manifest_.dependencies)
            know("needs " + d.module.value, d.optional ? "optional" : "", Sureness::sure, "its own files");
        for (const Loaded& need : around_.loaded) {
            if (is_needed(manifest_, need.module)) continue;
            add_need(manifest_, need.module, false);
            know("needs " + need.module, "", Sureness::sure, "what " + need.file + " loads");
        }
        for (const auto& need : around_.loaded_later)
            if (!is_needed(manifest_, need))
                adopted_.notes.push_back(
                    fmt::format("{0} does not load {1} at once, and {1} needs {0} in turn: that is no dependency",
                                taken_.name, need));
    }

    [[nodiscard]] text::Result<std::string> bridge_text() const {
        model::CardFile file;
        file.path = taken_.from.entry;
        file.template_file = card_.adopt.bridge.template_file;
        const emit::Place place = emit::place_of(space_, card_, taken_.from.folder);
        nlohmann::json values = emit::module_values(manifest_, card_, place);
        values["reads"] = taken_.reads;
        return emit::rendered(card_, file, file.path, std::move(values), place);
    }

    void add_members(const members::Patterns& patterns, const std::optional<std::string>& entry_text) {
        model::Module module;
        module.folder = taken_.from.folder;
        module.manifest = manifest_;
        const auto scan = members::scan(module, card_, space_.root, patterns, entry_text);
        for (const auto& found : scan.members) {
            // Some languages have names that no list can hold.
            const bool listed = model::is_name(found.name);
            if (listed) manifest_.members.push_back(member_of(found, nullptr));
            manifest_.exports_all = manifest_.exports_all || !listed;
        }
        know("members", std::to_string(scan.members.size()), Sureness::likely,
             tree_.installs    ? "the headers that it installs"
             : scan.of_headers ? "its public headers"
                               : "what its sources define");
        adopted_.members = scan.members.size();
    }

    const Taken& taken_;
    const Card& card_;
    const Around& around_;
    const model::Space& space_;
    Adopted& adopted_;
    model::Manifest manifest_;
    NativeTree tree_;  // of a native module only
};

}  // namespace

text::Result<WithEntry> manifest_of(const Taken& taken, const Around& around, const members::Patterns& patterns,
                                    const model::Space& space, Adopted& adopted) {
    return ManifestOf(taken, around, space, adopted).run(patterns);
}

}  // namespace envar::life
