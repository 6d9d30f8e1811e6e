#include "project/sizes_to_measure.h"
#include "steps/edges/face_between_walls.h"
#include <algorithm>

namespace lp {
namespace {

constexpr double least_mm = 2; ///< jaws go into nothing smaller

struct Round {
    double diameter_mm;
    bool hole;
    std::vector<Vec3> at; ///< one an axis
};

std::vector<Round> upright_rounds(const PartResult& made, const Transform& pose) {
    std::vector<Round> found;
    for (const StepBody& one : made.bodies) {
        if (!one.body.is_exact()) continue;
        const Tessellation& shape = one.body.tessellation();
        // Rounds of edges are no pegs: a face must go round at least half.
        std::vector<double> low(shape.faces.size(), 1e300), high(low.size(), -1e300);
        for (size_t t = 0; t < shape.mesh.triangles.size(); ++t) {
            const size_t f = shape.face_of[t];
            for (uint32_t v : shape.mesh.triangles[t]) {
                const double along = shape.mesh.vertices[v].dot(shape.faces[f].direction);
                low[f] = std::min(low[f], along);
                high[f] = std::max(high[f], along);
            }
        }
        for (size_t f = 0; f < shape.faces.size(); ++f) {
            const FaceInfo& face = shape.faces[f];
            const double d = 2 * face.radius_mm;
            if (face.kind != SurfaceKind::Cylinder || d < least_mm || !(high[f] > low[f])) continue;
            if (std::fabs((pose.linear() * face.direction).z()) < 0.99) continue;
            if (face.area_mm2 < 0.49 * std::numbers::pi * d * (high[f] - low[f])) continue;
            const double diameter = std::round(d * 1000) / 1000;
            const bool hole = is_hollow(shape, f);
            const Vec3 at = pose * face.axis_point;
            auto same = std::find_if(found.begin(), found.end(), [&](const Round& r) {
                return r.hole == hole && std::fabs(r.diameter_mm - diameter) < 1e-6;
            });
            if (same == found.end()) same = found.insert(same, {diameter, hole, {}});
            if (std::none_of(same->at.begin(), same->at.end(),
                             [&](const Vec3& other) { return (other - at).head<2>().norm() < 1e-3; }))
                same->at.push_back(at);
        }
    }
    std::sort(found.begin(), found.end(), [](const Round& a, const Round& b) { return a.diameter_mm > b.diameter_mm; });
    return found;
}

} // namespace

std::vector<SizeToMeasure> sizes_to_measure(const PartResult& made, const PartAnalysis& known, const PrinterCard& card,
                                            size_t most) {
    std::vector<SizeToMeasure> sizes;
    if (!known.posed) return sizes;
    const Vec3 size = bounding_box(*known.posed).sizes();
    const double grows = 2 * card.outside_growth_mm;
    sizes.push_back({"left to right, as it lay", size.x(), size.x() + grows});
    sizes.push_back({"front to back", size.y(), size.y() + grows});
    sizes.push_back({.what = "height", .drawn_mm = size.z(), .expected_mm = size.z(), .by_layers = true});
    for (const Round& round : upright_rounds(made, known.pose)) {
        if (sizes.size() >= most) break;
        const double d = round.diameter_mm;
        sizes.push_back({.what = round.hole ? "hole" : "outside, round",
                         .drawn_mm = d,
                         .expected_mm = round.hole ? d - 2 * card.hole_shrink_at(d) : d + grows,
                         .round = true,
                         .hole = round.hole,
                         .at = round.at});
    }
    return sizes;
}

} // namespace lp
