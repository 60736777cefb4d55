// Writes names beside the stars that are drawn.
#include "dome.h"

#include <string>

extern "C" {

DOME_EXPORT extern const int caption_overlay_abi;
const int caption_overlay_abi = DOME_ABI;

DOME_EXPORT int caption_overlay_start(const dome_host* host);
DOME_EXPORT void caption_overlay_stop(void);

int caption_overlay_start(const dome_host* host) {
    const auto* stars = static_cast<const int*>(host->find(host->engine, "sky.stars"));
    if (stars == nullptr) return 1;
    host->say(host->engine, ("names for " + std::to_string(*stars) + " sprites").c_str());
    return 0;
}

void caption_overlay_stop(void) {}

}  // extern "C"
