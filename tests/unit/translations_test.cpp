#include <doctest/doctest.h>

#include <random>
#include <string>

#include "core/text/translations.hpp"

using namespace envar;
using text::Translatable;

TEST_CASE("any text survives the way into a file of translations and back") {
    std::mt19937 random(3);
    const std::string letters = "ab \"\\\n\tä{}%#~.\r\x01";
    for (int round = 0; round < 500; ++round) {
        std::vector<Translatable> texts;
        for (unsigned i = 0; i < 1 + random() % 4; ++i) {
            std::string text;
            for (unsigned j = 0; j < random() % 200; ++j) text += letters[random() % letters.size()];
            texts.push_back({text, {"a:1"}, ""});
        }
        std::string file = text::new_translations(texts, "sky", "de");
        CHECK(text::with_missing(file, texts) == file);
        CHECK(text::read_translations(file).empty());
        // Translated by themselves: what is written as the text can be read as its translation.
        std::string done;
        for (std::size_t at = 0; at < file.size();) {
            const std::size_t id = file.find("\nmsgid ", at),
                              none = file.find("\nmsgstr \"\"\n", id == std::string::npos ? at : id);
            if (id == std::string::npos || none == std::string::npos) {
                done += file.substr(at);
                break;
            }
            done += file.substr(at, none + 1 - at) + "msgstr " + file.substr(id + 7, none - id - 7) + "\n";
            at = none + 11;
        }
        const auto read = text::read_translations(done);
        for (const auto& one : texts)
            if (!one.text.empty()) CHECK_MESSAGE((read.count(one.text) == 1 && read.at(one.text) == one.text), done);
    }
}

TEST_CASE("translations are read as gettext reads them") {
    struct Row {
        std::string file, text, translation;  // empty: it is not translated
    };
    for (const Row& row : std::vector<Row>{
             {"msgid \"a\"\nmsgstr \"b\"\n", "a", "b"},
             {"\xEF\xBB\xBFmsgid \"a\"\nmsgstr \"b\"\n", "a", "b"},
             {"msgid \"\"\n\"a\\n\"\n\"c\"\nmsgstr \"\"\n\"b\"\n", "a\nc", "b"},
             {"msgid   \"a\"\r\nmsgstr   \"b\"\r\n", "a", "b"},
             {"#, fuzzy\nmsgid \"a\"\nmsgstr \"b\"\n", "a", ""},
             {"#, c-format\n#: x:1\nmsgid \"a\"\nmsgstr \"b\"\n", "a", "b"},
             {"#~ msgid \"a\"\n#~ msgstr \"b\"\n", "a", ""},
             {"msgctxt \"x\"\nmsgid \"a\"\nmsgstr \"b\"\n", "a", ""},
             {"msgid \"a\"\nmsgid_plural \"as\"\nmsgstr[0] \"b\"\n", "a", ""},
             {"msgid \"a\"\nmsgstr \"\\101\\t\\\"\"\n", "a", "A\t\""},
             {"msgid \"a\"\nmsgstr \"b\n", "a", "b"},
             {"msgid \"a\"\n", "a", ""},
             {"\"stray\"\nmsgstr \"b\"\nmsgid \"a\"\nmsgstr \"c\"\n", "a", "c"},
             {std::string("\0\0msgid \"a\"", 11), "a", ""},
         }) {
        CAPTURE(row.file);
        const auto read = text::read_translations(row.file);
        const auto found = read.find(row.text);
        CHECK((found == read.end() ? "" : found->second) == row.translation);
    }
}
