// How else a part could lie: many ways up, each with what it would cost, the best first.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "bed/face_marks.h"
#include "shape/tri_mesh.h"
#include <optional>
#include <vector>

namespace lp {

/// What a way up costs, in points. Common practice, no published source.
struct PoseWeights {
    double support_cm3 = 1;
    double overhang_cm2 = 0.3; ///< rough where the supports stood
    double height_cm = 0.1;    ///< time
    double tips = 100;
    double too_large = 1000;
    double no_footing = 2; ///< times the share of 1 cm2 that it does not stand on
    double seen_cm2 = 1;   ///< rough where it is seen
    double mating_cm2 = 2; ///< rough where it goes against another part
    double never_cm2 = 10; ///< hangs where no support may touch it
};

struct PoseOptions {
    double overhang_limit_deg = 45;
    Vec3 bed_mm{220, 220, 250};
    PoseWeights weights;
    FacetMarks marks; ///< of the mesh
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
