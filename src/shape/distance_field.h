// Distance to a surface and on which side of it a place lies, for many thousands of places: the field that halos are
// drawn from. Embree finds the candidates, the distance itself is worked out in double precision.
#pragma once
#include "shape/tri_mesh.h"
#include <limits>
#include <memory>

namespace lp {

class DistanceField {
  public:
    struct Nearest {
        double distance_mm = 0; ///< the bound asked for when nothing is nearer
        Vec3 foot = Vec3::Zero();
    };
    /// Keeps its own copy. O(n log n).
    explicit DistanceField(const TriMesh& mesh);
    ~DistanceField();
    DistanceField(const DistanceField&) = delete;
    DistanceField& operator=(const DistanceField&) = delete;

    /// Nearest place of the surface; nothing farther than `bound_mm` is looked for, which is what makes it quick.
    /// Thread-safe.
    Nearest nearest(const Vec3& at, double bound_mm = std::numeric_limits<double>::infinity()) const;
    /// Not inside the material: signed crossings of rays in two directions, a third where they disagree. Right for
    /// closed surfaces whose shells overlap. Thread-safe; not for places on the surface.
    bool outside(const Vec3& at) const;

  private:
    struct Engine;
    int winding(const Vec3& at, const Vec3& direction) const;
    std::unique_ptr<Engine> engine_;
};

} // namespace lp
