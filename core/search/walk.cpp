#include "core/search/walk.hpp"

#include <re2/re2.h>

#include <algorithm>

#include "core/files/read.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;

constexpr int deepest_group = 16;
constexpr std::size_t largest_file = std::size_t{1} << 20U;

class Walker {
  public:
    explicit Walker(const model::SearchWalk& walk) : walk_(walk), pattern_("(?m)" + walk.name, re2::RE2::Quiet) {}

    std::vector<WalkedModule> run(const fs::path& entry) {
        go(entry, "", 0);
        return std::move(found_);
    }

  private:
    void go(const fs::path& folder, const std::string& below, int depth) {
        auto names = files::list_folder(folder);
        std::sort(names.begin(), names.end());
        for (const auto& name : names) {
            const fs::path inner = folder / name;
            if (name.front() == '.' || !files::is_folder(inner)) continue;
            if (!is_group(walk_, inner)) {
                found_.push_back({name_of(inner, name), below + name, depth > 0});
            } else if (depth < deepest_group) {
                go(inner, below + name + "/", depth + 1);
            }
        }
    }

    [[nodiscard]] std::string name_of(const fs::path& folder, const std::string& otherwise) const {
        if (walk_.file.empty() || walk_.name.empty() || !pattern_.ok() || pattern_.NumberOfCapturingGroups() < 1)
            return otherwise;
        const auto text = files::read_file(folder / walk_.file, largest_file);
        if (!text) return otherwise;
        re2::StringPiece rest(*text);
        std::string name;
        std::string last;
        while (re2::RE2::FindAndConsume(&rest, pattern_, &name)) last = name;
        return last.empty() ? otherwise : last;
    }

    const model::SearchWalk& walk_;
    re2::RE2 pattern_;
    std::vector<WalkedModule> found_;
};

}  // namespace

bool is_group(const model::SearchWalk& walk, const fs::path& folder) {
    return std::any_of(walk.groups.begin(), walk.groups.end(),
                       [&](const std::string& mark) { return files::is_file(folder / mark); });
}

std::vector<WalkedModule> walk_entry(const model::SearchWalk& walk, const fs::path& entry) {
    return Walker(walk).run(entry);
}

}  // namespace envar::search
