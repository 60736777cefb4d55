// Bringing a scaffolded module up to date with its card's templates.
//
// What scaffold wrote first is kept in `.envar/first/<identity>.json`: manifest, blueprint, settings and the text of
// every authored file. Refreshing renders the same manifest with the templates of today and merges what has changed
// in them into the author's files, three ways. Nothing that the author wrote is lost: where both changed the same
// lines, both versions stand in the file between conflict marks.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/emit/authored.hpp"
#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

/// What a module was made from.
struct FirstWritten {
    std::string blueprint;
    std::map<std::string, std::string> settings;
    std::string manifest;                      // its text
    std::map<std::string, std::string> files;  // path → text
};

[[nodiscard]] std::filesystem::path first_written_file(const std::filesystem::path& root,
                                                       const std::string& identity);
[[nodiscard]] std::string first_written_text(const FirstWritten& first);
[[nodiscard]] std::optional<FirstWritten> read_first_written(const std::filesystem::path& root,
                                                             const std::string& identity);

struct Refresh {
    files::Plan plan;
    std::vector<std::string> merged;     // paths in which something was brought in
    std::vector<std::string> conflicts;  // paths with conflict marks
    std::vector<std::string> left;       // paths that the author removed or made himself, left alone
};

/// Fails when nothing is known of what was first written.
[[nodiscard]] text::Result<Refresh> refresh_plan(const model::Space& space, const std::string& module);

}  // namespace envar::life
