#include "core/versions/ranges.hpp"

#include <algorithm>

namespace envar::versions {
namespace {

using Ranges = std::vector<Range>;

Version release(const Version& version) {
    Version out;
    out.numbers = version.numbers;
    out.count = 4;
    return out;
}

/// The first release behind all that begin with the first `count` numbers; nothing behind the largest number.
std::optional<Version> behind(const Version& version, int count) {
    Version out = release(version);
    const auto last = static_cast<std::size_t>(std::clamp(count, 1, 4) - 1);
    if (++out.numbers.at(last) == 0) return std::nullopt;
    std::fill(out.numbers.begin() + static_cast<std::ptrdiff_t>(last) + 1, out.numbers.end(), 0);
    return out;
}

Ranges from(const std::optional<Version>& least) { return least ? Ranges{{*least, std::nullopt}} : Ranges{}; }

Ranges below(const std::optional<Version>& limit) {
    Range range{release({}), limit};
    if (limit && range.least.numbers == limit->numbers) return {};
    return {range};
}

Ranges ranges_of(const Comparator& comparator) {
    const Version first = release(comparator.version);
    const auto next = behind(first, comparator.count);
    switch (comparator.op) {
        case Operator::equal:
            return {{first, next}};
        case Operator::not_equal: {
            Ranges out = below(first);
            for (const Range& range : from(next)) out.push_back(range);
            return out;
        }
        case Operator::less:
            return below(first);
        case Operator::less_equal:
            return below(next);
        case Operator::greater:
            return from(next);
        case Operator::greater_equal:
            return from(first);
        case Operator::compatible:
            return {{first, behind(first, first.numbers[0] == 0 && comparator.count > 1 ? 2 : 1)}};
    }
    return {};
}

bool is_less(const std::optional<Version>& a, const std::optional<Version>& b) {
    if (!a) return false;
    return !b || a->numbers < b->numbers;
}

Ranges both(const Ranges& a, const Ranges& b) {
    Ranges out;
    for (const Range& x : a)
        for (const Range& y : b) {
            Range range{x.least.numbers < y.least.numbers ? y.least : x.least,
                        is_less(x.limit, y.limit) ? x.limit : y.limit};
            if (is_less(range.least, range.limit)) out.push_back(range);
        }
    return out;
}

}  // namespace

std::vector<Range> ranges_of(const Requirement& requirement) {
    if (requirement.is_any()) return {{release({}), std::nullopt}};
    Ranges all;
    for (const auto& alternative : requirement.alternatives) {
        Ranges one = {{release({}), std::nullopt}};
        for (const Comparator& comparator : alternative) one = both(one, ranges_of(comparator));
        all.insert(all.end(), one.begin(), one.end());
    }
    std::sort(all.begin(), all.end(),
              [](const Range& a, const Range& b) { return a.least.numbers < b.least.numbers; });
    Ranges joined;
    for (const Range& range : all) {
        if (joined.empty() || is_less(joined.back().limit, range.least)) {
            joined.push_back(range);
        } else if (is_less(joined.back().limit, range.limit)) {
            joined.back().limit = range.limit;
        }
    }
    return joined;
}

std::string short_text(const Version& version) {
    std::size_t count = version.numbers.size();
    while (count > 1 && version.numbers.at(count - 1) == 0) --count;
    std::string out;
    for (std::size_t i = 0; i < count; ++i) out += (i == 0 ? "" : ".") + std::to_string(version.numbers.at(i));
    return out;
}

}  // namespace envar::versions
