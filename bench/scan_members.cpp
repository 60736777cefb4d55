// How fast members are found, on one thread and with the files in memory, against counting the lines of the same
// files: source a second, best of a few passes.
//
//   envar_scan_members HOSTS HOST FILE...
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>

#include "core/files/read.hpp"
#include "core/members/definitions.hpp"

using namespace envar;

namespace {

/// Seconds of the quickest of several passes.
template <class Pass>
double quickest(Pass pass) {
    constexpr double enough = 2;
    double best = enough, spent = 0;
    for (int passes = 0; spent < enough || passes < 3; ++passes) {
        const auto start = std::chrono::steady_clock::now();
        pass();
        const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
        best = std::min(best, took.count());
        spent += took.count();
    }
    return best;
}

}  // namespace

int main(int count, char** arguments) {
    if (count < 4) {
        fmt::print(stderr, "envar_scan_members HOSTS HOST FILE...\n");
        return 2;
    }
    std::vector<text::Finding> findings;
    const auto cards = model::load_cards({{arguments[1], "shipped"}}, "/", findings);
    const auto card =
        std::find_if(cards.begin(), cards.end(), [&](const auto& one) { return one.name.value == arguments[2]; });
    if (card == cards.end()) {
        fmt::print(stderr, "there is no card {} in {}\n", arguments[2], arguments[1]);
        return 1;
    }
    constexpr std::size_t largest = std::size_t{16} << 20U;
    std::vector<text::Source> sources;
    std::size_t bytes = 0;
    for (int i = 3; i < count; ++i)
        if (auto content = files::read_file(arguments[i], largest)) {
            bytes += content->size();
            sources.emplace_back(arguments[i], std::move(*content));
        }
    const members::Patterns patterns(*card);
    std::size_t found = 0, lines = 0;
    const double scanning = quickest([&] {
        found = 0;
        for (const auto& source : sources)
            found += members::definitions(source, *card, patterns.compiled(), false, "").size();
    });
    const double counting = quickest([&] {
        lines = 0;
        for (const auto& source : sources)
            lines += static_cast<std::size_t>(std::count(source.text().begin(), source.text().end(), '\n'));
    });
    const double megabytes = static_cast<double>(bytes) / 1e6;
    fmt::print("{:<7} {:6.1f} MB {:6} members  {:5.0f} MB/s   counting lines {:5.0f} MB/s   ratio {:4.1f}\n",
               arguments[2], megabytes, found, megabytes / scanning, megabytes / counting, scanning / counting);
    return lines == 0 ? 1 : 0;
}
