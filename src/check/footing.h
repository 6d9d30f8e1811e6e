// How a part stands on the bed, and whether it has room there.
#pragma once
#include "shape/tri_mesh.h"

namespace lp {

struct Footing {
    double contact_area_mm2 = 0; ///< facets that lie on the bed
    bool tips_over = false;      ///< the centre of mass is not above the hull of the places that touch the bed
    bool fits_bed = false;       ///< as it lies, or turned by 90 degrees about the vertical
    Vec3 foot = Vec3::Zero();    ///< middle of the touching places
    double foot_width_mm = 0;    ///< the least width of their hull; 0 when they are on a line
    double height_mm = 0;
    /// So tall for its foot that the nozzle may knock it over as it grows (common practice, no published source).
    /// A brim makes the foot wider on both sides.
    bool slender(double brim_mm = 0) const { return height_mm > 20 * (foot_width_mm + 2 * brim_mm) && height_mm > 5; }
};

/// `centre` is the centre of mass; the mesh stands as posed, up is +z. `bed_mm` is width, depth, height.
Footing check_footing(const TriMesh& posed, const Vec3& centre, const Vec3& bed_mm);

/// Turns `up` to +z by the shortest way.
Transform turned_up(const Vec3& up);

} // namespace lp
