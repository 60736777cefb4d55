#include "core/files/tree_digest.hpp"

#include "core/files/digest.hpp"
#include "core/files/read.hpp"

namespace envar::files {
namespace {

constexpr std::size_t largest_file = std::size_t{256} << 20U;
constexpr int deepest = 32;

using PassesOver = std::function<bool(const std::string&, const std::filesystem::path&)>;

bool add_folder(std::string& all, const std::filesystem::path& folder, const std::string& shown, int depth,
                const PassesOver& passes_over) {
    const auto listing = read_folder(folder);
    if (!listing || depth > deepest) return false;
    for (const auto& entry : listing->entries) {
        const auto path = folder / entry.name;
        if (entry.name.front() == '.' || link_target(path)) continue;
        if (entry.is_folder) {
            if (passes_over(entry.name, path)) continue;
            if (!add_folder(all, path, shown + entry.name + "/", depth + 1, passes_over)) return false;
        } else if (is_file(path)) {
            const auto content = read_file(path, largest_file);
            if (!content) return false;
            all += sha256(*content) + "  " + shown + entry.name + "\n";
        }
    }
    return true;
}

}  // namespace

std::string tree_digest(const std::filesystem::path& folder, const PassesOver& passes_over) {
    std::string all;
    return add_folder(all, folder, "", 0, passes_over) ? sha256(all) : std::string();
}

}  // namespace envar::files
