#include "core/files/plan.hpp"

#include <algorithm>

#include "core/files/read.hpp"
#include "core/text/diff.hpp"

namespace envar::files {

bool is_note(const std::filesystem::path& path, const std::filesystem::path& root) {
    return shown_path(path, root).starts_with(std::string(notes_folder) + "/");
}

/// Where the change of the path stands; behind all when there is none.
std::size_t Plan::place_of(const std::filesystem::path& path) const {
    if (places_.size() != changes.size()) {
        places_.clear();
        for (std::size_t i = 0; i < changes.size(); ++i) places_.emplace(changes[i].path.string(), i);
    }
    const auto known = places_.find(path.string());
    return known == places_.end() ? changes.size() : known->second;
}

void Plan::add(Change change) {
    const std::size_t place = place_of(change.path);
    if (place == changes.size()) {
        places_.emplace(change.path.string(), place);
        changes.push_back(std::move(change));
        return;
    }
    Change& same = changes[place];
    same.after = std::move(change.after);
    if (!change.purpose.empty()) same.purpose = std::move(change.purpose);
}

void Plan::drop_idle() {
    std::erase_if(changes, [](const Change& c) { return c.before == c.after; });
    places_.clear();
}

const Change* Plan::find(const std::filesystem::path& path) const {
    const std::size_t place = place_of(path);
    return place == changes.size() ? nullptr : &changes[place];
}

std::string plan_diff(const Plan& plan) {
    std::string out;
    for (const Change& change : plan.changes) {
        if (is_note(change.path, plan.root)) continue;
        const std::string name = shown_path(change.path, plan.root);
        const std::string old_name = change.outside ? name : "a/" + name;
        const std::string new_name = change.outside ? name : "b/" + name;
        std::string diff =
            text::unified_diff(change.before.value_or(""), change.after.value_or(""),
                               change.before ? old_name : "/dev/null", change.after ? new_name : "/dev/null");
        if (diff.empty() && change.before.has_value() != change.after.has_value())
            diff = "--- " + std::string(change.before ? "a/" + name : "/dev/null") + "\n+++ " +
                   std::string(change.after ? "b/" + name : "/dev/null") + "\n";  // an empty file comes or goes
        out += diff;
    }
    return out;
}

}  // namespace envar::files
