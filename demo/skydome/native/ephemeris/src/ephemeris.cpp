#include "ephemeris/ephemeris.hpp"

namespace ephemeris {

std::string version() { return "1.4.0"; }

double mars(double days) { return mean_longitude(355.45, 0.5240207766, days); }

}  // namespace ephemeris
