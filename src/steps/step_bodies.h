// Bodies of a part moved, turned or mirrored with all they carry.
#pragma once
#include "shape/copies.h"
#include "steps/step_kind.h"

namespace lp {

/// The body and what it carries, moved.
Expected<StepBody> moved_with_halos(const StepBody& body, const Transform& move);
/// The halos of a body, mapped (mirrors included); none where the map scales: a gap would scale with it.
Expected<std::vector<CarriedHalo>> mapped_halos(const std::vector<CarriedHalo>& halos, const Affine& map);

/// Where a body is solid, mapped with it, scaled or not.
Expected<std::vector<SolidInside>> mapped_solids(const std::vector<SolidInside>& solids, const Affine& map);

/// What bends, mapped with its body.
std::vector<Bending> mapped_bends(std::vector<Bending> bends, const Affine& map);

} // namespace lp
