#include "core/files/plan.hpp"

#include <algorithm>

#include "core/files/read.hpp"
#include "core/text/diff.hpp"

namespace envar::files {

bool is_note(const std::filesystem::path& path, const std::filesystem::path& root) {
    return shown_path(path, root).starts_with(std::string(notes_folder) + "/");
}

void Plan::add(Change change) {
    const auto same =
        std::find_if(changes.begin(), changes.end(), [&](const Change& c) { return c.path == change.path; });
    if (same == changes.end()) {
        changes.push_back(std::move(change));
        return;
    }
    same->after = std::move(change.after);
    if (!change.purpose.empty()) same->purpose = std::move(change.purpose);
}

void Plan::drop_idle() {
    std::erase_if(changes, [](const Change& c) { return c.before == c.after; });
}

const Change* Plan::find(const std::filesystem::path& path) const {
    const auto found = std::find_if(changes.begin(), changes.end(), [&](const Change& c) { return c.path == path; });
    return found == changes.end() ? nullptr : &*found;
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
