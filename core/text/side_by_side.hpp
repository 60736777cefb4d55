// Work on many things by several threads.
#pragma once

#include <atomic>
#include <cstddef>
#include <thread>
#include <vector>

namespace envar::text {

/// Calls `work(i)` for each i below `count`, on at most `jobs` threads, one of which is the caller's. Returns when
/// all is done. `work` must not throw.
template <class Work>
void side_by_side(std::size_t count, std::size_t jobs, const Work& work) {
    std::atomic<std::size_t> next{0};
    const auto loop = [&] {
        for (std::size_t i = next++; i < count; i = next++) work(i);
    };
    std::vector<std::thread> threads;
    for (std::size_t i = 1; i < jobs && i < count; ++i) threads.emplace_back(loop);
    loop();
    for (auto& thread : threads) thread.join();
}

}  // namespace envar::text
