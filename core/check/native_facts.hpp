// What the code of native modules says, read once for all rules that look at it.
#pragma once

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

struct NativeCode {
    const model::Module* module = nullptr;
    emit::NativeFiles files;
    std::vector<CodeFile> code;

    [[nodiscard]] const CodeFile* find(const std::string& file) const;
};

/// Of all sound modules of build systems, by name. Private headers that public ones include are everybody's too.
[[nodiscard]] std::vector<NativeCode> read_native_code(const model::Space& space);

}  // namespace envar::check
