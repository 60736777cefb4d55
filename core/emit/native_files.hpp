// Which files a native module is made of, and what each is for.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/manifest.hpp"

namespace envar::emit {

/// The files of a native module by their use, relative to its folder, sorted: what the manifest lists or, where it
/// lists nothing, what lies in the folders `include`, `src`, `tests` and `examples`.
struct NativeFiles {
    std::vector<std::string> sources;
    std::vector<std::string> public_headers;
    std::vector<std::string> private_headers;
    std::vector<std::string> tests;
    std::vector<std::string> examples;
};

inline constexpr std::string_view public_folder = "include";
inline constexpr std::string_view source_folder = "src";

[[nodiscard]] bool is_header(std::string_view file);
[[nodiscard]] bool is_source(std::string_view file);

/// All headers and sources below a folder of the module, with `/`, sorted. Links to folders are not followed.
[[nodiscard]] std::vector<std::string> code_below(const std::filesystem::path& module, std::string_view folder);

/// `planned` will be there, `absent` will not.
[[nodiscard]] NativeFiles native_files(const model::Manifest& manifest, const std::filesystem::path& folder,
                                       const std::vector<std::string>& planned = {},
                                       const std::vector<std::string>& absent = {});

}  // namespace envar::emit
