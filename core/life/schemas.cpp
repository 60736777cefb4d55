#include "core/life/schemas.hpp"

#include "core/model/schema.hpp"

namespace envar::life {

files::Plan schema_plan(const model::Space& space, bool point) {
    files::Plan plan{space.root, {}};
    model::add_schemas(plan);
    const auto aim = [&](const text::Source& source, const std::filesystem::path& file, std::string_view document) {
        const std::string directive = model::schema_directive(space.root, file.parent_path(), document);
        plan.add({file, source.text(), model::with_directive(source.text(), directive), "points at its schema"});
    };
    if (point) {
        aim(space.document.source, space.root / model::workspace_file_name, "workspace");
        for (const auto& module : space.modules) aim(module.source, module.home / model::manifest_name, "module");
    }
    plan.drop_idle();
    return plan;
}

}  // namespace envar::life
