#include <fmt/format.h>
#include <re2/re2.h>

#include "core/check/rules.hpp"

namespace envar::check {
namespace {

void example_matches(const model::Card& card, const std::string& pattern, const std::string& example, bool whole,
                     text::Span span, Findings& findings) {
    if (pattern.empty() || example.empty()) return;
    const re2::RE2 compiled(pattern, re2::RE2::Quiet);
    if (!compiled.ok()) return;  // has its own finding
    if (whole ? re2::RE2::FullMatch(example, compiled) : re2::RE2::PartialMatch(example, compiled)) return;
    findings.push_back(card.source.finding("EV802", span,
                                           fmt::format("the pattern `{}` does not match `{}`", pattern, example),
                                           "mend the pattern or its example"));
}

/// Where the card has the text first.
text::Span span_of(const model::Card& card, const std::string& text) {
    const std::size_t at = card.source.text().find(text);
    return at == std::string::npos ? text::Span{} : text::Span{at, at + text.size()};
}

/// Of lists of patterns, whose items are read as texts.
void are_patterns(const model::Card& card, const std::vector<std::string>& list, Findings& findings) {
    for (const std::string& pattern : list) {
        const re2::RE2 compiled(pattern, re2::RE2::Quiet);
        if (compiled.ok()) continue;
        findings.push_back(
            card.source.finding("EV801", span_of(card, pattern),
                                fmt::format("the pattern `{}` is refused: {}", pattern, compiled.error()),
                                "patterns are RE2: no look-around, no back-references"));
    }
}

void lacks(const model::Card& card, Findings& findings) {
    const auto tell = [&](std::string message, std::string hint) {
        findings.push_back(card.source.finding("EV807", card.name.span, std::move(message), std::move(hint)));
    };
    if (!card.variables.empty() && !card.looks_up())
        tell("the card names a search variable, but not what is tried in its folders",
             "add `candidates` to [search]");
    if (!card.trial_probe.empty() && card.programs.empty())
        tell("the card has a trial, but names no program to run", "add `programs` to [host]");
    if (!card.test_runner.empty() && card.test_arguments.empty())
        tell("the card has a test runner, but not how it is called", "add `test_arguments` to [trial]");
    if (!card.blueprints.empty() && card.module_pattern.value.empty())
        tell("the card has blueprints, but does not say what names of modules look like", "add `module` to [naming]");
    for (const auto& variable : card.variables)
        if (variable.form == model::EntryForm::templates && variable.mark.empty())
            tell(fmt::format("entries of {} are patterns, but have no mark for the name", variable.name),
                 "add `mark`, such as \"?\"");
}

}  // namespace

std::vector<text::Finding> check_card(const model::Card& card) {
    Findings findings;
    example_matches(card, card.module_pattern.value, card.module_example, true, card.module_pattern.span, findings);
    for (const auto& member : card.members)
        example_matches(card, member.pattern, member.example, false, span_of(card, member.pattern), findings);
    are_patterns(card, card.plain, findings);
    are_patterns(card, card.before_patterns, findings);
    lacks(card, findings);
    const auto dry = check_blueprints(card);
    findings.insert(findings.end(), dry.begin(), dry.end());
    return findings;
}

}  // namespace envar::check
