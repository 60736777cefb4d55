#include "core/emit/block.hpp"

#include <fmt/format.h>

#include "core/files/digest.hpp"
#include "core/files/plan.hpp"

namespace envar::emit {
namespace {

std::string begin_words(std::string_view name) { return fmt::format("{} {}, ", files::block_mark, name); }
std::string end_words(std::string_view name) {
    return fmt::format("{} {} {}", files::block_mark, name, files::block_ends);
}

/// The begin of the line that holds the only place of `words`; npos: there is none, or there are several.
struct Mark {
    std::size_t count = 0;
    std::size_t words = 0;
    std::size_t line = 0;
    std::size_t behind = 0;  // the next line
};

Mark find_mark(std::string_view content, const std::string& words) {
    Mark mark;
    for (std::size_t at = content.find(words); at != std::string_view::npos; at = content.find(words, at + 1)) {
        if (++mark.count > 1) break;
        mark.words = at;
        const std::size_t before = at == 0 ? std::string_view::npos : content.rfind('\n', at - 1);
        mark.line = before == std::string_view::npos ? 0 : before + 1;
        const std::size_t end = content.find('\n', at);
        mark.behind = end == std::string_view::npos ? content.size() : end + 1;
    }
    return mark;
}

std::string comment(const model::CardDialect& dialect, const std::string& words) {
    return dialect.comment + " " + words + (dialect.comment_end.empty() ? "" : " " + dialect.comment_end) + "\n";
}

}  // namespace

text::Result<Block> find_block(std::string_view content, std::string_view name) {
    const Mark begin = find_mark(content, begin_words(name));
    const Mark end = find_mark(content, end_words(name));
    Block block;
    if (begin.count == 0 && end.count == 0) return block;
    if (begin.count != 1 || end.count != 1 || end.line < begin.behind)
        return text::fail(text::FailureKind::answer_is_no,
                          fmt::format("the marks of Envar's block `{}` do not pair up", name),
                          "there must be one line that begins it and one behind that ends it; mend or remove them");
    block.begin = begin.line;
    block.end = end.behind;
    block.body = content.substr(begin.behind, end.line - begin.behind);
    const std::string digest(content.substr(begin.words + begin_words(name).size(), 64));
    block.state = files::sha256(block.body) == digest ? BlockState::untouched : BlockState::edited;
    return block;
}

text::Result<std::string> with_block(const std::string& content, std::string_view name, std::string_view body,
                                     const model::CardDialect& dialect) {
    const auto found = find_block(content, name);
    if (!found) return tl::unexpected(found.error());
    const std::string block = comment(dialect, fmt::format("{}{}: rewritten at will, what lies around it is yours",
                                                           begin_words(name), files::sha256(body))) +
                              std::string(body) + comment(dialect, end_words(name));
    if (found->state != BlockState::absent)
        return content.substr(0, found->begin) + block + content.substr(found->end);
    std::string out = content;
    if (!out.empty() && out.back() != '\n') out += '\n';
    if (!out.empty()) out += '\n';
    return out + block;
}

text::Result<std::string> without_block(const std::string& content, std::string_view name) {
    const auto found = find_block(content, name);
    if (!found) return tl::unexpected(found.error());
    if (found->state == BlockState::absent) return content;
    std::string head = content.substr(0, found->begin);
    if (head.ends_with("\n\n") && found->end == content.size()) head.pop_back();
    return head + content.substr(found->end);
}

}  // namespace envar::emit
