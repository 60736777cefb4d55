#include "tests/support/random_universe.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <random>

namespace envar::testing {

RandomUniverse::RandomUniverse(const UniverseShape& shape, std::uint64_t seed) {
    std::mt19937_64 random(seed);
    const auto below = [&](std::size_t n) { return n == 0 ? 0 : static_cast<std::size_t>(random() % n); };
    const auto chance = [&](unsigned percent) { return random() % 100 < percent; };
    modules.resize(shape.modules);
    for (auto& releases : modules) releases.resize(shape.fewest + below(shape.versions + 1 - shape.fewest));
    const auto need = [&](std::size_t from) {
        Need one;
        const std::size_t first = shape.layered ? from + 1 : 0;
        one.module = first + below(shape.modules - first);
        if (one.module >= shape.modules || chance(shape.missing)) one.module = shape.modules;
        const std::size_t count = one.module < shape.modules ? modules[one.module].size() : 3;
        const std::size_t wide = std::max<std::size_t>(1, below(2 * count * shape.width / 100 + 1));
        one.from = below(count);
        one.to = std::min(count, one.from + wide);
        one.from -= std::min(one.from, wide - (one.to - one.from));
        if (shape.blocks > 0) {
            const std::size_t block = (count + shape.blocks - 1) / shape.blocks;
            one.from = below(count);
            one.to = std::min(count, (one.from / block + 1) * block);
        }
        one.optional = chance(shape.optional);
        return one;
    };
    for (std::size_t module = 0; module < shape.modules; ++module)
        for (Release& release : modules[module]) {
            for (std::size_t n = shape.least + below(shape.needs + 1 - shape.least); n > 0; --n) {
                const Need one = need(module);
                const bool known = std::any_of(release.needs.begin(), release.needs.end(),
                                               [&](const Need& other) { return other.module == one.module; });
                if (!known && one.module != module) release.needs.push_back(one);
            }
            if (chance(shape.conflicts)) {
                Need one = need(module);
                one.optional = false;
                if (one.module < shape.modules && one.module != module) release.conflicts.push_back(one);
            }
        }
    for (std::size_t i = 0; i < shape.roots; ++i) roots.push_back(shape.layered ? i : below(shape.modules));
    for (const bool upper : {false, true}) {
        if (shape.clash == 0) break;
        const std::size_t half = modules[0].size() / 2;
        Need to{0, upper ? half : 0, upper ? modules[0].size() : half};
        for (std::size_t at = 0; at < shape.clash; ++at) {
            modules.emplace_back(shape.versions);
            for (Release& release : modules.back()) release.needs.push_back(to);
            to = {modules.size() - 1, 0, shape.versions};
        }
        roots.push_back(to.module);
    }
    std::sort(roots.begin(), roots.end());
    roots.erase(std::unique(roots.begin(), roots.end()), roots.end());
}

std::string RandomUniverse::name(std::size_t module) { return fmt::format("m{}", module); }

std::string RandomUniverse::range(const Need& need) {
    return need.to == need.from + 1 ? fmt::format("={}.0.0", need.from + 1)
                                    : fmt::format(">={}, <{}", need.from + 1, need.to + 1);
}

std::vector<std::string> RandomUniverse::lines() const {
    std::vector<std::string> out;
    for (std::size_t module = 0; module < modules.size(); ++module)
        for (std::size_t version = 0; version < modules[module].size(); ++version) {
            const Release& release = modules[module][version];
            std::string line = fmt::format(R"({{"module":"{}","version":"{}.0.0")", name(module), version + 1);
            const auto list = [&](const char* key, const std::vector<Need>& needs) {
                if (needs.empty()) return;
                line += fmt::format(R"(,"{}":[)", key);
                for (const Need& need : needs)
                    line +=
                        fmt::format(R"({}{{"module":"{}","versions":"{}"{}}})", &need == &needs.front() ? "" : ",",
                                    name(need.module), range(need), need.optional ? R"(,"optional":true)" : "");
                line += "]";
            };
            list("dependencies", release.needs);
            list("conflicts", release.conflicts);
            out.push_back(line + "}");
        }
    return out;
}

std::string RandomUniverse::catalogue() const {
    std::string out;
    for (const std::string& line : lines()) out += line + '\n';
    return out;
}

std::vector<std::string> RandomUniverse::root_arguments() const {
    std::vector<std::string> out;
    for (const std::size_t root : roots) out.insert(out.end(), {"--root", name(root)});
    return out;
}

std::string RandomUniverse::formula() const {
    std::vector<std::size_t> first = {1};
    for (const auto& releases : modules) first.push_back(first.back() + releases.size());
    std::string out;
    std::size_t clauses = 0;
    const auto put = [&](bool positive, std::size_t variable) {
        out += (positive ? "" : "-") + std::to_string(variable) + ' ';
    };
    const auto any_of = [&](std::size_t module, std::size_t from, std::size_t to) {
        if (module >= modules.size()) return;
        for (std::size_t version = from; version < to; ++version) put(true, first[module] + version);
    };
    const auto end = [&] {
        ++clauses;
        out += "0\n";
    };
    for (const std::size_t root : roots) any_of(root, 0, modules[root].size()), end();
    for (std::size_t module = 0; module < modules.size(); ++module)
        for (std::size_t version = 0; version < modules[module].size(); ++version) {
            const std::size_t self = first[module] + version;
            for (std::size_t other = 0; other < version; ++other)
                put(false, self), put(false, first[module] + other), end();
            const auto bar = [&](const Need& need, bool inside) {
                for (std::size_t other = 0; other < modules[need.module].size(); ++other)
                    if ((other >= need.from && other < need.to) == inside)
                        put(false, self), put(false, first[need.module] + other), end();
            };
            for (const Need& need : modules[module][version].needs) {
                if (need.optional) {
                    if (need.module < modules.size()) bar(need, false);
                } else {
                    put(false, self), any_of(need.module, need.from, need.to), end();
                }
            }
            for (const Need& need : modules[module][version].conflicts) bar(need, true);
        }
    return fmt::format("p cnf {} {}\n{}", first.back() - 1, clauses, out);
}

namespace {

/// Goes through the modules that are needed, each with all its versions.
class Trier {
  public:
    using Take = std::function<bool(const std::vector<std::size_t>&)>;
    Trier(const RandomUniverse& universe, const Take& take)
        : universe_(universe), take_(take), chosen_(universe.modules.size(), 0) {}

    void run() { static_cast<void>(next(universe_.roots)); }

  private:
    /// False when enough was found.
    bool next(std::vector<std::size_t> open) {
        while (!open.empty() && open.back() < chosen_.size() && chosen_[open.back()] != 0) open.pop_back();
        if (open.empty()) return take_(chosen_);
        const std::size_t module = open.back();
        if (module >= chosen_.size()) return true;
        for (std::size_t version = 0; version < universe_.modules[module].size(); ++version) {
            chosen_[module] = version + 1;
            std::vector<std::size_t> more = open;
            for (const auto& need : universe_.modules[module][version].needs)
                if (!need.optional) more.push_back(need.module);
            if (fits() && !next(std::move(more))) return false;
        }
        chosen_[module] = 0;
        return true;
    }

    [[nodiscard]] bool fits() const {
        for (std::size_t module = 0; module < chosen_.size(); ++module) {
            if (chosen_[module] == 0) continue;
            const auto& release = universe_.modules[module][chosen_[module] - 1];
            const auto in = [&](const RandomUniverse::Need& need, bool wanted) {
                if (need.module >= chosen_.size()) return need.optional || !wanted;
                const std::size_t other = chosen_[need.module];
                return other == 0 || (other > need.from && other <= need.to) == wanted;
            };
            for (const auto& need : release.needs)
                if (!in(need, true)) return false;
            for (const auto& need : release.conflicts)
                if (!in(need, false)) return false;
        }
        return true;
    }

    const RandomUniverse& universe_;
    const Take& take_;
    std::vector<std::size_t> chosen_;
};

}  // namespace

void RandomUniverse::solutions(const std::function<bool(const std::vector<std::size_t>&)>& take) const {
    Trier(*this, take).run();
}

bool RandomUniverse::solvable() const {
    bool found = false;
    solutions([&](const auto&) { return found = true, false; });
    return found;
}

}  // namespace envar::testing
