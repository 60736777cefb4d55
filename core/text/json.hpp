// JSON values, compiled once: without this each file that touches one compiles the whole class anew. It is
// precompiled for all files; none needs to name it.
#pragma once

#include <nlohmann/json.hpp>

extern template class nlohmann::basic_json<>;
