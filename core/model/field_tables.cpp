#include "core/model/card.hpp"
#include "core/model/fields.hpp"
#include "core/model/manifest.hpp"
#include "core/model/workspace_file.hpp"

namespace envar::model {

const std::vector<FieldTable>& field_tables() {
    static const std::vector<FieldTable> tables = {
        {"module", "module manifest", manifest_name, &manifest_fields()},
        {"workspace", "workspace file", workspace_file_name, &workspace_fields()},
        {"card", "card", "NAME.host.toml", &card_fields()},
    };
    return tables;
}

}  // namespace envar::model
