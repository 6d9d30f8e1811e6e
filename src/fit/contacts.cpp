#include "fit/contacts.h"
#include "base/tolerance.h"

namespace lp {

const char* fit_state_name(FitState state) {
    switch (state) {
    case FitState::Right:
        return "right";
    case FitState::Tight:
        return "tight";
    case FitState::Slack:
        return "slack";
    case FitState::Touching:
        return "touching";
    case FitState::Overlapping:
        return "overlapping";
    case FitState::Unset:
        return "unset";
    }
    return "unset";
}

std::optional<GapMeasure> measure_gap(const MeasuredBody& a, const MeasuredBody& b, double below_mm) {
    if (a.tree.empty() || b.tree.empty()) return std::nullopt;
    if (a.tree.box().exteriorDistance(b.tree.box()) > below_mm) return std::nullopt;
    ClosestPair pair = closest_pair(a.tree, b.tree, below_mm);
    // One body wholly inside the other never comes near its surface.
    bool within = !pair.crossing && (a.tree.inside(b.mesh.corner(0, 0)) || b.tree.inside(a.mesh.corner(0, 0)));
    if (pair.distance_mm > below_mm && !within) return std::nullopt;
    GapMeasure result;
    result.min_mm = pair.distance_mm;
    result.at_a = pair.at_a;
    result.at_b = pair.at_b;
    if (pair.distance_mm <= tolerance::touching_mm || within) {
        result.touching = true;
        auto common = common_part(a.mesh, b.mesh);
        if (common && common->volume_mm3 > tolerance::overlap_mm3) {
            result.overlap_mm3 = common->volume_mm3;
            result.at_a = result.at_b = common->at; // they may touch harmlessly elsewhere
        }
        if (within || result.overlap_mm3 > 0) result.min_mm = 0;
        if (within && !std::isfinite(pair.distance_mm) && result.overlap_mm3 == 0)
            result.at_a = result.at_b = a.tree.inside(b.mesh.corner(0, 0)) ? b.mesh.corner(0, 0) : a.mesh.corner(0, 0);
    }
    return result;
}

bool face_each_other(const MeasuredBody& host, const Vec3& on_other, double distance_mm) {
    constexpr double share = 0.8; // an inner corner's way to an outer one is 1.41 times the gap of its walls, or more
    return host.tree.closest(on_other, distance_mm + tolerance::same_mm).distance_mm >=
           share * distance_mm - tolerance::touching_mm;
}

double largest_gap(const MeasuredBody& host, const std::vector<uint32_t>& facing, const MeasuredBody& other) {
    double largest = 0;
    for (uint32_t i : facing) {
        const TriMesh& mesh = host.mesh;
        Vec3 middle = (mesh.corner(i, 0) + mesh.corner(i, 1) + mesh.corner(i, 2)) / 3;
        for (const Vec3& p : {mesh.corner(i, 0), mesh.corner(i, 1), mesh.corner(i, 2), middle}) {
            ClosestPoint near = other.tree.closest(p);
            if (near.distance_mm > largest && face_each_other(host, near.point, near.distance_mm))
                largest = near.distance_mm;
        }
    }
    return largest;
}

FitState judge_gap(const GapMeasure& measure, std::optional<double> wanted_mm) {
    if (measure.overlap_mm3 > 0) return FitState::Overlapping;
    if (measure.touching && (!wanted_mm || *wanted_mm > tolerance::touching_mm)) return FitState::Touching;
    if (!wanted_mm) return FitState::Unset;
    if (measure.min_mm < *wanted_mm - tolerance::gap_right_mm) return FitState::Tight;
    if (measure.min_mm > *wanted_mm + tolerance::gap_right_mm) return FitState::Slack;
    return FitState::Right;
}

} // namespace lp
