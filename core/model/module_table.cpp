#include "core/model/module_table.hpp"

#include "core/model/space.hpp"
#include "core/versions/bounds.hpp"

namespace envar::model {
namespace {

std::string condition_key(const Condition& condition) {
    std::string key;
    for (const auto* words : {&condition.platforms, &condition.targets}) {
        for (const Word& word : *words) key += word.value + '\n';
        key += '\0';
    }
    return key;
}

}  // namespace

std::optional<Digest> digest_of(std::string_view text) {
    Digest digest{};
    if (text.size() != 2 * digest.size()) return std::nullopt;
    const auto value = [](char c) {
        return c >= '0' && c <= '9' ? c - '0' : c >= 'a' && c <= 'f' ? c - 'a' + 10 : -1;
    };
    for (std::size_t i = 0; i < digest.size(); ++i) {
        const int high = value(text[2 * i]), low = value(text[2 * i + 1]);
        if (high < 0 || low < 0) return std::nullopt;
        digest.at(i) = static_cast<std::uint8_t>(16 * high + low);
    }
    return digest;
}

ModuleTable::ModuleTable() { static_cast<void>(add_condition({})); }

Id ModuleTable::add_version(std::string_view text, versions::Scheme scheme) {
    const Id known = version_texts_.find(text);
    if (known != no_id && scheme == versions::Scheme::semantic && versions_[known].count == 3) return known;
    const auto version = versions::parse_version(text, scheme);
    return version ? add_version(*version) : no_id;
}

Id ModuleTable::add_version(const versions::Version& version) {
    const Id id = version_texts_.add(version.text());
    if (id == versions_.size()) versions_.push_back(version);
    return id;
}

tl::expected<Id, versions::RequirementError> ModuleTable::add_requirement(std::string_view text) {
    const Id known = requirement_texts_.find(text);
    if (known != no_id) return known;
    if (!versions::release_bounds(text))
        if (auto parsed = versions::parse_requirement(text); !parsed) return tl::unexpected(parsed.error());
    return requirement_texts_.add(text);
}

versions::Requirement ModuleTable::requirement(Id id) const {
    return *versions::parse_requirement(requirement_texts_.text(id));
}

Id ModuleTable::add_condition(const Condition& condition) {
    const Id id = condition_texts_.add(condition_key(condition));
    if (id == conditions.size()) conditions.push_back(condition);
    return id;
}

void ModuleTable::add(const Module& module, std::uint32_t origin) {
    const Manifest& manifest = module.manifest;
    Row row;
    row.module = names.add(manifest.name.value);
    row.version = add_version(manifest.version.value_or(versions::Version{}));
    row.host = hosts.add(manifest.host.value);
    row.origin = origin;
    row.from = &module;
    row.first_need = static_cast<std::uint32_t>(needs.size());
    const auto requirement = [&](const versions::Requirement& one) {
        const std::string_view text = one.is_any() ? std::string_view("any") : std::string_view(one.text);
        return add_requirement(text).value_or(no_id);
    };
    for (std::size_t i = 0; i < manifest.dependencies.size(); ++i) {
        const Dependency& d = manifest.dependencies[i];
        if (d.system || d.module.value.empty()) continue;
        needs.push_back({names.add(d.module.value), requirement(d.versions), add_condition(d.when), d.stage,
                         d.is_public, d.optional, static_cast<std::uint32_t>(i)});
    }
    row.needs = static_cast<std::uint32_t>(needs.size()) - row.first_need;
    row.first_offer = static_cast<std::uint32_t>(offers.size());
    for (const Provided& one : manifest.provides) {
        if (one.module.value.empty()) continue;
        const auto version = versions::parse_version(one.version.value);
        offers.push_back({names.add(one.module.value), version ? add_version(*version) : no_id});
    }
    row.offers = static_cast<std::uint32_t>(offers.size()) - row.first_offer;
    row.first_bar = static_cast<std::uint32_t>(bars.size());
    for (std::size_t i = 0; i < manifest.conflicts.size(); ++i)
        bars.push_back({names.add(manifest.conflicts[i].module.value), requirement(manifest.conflicts[i].versions),
                        static_cast<std::uint32_t>(i)});
    row.bars = static_cast<std::uint32_t>(bars.size()) - row.first_bar;
    rows.push_back(row);
}

void ModuleTable::add_found(std::string_view name, std::string_view version, versions::Scheme scheme,
                            std::string_view host, const std::string& file) {
    Row row;
    row.version = add_version(version, scheme);
    if (row.version == no_id) return;
    row.module = names.add(name);
    row.host = hosts.add(host);
    row.origin = static_cast<std::uint32_t>(origins.size());
    row.first_need = static_cast<std::uint32_t>(needs.size());
    row.first_offer = static_cast<std::uint32_t>(offers.size());
    row.first_bar = static_cast<std::uint32_t>(bars.size());
    rows.push_back(row);
    origins.push_back(file);
}

void ModuleTable::reserve(std::size_t more_rows, std::size_t more_needs) {
    rows.reserve(rows.size() + more_rows);
    needs.reserve(needs.size() + more_needs);
}

void ModuleTable::add(ModuleTable&& other) {
    const auto renumber = [](std::size_t count, auto number) {
        std::vector<Id> ids(count);
        for (Id id = 0; id < count; ++id) ids[id] = number(id);
        return ids;
    };
    const auto name_ids = names.take(std::move(other.names));
    const auto host_ids = hosts.take(std::move(other.hosts));
    const auto requirement_ids = requirement_texts_.take(std::move(other.requirement_texts_));
    const auto version_ids =
        renumber(other.versions_.size(), [&](Id id) { return add_version(other.versions_[id]); });
    const auto condition_ids =
        renumber(other.conditions.size(), [&](Id id) { return add_condition(other.conditions[id]); });
    const auto size = [](const auto& list) { return static_cast<std::uint32_t>(list.size()); };
    const std::uint32_t need_shift = size(needs), offer_shift = size(offers), bar_shift = size(bars),
                        digest_shift = size(digests), origin_shift = size(origins);
    reserve(other.rows.size(), other.needs.size());
    for (Row row : other.rows) {
        row.module = name_ids[row.module];
        row.version = version_ids[row.version];
        row.host = host_ids[row.host];
        row.origin += origin_shift;
        row.first_need += need_shift;
        row.first_offer += offer_shift;
        row.first_bar += bar_shift;
        if (row.digest != no_id) row.digest += digest_shift;
        rows.push_back(row);
    }
    for (Need need : other.needs) {
        need.module = name_ids[need.module];
        need.requirement = requirement_ids[need.requirement];
        need.condition = condition_ids[need.condition];
        needs.push_back(need);
    }
    for (const Offer& offer : other.offers)
        offers.push_back({name_ids[offer.module], offer.version == no_id ? no_id : version_ids[offer.version]});
    for (const Bar& bar : other.bars)
        bars.push_back({name_ids[bar.module], requirement_ids[bar.requirement], bar.written});
    digests.insert(digests.end(), other.digests.begin(), other.digests.end());
    origins.insert(origins.end(), other.origins.begin(), other.origins.end());
}

}  // namespace envar::model
