#include "core/resolve/lock.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/files/read.hpp"
#include "core/model/document.hpp"
#include "core/model/limits.hpp"
#include "core/model/toml_layout.hpp"
#include "core/versions/version.hpp"

namespace envar::resolve {
namespace {

constexpr std::size_t largest_lock = model::largest_document * 64;

std::string kind_of(const std::string& before, const std::string& after) {
    using versions::parse_version;
    const auto read = [](const std::string& text) {
        for (const auto scheme : {versions::Scheme::semantic, versions::Scheme::dotted, versions::Scheme::integer})
            if (auto version = parse_version(text, scheme)) return version;
        return std::optional<versions::Version>();
    };
    const auto a = read(before), b = read(after);
    if (!a || !b) return "other";
    if (*b < *a) return "older";
    if (a->numbers[0] != b->numbers[0]) return "breaking";
    if (a->numbers[1] != b->numbers[1]) return a->numbers[0] == 0 ? "breaking" : "feature";
    return "fix";
}

}  // namespace

const LockedModule* Lock::find(std::string_view module) const {
    const auto found = places.find(module);
    return found == places.end() ? nullptr : &modules[found->second];
}

std::string lock_text(const std::vector<LockedModule>& modules) {
    std::string out =
        "# The versions that `envar resolve` chose. Written by Envar; keep it under version control.\n\n[module]\n";
    for (const LockedModule& one : modules) {
        out += fmt::format("{} = {{ version = {}, host = {}, origin = {}", model::toml_key(one.module),
                           model::toml_string(one.version), model::toml_string(one.host),
                           model::toml_string(one.origin));
        if (!one.digest.empty()) out += fmt::format(", sha256 = {}", model::toml_string(one.digest));
        out += " }\n";
    }
    return out;
}

std::optional<Lock> read_lock(const std::filesystem::path& root) {
    auto content = files::read_file(root / lock_name, largest_lock);
    if (!content) return std::nullopt;
    model::Document document =
        model::parse_document(text::Source(std::string(lock_name), std::move(*content)), largest_lock);
    Lock lock;
    lock.findings = std::move(document.findings);
    const model::Node* modules = document.root.find("module");
    if (modules == nullptr && lock.findings.empty())
        lock.findings.push_back(document.source.finding("EV601", {0, 1}, "the lock has no table of modules",
                                                        "run `envar resolve`; it writes the lock anew"));
    if (modules != nullptr)
        for (const auto& module : modules->entries) {
            const model::Node& entry = module.value;
            const auto text_of = [&](const char* key) {
                const model::Node* node = entry.find(key);
                return node == nullptr ? std::string() : node->text;
            };
            const model::Node* version = entry.find("version");
            if (version == nullptr) continue;
            lock.places.emplace(module.key, lock.modules.size());
            lock.modules.push_back(
                {module.key, version->text, text_of("host"), text_of("origin"), text_of("sha256"), version->span});
        }
    lock.source = std::move(document.source);
    return lock;
}

std::vector<Move> moves(const std::vector<LockedModule>& before, const std::vector<LockedModule>& after) {
    std::map<std::string, std::pair<const LockedModule*, const LockedModule*>> both;
    for (const LockedModule& one : before) both[one.module].first = &one;
    for (const LockedModule& one : after) both[one.module].second = &one;
    std::vector<Move> out;
    for (const auto& [name, pair] : both) {
        const auto [a, b] = pair;
        if (a == nullptr) {
            out.push_back({name, "", b->version, "added", ""});
        } else if (b == nullptr) {
            out.push_back({name, a->version, "", "removed", ""});
        } else if (a->version != b->version) {
            out.push_back({name, a->version, b->version, kind_of(a->version, b->version), ""});
        } else if (a->origin != b->origin) {
            out.push_back({name, a->version, b->version, "origin", fmt::format("{} → {}", a->origin, b->origin)});
        } else if (a->digest != b->digest && !a->digest.empty() && !b->digest.empty() && b->origin != "workspace") {
            out.push_back({name, a->version, b->version, "content", "the same version with other content"});
        }
    }
    return out;
}

}  // namespace envar::resolve
