// What memory the program works in. Reading a million lines or scanning a large tree touches hundreds of megabytes
// once, in small pieces: with pages of 4 KiB a fifth of the time goes into asking the system for them. mimalloc takes
// pages of 2 MiB where the system gives them, and smaller ones elsewhere; it says nothing about either.
#include <mimalloc.h>

namespace {

void take_large_pages() { mi_option_enable(mi_option_large_os_pages); }

// The allocator reserves its first 32 MiB for whatever asks first, which is a constructor of a shared library. What
// the program lists here runs before all of those.
[[gnu::section(".preinit_array"), gnu::used]] void (*const before_libraries)() = take_large_pages;

}  // namespace
