// What the code of native modules says, read once for all rules that look at it.
#pragma once

#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "core/emit/native.hpp"
#include "core/members/includes.hpp"
#include "core/model/space.hpp"

namespace envar::check {

/// Who may see a file: everybody, the module itself, or its tests and examples alone.
enum class Reach { everybody, module, tests };

struct CodeFile {
    std::string file;  // relative to the module
    Reach reach = Reach::module;
    bool generated = false;
    text::Source source;
    members::CodeFacts facts;
};

/// The headers that lie anywhere in a folder, or are made there from a template of that name.
class TreeHeaders {
  public:
    explicit TreeHeaders(const std::filesystem::path& folder);
    /// Whether one can be included by that name, wherever a compiler would be told to look.
    [[nodiscard]] bool has(const std::string& name) const;

  private:
    void walk(const std::filesystem::path& folder, const std::string& below, int depth);

    std::multimap<std::string, std::string> paths_;  // by file name: relative, with '/' before them
};

struct NativeCode {
    const model::Module* module = nullptr;
    emit::NativeFiles files;
    std::vector<CodeFile> code;

    [[nodiscard]] const CodeFile* find(const std::string& file) const;
};

/// Of all sound modules of build systems, by name. Private headers that public ones include are everybody's too.
[[nodiscard]] std::vector<NativeCode> read_native_code(const model::Space& space);

}  // namespace envar::check
