#include "core/members/lexer.hpp"

#include <algorithm>
#include <bit>
#include <cstring>

#include "core/members/lexing.hpp"

namespace envar::members {
namespace {

using Tables = Grammar::Tables;

constexpr std::size_t farthest_frame = 64;                   // that a closing word may belong to
constexpr std::size_t longest_head = std::size_t{4} << 10U;  // of a block

}  // namespace

Lexed Lexer::run() {
    if (text_.starts_with("\xEF\xBB\xBF")) at_ = 3;
    if (text_.substr(at_).starts_with("#!")) {
        const std::size_t end = std::min(text_.find('\n'), text_.size());
        blank(at_, end);
        at_ = end;
    }
    while (at_ < text_.size()) step();
    return std::move(out_);
}

void Lexer::blank(std::size_t begin, std::size_t end) {
    end = std::min(end, text_.size());
    while (begin < end) {
        const void* found = std::memchr(&out_.code[begin], '\n', end - begin);
        const std::size_t stop =
            found == nullptr ? end : static_cast<std::size_t>(static_cast<const char*>(found) - out_.code.data());
        std::memset(&out_.code[begin], ' ', stop - begin);
        if (stop > begin && stop < end && text_[stop - 1] == '\r') out_.code[stop - 1] = '\r';
        begin = stop + 1;
    }
}

void Lexer::begin_statement() {
    if (tables_.begins[static_cast<unsigned char>(text_[at_])].comment && begins_comment()) return;
    // A block may stand in the line below its head.
    const auto& marks = tables_.marks[static_cast<unsigned char>(text_[at_])];
    const bool opens = !is_word_at(at_) && std::any_of(marks.begin(), marks.end(), [&](const auto& mark) {
        return mark.opens && starts(at_, mark.text);
    });
    if (!opens || (ended_ && !is_first_in_block())) head_ = at_;
    pending_ = ended_ = false;
    Statement statement;
    statement.begin = static_cast<std::uint32_t>(at_);
    statement.nested = !frames_.empty() || (tables_.indented && at_ > 0 && is_blank(text_[at_ - 1]));
    if (!frames_.empty()) statement.block = frames_.back().number;
    if (!frames_.empty() && separator() != 0) {
        statement.owner = frames_.back().head;
        statement.owner_end = frames_.back().opens;
    }
    out_.statements.push_back(statement);
}

bool Lexer::is_first_in_block() const {
    if (frames_.empty() || frames_.back().block == code_block) return false;
    std::size_t before = at_;
    while (before > 0 && is_space(text_[before - 1])) --before;
    return before == frames_.back().opens + std::size_t{1};
}

bool Lexer::is_continued(std::size_t line_end) const {
    std::size_t at = line_end;
    while (at > 0 && out_.code[at - 1] == '\\') --at;
    return (line_end - at) % 2 != 0;
}

void Lexer::end_line() {
    ++at_;
    if (!documents_.empty()) skip_documents();
    if (is_continued(at_ - 1)) return;
    if (tables_.indented && frames_.empty()) end_logical_line();
    if (hidden_ == 0) pending_ = true;
}

void Lexer::end_logical_line() {
    if (body_indent_ == nowhere && tables_.indented_head && head_ < at_ && !pending_) {
        const auto head = std::string_view(out_.code).substr(head_, at_ - head_);
        if (re2::RE2::PartialMatch(piece(head), *tables_.indented_head)) {
            body_indent_ = column(head_);
            ++hidden_;
        }
    }
    if (body_indent_ == nowhere) return;
    std::size_t next = at_;
    while (next < text_.size() && is_space(text_[next])) ++next;
    if (next >= text_.size() || starts(next, tables_.comment)) return;  // says nothing
    if (column(next) > body_indent_) return;
    body_indent_ = nowhere;
    --hidden_;
    ended_ = true;
}

std::size_t Lexer::column(std::size_t at) const {
    const std::size_t line = text_.rfind('\n', at == 0 ? 0 : at - 1);
    std::size_t begin = line == nowhere || at == 0 ? 0 : line + 1, column = 0;
    for (; begin < at && is_blank(text_[begin]); ++begin)
        column = text_[begin] == '\t' ? (column / 8 + 1) * 8 : column + 1;
    return column;
}

std::size_t Lexer::next_of_meaning(std::size_t at) {
    if (const Letters* hidden = hidden_letters()) return next_among<true>(*hidden, !documents_.empty(), at);
    const bool lines = hidden_ == 0 || !documents_.empty() || (tables_.indented && frames_.empty());
    return next_among<false>(tables_.letters, lines, at);
}

template <bool with_depth>
std::size_t Lexer::next_among(const Letters& letters, bool lines, std::size_t at) {
    std::size_t begin = at - at % Sight::width;
    std::uint64_t still = ~std::uint64_t{0} << (at - begin);  // to be looked at
    std::uint64_t in_word = 0;                                // the word that goes on from what was seen before
    for (; begin < text_.size(); begin += Sight::width, still = ~std::uint64_t{0}) {
        look(letters, begin);
        const std::uint64_t inner = ((sight_.words & still) << 1U) | in_word;
        std::uint64_t places =
            (sight_.marks | (lines ? sight_.newlines : 0) | (sight_.special_words & ~inner)) & still;
        in_word = sight_.words >> (Sight::width - 1);
        for (; places != 0; places &= places - 1) {
            const auto bit = static_cast<std::size_t>(std::countr_zero(places));
            const std::size_t place = begin + bit;
            if ((sight_.words >> bit & 1U) != 0) {
                std::size_t end = place + static_cast<std::size_t>(std::countr_one(sight_.words >> bit));
                while (end >= begin + Sight::width && is_word_at(end)) ++end;
                if (means_something(place, end)) return place;
                continue;
            }
            if (!with_depth) return place;
            const Letter letter = letters[text_[place]];
            if (letter == Letter::deeper) {
                ++frames_.back().deeper;
            } else if (letter == Letter::shallower && frames_.back().deeper > 0) {
                --frames_.back().deeper;
            } else {
                return place;
            }
        }
    }
    return text_.size();
}

bool Lexer::special() {
    const char c = text_[at_];
    const auto& begins = tables_.begins[static_cast<unsigned char>(c)];
    if (closes_code()) return true;
    if (begins.plain && plain()) return true;
    if (begins.raw_line && raw_line()) return true;
    if (is_word_at(at_)) return word();
    if (begins.comment && comment()) return true;
    if (begins.long_string)
        for (const auto& form : tables_.long_forms)
            if (!form.comment && take_long_form(form)) return true;
    if (begins.document && document()) return true;
    if (begins.quote && quote()) return true;
    if (begins.mark && mark()) return true;
    if (c == '\\' && tables_.escapes_in_code) {
        at_ += at_ + 1 < text_.size() && text_[at_ + 1] != '\n' ? 2 : 1;
        return true;
    }
    return false;
}

bool Lexer::closes_code() {
    if (frames_.empty() || frames_.back().block != code_block || !starts(at_, frames_.back().close)) return false;
    at_ += frames_.back().close.size();
    drop_frame();
    return true;
}

bool Lexer::plain() {
    for (const auto& one : tables_.plain) {
        re2::StringPiece found;
        if (one.first != text_[at_] || !one.opening.admits(text_.substr(at_)) ||
            !one.pattern->Match(piece(text_), at_, text_.size(), re2::RE2::ANCHOR_START, &found, 1) || found.empty())
            continue;
        at_ += found.size();
        return true;
    }
    return false;
}

bool Lexer::raw_line() {
    const auto& lines = tables_.raw_lines;
    if (std::none_of(lines.begin(), lines.end(), [&](const auto& mark) { return starts(at_, mark); })) return false;
    std::size_t line = at_;
    while (line > 0 && is_blank(text_[line - 1])) --line;
    if (line > 0 && text_[line - 1] != '\n') return false;
    if (hidden_ > 0) {  // no block hides such a line
        Statement statement;
        statement.begin = static_cast<std::uint32_t>(at_);
        statement.nested = statement.inside = true;
        out_.statements.push_back(statement);
    }
    ++at_;
    for (;;) {
        std::size_t at = at_;
        while (at < text_.size() && !tables_.raw_stops[static_cast<unsigned char>(text_[at])]) ++at;
        at_ = at;
        if (at == text_.size()) break;
        if (text_[at] == '\n') {
            const std::size_t end = at - (text_[at - 1] == '\r' ? 1 : 0);
            if (text_[end - 1] != '\\') break;
            ++at_;
        } else if (std::none_of(tables_.long_forms.begin(), tables_.long_forms.end(),
                                [this](const auto& form) { return form.comment && take_long_form(form); })) {
            ++at_;
        }
    }
    return true;
}

bool Lexer::word() {
    const std::size_t end = end_of_word(at_);
    if (!means_something(at_, end)) {
        at_ = end;
        return true;
    }
    const std::string_view now = text_.substr(at_, end - at_);
    const auto& marks = tables_.marks[static_cast<unsigned char>(now.front())];
    // A word may close several kinds of blocks: the one at hand comes first.
    const auto own = std::find_if(marks.begin(), marks.end(), [&](const auto& mark) { return mark.text == now; });
    for (const bool at_hand : {true, false})
        for (auto mark_at = own; mark_at != marks.end(); ++mark_at)
            if (const auto& mark = *mark_at;
                mark.number == own->number &&
                at_hand == (!mark.opens && !frames_.empty() && frames_.back().block == mark.block) &&
                !is_part_of_name(end) && (!mark.whole_word || is_whole(at_, end)) && take_mark(mark, end))
                return true;
    for (const auto& quote : tables_.word_quotes)
        if (quote.word == now && word_quote(quote, end)) return true;
    // `r"…"`: a quote that begins with letters.
    for (const auto& form : tables_.long_forms)
        if (form.open.front() == now.front() && take_long_form(form)) return true;
    if (tables_.begins[static_cast<unsigned char>(now.front())].document && document()) return true;
    const bool separates =
        hidden_ == 0 &&
        std::find(tables_.after_words.begin(), tables_.after_words.end(), now) != tables_.after_words.end() &&
        is_whole(at_, end) && begins_command(at_);
    at_ = end;
    if (separates) pending_ = ended_ = true;
    return true;
}

bool Lexer::is_part_of_name(std::size_t end) const {
    if (tables_.commands) return false;
    const char before = at_ == 0 ? '\n' : text_[at_ - 1];
    if (before == '$' || before == '@' || before == '%' || before == '.')
        return !(before == '.' && at_ >= 2 && text_[at_ - 2] == '.');
    return before == ':' && end < text_.size();
}

bool Lexer::is_whole(std::size_t begin, std::size_t end) const {
    return (begin == 0 || is_space(text_[begin - 1]) || is_operator(text_[begin - 1])) &&
           (end >= text_.size() || is_space(text_[end]) || is_operator(text_[end]));
}

bool Lexer::begins_command(std::size_t at) const {
    if (!tables_.commands) return true;
    std::size_t before = at;
    while (before > 0 && is_blank(out_.code[before - 1]) && before > command_floor_) --before;
    if (before <= command_floor_) return true;
    const char last = out_.code[before - 1];
    if (last == '\n') return !is_continued(before - 1);
    if (tables_.after_marks.find(last) != std::string::npos) return true;
    std::size_t begin = before;
    while (begin > 0 && !is_space(out_.code[begin - 1]) && !is_operator(out_.code[begin - 1])) --begin;
    const auto word = std::string_view(out_.code).substr(begin, before - begin);
    return std::find(tables_.after_words.begin(), tables_.after_words.end(), word) != tables_.after_words.end();
}

bool Lexer::mark() {
    const bool passes_over = hidden_letters() != nullptr;
    for (const auto& mark : tables_.marks[static_cast<unsigned char>(text_[at_])])
        if (!(passes_over && mark.passed_over && mark.block != frames_.back().block) &&
            (mark.text.size() == 1 || starts(at_, mark.text)) &&
            (!mark.whole_word || is_whole(at_, at_ + mark.text.size())) && take_mark(mark, at_ + mark.text.size()))
            return true;
    return false;
}

/// Whether the word at hand opens no block, by what follows.
bool Lexer::opens_nothing(const re2::RE2& unless) const {
    constexpr std::size_t longest = 1024;
    const std::string_view rest = text_.substr(at_, longest);
    return unless.Match(piece(rest), 0, rest.size(), re2::RE2::ANCHOR_START, nullptr, 0);
}

/// Whether the command at hand, within a hidden block, is the head of another one: `function inner {`.
bool Lexer::has_head(const re2::RE2& pattern) const {
    const std::size_t few = std::min(at_, longest_head);
    std::string_view before = std::string_view(out_.code).substr(at_ - few, few);
    before.remove_prefix(before.find_last_of("\n;") + 1);  // none: all of it
    while (!before.empty() && is_space(before.front())) before.remove_prefix(1);
    return re2::RE2::PartialMatch(piece(before), pattern);
}

bool Lexer::take_mark(const Tables::BlockMark& mark, std::size_t end) {
    const bool by_command = mark.whole_word && !tables_.blocks[mark.block].anywhere;
    if (!mark.opens) {
        const bool is_word = is_word_at(at_);
        std::size_t frame = frames_.size();
        const std::size_t floor = frame > farthest_frame && is_word ? frame - farthest_frame : 0;
        while (frame > floor && frames_[frame - 1].block != mark.block && is_word &&
               frames_[frame - 1].block != code_block)
            --frame;
        if (frame <= floor || frames_[frame - 1].block != mark.block) return false;
        if (by_command && !begins_command(at_)) return false;
        while (frames_.size() >= frame) drop_frame();
        at_ = end;
        const auto hides = tables_.blocks[mark.block].hides;
        if (hidden_ == 0 &&
            (is_word || (mark.text == "}" && hides != model::BlockHides::all && hides != model::BlockHides::others)))
            pending_ = ended_ = true;
        return true;
    }
    const auto& block = tables_.blocks[mark.block];
    if (!may_open(mark.text)) return false;
    const bool by_head = by_command && !begins_command(at_);
    if (block.unless && !by_head && opens_nothing(*block.unless)) return false;
    bool hides = block.hides == model::BlockHides::all;
    if (hidden_ == 0 && block.head &&
        (by_head || block.hides == model::BlockHides::bodies || block.hides == model::BlockHides::others)) {
        // Of a long head, such as one with blocks in it, the end.
        const std::size_t begin = std::max(std::min(head_, at_), at_ - std::min(at_, longest_head));
        const bool matches =
            re2::RE2::PartialMatch(piece(std::string_view(out_.code).substr(begin, at_ - begin)), *block.head);
        if (by_head && !matches) return false;
        hides = matches == (block.hides == model::BlockHides::bodies) || hides;
    } else if (by_head && !(hidden_ > 0 && block.head && has_head(*block.head))) {
        return false;
    }
    const auto head = static_cast<std::uint32_t>(std::min(head_, at_)), opens = static_cast<std::uint32_t>(at_);
    std::uint32_t number = frames_.empty() ? 0 : frames_.back().number;
    if (hidden_ == 0 && !hides) {
        out_.blocks.push_back({head, opens, number});
        number = static_cast<std::uint32_t>(out_.blocks.size());
    }
    frames_.push_back({mark.block, hides, mark.block, {}, head, opens, number, 0});
    if (hides) ++hidden_;
    at_ = end;
    if (hidden_ == 0) pending_ = ended_ = true;
    return true;
}

Lexed lex(std::string_view text, const Grammar& grammar, bool all_comments) {
    return Lexer(text, grammar.tables(), all_comments).run();
}

}  // namespace envar::members
