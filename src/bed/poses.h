// How else a part could lie: many ways up, each with what it would cost, the best first.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "bed/face_marks.h"
#include "bed/pose_weights.h"
#include "shape/tri_mesh.h"
#include <optional>
#include <vector>

namespace lp {

struct PoseOptions {
    double overhang_limit_deg = 45;
    Vec3 bed_mm{220, 220, 250};
    PoseWeights weights;
    FacetMarks marks;         ///< of the mesh
    std::vector<Vec3> bores;  ///< axes of round holes: those that lie come out flat at their tops
    std::vector<Vec3> joints; ///< area vectors, mm2, both sides of the gaps in which its bodies move
    std::optional<Vec3> load; ///< the way it is pulled in use: across the layers it is weakest
    size_t candidates = 500;
    size_t samples = 8192; ///< places on the surface from which supports are measured
    size_t best = 5;       ///< how many are wanted
    std::optional<Vec3> lies_up =
        {}; ///< what points up as the part lies: told too, behind the others where it is not one
};

struct Pose {
    Vec3 up = Vec3::UnitZ();       ///< direction of the part that points up then
    double support_volume_mm3 = 0; ///< of what stands under all that hangs, down to the part or the bed
    double overhang_area_mm2 = 0;  ///< as in the inspection of the part as it lies so
    double height_mm = 0;
    double footprint_mm2 = 0;    ///< area that lies on the bed
    double rough_marked_mm2 = 0; ///< steps and scars on faces marked seen or mating
    double kept_off_mm2 = 0;     ///< hangs on faces that no tip may touch
    size_t lying_bores = 0;      ///< of PoseOptions::bores, those within 30 degrees of level
    double joints_hang_mm2 = 0;  ///< of the gaps of its joints
    double load_across = 0;      ///< share of the load that pulls the layers apart: 0 along them, 1 across
    bool tips_over = false;
    bool fits_bed = true;
    double score = 0;        ///< the sum of its costs: the less, the better
    bool as_it_lies = false; ///< within two degrees of PoseOptions::lies_up
};

/// Flat faces, facets of the hull and directions evenly over the sphere are tried; the best by a sample are measured
/// facet by facet. Poses within eight degrees of a better one are left out. Open meshes are scored as they are. Fails
/// for a mesh without a facet and on request.
Expected<std::vector<Pose>> best_poses(const TriMesh& mesh, const PoseOptions& options = {}, const Task& task = {});

} // namespace lp
