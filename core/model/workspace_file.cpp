#include "core/model/workspace_file.hpp"

#include <fmt/format.h>

#include "core/model/binding.hpp"

namespace envar::model {
namespace {

// A row is easier to read than a column.
// clang-format off
const Fields search_table = {
    {.key = "host", .type = Type::name, .required = true, .help = "the host: the name of a card",
     .example = "\"lua\"", .synonyms = {"for", "kind"}, .bound = at<&SearchFolder::host>()},
    {.key = "folder", .type = Type::line, .required = true,
     .help = "the folder, relative to the workspace or absolute", .example = "\"lua\"",
     .synonyms = {"path", "directory", "dir"}, .bound = at<&SearchFolder::folder>()},
    {.key = "variable", .type = Type::name,
     .help = "of several search variables of the host, the one that the folder is for; left out: the first",
     .example = "\"MINETEST_SUBGAME_PATH\"", .bound = at<&SearchFolder::variable>()},
};

const Fields origin_table = {
    {.key = "catalogue", .type = Type::line, .required = true, .help = "a JSON Lines file, one module version a line",
     .example = "\"shared-modules.jsonl\"", .synonyms = {"catalog", "index", "file", "path"},
     .bound = at<&Origin::catalogue>()},
};

const Fields target_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "name of the target", .example = "\"viewer\"",
     .synonyms = {"id"}, .bound = at<&Target::name>()},
    {.key = "modules", .type = Type::names, .required = true,
     .help = "its root modules; what they need comes along", .example = "[\"star_field\"]",
     .synonyms = {"module", "roots", "members"}, .bound = at<&Target::modules>()},
};

const Fields pin_table = {
    {.key = "module", .type = Type::name, .required = true, .help = "the module held", .example = "\"sidereal\"",
     .synonyms = {"name", "id"}, .bound = at<&Pin::module>()},
    {.key = "versions", .type = Type::requirement, .required = true, .help = "the versions it is held at",
     .example = "\"=1.1.4\"", .synonyms = {"version", "range"}, .bound = at<&Pin::versions, &Pin::versions_span>()},
    {.key = "reason", .type = Type::line, .help = "why", .example = "\"1.2 drifts by a second a night\"",
     .synonyms = {"why", "comment", "because"}, .bound = at<&Pin::reason>()},
};

const Fields settings_table = {
    {.key = "name", .type = Type::name, .required = true, .help = "name of the workspace",
     .example = "\"skydome\"", .synonyms = {"title", "workspace"}, .bound = at<&WorkspaceFile::name>()},
    {.key = "folders", .type = Type::texts, .preset = "[]",
     .help = "folders in which its modules lie, at any depth; empty: everywhere",
     .example = "[\"shell\", \"lua\"]", .synonyms = {"folder", "members", "modules", "paths", "directories"},
     .bound = at<&WorkspaceFile::folders>()},
    {.key = "platforms", .type = Type::names, .preset = "[\"linux\", \"macos\", \"windows\"]",
     .help = "platforms that conditions may name", .example = "[\"linux\", \"macos\", \"windows\"]",
     .synonyms = {"platform", "os", "systems"}, .bound = at<&WorkspaceFile::platforms, &WorkspaceFile::platforms_span>()},
    {.key = "prereleases", .type = Type::boolean, .preset = "false",
     .help = "true: pre-release versions take part everywhere", .example = "true",
     .synonyms = {"prerelease", "unstable"}, .bound = at<&WorkspaceFile::prereleases>()},
};

const Fields help_table = {
    {.key = "folder", .type = Type::inner_path, .preset = "\"help\"", .help = "where the pages go",
     .example = "\"docs/reference\"", .synonyms = {"path", "dir"}, .bound = at<&HelpPages::folder>()},
    {.key = "languages", .type = Type::names, .preset = "[]",
     .help = "languages that the pages come out in besides that of the sources, as gettext calls them; each has its translations in `po/LANGUAGE.po`",
     .example = "[\"de\", \"pt_BR\"]", .synonyms = {"language", "locales", "translations"}, .bound = at<&HelpPages::languages>()},
};

const Fields workspace_table = {
    {.key = "workspace", .type = Type::table, .required = true, .help = "what the workspace is",
     .example = "{ name = \"skydome\", folders = [\"lua\"] }", .synonyms = {"project", "solution"},
     .bound = same<WorkspaceFile, &WorkspaceFile::span>(), .fields = &settings_table},
    {.key = "search", .type = Type::tables, .help = "a folder on a host's search path, in order",
     .example = "[{ host = \"lua\", folder = \"lua\" }]", .synonyms = {"path", "paths", "searches"},
     .bound = within<&WorkspaceFile::search, &SearchFolder::span>(), .fields = &search_table},
    {.key = "origin", .type = Type::tables, .help = "where further module versions may come from",
     .example = "[{ catalogue = \"shared-modules.jsonl\" }]", .synonyms = {"origins", "source", "sources"},
     .bound = within<&WorkspaceFile::origins>(), .fields = &origin_table},
    {.key = "target", .type = Type::tables, .help = "a product: a named set of root modules",
     .example = "[{ name = \"viewer\", modules = [\"star_field\"] }]", .synonyms = {"targets", "product", "products"},
     .bound = within<&WorkspaceFile::targets>(), .fields = &target_table},
    {.key = "pin", .type = Type::tables, .help = "holds a module at some versions",
     .example = "[{ module = \"sidereal\", versions = \"=1.1.4\" }]",
     .synonyms = {"pins", "override", "overrides", "constraint", "hold"},
     .bound = within<&WorkspaceFile::pins>(), .fields = &pin_table},
    {.key = "help", .type = Type::table, .help = "reference pages are written for all modules: Markdown and manual pages",
     .example = "{ languages = [\"de\"] }", .synonyms = {"docs", "documentation", "reference"},
     .bound = within<&WorkspaceFile::help, &HelpPages::span>(), .fields = &help_table},
    {.key = "words", .type = Type::tables,
     .help = "a list of words that advice on names goes by; one of a card's name takes its place",
     .example = "[{ name = \"verbs\", words = [\"open\", \"close\"] }]", .synonyms = {"word_lists"},
     .bound = within<&WorkspaceFile::word_lists>(), .fields = &word_list_table},
    {.key = "advice", .type = Type::tables, .help = "what names should look like, besides what the cards advise",
     .example = "[{ host = \"bash\", prefix = \"{{name}}_\", first = \"verbs\" }]", .synonyms = {"naming", "conventions"},
     .bound = within<&WorkspaceFile::name_advice>(), .fields = &workspace_advice_table},
};
// clang-format on

}  // namespace

const Fields& workspace_fields() { return workspace_table; }
const Field& search_list() { return field_of(workspace_table, "search"); }

const Node* written_folders(const Document& document) {
    const Node* settings = document.root.find("workspace");
    return settings == nullptr ? nullptr : settings->find("folders");
}

WorkspaceFile read_workspace_file(const Document& document, std::vector<text::Finding>& findings) {
    WorkspaceFile file;
    findings.insert(findings.end(), document.findings.begin(), document.findings.end());
    if (document.readable) read_fields(workspace_fields(), &file, document, findings);
    if (file.platforms_span.empty()) {
        const Field& field = field_of(settings_table, "platforms");
        const Document usual = parse_document(text::Source("", fmt::format("x = {}\n", field.preset)));
        field.bound.set(&file, field, usual.root.entries.front().value);
        file.platforms_span = {};
        for (Word& platform : file.platforms) platform.span = {};
    }
    return file;
}

}  // namespace envar::model
