#include "core/model/catalogue.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

namespace envar::model {
namespace {

using nlohmann::ordered_json;

std::string requirement_text(const PcRequirement& need) {
    if (need.comparator.empty()) return {};
    const std::string version = plain_version(need.version);
    return version.empty() ? std::string() : need.comparator + version;
}

void add_needs(ordered_json& list, std::map<std::string, std::size_t>& known, const std::vector<PcRequirement>& needs,
               const char* visibility) {
    for (const auto& need : needs) {
        const std::string versions = requirement_text(need);
        const auto [at, fresh] = known.emplace(need.module, list.size());
        if (fresh) {
            list.push_back({{"module", need.module},
                            {"versions", versions.empty() ? "any" : versions},
                            {"visibility", visibility}});
        } else if (!versions.empty()) {
            auto& text = list[at->second]["versions"];
            text = text == "any" ? versions : text.get<std::string>() + ", " + versions;
        }
    }
}

}  // namespace

std::string catalogue_of(const std::vector<PcFile>& files) {
    std::string out;
    for (const PcFile& file : files) {
        ordered_json needs = ordered_json::array();
        std::map<std::string, std::size_t> known;
        add_needs(needs, known, file.public_needs, "public");
        add_needs(needs, known, file.private_needs, "private");
        const std::string version = plain_version(file.version);
        ordered_json line = {{"module", file.name}, {"version", version.empty() ? "0.0.0" : version}};
        if (!needs.empty()) line["dependencies"] = needs;
        out += line.dump(-1, ' ', false, ordered_json::error_handler_t::replace) + "\n";
    }
    return out;
}

}  // namespace envar::model
