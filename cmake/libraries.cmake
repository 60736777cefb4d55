# The libraries Envar is built with, all from Debian. They are linked statically where an archive is there, so
# that starting `envar` costs little loading of shared objects.

set(Boost_USE_STATIC_LIBS ON)
find_package(Boost 1.74 REQUIRED COMPONENTS program_options)
find_package(fmt 9 REQUIRED)
find_package(tl-expected REQUIRED)
find_package(nlohmann_json 3.11 REQUIRED)
find_package(simdjson 3 REQUIRED)
find_package(Threads REQUIRED)
find_package(mimalloc 2.0 REQUIRED)
set(OPENSSL_USE_STATIC_LIBS ON)
find_package(OpenSSL REQUIRED COMPONENTS Crypto)

find_library(RE2_LIBRARY NAMES libre2.a re2 REQUIRED)
# Markdown to manual pages; the archive needs two of the system's.
find_library(LOWDOWN_LIBRARY NAMES liblowdown.a lowdown REQUIRED)
find_library(BSD_LIBRARY NAMES libbsd.a bsd REQUIRED)
find_library(MD_LIBRARY NAMES libmd.a md REQUIRED)
find_path(LOWDOWN_INCLUDE lowdown.h REQUIRED)
# Archives; of the filters only those that modules come in.
find_library(ARCHIVE_LIBRARY NAMES libarchive.a archive REQUIRED)
find_library(LZMA_LIBRARY NAMES liblzma.a lzma REQUIRED)
find_library(ZSTD_LIBRARY NAMES libzstd.a zstd REQUIRED)
find_library(ZLIB_LIBRARY NAMES libz.a z REQUIRED)
find_path(RE2_INCLUDE re2/re2.h REQUIRED)
find_path(TOMLPLUSPLUS_INCLUDE toml++/toml.h REQUIRED)
find_path(MUSTACHE_INCLUDE kainjow/mustache.hpp REQUIRED)

add_library(envar_libraries INTERFACE)
target_include_directories(envar_libraries SYSTEM INTERFACE ${RE2_INCLUDE} ${TOMLPLUSPLUS_INCLUDE} ${MUSTACHE_INCLUDE}
                                                                ${LOWDOWN_INCLUDE})
target_link_libraries(envar_libraries INTERFACE fmt::fmt tl::expected nlohmann_json::nlohmann_json simdjson::simdjson
                                                ${RE2_LIBRARY} ${LOWDOWN_LIBRARY} ${BSD_LIBRARY} ${MD_LIBRARY}
                                                ${ARCHIVE_LIBRARY} ${LZMA_LIBRARY} ${ZSTD_LIBRARY} ${ZLIB_LIBRARY} OpenSSL::Crypto Threads::Threads)

add_library(envar_settings INTERFACE)
target_include_directories(envar_settings INTERFACE ${PROJECT_SOURCE_DIR})
target_compile_options(envar_settings INTERFACE -Wall -Wextra -Wshadow -Wconversion -Wnon-virtual-dtor)
if(ENVAR_WARNINGS_ARE_ERRORS)
  target_compile_options(envar_settings INTERFACE -Werror -Werror=switch)
endif()
if(ENVAR_SANITIZE)
  target_compile_options(envar_settings INTERFACE -fsanitize=address,undefined -fno-sanitize-recover=all
                                                  -fno-omit-frame-pointer)
  target_link_options(envar_settings INTERFACE -fsanitize=address,undefined)
endif()
