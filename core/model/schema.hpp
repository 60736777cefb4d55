// JSON Schema (draft 2020-12) of Envar's own documents, made from their field tables, and the comment by which a
// document tells an editor where its schema lies.
//
// A schema says less than the reader checks: it knows nothing of other files, of two values that contradict each
// other, nor of patterns' own grammar. What it refuses the reader refuses too.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

#include "core/files/plan.hpp"
#include "core/model/document.hpp"
#include "core/model/fields.hpp"

namespace envar::model {

/// The schema as JSON text with a line end.
[[nodiscard]] std::string schema_text(const FieldTable& table);

/// Where a workspace keeps the schema of a kind of document: ".envar/schema/module.schema.json".
[[nodiscard]] std::string schema_place(std::string_view document);

/// Adds the schemas that are missing or out of date to a plan of the workspace.
void add_schemas(files::Plan& plan);

/// The first line of a document in `folder`, with its line end: `#:schema ../../.envar/schema/module.schema.json`.
[[nodiscard]] std::string schema_directive(const std::filesystem::path& root, const std::filesystem::path& folder,
                                           std::string_view document);

/// The path that the directive on the first line names, and where it stands.
struct WrittenDirective {
    std::string path;
    text::Span path_span;
    text::Span line;  // with its line end
};
[[nodiscard]] std::optional<WrittenDirective> written_directive(std::string_view text);

/// The text with the right directive on its first line; every other byte stays.
[[nodiscard]] std::string with_directive(const std::string& text, const std::string& directive);

}  // namespace envar::model
