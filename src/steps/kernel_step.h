// Guarded kernel calls on one body, with names for the faces they leave and make. Included only by steps/*.cpp.
#pragma once
#include "shape/kernel_guard.h"
#include "steps/step_kind.h"

namespace lp {

/// Runs the call on an exact body, names its faces and verifies the result: sound, in as many pieces as before, its
/// volume between `low` and `high` mm3. Faces that stay keep their tags; faces made from others are named after those;
/// blends after the edge or corner they round. `what` completes "... needs an exact body": "A fillet". The kernel is
/// given `budget_s` seconds.
Expected<Body> run_kernel_step(const Body& body, KernelCall call, const StepContext& context, const char* what,
                               double low, double high, double budget_s = 60);

/// Angle inside the material between the two faces of an edge of the tessellation, in degrees: below 180 where the edge
/// stands out.
double angle_at_edge(const Body& body, size_t edge);

/// The handle of a number at the middle of an edge, along the bisector of its faces to the side where material is taken
/// (put, at an inner edge). `reach` tells how far from the edge the new face's middle lies for a number of 1, of half
/// the angle between the faces on that side in radians. Nothing where the faces hardly meet at an angle.
std::optional<SizeHandle> handle_at_edge(const Body& body, size_t edge, const char* field,
                                         const std::function<double(double half)>& reach);

} // namespace lp
