// Where the planets stand.
#ifndef EPHEMERIS_EPHEMERIS_HPP
#define EPHEMERIS_EPHEMERIS_HPP

#include <string>

#include "ephemeris/export.hpp"
#include "sky_math/sky_math.hpp"

namespace ephemeris {

/// The library's version.
/// @return the version as text, such as "1.2.0"
EPHEMERIS_API std::string version();

/// The mean longitude of a planet that goes around evenly.
/// @param start longitude at day 0, in degrees
/// @param a_day degrees that it goes in a day
/// @param days days since day 0
/// @return its longitude, at least 0 and below 360
inline double mean_longitude(double start, double a_day, double days) {
    return sky_math::around(start + a_day * days);
}

/// The longitude of Mars.
/// @param days days since noon of 1 January 2000
/// @return degrees, at least 0 and below 360
EPHEMERIS_API double mars(double days);

}  // namespace ephemeris

#endif  // EPHEMERIS_EPHEMERIS_HPP
