#include "core/emit/help.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <map>
#include <set>

#include "core/emit/help_texts.hpp"
#include "core/files/read.hpp"
#include "core/text/template.hpp"
#include "core/text/translations.hpp"
#include "core/text/utf8.hpp"

extern "C" {
#include <sys/queue.h>
#include <sys/types.h>

#include <lowdown.h>
#include <cstdio>
}

namespace envar::emit {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_translations = std::size_t{16} << 20U;
constexpr std::size_t deepest_page = 64;

model::CardDialect dialect_of(const char* name, const char* comment, const char* end) {
    model::CardDialect dialect;
    dialect.name = name;
    dialect.comment = comment;
    dialect.comment_end = end;
    return dialect;
}

const model::CardDialect& markdown_dialect() {
    static const model::CardDialect dialect = dialect_of("markdown", "<!--", "-->");
    return dialect;
}
const model::CardDialect& manual_dialect() {
    static const model::CardDialect dialect = dialect_of("manual", ".\\\"", "");
    return dialect;
}
const model::CardDialect& template_dialect() {
    static const model::CardDialect dialect = dialect_of("translations", "#", "");
    return dialect;
}

/// A module's name as that of a file.
std::string file_name(const std::string& module) {
    std::string out;
    for (const char c : module) out += c == '/' || c == ':' ? '-' : c;
    return out;
}

/// Text so that Markdown shows it as it is; code between backticks stays code.
std::string prose(std::string_view text) {
    std::string out;
    bool code = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        const bool at_start = i == 0 || text[i - 1] == '\n';
        if (c == '`' && (code || text.find('`', i + 1) != std::string_view::npos)) {
            code = !code;
        } else if (!code && (std::string_view("*<[]\\`").find(c) != std::string_view::npos ||
                             (at_start && std::string_view("#>+-=|").find(c) != std::string_view::npos))) {
            out += '\\';
        }
        out += c;
    }
    return out;
}

/// Code between backticks, whatever it holds.
std::string code(std::string_view text) {
    std::size_t longest = 0, run = 0;
    for (const char c : text) longest = std::max(longest, run = c == '`' ? run + 1 : 0);
    const std::string mark(longest + 1, '`');
    const std::string_view pad = longest > 0 ? " " : "";
    return fmt::format("{0}{1}{2}{1}{0}", mark, pad, text);
}

/// A documentation as Markdown: paragraphs, lists, and what is indented as examples, whose lines stay as they are.
class Paragraphs {
  public:
    std::string run(const std::string& text) {
        for (std::size_t at = 0; at < text.size();) {
            const std::size_t end = std::min(text.find('\n', at), text.size());
            take(std::string_view(text).substr(at, end - at));
            at = end + 1;
        }
        end_prose();
        end_example();
        return std::move(out_);
    }

  private:
    static constexpr std::size_t least_of_example = 2, usual_example = 4;

    void take(std::string_view line) {
        const std::size_t begin = line.find_first_not_of(" \t\r");
        if (begin == std::string_view::npos) {
            end_prose();
            ++blank_;
            session_ = false;
            return;
        }
        const std::string_view blanks = line.substr(0, begin), said = line.substr(begin);
        const auto tabs = static_cast<std::size_t>(std::count(blanks.begin(), blanks.end(), '\t'));
        const std::size_t column = begin + (usual_example - 1) * tabs;
        session_ = session_ || said.starts_with(">>>");
        if (column < least_of_example && !session_) end_example();
        while (!items_.empty() && column < items_.back()) items_.pop_back();
        const std::size_t mark = mark_of_item(said);
        if (mark != 0 && (column < usual_example || !items_.empty()) && example_.empty()) {
            put_item(said, column, mark);
        } else if (!items_.empty() && column > items_.back()) {
            if (blank_ != 0) out_ += "\n";
            out_ += std::string(2 * items_.size(), ' ') + prose(said) + "\n";
        } else if (column >= least_of_example || session_) {
            end_prose();
            items_.clear();
            if (!example_.empty()) example_.insert(example_.end(), blank_, {});
            example_.emplace_back(std::string(column, ' ') + std::string(said));
        } else {
            if (prose_.empty()) separate();
            items_.clear();
            prose_ += (prose_.empty() ? "" : "\n") + std::string(said);
        }
        blank_ = 0;
    }

    /// How long the mark of an item is, with the blanks behind it; 0: it is none.
    static std::size_t mark_of_item(std::string_view said) {
        std::size_t mark = said.find_first_not_of("0123456789");
        if (mark > 2) return 0;  // or there is none at all
        const bool fine =
            mark == 0 ? said[0] == '-' || said[0] == '*' || said[0] == '+' : said[mark] == '.' || said[mark] == ')';
        const std::size_t rest = fine ? said.find_first_not_of(" \t", mark + 1) : std::string_view::npos;
        return rest == std::string_view::npos || rest == mark + 1 ? 0 : rest;
    }

    void put_item(std::string_view said, std::size_t column, std::size_t mark) {
        end_prose();
        if (items_.empty()) separate();
        if (items_.empty() || column > items_.back()) items_.push_back(column);
        out_ += std::string(2 * (items_.size() - 1), ' ') + "- ";
        if (std::isdigit(static_cast<unsigned char>(said.front())) != 0) {
            out_.erase(out_.size() - 2);
            out_ += std::string(said.substr(0, said.find_first_of(".)"))) + ". ";
        }
        out_ += prose(said.substr(mark)) + "\n";
    }

    /// What comes now is a block of its own.
    void separate() {
        if (!out_.empty() && !out_.ends_with("\n\n")) out_ += "\n";
    }
    void end_prose() {
        if (!prose_.empty()) out_ += prose(std::exchange(prose_, {})) + "\n";
    }
    void end_example() {
        if (example_.empty()) return;
        std::size_t margin = std::string::npos;
        for (const std::string& line : example_)
            if (!line.empty()) margin = std::min(margin, line.find_first_not_of(' '));
        separate();
        for (const std::string& line : example_)
            out_ += line.empty() ? "\n" : std::string(usual_example, ' ') + line.substr(margin) + "\n";
        example_.clear();
    }

    std::string out_, prose_;
    std::vector<std::string> example_;
    std::vector<std::size_t> items_;  // columns of the marks of the items that are open
    std::size_t blank_ = 0;           // lines before this one
    bool session_ = false;            // what is typed into an interpreter, and what it says
};

std::string paragraphs(const std::string& text) { return Paragraphs().run(text); }

/// One page in one language.
class Page {
  public:
    Page(const std::map<std::string, std::string>& translations, const model::Space& space)
        : translations_(translations), space_(space) {}

    [[nodiscard]] std::string module_page(const ModuleTexts& one, bool manual) {
        manual_ = manual;
        out_.clear();
        const auto& manifest = one.module->manifest;
        if (manual) {
            heading(1, tr(help_words::name));
            out_ += fmt::format("{} - {}\n", prose(one.module->name()), prose(tr(manifest.summary)));
        } else {
            heading(1, fmt::format("{} {}", prose(one.module->name()), one.module->version()));
            out_ += prose(tr(manifest.summary)) + "\n";
        }
        how_to_load(one);
        if (!one.members.empty()) heading(2, tr(help_words::members));
        for (const auto& member : one.members) put(member, one);
        needs(manifest);
        return std::move(out_);
    }

    [[nodiscard]] std::string index(const std::vector<ModuleTexts>& modules) {
        manual_ = false;
        out_.clear();
        heading(1, prose(space_.settings.name.value));
        std::map<std::string, std::vector<const ModuleTexts*>> hosts;
        for (const auto& one : modules) hosts[one.module->manifest.host.value].push_back(&one);
        for (const auto& [host, own] : hosts) {
            heading(2, prose(host));
            for (const ModuleTexts* one : own)
                out_ +=
                    fmt::format("- [{}]({}.md) {}: {}\n", prose(one->module->name()), file_name(one->module->name()),
                                one->module->version(), prose(tr(one->module->manifest.summary)));
        }
        return std::move(out_);
    }

  private:
    [[nodiscard]] std::string tr(const std::string& text) const {
        const auto found = translations_.find(text);
        return found == translations_.end() ? text : found->second;
    }

    void heading(std::size_t level, const std::string& text) {
        if (!out_.empty() && !out_.ends_with("\n\n")) out_ += "\n";
        out_ += std::string(manual_ && level > 1 ? level - 1 : level, '#') + " " + text + "\n\n";
    }

    void how_to_load(const ModuleTexts& one) {
        if (one.card->gather.load.empty()) return;
        const std::string load = text::fill(one.card->gather.load, {{"name", one.module->name()}});
        if (manual_) heading(2, tr(help_words::synopsis));
        out_ += fmt::format("{}    {}\n", manual_ ? "" : "\n", load);
    }

    void put(const MemberTexts& member, const ModuleTexts& one) {
        heading(3, code(signature(member, *one.card)));
        out_ += prose(tr(member.summary)) + "\n";
        if (!member.description.empty()) out_ += "\n" + paragraphs(tr(member.description));
        if (!member.parameters.empty()) out_ += "\n";
        for (const auto& p : member.parameters) {
            std::vector<std::string> facts;
            if (!p.type.empty()) facts.push_back(prose(p.type));
            if (!p.required)
                facts.push_back(p.preset.empty() ? tr(help_words::optional)
                                                 : fmt::format("{} {}", tr(help_words::otherwise), code(p.preset)));
            out_ += fmt::format("- {}{}{}\n", code(p.name),
                                facts.empty() ? "" : fmt::format(" ({})", fmt::join(facts, ", ")),
                                p.summary.empty() ? "" : ": " + prose(tr(p.summary)));
        }
        if (!member.returns.empty())
            out_ += fmt::format("\n{}: {}\n", tr(help_words::returns), prose(tr(member.returns)));
        if (!member.since.empty()) out_ += fmt::format("\n{} {}\n", tr(help_words::since), member.since);
    }

    /// `place(magnitude, epoch = "J2000")`, or `place MAGNITUDE [EPOCH]` where words are what separates.
    static std::string signature(const MemberTexts& member, const model::Card& card) {
        if (member.kind != "function" && member.kind != "command") return member.name;
        const bool words = card.kind == "shell" || card.parameter_separator == " ";
        std::string list;
        for (const auto& p : member.parameters) {
            if (!list.empty()) list += words ? " " : ", ";
            if (words) {
                list += p.required ? p.name : "[" + p.name + "]";
            } else {
                list += p.name + (p.required || p.preset.empty() ? "" : " = " + p.preset);
            }
        }
        return words ? member.name + (list.empty() ? "" : " ") + list : member.name + "(" + list + ")";
    }

    void needs(const model::Manifest& manifest) {
        bool first = true;
        for (const auto& d : manifest.dependencies) {
            if (d.stage != model::Stage::load) continue;
            if (first) heading(2, tr(help_words::needs));
            first = false;
            const std::string name =
                manual_ || space_.module(d.module.value) == nullptr
                    ? code(d.module.value)
                    : fmt::format("[{}]({}.md)", prose(d.module.value), file_name(d.module.value));
            out_ += fmt::format("- {}{}{}{}\n", name, d.versions.is_any() ? "" : " " + code(d.versions.text),
                                d.optional ? " (" + tr(help_words::optional) + ")" : "",
                                d.reason.empty() ? "" : ": " + prose(tr(d.reason)));
        }
    }

    const std::map<std::string, std::string>& translations_;
    const model::Space& space_;
    bool manual_ = false;
    std::string out_;
};

class HelpWriter {
  public:
    HelpWriter(const model::Space& space, const std::vector<std::string>& names)
        : space_(space), names_(names), folder_(space.settings.help.folder), modules_(module_texts(space)) {}

    text::Result<std::vector<GeneratedFile>> run() {
        const auto texts = translatables(modules_);
        add("help.pot", "the texts of the pages, for translators",
            text::translation_template(texts, space_.settings.name.value), &template_dialect());
        if (auto fine = add_language("", {}); !fine) return tl::unexpected(fine.error());
        for (const std::string& language : languages()) {
            const std::string translations = add_translations(language, texts);
            if (auto fine = add_language(language + "/", text::read_translations(translations)); !fine)
                return tl::unexpected(fine.error());
        }
        return std::move(files_);
    }

  private:
    /// Those that the workspace names, and those that have translations already.
    [[nodiscard]] std::set<std::string> languages() const {
        std::set<std::string> out;
        for (const auto& language : space_.settings.help.languages) out.insert(language.value);
        for (const auto& name : files::list_folder(space_.root / folder_ / "po"))
            if (name.ends_with(".po") && name.size() > 3) out.insert(name.substr(0, name.size() - 3));
        return out;
    }

    text::Result<void> add_language(const std::string& below,
                                    const std::map<std::string, std::string>& translations) {
        Page page(translations, space_);
        add(below + "index.md", "all modules, with links to their pages", page.index(modules_), &markdown_dialect());
        for (const auto& one : modules_) {
            if (!names_.empty() && std::find(names_.begin(), names_.end(), one.module->name()) == names_.end())
                continue;
            const std::string name = file_name(one.module->name());
            add(below + name + ".md", "reference page", page.module_page(one, false), &markdown_dialect());
            auto manual = manual_page(page.module_page(one, true));
            if (!manual) return tl::unexpected(manual.error());
            add(fmt::format("{}man3/{}.3", below, name), "manual page",
                fmt::format(".TH \"{}\" \"3\" \"\" \"{} {}\" \"{}\"\n{}", name, name, one.module->version(),
                            space_.settings.name.value, *manual),
                &manual_dialect());
        }
        return {};
    }

    void add(const std::string& name, const char* purpose, const std::string& body,
             const model::CardDialect* dialect) {
        GeneratedFile file{space_.root / folder_ / name, purpose, {}};
        file.name = (fs::path(folder_) / name).generic_string();
        file.dialect = dialect;
        file.page = true;
        file.wanted = with_header(*dialect, file.name, body);
        static_cast<void>(compare(file));  // only blocks can fail
        files_.push_back(std::move(file));
    }

    /// A file of translations is its translators': what is missing in it is added, nothing else changed.
    std::string add_translations(const std::string& language, const std::vector<text::Translatable>& texts) {
        GeneratedFile file{space_.root / folder_ / "po" / (language + ".po"), "translations (yours)", {}};
        file.name = (fs::path(folder_) / "po" / (language + ".po")).generic_string();
        file.dialect = &template_dialect();
        file.page = file.authored = true;
        auto there = files::read_file(file.path, largest_translations);
        if (there) {
            file.there = std::move(*there);
            file.wanted = text::with_missing(*file.there, texts);
            file.drift = file.wanted == *file.there ? Drift::current : Drift::stale;
        } else {
            file.wanted = text::new_translations(texts, space_.settings.name.value, language);
            file.drift = there.error().problem == files::ReadProblem::missing ? Drift::missing : Drift::foreign;
        }
        std::string content = file.there.value_or("");
        files_.push_back(std::move(file));
        return content;
    }

    const model::Space& space_;
    const std::vector<std::string>& names_;
    std::string folder_;
    std::vector<ModuleTexts> modules_;
    std::vector<GeneratedFile> files_;
};

}  // namespace

text::Result<std::string> manual_page(const std::string& markdown) {
    lowdown_opts options = {};
    options.type = LOWDOWN_MAN;
    options.maxdepth = deepest_page;
    options.feat = LOWDOWN_COMMONMARK | LOWDOWN_FENCED;
    options.oflags = LOWDOWN_NROFF_SKIP_HTML | LOWDOWN_NROFF_NOLINK;
    char* made = nullptr;
    std::size_t size = 0;
    if (lowdown_buf(&options, markdown.data(), markdown.size(), &made, &size, nullptr) == 0)
        return text::fail(text::FailureKind::machine_failed, "a manual page could not be made");
    std::string out(made, size);
    std::free(made);
    return out;
}

text::Result<std::vector<GeneratedFile>> help_files(const model::Space& space,
                                                    const std::vector<std::string>& modules) {
    if (!space.settings.help.wanted()) return std::vector<GeneratedFile>{};
    return HelpWriter(space, modules).run();
}

}  // namespace envar::emit
