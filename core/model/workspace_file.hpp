// The workspace file, `workspace.envar.toml`.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/model/manifest.hpp"
#include "core/model/name_advice.hpp"

namespace envar::model {

inline constexpr std::string_view workspace_file_name = "workspace.envar.toml";

struct SearchFolder {
    Word host;
    Word folder;    // relative to the workspace, or absolute
    Word variable;  // of the host's search variables; empty: the first
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

struct Origin {
    Word catalogue;  // relative to the workspace, or absolute
};

/// Reference pages that are written for all modules.
struct HelpPages {
    text::Span span;  // the head of [help]; empty when there is none
    std::string folder = "help";
    std::vector<Word> languages;  // besides that of the sources

    [[nodiscard]] bool wanted() const { return !span.empty(); }
};

struct WorkspaceFile {
    text::Span span;  // the head of [workspace]
    Word name;
    std::vector<Word> folders;
    std::vector<Word> platforms;
    text::Span platforms_span;  // empty when left out
    bool prereleases = false;
    std::vector<SearchFolder> search;
    std::vector<Origin> origins;
    std::vector<Target> targets;
    std::vector<Pin> pins;
    HelpPages help;
    std::vector<WordList> word_lists;
    std::vector<NameAdvice> name_advice;
};

[[nodiscard]] const Fields& workspace_fields();
/// The row of [[search]].
[[nodiscard]] const Field& search_list();
/// The list of folders as it stands in the document, or null.
[[nodiscard]] const Node* written_folders(const Document& document);

[[nodiscard]] WorkspaceFile read_workspace_file(const Document& document, std::vector<text::Finding>& findings);

}  // namespace envar::model
