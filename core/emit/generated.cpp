#include "core/emit/generated.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <set>
#include <utility>

#include "core/emit/block.hpp"
#include "core/emit/help.hpp"
#include "core/emit/host_files.hpp"
#include "core/emit/native.hpp"
#include "core/emit/values.hpp"
#include "core/files/digest.hpp"
#include "core/files/read.hpp"
#include "core/search/declared.hpp"
#include "core/search/naming.hpp"
#include "core/search/search_path.hpp"
#include "core/search/session.hpp"
#include "core/text/template.hpp"

namespace envar::emit {
namespace {

namespace fs = std::filesystem;

constexpr std::string_view digest_mark = files::generated_mark;
constexpr std::size_t largest_generated = std::size_t{16} << 20U;
constexpr std::size_t header_limit = 1024;  // a header ends within so many bytes

/// Where the digest line stands in the text: its words and where the body begins.
struct Header {
    std::string name;
    std::string digest;
    std::size_t body = 0;
};

std::optional<Header> find_header(const std::string& content) {
    const std::size_t mark = content.find(digest_mark);
    if (mark > header_limit) return std::nullopt;  // not there, or not in a header
    const std::size_t end = content.find('\n', mark);
    if (end == std::string::npos) return std::nullopt;
    const std::string words = content.substr(mark + digest_mark.size(), end - mark - digest_mark.size());
    const std::size_t space = words.find(' ');
    if (space == std::string::npos) return std::nullopt;
    return Header{words.substr(space + 1), words.substr(0, space), end + 1};
}

/// The content without settings that the block will hold word for word: some hosts' own tools write the file anew
/// without its comments, and so without the marks of the block, whose lines would then stand there twice.
std::string without_lines_of(const std::string& content, const std::string& body) {
    std::set<std::string_view> own;
    const auto each_line = [](std::string_view text, const auto& take) {
        for (std::size_t at = 0; at < text.size();) {
            const std::size_t end = std::min(text.find('\n', at), text.size());
            take(text.substr(at, end - at), text.substr(at, std::min(end + 1, text.size()) - at));
            at = end + 1;
        }
    };
    each_line(body, [&](std::string_view line, std::string_view) {
        if (line.find('=') != std::string_view::npos) own.insert(line);
    });
    std::string rest;
    each_line(content, [&](std::string_view line, std::string_view whole) {
        if (own.count(line) == 0) rest += whole;
    });
    return rest;
}

/// `file.wanted` is the block's body before and the whole file afterwards.
text::Result<void> compare_block(GeneratedFile& file) {
    auto content = files::read_file(file.path, largest_generated);
    const bool missing = !content && content.error().problem == files::ReadProblem::missing;
    if (content) file.there = std::move(*content);
    std::string there = file.there.value_or("");
    const auto block = find_block(there, file.block);
    if (block && block->state == BlockState::absent) there = without_lines_of(there, file.wanted);
    auto wanted = with_block(there, file.block, file.wanted, *file.dialect);
    const auto without = without_block(there, file.block);
    if (!block || !wanted || !without) return tl::unexpected(block ? wanted.error() : block.error());
    file.without = *without;
    const std::string body = std::exchange(file.wanted, std::move(*wanted));
    if (!missing && !file.there) {
        file.drift = Drift::foreign;
    } else if (block->state == BlockState::absent) {
        file.drift = Drift::missing;
    } else if (block->state == BlockState::edited) {
        file.drift = Drift::edited;
    } else {
        file.drift = block->body == body ? Drift::current : Drift::stale;
    }
    return {};
}

}  // namespace

text::Result<void> compare(GeneratedFile& file) {
    if (file.shared()) return compare_block(file);
    auto content = files::read_file(file.path, largest_generated);
    if (!content) {
        file.drift = content.error().problem == files::ReadProblem::missing ? Drift::missing : Drift::foreign;
        if (files::link_target(file.path)) file.drift = Drift::foreign;
        return {};
    }
    file.there = std::move(*content);
    switch (authorship(*file.there, file.name)) {
        case Authorship::foreign:
            file.drift = Drift::foreign;
            break;
        case Authorship::edited:
            file.drift = Drift::edited;
            break;
        case Authorship::untouched:
            file.drift = *file.there == file.wanted ? Drift::current : Drift::stale;
            break;
    }
    return {};
}

namespace {

/// The place in the workspace of a module in this folder.
void lay(Place& place, const model::Space& space, const model::Card& card, const fs::path& folder) {
    const auto folders = search::workspace_folders(space, card);
    place.folder = folder;
    place.search = folders.empty() ? folder.parent_path() : fs::path(folders.front());
}

class Surveyor {
  public:
    Surveyor(const model::Space& space, const std::vector<std::string>& modules, bool orphans)
        : space_(space), modules_(modules), orphans_(orphans) {}

    Survey run() {
        for (const model::Module& module : space_.modules)
            if (modules_.empty() || std::find(modules_.begin(), modules_.end(), module.name()) != modules_.end())
                module_files(module);
        for (const model::Card& card : space_.cards) files_of_host(card);
        pages();
        std::sort(survey_.files.begin(), survey_.files.end(),
                  [](const GeneratedFile& a, const GeneratedFile& b) { return a.path < b.path; });
        return std::move(survey_);
    }

  private:
    /// Reference pages, where the workspace wants them.
    void pages() {
        auto files = help_files(space_, modules_);
        if (files) {
            std::move(files->begin(), files->end(), std::back_inserter(survey_.files));
        } else {
            survey_.findings.push_back(space_.document.source.finding("EV505", space_.settings.help.span,
                                                                      files.error().message, files.error().hint));
        }
    }

    void module_files(const model::Module& module) {
        const model::Card* card = space_.card(module.manifest.host.value);
        if (card == nullptr || !module.sound) {
            if (orphans_) find_orphans(module, module.folder, survey_.files.size(), 0);
            return;
        }
        const auto [known, is_new] = places_.try_emplace(card);
        Place& place = known->second;
        if (is_new) place = place_of(space_, *card, module.folder);
        lay(place, space_, *card, module.folder);
        auto wanted = generated_files(module.manifest, *card, place);
        if (!wanted) {
            survey_.findings.push_back(
                card->source.finding("EV803", {}, wanted.error().message, wanted.error().hint));
            return;
        }
        const std::size_t first = survey_.files.size();
        for (GeneratedFile& file : *wanted) take(std::move(file));
        if (orphans_) find_orphans(module, module.folder, first, 0);
    }

    void find_orphans(const model::Module& module, const fs::path& folder, std::size_t first, int depth) {
        for (const auto& name : files::list_folder(folder)) {
            const fs::path path = folder / name;
            if (files::link_target(path) || name.front() == '.') continue;
            if (files::is_folder(path)) {
                if (depth < 8 && !files::is_there(path / model::manifest_name))
                    find_orphans(module, path, first, depth + 1);
                continue;
            }
            const bool known = std::any_of(survey_.files.begin() + static_cast<std::ptrdiff_t>(first),
                                           survey_.files.end(), [&](const auto& f) { return f.path == path; });
            auto content = known ? tl::unexpected(files::ReadError{}) : files::read_file(path, largest_generated);
            if (!content) continue;
            if (authorship(*content, files::shown_path(path, module.folder)) != Authorship::untouched) continue;
            survey_.files.push_back({path, "left over", module.name(), "", std::move(*content), Drift::orphan});
        }
    }

    void files_of_host(const model::Card& card) {
        auto wanted = host_files(space_, card);
        if (!wanted) {
            survey_.findings.push_back(card.source.finding("EV803", {}, wanted.error().message, wanted.error().hint));
            return;
        }
        const auto folders = search::workspace_folders(space_, card);
        const bool gone = !folders.empty() && !files::is_folder(folders.front());
        for (GeneratedFile& file : *wanted)
            if (!gone || file.path != fs::path(folders.front()) / file.name) take(std::move(file));
    }

    void take(GeneratedFile file) {
        if (auto compared = compare(file)) {
            survey_.files.push_back(std::move(file));
        } else {
            survey_.findings.push_back(
                text::Source(files::shown_path(file.path, space_.root), file.there.value_or(""))
                    .finding("EV504", {}, compared.error().message, compared.error().hint));
        }
    }

    const model::Space& space_;
    const std::vector<std::string>& modules_;
    bool orphans_;
    Survey survey_;
    std::map<const model::Card*, Place> places_;  // of the module that is being looked at
};

}  // namespace

std::string_view drift_name(Drift drift) {
    switch (drift) {
        case Drift::current:
            return "up to date";
        case Drift::missing:
            return "missing";
        case Drift::stale:
            return "out of date";
        case Drift::edited:
            return "edited by hand";
        case Drift::foreign:
            return "not made by Envar";
        case Drift::orphan:
            return "left over";
    }
    return "";
}

std::string with_header(const model::CardDialect& dialect, const std::string& name, const std::string& body) {
    const std::string end = dialect.comment_end.empty() ? "" : " " + dialect.comment_end;
    return fmt::format(
        "{0} Made by Envar from the manifest: change that and run `envar emit`.{1}\n{0} {2}{3} {4}{1}\n{5}",
        dialect.comment, end, digest_mark, files::sha256(body), name, body);
}

Place place_of(const model::Space& space, const model::Card& card, const fs::path& folder) {
    Place place{space.root, {}, {}, space.settings.name.value};
    lay(place, space, card, folder);
    place.cards = &space.cards;
    for (const auto& target : space.settings.targets) place.targets.push_back(target.name.value);
    for (const auto& module : space.modules)
        if (module.manifest.native.kind == model::NativeKind::plugin && !module.manifest.native.span.empty())
            place.unlinked.push_back(module.name());
    return place;
}

text::Result<std::string> rendered(const model::Card& card, const model::CardFile& file, const std::string& path,
                                   nlohmann::json values, const Place& place) {
    if (!files::stays_inside(path))
        return text::fail(text::FailureKind::answer_is_no, fmt::format("the path `{}` leaves the module", path),
                          "mend the card");
    if (card.dialect(file.dialect) == nullptr)
        return text::fail(text::FailureKind::answer_is_no, fmt::format("the card has no dialect `{}`", file.dialect),
                          "mend the card");
    auto template_text = search::read_template(card, file.template_file);
    if (!template_text) return template_text;
    add_ways(values, place.folder / path, place);
    return text::render(*template_text, values, search::dialect_of(card, file.dialect)).map_error([&](auto failure) {
        failure.message = fmt::format("{}: {}", file.template_file, failure.message);
        return failure;
    });
}

Authorship authorship(const std::string& content, const std::string& name) {
    const auto header = find_header(content);
    // Where comments have an end, it stands behind the name.
    if (!header || (header->name != name && !header->name.starts_with(name + " "))) return Authorship::foreign;
    return files::sha256(std::string_view(content).substr(header->body)) == header->digest ? Authorship::untouched
                                                                                           : Authorship::edited;
}

namespace {

/// Renders the files of one module, those of its card, of its fronts and of further build systems.
class ModuleFiles {
  public:
    ModuleFiles(const model::Manifest& manifest, const model::Card& card, Place place)
        : manifest_(manifest), card_(card), place_(std::move(place)) {}

    text::Result<std::vector<GeneratedFile>> run() {
        auto fine = render_all();
        // Descriptors list what is generated too, so that is told to them in a second round.
        if (fine && card_.is_native() && learn()) fine = render_all();
        if (!fine) return tl::unexpected(fine.error());
        return std::move(files_);
    }

  private:
    text::Result<void> render_all() {
        files_.clear();
        const nlohmann::json values = module_values(manifest_, card_, place_);
        auto fine = render_card(card_, values, nullptr);
        if (!card_.is_native()) return fine;
        for (const auto& front : manifest_.fronts) {
            const FrontCard by = front_card(front, card_, place_.cards);
            if (by.front == nullptr || !fine) continue;
            nlohmann::json own = values;
            for (const auto& known : values["fronts"])
                if (known["front_kind"] == by.front->kind && known["front_host"] == by.front->host)
                    for (const auto& [key, value] : known.items()) own[key] = value;
            fine = render_card(*by.card, own, by.front);
        }
        for (const auto& name : manifest_.native.descriptors) {
            if (place_.cards == nullptr || name.value == card_.name.value || !fine) continue;
            for (const auto& other : *place_.cards)
                if (other.name.value == name.value && other.is_native())
                    fine = render_card(other, module_values(manifest_, other, place_), nullptr);
        }
        return fine;
    }

    text::Result<void> render_card(const model::Card& card, const nlohmann::json& values,
                                   const model::CardFront* front) {
        for (const model::CardFile& file : card.files) {
            if (file.ownership == model::Ownership::authored) continue;
            if (front == nullptr ? file.scope != model::FileScope::module
                                 : file.scope != model::FileScope::front || file.front != front->kind)
                continue;
            text::Values names = search::path_values(manifest_, card_);
            names.emplace_back("umbrella", manifest_.native.umbrella.value);
            names.emplace_back("entry", values["entry"].get<std::string>());
            if (front != nullptr) names.emplace_back("front", values["front"].get<std::string>());
            const std::string path = text::fill(file.path, names);
            const bool known = std::any_of(files_.begin(), files_.end(),
                                           [&](const auto& other) { return other.path == place_.folder / path; });
            if (path.empty() || known) continue;
            auto body = rendered(card, file, path, values, place_);
            if (!body) return tl::unexpected(body.error());
            if (body->find_first_not_of(" \t\r\n") == std::string::npos) {
                unwritten_.push_back(path);
                continue;
            }
            GeneratedFile one{place_.folder / path, file.purpose, manifest_.name.value};
            one.dialect = card.dialect(file.dialect);
            one.name = path;
            if (file.ownership == model::Ownership::shared) one.block = "module";
            one.wanted = one.shared() ? *body : with_header(*one.dialect, path, *body);
            files_.push_back(std::move(one));
        }
        return {};
    }

    /// Takes note of generated code; true when there is any that was not known.
    bool learn() {
        const std::size_t before = place_.planned.size() + place_.absent.size();
        for (const auto& file : files_) {
            const std::string path = files::shown_path(file.path, place_.folder);
            if (is_header(path) || is_source(path)) place_.planned.push_back(path);
        }
        for (const auto& path : unwritten_)
            if (is_header(path) || is_source(path)) place_.absent.push_back(path);
        return place_.planned.size() + place_.absent.size() > before;
    }

    const model::Manifest& manifest_;
    const model::Card& card_;
    Place place_;
    std::vector<GeneratedFile> files_;
    std::vector<std::string> unwritten_;
};

}  // namespace

text::Result<std::vector<GeneratedFile>> generated_files(const model::Manifest& manifest, const model::Card& card,
                                                         const Place& place) {
    if (manifest.keeps_own_files || !manifest.folder.value.empty()) return std::vector<GeneratedFile>();
    return ModuleFiles(manifest, card, place).run();
}

Survey survey(const model::Space& space, const std::vector<std::string>& modules, bool orphans) {
    return Surveyor(space, modules, orphans).run();
}

files::Plan emit_plan(const Survey& survey, const fs::path& root, bool overwrite) {
    files::Plan plan{root, {}};
    for (const GeneratedFile& file : survey.files) {
        const bool write =
            file.drift == Drift::missing || file.drift == Drift::stale || (overwrite && file.drift == Drift::edited);
        if (write) plan.add({file.path, file.there, file.wanted, file.purpose});
    }
    return plan;
}

files::Plan clean_plan(const Survey& survey, const fs::path& root, bool overwrite) {
    files::Plan plan{root, {}};
    for (const GeneratedFile& file : survey.files) {
        if (file.authored) continue;
        const bool ours = file.drift == Drift::current || file.drift == Drift::stale || file.drift == Drift::orphan;
        if (ours || (overwrite && file.drift == Drift::edited))
            plan.add({file.path, file.there,
                      file.shared() && !file.without.empty() ? std::optional(file.without) : std::nullopt,
                      file.shared() ? "without Envar's block" : "removed"});
    }
    return plan;
}

}  // namespace envar::emit
