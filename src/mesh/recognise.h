// Planes, cylinders, cones and spheres that the facets of a mesh stand for.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <optional>

namespace lp {

struct Feature {
    enum class Kind { Plane, Cylinder, Cone, Sphere };
    Kind kind = Kind::Plane;
    Vec3 axis = Vec3::UnitZ(); ///< a plane's outward normal; of a cylinder or cone (from its point outward); unit
    Vec3 at = Vec3::Zero();    ///< on a plane: its middle; the middle of a cylinder's axis; a cone's point; a centre
    double diameter_mm = 0;    ///< of a cylinder or sphere; of a cone where it is widest
    double half_angle_deg = 0; ///< of a cone
    bool inside = false;       ///< a hole: the material lies outside
    double area_mm2 = 0;       ///< of its facets
    double largest_deviation_mm = 0; ///< of its corners
    std::vector<uint32_t> facets;
};
const char* word_of(Feature::Kind kind);

struct RecogniseOptions {
    double within_mm = 0.02;      ///< corners lie as near to what they stand for
    double least_plane_mm2 = 1;   ///< smaller planes are not told
    double coplanar_deg = 0.2;    ///< facets that meet flatter are one plane
    double largest_step_deg = 31; ///< between facets beside each other of one round: twelve round a circle
};

/// Coplanar facets are strips; strips beside each other that lie on one cylinder, cone or sphere are joined, grown from
/// where three fit (regions by least squares of their corners). What is left is planes. Largest area first; stops on
/// request.
Expected<std::vector<Feature>> recognise(const TriMesh& mesh, const RecogniseOptions& options = {},
                                         const Task& task = {});

} // namespace lp
