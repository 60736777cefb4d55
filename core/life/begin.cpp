#include "core/life/begin.hpp"

#include <fmt/format.h>

#include "core/files/read.hpp"
#include "core/model/schema.hpp"
#include "core/model/space.hpp"
#include "core/text/utf8.hpp"

namespace envar::life {

text::Result<files::Plan> begin_plan(const std::filesystem::path& folder, const std::string& name) {
    if (const auto above = model::find_workspace(folder)) {
        const bool same = *above == folder;
        return text::fail(text::FailureKind::answer_is_no,
                          same ? fmt::format("`{}` is a workspace already", folder.string())
                               : fmt::format("`{}` lies inside the workspace `{}`", folder.string(), above->string()),
                          same ? "`envar modules` shows what is in it" : "one workspace does not lie inside another");
    }
    if (files::is_there(folder) && !files::is_folder(folder))
        return text::fail(text::FailureKind::machine_failed, fmt::format("`{}` is no folder", folder.string()));
    if (name.empty() || name == "/")
        return text::fail(text::FailureKind::wrong_usage, "the workspace needs a name", "give one with --name");
    model::WorkspaceFile file;
    file.name.value = name;
    for (char& c : file.name.value)
        if (const auto byte = static_cast<unsigned char>(c); byte < 0x20 || byte == 0x7F) c = '_';
    while (const auto bad = text::first_invalid_utf8(file.name.value)) file.name.value[*bad] = '_';
    const std::string content =
        model::schema_directive(folder, folder, "workspace") +
        "# A workspace: modules that are developed together. `envar explain workspace` lists every field.\n\n" +
        model::document_text(model::workspace_fields(), &file);
    files::Plan plan{folder, {}};
    plan.add(
        {folder / model::workspace_file_name, std::nullopt, content, "the workspace: folders, search path, targets"});
    model::add_schemas(plan);
    return plan;
}

}  // namespace envar::life
