#include "core/text/template_tags.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

namespace envar::text {
namespace {

using nlohmann::json;

std::string_view trimmed(std::string_view text) {
    const auto first = text.find_first_not_of(" \t\r\n");
    if (first == std::string_view::npos) return {};
    return text.substr(first, text.find_last_not_of(" \t\r\n") - first + 1);
}

/// Goes through the tags as rendering does, counting instead of writing.
class Meter {
  public:
    Meter(std::string_view text, const json& values) : text_(text), tags_(template_tags(text)), contexts_{&values} {}

    Result<void> run() {
        if (auto paired = pair_sections(); !paired) return paired;
        walk(0, tags_.size());
        if (bytes_ > longest_rendering || visits_ > most_tags_rendered)
            return refuse("the template would write far more than a file of source text",
                          "a list within itself multiplies; use each list once");
        return {};
    }

  private:
    Result<void> pair_sections() {
        ends_.assign(tags_.size(), 0);
        std::vector<std::size_t> open;
        for (std::size_t i = 0; i < tags_.size(); ++i) {
            if (tags_[i].kind == '#' || tags_[i].kind == '^') open.push_back(i);
            if (open.size() > deepest_section)
                return refuse(fmt::format("the template nests sections more than {} deep", deepest_section));
            if (tags_[i].kind != '/') continue;
            if (open.empty() || tags_[open.back()].name != tags_[i].name)
                return fail(
                    FailureKind::answer_is_no,
                    fmt::format("the template closes the section `{}`, which is not open there", tags_[i].name));
            ends_[open.back()] = i;
            open.pop_back();
        }
        if (!open.empty())
            return refuse(fmt::format("the template does not close the section `{}`", tags_[open.back()].name));
        return {};
    }

    [[nodiscard]] bool over() const { return bytes_ > longest_rendering || visits_ > most_tags_rendered; }

    /// Counts the tags from `first` up to `last` and the text between them.
    void walk(std::size_t first, std::size_t last) {
        for (std::size_t i = first; i < last && !over(); ++i) {
            ++visits_;
            const TemplateTag& tag = tags_[i];
            bytes_ += tag.span.begin - (i == 0 ? 0 : tags_[i - 1].span.end);
            if (tag.kind == 'v' || tag.kind == '&') {
                const json* value = find(tag.name);
                if (value != nullptr && value->is_string()) bytes_ += value->get_ref<const std::string&>().size();
            } else if (tag.kind == '#') {
                section(i);
                i = ends_[i];
            }
        }
    }

    void section(std::size_t start) {
        const json* value = find(tags_[start].name);
        const std::size_t end = ends_[start];
        if (value != nullptr && value->is_array()) {
            for (const json& item : *value) {
                contexts_.push_back(&item);
                walk(start + 1, end + 1);
                contexts_.pop_back();
                if (over()) return;
            }
            return;
        }
        // Anything else is rendered once at most; what the language's sections are not values is once too.
        if (value != nullptr) contexts_.push_back(value);
        walk(start + 1, end + 1);
        if (value != nullptr) contexts_.pop_back();
    }

    [[nodiscard]] const json* find(const std::string& name) const {
        if (name == ".") return contexts_.back();
        for (auto it = contexts_.rbegin(); it != contexts_.rend(); ++it)
            if ((*it)->is_object() && (*it)->contains(name)) return &(**it)[name];
        return nullptr;
    }

    std::string_view text_;
    std::vector<TemplateTag> tags_;
    std::vector<std::size_t> ends_;  // of a section's opening tag: where its closing one is
    std::vector<const json*> contexts_;
    std::size_t bytes_ = 0;
    std::size_t visits_ = 0;
};

}  // namespace

std::vector<TemplateTag> template_tags(std::string_view text) {
    std::vector<TemplateTag> tags;
    std::string open = "{{";
    std::string close = "}}";
    for (std::size_t at = text.find(open); at != std::string_view::npos; at = text.find(open, at)) {
        std::size_t inner = at + open.size();
        const bool triple = open == "{{" && inner < text.size() && text[inner] == '{';
        const std::string ends = triple ? "}}}" : close;
        const std::size_t end = text.find(ends, inner);
        if (end == std::string_view::npos) break;
        TemplateTag tag;
        tag.span = {at, end + ends.size()};
        std::string_view inside = trimmed(text.substr(inner, end - inner));
        if (triple) {
            tag.kind = '&';
            inside.remove_prefix(1);
        } else if (!inside.empty() && std::string_view("#^/!>=&").find(inside.front()) != std::string_view::npos) {
            tag.kind = inside.front();
            inside.remove_prefix(1);
        }
        tag.name = trimmed(inside);
        at = tag.span.end;
        if (tag.kind == '=' && !tag.name.empty()) {
            const std::size_t gap = tag.name.find(' ');
            const std::string marks = tag.name.substr(0, tag.name.size() - 1);
            if (gap != std::string::npos && gap > 0 && tag.name.back() == '=') {
                open = marks.substr(0, gap);
                close = trimmed(std::string_view(marks).substr(gap));
            }
            if (open.empty() || close.empty()) break;
        }
        tags.push_back(std::move(tag));
    }
    return tags;
}

Result<void> template_within_limits(std::string_view text, const json& values) { return Meter(text, values).run(); }

}  // namespace envar::text
