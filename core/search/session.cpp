#include "core/search/session.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "core/files/read.hpp"
#include "core/search/search_path.hpp"

namespace envar::search {
namespace {

using nlohmann::json;
using text::fail;
using text::FailureKind;

constexpr std::size_t largest_template = std::size_t{256} << 10U;

/// Where the files lie that the card puts into the first search folder, for the session to load.
json search_files(const model::Space& space, const model::Card& card) {
    json files = json::array();
    const auto folders = workspace_folders(space, card);
    if (folders.empty()) return files;
    for (const auto& file : card.files)
        if (file.per_search) files.push_back({{"path", folders.front() + "/" + file.path}});
    return files;
}

}  // namespace

text::Dialect dialect_of(const model::Card& card) {
    const bool strings = card.string_marks.size() == 2;
    return {card.comment, card.doc_comment, strings ? card.string_marks[0] : "", strings ? card.string_marks[1] : "",
            card.escapes};
}

text::Result<std::string> read_template(const model::Card& card, const std::string& file) {
    if (!files::resolves_inside(card.folder / file, card.folder))
        return fail(FailureKind::machine_failed,
                    fmt::format("the template `{}` of the card {} lies outside its folder", file, card.name.value));
    return files::read_or_fail(card.folder / file, largest_template);
}

text::Result<std::vector<SessionVariable>> session_variables(const model::Space& space) {
    std::vector<SessionVariable> variables;
    for (const model::Card& card : space.cards) {
        if (card.variables.empty()) continue;
        for (const auto& search : space.settings.search) {
            if (search.host.value != card.name.value) continue;
            const std::string reason =
                cannot_hold(card, (space.root / search.folder.value).lexically_normal().string());
            if (!reason.empty())
                return fail(FailureKind::answer_is_no,
                            fmt::format("{} ({}:{})", reason, model::workspace_file_name,
                                        space.document.source.position(search.folder.span.begin).line),
                            fmt::format("move or rename the folder `{}`", search.folder.value));
        }
        const auto folders = workspace_folders(space, card);
        if (folders.empty()) continue;
        const model::SearchVariable& variable = card.variables.front();
        variables.push_back({card.name.value, variable.name, variable_value(card, folders), variable.separator,
                             variable.when_unset, variable.instead_of});
    }
    return variables;
}

text::Result<std::string> session_script(const model::Space& space, const model::Card& shell,
                                         const std::vector<std::string>& load) {
    const auto variables = session_variables(space);
    if (!variables) return tl::unexpected(variables.error());
    const auto template_text = read_template(shell, shell.session_template);
    if (!template_text) return tl::unexpected(template_text.error());
    json values = {{"workspace", space.settings.name.value},
                   {"root", space.root.string()},
                   {"variables", json::array()},
                   {"files", search_files(space, shell)},
                   {"load", json::array()}};
    for (const auto& name : load) values["load"].push_back({{"name", name}});
    for (const SessionVariable& v : *variables)
        values["variables"].push_back({{"host", v.host},
                                       {"name", v.name},
                                       {"prepend", v.prepend},
                                       {"separator", v.separator},
                                       {"when_unset", v.when_unset},
                                       {"instead_of", v.instead_of}});
    return text::render(*template_text, values, dialect_of(shell));
}

}  // namespace envar::search
