// Which functions of loose scripts become a module, and what goes along with them.
#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <array>
#include <set>

#include "core/life/gather.hpp"
#include "core/model/field_values.hpp"
#include "core/text/names.hpp"

namespace envar::life {
namespace {

using text::refuse;
using text::Result;

constexpr std::size_t most_listed = 8;
constexpr std::string_view fixed_path =
    R"((?:^|[\s"'=:(<>`])((?:~|/(?:home|Users|opt|srv|mnt|media|var|data|root|export|net|scratch))/[^\s"'`;)<>|]+))";
constexpr std::string_view fixed_host =
    R"(((?:https?|ftp|ssh|rsync)://[\w.-]+|\b(?:\d{1,3}\.){3}\d{1,3}\b|\b\w+@[\w-]+(?:\.[\w-]+)+|\b[a-z][\w-]*(?:\.[\w-]+)*\.(?:com|org|net|local|lan|internal|intranet|example)\b))";

struct Suspicion {
    std::unique_ptr<re2::RE2> pattern, unless;
    std::string message;
    std::vector<std::string> programs;  // empty: any
    [[nodiscard]] bool is_for(const std::string& program) const {
        return programs.empty() || std::find(programs.begin(), programs.end(), program) != programs.end();
    }
};

class Chooser {
  public:
    Chooser(const LooseScripts& scripts, const model::Card& card, const std::string& module,
            const GatherWishes& wishes)
        : scripts_(scripts),
          functions_(scripts.functions),
          card_(card),
          module_(module),
          wishes_(wishes),
          member_(card.member_pattern, re2::RE2::Quiet),
          internal_(card) {
        for (std::size_t i = 0; i < functions_.size(); ++i) by_name_[functions_[i].name()].push_back(i);
        for (const auto& warning : card.gather.warnings) {
            Suspicion made;
            made.pattern = std::make_unique<re2::RE2>("(?m)" + warning.pattern, re2::RE2::Quiet);
            if (!made.pattern->ok()) continue;
            if (!warning.unless.empty())
                made.unless = std::make_unique<re2::RE2>("(?m)" + warning.unless, re2::RE2::Quiet);
            made.message = warning.message;
            made.programs = warning.programs;
            suspicions_.push_back(std::move(made));
        }
    }

    Result<Chosen> run() {
        if (auto fine = understand_wishes(); !fine) return tl::unexpected(fine.error());
        for (const auto& [name, group] : by_name_)
            if (is_wanted(name, group))
                if (auto fine = take(name, group); !fine) return tl::unexpected(fine.error());
        if (picked_.empty() && out_.clashes.empty())
            return refuse("no function is left to gather",
                          out_.left_out.empty() ? "pick some with --pick" : out_.left_out.front());
        std::vector<std::size_t> open;
        for (const auto& one : picked_) open.push_back(one.first);
        for (; !open.empty(); open = called_by_statements()) {
            pull_in_helpers(std::move(open));
            find_along();
        }
        tell_along();
        for (const auto& [index, exported] : picked_) (exported ? out_.exported : out_.helpers).push_back(index);
        for (const auto& [index, exported] : picked_) suspect(index);
        return std::move(out_);
    }

  private:
    /// FILE:NAME or NAME.
    struct Wish {
        std::string name, file;
    };

    Result<Wish> parse(const std::string& text) const {
        Wish wish{text, {}};
        if (by_name_.count(text) != 0) return wish;
        if (const std::size_t colon = text.rfind(':'); colon != std::string::npos)
            wish = {text.substr(colon + 1), text.substr(0, colon)};
        const auto group = by_name_.find(wish.name);
        if (group == by_name_.end()) {
            std::vector<std::string> names;
            for (const auto& one : by_name_) names.push_back(one.first);
            const std::string near = text::did_you_mean(wish.name, names);
            return refuse(fmt::format("no script defines `{}`", wish.name),
                          near.empty() ? "`envar gather --list --from …` lists what there is" : near);
        }
        if (!wish.file.empty() && std::none_of(group->second.begin(), group->second.end(),
                                               [&](std::size_t i) { return is_from(i, wish.file); }))
            return refuse(fmt::format("`{}` is not defined in {}", wish.name, wish.file),
                          fmt::format("it is in {}", places(group->second)));
        return wish;
    }

    [[nodiscard]] std::string places(const std::vector<std::size_t>& group) const {
        std::vector<std::string> out;
        out.reserve(group.size());
        for (const std::size_t i : group) out.push_back(scripts_.place(i));
        return fmt::format("{}", fmt::join(out, ", "));
    }

    /// Whether a script is meant by a path, or by its last part.
    [[nodiscard]] static bool is_file(const std::string& script, std::string_view named) {
        while (named.starts_with("./")) named.remove_prefix(2);
        return script == named || (script.size() > named.size() && script.ends_with(named) &&
                                   script[script.size() - named.size() - 1] == '/');
    }
    [[nodiscard]] bool is_from(std::size_t index, std::string_view named) const {
        return is_file(scripts_.scripts[functions_[index].script].file, named);
    }

    Result<void> understand_wishes() {
        for (const auto& text : wishes_.pick) {
            auto wish = parse(text);
            if (!wish) return tl::unexpected(wish.error());
            picks_[wish->name].push_back(wish->file);
        }
        for (const auto& text : wishes_.drop) {
            auto wish = parse(text);
            if (!wish) return tl::unexpected(wish.error());
            for (const std::size_t i : by_name_[wish->name])
                if (wish->file.empty() || is_from(i, wish->file)) dropped_.insert(i);
        }
        for (const auto& file : wishes_.prefer)
            if (std::none_of(scripts_.scripts.begin(), scripts_.scripts.end(),
                             [&](const LooseScript& script) { return is_file(script.file, file); }))
                return refuse(fmt::format("`{}` is none of the scripts", file),
                              "--prefer names one of those in --from");
        return {};
    }

    /// Why a function can be no member of the module; empty: it can.
    [[nodiscard]] std::string hindrance(std::size_t index) const {
        const LooseFunction& function = functions_[index];
        if (function.member.nested) return "it is defined in a block, so whether it is there depends on what runs";
        if (!model::is_name(function.name())) return "a manifest cannot list its name";
        if (!card_.member_pattern.empty() && member_.ok() && !re2::RE2::FullMatch(function.name(), member_))
            return "its name is none for a member";
        if (card_.by_name && function.name() == module_) return "the module itself has its name";
        if (!function.member.scope.empty())
            return fmt::format(
                "it lies in {} and stays there: it comes along with those that call it, and `envar "
                "adopt` takes up scripts that are modules already",
                function.member.scope);
        return {};
    }

    [[nodiscard]] bool is_wanted(const std::string& name, const std::vector<std::size_t>& group) const {
        if (!picks_.empty()) return picks_.count(name) != 0;
        return !internal_.has(name) &&
               std::any_of(group.begin(), group.end(), [&](std::size_t i) { return dropped_.count(i) == 0; });
    }

    /// Takes the function of that name that the wishes choose.
    Result<void> take(const std::string& name, const std::vector<std::size_t>& group) {
        std::vector<std::size_t> able;
        std::string why;
        const auto pick = picks_.find(name);
        for (const std::size_t i : group) {
            if (dropped_.count(i) != 0) continue;
            if (pick != picks_.end() && std::none_of(pick->second.begin(), pick->second.end(), [&](const auto& file) {
                    return file.empty() || is_from(i, file);
                }))
                continue;
            const std::string hinders = hindrance(i);
            if (hinders.empty()) {
                able.push_back(i);
            } else {
                why = fmt::format("{}: {} is left out: {}", scripts_.place(i), name, hinders);
            }
        }
        if (able.empty() && !why.empty()) {
            if (pick != picks_.end()) return refuse(why, "pick others");
            out_.left_out.push_back(why);
        }
        if (!able.empty()) settle(name, able, "", true);
        return {};
    }

    /// One of functions of one name: the only one, that of a preferred file, or any where all have one body.
    void settle(const std::string& name, const std::vector<std::size_t>& able, const std::string& needed_by,
                bool exported) {
        std::size_t chosen = able[0];
        const bool one_body = std::all_of(
            able.begin(), able.end(), [&](std::size_t i) { return functions_[i].body == functions_[able[0]].body; });
        const auto preferred = prefer(able);
        if (preferred) chosen = *preferred;
        // Of equal ones the first that is documented.
        if (one_body && functions_[chosen].member.documentation.empty())
            for (const std::size_t i : able)
                if (functions_[chosen].member.documentation.empty() && !functions_[i].member.documentation.empty())
                    chosen = i;
        if (!one_body && !preferred) {
            out_.clashes.push_back({name, able, needed_by});
            settled_[name] = able[0];
            return;
        }
        settled_[name] = chosen;
        picked_[chosen] = exported;
    }

    [[nodiscard]] std::optional<std::size_t> prefer(const std::vector<std::size_t>& able) const {
        for (const auto& file : wishes_.prefer)
            for (const std::size_t i : able)
                if (is_from(i, file)) return i;
        return std::nullopt;
    }

    /// What chosen functions call comes along: from the same script where it is there.
    void pull_in_helpers(std::vector<std::size_t> open) {
        while (!open.empty()) {
            const std::size_t caller = open.back();
            open.pop_back();
            for (const auto& name : functions_[caller].calls) {
                const auto known = settled_.find(name);
                const auto own = std::find_if(by_name_[name].begin(), by_name_[name].end(), [&](std::size_t i) {
                    return functions_[i].script == functions_[caller].script;
                });
                if (known != settled_.end()) {
                    if (own != by_name_[name].end() && functions_[known->second].body != functions_[*own].body)
                        note_other(caller, name, known->second, *own);
                    continue;
                }
                // What other scripts define is called only where it is loaded, which a script does not tell.
                std::vector<std::size_t> able = own != by_name_[name].end() ? std::vector{*own} : by_name_[name];
                const auto preferred = prefer(by_name_[name]);
                if (preferred) able = {*preferred};
                std::erase_if(able, [&](std::size_t i) { return functions_[i].member.nested; });
                if (able.empty()) {
                    out_.warnings.push_back(
                        fmt::format("{}: {} calls {}, which is defined in a block and stays behind",
                                    scripts_.place(caller), functions_[caller].name(), name));
                    continue;
                }
                if (able.size() > 1 && own == by_name_[name].end()) able.erase(able.begin() + 1, able.end());
                settle(name, able, functions_[caller].name(), false);
                if (own == by_name_[name].end())
                    out_.warnings.push_back(fmt::format(
                        "{}: {} calls {}, which another script defines ({}): it comes along", scripts_.place(caller),
                        functions_[caller].name(), name, scripts_.place(able[0])));
                open.push_back(able[0]);
            }
        }
    }

    /// A function calls by name what is something else in the module.
    void note_other(std::size_t caller, const std::string& name, std::size_t taken, std::size_t own) {
        const auto pick = picks_.find(name);
        const bool asked_for =
            prefer({taken}) || dropped_.count(own) != 0 ||
            (pick != picks_.end() && std::any_of(pick->second.begin(), pick->second.end(),
                                                 [](const std::string& file) { return !file.empty(); }));
        if (asked_for) {
            out_.warnings.push_back(fmt::format(
                "{}: {} calls the {} of {} from now on, which differs from its own ({})", scripts_.place(caller),
                functions_[caller].name(), name, scripts_.place(taken), scripts_.place(own)));
            return;
        }
        const bool known = std::any_of(out_.clashes.begin(), out_.clashes.end(),
                                       [&](const Clash& clash) { return clash.name == name; });
        if (!known) out_.clashes.push_back({name, {taken, own}, functions_[caller].name()});
    }

    // What goes along.

    /// Statements that go along may call functions of their script, which then come along too.
    std::vector<std::size_t> called_by_statements() {
        std::vector<std::size_t> fresh;
        for (const auto& along : out_.along)
            for (const std::size_t at : along.second)
                for (const auto& word : scripts_.scripts[along.first].statements[at].words) {
                    const auto known = by_name_.find(word);
                    if (known == by_name_.end() || settled_.count(word) != 0) continue;
                    const auto own = std::find_if(known->second.begin(), known->second.end(), [&](std::size_t i) {
                        return functions_[i].script == along.first && !functions_[i].member.nested;
                    });
                    if (own == known->second.end()) continue;
                    settle(word, {*own}, scripts_.scripts[along.first].file, false);
                    fresh.push_back(*own);
                }
        return fresh;
    }

    void find_along() {
        out_.along.clear();
        std::map<std::size_t, std::set<std::string_view>> wanted;  // script → words of what is taken from it
        for (const auto& one : picked_) {
            const LooseFunction& function = functions_[one.first];
            auto& words = wanted[function.script];
            each_word(function.uses, [&](std::string_view word) { words.insert(word); });
        }
        for (auto& of_script : wanted) {
            const std::size_t script = of_script.first;
            auto& words = of_script.second;
            const auto& statements = scripts_.scripts[script].statements;
            std::set<std::size_t> taken;
            for (bool more = true; more;) {
                more = false;
                for (std::size_t i = 0; i < statements.size(); ++i) {
                    const LooseStatement& one = statements[i];
                    const bool needed =
                        one.along &&
                        (one.always || std::any_of(one.names.begin(), one.names.end(),
                                                   [&](const auto& name) { return words.count(name) != 0; }));
                    if (!needed || !taken.insert(i).second) continue;
                    each_word(one.uses, [&](std::string_view word) { words.insert(word); });
                    more = true;
                }
            }
            out_.along[script].assign(taken.begin(), taken.end());
            words_[script] = std::move(words);
        }
    }

    void tell_along() {
        for (const auto& [script, statements] : out_.along)
            tell_statements(script, {statements.begin(), statements.end()}, words_.at(script));
        tell_conflicting();
    }

    template <class Take>
    static void each_word(std::string_view code, const Take& take) {
        const auto is_letter = [](char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; };
        for (std::size_t at = 0; at < code.size();) {
            while (at < code.size() && !is_letter(code[at])) ++at;
            const std::size_t begin = at;
            while (at < code.size() && is_letter(code[at])) ++at;
            if (at > begin) take(code.substr(begin, at - begin));
        }
    }

    void tell_statements(std::size_t script, const std::set<std::size_t>& taken,
                         const std::set<std::string_view>& words) {
        std::size_t left = 0, first_left = 0;
        for (std::size_t i = 0; i < scripts_.scripts[script].statements.size(); ++i) {
            const LooseStatement& one = scripts_.scripts[script].statements[i];
            if (taken.count(i) == 0) {
                const bool sets = std::any_of(one.names.begin(), one.names.end(),
                                              [&](const auto& name) { return words.count(name) != 0; });
                if (!one.along && sets)
                    out_.warnings.push_back(fmt::format(
                        "{}:{}: what sets {} stays behind in the script, {}", scripts_.scripts[script].file, one.line,
                        text::listed(one.names, most_listed),
                        one.own ? "as the module has its own"
                                : "as it calls functions too: see to it that the module has what it needs"));
                if (!one.along && !sets && left++ == 0) first_left = one.line;
                continue;
            }
            // What says beforehand that there will be a function is nothing to be told.
            if (!one.names.empty() && std::all_of(one.names.begin(), one.names.end(),
                                                  [&](const auto& name) { return settled_.count(name) != 0; }))
                continue;
            for (const auto& word : one.words)
                if (settled_.count(word) != 0)
                    out_.warnings.push_back(fmt::format("{}:{}: it calls {} when the module is loaded",
                                                        scripts_.scripts[script].file, one.line, word));
            // What a function does when it is called, a statement does when the module is loaded.
            each_suspicion(one.code, scripts_.scripts[script].program, [&](const std::string& what) {
                out_.warnings.push_back(
                    fmt::format("{}:{}: what comes along {}, and does so when the module is loaded",
                                scripts_.scripts[script].file, one.line, what));
            });
            if (one.always) continue;
            out_.warnings.push_back(fmt::format("{}:{}: what sets {} comes along: it is the module's own from now on",
                                                scripts_.scripts[script].file, one.line,
                                                text::listed(one.names, most_listed)));
        }
        if (left > 0)
            out_.warnings.push_back(fmt::format(
                "{}:{}: {} at the outermost level {} behind in the script", scripts_.scripts[script].file, first_left,
                left == 1 ? "a statement" : fmt::format("{} statements", left), left == 1 ? "stays" : "stay"));
    }

    /// Two scripts that set one name differently.
    void tell_conflicting() {
        std::map<std::string_view, std::pair<std::size_t, const LooseStatement*>> set;
        for (const auto& [script, statements] : out_.along)
            for (const std::size_t i : statements) {
                const LooseStatement& one = scripts_.scripts[script].statements[i];
                for (const auto& name : one.names) {
                    const auto [known, fresh] = set.try_emplace(name, script, &one);
                    if (fresh || known->second.first == script || known->second.second->code == one.code) continue;
                    out_.warnings.push_back(fmt::format(
                        "{}:{}: it sets {} in another way than {}:{}", scripts_.scripts[script].file, one.line, name,
                        scripts_.scripts[known->second.first].file, known->second.second->line));
                }
            }
    }

    template <class Tell>
    void each_suspicion(const std::string& code, const std::string& program, const Tell& tell) const {
        for (const auto& suspicion : suspicions_)
            if (suspicion.is_for(program) && re2::RE2::PartialMatch(code, *suspicion.pattern) &&
                !(suspicion.unless && suspicion.unless->ok() && re2::RE2::PartialMatch(code, *suspicion.unless)))
                tell(suspicion.message);
    }

    /// What may not survive the move.
    void suspect(std::size_t index) {
        const LooseFunction& function = functions_[index];
        const auto tell = [&](const std::string& what) {
            out_.warnings.push_back(fmt::format("{}: {} {}", scripts_.place(index), function.name(), what));
        };
        each_suspicion(function.body, scripts_.scripts[function.script].program, tell);
        static const re2::RE2 path{std::string(fixed_path)}, host{std::string(fixed_host)};
        for (const auto& [pattern, what] : {std::pair(&path, "path"), std::pair(&host, "host")}) {
            std::string found;
            if (re2::RE2::PartialMatch(function.body, *pattern, &found))
                tell(fmt::format("holds a fixed {}: {}", what, found));
        }
    }

    const LooseScripts& scripts_;
    const std::vector<LooseFunction>& functions_;
    const model::Card& card_;
    const std::string& module_;
    const GatherWishes& wishes_;
    re2::RE2 member_;
    members::InternalNames internal_;
    std::vector<Suspicion> suspicions_;
    std::map<std::string, std::vector<std::size_t>> by_name_;
    std::map<std::string, std::vector<std::string>> picks_;  // name → files; an empty one: any
    std::set<std::size_t> dropped_;
    std::map<std::string, std::size_t> settled_;  // name → the function that it stands for in the module
    std::map<std::size_t, bool> picked_;          // function → whether it is exported
    std::map<std::size_t, std::set<std::string_view>> words_;  // script → words of what is taken from it
    Chosen out_;
};

}  // namespace

Result<Chosen> choose_functions(const LooseScripts& scripts, const model::Card& card, const std::string& module,
                                const GatherWishes& wishes) {
    return Chooser(scripts, card, module, wishes).run();
}

std::vector<Loader> possible_loaders(const LooseScripts& scripts, const Chosen& chosen) {
    std::map<std::string_view, const LooseFunction*> taken;
    for (const auto* list : {&chosen.exported, &chosen.helpers})
        for (const std::size_t i : *list) taken[scripts.functions[i].name()] = &scripts.functions[i];
    std::map<std::size_t, Loader> loaders;
    for (const auto& function : scripts.functions) {
        const auto found = taken.find(function.name());
        if (found == taken.end() || found->second->body != function.body) continue;
        Loader& loader = loaders[function.script];
        loader.script = function.script;
        loader.functions.push_back(function.name());
    }
    std::vector<Loader> out;
    out.reserve(loaders.size());
    for (auto& one : loaders) out.push_back(std::move(one.second));
    return out;
}

}  // namespace envar::life
