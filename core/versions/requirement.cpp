#include "core/versions/requirement.hpp"

#include <algorithm>
#include <utility>

#include "core/versions/scan.hpp"

namespace envar::versions {
namespace {

constexpr std::size_t most_comparators = 64;

class Parser {
  public:
    explicit Parser(std::string_view text) : text_(text) {}

    tl::expected<Requirement, RequirementError> parse() {
        Requirement requirement;
        requirement.text = text_;
        skip_blanks();
        if (text_.substr(at_) == "any" || (take_word("any") && at_end())) return requirement;
        at_ = 0;
        std::size_t total = 0;
        do {
            std::vector<Comparator> group;
            do {
                auto one = comparator();
                if (!one) return tl::unexpected(one.error());
                group.push_back(std::move(*one));
                if (++total > most_comparators) return error("more than 64 comparators", "");
            } while (take(','));
            requirement.alternatives.push_back(std::move(group));
        } while (take('|'));
        if (!at_end())
            return error("unexpected `" + std::string(text_.substr(at_, 1)) + "`",
                         "join comparators by `,` (and) or `|` (or), as in `>=1.1, <2`");
        return requirement;
    }

  private:
    tl::unexpected<RequirementError> error(std::string message, std::string hint) const {
        return tl::unexpected(RequirementError{at_, std::move(message), std::move(hint)});
    }
    void skip_blanks() {
        while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
    }
    bool at_end() {
        skip_blanks();
        return at_ == text_.size();
    }
    bool take(char c) {
        skip_blanks();
        if (at_ >= text_.size() || text_[at_] != c) return false;
        ++at_;
        return true;
    }
    bool take_word(std::string_view word) {
        if (text_.substr(at_, word.size()) != word) return false;
        at_ += word.size();
        return true;
    }

    tl::expected<Comparator, RequirementError> comparator() {
        skip_blanks();
        std::string_view rest = text_.substr(at_);
        const auto op = take_operator(rest);
        if (!op) return missing_operator();
        at_ = text_.size() - rest.size();
        skip_blanks();
        const std::size_t end = std::min(text_.find_first_of(" \t,|", at_), text_.size());
        const std::string_view written = text_.substr(at_, end - at_);
        const auto partial = parse_partial(written);
        if (!partial)
            return error(written.empty() ? "a version is missing" : "`" + std::string(written) + "` is not a version",
                         "write 1, 1.2, 1.2.3 or 1.2.3-rc.1");
        at_ = end;
        return Comparator{*op, partial->version, partial->count};
    }

    tl::unexpected<RequirementError> missing_operator() const {
        const std::size_t end = std::min(text_.find_first_of(" \t,|", at_), text_.size());
        const std::string word(text_.substr(at_, end - at_));
        if (parse_partial(word))
            return error("`" + word + "` has no comparator",
                         "write `=" + word + "`, `>=" + word + "` or `compatible " + word + "`");
        return error(word.empty() ? "a comparator is missing" : "`" + word + "` is not a comparator",
                     "use =, !=, <, <=, >, >= or compatible before a version, or the single word `any`");
    }

    std::string_view text_;
    std::size_t at_ = 0;
};

std::optional<Numbers> next_breaking(const Comparator& c) {
    return behind(c.version.numbers, breaking_count(c.version.numbers, c.count));
}

/// `version` lies before every version, pre-releases too, that has the numbers of `bound`.
bool before_numbers(const Version& version, const std::optional<Numbers>& bound) {
    return !bound || version.numbers < *bound;
}

bool begins_so(const Version& version, const Comparator& c) {
    return std::equal(c.version.numbers.begin(), c.version.numbers.begin() + c.count, version.numbers.begin()) &&
           (c.count < 3 || version.prerelease == c.version.prerelease);
}

/// At least the version, or anything that begins so.
bool from_on(const Version& version, const Comparator& c) {
    return c.count < 3 ? version.numbers >= c.version.numbers : compare(version, c.version) >= 0;
}

bool holds(const Version& version, const Comparator& c) {
    switch (c.op) {
        case Operator::equal:
            return begins_so(version, c);
        case Operator::not_equal:
            return !begins_so(version, c);
        case Operator::less:
            return !from_on(version, c);
        case Operator::less_equal:
            return !from_on(version, c) || begins_so(version, c);
        case Operator::greater:
            return from_on(version, c) && !begins_so(version, c);
        case Operator::greater_equal:
            return from_on(version, c);
        case Operator::compatible:
            return from_on(version, c) && before_numbers(version, next_breaking(c));
    }
    return false;
}

bool names_prerelease_of(const Version& version, const std::vector<Comparator>& group) {
    return std::any_of(group.begin(), group.end(), [&](const Comparator& c) {
        return !c.version.prerelease.empty() && c.version.numbers == version.numbers;
    });
}

}  // namespace

tl::expected<Requirement, RequirementError> parse_requirement(std::string_view text) { return Parser(text).parse(); }

bool meets(const Version& version, const Requirement& requirement, bool prereleases) {
    const bool is_prerelease = !version.prerelease.empty();
    if (requirement.is_any()) return !is_prerelease || prereleases;
    return std::any_of(requirement.alternatives.begin(), requirement.alternatives.end(), [&](const auto& group) {
        if (is_prerelease && !prereleases && !names_prerelease_of(version, group)) return false;
        return std::all_of(group.begin(), group.end(), [&](const Comparator& c) { return holds(version, c); });
    });
}

NamedRequirement split_named_requirement(std::string_view text) {
    const auto trim = [](std::string_view part) {
        while (!part.empty() && (part.front() == ' ' || part.front() == '\t')) part.remove_prefix(1);
        while (!part.empty() && (part.back() == ' ' || part.back() == '\t')) part.remove_suffix(1);
        return std::string(part);
    };
    const std::string whole = trim(text);
    const std::size_t end = whole.find_first_of(" \t<>=!");
    if (end == std::string::npos) return {whole, "any"};
    return {whole.substr(0, end), trim(std::string_view(whole).substr(end))};
}

}  // namespace envar::versions
