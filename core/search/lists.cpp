#include "core/search/lists.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>

#include "core/files/read.hpp"
#include "core/text/pattern.hpp"

namespace envar::search {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_index = std::size_t{1} << 20U;

}  // namespace

struct ListReader::Compiled {
    explicit Compiled(const model::SearchIndex& index)
        : line("(?m)" + index.pattern, re2::RE2::Quiet),
          extends("(?m)" + index.extends, re2::RE2::Quiet),
          has_extends(!index.extends.empty() && extends.ok()) {}
    re2::RE2 line;
    re2::RE2 extends;
    bool has_extends;
};

ListReader::ListReader(const model::SearchIndex& index, fs::path start_folder)
    : start_folder_(std::move(start_folder)), compiled_(std::make_unique<Compiled>(index)) {}

ListReader::~ListReader() = default;

std::vector<IndexLine> ListReader::read(const std::vector<std::pair<std::string, std::string>>& files) const {
    std::vector<IndexLine> lines;
    for (const auto& file : files) read_list(file.first, lines);
    std::stable_sort(lines.begin(), lines.end(),
                     [](const IndexLine& a, const IndexLine& b) { return a.name < b.name; });
    return lines;
}

void ListReader::read_list(const std::string& index, std::vector<IndexLine>& lines) const {
    const auto content = files::read_file(start_folder_ / index, largest_index);
    if (!content || !compiled_->line.ok()) return;
    const std::string folder = fs::path(index).parent_path().string();
    if (compiled_->has_extends && re2::RE2::PartialMatch(*content, compiled_->extends))
        lines.push_back({"", "", folder, true});
    std::vector<re2::StringPiece> parts(static_cast<std::size_t>(compiled_->line.NumberOfCapturingGroups()) + 1);
    const auto group = [&](const char* name) {
        const std::size_t number = text::group_number(compiled_->line, name);
        return number == 0 ? std::string() : parts[number].as_string();
    };
    const re2::StringPiece whole(*content);
    for (std::size_t from = 0; from <= content->size();) {
        if (!compiled_->line.Match(whole, from, content->size(), re2::RE2::UNANCHORED, parts.data(),
                                   static_cast<int>(parts.size())))
            return;
        const std::string file = group("file");
        const std::string name = group("name");
        if (!name.empty())
            lines.push_back({name, group("version"), file.empty() ? index : fmt::format("{}/{}", folder, file)});
        from =
            static_cast<std::size_t>(parts[0].data() - content->data()) + std::max<std::size_t>(1, parts[0].size());
    }
}

}  // namespace envar::search
