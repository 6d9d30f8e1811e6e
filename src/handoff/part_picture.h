// A picture of a mesh on the processor: shaded in greys with dark edges, readable in black and white.
#pragma once
#include "shape/tri_mesh.h"
#include <cstdint>

namespace lp {

/// Seen without perspective from in front, the right and above.
struct PartPicture {
    int width = 0, height = 0;    ///< pixels
    std::vector<uint32_t> pixels; ///< opaque greys as 0xffRRGGBB, row by row from the top; white where there is nothing
    /// Where a place of the mesh stands in the picture, pixels from its upper left.
    Vec2 at(const Vec3& place) const;

    Eigen::Matrix<double, 2, 3> look = Eigen::Matrix<double, 2, 3>::Zero();
    Vec2 origin = Vec2::Zero();
};

/// The box of the mesh as large as fits into so many pixels with `border` of them left free at every side. White for an
/// empty mesh. `colours`: of its facets, 0xRRGGBB, in place of greys; none or one each.
PartPicture draw_part(const TriMesh& mesh, int width, int height, int border,
                      const std::vector<uint32_t>& colours = {});

} // namespace lp
