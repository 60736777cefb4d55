#include "core/search/session.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/files/read.hpp"
#include "core/search/declared.hpp"
#include "core/search/search_path.hpp"

namespace envar::search {
namespace {

using nlohmann::json;
using text::fail;
using text::FailureKind;
using text::refuse;

constexpr std::size_t largest_template = std::size_t{256} << 10U;

/// Where the files lie that the card puts into the first search folder, for the session to load.
json search_files(const model::Space& space, const model::Card& card) {
    json files = json::array();
    const auto folders = workspace_folders(space, card);
    if (folders.empty()) return files;
    for (const auto& file : card.files)
        if (file.per_search()) files.push_back({{"path", folders.front() + "/" + file.path}});
    return files;
}

}  // namespace

text::Dialect dialect_of(const model::Card& card, const std::string& name) {
    const model::CardDialect* found = card.dialect(name);
    const model::CardDialect& dialect = found == nullptr ? card.language : *found;
    const bool strings = dialect.string_marks.size() == 2;
    return {dialect.comment,
            dialect.comment_end,
            dialect.doc_comment,
            strings ? dialect.string_marks[0] : "",
            strings ? dialect.string_marks[1] : "",
            dialect.escapes,
            dialect.comment_escapes,
            dialect.prose_escapes};
}

std::string SessionVariable::value_in(const Environment& environment) const {
    std::string rest = when_unset;
    for (const auto& known : {instead_of, name}) {
        const auto found = environment.find(known);
        if (!known.empty() && found != environment.end()) rest = found->second;
    }
    if (rest == prepend || rest.starts_with(prepend + separator)) return rest;  // a session that is active
    return rest.empty() ? prepend : prepend + separator + rest;
}

text::Result<std::string> read_template(const model::Card& card, const std::string& file) {
    const bool from_base = !card.base_folder.empty() && !files::is_there(card.folder / file);
    const std::filesystem::path& folder = from_base ? card.base_folder : card.folder;
    if (!files::resolves_inside(folder / file, folder))
        return fail(FailureKind::machine_failed,
                    fmt::format("the template `{}` of the card {} lies outside its folder", file, card.name.value));
    return files::read_or_fail(folder / file, largest_template);
}

text::Result<std::vector<SessionVariable>> session_variables(const model::Space& space) {
    std::vector<SessionVariable> variables;
    for (const model::Card& card : space.cards) {
        if (card.variables.empty()) continue;
        for (const DeclaredFolder& declared : declared_folders(space, card)) {
            const std::string reason = cannot_hold(card, declared.folder);
            if (reason.empty()) continue;
            const std::string place =
                declared.is_view
                    ? "the view of the chosen versions"
                    : fmt::format("{}:{}", model::workspace_file_name,
                                  space.document.source.position(declared.search->folder.span.begin).line);
            return refuse(fmt::format("{} ({})", reason, place),
                          fmt::format("move or rename the folder `{}`", declared.folder));
        }
        for (const model::SearchVariable& variable : card.variables) {
            auto folders = session_folders(space, card, &variable);
            if (folders.empty()) continue;
            variables.push_back({card.name.value, variable.name, variable_value(card, variable, folders),
                                 variable.separator, variable.when_unset, variable.instead_of,
                                 variable.own_shell_only, std::move(folders)});
        }
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
                   {"own", json::array()},
                   {"notices", json::array()},
                   {"left_out", json::array()},
                   {"files", search_files(space, shell)},
                   {"load", json::array()}};
    for (const auto& name : load) values["load"].push_back({{"name", name}});
    for (const SessionVariable& v : *variables) {
        json value = {{"host", v.host},
                      {"name", v.name},
                      {"prepend", v.prepend},
                      {"separator", v.separator},
                      {"when_unset", v.when_unset},
                      {"instead_of", v.instead_of},
                      {"folders", json::array()}};
        for (const auto& folder : v.folders) value["folders"].push_back({{"folder", folder}});
        const bool own = v.host == shell.name.value;
        const model::Card& host = *space.card(v.host);
        const json notice = {{"host", v.host}, {"notice", host.notice_variables}};
        auto& notices = values["notices"];
        if (!own && !v.own_shell_only && !host.notice_variables.empty() &&
            std::find(notices.begin(), notices.end(), notice) == notices.end())
            notices.push_back(notice);
        values[!v.own_shell_only ? "variables" : own ? "own" : "left_out"].push_back(std::move(value));
    }
    return text::render(*template_text, values, dialect_of(shell));
}

text::Result<std::string> session_dotenv(const model::Space& space, const Environment& environment) {
    const auto variables = session_variables(space);
    if (!variables) return tl::unexpected(variables.error());
    const text::Dialect quoted{"#", "", "", "\"", "\"", {{"\\", "\\\\"}, {"\"", "\\\""}, {"$", "\\$"}, {"`", "\\`"}},
                               {},  {}};
    std::string out =
        text::comment_lines(quoted, fmt::format("The search paths of the workspace {}.", space.settings.name.value)) +
        "\n";
    for (const SessionVariable& v : *variables)
        if (v.own_shell_only) {
            out +=
                text::comment_lines(quoted, fmt::format("{} is left out: {} sets it for itself.", v.name, v.host)) +
                "\n";
        } else {
            out += v.name + "=" + text::string_literal(quoted, v.value_in(environment)) + "\n";
        }
    return out;
}

text::Result<std::string> session_json(const model::Space& space, const Environment& environment) {
    const auto variables = session_variables(space);
    if (!variables) return tl::unexpected(variables.error());
    nlohmann::ordered_json whole = {{"workspace", space.settings.name.value},
                                    {"root", space.root.string()},
                                    {"variables", nlohmann::ordered_json::array()},
                                    {"left_out", nlohmann::ordered_json::array()}};
    for (const SessionVariable& v : *variables)
        if (v.own_shell_only) {
            whole["left_out"].push_back({{"host", v.host}, {"name", v.name}});
        } else {
            whole["variables"].push_back({{"host", v.host},
                                          {"name", v.name},
                                          {"value", v.value_in(environment)},
                                          {"entries", v.folders},
                                          {"separator", v.separator}});
        }
    return whole.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

}  // namespace envar::search
