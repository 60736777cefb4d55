#include "core/check/sarif.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "core/text/codes.hpp"

namespace envar::check {
namespace {

using json = nlohmann::ordered_json;

constexpr std::string_view schema =
    "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json";
constexpr std::string_view base = "WORKSPACE";

std::string_view level(text::Severity severity) {
    switch (severity) {
        case text::Severity::error:
            return "error";
        case text::Severity::warning:
            return "warning";
        case text::Severity::hint:
            return "note";
    }
    return "error";
}

/// A relative URI reference, RFC 3986: everything but unreserved characters and '/' is percent-encoded.
std::string uri(std::string_view path) {
    std::string out;
    for (const char c : path) {
        const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '-' ||
                           c == '.' || c == '_' || c == '~' || c == '/';
        out += plain ? std::string(1, c) : fmt::format("%{:02X}", static_cast<unsigned char>(c));
    }
    return out;
}

json all_rules() {
    json list = json::array();
    for (const auto& code : text::codes())
        list.push_back({{"id", code.code},
                        {"shortDescription", {{"text", code.title}}},
                        {"fullDescription", {{"text", code.explanation}}},
                        {"help", {{"text", fmt::format("{}\n\n{}", code.explanation, code.example)}}},
                        {"defaultConfiguration", {{"level", level(code.severity)}}}});
    return list;
}

json location(const text::Finding& finding) {
    json place = {{"artifactLocation", {{"uri", uri(finding.file)}, {"uriBaseId", base}}}};
    if (finding.width > 0)
        place["region"] = {{"startLine", finding.position.line},
                           {"startColumn", finding.position.column},
                           {"endColumn", finding.position.column + finding.width},
                           {"snippet", {{"text", finding.excerpt}}}};
    return {{"physicalLocation", place}};
}

json result(const text::Finding& finding) {
    const auto codes = text::codes();
    std::size_t index = 0;
    while (index < codes.size() && codes[index].code != finding.code) ++index;
    const std::string hint = finding.hint.empty() ? "" : fmt::format(" ({})", finding.hint);
    json out = {{"ruleId", finding.code},
                {"ruleIndex", index},
                {"level", level(finding.severity)},
                {"message", {{"text", finding.message + hint}}}};
    out["locations"] = finding.file.empty() ? json::array() : json::array({location(finding)});
    return out;
}

}  // namespace

std::string sarif(const std::vector<text::Finding>& findings, std::string_view program_version) {
    json results = json::array();
    for (const auto& finding : findings) results.push_back(result(finding));
    const json driver = {{"name", "Envar"}, {"version", program_version}, {"rules", all_rules()}};
    const json base_ids = {{std::string(base), {{"description", {{"text", "the folder of the workspace file"}}}}}};
    const json log = {{"$schema", schema},
                      {"version", "2.1.0"},
                      {"runs", json::array({{{"tool", {{"driver", driver}}},
                                             {"originalUriBaseIds", base_ids},
                                             {"columnKind", "unicodeCodePoints"},
                                             {"results", results}}})}};
    return log.dump(2, ' ', false, json::error_handler_t::replace) + "\n";
}

}  // namespace envar::check
