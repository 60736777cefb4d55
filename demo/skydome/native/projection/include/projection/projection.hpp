// From the sky to pixels of the dome.
#ifndef PROJECTION_PROJECTION_HPP
#define PROJECTION_PROJECTION_HPP

#include <string>

#include "projection/export.hpp"

namespace projection {

/// A place on the dome's picture.
struct Pixel {
    double x = 0;  ///< to the right, from -1 to 1
    double y = 0;  ///< up, from -1 to 1
};

/// The library's version.
/// @return the version as text, such as "1.2.0"
PROJECTION_API std::string version();

/// The whole sky as a disc, the zenith in its middle.
/// @param altitude degrees above the horizon
/// @param azimuth degrees from north over east
/// @return the place on the picture
PROJECTION_API Pixel place(double altitude, double azimuth);

/// Mars, as if it went along the horizon.
/// @param days days since noon of 1 January 2000
/// @return the place on the picture
PROJECTION_API Pixel mars(double days);

}  // namespace projection

#endif  // PROJECTION_PROJECTION_HPP
