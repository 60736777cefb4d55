#include "core/life/adopt.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>
#include <set>
#include <utility>

#include "core/files/read.hpp"
#include "core/life/adopt_bridge.hpp"
#include "core/life/adopt_installed.hpp"
#include "core/life/adopt_manifest.hpp"
#include "core/life/adopt_named.hpp"
#include "core/life/adopt_versions.hpp"
#include "core/life/registration.hpp"
#include "core/members/definitions.hpp"
#include "core/model/limits.hpp"
#include "core/model/schema.hpp"
#include "core/search/naming.hpp"
#include "core/search/root.hpp"
#include "core/search/walk.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"
#include "core/text/utf8.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using model::Card;
using text::refuse;
using text::Result;

constexpr std::size_t largest_copy = std::size_t{64} << 20U;

/// How a folder is called: relative to the workspace, also where the way leads out of it.
std::string shown_from(const fs::path& root, const fs::path& folder) {
    const fs::path way = folder.lexically_relative(root);
    return way.empty() ? folder.string() : way.generic_string();
}

class Adopter {
  public:
    Adopter(const model::Space& space, const AdoptOrder& order) : space_(space), order_(order), names_(space) {}

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
                loaded_[taken.key] = givers_.needs_of(taken.name, taken.from, taken.reads, patterns_.of(card));
        }
        loaded_later_ = break_circles(loaded_);
    }

    Result<void> find(const fs::path& folder) {
        const std::string shown = files::shown_path(folder, space_.root);
        const bool is_file = files::is_file(folder);
        if (!is_file && !files::is_folder(folder))
            return refuse(fmt::format("there is no `{}`", shown), "name the module's folder, or its file");
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
            const bool tree = !foreign.below.empty() && !is_file;
            if (foreign.alone && order_.into.empty()) {
                if (is_file)
                    return refuse_or_pass_over(refuse(fmt::format("`{}` is a module by itself, in a file", shown),
                                                      "give a folder for its manifest with --into")
                                                   .value());
                alone[foreign.folder].push_back(foreign.name);
                continue;
            }
            Taken taken{std::move(foreign), tree ? folder : folder.parent_path(), {}, {}, {}, {}, {}};
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
        // In a larger tree the folder of compiled code is called as everywhere.
        const bool is_code = card.is_native() && !taken.from.below.empty();
        taken.home = is_code && is_code_folder(folder.filename().string()) ? folder.parent_path() : folder;
        taken.entry_text = files::read_file(folder / taken.from.entry, members::largest_source).value_or("");
        taken.told = told_by_files(card, folder);
        if (taken.told.version.empty()) taken.told.version = taken.from.version;
        taken.name = taken.from.name;
        taken.name_by = taken.from.name_by;
        if (taken.name.empty() && !taken.told.name.empty()) {
            taken.name = taken.told.name;
            taken.name_by = "its own files";
        }
        if (taken.name.empty()) {
            taken.name = card.is_native() ? first_match(card.adopt.name, taken.entry_text)
                                          : name_told_by(card, folder / taken.from.entry);
            if (!taken.name.empty()) taken.name = spelled_outside(card.adopt.build, taken.entry_text, taken.name);
        }
        if (taken.name_by.empty() && !taken.name.empty()) taken.name_by = taken.from.entry;
        const FolderName called = folder_name_of(card, folder);
        if (taken.name.empty() && card.is_native()) taken.name = unpacked_name_of(card, taken.home).name;
        // An entry file that is written may be called as what was unpacked is, whatever the folder's number.
        if (taken.name.empty()) taken.name = taken.from.bridged ? unpacked_name_of(card, folder).name : called.name;
        // Engines and build systems go by what the files say.
        const bool goes_by_folders = card.walk.entry.empty() && !card.is_native();
        if (goes_by_folders && !taken.from.alone && taken.name == called.name) taken.beside = called.version;
        std::string why, hint = "names are unique in a workspace, but for versions in folders `NAME/VERSION`";
        if (files::is_there(folder / model::manifest_name)) why = "has a manifest already";
        if (why.empty() && text::first_invalid_utf8(taken.name)) why = "has a name that is not UTF-8";
        if (why.empty() && !card.adopt.bridge.path.empty()) {
            if (auto fine = bridge(taken); !fine) {
                why = fine.error().message;
                hint = fine.error().hint;
            }
        }
        if (why.empty() && taken.from.placement && (order_.into.empty() || !order_.copy)) {
            const Placement& own = *taken.from.placement;
            why = fmt::format("is loaded as `{}`, so that its code would have to lie in `{}`; it lies {}", taken.name,
                              own.under, own.from.empty() ? "in the folder itself" : "in `" + own.from + "`");
            hint = fmt::format("adopt a copy, whose files go where {} looks: --into FOLDER --copy", card.name.value);
        }
        if (why.empty() && needs_file_outside(card, folder)) {
            why = fmt::format("lies outside the workspace, where {} would need a file that Envar makes",
                              card.name.value);
            hint = "add --copy";
        }
        if (why.empty() && !names_.give(taken.name, taken.beside, card))
            why = fmt::format("there is a module `{}` already", taken.name);
        taken.key = names_.has_several(taken.name) ? fmt::format("{} {}", taken.name, taken.beside) : taken.name;
        if (why.empty()) {
            taken_.push_back(std::move(taken));
        } else if (tree) {
            adoption_.passed_over.push_back(fmt::format("{}: {}", shown, why));
        } else {
            return refuse(why.starts_with("there") ? why : fmt::format("`{}` {}", shown, why), hint);
        }
        return {};
    }

    /// Whether the host wants a file in each folder that it searches, and that would be one which is nobody's here.
    [[nodiscard]] bool needs_file_outside(const Card& card, const fs::path& folder) const {
        const auto wants = [](const model::CardFile& file) { return file.per_search(); };
        return !order_.copy && std::any_of(card.files.begin(), card.files.end(), wants) &&
               !files::resolves_inside(folder.parent_path(), space_.root);
    }

    /// Where the host could not load by its name what is there, an entry file that reads it in is to be written.
    Result<void> bridge(Taken& taken) const {
        const Card& card = *taken.from.card;
        const fs::path& folder = taken.from.folder;
        if (!taken.from.bridged && is_loaded_by(card, taken.name, without_version(card, folder, taken.from.entry)))
            return {};
        const auto name = bridge_name(card, taken.name);
        if (!name)
            return refuse(fmt::format("is called `{}`, which is no module name for {}", taken.name, card.name.value),
                          fmt::format("names for {} look like `{}`", card.name.value, card.module_example));
        if (!order_.into.empty() && !order_.copy)
            return refuse("needs an entry file that reads in what is there, which would go beside it",
                          "add --copy, or move it into the workspace and leave out --into");
        taken.name = *name;
        taken.reads = std::exchange(taken.from.entry, text::fill(card.adopt.bridge.path, {{"name", *name}}));
        taken.from.bridged = true;
        if (files::is_there(folder / taken.from.entry))
            return refuse(fmt::format("has a file `{}` that is none of {}", taken.from.entry, card.name.value),
                          "an entry file would go there");
        // The folder becomes one that the host searches, and some hosts want a file there that Envar makes.
        if (order_.into.empty() && search::root_of(card, *name, folder / taken.from.entry) == folder)
            for (const auto& file : card.files)
                if (file.per_search() && files::is_there(folder / file.path))
                    return refuse(fmt::format("has a file `{}`, where one would go that Envar makes", file.path),
                                  "give a folder for a copy with --into and --copy");
        return {};
    }

    Result<void> write(const Taken& taken) {
        const fs::path& source = taken.from.folder;
        Adopted adopted;
        adopted.module = taken.name;
        adopted.folder = shown_from(space_.root, source);
        adopted.host = taken.from.card->name.value;
        adopted.in_version_folder = !taken.beside.empty();
        const Around around{owners_, loaded_[taken.key], loaded_later_[taken.key],
                            [&](const std::string& name) { return is_known(name, *taken.from.card); }};
        model::Module module;
        module.folder = source;
        auto made = manifest_of(taken, around, patterns_.of(*taken.from.card), space_, adopted);
        if (!made) return tl::unexpected(made.error());
        module.manifest = std::move(made->manifest);
        module.manifest.identity = order_.identity();
        adopted.version = module.manifest.version_text.value;
        adopted.needs = module.manifest.dependencies.size();
        if (taken.from.placement) {
            module.manifest.entry.file.value = target(taken, taken.from.entry).generic_string();
            adopted.notes.push_back(fmt::format("its code is copied to `{}`, where {} looks for it",
                                                taken.from.placement->under, taken.from.card->name.value));
        }
        adopted.notes.insert(adopted.notes.end(), taken.told.notes.begin(), taken.told.notes.end());
        if (const std::string called = folder_name_of(*taken.from.card, source).name;
            called != taken.name && !taken.from.alone && (!taken.told.name.empty() || taken.from.bridged))
            adopted.notes.push_back(fmt::format("the folder is called `{}`, the module `{}`", called, taken.name));
        adoption_.modules.push_back(std::move(adopted));
        return place(taken, std::move(module), made->entry_text);
    }

    static std::string home_name(const Taken& taken) {
        if (!taken.beside.empty())
            return fmt::format("{}/{}", search::folder_name(*taken.from.card, taken.name), taken.beside);
        return taken.from.below.empty() ? taken.from.folder.filename().string() : taken.from.below;
    }

    /// Where the manifest goes below --into: as its folder is called, or as the module is where several folders are
    /// called the same.
    [[nodiscard]] std::string own_home(const Taken& taken) const {
        std::string called = home_name(taken);
        if (!taken.beside.empty()) return called;
        const Card& card = *taken.from.card;
        const bool tells_nothing = !search::version_in(card, called).empty();  // `5.1`, with modules for that
        return homes_.at(called) == 1 && !taken.from.bridged && !tells_nothing
                   ? called
                   : search::folder_name(card, taken.name);
    }

    /// Where the manifest goes, and with --copy the files.
    Result<void> place(const Taken& taken, model::Module module, const std::optional<std::string>& entry_text) {
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
                module.folder = lies_in_shared(taken) ? into / shared_folder(taken) : module.home;
                if (module.folder != module.home)
                    module.manifest.folder.value = module.folder.lexically_relative(module.home).generic_string();
                if (auto copied = copy_files(taken, into, module.folder); !copied) return copied;
            } else {
                module.manifest.folder.value = source.lexically_relative(module.home).generic_string();
            }
        }
        if (files::is_there(module.home / model::manifest_name))
            return refuse(fmt::format("`{}` has a manifest already", files::shown_path(module.home, space_.root)),
                          "choose another --into");
        if (entry_text)
            adoption_.plan.add({module.folder / taken.from.entry, std::nullopt, *entry_text,
                                "entry file: makes known what is there (yours)"});
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
        // A host that goes through its folders comes through groups of modules by itself; others are led to the
        // folder below which they come to the entry file.
        if (!taken.beside.empty()) {
            search_folder = module.folder.parent_path().parent_path();
        } else if (card.walk.entry.empty()) {
            const auto below = search::root_of(card, module);
            search_folder = below && card.inside.empty() ? *below : module.folder.parent_path();
        } else {
            const fs::path top = search_folder;
            search_folder = module.folder.parent_path();
            for (fs::path group = source.parent_path(); search_folder != top && search::is_group(card.walk, group);
                 group = group.parent_path())
                search_folder = search_folder.parent_path();
        }
        const fs::path manifests = order_.into.empty() ? module.home.parent_path() : space_.root / order_.into;
        made_.push_back(std::move(module));
        return register_module(space_, card, {search_folder, manifests.lexically_normal(), {}}, adoption_.plan);
    }

    /// One of several in a folder whose list tells of all of them: that folder is copied as it is.
    static bool lies_in_shared(const Taken& taken) {
        return taken.from.alone && !taken.from.card->index.files.empty();
    }

    /// What it is called below --into.
    static fs::path shared_folder(const Taken& taken) {
        const fs::path above = fs::path(taken.from.below).parent_path();
        return above.empty() ? taken.from.folder.filename() : above;
    }

    /// Where a file of the module goes, relative to its folder.
    static fs::path target(const Taken& taken, const fs::path& file) {
        const auto& placement = taken.from.placement;
        return placement ? fs::path(placed(*placement, *taken.from.card, file.generic_string())) : file;
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
        const fs::path entry = taken.from.bridged ? taken.reads : taken.from.entry;
        if (taken.from.alone && !lies_in_shared(taken)) {
            if (auto copied = copy_file(taken.from.folder / entry, home / target(taken, entry)); !copied)
                return copied;
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
                if (auto copied = copy_file(it->path(), home / target(taken, below)); !copied) return copied;
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
        adoption_.plan.add({to, std::nullopt, std::move(*content), "copied", false, from});
        return {};
    }

    /// Whether there will be a module of that name for the card's host.
    [[nodiscard]] bool is_known(const std::string& name, const Card& card) const {
        if (const model::Module* other = space_.module(name)) return other->manifest.host.value == card.name.value;
        return names_.has(name);
    }

    const model::Space& space_;
    const AdoptOrder& order_;
    GivenNames names_;
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
