#include "core/resolve/resolve.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/files/read.hpp"
#include "core/model/limits.hpp"
#include "core/model/toml_layout.hpp"
#include "core/search/locate.hpp"

namespace envar::resolve {
namespace {

using model::Dependency;
using model::Module;
using model::Space;

std::string place(const text::Source& source, text::Span span) {
    return fmt::format("{}:{}", source.file(), source.position(span.begin).line);
}

std::string range_text(const versions::Requirement& requirement) {
    return requirement.is_any() ? "any" : requirement.text;
}

/// The closure over required dependencies, then the check of every requirement on what was chosen.
class Solver {
  public:
    explicit Solver(const Question& question) : question_(question), space_(*question.space) {}

    Resolution run() {
        std::vector<std::string> open =
            question_.roots.empty() ? roots_of(space_, question_.target) : question_.roots;
        for (const auto& root : open) require_root(root);
        while (!queue_.empty()) {
            const Module* module = queue_.back();
            queue_.pop_back();
            for (const Dependency& dependency : module->manifest.dependencies)
                if (counts(dependency)) follow(*module, dependency);
        }
        for (const auto& [name, chosen] : chosen_) check_requirements(*chosen.module);
        check_pins();
        return result();
    }

  private:
    struct Chosen {
        const Module* module = nullptr;
        std::set<std::string> required_by;
    };

    [[nodiscard]] bool counts(const Dependency& d) const {
        return !d.system && model::holds(d.when, question_.platform, question_.target);
    }

    void require_root(const std::string& name) {
        if (const Module* module = space_.module(name)) {
            choose(*module);
        } else {
            unsolved().sentences.push_back(fmt::format("{} is asked for, but there is no module of this name", name));
            unsolved().requirements.push_back({"", "", name, "any", "", 0});
        }
    }

    Chosen& choose(const Module& module) {
        auto [it, fresh] = chosen_.try_emplace(module.name());
        if (fresh) {
            it->second.module = &module;
            queue_.push_back(&module);
        }
        return it->second;
    }

    void follow(const Module& from, const Dependency& dependency) {
        const Module* wanted = space_.module(dependency.module.value);
        if (wanted != nullptr && !dependency.optional) choose(*wanted).required_by.insert(from.name());
        if (wanted == nullptr && !dependency.optional) {
            clash(from, dependency);
            unsolved().sentences.push_back(
                fmt::format("{}, but there is no module of this name", asks(from, dependency)));
        }
    }

    static std::string asks(const Module& from, const Dependency& d) {
        return fmt::format("{} {} needs {} {} ({})", from.name(), from.version(), d.module.value,
                           range_text(d.versions),
                           place(from.source, d.versions_span.empty() ? d.module.span : d.versions_span));
    }

    void clash(const Module& from, const Dependency& d) {
        const text::Span span = d.versions_span.empty() ? d.module.span : d.versions_span;
        unsolved().requirements.push_back({from.name(), from.version(), d.module.value, range_text(d.versions),
                                           from.source.file(), from.source.position(span.begin).line});
    }

    /// A requirement counts wherever the module it is on is chosen, an optional one too.
    void check_requirements(const Module& from) {
        for (const Dependency& dependency : from.manifest.dependencies) {
            if (!counts(dependency)) continue;
            const auto found = chosen_.find(dependency.module.value);
            if (found == chosen_.end()) continue;
            if (dependency.optional) found->second.required_by.insert(from.name());
            const Module& module = *found->second.module;
            if (!module.manifest.version ||
                versions::meets(*module.manifest.version, dependency.versions, space_.settings.prereleases))
                continue;
            if (host_choice(module)) continue;
            clash(from, dependency);
            unsolved().sentences.push_back(fmt::format("{}, but the workspace has {} {} ({})", asks(from, dependency),
                                                       module.name(), module.version(),
                                                       place(module.source, module.manifest.version_text.span)));
        }
    }

    struct HostChoice {
        versions::Version version;
        std::string origin;
    };

    /// Of a host that goes by versions: what it will take of all that lies on its search path.
    [[nodiscard]] std::optional<HostChoice> host_choice(const Module& module) const {
        const model::Card* card = space_.card(module.manifest.host.value);
        if (card == nullptr || !card->highest) return std::nullopt;
        auto located = search::locate(module.name(),
                                      {&space_, card, question_.environment, space_.root, {}, true, &caches_[card]});
        if (!located.chosen) return std::nullopt;
        located.shadowed.insert(located.shadowed.begin(), *located.chosen);
        std::optional<HostChoice> best;
        for (const search::Choice& choice : located.shadowed) {
            const auto version = versions::parse_version(choice.version, card->scheme);
            if (!version || !all_accept(module.name(), *version)) continue;
            if (best && !(best->version < *version)) continue;
            const bool own = choice.file.rfind(module.folder.string() + "/", 0) == 0;
            best = HostChoice{*version, own ? "workspace" : choice.file};
        }
        return best;
    }

    [[nodiscard]] bool all_accept(const std::string& name, const versions::Version& version) const {
        if (asked_of_.empty())
            for (const auto& chosen : chosen_)
                for (const Dependency& d : chosen.second.module->manifest.dependencies)
                    if (counts(d)) asked_of_[d.module.value].push_back(&d);
        const auto asked = asked_of_.find(name);
        return asked == asked_of_.end() ||
               std::all_of(asked->second.begin(), asked->second.end(), [&](const Dependency* d) {
                   return versions::meets(version, d->versions, space_.settings.prereleases);
               });
    }

    void check_pins() {
        for (const model::Pin& pin : space_.settings.pins) {
            const auto found = chosen_.find(pin.module.value);
            if (found == chosen_.end() || !found->second.module->manifest.version) continue;
            const Module& module = *found->second.module;
            if (versions::meets(*module.manifest.version, pin.versions, space_.settings.prereleases)) continue;
            const text::Source& source = space_.document.source;
            unsolved().sentences.push_back(
                fmt::format("the workspace pins {} to {} ({}{}), but the workspace has {} {} ({})", module.name(),
                            range_text(pin.versions), place(source, pin.versions_span),
                            pin.reason.empty() ? "" : ": " + pin.reason, module.name(), module.version(),
                            place(module.source, module.manifest.version_text.span)));
            unsolved().requirements.push_back({space_.settings.name.value, "", module.name(),
                                               range_text(pin.versions), source.file(),
                                               source.position(pin.versions_span.begin).line});
        }
    }

    Unsolved& unsolved() {
        if (!resolution_.unsolved) resolution_.unsolved.emplace();
        return *resolution_.unsolved;
    }

    Resolution result() {
        if (!resolution_.unsolved) {
            for (const auto& [name, chosen] : chosen_) {
                const auto host = host_choice(*chosen.module);
                resolution_.selected.push_back({name,
                                                host ? host->version.text() : chosen.module->version(),
                                                chosen.module->manifest.host.value,
                                                host ? host->origin : "workspace",
                                                {chosen.required_by.begin(), chosen.required_by.end()}});
            }
        } else {
            std::sort(resolution_.unsolved->sentences.begin(), resolution_.unsolved->sentences.end());
            std::sort(resolution_.unsolved->requirements.begin(), resolution_.unsolved->requirements.end(),
                      [](const Clash& a, const Clash& b) {
                          return std::tie(a.module, a.requires_module) < std::tie(b.module, b.requires_module);
                      });
        }
        return std::move(resolution_);
    }

    const Question& question_;
    const Space& space_;
    mutable std::map<const model::Card*, search::LookupCache> caches_;
    mutable std::map<std::string, std::vector<const Dependency*>> asked_of_;  // filled when all are chosen
    std::map<std::string, Chosen> chosen_;
    std::vector<const Module*> queue_;
    Resolution resolution_;
};

}  // namespace

std::vector<std::string> roots_of(const Space& space, std::string_view target) {
    std::vector<std::string> roots;
    if (const model::Target* found = space.target(target)) {
        for (const auto& module : found->modules) roots.push_back(module.value);
    } else {
        for (const Module& module : space.modules) roots.push_back(module.name());
    }
    roots.erase(std::unique(roots.begin(), roots.end()), roots.end());
    return roots;
}

Resolution resolve(const Question& question) { return Solver(question).run(); }

std::vector<std::string> why(const Question& question, const Resolution& resolution, std::string_view module) {
    std::vector<std::string> lines;
    const auto chosen = std::find_if(resolution.selected.begin(), resolution.selected.end(),
                                     [&](const Selected& s) { return s.module == module; });
    if (chosen == resolution.selected.end()) return lines;
    lines.push_back(fmt::format("{} {} from the {}", chosen->module, chosen->version, chosen->origin));
    for (const auto& name : chosen->required_by) {
        const Module* asker = question.space->module(name);
        for (const Dependency& d : asker->manifest.dependencies)
            if (d.module.value == module)
                lines.push_back(
                    fmt::format("asked for by {} {}: {} ({})", name, asker->version(), range_text(d.versions),
                                place(asker->source, d.versions_span.empty() ? d.module.span : d.versions_span)));
    }
    const auto roots = question.roots.empty() ? roots_of(*question.space, question.target) : question.roots;
    if (std::find(roots.begin(), roots.end(), module) != roots.end())
        lines.push_back(question.target.empty() ? "it is a module of the workspace itself"
                                                : fmt::format("it is a root of the target {}", question.target));
    return lines;
}

std::string lock_text(const Resolution& resolution) {
    std::string out = "# The versions that `envar resolve` chose. Written by Envar; keep it under version control.\n";
    for (const Selected& s : resolution.selected)
        out += fmt::format("\n[[module]]\nname = {}\nversion = {}\nhost = {}\norigin = {}\n",
                           model::toml_string(s.module), model::toml_string(s.version), model::toml_string(s.host),
                           model::toml_string(s.origin));
    return out;
}

std::optional<Lock> read_lock(const std::filesystem::path& root) {
    auto content = files::read_file(root / lock_name, model::largest_document * 16);
    if (!content) return std::nullopt;
    model::Document document = model::parse_document(text::Source(std::string(lock_name), std::move(*content)));
    const model::Node* modules = document.valid ? document.root.find("module") : nullptr;
    if (modules == nullptr) return std::nullopt;
    Lock lock;
    for (const model::Node& item : modules->items) {
        const model::Node* name = item.find("name");
        const model::Node* version = item.find("version");
        const model::Node* origin = item.find("origin");
        if (name != nullptr && version != nullptr)
            lock.modules.push_back({name->text, version->text, version->span, origin == nullptr ? "" : origin->text});
    }
    lock.source = std::move(document.source);
    return lock;
}

}  // namespace envar::resolve
