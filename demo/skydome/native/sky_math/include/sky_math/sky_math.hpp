// Angles of the dome. All functions take and give degrees unless they say otherwise.
#ifndef SKY_MATH_SKY_MATH_HPP
#define SKY_MATH_SKY_MATH_HPP

#include <cmath>
#include <string>

namespace sky_math {

/// The library's version.
/// @return the version as text, such as "1.2.0"
inline std::string version() { return "1.2.0"; }

/// @param degrees an angle in degrees
/// @return the same angle in radians
inline double radians(double degrees) { return degrees * 3.14159265358979323846 / 180.0; }

/// @param degrees any angle
/// @return the same direction, at least 0 and below 360
inline double around(double degrees) {
    const double rest = std::fmod(degrees, 360.0);
    return rest < 0 ? rest + 360.0 : rest;
}

}  // namespace sky_math

#endif  // SKY_MATH_SKY_MATH_HPP
