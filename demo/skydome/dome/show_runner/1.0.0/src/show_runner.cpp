// Runs the show of the evening.
#include "dome.h"

#include <string>

extern "C" {

DOME_EXPORT extern const int show_runner_abi;
const int show_runner_abi = DOME_ABI;

DOME_EXPORT int show_runner_start(const dome_host* host);
DOME_EXPORT void show_runner_stop(void);

int show_runner_start(const dome_host* host) {
    const bool air = host->find(host->engine, "refraction") != nullptr;
    host->say(host->engine, air ? "the show begins, with the air's refraction" : "the show begins");
    return 0;
}

void show_runner_stop(void) {}

}  // extern "C"
