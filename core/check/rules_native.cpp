// What the code of a module uses against what its manifest declares, for native code and for scripts; and the files
// on the disk against the lists that name them.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>
#include <set>
#include <span>

#include "core/check/rules.hpp"
#include "core/files/read.hpp"
#include "core/members/imports.hpp"
#include "core/members/includes.hpp"
#include "core/model/pc_file.hpp"
#include "core/search/root.hpp"
#include "core/text/names.hpp"

namespace envar::check {
namespace {

namespace fs = std::filesystem;
using model::Dependency;
using model::Module;

text::Finding softened(text::Finding finding, bool soft) {
    if (soft) finding.severity = text::Severity::hint;
    return finding;
}

const Dependency* declared(const Module& module, const std::string& name) {
    for (const auto& d : module.manifest.dependencies)
        if (d.module.value == name) return &d;
    return nullptr;
}

/// Whether `name` reaches the module through public dependencies of what it declares.
bool seen_through(const model::Space& space, const Module& module, const std::string& name) {
    std::set<std::string> seen;
    std::vector<std::string> open;
    for (const auto& d : module.manifest.dependencies) open.push_back(d.module.value);
    while (!open.empty()) {
        const std::string at = open.back();
        open.pop_back();
        if (at == name) return true;
        const Module* other = space.module(at);
        if (other == nullptr || !seen.insert(at).second) continue;
        for (const auto& d : other->manifest.dependencies)
            if (d.is_public) open.push_back(d.module.value);
    }
    return false;
}

/// Where the compiler looks by itself; empty without a compiler's own headers, as nothing could be told then.
class SystemHeaders {
  public:
    SystemHeaders() {
        for (const fs::path base : {"/usr/include/c++", "/usr/local/include/c++"})
            for (const auto& version : files::list_folder(base)) {
                folders_.push_back(base / version);
                folders_.push_back(base / version / "backward");
            }
        known_ = !folders_.empty();
        for (const fs::path base : {"/usr/lib/gcc", "/usr/lib/clang", "/usr/lib/llvm"})
            for (const auto& machine : files::list_folder(base)) {
                folders_.push_back(base / machine / "include");
                for (const auto& version : files::list_folder(base / machine))
                    folders_.push_back(base / machine / version / "include");
            }
        for (const fs::path base : {"/usr/local/include", "/usr/include"}) folders_.push_back(base);
        for (const auto& name : files::list_folder("/usr/include"))
            if (name.find("-linux-") != std::string::npos) {
                folders_.push_back(fs::path("/usr/include") / name);
                for (const auto& version : files::list_folder(fs::path("/usr/include") / name / "c++"))
                    folders_.push_back(fs::path("/usr/include") / name / "c++" / version);
            }
    }

    [[nodiscard]] bool known() const { return known_; }
    [[nodiscard]] bool has(const std::string& name) {
        const auto [at, fresh] = found_.try_emplace(name, false);
        if (fresh)
            at->second = std::any_of(folders_.begin(), folders_.end(),
                                     [&](const fs::path& folder) { return files::is_file(folder / name); });
        return at->second;
    }

  private:
    std::vector<fs::path> folders_;
    std::map<std::string, bool> found_;
    bool known_ = false;
};

class IncludeCheck {
  public:
    IncludeCheck(const Facts& facts, Findings& findings) : facts_(facts), findings_(findings) {
        for (const auto& native : facts.natives)
            for (const auto& file : native.code) {
                if (file.reach == Reach::tests || !emit::is_header(file.file)) continue;
                const std::string front = std::string(emit::public_folder) + "/";
                const bool below = file.file.starts_with(front);
                const auto& listed = native.files.public_headers;
                const bool open = below || std::find(listed.begin(), listed.end(), file.file) != listed.end();
                auto& owners = open ? public_ : private_;
                const std::string name = fs::path(file.file).filename().string();
                owners.emplace(below ? file.file.substr(front.size()) : name, native.module);
                if (open && !below) owners.emplace(file.file, native.module);
            }
    }

    void run() {
        for (const auto& native : facts_.natives) {
            used_.clear();
            used_by_public_.clear();
            tree_.reset();
            const std::size_t before = findings_.size();
            for (const auto& file : native.code)
                for (const auto& include : file.facts.includes) one(native, file, include);
            if (native.module->manifest.keeps_own_files) tell_once(before);
            dependencies_of(native);
        }
    }

  private:
    void one(const NativeCode& native, const CodeFile& file, const members::Include& include) {
        const Module& module = *native.module;
        if (is_own(native, file, include)) return;
        const auto owner = public_.find(include.name);
        if (owner != public_.end() && owner->second != &module) {
            use(module, file, include, *owner->second);
            return;
        }
        if (headers_.has(include.name)) return;
        if (module.manifest.keeps_own_files) {  // where the compiler looks is said by its own build files
            if (!tree_) tree_.emplace(module.folder);
            if (tree_->has(include.name)) return;
        }
        if (file.generated) return;  // what a front needs of its host is the card's business
        const bool system = std::any_of(module.manifest.dependencies.begin(), module.manifest.dependencies.end(),
                                        [](const auto& d) { return d.system; });
        if (include.angled && (!headers_.known() || system)) return;
        const auto hidden = private_.find(fs::path(include.name).filename().string());
        if (hidden != private_.end() && hidden->second != &module && !include.angled) {
            findings_.push_back(
                softened(file.source.finding(
                             "EV906", include.span,
                             fmt::format("`{}` is a private header of {}", include.name, hidden->second->name()),
                             "include a public header of it, or make this one public"),
                         include.conditional));
            return;
        }
        std::vector<std::string> known;
        for (const auto& [name, other] : public_) known.push_back(name);
        std::string hint = text::did_you_mean(include.name, known);
        if (hint.empty()) hint = "it lies neither in this module, nor in a dependency, nor where the compiler looks";
        findings_.push_back(softened(
            file.source.finding("EV905", include.span, fmt::format("there is no header `{}`", include.name), hint),
            include.conditional));
    }

    /// Of headers that are nowhere each is told once, as a hint: which files are built, and with which folders for
    /// headers, is not in the manifest.
    void tell_once(std::size_t before) {
        const auto first = findings_.begin() + static_cast<std::ptrdiff_t>(before);
        std::map<std::string, std::size_t> count;
        for (auto it = first; it != findings_.end(); ++it)
            if (it->code == "EV905") ++count[it->message];
        std::set<std::string> told;
        findings_.erase(std::remove_if(first, findings_.end(),
                                       [&](const text::Finding& one) {
                                           return one.code == "EV905" && !told.insert(one.message).second;
                                       }),
                        findings_.end());
        for (auto& one : std::span(findings_).subspan(before)) {
            if (one.code != "EV905") continue;
            one.severity = text::Severity::hint;
            if (const std::size_t more = count[one.message] - 1; more > 0)
                one.message += fmt::format(", here and in {} more place{}", more, more == 1 ? "" : "s");
        }
    }

    static bool is_own(const NativeCode& native, const CodeFile& file, const members::Include& include) {
        const fs::path& root = native.module->folder;
        std::vector<fs::path> places = {emit::public_folder, emit::source_folder, ""};
        if (!include.angled) places.insert(places.begin(), fs::path(file.file).parent_path());
        return std::any_of(places.begin(), places.end(), [&](const fs::path& place) {
            const std::string inner = (place / include.name).lexically_normal().generic_string();
            return native.find(inner) != nullptr || (files::stays_inside(inner) && files::is_file(root / inner));
        });
    }

    void use(const Module& module, const CodeFile& file, const members::Include& include, const Module& other) {
        const std::string& name = other.name();
        used_.insert(name);
        if (file.reach == Reach::everybody) used_by_public_.insert(name);
        const Dependency* d = declared(module, name);
        const std::string_view how = file.reach == Reach::everybody ? " --public" : "";
        if (d == nullptr) {
            const bool through = seen_through(facts_.space, module, name);
            findings_.push_back(
                softened(file.source.finding("EV901", include.span,
                                             fmt::format("`{}` is of {}, on which {} declares no dependency",
                                                         include.name, name, module.name()),
                                             fmt::format("run `envar depend {} \"{} compatible {}\"{}`",
                                                         module.name(), name, other.version(), how)),
                         include.conditional || through));
        } else if (d->stage == model::Stage::test && file.reach != Reach::tests) {
            findings_.push_back(
                softened(file.source.finding(
                             "EV901", include.span,
                             fmt::format("`{}` is of {}, which is declared for tests alone", include.name, name),
                             "take `stage` out of the dependency"),
                         include.conditional));
        } else if (file.reach == Reach::everybody && !d->is_public) {
            findings_.push_back(softened(
                file.source.finding(
                    "EV902", include.span,
                    fmt::format("a public header includes `{}`, but {} is a private dependency", include.name, name),
                    fmt::format("run `envar depend {} \"{} {}\" --public`, or include it in a source", module.name(),
                                name, d->versions.is_any() ? "any" : d->versions.text)),
                include.conditional));
        }
    }

    void dependencies_of(const NativeCode& native) {
        for (const auto& d : native.module->manifest.dependencies) {
            const Module* other = facts_.space.module(d.module.value);
            const bool known = std::any_of(facts_.natives.begin(), facts_.natives.end(),
                                           [&](const auto& one) { return one.module == other; });
            if (d.system || d.link_only || other == nullptr || !known || native.code.empty()) continue;
            if (other->manifest.native.kind == model::NativeKind::plugin) continue;  // loaded, not included
            if (used_.count(d.module.value) == 0) {
                findings_.push_back(
                    softened(native.module->source.finding("EV904", d.module.span,
                                                           fmt::format("nothing of `{}` is included", d.module.value),
                                                           "remove the dependency, or say `uses = \"link\"`"),
                             d.stage != model::Stage::load || d.optional));
            } else if (d.is_public && used_by_public_.count(d.module.value) == 0) {
                findings_.push_back(native.module->source.finding(
                    "EV903", d.module.span, fmt::format("no public header includes anything of `{}`", d.module.value),
                    "it could be private, so that dependants need not see it"));
            }
        }
    }

    const Facts& facts_;
    Findings& findings_;
    SystemHeaders headers_;
    std::map<std::string, const Module*> public_;
    std::map<std::string, const Module*> private_;
    std::set<std::string> used_, used_by_public_;
    std::optional<TreeHeaders> tree_;  // of the module that is looked at
};

/// The words of a descriptor that name code files.
std::set<std::string> listed_files(const std::string& text) {
    std::set<std::string> out;
    std::string word;
    for (std::size_t at = 0; at <= text.size(); ++at) {
        const char c = at < text.size() ? text[at] : ' ';
        const bool part = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' ||
                          c == '.' || c == '/' || c == '+' || c == '-';
        if (part) {
            word += c;
            continue;
        }
        if (word.find('/') != std::string::npos && (emit::is_header(word) || emit::is_source(word))) out.insert(word);
        word.clear();
    }
    return out;
}

/// A descriptor that was written before files came or went.
void descriptor_lists(const Facts& facts, const Module& module, Findings& findings) {
    std::set<std::string> told;
    for (const auto& file : facts.survey.files) {
        if (file.module != module.name() || file.drift != emit::Drift::stale || !file.there) continue;
        if (emit::is_header(file.path.string()) || emit::is_source(file.path.string())) continue;
        const auto before = listed_files(*file.there);
        const auto now = listed_files(file.wanted);
        const std::string shown = files::shown_path(file.path, facts.space.root);
        for (const auto& one : now)
            if (before.count(one) == 0 && files::is_file(module.folder / one) && told.insert(one).second)
                findings.push_back(text::Source(module.shown_folder + "/" + one, "")
                                       .finding("EV907", {}, fmt::format("{} does not list this file", shown),
                                                "run `envar emit`; until then it is not built"));
        for (const auto& one : before)
            if (now.count(one) == 0 && !files::is_there(module.folder / one) && told.insert(one).second) {
                const text::Source source(shown, *file.there);
                const std::size_t at = file.there->find(one);
                findings.push_back(source.finding("EV908", {at, at + one.size()},
                                                  fmt::format("`{}` is listed and is not there", one),
                                                  "run `envar emit`, or put the file back"));
            }
    }
}

/// Whether the module needs the other one, at first or at last.
bool needs(const model::Space& space, const Module& module, const std::string& other) {
    std::set<const Module*> seen = {&module};
    for (std::vector<const Module*> left = {&module}; !left.empty();) {
        const Module* next = left.back();
        left.pop_back();
        for (const auto& dependency : next->manifest.dependencies) {
            if (dependency.module.value == other) return true;
            const Module* needed = space.module(dependency.module.value);
            if (needed != nullptr && seen.insert(needed).second) left.push_back(needed);
        }
    }
    return false;
}

/// Modules of the same host that a script asks for without a word in the manifest.
void imports_of(const model::Space& space, const Module& module, const model::Card& card, const text::Source& source,
                const members::Patterns& patterns, Findings& findings) {
    for (const auto& import : members::scan_imports(source.text(), patterns)) {
        // Of `a.b` the longest part that is a module counts, if that has a file for it.
        std::string name = import.name;
        const Module* other = space.module(name);
        while (other == nullptr && !card.name_separator.empty() &&
               name.rfind(card.name_separator) != std::string::npos) {
            name.resize(name.rfind(card.name_separator));
            other = space.module(name);
            const auto root =
                other == nullptr ? std::nullopt : search::root_of(card, name, members::entry_file(*other, card));
            if (!root || !search::finds_below(card, *root, import.name)) other = nullptr;
        }
        if (other == nullptr || other->name() == module.name() || other->manifest.host.value != card.name.value)
            continue;
        if (declared(module, name) != nullptr) continue;
        if (import.later && needs(space, *other, module.name())) continue;  // to declare it would make a circle
        findings.push_back(source.finding(
            "EV901", import.span,
            fmt::format("{} is asked for, on which {} declares no dependency", name, module.name()),
            fmt::format("run `envar depend {} \"{} compatible {}\"`", module.name(), name, other->version())));
    }
}

/// Names that a build system takes for more than one, or for something else than a name.
void names_in_lists(const Facts& facts, const NativeCode& native, Findings& findings) {
    for (const model::Card& card : facts.space.cards) {
        if (card.cannot_list.empty() || !emit::is_described(native.module->manifest, card)) continue;
        for (const auto& file : native.code) {
            const std::size_t at = file.file.find_first_of(card.cannot_list);
            if (at == std::string::npos) continue;
            findings.push_back(text::Source(file.source.file(), "")
                                   .finding("EV916", {},
                                            fmt::format("{} cannot list a file with `{}` in its name",
                                                        card.name.value, file.file.substr(at, 1)),
                                            "rename the file"));
        }
    }
}

}  // namespace

void includes(const Facts& facts, Findings& findings) { IncludeCheck(facts, findings).run(); }

void file_lists(const Facts& facts, Findings& findings) {
    for (const auto& native : facts.natives) {
        const Module& module = *native.module;
        const model::Native& settings = module.manifest.native;
        const auto unlisted = [&](const std::vector<model::Word>& list, std::string_view folder, const char* key,
                                  bool (*fits)(std::string_view)) {
            if (list.empty()) return;
            for (const auto& file : emit::code_below(module.folder, folder)) {
                const CodeFile* code = native.find(file);
                if (!fits(file) || code != nullptr) continue;
                findings.push_back(text::Source(module.shown_folder + "/" + file, "")
                                       .finding("EV907", {},
                                                fmt::format("no list in {} names this file", module.source.file()),
                                                fmt::format("add it to `{}` of [native], or take the list out: then "
                                                            "every file of `{}` counts",
                                                            key, folder)));
            }
        };
        unlisted(settings.sources, emit::source_folder, "sources", emit::is_source);
        unlisted(settings.private_headers, emit::source_folder, "private_headers", emit::is_header);
        unlisted(settings.public_headers, emit::public_folder, "public_headers", emit::is_header);
        descriptor_lists(facts, module, findings);
        names_in_lists(facts, native, findings);
    }
}

void system_modules(const Facts& facts, Findings& findings) {
    const bool any = std::any_of(facts.natives.begin(), facts.natives.end(), [](const auto& native) {
        const auto& all = native.module->manifest.dependencies;
        return std::any_of(all.begin(), all.end(), [](const auto& d) { return d.system; });
    });
    if (!any) return;
    Findings of_others;  // what is wrong in files of the system's is not for the workspace's author
    const auto known = model::read_pc_folders(model::pc_folders(facts.environment), facts.space.root, of_others);
    for (const auto& native : facts.natives)
        for (const auto& d : native.module->manifest.dependencies) {
            if (!d.system) continue;
            const auto found = std::find_if(known.begin(), known.end(),
                                            [&](const model::PcFile& file) { return file.name == d.module.value; });
            const model::Module& module = *native.module;
            if (found == known.end()) {
                std::vector<std::string> names;
                names.reserve(known.size());
                for (const auto& file : known) names.push_back(file.name);
                std::string hint = text::did_you_mean(d.module.value, names);
                if (hint.empty()) hint = "install what brings it, or set PKG_CONFIG_PATH to where it lies";
                findings.push_back(softened(
                    module.source.finding("EV915", d.module.span,
                                          fmt::format("no `.pc` file on this machine is called {}", d.module.value),
                                          hint),
                    d.optional || !d.when.platforms.empty()));
                continue;
            }
            const auto version = versions::parse_version(model::plain_version(found->version));
            if (version && !versions::meets(*version, d.versions, true))
                findings.push_back(module.source.finding(
                    "EV915", d.versions_span.end > d.versions_span.begin ? d.versions_span : d.module.span,
                    fmt::format("{} is here as {}, which `{}` leaves out", d.module.value, found->version,
                                d.versions.text),
                    fmt::format("it is told by {}", found->source.file())));
        }
}

void imports(const Facts& facts, Findings& findings) {
    for (const Module& module : facts.space.modules) {
        const model::Card* card = facts.space.card(module.manifest.host.value);
        const auto scan = facts.scans.find(&module);
        if (card == nullptr || card->import_pattern.empty() || scan == facts.scans.end()) continue;
        const auto& patterns = facts.patterns.at(*card);
        imports_of(facts.space, module, *card, scan->second.source, patterns, findings);
        for (const auto& part : scan->second.parts) imports_of(facts.space, module, *card, part, patterns, findings);
    }
}

}  // namespace envar::check
