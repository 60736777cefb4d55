// What dome did, for people and for programs.
#pragma once

#include <iosfwd>
#include <string>

#include "standin/dome/engine.hpp"

namespace dome {

/// A line a module, then the stops, then what went wrong.
void print(std::ostream& out, const Plan& plan, const Round& round);

/// `{"target","loaded":[{"position","module","version","phase","descriptor","library","assets","said","milliseconds"}],
/// "stopped":[…],"problems":[{"module","what"}],"rounds"}`
[[nodiscard]] std::string to_json(const Plan& plan, const Round& round, std::size_t rounds);

}  // namespace dome
