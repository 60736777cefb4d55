#include "core/model/catalogue.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>

#include "core/versions/requirement.hpp"

namespace envar::model {
namespace {

using nlohmann::json;
using nlohmann::ordered_json;

constexpr int deepest_value = 16;

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

/// Reads the lines into modules.
class Lines {
  public:
    Lines(const text::Source& source, const std::vector<Card>& cards) : source_(source), cards_(cards) {}

    Space run() {
        const std::string& text = source_.text();
        for (std::size_t at = 0; at < text.size();) {
            const std::size_t end = std::min(text.find('\n', at), text.size());
            if (text.find_first_not_of(" \t\r", at) < end) line({at, end});
            at = end + 1;
        }
        Space space;
        space.settings.name.value = "catalogue";
        space.document.source = source_;
        space.document.valid = true;
        space.cards = cards_;
        space.findings = std::move(findings_);
        for (auto& [name, module] : modules_) space.modules.push_back(std::move(module));
        return space;
    }

  private:
    void line(text::Span span) {
        const std::string_view text = std::string_view(source_.text()).substr(span.begin, span.end - span.begin);
        int depth = 0;
        bool deep = false;
        const json value = json::parse(
            text.begin(), text.end(),
            [&](int at, json::parse_event_t, json&) {
                depth = std::max(depth, at);
                deep = deep || at > deepest_value;
                return at <= deepest_value;
            },
            false);
        if (!value.is_object() || deep) return tell(span, "the line is no JSON object", "one module version a line");
        const auto word = [&](const json& of, const char* key) {
            const auto found = of.find(key);
            return found != of.end() && found->is_string() ? found->get<std::string>() : std::string();
        };
        Module module;
        Manifest& manifest = module.manifest;
        manifest.name = {word(value, "module"), span};
        manifest.host = {word(value, "host"), span};
        manifest.version_text = {word(value, "version"), span};
        if (manifest.name.value.empty()) return tell(span, "the line names no `module`", "it was passed over");
        manifest.version =
            versions::parse_version(manifest.version_text.value, schemes_of(cards_)(manifest.host.value));
        if (!manifest.version)
            return tell(span,
                        fmt::format("`{}` is no version of {}", manifest.version_text.value, manifest.name.value),
                        "it was passed over");
        if (value.value("withdrawn", json(false)) == json(true)) return;
        if (const json* list = part(value, "dependencies"); list != nullptr && list->is_array())
            for (const auto& one : *list) {
                Dependency d;
                if (!one.is_object()) continue;
                d.module = {word(one, "module"), span};
                d.span = d.versions_span = span;
                const std::string range = word(one, "versions");
                const auto requirement = versions::parse_requirement(range.empty() ? "any" : range);
                if (d.module.value.empty() || !requirement) {
                    tell(span, fmt::format("a dependency of {} cannot be read", manifest.name.value),
                         requirement ? "it names no `module`" : requirement.error().message);
                    continue;
                }
                d.versions = *requirement;
                d.is_public = word(one, "visibility") == "public";
                d.optional = one.value("optional", json(false)) == json(true);
                d.stage = stage_of(word(one, "stage"));
                if (const json* when = part(one, "when"); when != nullptr && when->is_object()) {
                    words(*when, "platform", span, d.when.platforms);
                    words(*when, "target", span, d.when.targets);
                }
                manifest.dependencies.push_back(std::move(d));
            }
        module.source = source_;
        const auto found = modules_.find(manifest.name.value);
        if (found != modules_.end() && !(*found->second.manifest.version < *manifest.version)) return;
        const std::string name = manifest.name.value;
        modules_[name] = std::move(module);
    }

    static const json* part(const json& of, const char* key) {
        const auto found = of.find(key);
        return found == of.end() ? nullptr : &*found;
    }

    static void words(const json& of, const char* key, text::Span span, std::vector<Word>& into) {
        const auto found = of.find(key);
        if (found == of.end() || !found->is_array()) return;
        for (const auto& one : *found)
            if (one.is_string() && !one.get<std::string>().empty()) into.push_back({one.get<std::string>(), span});
    }

    void tell(text::Span span, std::string message, std::string hint) {
        findings_.push_back(source_.finding("EV914", span, std::move(message), std::move(hint)));
    }

    const text::Source& source_;
    const std::vector<Card>& cards_;
    std::map<std::string, Module> modules_;
    std::vector<text::Finding> findings_;
};

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
        out += line.dump(-1, ' ', false, json::error_handler_t::replace) + "\n";
    }
    return out;
}

Space read_catalogue(const text::Source& source, const std::vector<Card>& cards) {
    return Lines(source, cards).run();
}

}  // namespace envar::model
