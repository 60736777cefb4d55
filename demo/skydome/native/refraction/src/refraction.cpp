// Bennett's formula for the refraction near the horizon, G. G. Bennett, "The Calculation of Astronomical Refraction
// in Marine Navigation", Journal of Navigation 35 (1982), with the usual factors for pressure and temperature.
#include "refraction/refraction.hpp"

#include <cmath>
#include <stdexcept>

#include "sky_math/sky_math.hpp"

namespace refraction {

std::string version() { return "1.0.0"; }

Outputs run(const Inputs& inputs, const Settings& settings) {
    if (inputs.altitude < -1.0) throw std::invalid_argument("the star is below the horizon");
    const double h = inputs.altitude;
    const double minutes = 1.0 / std::tan(sky_math::radians(h + 7.31 / (h + 4.4)));
    Outputs outputs;
    outputs.lift = minutes * settings.pressure / 1010.0 * 283.0 / (273.0 + settings.temperature);
    outputs.seen = h + outputs.lift / 60.0;
    return outputs;
}

}  // namespace refraction
