// The rules of the house that a compiler does not keep: the order of the parts, and that the core never
// prints, exits, or asks the outside world. Each guard is shown a planted violation that it must catch.
#include <doctest/doctest.h>
#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <string>
#include <vector>

#include "core/files/read.hpp"

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
        if (root != "core" || rank(other) > rank(part)) wrong.push_back(root + "/" + other);
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

std::map<std::string, std::string> core_files() {
    std::map<std::string, std::string> files;
    for (const auto& part : parts)
        for (const auto& name : envar::files::list_folder(std::string(ENVAR_SOURCE_FOLDER "/core/") + part))
            files[part + "/" + name] =
                *envar::files::read_file(std::string(ENVAR_SOURCE_FOLDER "/core/") + part + "/" + name, 1U << 20U);
    return files;
}

}  // namespace

TEST_CASE("parts include only parts above them") {
    CHECK(wrong_includes("files", "#include \"core/model/card.hpp\"\n") == std::vector<std::string>{"core/model"});
    CHECK(wrong_includes("order", "#include \"cli/command.hpp\"\n") == std::vector<std::string>{"cli/command"});
    CHECK(wrong_includes("model", "#include \"core/text/utf8.hpp\"\n#include \"core/model/card.hpp\"\n").empty());
    const auto files = core_files();
    CHECK(files.size() > 60);
    for (const auto& [name, text] : files) {
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
    for (const auto& [name, text] : core_files()) {
        CAPTURE(name);
        CHECK(forbidden_words(text).empty());
    }
}

TEST_CASE("only the part files writes to the disk") {
    CHECK(writing_words("std::ofstream out(path);") == std::vector<std::string>{"ofstream"});
    CHECK(writing_words("if (::unlink(p) == 0) ::mkdir(p, 0);") == std::vector<std::string>{"unlink", "mkdir"});
    CHECK(writing_words("fs::create_directories(p);") == std::vector<std::string>{"create_directories"});
    for (const auto& [name, text] : core_files()) {
        CAPTURE(name);
        if (name.rfind("files/", 0) != 0) CHECK(writing_words(text).empty());
    }
}

TEST_CASE("no code knows one host from another") {
    static const re2::RE2 comparison(
        R"rx((==|!=)\s*"(bash|lua|zsh|fish|tcl|python|perl|guile)"|"(bash|lua|zsh|fish|tcl|python|perl|guile)"\s*(==|!=))rx");
    CHECK(re2::RE2::PartialMatch("if (host == \"lua\")", comparison));
    for (const auto& [name, text] : core_files()) {
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
