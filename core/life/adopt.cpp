#include "core/life/adopt.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>

#include "core/files/read.hpp"
#include "core/life/registration.hpp"
#include "core/members/scan.hpp"
#include "core/model/schema.hpp"
#include "core/search/naming.hpp"
#include "core/text/names.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using model::Card;
using text::refuse;
using text::Result;

constexpr std::size_t largest_source = std::size_t{16} << 20U;

/// Group `value` of the first match, or nothing.
std::string told(const std::string& pattern, const std::string& text) {
    const re2::RE2 compiled("(?m)" + pattern, re2::RE2::Quiet);
    if (pattern.empty() || !compiled.ok() || compiled.NumberOfCapturingGroups() < 1) return {};
    std::string value;
    re2::RE2::PartialMatch(text, compiled, &value);
    return value;
}

class Adopter {
  public:
    Adopter(const model::Space& space, const AdoptOrder& order) : space_(space), order_(order) {}

    Result<Adoption> run() {
        adoption_.plan.root = space_.root;
        model::add_schemas(adoption_.plan);
        for (std::size_t i = 0; i < order_.folders.size(); ++i)
            if (auto fine = adopt(order_.folders[i], order_.identities.at(i)); !fine)
                return tl::unexpected(fine.error());
        return std::move(adoption_);
    }

  private:
    /// The entry file that a module of this card has in the folder, relative to it; empty: there is none.
    static std::string entry_in(const Card& card, const fs::path& folder) {
        model::Manifest named;
        named.name.value = folder.filename().string();
        for (const auto& entry : card.adopt.entries) {
            const std::string path = text::fill(entry, search::path_values(named, card));
            if (files::stays_inside(path) && files::is_file(folder / path) &&
                files::resolves_inside(folder / path, folder))
                return path;
        }
        return {};
    }

    Result<const Card*> card_of(const fs::path& folder, const std::string& shown) const {
        std::vector<const Card*> found;
        std::vector<std::string> names;
        for (const Card& card : space_.cards)
            if ((order_.host.empty() || card.name.value == order_.host) && !entry_in(card, folder).empty()) {
                found.push_back(&card);
                names.push_back(card.name.value);
            }
        if (found.size() == 1) return found.front();
        if (found.empty())
            return refuse(fmt::format("`{}` is no module that a card knows how to adopt", shown),
                          order_.host.empty()
                              ? "no entry file of any host lies in it; write a manifest by hand"
                              : fmt::format("`envar hosts show {}` tells how its modules look", order_.host));
        return refuse(fmt::format("`{}` may be a module for {}", shown, fmt::join(names, " or for ")),
                      "say which with --host");
    }

    Result<void> adopt(const std::string& given, const std::string& identity) {
        const fs::path folder = (space_.root / given).lexically_normal();
        const std::string shown = files::shown_path(folder, space_.root);
        if (!files::is_folder(folder))
            return refuse(fmt::format("`{}` is no folder", shown), "name the module's folder");
        if (!files::resolves_inside(folder, space_.root) || shown == ".")
            return refuse(fmt::format("`{}` does not lie inside the workspace", shown), "move it there first");
        if (files::is_there(folder / model::manifest_name))
            return refuse(fmt::format("`{}` has a manifest already", shown),
                          "`envar check` tells what is wrong with it");
        const auto card = card_of(folder, shown);
        if (!card) return tl::unexpected(card.error());
        return write(folder, **card, identity);
    }

    Result<void> write(const fs::path& folder, const Card& card, const std::string& identity) {
        Adopted adopted{
            folder.filename().string(), files::shown_path(folder, space_.root), card.name.value, {}, 0, {}};
        model::Module module;
        module.folder = folder;
        model::Manifest& manifest = module.manifest;
        manifest.entry.file.value = entry_in(card, folder);
        const auto text = files::read_file(folder / manifest.entry.file.value, largest_source).value_or("");
        std::string everything = text;
        for (const auto& file : card.adopt.files)
            everything += "\n" + files::read_file(folder / file, largest_source).value_or("");
        if (const std::string name = told(card.adopt.name, text); !name.empty()) adopted.module = name;
        const auto& others = adoption_.modules;
        const bool twice = std::any_of(others.begin(), others.end(),
                                       [&](const Adopted& other) { return other.module == adopted.module; });
        if (twice || space_.module(adopted.module) != nullptr)
            return refuse(fmt::format("there is a module `{}` already", adopted.module),
                          "names are unique in a workspace");
        manifest.name.value = adopted.module;
        manifest.host.value = card.name.value;
        manifest.identity = identity;
        manifest.keeps_own_files = true;
        manifest.version_text.value = version_in(card, everything, adopted);
        manifest.summary = told(card.adopt.summary, text);
        if (manifest.summary.empty()) {
            manifest.summary = fmt::format("What {} does, in one sentence.", adopted.module);
            adopted.guessed.emplace_back("summary");
        }
        add_dependencies(card, text, manifest);
        const auto scan = members::scan(module, card, space_.root);
        for (const auto& found : scan.members) add_member(found, manifest);
        adopted.version = manifest.version_text.value;
        adopted.members = manifest.members.size();
        const std::string body = model::schema_directive(space_.root, folder, "module") +
                                 model::document_text(model::manifest_fields(), &manifest);
        adoption_.plan.add(
            {folder / model::manifest_name, std::nullopt, body, "the manifest, from what the files tell"});
        adoption_.modules.push_back(std::move(adopted));
        return register_module(space_, card, folder.parent_path(), adoption_.plan);
    }

    static std::string version_in(const Card& card, const std::string& text, Adopted& adopted) {
        std::string version = told(card.adopt.version, text);
        if (versions::parse_version(version, card.scheme)) return version;
        if (card.scheme == versions::Scheme::semantic)
            if (const auto mended = versions::mended_version(version)) return *mended;
        adopted.guessed.emplace_back("version");
        return card.scheme == versions::Scheme::integer ? "1" : "0.1.0";
    }

    /// Imports that name a module of the workspace are dependencies; everything else is the host's business.
    void add_dependencies(const Card& card, const std::string& text, model::Manifest& manifest) const {
        const re2::RE2 pattern("(?m)" + card.import_pattern, re2::RE2::Quiet);
        if (card.import_pattern.empty() || !pattern.ok() || pattern.NumberOfCapturingGroups() < 1) return;
        re2::StringPiece rest(text);
        std::string name;
        while (re2::RE2::FindAndConsume(&rest, pattern, &name)) {
            const model::Module* other = space_.module(name);
            const auto& known = manifest.dependencies;
            if (other == nullptr || other->manifest.host.value != card.name.value || name == manifest.name.value)
                continue;
            if (std::any_of(known.begin(), known.end(), [&](const auto& d) { return d.module.value == name; }))
                continue;
            model::Dependency& dependency = manifest.dependencies.emplace_back();
            dependency.module.value = name;
        }
    }

    static void add_member(const members::FoundMember& found, model::Manifest& manifest) {
        model::Member& member = manifest.members.emplace_back();
        member.name.value = found.name;
        member.kind = found.kind;
        member.summary = found.summary;
    }

    const model::Space& space_;
    const AdoptOrder& order_;
    Adoption adoption_;
};

}  // namespace

Result<Adoption> adopt_plan(const model::Space& space, const AdoptOrder& order) {
    return Adopter(space, order).run();
}

}  // namespace envar::life
