// Ports for servers that are started for a moment.
#pragma once

namespace envar::process {

/// A UDP port that nobody on this machine listens on at the moment; 0 when none can be had.
[[nodiscard]] unsigned free_udp_port();

}  // namespace envar::process
