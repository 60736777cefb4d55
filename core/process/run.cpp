#include "core/process/run.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>

namespace envar::process {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

struct Pipe {
    int read_end = -1;
    int write_end = -1;
    Pipe() {
        std::array<int, 2> ends = {-1, -1};
        if (::pipe2(ends.data(), O_CLOEXEC) == 0) {
            read_end = ends[0];
            write_end = ends[1];
        }
    }
    Pipe(const Pipe&) = delete;
    Pipe& operator=(const Pipe&) = delete;
    ~Pipe() {
        close_end(read_end);
        close_end(write_end);
    }
    static void close_end(int& end) {
        if (end >= 0) ::close(end);
        end = -1;
    }
};

std::vector<char*> pointers(std::vector<std::string>& words) {
    std::vector<char*> out;
    out.reserve(words.size() + 1);
    for (auto& word : words) out.push_back(word.data());
    out.push_back(nullptr);
    return out;
}

/// Everything posix_spawn needs, released at the end.
class SpawnSettings {
  public:
    SpawnSettings(const fs::path& folder, int input, const Pipe& output, const Pipe& errors) {
        posix_spawn_file_actions_init(&actions);
        if (input >= 0) {
            posix_spawn_file_actions_adddup2(&actions, input, 0);
        } else {
            posix_spawn_file_actions_addopen(&actions, 0, "/dev/null", O_RDONLY, 0);
        }
        posix_spawn_file_actions_adddup2(&actions, output.write_end, 1);
        posix_spawn_file_actions_adddup2(&actions, errors.write_end, 2);
        posix_spawn_file_actions_addchdir_np(&actions, folder.c_str());
        posix_spawnattr_init(&attributes);
        sigset_t all;
        sigset_t none;
        sigfillset(&all);
        sigemptyset(&none);
        posix_spawnattr_setsigdefault(&attributes, &all);
        posix_spawnattr_setsigmask(&attributes, &none);
        posix_spawnattr_setpgroup(&attributes, 0);
        posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETPGROUP | POSIX_SPAWN_SETSIGDEF | POSIX_SPAWN_SETSIGMASK);
    }
    SpawnSettings(const SpawnSettings&) = delete;
    SpawnSettings& operator=(const SpawnSettings&) = delete;
    ~SpawnSettings() {
        posix_spawn_file_actions_destroy(&actions);
        posix_spawnattr_destroy(&attributes);
    }
    posix_spawn_file_actions_t actions = {};
    posix_spawnattr_t attributes = {};
};

/// A file in memory with this content, to be read from its begin; -1 when there is none to make.
int memory_file(const std::string& content) {
    if (content.empty()) return -1;
    const int file = ::memfd_create("input", MFD_CLOEXEC);
    if (file < 0) return -1;
    for (std::size_t at = 0; at < content.size();) {
        const ssize_t written = ::write(file, content.data() + at, content.size() - at);
        if (written <= 0) break;
        at += static_cast<std::size_t>(written);
    }
    ::lseek(file, 0, SEEK_SET);
    return file;
}

/// Collects both streams until they end or the deadline passes.
class Collector {
  public:
    Collector(Outcome& outcome, std::size_t limit) : outcome_(outcome), limit_(limit) {}

    /// False when the deadline came first.
    bool collect(Pipe& output, Pipe& errors, Clock::time_point deadline) {
        while (output.read_end >= 0 || errors.read_end >= 0) {
            const auto left = std::chrono::duration_cast<std::chrono::milliseconds>(deadline - Clock::now()).count();
            if (left <= 0) return false;
            std::array<pollfd, 2> waits = {pollfd{output.read_end, POLLIN, 0}, pollfd{errors.read_end, POLLIN, 0}};
            const int ready = ::poll(waits.data(), waits.size(), static_cast<int>(std::min<long long>(left, 1000)));
            if (ready < 0 && errno != EINTR) return true;
            if (waits[0].revents != 0) take(output.read_end, outcome_.output);
            if (waits[1].revents != 0) take(errors.read_end, outcome_.errors);
        }
        return true;
    }

  private:
    void take(int& descriptor, std::string& into) {
        std::array<char, 65536> buffer;
        const ssize_t got = ::read(descriptor, buffer.data(), buffer.size());
        if (got < 0 && errno == EINTR) return;
        if (got <= 0) {
            Pipe::close_end(descriptor);
            return;
        }
        const std::size_t keep = std::min(static_cast<std::size_t>(got), limit_ - into.size());
        if (keep < static_cast<std::size_t>(got)) outcome_.output_cut = true;
        into.append(buffer.data(), keep);
    }

    Outcome& outcome_;
    std::size_t limit_;
};

/// Waits for the process until the deadline; gives whether it ended.
bool wait_for(pid_t process, int& status, Clock::time_point deadline) {
    for (;;) {
        const pid_t ended = ::waitpid(process, &status, WNOHANG);
        if (ended == process || (ended < 0 && errno != EINTR)) return true;
        if (Clock::now() >= deadline) return false;
        ::usleep(500);
    }
}

}  // namespace

text::Result<Outcome> run(const Command& command) {
    Outcome outcome;
    Pipe output;
    Pipe errors;
    std::vector<std::string> arguments = command.arguments;
    std::vector<std::string> variables;
    for (const auto& [name, value] : command.environment) variables.push_back(fmt::format("{}={}", name, value));
    int input = memory_file(command.input);
    const SpawnSettings settings(command.folder, input, output, errors);
    const auto start = Clock::now();
    const auto deadline = start + std::chrono::duration_cast<Clock::duration>(
                                      std::chrono::duration<double>(command.time_limit_seconds));
    pid_t process = 0;
    const int code = ::posix_spawn(&process, arguments.at(0).c_str(), &settings.actions, &settings.attributes,
                                   pointers(arguments).data(), pointers(variables).data());
    Pipe::close_end(input);
    if (code != 0)
        return text::fail(text::FailureKind::machine_failed,
                          fmt::format("cannot start `{}`: {}", arguments.at(0), std::strerror(code)));
    Pipe::close_end(output.write_end);
    Pipe::close_end(errors.write_end);
    int status = 0;
    Collector collector(outcome, command.output_limit);
    const bool ended = collector.collect(output, errors, deadline) && wait_for(process, status, deadline);
    outcome.timed_out = !ended;
    ::kill(-process, SIGKILL);
    if (!ended) {
        ::kill(process, SIGKILL);
        while (::waitpid(process, &status, 0) < 0 && errno == EINTR) {
        }
    }
    outcome.exit_status = WIFSIGNALED(status) ? 128 + WTERMSIG(status) : WEXITSTATUS(status);
    outcome.milliseconds = std::chrono::duration<double, std::milli>(Clock::now() - start).count();
    return outcome;
}

std::optional<fs::path> find_program(const std::vector<std::string>& programs, const std::string& path) {
    const auto runnable = [](const fs::path& file) {
        std::error_code error;
        return fs::is_regular_file(file, error) && ::access(file.c_str(), X_OK) == 0;
    };
    for (const auto& program : programs) {
        if (program.find('/') != std::string::npos) {
            if (runnable(program)) return fs::path(program);
            continue;
        }
        for (std::size_t at = 0; at <= path.size();) {
            const std::size_t end = std::min(path.find(':', at), path.size());
            const fs::path folder = path.substr(at, end - at);
            if (folder.is_absolute() && runnable(folder / program)) return folder / program;
            at = end + 1;
        }
    }
    return std::nullopt;
}

}  // namespace envar::process
