#include "core/members/contract.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <map>
#include <set>
#include <tuple>

namespace envar::members {
namespace {

/// A member as dependants see it: what the source tells, with what only the manifest declares.
struct Seen {
    std::string kind, summary, body;
    std::string found_kind;  // empty: it is not in the source
    std::vector<model::Parameter> parameters;
    bool tells_parameters = false;
    std::size_t line = 0;
    std::string file;
};
using Contract = std::map<std::string, Seen>;

std::string without_blanks(std::string_view text) {
    std::string out;
    for (const char c : text)
        if (c != ' ' && c != '\t' && c != '\r' && c != '\n') out += c;
    return out;
}

/// A value in the language's own quotes, or in those of a manifest.
std::string_view without_quotes(std::string_view text) {
    const bool quoted =
        text.size() > 1 && text.front() == text.back() && (text.front() == '"' || text.front() == '\'');
    return quoted ? text.substr(1, text.size() - 2) : text;
}

/// The words of a type, each without the names of what it is in; sorted where there are alternatives.
std::vector<std::string> words_of(const std::string& type, const model::Card& card) {
    const auto is_part = [](char c) {
        return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_' || c == '.';
    };
    std::vector<std::string> out;
    bool any_order = type.find('|') != std::string::npos;
    for (auto at = type.begin(); at != type.end();) {
        const auto begin = std::find_if(at, type.end(), is_part);
        at = std::find_if_not(begin, type.end(), is_part);
        std::string word(begin, at);
        word.erase(0, word.rfind('.') + 1);
        for (const auto& [written, meant] : card.type_words)
            if (word == written) word = meant, any_order = true;
        if (!word.empty()) out.push_back(std::move(word));
    }
    if (any_order) std::sort(out.begin(), out.end());
    return out;
}

bool has_place(const model::Parameter& parameter) { return parameter.given == "in_place"; }
bool takes_rest(const model::Parameter& parameter) { return parameter.given.starts_with("rest"); }

/// From behind the name to the end of the definition, without blanks.
std::string body_of(const Scan& scan, const FoundMember& member) {
    const std::string_view text = scan.source_of(member).text();
    if (member.extent.end <= member.span.end) return {};
    return without_blanks(text.substr(member.span.end, member.extent.end - member.span.end));
}

/// The parameters that the source has; of each what it does not tell is as the manifest declares it.
std::vector<model::Parameter> parameters_of(const FoundMember& found, const model::Member* declared) {
    std::vector<model::Parameter> out;
    for (const auto& p : found.parameters) {
        model::Parameter parameter;
        parameter.name.value = p.name;
        parameter.required = p.required;
        if (declared != nullptr) {
            const auto own = std::find_if(declared->parameters.begin(), declared->parameters.end(),
                                          [&](const auto& one) { return one.name.value == p.name; });
            if (own != declared->parameters.end()) parameter = *own;
        }
        if (!p.type.empty()) parameter.type = p.type;
        parameter.given = given(p);
        if (found.tells_defaults) {
            parameter.required = p.required;
            parameter.preset.text = p.preset;
        }
        out.push_back(std::move(parameter));
    }
    return out;
}

/// With `unlisted` also of what the source has and nobody exports.
Contract contract_of(const State& state, bool unlisted = false) {
    Contract contract;
    for (const FoundMember& found : state.scan->members) {
        const auto& members = state.manifest->members;
        const auto declared =
            std::find_if(members.begin(), members.end(), [&](const auto& m) { return m.name.value == found.name; });
        if (!unlisted && declared == members.end() && !exports_all(*state.manifest, *state.scan)) continue;
        contract[found.name] = {found.kind,
                                found.summary,
                                body_of(*state.scan, found),
                                found.kind,
                                parameters_of(found, declared == members.end() ? nullptr : &*declared),
                                found.tells_parameters,
                                found.line,
                                found.file};
    }
    for (const auto& member : state.manifest->members) {
        Seen& seen = contract[member.name.value];
        seen.kind = member.kind;
        if (!member.summary.empty()) seen.summary = member.summary;
        if (!seen.tells_parameters) {
            seen.parameters = member.parameters;
            seen.tells_parameters = true;
        }
        if (seen.file.empty()) seen.file = state.file;
    }
    return contract;
}

class Comparer {
  public:
    Comparer(const State& before, const State& after)
        : before_(before), after_(after), old_(contract_of(before)), new_(contract_of(after)) {
        if (!after.scan->readable) return;
        // What the manifest still declares though the source has lost it is gone for whoever uses it.
        for (const auto& member : after.manifest->members) {
            const auto was = old_.find(member.name.value), now = new_.find(member.name.value);
            const bool was_found = was != old_.end() && (!was->second.found_kind.empty() || !before.scan->readable);
            if (was_found && now != new_.end() && !member.dynamic && now->second.found_kind.empty()) new_.erase(now);
        }
    }

    std::vector<Difference> run() {
        match_renamed();
        for (const auto& [name, seen] : old_)
            if (const auto other = new_.find(name); other != new_.end()) compare_member(name, seen, other->second);
        for (const auto& [name, seen] : old_)
            if (new_.count(name) == 0 && renamed_.count(name) == 0)
                tell(Weight::breaking, "removed", name, fmt::format("{} `{}` is gone", seen.kind, name), seen);
        for (const auto& [name, seen] : new_)
            if (old_.count(name) == 0 && taken_.count(name) == 0)
                tell(Weight::addition, "added", name, fmt::format("{} `{}` is new", seen.kind, name), seen);
        compare_needs();
        const std::string phase = before_.manifest->entry.phase.value, now = after_.manifest->entry.phase.value;
        if (phase != now)
            tell(Weight::breaking, "phase moved", "",
                 fmt::format("it is loaded in the phase {} instead of {}", now.empty() ? "that is usual" : now,
                             phase.empty() ? "the usual one" : phase),
                 {});
        sort(out_);
        return std::move(out_);
    }

  private:
    void tell(Weight weight, std::string what, std::string member, std::string sentence, const Seen& seen) {
        out_.push_back({weight, std::move(what), std::move(member), std::move(sentence), seen.line, seen.file});
    }

    static bool same_parameters(const Seen& a, const Seen& b) {
        return std::equal(a.parameters.begin(), a.parameters.end(), b.parameters.begin(), b.parameters.end(),
                          [](const auto& x, const auto& y) { return x.name.value == y.name.value; });
    }

    /// The new name may not be in the manifest yet.
    void match_renamed() {
        const Contract had = contract_of(before_, true), all = contract_of(after_, true);
        for (const bool by_body : {true, false})
            for (const auto& [name, seen] : old_) {
                if (new_.count(name) != 0 || renamed_.count(name) != 0) continue;
                for (const auto& [other, candidate] : all) {
                    if (candidate.found_kind.empty() && new_.count(other) == 0) continue;
                    if (had.count(other) != 0 || taken_.count(other) != 0 || candidate.kind != seen.kind) continue;
                    const bool same = by_body ? seen.body.size() > 4 && seen.body == candidate.body
                                              : !seen.summary.empty() && seen.summary == candidate.summary &&
                                                    same_parameters(seen, candidate);
                    if (!same) continue;
                    renamed_.insert(name);
                    taken_.insert(other);
                    tell(Weight::breaking, "renamed", name,
                         fmt::format("{} `{}` is called `{}` now", seen.kind, name, other), candidate);
                    break;
                }
            }
    }

    void compare_member(const std::string& name, const Seen& before, const Seen& after) {
        const bool found_otherwise =
            !before.found_kind.empty() && !after.found_kind.empty() && before.found_kind != after.found_kind;
        if (before.kind != after.kind || found_otherwise)
            tell(Weight::breaking, "kind changed", name,
                 fmt::format("`{}` is a {} and was a {}", name, found_otherwise ? after.found_kind : after.kind,
                             found_otherwise ? before.found_kind : before.kind),
                 after);
        // One of another kind may take the same, as a class does in place of a function, and not tell it.
        if (!found_otherwise) compare_parameters(name, before, after);
        if (before.summary != after.summary)
            tell(Weight::fix, "described anew", name, fmt::format("`{}` is described anew", name), after);
        if (!before.body.empty() && !after.body.empty() && before.body != after.body)
            tell(Weight::fix, "changed", name, fmt::format("the code of `{}` changed", name), after);
    }

    /// What stands for the parameter there, null for nothing. What takes the rest may be called as it likes; `_` is
    /// no name, and counts by its place.
    static const model::Parameter* counterpart(const Seen& there, const model::Parameter& one) {
        if (!takes_rest(one) && one.is_unused()) return nullptr;
        const auto found = std::find_if(there.parameters.begin(), there.parameters.end(), [&](const auto& other) {
            return takes_rest(one) ? other.given == one.given : other.name.value == one.name.value;
        });
        return found == there.parameters.end() ? nullptr : &*found;
    }

    /// Those that are given by where they stand.
    static std::vector<const model::Parameter*> in_places(const Seen& seen) {
        std::vector<const model::Parameter*> out;
        for (const auto& one : seen.parameters)
            if (has_place(one)) out.push_back(&one);
        return out;
    }

    void compare_parameters(const std::string& name, const Seen& before, const Seen& after) {
        std::map<const model::Parameter*, const model::Parameter*> pairs, back;  // before → after, and the other way
        const auto join = [&](const model::Parameter* was, const model::Parameter* now) {
            if (now != nullptr) pairs[was] = now, back[now] = was;
        };
        for (const auto& was : before.parameters) join(&was, counterpart(after, was));
        // In a place, one new name instead of one that is gone.
        const auto places_before = in_places(before), places_after = in_places(after);
        for (std::size_t i = 0; i < std::min(places_before.size(), places_after.size()); ++i) {
            const model::Parameter *was = places_before[i], *now = places_after[i];
            if (pairs.count(was) != 0 || back.count(now) != 0) continue;
            join(was, now);
            if (was->name.value == now->name.value) continue;
            tell(after_.scan->card == nullptr || after_.scan->card->called_by_name ? Weight::breaking : Weight::fix,
                 "parameter renamed", name,
                 fmt::format("`{}` of `{}` is called `{}` now", was->name.value, name, now->name.value), after);
        }
        const model::Parameter* last = nullptr;  // of those that have a place in both states
        bool in_order = true;
        for (const auto& was : before.parameters) {
            const auto pair = pairs.find(&was);
            if (pair == pairs.end()) {
                tell(Weight::breaking, "parameter removed", name,
                     fmt::format("`{}` takes no `{}` any more", name, was.name.value), after);
                continue;
            }
            compare_parameter(name, was, *pair->second, after);
            if (!has_place(was) || !has_place(*pair->second)) continue;
            in_order = in_order && last < pair->second;
            last = std::max(last, pair->second);
        }
        if (!in_order)
            tell(Weight::breaking, "parameters reordered", name,
                 fmt::format("`{}` takes its parameters in another order", name), after);
        for (const auto& one : after.parameters) {
            if (back.count(&one) != 0) continue;
            const bool in_the_way = has_place(one) && last > &one;
            tell(one.required || in_the_way ? Weight::breaking : Weight::addition, "parameter added", name,
                 fmt::format("`{}` takes `{}`{}", name, one.name.value,
                             one.required ? ""
                             : in_the_way ? " in between, so that others move"
                                          : ", which may be left out"),
                 after);
        }
    }

    void compare_parameter(const std::string& of, const model::Parameter& was, const model::Parameter& now,
                           const Seen& at) {
        const std::string& name = was.name.value;
        if (!was.required && now.required)
            tell(Weight::breaking, "parameter required", of, fmt::format("`{}` of `{}` must be given", name, of), at);
        if (was.required && !now.required)
            tell(Weight::addition, "parameter optional", of, fmt::format("`{}` of `{}` may be left out", name, of),
                 at);
        if (has_place(was) && now.given == "by_name")
            tell(Weight::breaking, "parameter named", of,
                 fmt::format("`{}` of `{}` is given by its name only", name, of), at);
        const auto shown = [](const model::Parameter& one) {
            return one.preset.text.empty() ? std::string_view("nothing") : std::string_view(one.preset.text);
        };
        if (without_quotes(was.preset.text) != without_quotes(now.preset.text) && !was.required && !now.required)
            tell(Weight::breaking, "default changed", of,
                 fmt::format("`{}` of `{}` is {} when it is left out, and was {}", name, of, shown(now), shown(was)),
                 at);
        if (!was.type.empty() && !now.type.empty() && !is_same_type(was.type, now.type))
            tell(Weight::breaking, "type changed", of,
                 fmt::format("`{}` of `{}` is {} and was {}", name, of, now.type, was.type), at);
    }

    [[nodiscard]] bool is_same_type(const std::string& a, const std::string& b) const {
        const model::Card* card = after_.scan->card;
        return a == b || (card != nullptr && !card->type_words.empty() && words_of(a, *card) == words_of(b, *card));
    }

    void compare_needs() {
        const auto needs = [](const State& state) {
            std::map<std::string, const model::Dependency*> out;
            for (const auto& d : state.manifest->dependencies)
                if (d.stage != model::Stage::test) out[d.module.value] = &d;
            return out;
        };
        const auto before = needs(before_), after = needs(after_);
        const auto tell_need = [&](Weight weight, const char* what, const std::string& name, std::string sentence) {
            Seen at;
            at.file = after_.file;
            tell(weight, what, name, std::move(sentence), at);
        };
        for (const auto& [name, need] : before) {
            const auto now = after.find(name);
            if (now == after.end()) {
                tell_need(need->is_public ? Weight::breaking : Weight::fix, "dependency dropped", name,
                          fmt::format("it does not need {} any more{}", name,
                                      need->is_public ? ", which dependants could see" : ""));
            } else if (need->is_public != now->second->is_public) {
                tell_need(
                    need->is_public ? Weight::breaking : Weight::addition, "visibility changed", name,
                    fmt::format("the dependency on {} is {} now", name, need->is_public ? "private" : "public"));
            } else if (need->optional && !now->second->optional) {
                tell_need(Weight::addition, "dependency required", name,
                          fmt::format("it does not work without {} now", name));
            }
        }
        for (const auto& [name, need] : after)
            if (before.count(name) == 0)
                tell_need(Weight::addition, "dependency added", name,
                          fmt::format("it needs {}{}", name, need->is_public ? ", and dependants see it" : ""));
    }

    const State& before_;
    const State& after_;
    Contract old_, new_;
    std::set<std::string> renamed_, taken_;
    std::vector<Difference> out_;
};

}  // namespace

std::string_view weight_name(Weight weight) {
    return weight == Weight::breaking ? "breaking" : weight == Weight::addition ? "addition" : "fix";
}

void sort(std::vector<Difference>& differences) {
    std::stable_sort(differences.begin(), differences.end(), [](const Difference& a, const Difference& b) {
        return std::tie(b.weight, a.member, a.what) < std::tie(a.weight, b.member, b.what);
    });
}

model::Manifest promise_of(const State& state) {
    model::Manifest out;
    const model::Manifest& from = *state.manifest;
    out.name = from.name;
    out.version_text = from.version_text;
    out.host = from.host;
    out.summary = from.summary;
    out.entry.phase = from.entry.phase;
    out.dependencies = from.dependencies;
    for (const auto& [name, seen] : contract_of(state)) {
        model::Member& member = out.members.emplace_back();
        member.name.value = name;
        member.kind = seen.kind;
        member.summary = seen.summary;
        member.parameters = seen.parameters;
    }
    return out;
}

std::vector<Difference> differences(const State& before, const State& after) { return Comparer(before, after).run(); }

versions::Version version_that_follows(const versions::Version& before, const std::vector<Difference>& differences) {
    versions::Version next = before;
    next.prerelease.clear();
    next.build.clear();
    if (differences.empty() || !before.prerelease.empty()) return next;
    Weight most = Weight::fix;
    for (const auto& difference : differences) most = std::max(most, difference.weight);
    std::size_t part = most == Weight::breaking ? 0 : most == Weight::addition ? 1 : 2;
    if (before.numbers[0] == 0) part = most == Weight::breaking ? 1 : 2;
    if (before.count < 3) part = static_cast<std::size_t>(before.count) - 1;
    ++next.numbers[part];
    for (std::size_t i = part + 1; i < next.numbers.size(); ++i) next.numbers[i] = 0;
    return next;
}

}  // namespace envar::members
