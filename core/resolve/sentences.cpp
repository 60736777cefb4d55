// A minimal core as sentences: what is asked for first, then need by need what that leaves, to the contradiction.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <tuple>

#include "core/resolve/explain.hpp"
#include "core/resolve/reasons.hpp"

namespace envar::resolve {
namespace {

using model::Id;

constexpr std::size_t most_runs = 4;
constexpr std::size_t most_lines = 3;

std::string joined(const std::vector<std::string>& parts, std::size_t hidden) {
    if (hidden > 0) return fmt::format("{} and {} more", fmt::join(parts, ", "), hidden);
    if (parts.size() < 2) return fmt::format("{}", fmt::join(parts, ""));
    return fmt::format("{} and {}", fmt::join(parts.begin(), parts.end() - 1, ", "), parts.back());
}

/// "a.jsonl:12, 15 and 18"; "a.toml:3 and b.toml:4".
std::string places_text(std::vector<Place> places) {
    std::vector<Place> known;
    for (Place& place : places)
        if (!place.file.empty() && std::find(known.begin(), known.end(), place) == known.end())
            known.push_back(std::move(place));
    std::sort(known.begin(), known.end(),
              [](const Place& a, const Place& b) { return std::tie(a.file, a.line) < std::tie(b.file, b.line); });
    std::vector<std::string> parts;
    for (std::size_t i = 0; i < std::min(known.size(), most_lines); ++i)
        parts.push_back(i > 0 && known[i].file == known[i - 1].file ? std::to_string(known[i].line)
                                                                    : known[i].text());
    return joined(parts, known.size() - parts.size());
}

/// Requirements that make one sentence: the same thing asked by several versions of one module.
struct Group {
    AskedBy by = AskedBy::need;
    bool optional = false;
    Id from = model::no_id;  // no_id: from outside
    Id to = model::no_id;
    std::string to_name;
    std::string range;
    std::vector<std::uint32_t> rows;
    std::vector<Place> places;
    std::string sentence;  // of a root or a pin
    versions::Requirement versions;
    bool everything = false;  // any version, pre-releases too
    std::size_t pair = 0;     // which modules it is about, in the teller's list
};

class Teller {
  public:
    Teller(const Universe& universe, const Demand& demand) : universe_(universe), demand_(demand) {}

    std::vector<std::string> run(const std::vector<Tag>& core) {
        for (const Tag tag : core) take_up(tag);
        put_in_order();
        for (std::size_t i = 0; i < groups_.size() && !done_; ++i) tell(i);
        if (!done_) sentences_.push_back(whichever());
        return std::move(sentences_);
    }

    std::vector<std::string> reasons(const std::vector<Tag>& core) {
        for (const Tag tag : core) take_up(tag);
        put_in_order();
        for (const bool roots : {false, true}) {
            for (const Group& group : groups_)
                if (group.by != AskedBy::given && (group.by == AskedBy::root) == roots)
                    sentences_.push_back(with_places(group));
            if (!sentences_.empty()) break;
        }
        return std::move(sentences_);
    }

  private:
    void take_up(Tag tag) {
        const Asked one = asked(universe_, demand_, tag);
        Group group;
        group.by = one.by;
        const auto& table = universe_.table();
        const auto wanted = [&](const Wanted& w) {
            group.to = table.names.find(w.module);
            group.to_name = w.module;
            group.versions = w.versions;
            group.sentence = w.sentence;
            group.places = {{w.file, w.line}};
            group.everything = w.everything;
        };
        const auto from_row = [&](Id to, Id requirement, const Place& place) {
            group.from = table.rows[one.row].module;
            group.rows = {one.row};
            group.to = to;
            group.to_name = table.names.text(to);
            if (requirement != model::no_id) group.versions = table.requirement(requirement);
            group.places = {place};
        };
        switch (one.by) {
            case AskedBy::need: {
                const model::Need& need = table.needs[one.index];
                from_row(need.module, need.requirement, place_of(universe_.table(), one.row, need));
                group.optional = need.optional;
                break;
            }
            case AskedBy::conflict: {
                const model::Bar& bar = table.bars[one.index];
                from_row(bar.module, bar.requirement, place_of(universe_.table(), one.row, bar));
                break;
            }
            case AskedBy::root:
                wanted(demand_.roots[one.index]);
                break;
            case AskedBy::pin:
                wanted(demand_.pins[one.index]);
                break;
            case AskedBy::given: {
                const Given& given = demand_.givens[one.index];
                group.to = given.module;
                group.to_name = table.names.text(given.module);
                group.versions = versions::parse_requirement(fmt::format("={}", universe_.version(given.row)))
                                     .value_or(versions::Requirement{});
                group.sentence = fmt::format("{} is {}", group.to_name, universe_.version(given.row));
                group.places = {place_of(universe_.table(), given.row)};
            }
        }
        group.range = range_text(group.versions);
        if (group.from != model::no_id) {
            std::vector<std::size_t>& of_pair = groups_of_[{group.from, group.to}];
            for (const std::size_t at : of_pair)
                if (Group& known = groups_[at]; std::tie(known.by, known.optional, known.range) ==
                                                std::tie(group.by, group.optional, group.range)) {
                    known.rows.push_back(one.row);
                    known.places.push_back(group.places.front());
                    return;
                }
            of_pair.push_back(groups_.size());
        }
        groups_.push_back(std::move(group));
    }

    /// Roots first; then, module by module as they are reached, what it asks for. Pins come before the first need of
    /// the pinned module's users ends: right behind the roots.
    void put_in_order() {
        std::vector<Group> ordered;
        ordered.reserve(groups_.size());
        std::vector<Id> reached;
        std::set<Id> known_to_be_reached;
        std::vector<bool> used(groups_.size());
        std::map<Id, std::vector<std::size_t>> asked_by;
        for (std::size_t i = 0; i < groups_.size(); ++i) asked_by[groups_[i].from].push_back(i);
        const auto take = [&](std::size_t i) {
            used[i] = true;
            if (known_to_be_reached.insert(groups_[i].to).second) reached.push_back(groups_[i].to);
            ordered.push_back(groups_[i]);
        };
        const auto rank = [](AskedBy by) { return by == AskedBy::root ? 0 : by == AskedBy::given ? 1 : 2; };
        for (int wanted = 0; wanted < 3; ++wanted)
            for (std::size_t i = 0; i < groups_.size(); ++i)
                if (groups_[i].from == model::no_id && rank(groups_[i].by) == wanted) take(i);
        for (std::size_t at = 0; at < reached.size(); ++at)
            for (const std::size_t i : asked_by[reached[at]])
                if (!used[i]) take(i);
        for (std::size_t i = 0; i < groups_.size(); ++i)
            if (!used[i]) take(i);
        groups_ = std::move(ordered);
        std::map<std::pair<Id, Id>, std::size_t> known;
        for (std::size_t i = 0; i < groups_.size(); ++i) {
            const auto [at, fresh] = known.try_emplace({groups_[i].from, groups_[i].to}, pairs_.size());
            if (fresh) pairs_.emplace_back();
            pairs_[groups_[i].pair = at->second].groups.push_back(i);
            about_[groups_[i].to].push_back(i);
            if (groups_[i].from != groups_[i].to) about_[groups_[i].from].push_back(i);
        }
    }

    [[nodiscard]] std::vector<std::uint32_t>& left(Id module) {
        const auto [at, fresh] = left_.try_emplace(module);
        if (fresh && module != model::no_id)
            for (const std::uint32_t row : universe_.rows_of(module))
                if (!is_withdrawn(row)) at->second.push_back(row);
        return at->second;
    }

    [[nodiscard]] bool is_withdrawn(std::uint32_t row) const {
        return universe_.table().rows[row].withdrawn && demand_.held.count(row) == 0;
    }

    /// Versions that are there, and would do, but for what they are themselves.
    [[nodiscard]] std::string kept_back(const Group& group) const {
        std::vector<std::uint32_t> withdrawn, early;
        std::vector<Place> places;
        for (const std::uint32_t row : universe_.rows_of(group.to)) {
            const model::Row& one = universe_.table().rows[row];
            if (is_withdrawn(row)) {
                if (!allows(group, row)) continue;
                withdrawn.push_back(row);
                places.push_back(place_of(universe_.table(), row));
            } else if (!allows(group, row) &&
                       versions::meets(universe_.table().version(one.version), group.versions, true)) {
                early.push_back(row);
            }
        }
        std::string text;
        if (!withdrawn.empty())
            text += fmt::format("; {} {} withdrawn ({})", versions_text(universe_, withdrawn),
                                withdrawn.size() == 1 ? "was" : "were", places_text(places));
        if (!early.empty())
            text += fmt::format("; {} {}, taken only where one is asked for", versions_text(universe_, early),
                                early.size() == 1 ? "is a pre-release" : "are pre-releases");
        return text;
    }

    /// Whether a row is what the group allows of the module it speaks of.
    [[nodiscard]] bool allows(const Group& group, std::uint32_t row) const {
        const bool meets = group.everything || universe_.meets(universe_.table().rows[row].version, group.versions);
        return group.by == AskedBy::conflict ? !meets : meets;
    }

    void tell(std::size_t i) {
        const Group& group = groups_[i];
        sentences_.push_back(with_places(group) + conclude(i));
    }

    [[nodiscard]] std::string with_places(const Group& group) const {
        const std::string places = places_text(group.places);
        return said(group) + (places.empty() ? "" : fmt::format(" ({})", places));
    }

    [[nodiscard]] std::string said(const Group& group) const {
        if (group.from == model::no_id) return group.sentence;
        const std::string who = versions_text(universe_, group.rows);
        const bool many = group.rows.size() > 1;
        const std::string what = group.range == "any" ? group.to_name : group.to_name + " " + group.range;
        if (group.by == AskedBy::conflict) return fmt::format("{} cannot be with {}", who, what);
        if (group.optional)
            return fmt::format("{} {} {} only as {}", who, many ? "take" : "takes", group.to_name, group.range);
        return fmt::format("{} {} {}", who, many ? "need" : "needs", what);
    }

    /// What all that was said up to this group leaves; ends the story when that is nothing.
    std::string conclude(std::size_t i) {
        const Group& group = groups_[i];
        told_ = i;
        to_look_at_.insert(i);
        // The last word on this pair is not spoken yet.
        if (group.from != model::no_id && pairs_[group.pair].groups.back() > i) return "";
        pairs_[group.pair].seen = 0;
        to_look_at_.insert(pairs_[group.pair].groups.begin(), pairs_[group.pair].groups.end());
        const bool is_there = group.to != model::no_id && !universe_.rows_of(group.to).empty();
        const bool provided = group.to != model::no_id && !universe_.providers_of(group.to).empty();
        if (provided) return "";
        const std::vector<std::uint32_t> to_before = left(group.to), from_before = left(group.from);
        if (group.from == model::no_id) {
            std::erase_if(left(group.to), [&](std::uint32_t row) { return !allows(group, row); });
            touch(group.to);
        }
        if (group.from == model::no_id && group.by != AskedBy::pin) need(group.to);
        const Id gone = settle(i);
        const bool from_hit = group.from != model::no_id && left(group.from).size() < from_before.size();
        std::string why;
        if (!is_there) {
            why = fmt::format(", but there is no module {}", group.to_name);
        } else if (left(group.to).empty() || from_hit) {
            const auto all = universe_.rows_of(group.to);
            const bool untouched =
                std::ssize(to_before) ==
                std::count_if(all.begin(), all.end(), [&](std::uint32_t row) { return !is_withdrawn(row); });
            why = untouched ? fmt::format(", but there {} only {}", to_before.size() == 1 ? "is" : "are",
                                          versions_text(universe_, to_before))
                            : fmt::format(", but {} {} left", versions_text(universe_, to_before),
                                          to_before.size() == 1 ? "is what is" : "are what is");
            const bool none_fits =
                group.by != AskedBy::conflict && std::none_of(to_before.begin(), to_before.end(),
                                                              [&](std::uint32_t row) { return allows(group, row); });
            if (none_fits) why += kept_back(group);
        }
        done_ = gone != no_module || (!is_there && group.from == model::no_id);
        if (done_) {
            const bool plain = gone == group.to || gone == group.from || gone == no_module;
            const std::string what = gone == no_module ? "" : std::string(universe_.table().names.text(gone));
            return why + (plain ? "" : fmt::format(": so no version of {} is left", what));
        }
        if (i + 1 == groups_.size()) return why;
        if (from_hit) return why + "; that leaves " + versions_text(universe_, left(group.from));
        if (left(group.to).size() < to_before.size())
            return "; that leaves " + versions_text(universe_, left(group.to));
        return why;
    }

    /// Takes away, until nothing changes, what cannot be had with what was said up to this group. Gives a module of
    /// which nothing is left, or no_module.
    Id settle(std::size_t i) {
        for (std::size_t from = 0; !to_look_at_.empty();) {  // as they were told, again and again
            const auto next = to_look_at_.lower_bound(from);
            from = next == to_look_at_.end() ? 0 : *next + 1;
            if (next == to_look_at_.end()) continue;
            const Group& group = groups_[*next];
            to_look_at_.erase(next);
            if (group.from != model::no_id && is_to_be_seen(group) && needed_.count(group.from) != 0)
                narrow(i, group);
            for (const Id module : {group.to, group.from})
                if (module != model::no_id && needed_.count(module) != 0 && left(module).empty()) return module;
        }
        return no_module;
    }

    /// Something has changed about a module: what was told of it is to be looked at again.
    void touch(Id module) {
        touched_[module] = ++now_;
        for (const std::size_t group : about_[module]) {
            if (group > told_) break;
            to_look_at_.insert(group);
        }
    }

    void need(Id module) {
        if (needed_.insert(module).second) touch(module);
    }

    /// Whether anything has changed for its pair of modules since that was looked at.
    [[nodiscard]] bool is_to_be_seen(const Group& group) {
        const std::size_t seen = pairs_[group.pair].seen;
        return seen == 0 || touched_[group.from] > seen || touched_[group.to] > seen;
    }

    /// The rule of one pair of modules, as far as it has been told.
    void narrow(std::size_t i, const Group& group) {
        pairs_[group.pair].seen = ++now_;
        std::vector<std::uint32_t>&from = left(group.from), &to = left(group.to);
        if (group.to != model::no_id && !universe_.providers_of(group.to).empty()) return;
        const auto& own = pairs_[group.pair].groups;
        const auto told = std::upper_bound(own.begin(), own.end(), i);
        const auto is_of = [](const Group& other, std::uint32_t a) {
            return std::find(other.rows.begin(), other.rows.end(), a) != other.rows.end();
        };
        const auto fits = [&](std::uint32_t a, std::uint32_t b) {
            return std::none_of(own.begin(), told, [&](std::size_t other) {
                return is_of(groups_[other], a) && !allows(groups_[other], b);
            });
        };
        const auto asks = [&](std::uint32_t a) {
            return std::any_of(own.begin(), told, [&](std::size_t other) {
                return groups_[other].by == AskedBy::need && !groups_[other].optional && is_of(groups_[other], a);
            });
        };
        const std::size_t before = from.size() + to.size();
        const bool must = needed_.count(group.to) != 0;
        std::erase_if(from, [&](std::uint32_t a) {
            return (must || asks(a)) &&
                   std::none_of(to.begin(), to.end(), [&](std::uint32_t b) { return fits(a, b); });
        });
        if (!from.empty() && std::all_of(from.begin(), from.end(), asks)) need(group.to);
        if (!from.empty())
            std::erase_if(to, [&](std::uint32_t b) {
                return std::none_of(from.begin(), from.end(), [&](std::uint32_t a) { return fits(a, b); });
            });
        if (from.size() + to.size() == before) return;
        touch(group.from);
        touch(group.to);
    }

    /// Where the contradiction is not in one module alone.
    [[nodiscard]] std::string whichever() {
        const std::pair<const Id, std::vector<std::uint32_t>>* fewest = nullptr;
        for (const auto& one : left_)
            if (one.second.size() > 1 &&
                (fewest == nullptr || one.second.size() < fewest->second.size() ||
                 (one.second.size() == fewest->second.size() &&
                  universe_.table().names.text(one.first) < universe_.table().names.text(fewest->first))))
                fewest = &one;
        if (fewest == nullptr) return "so these cannot all be met";
        return fmt::format("so whichever {} is taken, one of these cannot be met",
                           universe_.table().names.text(fewest->first));
    }

    const Universe& universe_;
    const Demand& demand_;
    std::vector<Group> groups_;
    std::map<std::pair<Id, Id>, std::vector<std::size_t>> groups_of_;  // by who asks and for what, before the order
    std::map<Id, std::vector<std::size_t>> about_;                     // by either of the two, rising
    std::set<std::size_t> to_look_at_;                                 // groups about what has changed
    std::size_t told_ = 0;                                             // the latest group told
    static constexpr Id no_module = model::no_id - 1;
    std::map<Id, std::vector<std::uint32_t>> left_;
    std::set<Id> needed_;
    /// All that is told of what one module asks of another one.
    struct Pair {
        std::vector<std::size_t> groups;  // rising
        std::size_t seen = 0;             // when it was looked at last; 0: not as far as it is told now
    };
    std::vector<Pair> pairs_;
    std::map<Id, std::size_t> touched_;  // when less of a module was left, or it was needed
    std::size_t now_ = 0;
    std::vector<std::string> sentences_;
    bool done_ = false;
};

}  // namespace

std::string range_text(const versions::Requirement& requirement) {
    return requirement.is_any() ? "any" : requirement.text;
}

std::string versions_text(const Universe& universe, const std::vector<std::uint32_t>& rows) {
    if (rows.empty()) return {};
    const Id module = universe.table().rows[rows.front()].module;
    const auto all = universe.rows_of(module);  // newest first
    std::vector<std::string> parts;
    std::size_t runs = 0;
    for (std::size_t at = all.size(); at-- > 0;) {
        if (std::find(rows.begin(), rows.end(), all[at]) == rows.end()) continue;
        const std::size_t first = at;
        while (at > 0 && std::find(rows.begin(), rows.end(), all[at - 1]) != rows.end()) --at;
        if (++runs > most_runs) continue;
        parts.push_back(first == at ? std::string(universe.version(all[at]))
                        : first == at + 1
                            ? fmt::format("{} and {}", universe.version(all[first]), universe.version(all[at]))
                            : fmt::format("{} to {}", universe.version(all[first]), universe.version(all[at])));
    }
    return fmt::format("{} {}", universe.table().names.text(module),
                       runs == 1 ? parts.front() : joined(parts, runs - parts.size()));
}

std::vector<std::string> sentences_for(const Universe& universe, const Demand& demand, const std::vector<Tag>& core) {
    return Teller(universe, demand).run(core);
}

std::vector<std::string> brief_sentences_for(const Universe& universe, const Demand& demand,
                                             const std::vector<Tag>& core) {
    std::vector<std::string> sentences;
    std::size_t others = 0;
    for (const Tag tag : core) {
        const Asked one = asked(universe, demand, tag);
        if (one.by != AskedBy::root && one.by != AskedBy::pin) {
            ++others;
            continue;
        }
        const Wanted& wanted = one.by == AskedBy::root ? demand.roots[one.index] : demand.pins[one.index];
        const Place place{wanted.file, wanted.line};
        sentences.push_back(place.file.empty() ? wanted.sentence
                                               : fmt::format("{} ({})", wanted.sentence, place.text()));
    }
    sentences.push_back(fmt::format(
        "{} requirements of modules, each with its place in resolve.json, leave no way to have that; no short reason "
        "was found",
        others));
    return sentences;
}

std::vector<std::string> reasons_for(const Universe& universe, const Demand& demand, const std::vector<Tag>& core) {
    return Teller(universe, demand).reasons(core);
}

Clash clash_of(const Universe& universe, const Demand& demand, Tag tag) {
    const Asked one = asked(universe, demand, tag);
    const auto& table = universe.table();
    const auto of_row = [&](Id to, Id requirement, const char* kind, Place place) {
        return Clash{std::string(universe.name(one.row)),
                     std::string(universe.version(one.row)),
                     std::string(table.names.text(to)),
                     requirement == model::no_id ? "any" : range_text(table.requirement(requirement)),
                     kind,
                     std::move(place)};
    };
    const auto of_wanted = [&](const Wanted& wanted, const char* kind) {
        return Clash{"", "", wanted.module, range_text(wanted.versions), kind, {wanted.file, wanted.line}};
    };
    switch (one.by) {
        case AskedBy::need: {
            const model::Need& need = table.needs[one.index];
            return of_row(need.module, need.requirement, need.optional ? "optional" : "need",
                          place_of(universe.table(), one.row, need));
        }
        case AskedBy::conflict: {
            const model::Bar& bar = table.bars[one.index];
            return of_row(bar.module, bar.requirement, "conflict", place_of(universe.table(), one.row, bar));
        }
        case AskedBy::root:
            return of_wanted(demand.roots[one.index], "root");
        case AskedBy::pin:
            return of_wanted(demand.pins[one.index], "pin");
        case AskedBy::given: {
            const Given& given = demand.givens[one.index];
            return {"",
                    "",
                    std::string(table.names.text(given.module)),
                    fmt::format("={}", universe.version(given.row)),
                    "given",
                    place_of(universe.table(), given.row)};
        }
    }
    return {};
}

}  // namespace envar::resolve
