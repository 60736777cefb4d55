#include "core/files/archive.hpp"

#include <archive.h>
#include <archive_entry.h>
#include <fmt/format.h>

#include <array>
#include <fstream>
#include <memory>
#include <string>

#include "core/files/read.hpp"

namespace envar::files {
namespace {

constexpr std::size_t most_bytes = std::size_t{1} << 30U;
constexpr std::size_t most_files = 100'000;

struct Close {
    void operator()(archive* reader) const { archive_read_free(reader); }
};

tl::unexpected<text::Failure> refuse_archive(const fs::path& file, std::string_view why) {
    return text::fail(text::FailureKind::answer_is_no, fmt::format("the archive {} {}", file.string(), why),
                      "nothing of it was used");
}

}  // namespace

bool is_archive_name(const fs::path& file) {
    const std::string name = file.filename().string();
    for (const std::string_view ending : {".tar", ".tar.gz", ".tgz", ".tar.xz", ".tar.zst"})
        if (name.ends_with(ending)) return true;
    return false;
}

text::Result<void> unpack(const fs::path& file, const fs::path& folder) {
    const std::unique_ptr<archive, Close> reader(archive_read_new());
    archive_read_support_filter_gzip(reader.get());
    archive_read_support_filter_xz(reader.get());
    archive_read_support_filter_zstd(reader.get());
    archive_read_support_format_tar(reader.get());
    if (!is_file(file) || archive_read_open_filename(reader.get(), file.c_str(), 1U << 16U) != ARCHIVE_OK)
        return refuse_archive(file, "cannot be read");
    std::size_t bytes = 0, count = 0;
    std::array<char, 1U << 16U> buffer{};
    for (archive_entry* entry = nullptr;;) {
        const int status = archive_read_next_header(reader.get(), &entry);
        if (status == ARCHIVE_EOF) return {};
        if (status < ARCHIVE_WARN) return refuse_archive(file, "is broken");
        const char* name = archive_entry_pathname(entry);
        const auto type = archive_entry_filetype(entry);
        if (name == nullptr || (type != AE_IFREG && type != AE_IFDIR) || archive_entry_hardlink(entry) != nullptr)
            continue;
        if (!stays_inside(name))
            return refuse_archive(file, fmt::format("holds `{}`, which leaves its folder", name));
        if (++count > most_files) return refuse_archive(file, "holds too many files");
        const fs::path path = folder / name;
        std::error_code error;
        fs::create_directories(type == AE_IFDIR ? path : path.parent_path(), error);
        if (type == AE_IFDIR) continue;
        std::ofstream out(path, std::ios::binary);
        for (;;) {
            const la_ssize_t read = archive_read_data(reader.get(), buffer.data(), buffer.size());
            if (read == 0) break;
            if (read < 0) return refuse_archive(file, "is broken");
            bytes += static_cast<std::size_t>(read);
            if (bytes > most_bytes) return refuse_archive(file, "holds too much");
            out.write(buffer.data(), static_cast<std::streamsize>(read));
        }
        if (!out.flush())
            return text::fail(text::FailureKind::machine_failed, fmt::format("cannot write {}", path.string()));
    }
}

}  // namespace envar::files
