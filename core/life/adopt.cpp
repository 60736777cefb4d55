#include "core/life/adopt.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/files/read.hpp"
#include "core/life/adopt_facts.hpp"
#include "core/life/adopt_find.hpp"
#include "core/life/adopt_imports.hpp"
#include "core/life/adopt_installed.hpp"
#include "core/life/adopt_native.hpp"
#include "core/life/registration.hpp"
#include "core/life/sync.hpp"
#include "core/members/scan.hpp"
#include "core/model/field_values.hpp"
#include "core/model/limits.hpp"
#include "core/model/schema.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/text/names.hpp"
#include "core/text/utf8.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using model::Card;
using text::refuse;
using text::Result;

constexpr std::size_t largest_source = std::size_t{16} << 20U;
constexpr std::size_t largest_copy = std::size_t{64} << 20U;

/// A module on its way, with what its files tell.
struct Taken {
    Foreign from;
    fs::path root;  // the folder that was named, or the one that the module lies in
    std::string entry_text;
    Told told;
    std::string name;
    std::string name_by;  // the file that tells it; empty: none does
};

/// How a folder is called: relative to the workspace, also where the way leads out of it.
std::string shown_from(const fs::path& root, const fs::path& folder) {
    const fs::path way = folder.lexically_relative(root);
    return way.empty() ? folder.string() : way.generic_string();
}

class Adopter {
  public:
    Adopter(const model::Space& space, const AdoptOrder& order) : space_(space), order_(order) {}

    Result<Adoption> run() {
        if (!order_.into.empty() && !files::stays_inside(order_.into))
            return refuse(fmt::format("the folder `{}` lies outside the workspace", order_.into),
                          "name one inside it");
        adoption_.plan.root = space_.root;
        model::add_schemas(adoption_.plan);
        for (const auto& folder : order_.folders)
            if (auto fine = find(folder); !fine) return tl::unexpected(fine.error());
        if (taken_.empty())
            return refuse("there is nothing to adopt", adoption_.passed_over.empty() ? "name folders with modules"
                                                                                     : adoption_.passed_over.front());
        find_header_owners();
        find_givers();
        find_needs();
        for (const Taken& taken : taken_) ++homes_[home_name(taken)];
        for (const Taken& taken : taken_)
            if (auto fine = write(taken); !fine) return tl::unexpected(fine.error());
        if (auto fine = add_host_files(space_, made_, adoption_.plan); !fine) return tl::unexpected(fine.error());
        return std::move(adoption_);
    }

  private:
    /// Includes tell needs: of modules of the workspace, and of those that are adopted together.
    void find_header_owners() {
        for (const Taken& taken : taken_)
            if (taken.from.card->is_native()) add_headers(taken.from.folder, *taken.from.card, taken.name, owners_);
        if (owners_.empty()) return;
        for (const auto& module : space_.modules)
            if (const Card* card = space_.card(module.manifest.host.value); card != nullptr && card->is_native())
                add_headers(module.folder, *card, module.name(), owners_);
    }

    void find_givers() {
        for (const auto& module : space_.modules) {
            const Card* card = space_.card(module.manifest.host.value);
            if (card != nullptr && !card->is_native())
                givers_.add(*card, module.name(), members::entry_file(module, *card));
        }
        for (const Taken& taken : taken_) {
            if (taken.from.card->is_native()) continue;
            givers_.add(*taken.from.card, taken.name, taken.from.folder / taken.from.entry, taken.from.names);
        }
    }

    void find_needs() {
        for (const Taken& taken : taken_) {
            const Card& card = *taken.from.card;
            if (!card.is_native())
                loaded_[taken.name] =
                    givers_.needs_of(card, taken.name, taken.from.folder, taken.from, patterns_.of(card));
        }
        loaded_later_ = break_circles(loaded_);
    }

    Result<void> find(const fs::path& folder) {
        const std::string shown = files::shown_path(folder, space_.root);
        if (!files::is_folder(folder))
            return refuse(fmt::format("`{}` is no folder", shown), "name the module's folder");
        if (order_.into.empty() && (!files::resolves_inside(folder, space_.root) || shown == "."))
            return refuse(fmt::format("`{}` does not lie inside the workspace", shown),
                          "move it there first, or give a folder for its manifest with --into");
        auto& passed_over = adoption_.passed_over;
        // Of several folders, one that is no module stops none of the others.
        const auto refuse_or_pass_over = [&](const text::Failure& why) -> Result<void> {
            if (order_.folders.size() == 1) return tl::unexpected(why);
            passed_over.push_back(fmt::format("{}; {}", why.message, why.hint));
            return {};
        };
        if (files::is_there(folder / model::manifest_name))
            return refuse_or_pass_over(
                refuse(fmt::format("`{}` has a manifest already", shown), "`envar check` tells what is wrong with it")
                    .value());
        auto found = find_foreign(space_, order_.host, folder, shown);
        if (!found) return refuse_or_pass_over(found.error());
        for (auto& why : found->passed_over) passed_over.push_back(fmt::format("{}/{}", shown, why));
        std::map<fs::path, std::vector<std::string>> alone;
        for (Foreign& foreign : found->modules) {
            const bool tree = !foreign.below.empty();
            if (foreign.alone && order_.into.empty()) {
                alone[foreign.folder].push_back(foreign.name);
                continue;
            }
            Taken taken{std::move(foreign), tree ? folder : folder.parent_path(), {}, {}, {}, {}};
            if (auto fine = take(std::move(taken), tree); !fine) return fine;
        }
        for (const auto& [place, names] : alone)  // what helps stands first
            passed_over.insert(passed_over.begin(),
                               fmt::format("{}: {} modules, each a file by itself: {}; each gets a manifest with "
                                           "`--into FOLDER`",
                                           shown_from(space_.root, place), names.size(), text::listed(names, 5)));
        return {};
    }

    /// Reads what the module's files tell. In a tree what cannot be adopted is passed over.
    Result<void> take(Taken taken, bool tree) {
        const Card& card = *taken.from.card;
        const fs::path& folder = taken.from.folder;
        const std::string shown = shown_from(space_.root, folder);
        taken.entry_text = files::read_file(folder / taken.from.entry, largest_source).value_or("");
        taken.told = told_by_files(card, folder);
        if (taken.told.version.empty()) taken.told.version = taken.from.version;
        taken.name = taken.from.name;
        taken.name_by = taken.from.name_by;
        if (taken.name.empty() && !taken.told.name.empty()) {
            taken.name = taken.told.name;
            taken.name_by = "its own files";
        }
        if (taken.name.empty()) {
            taken.name = first_match(card.adopt.name, taken.entry_text);
            if (!taken.name.empty()) taken.name = spelled_outside(card.adopt.build, taken.entry_text, taken.name);
        }
        if (taken.name_by.empty() && !taken.name.empty()) taken.name_by = taken.from.entry;
        if (taken.name.empty()) taken.name = folder.filename().string();
        std::string why;
        if (files::is_there(folder / model::manifest_name)) why = "has a manifest already";
        if (why.empty() && text::first_invalid_utf8(taken.name)) why = "has a name that is not UTF-8";
        if (why.empty() && (space_.module(taken.name) != nullptr || !names_.insert(taken.name).second))
            why = fmt::format("there is a module `{}` already", taken.name);
        if (why.empty()) {
            taken_.push_back(std::move(taken));
        } else if (tree) {
            adoption_.passed_over.push_back(fmt::format("{}: {}", shown, why));
        } else {
            return refuse(why.starts_with("there") ? why : fmt::format("`{}` {}", shown, why),
                          "names are unique in a workspace");
        }
        return {};
    }

    Result<void> write(const Taken& taken) {
        const Card& card = *taken.from.card;
        const fs::path& source = taken.from.folder;
        Adopted adopted;
        adopted.module = taken.name;
        adopted.folder = shown_from(space_.root, source);
        adopted.host = card.name.value;
        const auto know = [&](std::string what, std::string value, Sureness sureness, std::string by) {
            adopted.known.push_back({std::move(what), std::move(value), sureness, std::move(by)});
        };
        know("name", taken.name,
             taken.from.one_of_many  ? Sureness::guess
             : taken.name_by.empty() ? Sureness::likely
                                     : Sureness::sure,
             taken.name_by.empty() ? "the folder's name" : taken.name_by);
        model::Module module;
        module.folder = source;
        model::Manifest& manifest = module.manifest;
        if (!card.is_native()) manifest.entry.file.value = taken.from.entry;
        know(card.is_native() ? "build system" : "entry", card.is_native() ? card.name.value : taken.from.entry,
             Sureness::sure, taken.from.entry);
        manifest.name.value = taken.name;
        manifest.host.value = card.name.value;
        manifest.identity = order_.identity();
        manifest.keeps_own_files = true;
        std::string version_by;
        manifest.version_text.value = version_of(taken, adopted, version_by);
        manifest.version = versions::parse_version(manifest.version_text.value, card.scheme);
        // A build system's own statement tells, a pattern over a script's code may be mistaken.
        const bool by_pattern = !card.is_native() && taken.told.version.empty();
        know("version", manifest.version_text.value,
             !adopted.guessed.empty() ? Sureness::guess
             : by_pattern             ? Sureness::likely
                                      : Sureness::sure,
             by_pattern && adopted.guessed.empty() ? "what looks like one in its code" : version_by);
        const NativeTree tree =
            card.is_native() ? read_native_tree(source, card, taken.from.entry, taken.entry_text, taken.name, owners_)
                             : NativeTree{};
        take_summary(taken, tree, manifest, adopted);
        if (!taken.told.author.empty() && !text::first_invalid_utf8(taken.told.author))
            manifest.authors = {taken.told.author};
        if (card.is_native()) {
            add_native(taken, tree, manifest, adopted);
        } else {
            for (const auto& need : taken.told.needs) add_need(manifest, need, false);
            for (const auto& need : taken.told.optional_needs) add_need(manifest, need, true);
            for (const auto& d : manifest.dependencies)
                know("needs " + d.module.value, d.optional ? "optional" : "", Sureness::sure, "its own files");
            for (const Loaded& need : loaded_.at(taken.name)) {
                if (is_needed(manifest, need.module)) continue;
                add_need(manifest, need.module, false);
                know("needs " + need.module, "", Sureness::sure, "what " + need.file + " loads");
            }
            for (const auto& need : loaded_later_[taken.name])
                if (!is_needed(manifest, need))
                    adopted.notes.push_back(
                        fmt::format("{0} loads {1} only later, and {1} needs {0} in turn: that is no dependency",
                                    taken.name, need));
        }
        const auto scan = members::scan(module, card, space_.root, patterns_.of(card));
        for (const auto& found : scan.members) {
            // Some languages have names that no list can hold.
            const bool listed = model::is_name(found.name);
            if (listed) manifest.members.push_back(member_of(found, nullptr));
            manifest.exports_all = manifest.exports_all || !listed;
        }
        know("members", std::to_string(scan.members.size()), Sureness::likely,
             tree.installs     ? "the headers that it installs"
             : scan.of_headers ? "its public headers"
                               : "what its sources define");
        adopted.version = manifest.version_text.value;
        adopted.members = scan.members.size();
        adopted.needs = manifest.dependencies.size();
        adopted.notes.insert(adopted.notes.end(), taken.told.notes.begin(), taken.told.notes.end());
        if (const std::string called = source.filename().string(); !taken.told.name.empty() && called != taken.name)
            adopted.notes.push_back(fmt::format("the folder is called `{}`, the module `{}`", called, taken.name));
        adoption_.modules.push_back(std::move(adopted));
        return place(taken, std::move(module));
    }

    static std::string home_name(const Taken& taken) {
        return taken.from.below.empty() ? taken.from.folder.filename().string() : taken.from.below;
    }

    /// Where the manifest goes below --into: as its folder is called, or as the module is where several folders are
    /// called the same.
    [[nodiscard]] std::string own_home(const Taken& taken) const {
        const std::string called = home_name(taken);
        return homes_.at(called) == 1 ? called : search::folder_name(*taken.from.card, taken.name);
    }

    /// Where the manifest goes, and with --copy the files.
    Result<void> place(const Taken& taken, model::Module module) {
        const Card& card = *taken.from.card;
        const fs::path& source = taken.from.folder;
        module.home = source;
        fs::path search_folder = taken.root;
        if (!order_.into.empty()) {
            const fs::path into = (space_.root / order_.into / "").lexically_normal().parent_path();
            module.home = into / own_home(taken);
            if (adoption_.plan.find(module.home / model::manifest_name) != nullptr)
                return refuse(fmt::format("the manifest of {} and another one would be the same file", taken.name),
                              "adopt one of them into a folder of its own with another --into");
            if (order_.copy) {
                search_folder = into;
                module.folder = module.home;
                if (auto copied = copy_files(taken, into, module.home); !copied) return copied;
            } else {
                module.manifest.folder.value = source.lexically_relative(module.home).generic_string();
            }
        }
        if (files::is_there(module.home / model::manifest_name))
            return refuse(fmt::format("`{}` has a manifest already", files::shown_path(module.home, space_.root)),
                          "choose another --into");
        module.shown_folder = files::shown_path(module.folder, space_.root);
        const auto text_of = [&] {
            return model::schema_directive(space_.root, module.home, "module") +
                   model::document_text(model::manifest_fields(), &module.manifest);
        };
        std::string body = text_of();
        if (body.size() > model::largest_document && !module.manifest.members.empty()) {
            module.manifest.members.clear();
            module.manifest.exports_all = true;
            body = text_of();
            adoption_.modules.back().notes.push_back(fmt::format(
                "{}: too many members to list; its [exports] say `mode = \"all\"`, so that they are taken "
                "from its files",
                taken.name));
        }
        if (body.size() > model::largest_document)
            return refuse(fmt::format("the manifest of {} would be too large", taken.name),
                          "name a folder further down");
        adoption_.plan.add(
            {module.home / model::manifest_name, std::nullopt, body, "the manifest, from what the files tell"});
        // A host that goes through its folders finds everything below the folder that was named; others are led to
        // the folder below which they come to the entry file.
        if (card.walk.entry.empty()) {
            const auto below = search::root_of(card, module);
            search_folder = below && card.inside.empty() ? *below : module.folder.parent_path();
        }
        const fs::path manifests = order_.into.empty() ? module.home.parent_path() : space_.root / order_.into;
        made_.push_back(std::move(module));
        return register_module(space_, card, {search_folder, manifests.lexically_normal(), {}}, adoption_.plan);
    }

    /// All files of the module, and what makes the folders above it groups.
    Result<void> copy_files(const Taken& taken, const fs::path& into, const fs::path& home) {
        fs::path above = into;
        fs::path above_source = taken.root;
        for (const auto& part : fs::path(taken.from.below)) {
            for (const auto& mark : taken.from.card->walk.groups)
                if (above != into && files::is_file(above_source / mark))
                    if (auto copied = copy_file(above_source / mark, above / mark); !copied) return copied;
            above /= part;
            above_source /= part;
        }
        const fs::path entry = taken.from.entry;
        if (taken.from.alone) {
            if (auto copied = copy_file(taken.from.folder / entry, home / entry); !copied) return copied;
            return copy_below(taken, fs::path(entry).replace_extension(), home);
        }
        return copy_below(taken, "", home);
    }

    Result<void> copy_below(const Taken& taken, const fs::path& folder, const fs::path& home) {
        std::error_code error;
        if (!files::is_folder(taken.from.folder / folder)) return {};
        for (fs::recursive_directory_iterator it(taken.from.folder / folder, error), end; !error && it != end;
             it.increment(error)) {
            const fs::path below = it->path().lexically_relative(taken.from.folder);
            if (it->is_symlink()) {
                adoption_.modules.back().notes.push_back(
                    fmt::format("{} is a link, and was not copied", below.generic_string()));
            } else if (it->is_regular_file()) {
                if (auto copied = copy_file(it->path(), home / below); !copied) return copied;
            }
        }
        if (error)
            return text::fail(text::FailureKind::machine_failed,
                              fmt::format("{} cannot be read: {}", taken.from.folder.string(), error.message()));
        return {};
    }

    Result<void> copy_file(const fs::path& from, const fs::path& to) {
        if (adoption_.plan.find(to) != nullptr) return {};
        auto content = files::read_or_fail(from, largest_copy);
        if (!content) return tl::unexpected(content.error());
        adoption_.plan.add({to, std::nullopt, std::move(*content), "copied"});
        return {};
    }

    /// As a file of the module tells it; `by` is which one.
    static std::string version_of(const Taken& taken, Adopted& adopted, std::string& by) {
        const Card& card = *taken.from.card;
        std::string version = taken.told.version;
        by = version.empty() ? taken.from.entry : "its own files";
        if (version.empty()) version = first_match(card.adopt.version, taken.entry_text);
        for (const auto& file : card.adopt.files) {
            if (!version.empty()) break;
            by = file;
            version = first_match(card.adopt.version,
                                  files::read_file(taken.from.folder / file, largest_source).value_or(""));
        }
        if (versions::parse_version(version, card.scheme)) return version;
        if (const auto mended = versions::mended_version(version, card.scheme)) return *mended;
        adopted.guessed.emplace_back("version");
        by = "nothing";
        return card.scheme == versions::Scheme::integer ? "1" : "0.1.0";
    }

    /// Where the build system's file does not tell it, a public header may.
    static void take_version(const NativeTree& tree, const Card& card, model::Manifest& manifest, Adopted& adopted) {
        const auto guessed = std::find(adopted.guessed.begin(), adopted.guessed.end(), "version");
        const auto version = versions::mended_version(tree.version, card.scheme);
        if (guessed == adopted.guessed.end() || !version) return;
        adopted.guessed.erase(guessed);
        manifest.version_text.value = *version;
        manifest.version = versions::parse_version(*version, card.scheme);
        for (Known& known : adopted.known)
            if (known.what == "version") known = {"version", *version, Sureness::likely, tree.version_by};
    }

    static void take_summary(const Taken& taken, const NativeTree& tree, model::Manifest& manifest,
                             Adopted& adopted) {
        const Card& card = *taken.from.card;
        const auto take = [&](const std::string& summary, Sureness sureness, const std::string& by) {
            if (summary.empty() || text::first_invalid_utf8(summary) || !manifest.summary.empty()) return;
            manifest.summary = summary;
            adopted.known.push_back({"summary", summary, sureness, by});
        };
        take(taken.told.summary, Sureness::sure, "its own files");
        const Sureness by_pattern = card.is_native() ? Sureness::sure : Sureness::likely;
        take(summary_in(card, taken.entry_text), by_pattern,
             (card.is_native() ? "" : "a comment in ") + taken.from.entry);
        take(tree.summary, Sureness::likely, tree.summary_by);
        if (!manifest.summary.empty()) return;
        const ReadMe about = read_me(taken.from.folder, taken.name);
        take(about.summary, Sureness::guess, about.file);
        if (!manifest.summary.empty()) return;
        manifest.summary = fmt::format("What {} does, in one sentence.", taken.name);
        adopted.guessed.emplace_back("summary");
        adopted.known.push_back({"summary", "", Sureness::guess, "nothing"});
    }

    void add_native(const Taken& taken, const NativeTree& tree, model::Manifest& manifest, Adopted& adopted) const {
        manifest.native = tree.native;
        take_version(tree, *taken.from.card, manifest, adopted);
        adopted.known.push_back({"files", tree.usual ? "include, src" : "listed one by one",
                                 tree.usual ? Sureness::sure : Sureness::likely, "what lies in the folder"});
        const auto need = [&](const std::string& name, bool is_public) {
            add_need(manifest, name, false);
            manifest.dependencies.back().is_public = is_public;
            adopted.known.push_back({"needs " + name, is_public ? "public" : "private", Sureness::sure,
                                     is_public ? "what its public headers include" : "what its code includes"});
        };
        for (const auto& name : tree.public_needs) need(name, true);
        for (const auto& name : tree.private_needs) need(name, false);
        std::vector<std::string> unknown;
        for (const auto& name : taken.told.needs) {
            if (is_needed(manifest, name)) continue;
            if (is_known(name, *taken.from.card)) {
                add_need(manifest, name, false);
                manifest.dependencies.back().link_only = true;
                adopted.known.push_back({"needs " + name, "private", Sureness::likely,
                                         taken.from.entry + ", though nothing of it is included"});
            } else {
                unknown.push_back(name);
            }
        }
        if (!unknown.empty()) adopted.notes.push_back(asks_for(taken.from.entry, unknown));
    }

    static void add_need(model::Manifest& manifest, const std::string& name, bool optional) {
        model::Dependency& dependency = manifest.dependencies.emplace_back();
        dependency.module.value = name;
        dependency.optional = optional;
    }

    /// Whether there will be a module of that name for the card's host.
    [[nodiscard]] bool is_known(const std::string& name, const Card& card) const {
        if (const model::Module* other = space_.module(name)) return other->manifest.host.value == card.name.value;
        return names_.count(name) != 0;
    }

    [[nodiscard]] static bool is_needed(const model::Manifest& manifest, const std::string& name) {
        return std::any_of(manifest.dependencies.begin(), manifest.dependencies.end(),
                           [&](const auto& d) { return d.module.value == name; });
    }

    const model::Space& space_;
    const AdoptOrder& order_;
    std::set<std::string> names_;       // of the modules on their way
    std::map<std::string, int> homes_;  // how many would be there
    HeaderOwners owners_;
    Givers givers_;
    std::map<std::string, std::vector<Loaded>> loaded_;  // by module
    std::map<std::string, std::vector<std::string>> loaded_later_;
    members::PatternsByCard patterns_;
    std::vector<Taken> taken_;
    std::vector<model::Module> made_;
    Adoption adoption_;
};

}  // namespace

std::string_view sureness_name(Sureness sureness) {
    return sureness == Sureness::sure ? "sure" : sureness == Sureness::likely ? "likely" : "guess";
}

Result<Adoption> adopt_plan(const model::Space& space, const AdoptOrder& order) {
    return Adopter(space, order).run();
}

}  // namespace envar::life
