#include "core/life/sync.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/life/signature.hpp"
#include "core/model/edit.hpp"
#include "core/model/field_values.hpp"
#include "core/model/limits.hpp"

namespace envar::life {
namespace {

using text::refuse;
using text::Result;

const model::Fields& member_fields() { return *model::member_list().fields; }

/// A default without the quotes that the language puts around text.
model::Scalar value_of(const std::string& preset) {
    const char quote = preset.front();
    if (preset.size() < 2 || (quote != '"' && quote != '\'') || preset.back() != quote) return scalar(preset);
    model::Scalar text;
    text.kind = model::NodeKind::text;
    text.text = preset.substr(1, preset.size() - 2);
    return text;
}

model::Parameter parameter_of(const members::FoundParameter& found, bool tells_default,
                              const model::Parameter* before) {
    model::Parameter after = before == nullptr ? model::Parameter{} : *before;
    after.name.value = found.name;
    if (after.type.empty()) after.type = found.type;
    if (after.summary.empty()) after.summary = found.summary;
    after.given = members::given(found);
    if (tells_default && (before == nullptr || before->required != found.required || !found.preset.empty())) {
        after.required = found.required;
        after.preset = found.preset.empty() ? model::Scalar{} : value_of(found.preset);
    }
    return after;
}

constexpr std::size_t least_text = std::string_view("[[member]]\nname = \"\"\n").size();  // of a member

/// One manifest's text while its members are edited.
class Editing {
  public:
    Editing(const model::Module& module, const model::Document& document) : module_(module) {
        text_ = module.source.text();
        list_ = document.root.find(model::member_list().key);
        in_line_ = list_ != nullptr && text_.compare(list_->span.begin, 2, "[[") != 0;
    }

    /// Lists of inline tables are edited only by hand: their elements have no lines of their own.
    [[nodiscard]] bool in_line() const { return in_line_; }
    [[nodiscard]] const std::string& text() const { return text_; }

    /// Takes note of what the member becomes; false when that is what it is.
    bool change(std::size_t index, const model::Member& after) {
        model::ElementChange change{index, model::assignments_of(member_fields(), &module_.manifest.members[index]),
                                    model::assignments_of(member_fields(), &after)};
        if (change.before == change.after) return false;
        changes_.push_back(std::move(change));
        return true;
    }

    void drop(std::size_t index) { dropped_.push_back(index); }
    void add(const model::Member& member) { added_.push_back(model::assignments_of(member_fields(), &member)); }

    /// Does all of that.
    Result<void> carry_out() {
        const std::string_view key = model::member_list().key;
        auto changed = model::change_elements(text_, key, changes_);
        if (!changed) return tl::unexpected(changed.error());
        changed = model::remove_elements(*changed, key, dropped_);
        if (!changed) return tl::unexpected(changed.error());
        text_ = model::append_elements(*changed, key, added_);
        return {};
    }

    /// The elements that `found` names come in its order; the others stay in their places. True when any moved.
    Result<bool> order_by(const std::vector<std::string>& found) {
        std::vector<text::Finding> findings;
        const model::Manifest now =
            model::read_manifest(model::parse_document(text::Source(module_.source.file(), text_)), findings);
        std::vector<std::size_t> order(now.members.size()), sorted;
        std::map<std::string, std::size_t> place;
        for (std::size_t i = 0; i < found.size(); ++i) place.emplace(found[i], i);
        const auto place_of = [&](std::size_t i) { return place.at(now.members[i].name.value); };
        for (std::size_t i = 0; i < order.size(); ++i)
            if (place.count(now.members[i].name.value) != 0) sorted.push_back(i);
        if (std::is_sorted(sorted.begin(), sorted.end(),
                           [&](std::size_t a, std::size_t b) { return place_of(a) < place_of(b); }))
            return false;
        std::stable_sort(sorted.begin(), sorted.end(),
                         [&](std::size_t a, std::size_t b) { return place_of(a) < place_of(b); });
        for (std::size_t i = 0, next = 0; i < order.size(); ++i)
            order[i] = place.count(now.members[i].name.value) != 0 ? sorted[next++] : i;
        auto moved = model::reorder_elements(text_, model::member_list().key, order);
        if (!moved) return tl::unexpected(moved.error());
        text_ = std::move(*moved);
        return true;
    }

  private:
    const model::Module& module_;
    std::string text_;
    const model::Node* list_ = nullptr;
    bool in_line_ = false;
    std::vector<model::ElementChange> changes_;
    std::vector<std::size_t> dropped_;
    std::vector<model::Assignments> added_;
};

Result<void> refuse_layout(const model::Module& module) {
    return refuse(fmt::format("{} is laid out in a way that cannot be edited safely", module.source.file()),
                  "nothing was written; write each member as a [[member]] table of its own, or edit it by hand");
}

/// What the edit was for, read back.
bool is_as_wanted(const model::Space& space, const model::Module& module, const std::string& text,
                  const std::multiset<std::string>& names) {
    const model::Document reread = model::parse_document(text::Source(module.source.file(), text));
    std::vector<text::Finding> findings;
    const model::Manifest manifest = model::read_manifest(reread, findings, model::schemes_of(space.cards));
    std::multiset<std::string> there;
    for (const auto& member : manifest.members) there.insert(member.name.value);
    return reread.valid && there == names && manifest.dependencies.size() == module.manifest.dependencies.size();
}

}  // namespace

model::Member member_of(const members::FoundMember& found, const model::Member* before) {
    model::Member after = before == nullptr ? model::Member{} : *before;
    after.name.value = found.name;
    if (before == nullptr) after.kind = found.kind;
    if (after.summary.empty()) after.summary = found.summary;
    if (!found.tells_parameters) return after;
    after.parameters.clear();
    for (const auto& parameter : found.parameters) {
        if (parameter.name == "...") continue;  // it has no name
        const model::Parameter* known = nullptr;
        if (before != nullptr)
            for (const auto& one : before->parameters)
                if (one.name.value == parameter.name) known = &one;
        after.parameters.push_back(parameter_of(parameter, found.tells_defaults, known));
    }
    return after;
}

Result<Synced> sync_members(const model::Space& space, const model::Module& module, const members::Scan& scan,
                            bool drop, const std::vector<members::FoundMember>& shown, files::Plan& plan) {
    Synced synced;
    const model::Document document = model::parse_document(module.source);
    if (!document.valid || !module.sound)
        return refuse(fmt::format("{} has errors", module.source.file()), "`envar check` shows them");
    Editing editing(module, document);
    const auto& declared = module.manifest.members;
    std::map<std::string, std::size_t> places;
    for (std::size_t i = 0; i < declared.size(); ++i) places.emplace(declared[i].name.value, i);
    std::multiset<std::string> names;
    std::vector<model::Member> fresh;
    std::vector<std::string> in_source;
    for (const auto& found : scan.members) {
        if (!model::is_name(found.name)) {
            synced.unlisted.push_back(found.name);
            continue;
        }
        in_source.push_back(found.name);
        const auto known = places.find(found.name);
        names.insert(found.name);
        if (known == places.end()) {
            fresh.push_back(member_of(found, nullptr));
            synced.added.push_back(found.name);
            continue;
        }
        if (editing.change(known->second, member_of(found, &declared[known->second])))
            synced.changed.push_back(found.name);
    }
    for (std::size_t i = declared.size(); i-- > 0;) {
        if (names.count(declared[i].name.value) != 0) continue;
        if (declared[i].dynamic || !drop) {
            names.insert(declared[i].name.value);
            if (!declared[i].dynamic) synced.absent.push_back(declared[i].name.value);
            continue;
        }
        editing.drop(i);
        synced.dropped.push_back(declared[i].name.value);
    }
    std::reverse(synced.dropped.begin(), synced.dropped.end());
    std::reverse(synced.absent.begin(), synced.absent.end());
    for (const auto& member : shown) {
        if (places.count(member.name) != 0 || names.count(member.name) != 0 || !model::is_name(member.name)) continue;
        names.insert(member.name);
        synced.added.push_back(member.name);
        fresh.push_back(member_of(member, nullptr));
        fresh.back().dynamic = true;
    }
    std::size_t at_least = editing.text().size();
    for (const auto& member : fresh) at_least += least_text + member.name.value.size() + member.summary.size();
    if (at_least > model::largest_document)
        return refuse(fmt::format("the manifest of {} would be larger than {} KiB", module.name(),
                                  model::largest_document / 1024),
                      "say `mode = \"all\"` in its [exports], and list only members that there is more to say about");
    for (const auto& member : fresh) editing.add(member);
    if (auto fine = editing.carry_out(); !fine) return tl::unexpected(fine.error());
    if (!editing.in_line()) {
        const auto moved = editing.order_by(in_source);
        if (!moved) return tl::unexpected(moved.error());
        synced.reordered = *moved;
    }
    if (synced.added.empty() && synced.changed.empty() && synced.dropped.empty() && !synced.reordered) return synced;
    if (editing.in_line() || !is_as_wanted(space, module, editing.text(), names)) {
        auto refused = refuse_layout(module);
        return tl::unexpected(refused.error());
    }
    plan.add({module.home / model::manifest_name, module.source.text(), editing.text(),
              fmt::format("the manifest: {} added, {} changed, {} dropped", synced.added.size(),
                          synced.changed.size(), synced.dropped.size())});
    return synced;
}

}  // namespace envar::life
