#include "core/text/json.hpp"

template class nlohmann::basic_json<>;
