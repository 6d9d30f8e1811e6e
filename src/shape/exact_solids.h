// Simple solids as exact bodies. Each stands at its own origin and is placed by a rigid move; sizes in mm.
#pragma once
#include "shape/body.h"

namespace lp {

/// Whose faces these are: goes into the tags.
struct TagSource {
    StepId step;
    uint64_t copy = 0;

    TagSource() = default;
    TagSource(StepId its, uint64_t its_copy = 0) : step(its), copy(its_copy) {}
    /// A step by its number alone: here nothing is known of projects.
    TagSource(uint64_t number, uint64_t its_copy = 0) : step(number), copy(its_copy) {}
};

/// Box from the origin to (size.x, size.y, size.z) in its own frame.
Expected<Body> make_block(const Vec3& size, const Transform& at, TagSource tags);
/// Axis +Z from the origin.
Expected<Body> make_cylinder(double radius, double height, const Transform& at, TagSource tags);
/// Frustum: radius `bottom` at z 0, `top` at `height`; one of them may be 0.
Expected<Body> make_cone(double bottom, double top, double height, const Transform& at, TagSource tags);
/// Centre at the origin.
Expected<Body> make_sphere(double radius, const Transform& at, TagSource tags);
/// Regular prism, axis +Z; `apothem` is half the width across flats; first flat faces +X. 3 to 360 sides.
Expected<Body> make_prism(int sides, double apothem, double height, const Transform& at, TagSource tags);

/// Regular pyramid or its frustum, axis +Z; half widths across flats at the foot and at the top (0: a point).
Expected<Body> make_pyramid(int sides, double apothem, double top_apothem, double height, const Transform& at,
                            TagSource tags);

} // namespace lp
