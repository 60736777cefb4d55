#include "core/trial/judge.hpp"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <iterator>
#include <span>
#include <utility>

#include "core/members/scan.hpp"
#include "core/search/view.hpp"
#include "core/text/names.hpp"
#include "core/versions/version.hpp"

namespace envar::trial {

Judge::Judge(const model::Space& space, const model::Card& card, HostTrial& trial,
             std::map<std::string, std::string> copies)
    : space_(space), card_(card), trial_(trial), copies_(std::move(copies)) {
    lines_tell_ = std::any_of(card.trial_lines.begin(), card.trial_lines.end(),
                              [](const model::TrialLine& line) { return line.event == "loaded"; });
}

void Judge::take_run(const process::Outcome& outcome, const std::string& report, double time_limit) {
    trial_.milliseconds += outcome.milliseconds;
    take_lines(outcome.output + "\n" + outcome.errors);
    bool ended = std::exchange(ended_, false);
    for (const Record& record : read_report(report)) ended = take(record) || ended;
    if (!ended) {
        explain_early_end(outcome, time_limit);
    } else if (!said_.empty()) {
        trial_.trouble = said_;
    }
}

void Judge::finish() {
    for (ModuleTrial& one : trial_.modules) compare(one);
}

/// Each pattern is looked for in all that the host said; a module counts as loaded once.
void Judge::take_lines(const std::string& said) {
    for (const model::TrialLine& line : card_.trial_lines) {
        const re2::RE2 pattern("(?m)" + line.pattern, re2::RE2::Quiet);
        if (!pattern.ok()) continue;
        const auto& groups = pattern.NamedCapturingGroups();
        std::vector<re2::StringPiece> parts(static_cast<std::size_t>(pattern.NumberOfCapturingGroups()) + 1);
        const auto part = [&](const std::string& group) {
            const auto known = groups.find(group);
            return known == groups.end() ? std::string()
                                         : std::string(parts[static_cast<std::size_t>(known->second)]);
        };
        const re2::StringPiece text(said);
        for (std::size_t at = 0; at <= text.size();) {
            if (!pattern.Match(text, at, text.size(), re2::RE2::UNANCHORED, parts.data(),
                               static_cast<int>(parts.size())))
                break;
            take_line(line, {part("name"), part("file"), part("version"), part("milliseconds"), part("message")});
            at = static_cast<std::size_t>(parts[0].data() - text.data()) + std::max<std::size_t>(parts[0].size(), 1);
        }
    }
}

void Judge::take_line(const model::TrialLine& line, const Said& said) {
    ModuleTrial* one = said.name.empty() ? owner_of(original(said.file)) : find(said.name);
    if (line.event == "end") {
        ended_ = true;
    } else if (line.event == "loaded" && one != nullptr && one->actual_position == 0) {
        one->actual_position = ++loaded_;
        one->milliseconds = std::strtod(said.milliseconds.c_str(), nullptr);
        one->picked_file = original(said.file);
        one->version = said.version;
        last_begun_ = said.name;
    } else if (line.event == "failed" && one != nullptr) {
        if (one->error.empty()) one->error = said.message;
    } else if (line.event != "loaded" && said_.empty()) {
        said_ = said.message;
    }
}

/// The module in whose folder the file lies.
ModuleTrial* Judge::owner_of(const std::string& file) {
    ModuleTrial* owner = nullptr;
    std::size_t longest = 0;
    for (ModuleTrial& one : trial_.modules) {
        const std::string folder = space_.module(one.module)->folder.string() + "/";
        if (file.compare(0, folder.size(), folder) != 0 || folder.size() <= longest) continue;
        owner = &one;
        longest = folder.size();
    }
    return owner;
}

std::string Judge::original(const std::string& file) const {
    for (const auto& [copy, folder] : copies_)
        if (file.size() > copy.size() && file.compare(0, copy.size(), copy) == 0 && file[copy.size()] == '/')
            return folder + file.substr(copy.size());
    return search::through_views(space_, file);
}

/// True for the record that says the probe came to its end.
bool Judge::take(const Record& record) {
    if (record[0] == "end") return true;
    if (record.size() < 2) return false;
    const std::string& name = record[1];
    if (record[0] == "ask") take_ask(name);
    if (record[0] == "begin") {
        underway_.push_back(name);
        last_begun_ = name;
    }
    if (record[0] == "loaded") leave(name);
    if (record[0] == "failed") underway_.clear();
    if (ModuleTrial* one = find(name)) take_of(*one, record);
    return false;
}

ModuleTrial* Judge::find(const std::string& name) {
    const auto found = std::find_if(trial_.modules.begin(), trial_.modules.end(),
                                    [&](const ModuleTrial& m) { return m.module == name; });
    return found == trial_.modules.end() ? nullptr : &*found;
}

void Judge::leave(const std::string& name) {
    const auto found = std::find(underway_.begin(), underway_.end(), name);
    underway_.erase(found, underway_.end());
}

/// Whoever is being loaded asks for the module: it must have said so in its manifest.
void Judge::take_ask(const std::string& name) {
    ModuleTrial* asker = underway_.empty() ? nullptr : find(underway_.back());
    if (asker == nullptr) return;
    const auto& declared = space_.module(asker->module)->manifest.dependencies;
    const bool fine = asker->module == name || std::any_of(declared.begin(), declared.end(),
                                                           [&](const auto& d) { return d.module.value == name; });
    const std::string difference = fmt::format("loads {}, which its manifest does not declare", name);
    auto& differences = asker->differences;
    if (!fine && std::find(differences.begin(), differences.end(), difference) == differences.end())
        differences.push_back(difference);
}

void Judge::take_of(ModuleTrial& one, const Record& record) {
    if (record[0] == "loaded" && record.size() >= 5 && one.picked_file.empty()) {
        if (!lines_tell_ && one.actual_position == 0) one.actual_position = ++loaded_;
        one.picked_file = original(record[2]);
        one.version = record[3];
        if (!lines_tell_) one.milliseconds = std::strtod(record[4].c_str(), nullptr);
    } else if (record[0] == "member" && record.size() >= 3) {
        if (members::is_handle(record[2], space_.module(one.module)->manifest, card_)) return;
        one.seen_members.push_back(record[2]);
        members::FoundMember& seen = one.seen.emplace_back();
        seen.name = record[2];
        if (record.size() >= 4) seen.kind = record[3];
    } else if (record[0] == "called" && record.size() >= 3) {
        const auto seen = std::find_if(one.seen.begin(), one.seen.end(),
                                       [&](const members::FoundMember& member) { return member.name == record[2]; });
        if (seen == one.seen.end()) return;
        seen->tells_parameters = true;
        seen->parameters.clear();
        for (std::size_t i = 3; i < record.size(); ++i) {
            members::FoundParameter& parameter = seen->parameters.emplace_back();
            parameter.required = !record[i].ends_with('=');
            parameter.name = record[i].substr(0, record[i].size() - (parameter.required ? 0 : 1));
        }
    } else if (record[0] == "failed" && record.size() >= 3) {
        one.error = host_words(record[2]);
    }
}

void Judge::explain_early_end(const process::Outcome& outcome, double time_limit) {
    const auto failed = std::find_if(trial_.modules.begin(), trial_.modules.end(),
                                     [](const ModuleTrial& one) { return !one.error.empty(); });
    const bool known = failed != trial_.modules.end();  // then what the host said is told there
    const std::string& at = known ? failed->module : underway_.empty() ? last_begun_ : underway_.back();
    const std::string during = at.empty() ? "before it loaded anything" : fmt::format("while it loaded {}", at);
    if (outcome.timed_out) {
        trial_.trouble = fmt::format("the host was ended {} by the time limit of {:g} s", during, time_limit);
    } else {
        trial_.trouble = fmt::format("the host ended by itself {} (exit status {})", during, outcome.exit_status);
    }
    const std::string words = said_.empty() ? host_words(outcome.errors) : said_;
    if (!words.empty() && !known) trial_.trouble += ": " + words;
    if (outcome.output_cut) trial_.trouble += " (its output was longer than is kept)";
}

namespace {

/// Whether what the host tells is the version: by itself or among words, with fewer parts or more zeros.
bool tells_version(const std::string& told, const std::string& declared) {
    const auto wanted = versions::nearest_version(declared);
    const auto is_part = [](char c) {
        return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '.' || c == '+' || c == '-';
    };
    for (std::size_t at = 0; at < told.size();) {
        const auto begin = static_cast<std::size_t>(
            std::find_if(told.begin() + static_cast<std::ptrdiff_t>(at), told.end(), is_part) - told.begin());
        at = begin;
        while (at < told.size() && is_part(told[at])) ++at;
        const std::string word = told.substr(begin, at - begin);
        if (word == declared || (wanted && versions::nearest_version(word) == wanted)) return true;
    }
    return told == declared;
}

}  // namespace

void Judge::compare(ModuleTrial& one) const {
    std::sort(one.seen_members.begin(), one.seen_members.end());
    one.seen_members.erase(std::unique(one.seen_members.begin(), one.seen_members.end()), one.seen_members.end());
    const auto differ = [&](std::string what) { one.differences.push_back(std::move(what)); };
    if (one.actual_position == 0) {
        if (one.error.empty()) differ("was not loaded");
        return;
    }
    const bool untold = one.picked_file.empty() && !trial_.trouble.empty();  // the probe did not come to its report
    if (!untold && one.picked_file != one.predicted_file)
        differ(fmt::format("the host picked {}, predicted was {}", one.picked_file,
                           one.predicted_file.empty() ? "nothing" : one.predicted_file));
    // What did not load has its own difference, and those behind it move up.
    const auto failed = static_cast<std::size_t>(
        std::count_if(trial_.modules.begin(), trial_.modules.end(), [&](const ModuleTrial& other) {
            return other.actual_position == 0 && other.predicted_position < one.predicted_position;
        }));
    if (one.actual_position + failed != one.predicted_position)
        differ(fmt::format("was loaded as number {}, predicted was {}", one.actual_position,
                           one.predicted_position - failed));
    const std::string declared = space_.module(one.module)->version();
    if (!one.version.empty() && !tells_version(one.version, declared))
        differ(fmt::format("tells version {}, the manifest says {}", one.version, declared));
    if (!untold) compare_members(one);
}

namespace {

/// "(magnitude, epoch=)", as the host's report says it.
std::string called_with(const std::vector<members::FoundParameter>& parameters) {
    std::string out;
    for (const auto& parameter : parameters)
        out += (out.empty() ? "" : ", ") + parameter.name + (parameter.required ? "" : "=");
    return "(" + out + ")";
}

bool are_the_same(std::span<const members::FoundParameter> seen, std::span<const members::FoundParameter> expected) {
    return std::equal(seen.begin(), seen.end(), expected.begin(), expected.end(), [](const auto& a, const auto& b) {
        return a.required == b.required && (a.name == b.name || a.name == "_");
    });
}

/// How many differences of one sort are told one by one.
constexpr std::size_t many = 8;

}  // namespace

/// What the source says that members are called with, against what the host does.
void Judge::compare_calls(ModuleTrial& one) {
    for (const auto& expected : one.expected_calls) {
        const auto seen = std::find_if(one.seen.begin(), one.seen.end(), [&](const members::FoundMember& member) {
            return member.name == expected.name && member.tells_parameters;
        });
        if (seen == one.seen.end() || are_the_same(seen->parameters, expected.parameters)) continue;
        // The host may show the object too that a method is called on.
        const std::span<const members::FoundParameter> shown(seen->parameters);
        if (!shown.empty() && are_the_same(shown.subspan(1), expected.parameters)) continue;
        one.differences.push_back(fmt::format("`{}` is called with {}, the source says {}", expected.name,
                                              called_with(seen->parameters), called_with(expected.parameters)));
    }
}

void Judge::compare_members(ModuleTrial& one) const {
    const members::InternalNames internal(card_);
    std::erase_if(one.seen_members, [&](const std::string& member) {
        const auto& expected = one.expected_members;  // in order
        return internal.has(member) && !std::binary_search(expected.begin(), expected.end(), member);
    });
    std::vector<std::string> missing, more;
    std::set_difference(one.expected_members.begin(), one.expected_members.end(), one.seen_members.begin(),
                        one.seen_members.end(), std::back_inserter(missing));
    std::set_difference(one.seen_members.begin(), one.seen_members.end(), one.expected_members.begin(),
                        one.expected_members.end(), std::back_inserter(more));
    if (missing.size() > many) {
        one.differences.push_back(
            fmt::format("{} members are not visible after loading: {}", missing.size(), text::listed(missing, many)));
    } else {
        for (const auto& member : missing)
            one.differences.push_back(fmt::format("`{}` is not visible after loading", member));
    }
    if (more.size() > many) {
        one.differences.push_back(fmt::format(
            "the host shows {} members that were not expected: {}; `envar members --from-host` takes them up",
            more.size(), text::listed(more, many)));
    } else {
        for (const auto& member : more)
            one.differences.push_back(fmt::format("the host shows `{}`, which was not expected", member));
    }
    compare_calls(one);
}

}  // namespace envar::trial
