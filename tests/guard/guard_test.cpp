// The rules of the house that a compiler does not keep: the order of the parts, and that the core never
// prints, exits, or asks the outside world. Each guard is shown a planted violation that it must catch.
#include <doctest/doctest.h>
#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <set>
#include <string>
#include <vector>

#include "core/files/read.hpp"
#include "core/model/fields.hpp"
#include "core/model/reference.hpp"

namespace {

namespace fs = std::filesystem;

const std::vector<std::string> parts = {"text",  "files",   "process", "versions", "model", "search", "resolve",
                                        "order", "members", "emit",    "check",    "life",  "trial",  "figures"};

std::size_t rank(const std::string& part) {
    return static_cast<std::size_t>(std::find(parts.begin(), parts.end(), part) - parts.begin());
}

/// Includes of `text`, a file of the part, that point to the same part's users or to the command line.
std::vector<std::string> wrong_includes(const std::string& part, const std::string& text) {
    static const re2::RE2 include("#include \"(core|cli|tests)/([a-z_]+)");
    re2::StringPiece rest(text);
    std::string root;
    std::string other;
    std::vector<std::string> wrong;
    while (re2::RE2::FindAndConsume(&rest, include, &root, &other))
        if (root != "core" || rank(other) > rank(part)) wrong.push_back(fmt::format("{}/{}", root, other));
    return wrong;
}

std::string without_comments_and_strings(std::string text) {
    re2::RE2::GlobalReplace(&text, R"(//[^\n]*)", "");
    re2::RE2::GlobalReplace(&text, R"("(?:[^"\\\n]|\\.)*")", "\"\"");
    return text;
}

/// Each place in the code, comments and strings left out, where one of the words stands.
std::vector<std::string> words_found(const std::string& text, const re2::RE2& words) {
    const std::string code = without_comments_and_strings(text);
    re2::StringPiece rest(code);
    std::string word;
    std::vector<std::string> found;
    while (re2::RE2::FindAndConsume(&rest, words, &word)) found.push_back(word);
    return found;
}

/// What the core must not do, by the words that do it.
std::vector<std::string> forbidden_words(const std::string& text) {
    static const re2::RE2 words(
        R"(\b(std::cout|std::cerr|std::clog|printf|fprintf|puts|fputs|putchar|fwrite|perror|fmt::print|std::exit|_exit|abort|quick_exit|getenv|secure_getenv|environ|current_path|getcwd|system_clock|std::time|gmtime|localtime|random_device|setlocale)\b)");
    return words_found(text, words);
}

/// Writing to the disk, which only core/files may do.
std::vector<std::string> writing_words(const std::string& text) {
    static const re2::RE2 words(
        R"(\b(ofstream|fopen|O_CREAT|O_WRONLY|create_directory|create_directories|remove_all|fs::rename|fs::remove|unlink|mkdir|mkstemp|mkdtemp|create_symlink)\b)");
    return words_found(text, words);
}

/// Where the names of other libraries are declared; a name that is not listed may come from anywhere.
const std::map<std::string, std::string> declared_in = {
    {"std::string", "string"},
    {"std::string_view", "string_view|string"},
    {"std::vector", "vector"},
    {"std::uint8_t", "cstdint"},
    {"std::uint32_t", "cstdint"},
    {"std::uint64_t", "cstdint"},
    {"std::int64_t", "cstdint"},
    {"std::filesystem", "filesystem"},
    {"std::optional", "optional"},
    {"std::map", "map"},
    {"std::set", "set"},
    {"std::array", "array"},
    {"std::unique_ptr", "memory"},
    {"std::shared_ptr", "memory"},
    {"std::pair", "utility|map|vector|string"},
    {"std::move", "utility|map|vector|string"},
    {"std::span", "span"},
    {"std::function", "functional"},
    {"std::unordered_map", "unordered_map"},
    {"std::atomic", "atomic"},
    {"std::deque", "deque"},
    {"std::thread", "thread"},
    {"std::countr_zero", "bit"},
    {"std::popcount", "bit"},
    {"std::min", "algorithm"},
    {"std::find", "algorithm"},
    {"std::any_of", "algorithm"},
    {"std::strong_ordering", "compare"},
    {"std::bitset", "bitset"},
    {"std::initializer_list", "initializer_list|vector|string"},
    {"std::is_enum_v", "type_traits"},
    {"nlohmann::json", "nlohmann/json_fwd.hpp|nlohmann/json.hpp"},
    {"nlohmann::ordered_json", "nlohmann/json_fwd.hpp|nlohmann/json.hpp"},
    {"tl::expected", "tl/expected.hpp"},
    {"tl::unexpected", "tl/expected.hpp"},
    {"re2::RE2", "re2/re2.h"}};

/// Names of other libraries that a header uses without including what declares them: `std::set: set`.
std::vector<std::string> not_included(const std::string& header) {
    const std::string code = without_comments_and_strings(header);
    static const re2::RE2 name(R"(\b((?:std|fmt|tl|re2|nlohmann)::\w+))");
    re2::StringPiece rest(code);
    std::string found;
    std::set<std::string> missing;
    while (re2::RE2::FindAndConsume(&rest, name, &found)) {
        const auto declared = declared_in.find(found);
        if (declared == declared_in.end()) continue;
        if (!re2::RE2::PartialMatch(code, fmt::format("#include <(?:{})>", declared->second)))
            missing.insert(fmt::format("{}: {}", found, declared->second));
    }
    return {missing.begin(), missing.end()};
}

std::map<std::string, std::string> core_files() {
    std::map<std::string, std::string> files;
    for (const auto& part : parts) {
        const std::string folder = fmt::format("{}/core/{}", ENVAR_SOURCE_FOLDER, part);
        for (const auto& name : envar::files::list_folder(folder))
            files[fmt::format("{}/{}", part, name)] =
                *envar::files::read_file(fmt::format("{}/{}", folder, name), 1U << 20U);
    }
    return files;
}

}  // namespace

TEST_CASE("parts include only parts above them") {
    CHECK(wrong_includes("files", "#include \"core/model/card.hpp\"\n") == std::vector<std::string>{"core/model"});
    CHECK(wrong_includes("order", "#include \"cli/command.hpp\"\n") == std::vector<std::string>{"cli/command"});
    CHECK(wrong_includes("model", "#include \"core/text/utf8.hpp\"\n#include \"core/model/card.hpp\"\n").empty());
    const auto files = core_files();
    CHECK(files.size() > 60);
    for (const auto& file : files) {
        const auto& name = file.first;
        const auto& text = file.second;
        CAPTURE(name);
        CHECK(wrong_includes(name.substr(0, name.find('/')), text).empty());
    }
    for (const auto& folder : envar::files::list_folder(ENVAR_SOURCE_FOLDER "/core"))
        if (folder != "CMakeLists.txt")
            CHECK_MESSAGE(rank(folder) < parts.size(), folder << " is no part of the list");
}

TEST_CASE("the core never prints, exits or asks the outside world") {
    CHECK(forbidden_words("void f() { std::cout << 1; }") == std::vector<std::string>{"std::cout"});
    CHECK(forbidden_words("int g() { return std::getenv(\"X\") ? 1 : 0; }") == std::vector<std::string>{"getenv"});
    CHECK(forbidden_words("auto t = std::chrono::system_clock::now();") == std::vector<std::string>{"system_clock"});
    CHECK(forbidden_words("// std::cout\nauto s = \"printf\";").empty());
    for (const auto& file : core_files()) {
        const auto& name = file.first;
        const auto& text = file.second;
        CAPTURE(name);
        CHECK(forbidden_words(text).empty());
    }
}

TEST_CASE("only the part files writes to the disk") {
    CHECK(writing_words("std::ofstream out(path);") == std::vector<std::string>{"ofstream"});
    CHECK(writing_words("if (::unlink(p) == 0) ::mkdir(p, 0);") == std::vector<std::string>{"unlink", "mkdir"});
    CHECK(writing_words("fs::create_directories(p);") == std::vector<std::string>{"create_directories"});
    for (const auto& file : core_files()) {
        const auto& name = file.first;
        const auto& text = file.second;
        CAPTURE(name);
        if (name.rfind("files/", 0) != 0) CHECK(writing_words(text).empty());
    }
}

TEST_CASE("headers include what they name of other libraries") {
    // The build looks whether each compiles by itself, but with the libraries known beforehand, to be done in time.
    CHECK(not_included("#include <vector>\nstd::vector<std::set<int>> a; // std::map\n") ==
          std::vector<std::string>{"std::set: set"});
    CHECK(not_included("#include <vector>\nstd::pair<int, std::size_t> a;").empty());
    std::size_t headers = 0;
    for (const auto& [name, text] : core_files()) {
        if (!name.ends_with(".hpp")) continue;
        ++headers;
        const std::string& file = name;
        CAPTURE(file);
        CHECK(fmt::format("{}", fmt::join(not_included(text), "\n")) == "");
    }
    CHECK(headers > 100);
}

TEST_CASE("no code knows one host from another") {
    static const re2::RE2 comparison(
        R"rx((==|!=)\s*"(bash|lua|zsh|fish|tcl|python|perl|guile)"|"(bash|lua|zsh|fish|tcl|python|perl|guile)"\s*(==|!=))rx");
    CHECK(re2::RE2::PartialMatch("if (host == \"lua\")", comparison));
    for (const auto& file : core_files()) {
        const auto& name = file.first;
        const auto& text = file.second;
        CAPTURE(name);
        CHECK_FALSE(re2::RE2::PartialMatch(text, comparison));
    }
    for (const auto& name : envar::files::list_folder(ENVAR_SOURCE_FOLDER "/cli/commands")) {
        CAPTURE(name);
        CHECK_FALSE(re2::RE2::PartialMatch(
            *envar::files::read_file(std::string(ENVAR_SOURCE_FOLDER "/cli/commands/") + name, 1U << 20U),
            comparison));
    }
}

namespace {

/// Keys of fields that code names instead of asking the table: in a look-up, as an edit's key, or as a row.
std::vector<std::string> keys_named(const std::string& text) {
    static const re2::RE2 places(
        R"rx(((?:find|set_key|remove_key|append_element|append_table|remove_element|field_of)\((?:[^()"]*, )?"[a-z_]+"|\.key = "[a-z_]+"|"\\?[\[a-z_]+\]?\\n[a-z_]+ = ))rx");
    re2::StringPiece rest(text);
    std::string place;
    std::vector<std::string> found;
    while (re2::RE2::FindAndConsume(&rest, places, &place)) found.push_back(place);
    return found;
}

/// Tables that messages, hints and examples speak of: `[search]`, "[[asset]]".
std::vector<std::string> tables_named(const std::string& text) {
    static const re2::RE2 literal(R"rx(("(?:[^"\\\n]|\\.)*"))rx");
    static const re2::RE2 form(R"rx((?:["` (]|\\n)\[\[?([a-z_]+(?:\.[a-z_]+)?)\]\]?["` ,.;)\\])rx");
    re2::StringPiece rest(text);
    std::string one;
    std::vector<std::string> found;
    while (re2::RE2::FindAndConsume(&rest, literal, &one)) {
        re2::StringPiece inner(one);
        std::string table;
        while (re2::RE2::FindAndConsume(&inner, form, &table)) found.push_back(table);
    }
    return found;
}

}  // namespace

TEST_CASE("a field stands in its table and nowhere else") {
    CHECK(keys_named("document.root.find(\"dependency\")").size() == 1);
    CHECK(keys_named("set_key(text, \"module\", 0, key, value)").size() == 1);
    CHECK(keys_named("{.key = \"name\", .type = Type::name}").size() == 1);
    CHECK(keys_named("out += \"[module]\\nname = \";").size() == 1);
    CHECK(keys_named("names.find(name); text.find(\"]]\");").empty());
    std::set<std::string> tables;
    for (const auto& table : envar::model::field_tables())
        envar::model::visit_fields(*table.fields, [&](const std::string& path, const envar::model::Field& field) {
            if (field.fields != nullptr) tables.insert(path);
        });
    CHECK(tables.size() > 25);
    CHECK(tables_named("[[nodiscard]] \"say so in `[exports]` or in [[no_such]] above\"").size() == 2);
    const std::set<std::string> homes = {"model/manifest_fields.cpp",    "model/card_fields.cpp",
                                         "model/card_gather_fields.cpp", "model/card_language_fields.cpp",
                                         "model/card_search_fields.cpp", "model/card_trial_fields.cpp",
                                         "model/name_advice.cpp",        "model/workspace_file.cpp"};
    auto files = core_files();
    for (const auto& name : envar::files::list_folder(ENVAR_SOURCE_FOLDER "/cli/commands"))
        files["commands/" + name] =
            *envar::files::read_file(std::string(ENVAR_SOURCE_FOLDER "/cli/commands/") + name, 1U << 20U);
    for (const auto& file : files) {
        const auto& name = file.first;
        const auto& text = file.second;
        CAPTURE(name);
        // JSON of Envar's own making has keys of its own, and the parser's words are no keys.
        const bool other_words = name == "model/document.cpp" || name == "files/transaction.cpp" ||
                                 name == "trial/report.cpp" || name == "resolve/lock.cpp";
        if (homes.count(name) == 0 && !other_words && name.rfind("model/schema", 0) != 0) {
            const auto named = keys_named(text);
            CAPTURE(fmt::format("{}", fmt::join(named, " | ")));
            CHECK(named.empty());
        }
        for (const std::string& table : tables_named(text))
            CHECK_MESSAGE(tables.count(table) == 1, name << " speaks of a table that is none: " << table);
    }
}

TEST_CASE("the reference page is the one that the tables make") {
    const auto page = envar::files::read_file(ENVAR_SOURCE_FOLDER "/docs/reference.md", 1U << 20U);
    REQUIRE(page.has_value());
    CHECK_MESSAGE(*page == envar::model::reference_page(), "run `envar explain --page > docs/reference.md`");
}
