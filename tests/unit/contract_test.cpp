// What differs between two contracts, how much it weighs, and the version that follows.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <vector>

#include "core/members/contract.hpp"
#include "core/members/record.hpp"
#include "core/versions/version.hpp"

using namespace envar;

namespace {

model::Manifest manifest_of(const std::string& text) {
    std::vector<text::Finding> findings;
    const model::Document document = model::parse_document(
        text::Source("m", "[module]\nname = \"m\"\nversion = \"1.2.3\"\nhost = \"lua\"\nsummary = \"M.\"\n" + text));
    model::Manifest manifest = model::read_manifest(document, findings);
    for (const auto& finding : findings) CHECK_MESSAGE(false, finding.message);
    return manifest;
}

std::string member(const std::string& name, const std::string& more = "") {
    return "[[member]]\nname = \"" + name + "\"\n" + more;
}

/// A member `f` with parameters: `a` must be given, `[a]` need not, `a=` goes by its name, `*a` and `**a` are the
/// rest.
std::string taking(const std::string& parameters) {
    std::string out;
    for (std::size_t at = 0; at < parameters.size();) {
        const std::size_t end = std::min(parameters.find(", ", at), parameters.size());
        const std::string one = parameters.substr(at, end - at);
        const bool rest = one.starts_with("*"), by_name = one.starts_with("**") || one.ends_with("=");
        const std::size_t begin = one.find_first_not_of("*[");
        out += fmt::format("{{ name = \"{}\", required = {}, given = \"{}\" }}, ",
                           one.substr(begin, one.find_first_of("]=", begin) - begin), !rest && !one.starts_with("["),
                           rest      ? by_name ? "rest_by_name" : "rest"
                           : by_name ? "by_name"
                                     : "in_place");
        at = end + 2;
    }
    return member("f", "parameters = [" + out + "]\n");
}

/// "weight what member" of each difference, in order.
std::string told(const std::vector<members::Difference>& differences) {
    std::string out;
    for (const auto& one : differences)
        out += fmt::format("{}{} {} {}", out.empty() ? "" : "; ", members::weight_name(one.weight), one.what,
                           one.member);
    return out;
}

}  // namespace

TEST_CASE("differences of contracts") {
    struct Row {
        std::string before, after, told;
    };
    const std::string two = "parameters = [{ name = \"a\" }, { name = \"b\" }]\n";
    for (const Row& row : std::vector<Row>{
             {"", "", ""},
             {member("f"), member("f"), ""},
             {member("f"), "", "breaking removed f"},
             {"", member("f"), "addition added f"},
             {member("f", "summary = \"Does.\"\n" + two), member("g", "summary = \"Does.\"\n" + two),
              "breaking renamed f"},
             {member("f", "summary = \"Does.\"\n" + two), member("g", "summary = \"Does.\"\n"),
              "breaking removed f; addition added g"},
             {member("f"), member("f", "kind = \"variable\"\n"), "breaking kind changed f"},
             {member("f"), member("f", "summary = \"Does.\"\n"), "fix described anew f"},
             {member("f", two), member("f", "parameters = [{ name = \"b\" }, { name = \"a\" }]\n"),
              "breaking parameters reordered f"},
             {member("f", two), member("f", "parameters = [{ name = \"a\" }]\n"), "breaking parameter removed f"},
             {member("f", two), member("f", "parameters = [{ name = \"a\" }, { name = \"b\" }, { name = \"c\" }]\n"),
              "breaking parameter added f"},
             {member("f", two),
              member("f", "parameters = [{ name = \"a\" }, { name = \"b\" }, { name = \"c\", required = false }]\n"),
              "addition parameter added f"},
             {member("f", two),
              member("f", "parameters = [{ name = \"c\", required = false }, { name = \"a\" }, { name = \"b\" }]\n"),
              "breaking parameter added f"},
             {member("f", "parameters = [{ name = \"a\", required = false }]\n"),
              member("f", "parameters = [{ name = \"a\" }]\n"), "breaking parameter required f"},
             {member("f", "parameters = [{ name = \"a\" }]\n"),
              member("f", "parameters = [{ name = \"a\", required = false }]\n"), "addition parameter optional f"},
             {member("f", "parameters = [{ name = \"a\", required = false, default = 1 }]\n"),
              member("f", "parameters = [{ name = \"a\", required = false, default = 2 }]\n"),
              "breaking default changed f"},
             {member("f", "parameters = [{ name = \"a\", type = \"int\" }]\n"),
              member("f", "parameters = [{ name = \"a\", type = \"text\" }]\n"), "breaking type changed f"},
             {member("f", "parameters = [{ name = \"a\" }]\n"),
              member("f", "parameters = [{ name = \"a\", type = \"text\" }]\n"), ""},
             {taking("a, b"), taking("a, c"), "breaking parameter renamed f"},
             {taking("_, a, _"), taking("_, a, _"), ""},
             {taking("_, a, _"), taking("_, a, _, [_]"), "addition parameter added f"},
             {taking("_, a, _"), taking("b, a, _"), "breaking parameter renamed f"},
             {taking("_, a, _"), taking("_, a"), "breaking parameter removed f"},
             {taking("a, b"), taking("c, a"), "breaking parameter added f; breaking parameter removed f"},
             {taking("a"), taking("a, [x]"), "addition parameter added f"},
             {taking("a, b=, c="), taking("x=, a, c=, b="), "breaking parameter added f"},
             {taking("a, b=, c="), taking("a, [x]=, c=, b="), "addition parameter added f"},
             {taking("a, b"), taking("a, b="), "breaking parameter named f"},
             {taking("a, b="), taking("a, b"), ""},
             {taking("a, *b"), taking("a, *others"), ""},
             {taking("a, *b, **c"), taking("a, *c"), "breaking parameter removed f"},
             {taking("a, **b"), taking("a, [x]=, **c"), "addition parameter added f"},
             {taking("a"), taking("a, *rest, **more"), "addition parameter added f; addition parameter added f"},
             {"[[dependency]]\nmodule = \"n\"\n", "", "fix dependency dropped n"},
             {"[[dependency]]\nmodule = \"n\"\nvisibility = \"public\"\n", "", "breaking dependency dropped n"},
             {"[[dependency]]\nmodule = \"n\"\nvisibility = \"public\"\n", "[[dependency]]\nmodule = \"n\"\n",
              "breaking visibility changed n"},
             {"[[dependency]]\nmodule = \"n\"\n", "[[dependency]]\nmodule = \"n\"\nvisibility = \"public\"\n",
              "addition visibility changed n"},
             {"[[dependency]]\nmodule = \"n\"\noptional = true\n", "[[dependency]]\nmodule = \"n\"\n",
              "addition dependency required n"},
             {"", "[[dependency]]\nmodule = \"n\"\n", "addition dependency added n"},
             {"", "[[dependency]]\nmodule = \"n\"\nstage = \"test\"\n", ""},
             {"[entry]\nphase = \"early\"\n", "[entry]\nphase = \"late\"\n", "breaking phase moved "},
             {member("z") + member("a") + member("k"), member("b"),
              "breaking removed a; breaking removed k; breaking removed z; addition added b"},
         }) {
        CAPTURE(row.before);
        CAPTURE(row.after);
        const model::Manifest before = manifest_of(row.before), after = manifest_of(row.after);
        const members::Scan nothing;
        CHECK(told(members::differences({&before, &nothing, "m"}, {&after, &nothing, "m"})) == row.told);
        // A record of the old state says the same, and one of the new state nothing.
        members::Record record;
        record.source = text::Source("r", members::record_text({&before, &nothing, "m"}));
        std::vector<text::Finding> findings;
        record.manifest = model::read_manifest(model::parse_document(record.source), findings);
        CHECK(findings.empty());
        CHECK(told(members::since_record(record, {&after, &nothing, "m"})) == row.told);
        CHECK(members::since_record(record, {&before, &nothing, "m"}).empty());
    }
}

TEST_CASE("the version that follows") {
    struct Row {
        std::string before, weights, after;
        versions::Scheme scheme = versions::Scheme::semantic;
    };
    for (const Row& row : std::vector<Row>{
             {"1.2.3", "", "1.2.3"},
             {"1.2.3", "f", "1.2.4"},
             {"1.2.3", "af", "1.3.0"},
             {"1.2.3", "baf", "2.0.0"},
             {"0.2.3", "f", "0.2.4"},
             {"0.2.3", "a", "0.2.4"},
             {"0.2.3", "b", "0.3.0"},
             {"2.0.0-rc.1", "b", "2.0.0"},
             {"1.2.3+build.5", "a", "1.3.0"},
             {"7", "f", "8", versions::Scheme::integer},
             {"7", "b", "8", versions::Scheme::integer},
             {"1.9", "a", "1.10", versions::Scheme::dotted},
         }) {
        CAPTURE(row.before);
        CAPTURE(row.weights);
        std::vector<members::Difference> differences;
        for (const char weight : row.weights)
            differences.push_back({weight == 'b'   ? members::Weight::breaking
                                   : weight == 'a' ? members::Weight::addition
                                                   : members::Weight::fix,
                                   "", "", "", 0, ""});
        const auto before = versions::parse_version(row.before, row.scheme);
        REQUIRE(before.has_value());
        CHECK(members::version_that_follows(*before, differences).text() == row.after);
    }
}
