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
        auto volume = common_volume(a.mesh, b.mesh);
        if (volume && *volume > tolerance::overlap_mm3) result.overlap_mm3 = *volume;
        if (within || result.overlap_mm3 > 0) result.min_mm = 0;
        if (within && !std::isfinite(pair.distance_mm))
            result.at_a = result.at_b = a.tree.inside(b.mesh.corner(0, 0)) ? b.mesh.corner(0, 0) : a.mesh.corner(0, 0);
    }
    return result;
}

double largest_gap(const TriMesh& host, const std::vector<uint32_t>& facing, const MeasuredBody& other) {
    double largest = 0;
    for (uint32_t i : facing) {
        Vec3 middle = (host.corner(i, 0) + host.corner(i, 1) + host.corner(i, 2)) / 3;
        for (const Vec3& p : {host.corner(i, 0), host.corner(i, 1), host.corner(i, 2), middle})
            largest = std::max(largest, other.tree.closest(p).distance_mm);
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
