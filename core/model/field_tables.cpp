#include "core/model/card.hpp"
#include "core/model/fields.hpp"
#include "core/model/manifest.hpp"
#include "core/model/workspace_file.hpp"

namespace envar::model {

std::vector<FieldTable> field_tables() {
    const auto rows = [](auto fields) {
        std::vector<const FieldInfo*> out;
        for (const auto& field : fields) out.push_back(&field.info);
        return out;
    };
    return {
        {"module", rows(manifest_fields())}, {"workspace", rows(workspace_fields())}, {"card", rows(card_fields())}};
}

}  // namespace envar::model
