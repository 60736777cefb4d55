// Texts by number: each text is kept once, and two are equal when their numbers are.
#pragma once

#include <cstdint>
#include <memory>
#include <string_view>
#include <vector>

namespace envar::model {

using Id = std::uint32_t;
inline constexpr Id no_id = UINT32_MAX;

class TextPool {
  public:
    TextPool();

    /// The text's number; numbers rise from 0 in the order in which texts come. At most 2^32 - 2 texts.
    Id add(std::string_view text);
    /// Adds all texts of another pool, which is empty then; gives the numbers here by the numbers there.
    std::vector<Id> take(TextPool&& other);
    [[nodiscard]] Id find(std::string_view text) const;  // no_id: it is not in it
    /// Stays good as long as the pool lives, also when texts are added or the pool is moved.
    [[nodiscard]] std::string_view text(Id id) const { return texts_[id]; }
    [[nodiscard]] std::size_t size() const { return texts_.size(); }

  private:
    struct Slot {
        std::uint32_t hash;  // its upper half
        Id id;               // no_id: free
    };
    [[nodiscard]] std::size_t slot_of(std::string_view text, std::uint64_t hash) const;
    std::string_view keep(std::string_view text);
    void resize(std::size_t slots);
    template <class Keep>
    Id add(std::string_view text, std::uint64_t hash, Keep kept);

    std::vector<Slot> slots_;  // open addressing; a power of two, at most half full
    std::vector<std::string_view> texts_;
    std::vector<std::uint64_t> hashes_;  // of texts_
    std::vector<std::unique_ptr<char[]>> blocks_;
    std::size_t left_ = 0;  // bytes free at `free_`
    char* free_ = nullptr;
};

}  // namespace envar::model
