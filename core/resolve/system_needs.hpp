// What chosen modules need of the operating system or of the host itself: it is asked which version is there.
#pragma once

#include <string>
#include <vector>

#include "core/resolve/resolve.hpp"
#include "core/search/system.hpp"

namespace envar::resolve {

struct SystemNeed {
    std::string module;
    std::string host;
    std::string required_by;
    std::string versions;
    Place place;
    search::SystemModule here;
    bool fits = true;
};

/// Needs with `origin = "system"` of what was chosen; hosts are started to tell what they have.
[[nodiscard]] std::vector<SystemNeed> system_needs(const Question& question, const Resolution& resolution);

}  // namespace envar::resolve
