#include "tests/support/scratch.hpp"

#include <stdlib.h>

#include <fstream>
#include <sstream>
#include <stdexcept>

namespace envar::tests {

namespace fs = std::filesystem;

Scratch::Scratch() {
    std::string name = (fs::temp_directory_path() / "envar-test-XXXXXX").string();
    if (::mkdtemp(name.data()) == nullptr) throw std::runtime_error("no scratch folder");
    folder_ = fs::canonical(name);
}

Scratch::~Scratch() {
    std::error_code ignored;
    fs::remove_all(folder_, ignored);
}

void Scratch::write(std::string_view name, std::string_view content) const {
    const fs::path path = folder_ / name;
    fs::create_directories(path.parent_path());
    std::ofstream(path, std::ios::binary) << content;
}

std::string Scratch::read(std::string_view name) const {
    std::ifstream in(folder_ / name, std::ios::binary);
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

bool Scratch::has(std::string_view name) const { return fs::exists(fs::symlink_status(folder_ / name)); }

void Scratch::remove(std::string_view name) const { fs::remove_all(folder_ / name); }

void Scratch::copy_from(const fs::path& source, std::string_view name) const {
    fs::copy(source, folder_ / name, fs::copy_options::recursive | fs::copy_options::copy_symlinks);
}

std::map<std::string, std::string> Scratch::tree(std::string_view name) const {
    std::map<std::string, std::string> files;
    const fs::path root = (folder_ / name).lexically_normal();
    for (fs::recursive_directory_iterator it(root), end; it != end; ++it) {
        const std::string inner = it->path().lexically_relative(root).generic_string();
        if (it->is_directory() && (it->path().filename() == ".envar" || it->path().filename() == "envar-results")) {
            it.disable_recursion_pending();
        } else if (it->is_regular_file()) {
            files[inner] = read((std::string(name) + "/" + inner));
        }
    }
    return files;
}

}  // namespace envar::tests
