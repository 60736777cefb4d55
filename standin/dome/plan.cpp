#include "standin/dome/plan.hpp"

#include <algorithm>
#include <fstream>
#include <pugixml.hpp>

namespace dome {
namespace {

namespace fs = std::filesystem;

constexpr std::uintmax_t largest_file = std::uintmax_t{1} << 20U;

/// Names and versions become parts of paths: letters, digits and a few marks, and no dot in front.
bool is_plain(const std::string& word) {
    const auto fits = [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '-' ||
               c == '+' || c == '.';
    };
    return !word.empty() && word.size() < 256 && word.front() != '.' && std::all_of(word.begin(), word.end(), fits);
}

/// A relative path that stays where it is.
bool stays_inside(const std::string& path) {
    if (path.empty() || path.front() == '/') return false;
    const fs::path parts(path);
    return std::none_of(parts.begin(), parts.end(), [](const fs::path& part) { return part == ".."; });
}

class Reader {
  public:
    Reader(fs::path file, std::string module, std::vector<Problem>& problems)
        : file_(std::move(file)), module_(std::move(module)), problems_(problems) {}

    /// The root element of that name; a null node when there is none.
    pugi::xml_node open(const char* root) {
        std::error_code error;
        const auto size = fs::file_size(file_, error);
        if (error) return tell("cannot be read: " + error.message());
        if (size > largest_file) return tell("is larger than 1 MiB");
        const auto result = document_.load_file(file_.c_str(), pugi::parse_minimal | pugi::parse_escapes);
        if (!result) return tell(std::string(result.description()) + " at byte " + std::to_string(result.offset));
        const pugi::xml_node node = document_.child(root);
        if (!node) return tell(std::string("is no <") + root + ">");
        return node;
    }

    /// An attribute that becomes part of a path or names something.
    std::string word(const pugi::xml_node& node, const char* name) {
        std::string value = node.attribute(name).value();
        if (!is_plain(value)) tell(std::string("<") + node.name() + "> has no usable `" + name + "`");
        return value;
    }

    pugi::xml_node tell(const std::string& what) {
        problems_.push_back({module_, file_.string() + ": " + what});
        return {};
    }

  private:
    fs::path file_;
    std::string module_;
    std::vector<Problem>& problems_;
    pugi::xml_document document_;
};

}  // namespace

Plan read_plan(const fs::path& file, std::vector<Problem>& problems) {
    Plan plan;
    Reader reader(file, "", problems);
    const pugi::xml_node root = reader.open("plan");
    if (!root) return plan;
    plan.target = root.attribute("target").value();
    for (const pugi::xml_node& phase : root.children("phase")) plan.phases.push_back(reader.word(phase, "name"));
    for (const pugi::xml_node& node : root.children("module")) {
        Planned planned{reader.word(node, "name"), reader.word(node, "version"), node.attribute("phase").value(), {}};
        for (const pugi::xml_node& need : node.children("needs"))
            planned.needs.push_back(reader.word(need, "module"));
        if (std::find(plan.phases.begin(), plan.phases.end(), planned.phase) == plan.phases.end())
            problems.push_back({planned.module, "there is no phase `" + planned.phase + "` in the plan"});
        const auto same = [&](const Planned& other) { return other.module == planned.module; };
        if (std::any_of(plan.modules.begin(), plan.modules.end(), same))
            problems.push_back({planned.module, "stands in the plan twice"});
        plan.modules.push_back(std::move(planned));
    }
    return plan;
}

Descriptor read_descriptor(const fs::path& file, const std::string& module, std::vector<Problem>& problems) {
    Descriptor descriptor;
    Reader reader(file, module, problems);
    const pugi::xml_node root = reader.open("module");
    if (!root) return descriptor;
    descriptor.module = reader.word(root, "name");
    descriptor.version = reader.word(root, "version");
    descriptor.library = reader.word(root, "library");
    descriptor.start = root.attribute("start").value();
    descriptor.stop = root.attribute("stop").value();
    for (const pugi::xml_node& node : root.children("assets")) {
        AssetFolder assets{node.attribute("folder").value(), node.attribute("extension").value(),
                           node.attribute("recursive").as_bool()};
        if (stays_inside(assets.folder)) {
            descriptor.assets.push_back(std::move(assets));
        } else {
            reader.tell("the asset folder `" + assets.folder + "` leaves the module");
        }
    }
    return descriptor;
}

}  // namespace dome
