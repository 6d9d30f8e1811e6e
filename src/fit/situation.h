// What a contact is like, read from the thing that goes in and from how the other lies when printed.
#pragma once
#include "fit/fits.h"
#include "shape/body.h"

namespace lp {

/// `down` is the host's print direction in the tool's frame. A tool counts as round when most of its area that does not
/// face along one axis belongs to cylinders about it; the largest of them gives the hole's diameter.
ContactSituation situation_of(const std::vector<Body>& tool, const Vec3& down, bool tool_printed);

} // namespace lp
