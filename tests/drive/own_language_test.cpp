// A made-up language that a user's own card describes: everything that a card can say of a language, through the
// built program, with what each rule changes.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar;
using nlohmann::json;
using tests::Driver;
using tests::Run;

namespace {

const std::string card =
    "[host]\nname = \"dusk\"\nkind = \"script\"\nsummary = \"A made-up host.\"\nprograms = [\"sh\"]\n"
    "[naming]\nmodule = '[a-z_]+'\nexample = \"lamps\"\n[layout]\nentry = \"main.dusk\"\nmember = \"go\"\n"
    "[[file]]\npath = \"main.dusk\"\ntemplate = \"main.mustache\"\nownership = \"authored\"\npurpose = \"entry\"\n"
    "[[blueprint]]\nname = \"plain\"\nsummary = \"one file\"\n"
    "[language]\ncomment = \"%%\"\nstring = ['\"', '\"']\nescapes = [['^', '^^'], ['\"', '^\"'], [\"\\n\", '^n'], [\"\\r\", '^r']]\n";

const std::string member =
    "[[language.member]]\npattern = '^to\\s+(?P<name>[\\w/]+)(?:[ \\t]*\\[(?P<parameters>[^\\]]*)\\])?'\n"
    "example = \"to place [magnitude]\"\n";
const std::string bodies = "[[language.block]]\nopen = [\"to\"]\nclose = [\"done\"]\n";

struct Row {
    std::string what, rules, code, expected;  // "name(parameters):line", a blank behind each
};

std::string members_of(const Driver& driver) {
    const Run run = driver.envar({"members", "--format", "json"}, "w");
    REQUIRE_MESSAGE(json::accept(run.output), run.errors);
    const json result = json::parse(run.output);
    std::string out;
    for (const auto& one : result["modules"][0]["members"]) {
        if (!one["found"].get<bool>()) continue;
        std::string parameters;
        for (const auto& parameter : one["parameters"]) {
            parameters += (parameters.empty() ? "" : ",") + parameter["name"].get<std::string>();
            if (!parameter["required"].get<bool>()) parameters += "?";
        }
        out += fmt::format("{}({}):{} ", one["name"].get<std::string>(), parameters, one["line"].get<int>());
    }
    return out;
}

}  // namespace

TEST_CASE("a language of a user's own: what each rule of its card changes") {
    const std::string two = "to a\ndone\nto b\ndone\n";
    const std::vector<Row> rows = {
        {"nothing but members", member, "to a\nto b\nx to c\n", "a():1 b():2 "},
        {"blocks hide", member + bodies, "to a\n  to inner\n  done\ndone\nto b\ndone\n", "a():1 b():5 "},
        {"a comment", member + bodies, "%% to no\nto a %% to no\ndone\n", "a():2 "},
        {"a comment is none within a word", "comment_where = \"spaced\"\n" + member + bodies,
         "to a\n  x%%done\ndone\nto b\ndone\n", "a():1 b():4 "},
        {"a comment may begin anywhere", "comment_where = \"anywhere\"\n" + member + bodies,
         "to a\n  x%%done\ndone\nto b\ndone\n", "a():1 b():4 "},
        {"a comment begins where commands do", "comment_where = \"command\"\n" + member + bodies,
         "to a\n  x %% done\n  %% done\ndone\nto b\ndone\n", "a():1 b():5 "},
        {"long comments", "long_comments = [['(*', '*)']]\n" + member + bodies,
         "(* to no\ndone *)\nto a (* (* *)\ndone\n", "a():3 "},
        {"nested comments", "long_comments = [['(*', '*)']]\nnested_comments = true\n" + member + bodies,
         "(* (* to no *)\nto no\n*)\nto a\ndone\n", "a():4 "},
        {"long strings with a mark of their own", "long_strings = [['<(\\w*)<', '>\\1>']]\n" + member + bodies,
         "x <AB<\nto no\n>>\nto no\n>AB>\nto a\ndone\n", "a():6 "},
        {"documents", "heredoc = 'TEXT (?P<indent>-?)(?P<word>[A-Z]+)'\n" + member + bodies,
         "x TEXT END TEXT -EOT\nto no\nEND\nto no\n   EOT\nto a\ndone\n", "a():6 "},
        {"text that looks like marks", "plain = ['\\?.']\n" + member + bodies, "x ?\"\nto a\n  y ?\"\ndone\n",
         "a():2 "},
        {"quotes with an escape of their own", member + bodies + "[[language.quote]]\nopen = \"`\"\nescape = \"^\"\n",
         "x `^` to no\ndone`\nto a\ndone\n", "a():3 "},
        {"code in quotes",
         member + bodies + "[[language.quote]]\nopen = '\"'\nescape = \"^\"\ncode = [[\"{\", \"}\"]]\n",
         "x \"{ y \"to no\" } done\"\nto a\ndone\n", "a():2 "},
        {"quotes that end with the line", member + bodies + "[[language.quote]]\nopen = \"'\"\nlines = false\n",
         "x 'open\nto a\ndone\n", "a():2 "},
        {"blocks that hide nothing",
         member + bodies + "[[language.block]]\nopen = [\"when\"]\nclose = [\"stop\"]\nhides = \"none\"\n",
         "when x\nto a\ndone\nstop\nto b\ndone\n", "a():2 b():5 "},
        {"blocks that hide what their heads say",
         member + bodies +
             "[[language.block]]\nopen = [\"{\"]\nclose = [\"}\"]\nhides = \"bodies\"\nhead = '^local\\s'\n",
         "local {\nto no\ndone\n}\nshared {\nto a\ndone\n}\n", "a():6 "},
        {"words of blocks count where commands begin", "command_after = [\";\"]\n" + member + bodies,
         "to a\n  say done\n  say to\ndone; to b\ndone\n", "a():1 b():4 "},
        {"blocks in which other marks open nothing",
         member + bodies +
             "[[language.block]]\nopen = [\"<<\"]\nclose = [\">>\"]\ninner = [\"<<\"]\ndocuments = false\n",
         "x << to %% << done >> to >>\nto a\ndone\n", "a():2 "},
        {"blocks by indentation",
         member + "[[language.block]]\nindented = true\nhides = \"bodies\"\nhead = '^to\\b'\n",
         "to a\n  to inner\n    x\nto b\n  y\n", "a():1 b():4 "},
        {"names that are nobody's business", "internal = 'x_.*'\n" + member + bodies, "to x_a\ndone\nto b\ndone\n",
         "b():3 "},
        {"a list of what is shown", "export = '^shows (?P<names>[^\\n]*)'\n" + member + bodies,
         "shows b, c*\n" + two + "to c1\ndone\n", "b():4 "},
        {"a list with patterns", "export = '^shows (?P<names>[^\\n]*)'\nexport_globs = true\n" + member + bodies,
         "shows b, c*\n" + two + "to c1\ndone\nto d\ndone\n", "b():4 c1():6 "},
        {"lists in two ways", "export = '^shows (?P<names1>[^\\n]*)|@(?P<names2>\\w+)'\n" + member + bodies,
         "shows b\n" + two + "x @a\n", "a():2 b():4 "},
        {"names behind names", "qualifier = \"/\"\n" + member + bodies, "to sky/dome/a\ndone\nto b\ndone\n",
         "a():1 b():3 "},
        {"parameters", member + bodies, "to a [x, y = 1]\ndone\n", "a(x,y?):1 "},
        {"parameters with blanks between", "parameter_separator = \" \"\n" + member + bodies,
         "to a [x  y\nz]\ndone\n", "a(x,y,z):1 "},
        {"parameters that can be left out",
         "parameter_separator = \" \"\noptional_after = [\"|\"]\nparameter = '^(?P<name>\\w+)$'\n" + member + bodies,
         "to a [x y | z]\ndone\n", "a(x,y,z?):1 "},
        {"what stands before a definition", "before = ['deep', 'wide(?:\\(\\d\\))?']\n" + member + bodies,
         "deep wide(2)\n deep to a\ndone\nshallow to no\n", "a():2 "},
        {"names behind other words",
         "[[language.member]]\npattern = '^(?P<declared>[\\w* ]+)\\('\nexample = \"big lamp a(\"\n",
         "big *a (\nb(\nbig 2c(\n", "a():1 "},
        {"parameters behind their types",
         "parameter = '^(?P<declared>[^=]*)(?:=(?P<default>.*))?$'\n" + member + bodies,
         "to a [star x, far star y = 1, z]\ndone\n", "a(x,y?):1 "},
        {"lines that are taken as they are",
         "raw_lines = [\"#\"]\nlong_comments = [['(*', '*)']]\n" + member + bodies,
         "# to \" (* \" to no\n*) to \\\n to no\nto a\n # to\n  x # done\nto b\ndone\n", "a():4 b():7 "},
        {"what looks like a definition and is none",
         "[[language.member]]\npattern = '^to\\s+nothing\\b'\nrole = \"none\"\nexample = \"to nothing\"\n" + member,
         "to nothing\nto a\n", "a():2 "},
        {"marks of other blocks in what is hidden",
         member + bodies + "[[language.block]]\nopen = [\"(\"]\nclose = [\")\"]\n",
         "to a\n  x ( ( to done y\ndone\nto b\ndone\n(x\n)\nto c\ndone\n", "a():1 b():4 c():8 "},
        {"blocks in blocks of their kind", member + "[[language.block]]\nopen = [\"{\"]\nclose = [\"}\"]\n",
         "to a {\n{ to no }\n{{\"}\"} %% }\nto no}\n}\nto b {\n}\n", "a():1 b():6 "},
        {"other ways of writing",
         member + bodies +
             "[[language.member]]\npattern = '^forget\\s+(?P<name>\\w+)'\nrole = \"gone\"\nexample = \"forget a\"\n",
         two + "forget a\n", "b():3 "},
    };
    for (const Row& row : rows) {
        CAPTURE(row.what);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        driver.write("w/hosts/dusk/dusk.host.toml", card + row.rules);
        driver.write("w/hosts/dusk/main.mustache", "{{#comment}}{{{summary}}}{{/comment}}\n");
        const Run sound = driver.envar({"hosts", "check", "dusk"}, "w");
        CHECK_MESSAGE(sound.status == 0, sound.output, sound.errors);
        const Run made = driver.envar({"scaffold", "lamps", "--host", "dusk"}, "w");
        REQUIRE_MESSAGE(made.status == 0, made.output, made.errors);
        const Run where = driver.program({"find", (driver / "w").string(), "-name", "main.dusk"});
        const std::string file = where.output.substr(0, where.output.find('\n'));
        driver.write(file.substr((driver / "").string().size()), row.code);
        CHECK(members_of(driver) == row.expected);
    }
}
