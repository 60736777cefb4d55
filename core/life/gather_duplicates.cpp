// Functions of loose scripts that are there more than once, or nearly so.
#include <algorithm>
#include <map>
#include <set>
#include <tuple>
#include <unordered_map>

#include "core/life/gather.hpp"
#include "core/text/diff.hpp"
#include "core/text/hash.hpp"

namespace envar::life {
namespace {

constexpr std::size_t shortest_line = 5;            // of lines that make two functions alike
constexpr std::size_t fewest_lines = 3;             // such lines that both must have
constexpr std::size_t most_common = 64;             // functions with a line: beyond, it says nothing
constexpr std::size_t longest_difference = 12'000;  // bytes

class Likenesses {
  public:
    explicit Likenesses(LooseScripts& scripts) : scripts_(scripts), functions_(scripts.functions) {}

    void find() {
        by_name();
        by_body();
        by_lines();
        std::stable_sort(scripts_.duplicates.begin(), scripts_.duplicates.end(),
                         [&](const Duplicate& a, const Duplicate& b) {
                             return std::tie(functions_[a.functions[0]].name(), a.likeness) <
                                    std::tie(functions_[b.functions[0]].name(), b.likeness);
                         });
    }

  private:
    void tell(Likeness likeness, std::vector<std::size_t> functions) {
        Duplicate duplicate{likeness, std::move(functions), {}};
        const LooseFunction& first = functions_[duplicate.functions[0]];
        for (const std::size_t other : duplicate.functions) {
            if (likeness == Likeness::same || functions_[other].code == first.code) continue;
            duplicate.difference = text::unified_diff(first.code + "\n", functions_[other].code + "\n",
                                                      scripts_.place(duplicate.functions[0]), scripts_.place(other));
            if (duplicate.difference.size() > longest_difference) {
                duplicate.difference.resize(duplicate.difference.rfind('\n', longest_difference) + 1);
                duplicate.difference += "…\n";
            }
            break;
        }
        scripts_.duplicates.push_back(std::move(duplicate));
    }

    void by_name() {
        std::map<std::string_view, std::vector<std::size_t>> groups;
        for (std::size_t i = 0; i < functions_.size(); ++i) groups[functions_[i].name()].push_back(i);
        for (const auto& [name, group] : groups) {
            if (group.size() < 2) continue;
            std::map<std::string_view, std::vector<std::size_t>> bodies;
            for (const std::size_t i : group) bodies[functions_[i].body].push_back(i);
            if (bodies.size() == 1) {
                tell(Likeness::same, group);
                continue;
            }
            // One of each body first, so that what differs stands side by side.
            std::vector<std::size_t> mixed, rest;
            for (const auto& body : bodies) {
                mixed.push_back(body.second[0]);
                rest.insert(rest.end(), body.second.begin() + 1, body.second.end());
            }
            std::sort(mixed.begin(), mixed.end());
            mixed.insert(mixed.end(), rest.begin(), rest.end());
            tell(Likeness::versions, std::move(mixed));
        }
    }

    void by_body() {
        std::unordered_map<std::string_view, std::vector<std::size_t>> groups;
        for (std::size_t i = 0; i < functions_.size(); ++i) groups[functions_[i].body].push_back(i);
        for (auto& [body, group] : groups) {
            std::set<std::string_view> names;
            for (const std::size_t i : group) names.insert(functions_[i].name());
            // An empty body is nobody's copy.
            if (names.size() < 2 || std::count_if(body.begin(), body.end(), [](char c) {
                                        return std::isalnum(static_cast<unsigned char>(c)) != 0;
                                    }) < 6)
                continue;
            tell(Likeness::copies, group);
        }
    }

    /// Functions that share most of their longer lines. Lines that many have say nothing.
    void by_lines() {
        std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> owners;
        std::vector<std::vector<std::uint64_t>> lines(functions_.size());
        for (std::size_t i = 0; i < functions_.size(); ++i) {
            lines[i] = lines_of(functions_[i].body);
            if (lines[i].size() < fewest_lines) continue;
            for (const auto line : lines[i]) owners[line].push_back(static_cast<std::uint32_t>(i));
        }
        std::vector<std::uint32_t> shared(functions_.size());
        for (std::size_t i = 0; i < functions_.size(); ++i) {
            std::vector<std::uint32_t> touched;
            for (const auto line : lines[i]) {
                const auto found = owners.find(line);
                if (found == owners.end() || found->second.size() > most_common) continue;
                for (const auto other : found->second)
                    if (other > i && shared[other]++ == 0) touched.push_back(other);
            }
            for (const auto other : touched) {
                const std::size_t both = std::exchange(shared[other], 0);
                const std::size_t all = lines[i].size() + lines[other].size() - both;
                if (both < fewest_lines || 10 * both < 7 * all || functions_[i].name() == functions_[other].name() ||
                    functions_[i].body == functions_[other].body)
                    continue;
                tell(Likeness::alike, {i, other});
            }
        }
    }

    static std::vector<std::uint64_t> lines_of(std::string_view body) {
        std::vector<std::uint64_t> out;
        for (std::size_t at = 0; at < body.size();) {
            const std::size_t end = std::min(body.find('\n', at), body.size());
            if (end - at >= shortest_line) out.push_back(text::hash_of(body.substr(at, end - at)));
            at = end + 1;
        }
        std::sort(out.begin(), out.end());
        out.erase(std::unique(out.begin(), out.end()), out.end());
        return out;
    }

    LooseScripts& scripts_;
    const std::vector<LooseFunction>& functions_;
};

}  // namespace

std::string_view likeness_name(Likeness likeness) {
    switch (likeness) {
        case Likeness::same:
            return "same";
        case Likeness::versions:
            return "versions";
        case Likeness::copies:
            return "copies";
        case Likeness::alike:
            return "alike";
    }
    return {};
}

void find_duplicates(LooseScripts& scripts) { Likenesses(scripts).find(); }

}  // namespace envar::life
