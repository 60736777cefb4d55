// Views: folders of links that show a host just the chosen versions of modules, for hosts that know no versions.
//
// A view lies in `.envar/view/HOST/`; each link in it has the name by which the host finds the module, and leads to
// the folder of the chosen version, or, where the host looks right into that folder, to the module's file there. A
// view that is there comes before all declared folders on the host's search path.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "core/model/space.hpp"

namespace envar::search {

struct ViewLink {
    std::string name;  // of the link, relative to the view; may have '/'
    const model::Module* module = nullptr;
    std::filesystem::path target;  // absolute
    bool beside = false;           // what the module's entry file may load, not what the module is found by
};

struct View {
    std::string host;
    std::filesystem::path folder;  // absolute
    std::vector<ViewLink> links;   // by name
    bool needed = false;           // modules lie side by side in versions that the host cannot tell apart
    /// A link that is not made, since that of another module has its name.
    struct Hidden {
        ViewLink link, by;
    };
    std::vector<Hidden> hidden;  // by name
};

/// Whether any host needs one: whether modules lie in folders of versions, or in several versions.
[[nodiscard]] bool needs_views(const model::Space& space);

/// Whether the module lies in a folder that is called like its version, in one that is called `folder_name`.
[[nodiscard]] bool in_version_folder(const model::Card& card, const model::Module& module,
                                     std::string_view folder_name);

[[nodiscard]] std::filesystem::path view_folder(const model::Space& space, std::string_view host);

/// The views of the chosen modules, one a host that finds modules by folders, by host. `chosen` has one module a
/// name.
[[nodiscard]] std::vector<View> views_of(const model::Space& space, const std::vector<const model::Module*>& chosen);

/// Links of a view that is on the disk: name and where it leads, by name; none when there is no view.
struct MadeLink {
    std::string name;
    std::filesystem::path target;  // absolute
    bool beside = false;           // what the module's entry file may load, not what the module is found by
};
[[nodiscard]] std::vector<MadeLink> links_in(const std::filesystem::path& view);

/// The path without the links of the workspace's views: where a file that was found through one really lies.
[[nodiscard]] std::string through_views(const model::Space& space, const std::string& path);

}  // namespace envar::search
