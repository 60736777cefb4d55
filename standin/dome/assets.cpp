#include "standin/dome/assets.hpp"

#include <algorithm>

namespace dome {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t most_assets = 100000;

template <class Iterator>
void scan(const fs::path& module_folder, const AssetFolder& assets, std::vector<std::string>& found) {
    std::error_code error;
    for (Iterator it(module_folder / assets.folder, error), end; !error && it != end; it.increment(error)) {
        if (it->is_symlink(error) || !it->is_regular_file(error) || found.size() >= most_assets) continue;
        if (!it->path().filename().string().ends_with(assets.extension)) continue;
        found.push_back(it->path().lexically_relative(module_folder).generic_string());
    }
}

}  // namespace

std::vector<std::string> scan_assets(const fs::path& module_folder, const Descriptor& descriptor,
                                     std::vector<Problem>& problems) {
    std::vector<std::string> found;
    for (const AssetFolder& assets : descriptor.assets) {
        std::error_code error;
        if (!fs::is_directory(module_folder / assets.folder, error)) {
            problems.push_back({descriptor.module, "the asset folder `" + assets.folder + "` is not there"});
        } else if (assets.recursive) {
            scan<fs::recursive_directory_iterator>(module_folder, assets, found);
        } else {
            scan<fs::directory_iterator>(module_folder, assets, found);
        }
    }
    std::sort(found.begin(), found.end());
    found.erase(std::unique(found.begin(), found.end()), found.end());
    return found;
}

}  // namespace dome
