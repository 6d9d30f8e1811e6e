// What a contact is like, read from the thing that goes in and from how the other lies when printed.
#pragma once
#include "fit/fits.h"
#include "shape/body.h"
#include <functional>

namespace lp {

/// Whether the host has material at a place of the tool's frame.
using HasMaterial = std::function<bool(const Vec3&)>;

/// `down` is the host's print direction in the tool's frame. A flat face of the tool that looks up in print with the
/// host's material above it makes a roof, which sags; `host` is only asked when there is such a face. A tool counts as
/// round when most of its area that does not face along one axis belongs to cylinders about it; the largest of them
/// gives the hole's diameter.
ContactSituation situation_of(const std::vector<Body>& tool, const Vec3& down, bool tool_printed,
                              const HasMaterial& host = {});

} // namespace lp
