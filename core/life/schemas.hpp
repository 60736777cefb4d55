// Schemas for editors: the files, and the comments that point at them.
#pragma once

#include "core/files/plan.hpp"
#include "core/model/space.hpp"

namespace envar::life {

/// The plan that brings the workspace's schemas up to date and, with `point`, makes the workspace file and every
/// manifest name its schema on the first line.
[[nodiscard]] files::Plan schema_plan(const model::Space& space, bool point);

}  // namespace envar::life
