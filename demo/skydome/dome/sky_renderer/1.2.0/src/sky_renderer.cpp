// Draws the sky on the dome: one sprite a star.
#include "dome.h"

#include <string>

namespace {

/// How many stars are on the dome, for other modules: `sky.stars`.
int stars = 0;

}  // namespace

extern "C" {

DOME_EXPORT extern const int sky_renderer_abi;
const int sky_renderer_abi = DOME_ABI;

DOME_EXPORT int sky_renderer_start(const dome_host* host);
DOME_EXPORT void sky_renderer_stop(void);

int sky_renderer_start(const dome_host* host) {
    stars = static_cast<int>(host->asset_count(host->engine));
    if (host->offer(host->engine, "sky.stars", &stars) != 0) return 1;
    host->say(host->engine, (std::to_string(stars) + " sprites for the " + host->target).c_str());
    return 0;
}

void sky_renderer_stop(void) { stars = 0; }

}  // extern "C"
