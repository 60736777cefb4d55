// How much the air lifts a star.
#ifndef REFRACTION_REFRACTION_HPP
#define REFRACTION_REFRACTION_HPP

#include <string>

#include "refraction/export.hpp"
#include "refraction/values.hpp"

namespace refraction {

/// The library's version.
/// @return the version as text, such as "1.2.0"
REFRACTION_API std::string version();

/// The algorithm. Its fronts call nothing else.
/// @param inputs what is given with each call
/// @param settings what holds for many calls
/// @return the outputs
/// @throws std::invalid_argument when the inputs make no sense, with what a user should read
REFRACTION_API Outputs run(const Inputs& inputs, const Settings& settings);

}  // namespace refraction

#endif  // REFRACTION_REFRACTION_HPP
