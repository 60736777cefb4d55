// The workspace file, `workspace.envar.toml`.
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/manifest.hpp"

namespace envar::model {

inline constexpr std::string_view workspace_file_name = "workspace.envar.toml";

struct SearchFolder {
    Word host;
    Word folder;  // relative to the workspace, or absolute
    text::Span span;
};

struct Target {
    Word name;
    std::vector<Word> modules;
};

struct Pin {
    Word module;
    versions::Requirement versions;
    text::Span versions_span;
    std::string reason;
};

struct WorkspaceFile {
    Word name;
    std::vector<Word> folders;
    std::vector<Word> platforms;
    bool prereleases = false;
    std::vector<SearchFolder> search;
    std::vector<Target> targets;
    std::vector<Pin> pins;
};

[[nodiscard]] std::span<const Field<WorkspaceFile>> workspace_fields();

[[nodiscard]] WorkspaceFile read_workspace_file(const Document& document, std::vector<text::Finding>& findings);

}  // namespace envar::model
