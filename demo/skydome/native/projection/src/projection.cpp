#include "projection/projection.hpp"

#include <cmath>

#include "ephemeris/ephemeris.hpp"
#include "sky_math/sky_math.hpp"

namespace projection {

std::string version() { return "0.3.0"; }

Pixel place(double altitude, double azimuth) {
    const double away = (90.0 - altitude) / 90.0;
    return {away * std::sin(sky_math::radians(azimuth)), away * std::cos(sky_math::radians(azimuth))};
}

Pixel mars(double days) { return place(0.0, ephemeris::mars(days)); }

}  // namespace projection
