// Modules that the host or the operating system brings along: whether they are there, and in which version.
#pragma once

#include <map>
#include <string>

#include "core/model/card.hpp"

namespace envar::search {

struct SystemModule {
    bool known = false;  // there was a way to ask, and an answer
    bool found = false;
    std::string version;  // as it is told; may be empty although the module is there
    std::string told_by;  // the `.pc` file, or the program that was asked
};

/// For build systems the `.pc` files are read; other hosts are asked as their card says, without a shell, in the root
/// folder, with an environment of their own. A name that is none for the host is not handed to it, as it becomes part
/// of what the program runs; nor is a program run that only a workspace's card names.
[[nodiscard]] SystemModule system_module(const model::Card& card, const std::string& name,
                                         const std::map<std::string, std::string>& environment);

}  // namespace envar::search
