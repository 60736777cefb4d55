// One owner: what two modules of a workspace cannot both have, and what a copy that was renamed by hand still says of
// the module that it was made from.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/check/rules.hpp"
#include "core/files/read.hpp"
#include "core/text/names.hpp"
#include "core/text/template.hpp"

namespace envar::check {
namespace {

namespace fs = std::filesystem;
using model::Module;

constexpr std::size_t largest_descriptor = std::size_t{1} << 20U;

std::string snake(const std::string& name) { return text::in_form(name, text::NameForm::snake); }
std::string upper(const std::string& name) { return text::in_form(name, text::NameForm::upper); }

/// Who was first to claim a thing, and where. The source outlives it.
struct Claim {
    const Module* module = nullptr;
    const text::Source* source = nullptr;
    text::Span span;
};

class Claims {
  public:
    explicit Claims(Findings& findings) : findings_(findings) {}

    void claim(std::string_view kind, const std::string& name, const Module& module, const text::Source& source,
               text::Span span, bool within_one_too = false) {
        if (name.empty()) return;
        Claim later{&module, &source, span};
        const auto [at, fresh] = claims_.try_emplace({std::string(kind), name}, later);
        Claim& first = at->second;
        if (fresh || (first.module == &module && (!within_one_too || first.source->file() == source.file()))) return;
        // It is whose name it bears, else whoever comes first.
        if (bears(name, module) && !bears(name, *first.module)) std::swap(first, later);
        if (!told_.insert(fmt::format("{} {} {}", kind, name, later.source->file())).second) return;
        const bool in_one = first.module == later.module;
        text::Finding finding = later.source->finding(
            "EV909", later.span,
            fmt::format("the {} `{}` is {}'s already", kind, name,
                        in_one ? first.source->file() : first.module->name()),
            fmt::format("it stands in {}; give one of the two another name", first.source->file()));
        // What was built before Envar came never meets in one source, or it would not have been.
        if (in_one && module.manifest.keeps_own_files) finding.severity = text::Severity::hint;
        findings_.push_back(std::move(finding));
    }

  private:
    static bool bears(const std::string& name, const Module& module) {
        return name.starts_with(upper(module.name())) || name.starts_with(snake(module.name()));
    }

    Findings& findings_;
    std::map<std::pair<std::string, std::string>, Claim> claims_;
    std::set<std::string> told_;
};

void claims_of(const Facts& facts, const NativeCode& native, Claims& claims) {
    const Module& module = *native.module;
    const model::Card& card = *facts.space.card(module.manifest.host.value);
    const model::Manifest& manifest = module.manifest;
    const model::NativeKind kind = manifest.native.kind;
    const auto made = [&](std::string_view what, const std::string& name, text::Span span) {
        claims.claim(what, name, module, module.source, span);
    };
    if (kind == model::NativeKind::static_library || kind == model::NativeKind::shared_library)
        made("library", "lib" + manifest.name.value, manifest.name.span);
    if (kind == model::NativeKind::program) made("program", manifest.name.value, manifest.name.span);
    for (const auto& front : manifest.fronts) {
        const emit::FrontCard by = emit::front_card(front, card, &facts.space.cards);
        if (by.front == nullptr) continue;
        text::Values values = {{"name", manifest.name.value},
                               {"front", front.name.value.empty() ? manifest.name.value : front.name.value}};
        const std::string file = text::fill(by.front->file, values);
        const text::Span span = front.name.value.empty() ? front.span : front.name.span;
        if (by.front->form == "program") {
            made("program", file, span);
        } else {
            made(fmt::format("module for {}", front.host.value), file, span);
        }
    }
    for (const auto& file : native.files.tests)
        made("test", manifest.name.value + "." + fs::path(file).stem().string(), manifest.name.span);
    for (const CodeFile& file : native.code) {
        if (!emit::is_header(file.file)) continue;
        if (const std::string front = std::string(emit::public_folder) + "/"; file.file.starts_with(front))
            claims.claim("header path", file.file.substr(front.size()), module, file.source, {});
        // A header that a host hands out is the same in all of its modules, which see no other's.
        const bool handed_out =
            file.reach != Reach::everybody &&
            std::any_of(facts.survey.files.begin(), facts.survey.files.end(), [&](const emit::GeneratedFile& given) {
                return given.drift == emit::Drift::current && given.path == module.folder / file.file;
            });
        if (!handed_out)
            claims.claim("include guard", file.facts.guard.name, module, file.source, file.facts.guard.span, true);
        if (file.reach != Reach::everybody) continue;
        for (const auto& macro : file.facts.macros)
            claims.claim("macro", macro.name, module, file.source, macro.span);
    }
}

/// A namespace that is named after a module is that module's. One that several share on purpose is named after none.
void namespaces_of(const Facts& facts, const NativeCode& native, Findings& findings) {
    std::set<std::string> told;
    for (const CodeFile& file : native.code) {
        if (file.reach != Reach::everybody) continue;
        for (const auto& place : file.facts.namespaces)
            for (const auto& other : facts.natives) {
                const std::string& name = other.module->name();
                if (other.module == native.module || snake(name) != place.name || !told.insert(name).second) continue;
                findings.push_back(file.source.finding(
                    "EV909", place.span, fmt::format("the namespace `{}` is {}'s", place.name, name),
                    fmt::format("name it `{}`, after its own module", snake(native.module->name()))));
            }
    }
}

bool begins_with_word(const std::string& word, const std::string& begin) {
    return word.size() > begin.size() && word.starts_with(begin) && word[begin.size()] == '_';
}

/// Says of a word whether it speaks of the other module and not of the own one.
bool is_old(const std::string& word, const std::string& other, const std::string& own) {
    const std::string high = upper(other);
    const std::string low = snake(other);
    if (begins_with_word(word, upper(own)) || begins_with_word(word, snake(own))) return false;
    if (word == upper(own) || word == snake(own)) return false;
    return begins_with_word(word, high) || (low.find('_') != std::string::npos && begins_with_word(word, low));
}

bool depends_on(const model::Space& space, const Module& module, const std::string& name) {
    std::set<std::string> seen;
    std::vector<std::string> open = {module.name()};
    while (!open.empty()) {
        const Module* at = space.module(open.back());
        open.pop_back();
        if (at == nullptr || !seen.insert(at->name()).second) continue;
        for (const auto& d : at->manifest.dependencies) {
            if (d.module.value == name) return true;
            open.push_back(d.module.value);
        }
    }
    return false;
}

class OldNames {
  public:
    OldNames(const Facts& facts, const NativeCode& native, Findings& findings)
        : facts_(facts), native_(native), findings_(findings) {}

    void run() {
        for (const auto& other : facts_.natives)
            if (other.module != native_.module && !depends_on(facts_.space, *native_.module, other.module->name()))
                names_of(other.module->name());
    }

  private:
    void names_of(const std::string& other) {
        const std::string& own = native_.module->name();
        for (const CodeFile& file : native_.code) {
            if (file.generated) continue;
            const std::string front = std::string(emit::public_folder) + "/" + snake(other) + "/";
            if (file.file.starts_with(front)) tell(file.source, {}, other, front);
            for (const auto& word : file.facts.words)
                if (is_old(word.name, other, own)) {
                    tell(file.source, word.span, other, word.name);
                    break;
                }
            for (const members::NamedPlace& place : {file.facts.guard})
                if (is_old(place.name, other, own)) tell(file.source, place.span, other, place.name);
            for (const auto& macro : file.facts.macros)
                if (is_old(macro.name, other, own)) {
                    tell(file.source, macro.span, other, macro.name);
                    break;
                }
        }
        for (const auto& name : files::list_folder(native_.module->folder)) descriptor(name, other);
        for (const auto& name : files::list_folder(native_.module->folder / "cmake"))
            descriptor("cmake/" + name, other);
        for (const auto* folder : {"tests", "examples"})
            for (const auto& name : files::list_folder(native_.module->folder / folder))
                descriptor(std::string(folder) + "/" + name, other);
    }

    /// Files that the user wrote for a build system say the name itself too.
    void descriptor(const std::string& file, const std::string& other) {
        static const std::set<std::string> known = {"CMakeLists.txt", "meson.build", "Makefile", "makefile",
                                                    "GNUmakefile"};
        const fs::path path = native_.module->folder / file;
        const std::string name = path.filename().string();
        if (known.count(name) == 0 && !name.ends_with(".cmake") && !name.ends_with(".in") && !name.ends_with(".pc"))
            return;
        auto text = files::read_file(path, largest_descriptor);
        if (!text || emit::authorship(*text, file) != emit::Authorship::foreign) return;
        const text::Source source(files::shown_path(path, facts_.space.root), std::move(*text));
        const std::string& body = source.text();
        for (std::size_t at = 0; at < body.size();) {
            if (!is_word(body[at])) {
                ++at;
                continue;
            }
            std::size_t end = at;
            while (end < body.size() && is_word(body[end])) ++end;
            const std::string word = body.substr(at, end - at);
            if (word == snake(other) || word == "lib" + snake(other) || is_old(word, other, native_.module->name())) {
                tell(source, {at, end}, other, word);
                return;
            }
            at = end;
        }
    }

    static bool is_word(char c) {
        return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_';
    }

    void tell(const text::Source& source, text::Span span, const std::string& other, const std::string& what) {
        if (!told_.insert(source.file() + " " + other).second) return;
        findings_.push_back(source.finding(
            "EV910", span,
            fmt::format("`{}` speaks of {}, with which {} has nothing to do", what, other, native_.module->name()),
            "left over from a copy? Rename it; or declare the dependency"));
    }

    const Facts& facts_;
    const NativeCode& native_;
    Findings& findings_;
    std::set<std::string> told_;
};

}  // namespace

void one_owner(const Facts& facts, Findings& findings) {
    Claims claims(findings);
    for (const auto& native : facts.natives) {
        claims_of(facts, native, claims);
        namespaces_of(facts, native, findings);
    }
}

void old_names(const Facts& facts, Findings& findings) {
    for (const auto& native : facts.natives) OldNames(facts, native, findings).run();
}

void one_identity(const Facts& facts, Findings& findings) {
    std::map<std::string, const Module*> owners;
    for (const Module& module : facts.space.modules) {
        const std::string& identity = module.manifest.identity;
        if (identity.empty()) continue;
        const auto [at, fresh] = owners.emplace(identity, &module);
        if (fresh) continue;
        const std::size_t where = module.source.text().find(identity);
        const text::Span span =
            where == std::string::npos ? module.manifest.name.span : text::Span{where, where + identity.size()};
        findings.push_back(module.source.finding(
            "EV911", span, fmt::format("{} has the same identity", at->second->name()),
            "one is a copy of the other: take the line out, or give the copy a UUID of its own"));
    }
}

}  // namespace envar::check
