// Runs two commands in turn and prints the ratio of their times, pair by pair: on a machine that is busy with
// other things a ratio holds where a time does not.
//
//   compare RUNS PROGRAM_A [ARGUMENT...] -- PROGRAM_B [ARGUMENT...]
#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <string>
#include <vector>

namespace {

/// Milliseconds from start to end; output goes nowhere.
double run(std::vector<char*> arguments) {
    arguments.push_back(nullptr);
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
    const auto start = std::chrono::steady_clock::now();
    pid_t process = 0;
    if (posix_spawnp(&process, arguments[0], &actions, nullptr, arguments.data(), environ) != 0) {
        std::perror(arguments[0]);
        std::exit(3);
    }
    int status = 0;
    waitpid(process, &status, 0);
    posix_spawn_file_actions_destroy(&actions);
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
}

double median(std::vector<double> values) {
    std::nth_element(values.begin(), values.begin() + static_cast<long>(values.size() / 2), values.end());
    return values[values.size() / 2];
}

}  // namespace

int main(int count, char** arguments) {
    std::vector<char*> first;
    std::vector<char*> second;
    bool behind = false;
    for (int i = 2; i < count; ++i) {
        if (std::string(arguments[i]) == "--" && !behind) {
            behind = true;
        } else {
            (behind ? second : first).push_back(arguments[i]);
        }
    }
    const int runs = count > 1 ? std::atoi(arguments[1]) : 0;
    if (runs < 1 || first.empty() || second.empty()) {
        std::fputs("usage: compare RUNS PROGRAM [ARGUMENT...] -- PROGRAM [ARGUMENT...]\n", stderr);
        return 2;
    }
    run(first);
    run(second);
    std::vector<double> a;
    std::vector<double> b;
    std::vector<double> ratios;
    for (int i = 0; i < runs; ++i) {
        a.push_back(run(first));
        b.push_back(run(second));
        ratios.push_back(a.back() / b.back());
    }
    std::printf("%.2f ms against %.2f ms, ratio %.2f (medians of %d pairs)\n", median(a), median(b), median(ratios),
                runs);
    return 0;
}
