#include "core/text/glob.hpp"

#include <re2/re2.h>

#include <algorithm>

namespace envar::text {

struct Globs::Compiled {
    std::unique_ptr<re2::RE2> pattern;
    bool whole_path = false;
};

namespace {

std::string as_re2(std::string_view glob, bool sets) {
    std::string out;
    for (std::size_t i = 0; i < glob.size(); ++i) {
        const char c = glob[i];
        const std::size_t close = sets && c == '[' ? glob.find(']', i + 2) : std::string_view::npos;
        if (close != std::string_view::npos) {
            out += '[';
            for (const char inner : glob.substr(i + 1, close - i - 1)) {
                if (inner == '^' || inner == '[' || inner == '\\') out += '\\';
                out += inner;
            }
            out += ']';
            i = close;
        } else if (c == '*') {
            out += "[^/]*";
        } else if (c == '?') {
            out += "[^/]";
        } else {
            out += re2::RE2::QuoteMeta(re2::StringPiece(&c, 1));
        }
    }
    return out;
}

bool full_match(std::string_view text, const re2::RE2& pattern) {
    return re2::RE2::FullMatch(re2::StringPiece(text.data(), text.size()), pattern);
}

}  // namespace

Globs::Globs(const std::vector<std::string>& patterns, bool sets) {
    for (const auto& pattern : patterns) {
        re2::RE2::Options options(re2::RE2::Latin1);  // bytes, so that a name need not be UTF-8
        options.set_log_errors(false);
        const bool whole_path = pattern.find('/') != std::string::npos;
        patterns_.push_back(
            {std::make_unique<re2::RE2>(as_re2(pattern, sets) + (whole_path ? "(/.*)?" : ""), options), whole_path});
    }
}

Globs::Globs(Globs&&) noexcept = default;
Globs& Globs::operator=(Globs&&) noexcept = default;
Globs::~Globs() = default;

bool Globs::match(std::string_view path) const {
    return std::any_of(patterns_.begin(), patterns_.end(), [&](const Compiled& glob) {
        if (!glob.pattern->ok()) return false;
        if (glob.whole_path) return full_match(path, *glob.pattern);
        for (std::size_t at = 0; at <= path.size();) {
            const std::size_t end = std::min(path.find('/', at), path.size());
            if (full_match(path.substr(at, end - at), *glob.pattern)) return true;
            at = end + 1;
        }
        return false;
    });
}

}  // namespace envar::text
