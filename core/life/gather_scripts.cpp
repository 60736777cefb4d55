// What loose scripts hold: functions with what they call, further statements, duplicates.
#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <bitset>
#include <set>
#include <sstream>
#include <unordered_set>

#include "core/files/read.hpp"
#include "core/life/gather.hpp"
#include "core/life/gather_text.hpp"
#include "core/members/definitions.hpp"
#include "core/text/diff.hpp"
#include "core/text/glob.hpp"
#include "core/text/hash.hpp"
#include "core/text/pattern.hpp"
#include "core/text/side_by_side.hpp"

namespace envar::life {
namespace {

namespace fs = std::filesystem;
using text::refuse;
using text::Result;

constexpr std::size_t longest_first_line = 256;
constexpr std::size_t largest_script = std::size_t{16} << 20U;
constexpr std::size_t most_files = 200'000;

bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == '\f'; }

/// Which characters names are made of: letters, digits, and what else functions have in theirs.
class Words {
  public:
    explicit Words(const std::vector<LooseFunction>& functions) {
        for (int c = 0; c < 256; ++c)
            letters_[static_cast<std::size_t>(c)] =
                (c >= '0' && c <= '9') || (c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z') || c == '_' || c >= 0x80;
        plain_ = letters_;
        for (const auto& function : functions)
            for (const char c : function.name()) letters_[static_cast<unsigned char>(c)] = true;
    }

    /// Calls `take` with each word; a name with further characters in it also with its plain parts.
    template <class Take>
    void each(std::string_view code, const Take& take) const {
        cut(code, letters_, [&](std::string_view word) {
            take(word);
            if (letters_ == plain_) return;
            cut(word, plain_, [&](std::string_view part) {
                if (part.size() < word.size()) take(part);
            });
        });
    }

  private:
    template <class Take>
    static void cut(std::string_view code, const std::bitset<256>& letters, const Take& take) {
        for (std::size_t at = 0; at < code.size();) {
            while (at < code.size() && !letters[static_cast<unsigned char>(code[at])]) ++at;
            const std::size_t begin = at;
            while (at < code.size() && letters[static_cast<unsigned char>(code[at])]) ++at;
            if (at > begin) take(code.substr(begin, at - begin));
        }
    }
    std::bitset<256> letters_, plain_;
};

/// `a, b as c, d.e`: what a statement sets or brings.
std::vector<std::string> names_in(std::string_view list) {
    static const re2::RE2 one(R"(([A-Za-z_][\w-]*)(?:\.[\w.]+)?(?:\s+as\s+([A-Za-z_]\w*))?)");
    std::vector<std::string> names;
    re2::StringPiece rest(list.data(), list.size());
    std::string name, other;
    while (re2::RE2::FindAndConsume(&rest, one, &name, &other)) names.push_back(other.empty() ? name : other);
    return names;
}

/// The code of a function without its name and comments, its blanks made one: by which it is compared.
std::string comparable(std::string_view text, const members::FoundMember& member,
                       const std::vector<text::Span>& comments) {
    std::string out;
    for (const auto& parameter : member.parameters)
        out += parameter.name + (parameter.preset.empty() ? "" : "=" + parameter.preset) + ",";
    out += ':';
    auto next = std::lower_bound(comments.begin(), comments.end(), member.whole.end,
                                 [](const text::Span& span, std::size_t at) { return span.begin < at; });
    bool blank = true;
    for (std::size_t at = member.whole.end; at < member.extent.end; ++at) {
        if (next != comments.end() && at >= next->begin) {
            at = std::max(at, next->end) - 1;
            ++next;
            continue;
        }
        const char c = text[at];
        if (is_blank(c)) {
            if (!blank && c == '\n') {
                while (!out.empty() && out.back() == ' ') out.pop_back();
                out += '\n';
                blank = true;
            } else if (!blank && out.back() != ' ') {
                out += ' ';
            }
            continue;
        }
        out += c;
        blank = false;
    }
    while (!out.empty() && is_blank(out.back())) out.pop_back();
    // A function that calls itself does so by its name.
    const std::string& name = member.name;
    for (std::size_t at = out.find(name); !name.empty() && at != std::string::npos; at = out.find(name, at + 1)) {
        const auto is_word = [&](std::size_t where) {
            return where < out.size() &&
                   (std::isalnum(static_cast<unsigned char>(out[where])) != 0 || out[where] == '_');
        };
        if (!is_word(at - 1) && !is_word(at + name.size())) out.replace(at, name.size(), "\x01");
    }
    return out;
}

struct Along {
    std::unique_ptr<re2::RE2> pattern;
    int names = 0;
    bool always = false;
};

/// One script being read.
struct Reading {
    text::Source source;
    members::Everything all;
    std::string trouble;  // why it is passed over
    std::string program;  // that runs it, where that is not the host's
};

class ScriptReader {
  public:
    ScriptReader(const model::Card& card, unsigned jobs)
        : card_(card), jobs_(jobs), scripts_(card.gather.scripts), patterns_(card) {}

    Result<LooseScripts> run(const std::vector<NamedPath>& from) {
        for (const auto& one : from)
            if (auto fine = add(one); !fine) return tl::unexpected(fine.error());
        if (files_.empty())
            return refuse(fmt::format("there is no script for {} in what was named", card_.name.value),
                          fmt::format("scripts are files such as {}, or begin with a line that names its program",
                                      fmt::join(card_.gather.scripts, ", ")));
        for (const auto& along : card_.gather.along) {
            Along made{std::make_unique<re2::RE2>(along.pattern, re2::RE2::Quiet), 0, along.always};
            if (!made.pattern->ok()) continue;
            made.names = static_cast<int>(text::group_number(*made.pattern, "names"));
            along_.push_back(std::move(made));
        }
        if (!card_.gather.inside.empty())
            inside_ = std::make_unique<re2::RE2>("(?m)" + card_.gather.inside, re2::RE2::Quiet);
        std::vector<Reading> readings(files_.size());
        text::side_by_side(files_.size(), jobs_, [&](std::size_t i) { readings[i] = read(files_[i]); });
        for (auto& reading : readings) take(std::move(reading));
        std::sort(out_.passed_over.begin(), out_.passed_over.end());
        find_words();
        return std::move(out_);
    }

  private:
    Result<void> add(const NamedPath& from) {
        if (files::is_file(from.path)) {
            take_file(from);
            return {};
        }
        if (!files::is_folder(from.path))
            return refuse(fmt::format("`{}` is neither a script nor a folder", from.shown),
                          "name scripts, or folders of them");
        std::vector<fs::path> found;
        std::error_code error;
        for (fs::recursive_directory_iterator it(from.path, fs::directory_options::skip_permission_denied, error),
             end;
             !error && it != end; it.increment(error)) {
            if (it->path().filename().string().starts_with('.')) {
                if (it->is_directory()) it.disable_recursion_pending();
                continue;
            }
            if (!it->is_symlink() && it->is_regular_file() && is_script(it->path(), shown_in(from, it->path())))
                found.push_back(it->path());
            if (found.size() > most_files)
                return refuse(fmt::format("`{}` holds too many files", from.shown), "name folders in it");
        }
        std::sort(found.begin(), found.end());
        for (const auto& file : found) take_file({file, shown_in(from, file)});
        return {};
    }

    [[nodiscard]] static std::string shown_in(const NamedPath& folder, const fs::path& file) {
        return (fs::path(folder.shown) / file.lexically_relative(folder.path)).generic_string();
    }

    void take_file(NamedPath file) {
        if (file.shown.starts_with("./")) file.shown.erase(0, 2);
        if (known_.insert(file.path).second) files_.push_back(std::move(file));
    }

    /// The program that runs the text, as its first line says; empty: that says none.
    [[nodiscard]] static std::string program_in(const std::string& text) {
        if (!text.starts_with("#!")) return {};
        std::istringstream words(text.substr(2, std::min(text.find_first_of("\r\n"), longest_first_line) - 2));
        for (std::string word; words >> word;) {
            std::string name = word.substr(word.rfind('/') + 1);
            if (name != "env" && !name.starts_with('-') && name.find('=') == std::string::npos) return name;
        }
        return {};
    }

    /// Whether the program is one of those: `python3` stands for `python3.11` too.
    static bool is_among(const std::string& program, const std::vector<std::string>& programs) {
        return std::any_of(programs.begin(), programs.end(), [&](const std::string& known) {
            const std::string name = known.substr(known.rfind('/') + 1);
            return program.starts_with(name) &&
                   program.find_first_not_of("0123456789.-", name.size()) == std::string::npos;
        });
    }

    /// Whether the host understands what the program runs.
    [[nodiscard]] bool understands(const std::string& program) const {
        return is_among(program, card_.programs) || is_among(program, card_.gather.programs);
    }

    /// By its name, unless its first line names another program; without an ending by that line.
    [[nodiscard]] bool is_script(const fs::path& path, const std::string& shown) {
        const std::string name = path.filename().string();
        if (!scripts_.match(name))
            return path.extension().empty() && understands(program_in(files::read_first(path, longest_first_line)));
        const std::string program =
            name.ends_with(card_.extension) ? "" : program_in(files::read_first(path, longest_first_line));
        if (program.empty() || understands(program)) return true;
        out_.passed_over.push_back(fmt::format("{}: it is for {}; name it to take it all the same", shown, program));
        return false;
    }

    [[nodiscard]] Reading read(const NamedPath& file) const {
        Reading reading;
        const std::string& shown = file.shown;
        auto content = files::read_file(file.path, largest_script);
        if (!content) {
            reading.trouble = fmt::format("{}: {}", shown, content.error().reason);
        } else if (content->find('\0') != std::string::npos) {
            reading.trouble = fmt::format("{}: it is no text", shown);
        }
        if (content) reading.program = program_in(*content);
        if (is_among(reading.program, card_.programs)) reading.program.clear();
        reading.source = text::Source(shown, content ? std::move(*content) : std::string());
        if (reading.trouble.empty())
            reading.all = members::everything_in(reading.source, card_, patterns_.compiled());
        return reading;
    }

    void take(Reading reading) {
        if (!reading.trouble.empty()) {
            out_.passed_over.push_back(std::move(reading.trouble));
            return;
        }
        const std::string& text = reading.source.text();
        const std::size_t script = out_.scripts.size();
        const std::string code = with_code_in_quotes(text, reading.all.lexed, card_);
        for (auto& member : reading.all.defined) {
            LooseFunction function;
            function.script = script;
            // `*near = \&far;` is nothing without the mark at its end.
            const bool is_ended = member.extent.end < text.size() && text[member.extent.end] == ';';
            function.code = text.substr(member.top, member.extent.end + (is_ended ? 1 : 0) - member.top);
            function.uses = without_prose(text, code, reading.all.lexed, {member.top, member.extent.end});
            function.lines =
                static_cast<std::size_t>(std::count(function.code.begin(), function.code.end(), '\n')) + 1;
            function.body = comparable(text, member, reading.all.lexed.comments);
            function.member = std::move(member);
            out_.functions.push_back(std::move(function));
            const text::Span extent = out_.functions.back().member.extent;
            codes_.push_back(code.substr(extent.begin, extent.end - extent.begin));
        }
        own_.clear();
        for (auto of = out_.functions.rbegin(); of != out_.functions.rend() && of->script == script; ++of)
            own_.insert(of->name());
        LooseScript& one = out_.scripts.emplace_back();
        one.file = reading.source.file();
        one.program = std::move(reading.program);
        for (const auto& other : reading.all.others) {
            const text::Span span = other.span;
            LooseStatement statement;
            statement.begin = span.begin;
            statement.line = reading.source.position(span.begin).line;
            statement.code = text.substr(span.begin, span.end - span.begin);
            statement.uses = without_prose(text, code, reading.all.lexed, span);
            understand(std::string_view(code).substr(span.begin, span.end - span.begin), other, statement);
            statement.own = sets_own(statement);
            if (statement.own) statement.along = false;
            one.statements.push_back(std::move(statement));
            statement_codes_.push_back(code.substr(span.begin, span.end - span.begin));
        }
    }

    /// Whether a block calls functions of the script that is being read, but for conditions.
    [[nodiscard]] bool does_own_work(std::string_view code, const members::Everything::Other& other) const {
        const auto& begins = other.begins;
        const auto piece = [&](std::size_t i) {
            const std::size_t begin = begins[i] - other.span.begin;
            std::size_t end = i + 1 < begins.size() ? begins[i + 1] - other.span.begin : code.size();
            while (end < code.size() && (code[end] == '&' || code[end] == '|')) ++end;
            const std::string_view text = code.substr(begin, end - begin);
            return text.substr(0, text.find_last_not_of("; \t\r\n") + 1);
        };
        const auto& patterns = patterns_.compiled();
        const auto leads = [&](std::size_t i) { return patterns.leads_on(piece(i)); };
        const auto continues = [&](std::size_t i) { return patterns.goes_on(piece(i)); };
        const auto is_condition = [&](std::size_t i) {
            return leads(i) || (i > 0 && leads(i - 1) && !continues(i - 1)) ||
                   (i + 1 < begins.size() && leads(i + 1) && continues(i + 1));
        };
        for (std::size_t i = 0; begins.size() > 1 && i < begins.size(); ++i)
            if (is_own_call(piece(i)) && !is_condition(i)) return true;
        return false;
    }

    [[nodiscard]] bool is_own_call(std::string_view code) const {
        code.remove_prefix(std::min(code.find_first_not_of("( \t\r\n"), code.size()));
        const std::string_view word = code.substr(0, code.find_first_of(" \t\r\n;&|<>(){}"));
        return own_.count(word) != 0;
    }

    /// What a statement sets, by the card's patterns; of a block what any statement in it sets. One that calls
    /// functions of its script besides is what the script is for, and no setting.
    void understand(std::string_view code, const members::Everything::Other& other, LooseStatement& statement) const {
        const bool is_own_work = does_own_work(code, other);
        std::set<std::string> known;
        std::vector<std::size_t> begins;  // in `code`
        for (const std::size_t begin : other.begins) begins.push_back(begin - other.span.begin);
        re2::StringPiece found;
        for (std::size_t at = 0;
             inside_ && inside_->ok() && at < code.size() &&
             inside_->Match({code.data(), code.size()}, at, code.size(), re2::RE2::UNANCHORED, &found, 1);
             at = std::max(begins.back(), at + 1))
            begins.push_back(static_cast<std::size_t>(found.data() - code.data()) + found.size());
        for (const Along& along : along_) {
            std::vector<re2::StringPiece> groups(static_cast<std::size_t>(along.pattern->NumberOfCapturingGroups()) +
                                                 1);
            for (const std::size_t begin : begins) {
                const std::string_view rest = code.substr(begin);
                if (!along.pattern->Match({rest.data(), rest.size()}, 0, rest.size(), re2::RE2::ANCHOR_START,
                                          groups.data(), static_cast<int>(groups.size())))
                    continue;
                statement.along = !is_own_work;
                statement.always = statement.always || along.always;
                const auto& list = groups[static_cast<std::size_t>(along.names)];
                if (along.names != 0 && list.data() != nullptr)
                    for (auto& name : names_in({list.data(), list.size()}))
                        if (known.insert(name).second) statement.names.push_back(std::move(name));
            }
        }
    }

    /// Whether it sets what the module sets itself, which then stays behind.
    [[nodiscard]] bool sets_own(const LooseStatement& statement) const {
        return std::any_of(statement.names.begin(), statement.names.end(), [&](const std::string& name) {
            return std::find(card_.gather.own.begin(), card_.gather.own.end(), name) != card_.gather.own.end();
        });
    }

    void find_words() {
        const Words words(out_.functions);
        std::set<std::string_view> names;
        for (const auto& function : out_.functions) names.insert(function.name());
        text::side_by_side(out_.functions.size(), jobs_, [&](std::size_t i) {
            LooseFunction& function = out_.functions[i];
            std::set<std::string_view> called;
            words.each(codes_[i], [&](std::string_view word) {
                if (word != function.name() && names.count(word) != 0) called.insert(word);
            });
            function.calls.assign(called.begin(), called.end());
        });
        std::size_t i = 0;
        for (auto& script : out_.scripts)
            for (auto& statement : script.statements) {
                std::set<std::string_view> own;
                words.each(statement_codes_[i++], [&](std::string_view word) { own.insert(word); });
                statement.words.assign(own.begin(), own.end());
            }
    }

    const model::Card& card_;
    unsigned jobs_;
    text::Globs scripts_;
    members::Patterns patterns_;
    std::vector<Along> along_;
    std::unique_ptr<re2::RE2> inside_;          // null: nothing stands within others
    std::unordered_set<std::string_view> own_;  // functions of the script that is being read
    std::set<fs::path> known_;
    std::vector<NamedPath> files_;
    std::vector<std::string> codes_, statement_codes_;
    LooseScripts out_;
};

}  // namespace

std::string LooseScripts::place(std::size_t function) const {
    return fmt::format("{}:{}", scripts[functions[function].script].file, functions[function].member.line);
}

Result<LooseScripts> loose_scripts(const model::Card& card, const std::vector<NamedPath>& from, unsigned jobs) {
    auto scripts = ScriptReader(card, jobs).run(from);
    if (scripts) find_duplicates(*scripts);
    return scripts;
}

}  // namespace envar::life
