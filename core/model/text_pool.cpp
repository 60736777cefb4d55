#include "core/model/text_pool.hpp"

#include <algorithm>
#include <iterator>

#include "core/text/hash.hpp"

namespace envar::model {
namespace {

constexpr std::size_t block_size = std::size_t{64} << 10U;

std::uint32_t upper(std::uint64_t hash) { return static_cast<std::uint32_t>(hash >> 32U); }

}  // namespace

TextPool::TextPool() : slots_(64, Slot{0, no_id}) {}

std::size_t TextPool::slot_of(std::string_view text, std::uint64_t hash) const {
    const std::size_t mask = slots_.size() - 1;
    std::size_t at = hash & mask;
    while (slots_[at].id != no_id && (slots_[at].hash != upper(hash) || texts_[slots_[at].id] != text))
        at = (at + 1) & mask;
    return at;
}

Id TextPool::find(std::string_view text) const { return slots_[slot_of(text, text::hash_of(text))].id; }

template <class Keep>
Id TextPool::add(std::string_view text, std::uint64_t hash, Keep kept) {
    std::size_t at = slot_of(text, hash);
    if (slots_[at].id != no_id) return slots_[at].id;
    if (2 * (texts_.size() + 1) > slots_.size()) {
        resize(2 * slots_.size());
        at = slot_of(text, hash);
    }
    slots_[at] = {upper(hash), static_cast<Id>(texts_.size())};
    texts_.push_back(kept(text));
    hashes_.push_back(hash);
    return slots_[at].id;
}

Id TextPool::add(std::string_view text) {
    return add(text, text::hash_of(text), [&](std::string_view one) { return keep(one); });
}

std::vector<Id> TextPool::take(TextPool&& other) {
    std::vector<Id> ids(other.size());
    for (Id id = 0; id < other.size(); ++id)
        ids[id] = add(other.texts_[id], other.hashes_[id], [](std::string_view one) { return one; });
    std::move(other.blocks_.begin(), other.blocks_.end(), std::back_inserter(blocks_));
    other = TextPool();
    return ids;
}

std::string_view TextPool::keep(std::string_view text) {
    if (text.size() > left_) {
        left_ = std::max(block_size, text.size());
        blocks_.push_back(std::make_unique<char[]>(left_));
        free_ = blocks_.back().get();
    }
    char* start = free_;
    std::copy(text.begin(), text.end(), start);
    free_ += text.size();
    left_ -= text.size();
    return {start, text.size()};
}

void TextPool::resize(std::size_t slots) {
    slots_.assign(slots, Slot{0, no_id});
    const std::size_t mask = slots - 1;
    for (Id id = 0; id < texts_.size(); ++id) {
        std::size_t at = hashes_[id] & mask;
        while (slots_[at].id != no_id) at = (at + 1) & mask;
        slots_[at] = {upper(hashes_[id]), id};
    }
}

}  // namespace envar::model
