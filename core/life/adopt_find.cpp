#include "core/life/adopt_find.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <set>

#include "core/emit/native_files.hpp"
#include "core/files/read.hpp"
#include "core/life/adopt_bridge.hpp"
#include "core/life/adopt_facts.hpp"
#include "core/life/adopt_named.hpp"
#include "core/life/adopt_versions.hpp"
#include "core/search/naming.hpp"
#include "core/search/walk.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using model::Card;
using text::refuse;
using text::Result;

constexpr int deepest_tree = 8;
constexpr std::size_t largest_entry = std::size_t{4} << 20U;
constexpr int deepest_space = 3;  // folders that a name may begin with
constexpr std::size_t most_folders = 100000;

/// A folder as the module of one card, or as a place of several.
struct Look {
    const Card* card = nullptr;
    std::string entry;
    NamedFiles named;
    std::optional<Bridged> bridged = {};
    std::vector<std::string> others = {};     // cards that it could be of as well
    std::optional<Placement> placement = {};  // its code lies elsewhere than the host looks
};

/// Of several the one whose host the folder is called after: `zsh-logs`, `logs.lua`.
std::vector<Look> of_namesake(std::vector<Look> looks, const fs::path& folder) {
    const std::string name = folder.filename().string();
    const auto is_letter = [&](std::size_t at) {
        return at < name.size() && std::isalpha(static_cast<unsigned char>(name[at])) != 0;
    };
    const auto is_named = [&](const Look& look) {
        const std::string& host = look.card->name.value;
        const std::size_t at = name.find(host);
        return at != std::string::npos && !is_letter(at + host.size()) && (at == 0 || !is_letter(at - 1));
    };
    if (looks.size() > 1 && std::count_if(looks.begin(), looks.end(), is_named) == 1)
        std::erase_if(looks, [&](const Look& look) { return !is_named(look); });
    return looks;
}

/// What is built can often be built by several: the one whose files tell version and name counts, else the first one.
std::vector<Look> of_build_systems(std::vector<Look> looks, const fs::path& folder) {
    const bool built =
        std::all_of(looks.begin(), looks.end(), [](const Look& look) { return look.card->is_native(); });
    if (looks.size() < 2 || !built) return looks;
    const auto tells = [&](const Look& look) {
        const auto& rules = look.card->adopt;
        const std::string text = files::read_file(folder / look.entry, largest_entry).value_or("");
        const Told told = told_by_files(*look.card, folder);
        const bool version = !told.version.empty() || !first_match(rules.version, text).empty();
        const bool name = !told.name.empty() || !first_match(rules.name, text).empty();
        return 2 * int{version} + int{name};
    };
    const auto most = std::max_element(looks.begin(), looks.end(),
                                       [&](const Look& a, const Look& b) { return tells(a) < tells(b); });
    for (const Look& look : looks)
        if (&look != &*most) most->others.push_back(look.card->name.value);
    return {std::move(*most)};
}

class Finder {
  public:
    Finder(const model::Space& space, const std::string& host) : space_(space), host_(host) {}

    Result<FoundForeign> run(const fs::path& folder, const std::string& shown) {
        fs::path above;
        if (const auto spaces = spaces_around(folder, above); !spaces.empty()) {
            if (spaces.size() > 1) return several(spaces, shown);
            add(spaces.front(), above, "");
            return std::move(found_);
        }
        auto own = looks_of(folder, true);
        // What is built is put into place by that.
        const bool built =
            std::any_of(own.begin(), own.end(), [](const Look& look) { return look.card->is_native(); });
        if (auto looks = built ? std::vector<Look>() : placed_looks_of(folder); !looks.empty()) {
            if (looks.size() > 1) return several(looks, shown);
            add(looks.front(), folder, "");
            return std::move(found_);
        }
        if (own.size() > 1) return several(own, shown);
        if (own.size() == 1 && holds_others(own.front(), folder)) own.front().named.apart = true;
        if (own.size() == 1 && is_one(own.front())) {
            add(own.front(), folder, "");
            return std::move(found_);
        }
        if (own.size() == 1) {
            add(own.front(), folder, "");
            for (const NamedFile& head : own.front().named.heads)
                if (head.file.find('/') != std::string::npos)
                    own_folders_.insert(head.file.substr(0, head.file.find('/')));
        }
        if (auto fine = go(folder, shown, "", 1); !fine) return tl::unexpected(fine.error());
        if (found_.modules.empty())
            return refuse(
                fmt::format("`{}` is no module that a card knows how to adopt, and there is none in it", shown),
                why_none(folder));
        join_the_sure();
        return std::move(found_);
    }

    /// One file of its folder.
    Result<FoundForeign> run_file(const fs::path& folder, const std::string& file, const std::string& shown) {
        auto own = looks_of(folder, true);
        std::erase_if(own, [&](const Look& look) { return !is_of(look, file); });
        const bool is_whole = !own.empty() && own.front().named.heads.empty();  // the folder is the module
        if (own.empty()) {
            for (const Card& card : space_.cards) {
                if (!host_.empty() && card.name.value != host_) continue;
                if (auto bridged = bridged_file(card, folder, file))
                    own.push_back({&card, {}, {}, std::move(bridged)});
            }
        }
        if (own.size() > 1) return several(own, shown);
        if (own.empty())
            return refuse(fmt::format("`{}` is no file that a host loads by its name", shown),
                          "name the module's folder");
        add(own.front(), folder, "");
        std::erase_if(found_.modules, [&](const Foreign& foreign) { return foreign.entry != file; });
        Foreign& foreign = found_.modules.front();
        if (!is_whole) {
            foreign.below = search::folder_name(*foreign.card, foreign.name);
            foreign.names = {foreign.name};
            foreign.alone = true;
        }
        return std::move(found_);
    }

  private:
    /// Whether it makes a module of the file.
    [[nodiscard]] static bool is_of(const Look& look, const std::string& file) {
        const auto& heads = look.named.heads;
        return look.entry == file || (look.bridged && look.bridged->reads == file) ||
               std::any_of(heads.begin(), heads.end(), [&](const NamedFile& head) { return head.file == file; });
    }

    [[nodiscard]] static bool is_one(const Look& look) {
        return !look.entry.empty() || look.bridged || (look.named.heads.size() == 1 && !look.named.apart);
    }

    /// Whether a file that is called like a module lies among folders that are modules themselves.
    [[nodiscard]] static bool holds_others(const Look& look, const fs::path& folder) {
        const Card& card = *look.card;
        if (look.named.heads.empty() || !card.index.files.empty() || !card.adopt.name.empty()) return false;
        const auto names = files::list_folder(folder);
        return std::any_of(names.begin(), names.end(), [&](const std::string& name) {
            return name.front() != '.' && name != look.named.heads.front().name && !is_beside_the_code(name) &&
                   !files::link_target(folder / name) && files::is_folder(folder / name) &&
                   !entry_in(card, folder / name).empty();
        });
    }

    [[nodiscard]] std::string why_none(const fs::path& folder) const {
        if (!found_.passed_over.empty()) return found_.passed_over.front();
        auto names = files::list_folder(folder);
        std::sort(names.begin(), names.end());
        for (const auto& name : names)
            if (files::link_target(folder / name) && files::is_file(folder / name) &&
                !files::resolves_inside(folder / name, folder))
                return fmt::format("`{}` is a link that leads out of the folder: name the folder of the file", name);
        if (host_.empty() && !emit::code_below(folder, ".").empty())
            return "there is C or C++ code in it, but no descriptor of a build system that a card knows";
        return host_.empty() ? "no entry file of any host lies in it; write a manifest by hand"
                             : fmt::format("`envar hosts show {}` tells how its modules look", host_);
    }

    /// The cards whose modules look like the folder: those that know a file in it besides the entry file; else those
    /// that ask for no more than that; else those whose modules usually have more; else those whose modules tell
    /// their names in some other way; else those that could read in a file of whatever name.
    [[nodiscard]] std::vector<Look> looks_of(const fs::path& folder, bool asked_for) const {
        std::vector<Look> sure, plain, bare, named, loose;
        for (const Card& card : space_.cards) {
            if (!host_.empty() && card.name.value != host_) continue;
            std::string entry = entry_in(card, folder);
            // Scripts have build files too, which only put them into place.
            if (card.is_native() && host_.empty() && !entry.empty() && emit::code_below(folder, ".").empty())
                continue;
            auto bridged = entry.empty() ? bridged_in(card, folder, asked_for) : std::nullopt;
            // What a host loads by its name counts for more than what it could not.
            if (bridged && bridged->sure) {
                named.push_back({&card, {}, {}, std::move(bridged)});
                continue;
            }
            NamedFiles files;
            if (entry.empty() || !card.index.files.empty()) files = named_files(card, folder, asked_for);
            // What the host's own list says of the folder counts for more than how files are called.
            if (!entry.empty() && files.heads.size() != 1) {
                auto& looks = has_facts(card, folder) ? sure : card.adopt.facts.empty() ? plain : bare;
                looks.push_back({&card, std::move(entry), {}, {}});
            } else if (!files.heads.empty()) {
                (entry.empty() ? named : plain).push_back({&card, {}, std::move(files), {}});
            } else if (bridged) {
                loose.push_back({&card, {}, {}, std::move(bridged)});
            }
        }
        if (named.empty()) named = std::move(loose);
        auto& looks = !sure.empty() ? sure : !plain.empty() ? plain : !bare.empty() ? bare : named;
        return of_namesake(of_build_systems(std::move(looks), folder), folder);
    }

    /// The cards whose modules lie in the folder by names that begin with its own, or with that of a folder around it
    /// too; `above` is where these begin.
    [[nodiscard]] std::vector<Look> spaces_around(const fs::path& folder, fs::path& above) const {
        std::vector<Look> looks;
        fs::path space;
        above = folder;
        for (int depth = 0; depth < deepest_space && looks.empty() && above.has_relative_path(); ++depth) {
            space = space.empty() ? above.filename() : above.filename() / space;
            above = above.parent_path();
            for (const Card& card : space_.cards) {
                if (!host_.empty() && card.name.value != host_) continue;
                NamedFiles files = named_files_in(card, above, space.generic_string());
                if (!files.heads.empty()) looks.push_back({&card, {}, std::move(files), {}});
            }
        }
        return looks;
    }

    /// The cards whose modules it would be if its code lay where their hosts look.
    [[nodiscard]] std::vector<Look> placed_looks_of(const fs::path& folder) const {
        std::vector<Look> looks;
        for (const Card& card : space_.cards) {
            if (!host_.empty() && card.name.value != host_) continue;
            if (!card.adopt.name.empty() && !named_files(card, folder, true).heads.empty()) continue;
            const auto placement = placement_of(card, folder);
            if (!placement) continue;
            NamedFiles files = named_files_placed(card, folder, *placement);
            if (!files.heads.empty()) looks.push_back({&card, {}, std::move(files), {}, {}, placement});
        }
        return of_namesake(std::move(looks), folder);
    }

    void add(const Look& look, const fs::path& folder, const std::string& below) {
        if (!look.entry.empty()) {
            found_.modules.push_back({look.card, folder, below, look.entry, {}, {}, {}, {}, false, false});
            found_.modules.back().others = look.others;
            return;
        }
        if (look.bridged) {
            found_.modules.push_back({look.card,
                                      folder,
                                      below,
                                      look.bridged->reads,
                                      look.bridged->name,
                                      look.bridged->reads,
                                      {},
                                      {},
                                      false,
                                      false,
                                      true});
            if (look.bridged->name.empty()) found_.modules.back().name_by.clear();
            return;
        }
        const bool alone = look.named.apart || look.named.heads.size() > 1;
        for (const NamedFile& head : look.named.heads) {
            const std::string own =
                alone ? (below.empty() ? "" : below + "/") + search::folder_name(*look.card, head.name) : below;
            found_.modules.push_back({look.card, folder, own, head.file, head.name, head.by, head.version,
                                      alone ? std::vector<std::string>{head.name} : look.named.names,
                                      head.one_of_many, alone});
            found_.modules.back().placement = look.placement;
        }
    }

    /// A tree of modules that a host goes through is that host's, also those in it that have nothing but an entry
    /// file.
    void join_the_sure() {
        const Card* owner = nullptr;
        for (const Foreign& foreign : found_.modules)
            if (!foreign.card->walk.entry.empty() && has_facts(*foreign.card, foreign.folder)) owner = foreign.card;
        if (owner == nullptr) return;
        for (Foreign& foreign : found_.modules) {
            if (has_facts(*foreign.card, foreign.folder)) continue;
            if (std::string entry = entry_in(*owner, foreign.folder); !entry.empty())
                foreign = {owner, foreign.folder, foreign.below, std::move(entry), {}, {}, {}, {}, false, false};
        }
    }

    static tl::unexpected<text::Failure> several(const std::vector<Look>& looks, const std::string& shown) {
        std::vector<std::string> names;
        names.reserve(looks.size());
        for (const Look& look : looks) names.push_back(look.card->name.value);
        return refuse(fmt::format("`{}` may be a module for {}", shown, fmt::join(names, " or for ")),
                      "say which with --host");
    }

    Result<void> go(const fs::path& folder, const std::string& shown, const std::string& below, int depth) {
        auto names = files::list_folder(folder);
        std::sort(names.begin(), names.end());
        for (const auto& name : names) {
            const fs::path inner = folder / name;
            if (name.front() == '.' || !files::is_folder(inner) || files::link_target(inner)) continue;
            if (++seen_ > most_folders)
                return refuse(fmt::format("`{}` holds more than {} folders", shown, most_folders),
                              "name a folder further down");
            auto looks = looks_of(inner, false);
            // Engines take what they find; elsewhere tests and examples are no modules of their own.
            if (is_beside_the_code(name))
                std::erase_if(looks, [](const Look& look) { return look.card->walk.entry.empty(); });
            if (looks.size() > 1) return several(looks, fmt::format("{}/{}{}", shown, below, name));
            const std::size_t before = found_.modules.size();
            if (looks.size() == 1) {
                add(looks.front(), inner, below + name);
            } else if (depth < deepest_tree && !is_beside_the_code(name)) {
                if (auto fine = go(inner, shown, below + name + "/", depth + 1); !fine) return fine;
            }
            if (depth == 1 && found_.modules.size() == before && own_folders_.count(name) == 0)
                tell_of_code(inner, name);
        }
        return {};
    }

    /// Code that no module was made of.
    void tell_of_code(const fs::path& folder, const std::string& name) {
        for (const Card& card : space_.cards) {
            if ((!host_.empty() && card.name.value != host_) || card.adopt.entries.empty() || card.is_native())
                continue;
            const auto code = code_files(card, folder);
            if (code.empty() || !card.walk.entry.empty()) continue;
            found_.passed_over.push_back(
                fmt::format("{}: {} of {}, and none tells what module it is: {}{}", name,
                            code.size() == 1 ? "a file" : fmt::format("{} files", code.size()), card.name.value,
                            code.front(), code.size() == 1 ? "" : ", …"));
        }
    }

    const model::Space& space_;
    const std::string& host_;
    FoundForeign found_;
    std::set<std::string> own_folders_;  // of the folder that was named, with files that are modules by themselves
    std::size_t seen_ = 0;
};

}  // namespace

std::string entry_in(const Card& card, const fs::path& folder) {
    model::Manifest named;
    named.name.value = folder_name_of(card, folder).name;
    for (const auto& entry : card.adopt.entries) {
        std::string path = text::fill(entry, search::path_values(named, card));
        if (files::stays_inside(path) && files::is_file(folder / path) &&
            files::resolves_inside(folder / path, folder))
            return path;
    }
    return {};
}

Result<FoundForeign> find_foreign(const model::Space& space, const std::string& host, const fs::path& folder,
                                  const std::string& shown) {
    if (files::is_file(folder)) {
        std::error_code error;
        const fs::path file = fs::canonical(folder, error);  // a link to a file means the file
        return Finder(space, host).run_file(file.parent_path(), file.filename().string(), shown);
    }
    return Finder(space, host).run(folder, shown);
}

}  // namespace envar::life
