// The reference page of all fields, in Markdown, made from the field tables.
#pragma once

#include <string>

namespace envar::model {

[[nodiscard]] std::string reference_page();

}  // namespace envar::model
