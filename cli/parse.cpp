#include "cli/parse.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <sstream>

#include "core/text/names.hpp"

namespace envar::cli {
namespace {

using text::fail;
using text::FailureKind;
using text::Result;

options::options_description shared_options() {
    options::options_description shared("Options of every command", 96);
    shared.add_options()                     //
        ("help", "show this page")           //
        ("version", "show Envar's version")  //
        ("workspace", options::value<std::string>()->value_name("DIR"),
         "work on this workspace; else the nearest above")                                                          //
        ("target", options::value<std::string>()->value_name("T"), "only what this target of the workspace loads")  //
        ("platform", options::value<std::string>()->value_name("P"), "conditions are judged for this platform")     //
        ("format", options::value<std::string>()->value_name("FORM"),
         "what goes to standard output: text or json")  //
        ("results", options::value<std::string>()->value_name("DIR"),
         "where result files are left; else envar-results")                                                    //
        ("jobs", options::value<std::string>()->value_name("N"), "threads to read with; else all processors")  //
        ("dry-run", "show the plan as a diff, write nothing")                                                  //
        ("quiet", "only the answer")                                                                           //
        ("verbose", "also what is being done")                                                                 //
        ("color", options::value<std::string>()->value_name("WHEN"), "colour the output: auto, always or never");
    return shared;
}

/// Position of the command in the arguments: the first word that is neither an option nor its value.
std::size_t command_position(const std::vector<std::string>& arguments, const options::options_description& shared) {
    for (std::size_t i = 0; i < arguments.size(); ++i) {
        const std::string& argument = arguments[i];
        if (argument.size() < 2 || argument[0] != '-') return i;
        if (argument.find('=') != std::string::npos || argument.rfind("--", 0) != 0) continue;
        const auto* option = shared.find_nothrow(argument.substr(2), false);
        if (option != nullptr && option->semantic()->max_tokens() > 0) ++i;
    }
    return arguments.size();
}

std::vector<std::string> option_names(const options::options_description& all) {
    std::vector<std::string> names;
    for (const auto& option : all.options()) names.push_back("--" + option->long_name());
    return names;
}

Result<options::variables_map> parse_half(const std::vector<std::string>& arguments,
                                          const options::options_description& all, bool words) {
    namespace style = options::command_line_style;
    options::options_description with_words;
    with_words.add(all);
    options::positional_options_description position;
    if (words) {
        with_words.add_options()("word", options::value<std::vector<std::string>>());
        position.add("word", -1);
    }
    try {
        options::command_line_parser parser(arguments);
        parser.options(with_words).positional(position).style(style::unix_style & ~style::allow_guessing);
        options::variables_map values;
        options::store(parser.run(), values);
        options::notify(values);
        return values;
    } catch (const options::unknown_option& error) {
        return fail(FailureKind::wrong_usage, fmt::format("there is no option `{}` here", error.get_option_name()),
                    text::did_you_mean(error.get_option_name(), option_names(all)));
    } catch (const options::error& error) {
        return fail(FailureKind::wrong_usage, error.what(), "`--help` shows how it is used");
    }
}

Result<const Command*> find_command(const std::string& name) {
    std::vector<std::string> names;
    for (const Command& command : command_table()) {
        if (command.name == name) return &command;
        names.emplace_back(command.name);
    }
    const std::string near = text::did_you_mean(name, names);
    return fail(FailureKind::wrong_usage, fmt::format("there is no command `{}`", name),
                near.empty() ? "`envar --help` lists the commands" : near);
}

options::options_description own_options(const Command& command) {
    options::options_description own("Options", 96);
    if (command.declare != nullptr) command.declare(own.add_options());
    return own;
}

Result<void> check_words(const Command& command, const std::vector<std::string>& words) {
    const std::string usage =
        fmt::format("envar {}{}{}", command.name, command.words.empty() ? "" : " ", command.words);
    if (words.size() < command.least_words)
        return fail(FailureKind::wrong_usage, fmt::format("`{}` needs more words", command.name), "usage: " + usage);
    if (words.size() > command.most_words)
        return fail(FailureKind::wrong_usage, fmt::format("`{}` is one word too many", words[command.most_words]),
                    "usage: " + usage);
    return {};
}

}  // namespace

Result<Parsed> parse_command_line(const std::vector<std::string>& arguments) {
    Parsed parsed;
    const auto shared = shared_options();
    const std::size_t cut = command_position(arguments, shared);
    auto first = parse_half({arguments.begin(), arguments.begin() + static_cast<std::ptrdiff_t>(cut)}, shared, false);
    if (!first) return tl::unexpected(first.error());
    parsed.shared = std::move(*first);
    if (cut == arguments.size()) return parsed;
    auto command = find_command(arguments[cut]);
    if (!command) return tl::unexpected(command.error());
    parsed.command = *command;
    options::options_description all;
    all.add(own_options(**command)).add(shared);
    auto second = parse_half({arguments.begin() + static_cast<std::ptrdiff_t>(cut) + 1, arguments.end()}, all, true);
    if (!second) return tl::unexpected(second.error());
    parsed.values = std::move(*second);
    for (const auto& option : shared.options())  // what stands behind the command counts
        if (parsed.values.count(option->long_name()) != 0) {
            parsed.shared.erase(option->long_name());
            parsed.shared.insert({option->long_name(), parsed.values[option->long_name()]});
        }
    if (parsed.values.count("word") != 0) parsed.words = parsed.values["word"].as<std::vector<std::string>>();
    if (parsed.shared.count("help") != 0) return parsed;
    return check_words(**command, parsed.words).map([&] { return std::move(parsed); });
}

std::string overview_text() {
    std::ostringstream out;
    out << "envar: a workbench for modules of shells, interpreters, engines and build systems\n\n"
           "usage: envar [options] COMMAND [words] [options]\n";
    std::string_view group;
    for (const Command& command : command_table()) {
        if (command.group != group) out << "\n" << command.group << "\n";
        group = command.group;
        out << fmt::format("  {:<10} {}\n", command.name, command.summary);
    }
    out << "\n" << shared_options();
    out << "\nA first workspace:\n"
           "  envar begin skydome && cd skydome\n"
           "  envar scaffold star_field --host lua\n"
           "  envar check && envar trial\n"
           "\n`envar COMMAND --help` explains one command, `envar explain CODE` a finding.\n"
           "Exit status: 0 fine, 1 the answer is no, 2 wrong usage, 3 the machine failed.\n";
    return out.str();
}

std::string help_text(const Command& command) {
    std::ostringstream out;
    out << fmt::format("envar {}: {}\n\nusage: envar {} {}{}[options]\n\n{}\n", command.name, command.summary,
                       command.name, command.words, command.words.empty() ? "" : " ", command.help);
    const auto own = own_options(command);
    if (!own.options().empty()) out << "\n" << own;
    out << "\n" << shared_options();
    return out.str();
}

}  // namespace envar::cli
