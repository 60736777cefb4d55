// Work on many things by several threads.
#pragma once

#include <atomic>
#include <cstddef>
#include <system_error>
#include <thread>
#include <vector>

namespace envar::text {

/// Calls `work(i)` for each i below `count`, on at most `jobs` threads, one of which is the caller's; on fewer where
/// the system gives no more. Returns when all is done. `work` must not throw.
template <class Work>
void side_by_side(std::size_t count, std::size_t jobs, const Work& work) {
    std::atomic<std::size_t> next{0};
    const auto loop = [&] {
        for (std::size_t i = next++; i < count; i = next++) work(i);
    };
    std::vector<std::thread> threads;
    threads.reserve(jobs < count ? jobs : count);
    try {
        for (std::size_t i = 1; i < jobs && i < count; ++i) threads.emplace_back(loop);
    } catch (const std::system_error&) {  // NOLINT(bugprone-empty-catch): those that there are do it all
    }
    loop();
    for (auto& thread : threads) thread.join();
}

}  // namespace envar::text
