// Single supports of a part put in, left out and moved by hand; all that was set copied to its siblings.
#pragma once
#include "project/analysis.h"
#include "project/edit.h"

namespace lp {

/// Places in the design frame of the part.
SupportSettings with_support(const SupportSettings& settings, const Vec3& at);
/// The one that carries a place is left out; where it was put in by hand it is just gone.
SupportSettings without_support(const SupportSettings& settings, const Vec3& at);
SupportSettings with_moved_support(const SupportSettings& settings, const Vec3& from, const Vec3& to);

/// Printed parts of the same shape in the same frame: as much volume, the same box and centre of mass.
std::vector<PartId> siblings_of(const Evaluation& evaluation, PartId part);
/// They lie as the part does, with its supports, brim and marked faces.
Expected<Edit> laid_alike(const Evaluation& evaluation, PartId part, const std::vector<PartId>& siblings);

} // namespace lp
