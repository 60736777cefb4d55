#include "core/model/space.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <set>

#include "core/files/read.hpp"
#include "core/model/limits.hpp"
#include "core/text/names.hpp"
#include "core/text/side_by_side.hpp"

namespace envar::model {
namespace {

namespace fs = std::filesystem;
using text::Finding;
using text::Source;

constexpr int deepest_folder = 16;
constexpr std::size_t read_limit = largest_document + 1;  // one byte more, so that the limit's finding can tell

/// Reads a document; a file that cannot be read becomes a document with a finding.
Document read_document(const fs::path& path, const fs::path& root) {
    const std::string shown = files::shown_path(path, root);
    auto content = files::read_file(path, read_limit);
    if (content) return parse_document(Source(shown, std::move(*content)));
    Document document;
    document.source = Source(shown, "");
    if (content.error().problem == files::ReadProblem::too_large) {
        document.findings.push_back(document.source.finding(
            "EV104", {}, fmt::format("the file is larger than {} KiB", largest_document / 1024),
            "this is no manifest written by hand; it was not read"));
    } else {
        document.findings.push_back(
            document.source.finding("EV101", {}, fmt::format("cannot read the file: {}", content.error().reason),
                                    "look at its permissions with `ls -l`"));
    }
    return document;
}

constexpr std::size_t worth_a_thread = 16;  // folders or manifests

template <class Work>
void in_parallel(std::size_t count, unsigned jobs, const Work& work) {
    text::side_by_side(count, std::min<std::size_t>(jobs, count / worth_a_thread), work);
}

/// Finds the folders that hold a manifest, level by level: the folders of one level are listed in parallel, and
/// what they hold is taken up in order, so that the result does not depend on the threads.
class ModuleWalk {
  public:
    explicit ModuleWalk(unsigned jobs) : jobs_(jobs) {}

    void walk(const fs::path& start) {
        std::vector<std::string> level = {start.string()};
        for (int depth = 0; depth <= deepest_folder && !level.empty(); ++depth) {
            std::vector<std::optional<files::FolderListing>> listings(level.size());
            in_parallel(level.size(), jobs_, [&](std::size_t i) { listings[i] = files::read_folder(level[i]); });
            std::vector<std::string> next;
            for (std::size_t i = 0; i < level.size(); ++i)
                if (listings[i] && seen_.insert(listings[i]->identity).second) take_up(level[i], *listings[i], next);
            level = std::move(next);
        }
    }
    std::vector<fs::path> found;

  private:
    void take_up(const std::string& folder, const files::FolderListing& listing, std::vector<std::string>& next) {
        for (const auto& entry : listing.entries) {
            if (entry.name == manifest_name) found.emplace_back(folder);
            if (!entry.is_folder || entry.name.front() == '.' || entry.name == "envar-results") continue;
            next.push_back(folder + "/" + entry.name);
        }
    }

    unsigned jobs_;
    std::set<std::pair<std::uint64_t, std::uint64_t>> seen_;
};

std::vector<fs::path> module_folders(Space& space, unsigned jobs) {
    ModuleWalk walk(jobs);
    if (space.settings.folders.empty()) walk.walk(space.root);
    for (const Word& folder : space.settings.folders) {
        if (!files::stays_inside(folder.value)) {
            space.findings.push_back(space.document.source.finding(
                "EV204", folder.span, fmt::format("the folder `{}` lies outside the workspace", folder.value),
                "modules of a workspace lie inside it; name a folder further down"));
        } else if (!files::is_folder(space.root / folder.value)) {
            const std::string near = text::did_you_mean(folder.value, files::list_folder(space.root));
            space.findings.push_back(space.document.source.finding(
                "EV208", folder.span, fmt::format("there is no folder `{}`", folder.value),
                near.empty() ? "make the folder, or take it off the list" : near));
        } else {
            walk.walk((space.root / folder.value).lexically_normal());
        }
    }
    return std::move(walk.found);
}

struct ReadModule {
    Module module;
    std::vector<Finding> findings;
};

ReadModule read_module(const fs::path& folder, const fs::path& root, const SchemeOf& scheme_of) {
    ReadModule read;
    Document document = read_document(folder / manifest_name, root);
    read.module.manifest = read_manifest(document, read.findings, scheme_of);
    read.module.source = std::move(document.source);
    read.module.home = folder;
    const std::string& elsewhere = read.module.manifest.folder.value;
    read.module.folder = elsewhere.empty() ? folder : (folder / elsewhere / "").lexically_normal().parent_path();
    read.module.sound = text::count_severity(read.findings, text::Severity::error) == 0;
    read.module.shown_folder = files::shown_path(read.module.folder, root);
    // What lies elsewhere is shown as the way there.
    if (!elsewhere.empty() && !fs::path(elsewhere).is_absolute())
        read.module.shown_folder = read.module.folder.lexically_relative(root).generic_string();
    return read;
}

std::vector<ReadModule> read_modules(const std::vector<fs::path>& folders, const fs::path& root,
                                     const SchemeOf& scheme_of, unsigned jobs) {
    std::vector<ReadModule> read(folders.size());
    in_parallel(folders.size(), jobs, [&](std::size_t i) { read[i] = read_module(folders[i], root, scheme_of); });
    return read;
}

/// Puts what was read into the space. Modules are large, so their order is found before they are moved.
void take_up(Space& space, std::vector<ReadModule> read) {
    std::vector<ReadModule*> order;
    for (ReadModule& one : read) {
        std::move(one.findings.begin(), one.findings.end(), std::back_inserter(space.findings));
        if (one.module.name().empty()) {
            space.broken_names.push_back(one.module.folder.filename().string());
        } else {
            order.push_back(&one);
        }
    }
    std::sort(order.begin(), order.end(), [](const ReadModule* a, const ReadModule* b) {
        if (a->module.name() != b->module.name()) return a->module.name() < b->module.name();
        const auto &x = a->module.manifest.version, &y = b->module.manifest.version;
        if (x && y && versions::compare(*x, *y) != 0) return *y < *x;
        return a->module.shown_folder < b->module.shown_folder;
    });
    space.modules.reserve(order.size());
    for (ReadModule* one : order) space.modules.push_back(std::move(one->module));
}

std::vector<fs::path> card_files(const fs::path& folder) {
    std::vector<fs::path> files;
    const auto is_card = [](const std::string& name) {
        return name.size() > card_suffix.size() && name.ends_with(card_suffix);
    };
    for (const auto& name : files::list_folder(folder)) {
        if (is_card(name)) files.push_back(folder / name);
        if (!files::is_folder(folder / name)) continue;
        for (const auto& inner : files::list_folder(folder / name))
            if (is_card(inner)) files.push_back(folder / name / inner);
    }
    return files;
}

}  // namespace

const Module* Space::module(std::string_view name) const {
    const auto found = std::lower_bound(modules.begin(), modules.end(), name,
                                        [](const Module& m, std::string_view wanted) { return m.name() < wanted; });
    return found != modules.end() && found->name() == name ? &*found : nullptr;
}

const Card* Space::card(std::string_view name) const {
    const auto found = std::find_if(cards.begin(), cards.end(), [&](const Card& c) { return c.name.value == name; });
    return found == cards.end() ? nullptr : &*found;
}

bool Space::is_broken(std::string_view name) const {
    return std::find(broken_names.begin(), broken_names.end(), name) != broken_names.end();
}

const Target* Space::target(std::string_view name) const {
    const auto found = std::find_if(settings.targets.begin(), settings.targets.end(),
                                    [&](const Target& t) { return t.name.value == name; });
    return found == settings.targets.end() ? nullptr : &*found;
}

std::optional<fs::path> find_workspace(const fs::path& start) {
    for (fs::path at = start; !at.empty(); at = at.parent_path()) {
        if (files::is_there(at / workspace_file_name)) return at;
        if (!at.has_relative_path()) break;
    }
    return std::nullopt;
}

namespace {

/// The card, with what it has from the one that it builds on.
Card card_of(const Document& document, const fs::path& file, std::string origin, const std::vector<Card>& known,
             std::vector<Finding>& findings) {
    std::vector<Finding> own;
    Card card = read_card(document, file.parent_path(), origin, own);
    if (const std::string wanted = card.base.value; !wanted.empty()) {
        const auto base = std::find_if(known.begin(), known.end(), [&](const Card& other) {
            return other.is_base() && other.name.value == wanted;
        });
        own.clear();
        card =
            read_card(document, file.parent_path(), std::move(origin), own, base == known.end() ? nullptr : &*base);
        if (base == known.end())
            own.push_back(card.source.finding("EV808", card.base.span,
                                              fmt::format("there is no card `{}` to build on", wanted),
                                              "name a card whose kind is `base`"));
    }
    findings.insert(findings.end(), own.begin(), own.end());
    return card;
}

}  // namespace

Card load_card(const fs::path& file, const fs::path& root, std::string origin, const std::vector<Card>& known,
               std::vector<Finding>& findings) {
    return card_of(read_document(file, root), file, std::move(origin), known, findings);
}

std::vector<Card> load_cards(const std::vector<CardFolder>& folders, const fs::path& root,
                             std::vector<Finding>& findings, unsigned jobs) {
    struct Read {
        fs::path file;
        const CardFolder* from;
        Document document;
        Card card;
        std::vector<Finding> findings;
    };
    std::vector<Read> all;
    for (const CardFolder& from : folders)
        for (fs::path& file : card_files(from.folder)) all.push_back({std::move(file), &from, {}, {}, {}});
    text::side_by_side(all.size(), jobs, [&](std::size_t i) {
        Read& one = all[i];
        one.document = read_document(one.file, root);
        one.document.tested = one.from->tested;
        one.card = read_card(one.document, one.file.parent_path(), one.from->origin, one.findings);
    });
    std::vector<Read*> read;
    std::vector<Card> bases;
    for (Read& one : all) {
        const bool known = std::any_of(read.begin(), read.end(), [&](const Read* other) {
            return other->card.name.value == one.card.name.value;
        });
        if (known) continue;
        if (one.card.is_base()) bases.push_back(one.card);
        read.push_back(&one);
    }
    std::vector<Card> cards;
    for (Read* one : read) {
        if (!one->card.base.value.empty()) {
            one->findings.clear();
            one->card = card_of(one->document, one->file, one->from->origin, bases, one->findings);
        }
        findings.insert(findings.end(), one->findings.begin(), one->findings.end());
        if (!one->card.name.value.empty()) cards.push_back(std::move(one->card));
    }
    std::sort(cards.begin(), cards.end(), [](const Card& a, const Card& b) { return a.name.value < b.name.value; });
    return cards;
}

text::Result<Space> load_space(const fs::path& root, const std::vector<CardFolder>& card_folders, unsigned jobs) {
    Space space;
    space.root = root;
    space.document = read_document(root / workspace_file_name, root);
    if (!space.document.valid && space.document.findings.front().code == "EV101")
        return text::fail(text::FailureKind::machine_failed, fmt::format("{}: {}", space.document.source.file(),
                                                                         space.document.findings.front().message));
    space.settings = read_workspace_file(space.document, space.findings);
    space.cards = load_cards(card_folders, root, space.findings, jobs);
    take_up(space, read_modules(module_folders(space, jobs), root, schemes_of(space.cards), jobs));
    return space;
}

std::optional<Manifest> read_foreign_manifest(const fs::path& folder) {
    auto content = files::read_file(folder / manifest_name, read_limit);
    if (!content) return std::nullopt;
    std::vector<Finding> findings;
    Manifest manifest =
        read_manifest(parse_document(Source(std::string(manifest_name), std::move(*content))), findings);
    if (manifest.name.value.empty()) return std::nullopt;
    return manifest;
}

}  // namespace envar::model
