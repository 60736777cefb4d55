// Lists by which a host finds its modules: files with a line a module.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "core/search/search_path.hpp"

namespace envar::search {

/// The patterns of a card's [search.index], compiled.
class ListReader {
  public:
    ListReader(const model::SearchIndex& index, std::filesystem::path start_folder);
    ~ListReader();
    ListReader(const ListReader&) = delete;
    ListReader& operator=(const ListReader&) = delete;

    /// What all the lists tell, sorted by name; first those that extend the path. Only the first of each pair is
    /// used.
    [[nodiscard]] std::vector<IndexLine> read(const std::vector<std::pair<std::string, std::string>>& files) const;

  private:
    struct Compiled;
    void read_list(const std::string& index, std::vector<IndexLine>& lines) const;

    std::filesystem::path start_folder_;
    std::unique_ptr<Compiled> compiled_;
};

}  // namespace envar::search
