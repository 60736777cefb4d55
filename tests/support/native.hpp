// What tests of native modules have in common.
#pragma once

#include <doctest/doctest.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "tests/support/driver.hpp"

namespace envar::tests {

inline const std::vector<std::string> systems = {"cmake", "meson", "make"};
inline const std::string strict = "-Wall -Wextra -Werror";

inline void scaffold(const Driver& driver, const std::string& name, const std::string& host,
                     const std::string& blueprint, const std::vector<std::string>& more = {}) {
    std::vector<std::string> words = {"scaffold", name, "--host", host, "--blueprint", blueprint, "--in", "native"};
    words.insert(words.end(), more.begin(), more.end());
    const Run run = driver.envar(words, "w");
    CHECK_MESSAGE(run.status == 0, name, ": ", run.errors);
}

inline void replace_in(const Driver& driver, const std::string& file, const std::string& from,
                       const std::string& to) {
    std::string text = driver.read(file);
    REQUIRE_MESSAGE(text.find(from) != std::string::npos, file, " holds no ", from);
    text.replace(text.find(from), from.size(), to);
    driver.write(file, text);
}

/// near ← middle (public) ← far (private), each using the one before.
inline void chain(const Driver& driver, const std::string& host, const std::string& kind) {
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    const std::string set = "kind=" + kind;
    scaffold(driver, "near", host, "library", {"--set", set, "--module-version", "1.2.0"});
    scaffold(driver, "middle", host, "library", {"--set", set, "--depend", "near >=1.1, <2"});
    scaffold(driver, "far", host, "library", {"--set", set, "--depend", "middle any"});
    CHECK(driver.envar({"depend", "middle", "near >=1.1, <2", "--public"}, "w").status == 0);
    replace_in(driver, "w/native/middle/include/middle/middle.hpp", "#include <string>",
               "#include <string>\n\n#include \"near/near.hpp\"");
    replace_in(driver, "w/native/middle/src/middle.cpp", "return \"0.1.0\"",
               "return near::version().empty() ? \"\" : \"0.1.0\"");
    replace_in(driver, "w/native/far/src/far.cpp", "#include \"far/far.hpp\"",
               "#include \"far/far.hpp\"\n\n#include \"middle/middle.hpp\"");
    replace_in(driver, "w/native/far/src/far.cpp", "return \"0.1.0\"",
               "return middle::version().empty() ? \"\" : \"0.1.0\"");
    CHECK(driver.envar({"emit"}, "w").status == 0);
}

inline std::vector<std::string> codes_of(const Driver& driver) {
    const Run run = driver.envar({"check", "--format", "json"}, "w");
    const nlohmann::json result = nlohmann::json::parse(run.output, nullptr, false);
    REQUIRE_MESSAGE(result.is_object(), run.output, run.errors);
    std::vector<std::string> codes;
    for (const auto& finding : result["findings"]) codes.push_back(finding["code"]);
    return codes;
}

inline bool has(const std::vector<std::string>& codes, const std::string& code) {
    return std::find(codes.begin(), codes.end(), code) != codes.end();
}

inline std::string path_of(const Driver& driver, const std::string& inner) {
    return (driver.folder() / inner).string();
}

}  // namespace envar::tests
