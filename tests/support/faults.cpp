// Loaded into the program by a test: from the n-th system call on that changes the disk, something goes wrong.
//
//   ENVAR_FAULT_AT    which call, from 1
//   ENVAR_FAULT_MODE  full: this write and all later ones find the disk full
//                     fail: just this call fails
//                     kill: the process is killed instead of the call
//   ENVAR_FAULT_LOG   a file that is made when it happens
#include <dlfcn.h>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <csignal>
#include <cstdarg>
#include <cstdlib>
#include <cstring>

namespace {

int calls = 0;

template <class Function>
Function real(const char* name) {
    return reinterpret_cast<Function>(::dlsym(RTLD_NEXT, name));
}

void note() {
    const char* log = std::getenv("ENVAR_FAULT_LOG");
    if (log == nullptr) return;
    const int descriptor = real<int (*)(const char*, int, ...)>("open")(log, O_WRONLY | O_CREAT, 0644);
    if (descriptor >= 0) ::close(descriptor);
}

/// True when this call must fail. `writes` is whether it needs space.
bool goes_wrong(bool writes) {
    const char* at = std::getenv("ENVAR_FAULT_AT");
    const char* mode = std::getenv("ENVAR_FAULT_MODE");
    if (at == nullptr || mode == nullptr) return false;
    const int number = std::atoi(at);
    ++calls;
    if (std::strcmp(mode, "full") == 0) {
        if (calls < number || !writes) return false;
        note();
        errno = ENOSPC;
        return true;
    }
    if (calls != number) return false;
    note();
    if (std::strcmp(mode, "kill") == 0) ::kill(::getpid(), SIGKILL);
    errno = EIO;
    return true;
}

bool is_file(int descriptor) {
    struct stat status = {};
    return ::fstat(descriptor, &status) == 0 && S_ISREG(status.st_mode);
}

}  // namespace

extern "C" {

ssize_t write(int descriptor, const void* data, size_t size) {
    if (is_file(descriptor) && goes_wrong(true)) return -1;
    return real<ssize_t (*)(int, const void*, size_t)>("write")(descriptor, data, size);
}

int fsync(int descriptor) {
    if (is_file(descriptor) && goes_wrong(true)) return -1;
    return real<int (*)(int)>("fsync")(descriptor);
}

int rename(const char* from, const char* to) noexcept {
    if (goes_wrong(false)) return -1;
    return real<int (*)(const char*, const char*)>("rename")(from, to);
}

int mkdir(const char* path, mode_t mode) noexcept {
    if (goes_wrong(true)) return -1;
    return real<int (*)(const char*, mode_t)>("mkdir")(path, mode);
}

int unlink(const char* path) noexcept {
    struct stat status = {};
    if (::lstat(path, &status) == 0 && goes_wrong(false)) return -1;
    return real<int (*)(const char*)>("unlink")(path);
}

int open(const char* path, int flags, ...) {
    va_list rest;
    va_start(rest, flags);
    const mode_t mode = (flags & O_CREAT) != 0 ? static_cast<mode_t>(va_arg(rest, unsigned)) : 0;
    va_end(rest);
    if ((flags & O_CREAT) != 0 && goes_wrong(true)) return -1;
    return real<int (*)(const char*, int, ...)>("open")(path, flags, mode);
}

}  // extern "C"
