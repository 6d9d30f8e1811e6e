// Measuring the gap between two bodies and judging it against the wanted fit.
#pragma once
#include "fit/fits.h"
#include "mesh/combine.h"
#include "shape/mesh_distance.h"
#include <optional>

namespace lp {

/// States of the fit ring.
enum class FitState { Right, Tight, Slack, Touching, Overlapping, Unset };
const char* fit_state_name(FitState state); ///< "right", "tight", ...

/// A mesh made ready for many distance questions. Shared, immutable.
struct MeasuredBody {
    TriMesh mesh;
    DistanceTree tree;
    explicit MeasuredBody(TriMesh m) : mesh(std::move(m)), tree(mesh) {}
};

struct GapMeasure {
    double min_mm = std::numeric_limits<double>::infinity(); ///< 0 when touching or overlapping
    std::optional<double> max_mm;                            ///< over the facing surface, when one is known
    Vec3 at_a = Vec3::Zero(), at_b = Vec3::Zero();
    bool touching = false;
    double overlap_mm3 = 0;
};

/// Smallest gap between two closed bodies nearer than `below_mm`; no value when they are farther apart. An overlap's
/// volume is computed with the mesh booleans; when they refuse, it is left 0 and the pair counts as touching.
std::optional<GapMeasure> measure_gap(const MeasuredBody& a, const MeasuredBody& b, double below_mm);

/// Whether a place of the host faces the place of the other body that is nearest to it: back from there the host is
/// about as far. Not so for what only lies within reach: a wall beyond the other's end, a corner round another.
bool face_each_other(const MeasuredBody& host, const Vec3& on_other, double distance_mm);
/// Largest distance to `other` from those triangles of `host` that `facing` names, where they face each other: corners
/// and middles.
double largest_gap(const MeasuredBody& host, const std::vector<uint32_t>& facing, const MeasuredBody& other);

/// Right within tolerance::gap_right_mm of the wanted gap. Unset when nothing is wanted, except touching and
/// overlapping.
FitState judge_gap(const GapMeasure& measure, std::optional<double> wanted_mm);

} // namespace lp
