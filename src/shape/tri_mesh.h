// Triangle meshes as plain vectors. Adjacency is built where it is needed (mesh/topology.h).
#pragma once
#include "base/geometry.h"
#include "shape/tags.h"
#include <array>
#include <cstdint>
#include <vector>

namespace lp {

using Triangle = std::array<uint32_t, 3>;

/// Vertices in mm; triangles index them, counter-clockwise seen from outside. `tags` is empty or one a triangle.
struct TriMesh {
    std::vector<Vec3> vertices;
    std::vector<Triangle> triangles;
    std::vector<Tag> tags;

    bool empty() const { return triangles.empty(); }
    const Vec3& corner(size_t triangle, int k) const { return vertices[triangles[triangle][k]]; }
    /// Twice the area times the unit normal.
    Vec3 area_vector(size_t triangle) const {
        const Vec3& a = corner(triangle, 0);
        return (corner(triangle, 1) - a).cross(corner(triangle, 2) - a);
    }
};

/// Volume, area and centre from signed tetrahedra (reference/tables.md 10). Volume is meaningful for closed meshes.
struct MassProperties {
    double volume_mm3 = 0; ///< negative when the mesh is inside out
    double area_mm2 = 0;
    Vec3 centre = Vec3::Zero(); ///< of the volume; of the surface when there is no volume
};
MassProperties mass_properties(const TriMesh& mesh);

/// Every edge is run along as often one way as the other: an indexed mesh without a hole.
bool is_closed(const TriMesh& mesh);

Box3 bounding_box(const TriMesh& mesh);
TriMesh transformed(const TriMesh& mesh, const Transform& move);
/// Adds `more` to `mesh`; tags are kept when both have them.
void append(TriMesh& mesh, const TriMesh& more);
/// The same surface with bit-identical vertices merged and unused ones dropped. `old_to_new` if wanted. Linear.
TriMesh welded(const TriMesh& mesh, std::vector<uint32_t>* old_to_new = nullptr);
/// Axis-aligned box from a to b: 8 vertices, 12 triangles.
TriMesh box_mesh(const Vec3& a, const Vec3& b);

} // namespace lp
