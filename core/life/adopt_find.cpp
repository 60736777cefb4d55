#include "core/life/adopt_find.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/files/read.hpp"
#include "core/life/adopt_facts.hpp"
#include "core/search/naming.hpp"
#include "core/search/walk.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using model::Card;
using text::refuse;
using text::Result;

constexpr int deepest_tree = 8;
constexpr std::size_t most_folders = 100000;

class Finder {
  public:
    Finder(const model::Space& space, const std::string& host) : space_(space), host_(host) {}

    Result<std::vector<Foreign>> run(const fs::path& folder, const std::string& shown) {
        auto own = cards_for(folder);
        if (own.size() > 1) return several(own, shown);
        if (own.size() == 1) return std::vector<Foreign>{{own.front(), folder, ""}};
        if (auto fine = go(folder, shown, "", 1); !fine) return tl::unexpected(fine.error());
        if (found_.empty())
            return refuse(
                fmt::format("`{}` is no module that a card knows how to adopt, and there is none in it", shown),
                host_.empty() ? "no entry file of any host lies in it; write a manifest by hand"
                              : fmt::format("`envar hosts show {}` tells how its modules look", host_));
        join_the_sure();
        return std::move(found_);
    }

  private:
    /// The cards whose modules look like the folder: those that know a file in it besides the entry file; else those
    /// that ask for no more than that; else those whose modules usually have more.
    [[nodiscard]] std::vector<const Card*> cards_for(const fs::path& folder) const {
        std::vector<const Card*> sure;
        std::vector<const Card*> plain;
        std::vector<const Card*> bare;
        for (const Card& card : space_.cards) {
            if ((!host_.empty() && card.name.value != host_) || entry_in(card, folder).empty()) continue;
            (has_facts(card, folder) ? sure : card.adopt.facts.empty() ? plain : bare).push_back(&card);
        }
        return !sure.empty() ? sure : !plain.empty() ? plain : bare;
    }

    /// A tree of modules that a host goes through is that host's, also those in it that have nothing but an entry
    /// file.
    void join_the_sure() {
        const Card* owner = nullptr;
        for (const Foreign& foreign : found_)
            if (!foreign.card->walk.entry.empty() && has_facts(*foreign.card, foreign.folder)) owner = foreign.card;
        if (owner == nullptr) return;
        for (Foreign& foreign : found_)
            if (!has_facts(*foreign.card, foreign.folder) && !entry_in(*owner, foreign.folder).empty())
                foreign.card = owner;
    }

    static tl::unexpected<text::Failure> several(const std::vector<const Card*>& cards, const std::string& shown) {
        std::vector<std::string> names;
        names.reserve(cards.size());
        for (const Card* card : cards) names.push_back(card->name.value);
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
            const auto cards = cards_for(inner);
            if (cards.size() > 1) return several(cards, fmt::format("{}/{}{}", shown, below, name));
            if (cards.size() == 1) {
                found_.push_back({cards.front(), inner, below + name});
            } else if (depth < deepest_tree) {
                if (auto fine = go(inner, shown, below + name + "/", depth + 1); !fine) return fine;
            }
        }
        return {};
    }

    const model::Space& space_;
    const std::string& host_;
    std::vector<Foreign> found_;
    std::size_t seen_ = 0;
};

}  // namespace

std::string entry_in(const Card& card, const fs::path& folder) {
    model::Manifest named;
    named.name.value = folder.filename().string();
    for (const auto& entry : card.adopt.entries) {
        std::string path = text::fill(entry, search::path_values(named, card));
        if (files::stays_inside(path) && files::is_file(folder / path) &&
            files::resolves_inside(folder / path, folder))
            return path;
    }
    return {};
}

Result<std::vector<Foreign>> find_foreign(const model::Space& space, const std::string& host, const fs::path& folder,
                                          const std::string& shown) {
    return Finder(space, host).run(folder, shown);
}

}  // namespace envar::life
