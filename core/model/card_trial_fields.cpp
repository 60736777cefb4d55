// The part of the field table of cards that says how a host is run. Rows are left as they are.
#include "core/model/binding.hpp"
#include "core/model/card.hpp"
#include "core/model/card_tables.hpp"

namespace envar::model {

// clang-format off
namespace {

const Fields trial_step_table = {
    {.key = "name", .type = Type::line, .required = true, .help = "what it does", .example = "\"configure\"",
     .bound = at<&TrialStep::name>()},
    {.key = "program", .type = Type::line, .help = "what is run; left out: the host's first program",
     .example = "\"ctest\"", .bound = at<&TrialStep::program>()},
    {.key = "arguments", .type = Type::texts, .required = true,
     .help = "its arguments (Mustache with source, build, prefix, consumer, module and jobs)",
     .example = "[\"--build\", \"{{build}}\"]", .bound = at<&TrialStep::arguments>()},
    {.key = "environment", .type = Type::pairs, .preset = "[]", .help = "further variables (Mustache as above)",
     .example = "[[\"DESTDIR\", \"\"]]", .bound = at<&TrialStep::environment>()},
    {.key = "setting", .type = Type::line,
     .help = "a further argument for each setting of the module (Mustache with name and value)",
     .example = "\"-D{{name}}={{value}}\"", .bound = at<&TrialStep::setting>()},
    {.key = "tests", .type = Type::boolean, .preset = "false", .help = "true: only when tests are asked for",
     .example = "true", .bound = at<&TrialStep::tests>()},
    {.key = "consumer", .type = Type::boolean, .preset = "false",
     .help = "true: a step of the project that uses the installed module, for libraries only", .example = "true",
     .bound = at<&TrialStep::consumer>()},
};

const Fields trial_run_table = {
    {.key = "phase", .type = Type::name, .required = true, .help = "the phase of the modules that it loads",
     .example = "\"editor\"", .bound = at<&TrialRun::phase>()},
    {.key = "arguments", .type = Type::texts, .required = true, .help = "arguments of the program, as in [trial]",
     .example = "[\"--editor\", \"--quit\"]", .bound = at<&TrialRun::arguments>()},
};

const Fields trial_line_table = {
    {.key = "event", .type = Type::word, .required = true, .values = {"loaded", "failed", "trouble", "end"},
     .help = "what the line tells: a module was loaded, or was not, something else went wrong, or all is done",
     .example = "\"loaded\"", .bound = at<&TrialLine::event>()},
    {.key = "pattern", .type = Type::pattern, .required = true,
     .help = "the line, with the groups `name`, `file`, `version`, `milliseconds` and `message` as far as it tells them",
     .example = "'loaded (?P<name>\\w+) in (?P<milliseconds>\\d+) ms'", .bound = at<&TrialLine::pattern>()},
};

const Fields trial_file_table = {
    {.key = "path", .type = Type::inner_path, .required = true, .help = "where in that project or folder (Mustache)",
     .example = "\"main.cpp\"", .bound = at<&TrialFile::path>()},
    {.key = "template", .type = Type::inner_path, .required = true, .help = "its template, relative to the card",
     .example = "\"consumer.cpp.mustache\"", .bound = at<&TrialFile::template_file>()},
};

}  // namespace

const Fields card_front_table = {
    {.key = "kind", .type = Type::word, .required = true, .values = {"command", "plugin", "binding"},
     .help = "what the native core becomes", .example = "\"binding\"", .bound = at<&CardFront::kind>()},
    {.key = "host", .type = Type::name, .help = "of a plugin or a binding: who loads it", .example = "\"lua\"",
     .bound = at<&CardFront::host>()},
    {.key = "form", .type = Type::word, .values = {"program", "loadable"}, .preset = "\"program\"",
     .help = "a program, or a library that is loaded at run time", .example = "\"loadable\"",
     .bound = at<&CardFront::form>()},
    {.key = "file", .type = Type::line, .required = true, .help = "name of the built file without its ending (Mustache)",
     .example = "\"{{name}}\"", .bound = at<&CardFront::file>()},
    {.key = "ending", .type = Type::line, .help = "how its name ends", .example = "\".so\"",
     .bound = at<&CardFront::ending>()},
    {.key = "install", .type = Type::inner_path, .required = true, .help = "where it goes below a prefix (Mustache)",
     .example = "\"lib/lua/5.4\"", .bound = at<&CardFront::install>()},
    {.key = "along", .type = Type::inner_paths, .preset = "[]",
     .help = "files of the module that are installed beside it (Mustache)", .example = "[\"fronts/{{front}}.xml\"]",
     .bound = at<&CardFront::along>()},
    {.key = "packages", .type = Type::texts, .preset = "[]",
     .help = "system packages that it is compiled with, as their `.pc` files are called", .example = "[\"lua5.4\"]",
     .bound = at<&CardFront::packages>()},
    {.key = "trial_programs", .type = Type::texts, .preset = "[]",
     .help = "programs, the first of which that is there proves that it loads; left out: the built file itself",
     .example = "[\"lua5.4\"]", .bound = at<&CardFront::trial_programs>()},
    {.key = "trial_arguments", .type = Type::texts, .preset = "[]",
     .help = "their arguments (Mustache with file, folder and name)", .example = "[\"--help\"]",
     .bound = at<&CardFront::trial_arguments>()},
};

const Fields card_trial_table = {
    {.key = "arguments", .type = Type::texts, .preset = "[]",
     .help = "arguments of the program (Mustache with `probe`, `sandbox` and `port`)", .example = "[\"{{probe}}\"]",
     .bound = at<&Card::trial_arguments>()},
    {.key = "probe", .type = Type::inner_path,
     .help = "template of the script that loads the modules and reports", .example = "\"probe.lua.mustache\"",
     .bound = at<&Card::trial_probe>()},
    {.key = "report", .type = Type::inner_path, .preset = "\"report\"",
     .help = "where the probe reports to, in the folder of the trial", .example = "\"world/report\"",
     .bound = at<&Card::trial_report>()},
    {.key = "seconds", .type = Type::integer, .preset = "10", .help = "time limit", .example = "10",
     .bound = at<&Card::trial_seconds>()},
    {.key = "environment", .type = Type::pairs, .preset = "[]", .help = "further variables that the host is given (Mustache with `sandbox`)",
     .example = "[[\"LUA_INIT\", \"\"]]", .bound = at<&Card::trial_environment>()},
    {.key = "test_arguments", .type = Type::texts, .preset = "[]",
     .help = "arguments of the program that run one test (Mustache with `file` and `runner`)",
     .example = "[\"{{file}}\"]", .bound = at<&Card::test_arguments>()},
    {.key = "test_runner", .type = Type::inner_path, .help = "template of a script that is run around each test",
     .example = "\"runner.zsh.mustache\"", .bound = at<&Card::test_runner>()},
    {.key = "step", .type = Type::tables, .help = "of a build system: what is run for each module, in order",
     .example = "[{ name = \"build\", arguments = [\"--build\", \"{{build}}\"] }]",
     .bound = within<&Card::trial_steps>(), .fields = &trial_step_table},
    {.key = "copy", .type = Type::inner_path,
     .help = "where each module is copied to, for hosts that write into what they load (Mustache)",
     .example = "\"project/{{folder_name}}\"", .bound = at<&Card::trial_copy>()},
    {.key = "copy_called", .type = Type::line, .help = "what the host calls that place (Mustache)",
     .example = "\"res://{{folder_name}}\"", .bound = at<&Card::trial_copy_called>()},
    {.key = "run", .type = Type::tables, .help = "a further run of the host, for modules of one phase",
     .example = "[{ phase = \"editor\", arguments = [\"--editor\"] }]",
     .bound = within<&Card::trial_runs>(), .fields = &trial_run_table},
    {.key = "line", .type = Type::tables, .help = "a line of what the host says, and what it means",
     .example = "[{ event = \"loaded\", pattern = 'loaded (?P<name>\\w+)' }]",
     .bound = within<&Card::trial_lines>(), .fields = &trial_line_table},
    {.key = "file", .type = Type::tables,
     .help = "a file that is written for it: of the project that uses an installed module, or where the host is started",
     .example = "[{ path = \"main.cpp\", template = \"consumer.cpp.mustache\" }]",
     .bound = within<&Card::trial_files>(), .fields = &trial_file_table},
    {.key = "found", .type = Type::pattern,
     .help = "what that project says it found, with the groups `version` and `file`",
     .example = "'found (?P<version>\\S+) at (?P<file>.*)'", .bound = at<&Card::trial_found>()},
};
// clang-format on

}  // namespace envar::model
