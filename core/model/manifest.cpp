#include "core/model/manifest.hpp"

#include <algorithm>

#include "core/model/field_values.hpp"

namespace envar::model {
namespace {

bool one_holds(const std::vector<Word>& words, std::string_view present) {
    if (words.empty() || present.empty()) return true;
    bool only_negations = true;
    for (const Word& word : words) {
        const std::string_view text = word.value;
        if (!text.empty() && text.front() == '!') {
            if (text.substr(1) == present) return false;
        } else {
            only_negations = false;
            if (text == present) return true;
        }
    }
    return only_negations;
}

/// A version that some scheme knows, but not the host's.
text::Finding other_scheme(const Document& document, const Word& version, versions::Scheme scheme) {
    const auto mended = scheme == versions::Scheme::semantic ? versions::mended_version(version.value) : std::nullopt;
    return document.source.finding(
        "EV114", version.span, ticked(version.value) + " is not a version",
        mended ? "did you mean `" + *mended + "`?" : "versions here are " + std::string(scheme_form(scheme)));
}

}  // namespace

Manifest read_manifest(const Document& document, std::vector<text::Finding>& findings, const SchemeOf& scheme_of) {
    Manifest manifest;
    findings.insert(findings.end(), document.findings.begin(), document.findings.end());
    if (document.readable) read_fields(manifest_fields(), &manifest, document, findings);
    const versions::Scheme scheme = scheme_of ? scheme_of(manifest.host.value) : versions::Scheme::semantic;
    const auto in_scheme = [&](const Word& version) {
        if (version.value.empty()) return std::optional<versions::Version>();
        auto parsed = versions::parse_version(version.value, scheme);
        if (!parsed) findings.push_back(other_scheme(document, version, scheme));
        return parsed;
    };
    manifest.version = in_scheme(manifest.version_text);
    for (const Member& member : manifest.members) (void)in_scheme(member.since);
    for (const Provided& provided : manifest.provides) (void)in_scheme(provided.version);
    std::erase_if(manifest.dependencies, [](const Dependency& d) { return d.module.value.empty(); });
    std::erase_if(manifest.members, [](const Member& m) { return m.name.value.empty(); });
    return manifest;
}

bool holds(const Condition& condition, std::string_view platform, std::string_view target) {
    return one_holds(condition.platforms, platform) && one_holds(condition.targets, target);
}

std::string_view stage_name(Stage stage) {
    switch (stage) {
        case Stage::load:
            return "load";
        case Stage::build:
            return "build";
        case Stage::test:
            return "test";
    }
    return "load";
}

Stage stage_of(std::string_view name) {
    for (const Stage stage : {Stage::build, Stage::test})
        if (stage_name(stage) == name) return stage;
    return Stage::load;
}

}  // namespace envar::model
