// What memory the program works in. Reading a million lines or scanning a large tree touches hundreds of megabytes
// once, in small pieces: with pages of 4 KiB a fifth of the time goes into asking the system for them. mimalloc takes
// pages of 2 MiB where the system gives them, and smaller ones elsewhere; it says nothing about either.
#include <mimalloc.h>
#include <unistd.h>

#include <cerrno>
#include <string_view>

namespace {

/// Where there is none left: whatever was to be written is a change that happens whole or not at all.
void give_up(int error, void* /*nothing*/) {
    if (error != ENOMEM) return;
    constexpr std::string_view words =
        "envar: error: there is not enough memory\n  hint: free some, or raise the limit that `ulimit -v` tells\n";
    for (std::string_view rest = words; !rest.empty();) {
        const ssize_t written = ::write(STDERR_FILENO, rest.data(), rest.size());
        if (written <= 0) break;
        rest.remove_prefix(static_cast<std::size_t>(written));
    }
    ::_exit(3);
}

void prepare() {
    mi_option_enable(mi_option_large_os_pages);
    mi_register_error(give_up, nullptr);  // the allocator cannot throw: without this it would abort
}

// The allocator reserves its first 32 MiB for whatever asks first, which is a constructor of a shared library. What
// the program lists here runs before all of those.
[[gnu::section(".preinit_array"), gnu::used]] void (*const before_libraries)() = prepare;

}  // namespace
