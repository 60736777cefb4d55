#include "core/model/text_pool.hpp"

#include <algorithm>
#include <functional>

namespace envar::model {
namespace {

constexpr std::size_t block_size = std::size_t{64} << 10U;

}  // namespace

TextPool::TextPool() : slots_(64, no_id) {}

std::size_t TextPool::slot_of(std::string_view text) const {
    const std::size_t mask = slots_.size() - 1;
    std::size_t at = std::hash<std::string_view>{}(text)&mask;
    while (slots_[at] != no_id && texts_[slots_[at]] != text) at = (at + 1) & mask;
    return at;
}

Id TextPool::find(std::string_view text) const { return slots_[slot_of(text)]; }

Id TextPool::add(std::string_view text) {
    std::size_t at = slot_of(text);
    if (slots_[at] != no_id) return slots_[at];
    if (2 * (texts_.size() + 1) > slots_.size()) {
        grow();
        at = slot_of(text);
    }
    slots_[at] = static_cast<Id>(texts_.size());
    texts_.push_back(keep(text));
    return slots_[at];
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

void TextPool::grow() {
    slots_.assign(slots_.size() * 2, no_id);
    for (Id id = 0; id < texts_.size(); ++id) slots_[slot_of(texts_[id])] = id;
}

}  // namespace envar::model
