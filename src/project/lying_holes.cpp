#include "project/lying_holes.h"
#include "base/quantity.h"
#include "check/overhang.h"
#include "steps/edges/face_between_walls.h"
#include <algorithm>

namespace lp {
namespace {

constexpr double least_diameter_mm = 3, lies_within_deg = 30;

/// "along x", "along y", "leaning".
std::string way_of(const Vec3& axis) {
    for (int k = 0; k < 3; ++k)
        if (std::fabs(axis[k]) > std::cos(radians(1.0))) return std::string("along ") + "xyz"[k];
    return std::fabs(axis.z()) > std::sin(radians(1.0)) ? "leaning" : "level";
}

} // namespace

std::vector<LyingHole> lying_holes(const PartResult& made, const Transform& pose, const PrinterCard& card) {
    std::vector<LyingHole> holes;
    for (size_t b = 0; b < made.bodies.size(); ++b) {
        const Tessellation& shape = made.bodies[b].body.tessellation();
        std::vector<double> hanging_mm2(shape.faces.size(), 0), highest(shape.faces.size(), -1e30);
        std::vector<Vec3> top(shape.faces.size(), Vec3::Zero());
        for (size_t i = 0; i < shape.face_of.size(); ++i) {
            const uint32_t face = shape.face_of[i];
            if (shape.faces[face].kind != SurfaceKind::Cylinder) continue;
            const Vec3 area = pose.linear() * shape.mesh.area_vector(i);
            if (hang_angle_deg(area.stableNormalized()) <= card.overhang_limit_deg) continue;
            hanging_mm2[face] += area.norm() / 2;
            const Vec3 at =
                pose * Vec3((shape.mesh.corner(i, 0) + shape.mesh.corner(i, 1) + shape.mesh.corner(i, 2)) / 3);
            if (at.z() > highest[face]) highest[face] = at.z(), top[face] = at;
        }
        for (size_t f = 0; f < shape.faces.size(); ++f) {
            const FaceInfo& face = shape.faces[f];
            const Vec3 axis = (pose.linear() * face.direction).normalized();
            const double r = face.radius_mm, h = std::min(card.layer_height_mm, r);
            if (!(hanging_mm2[f] > 0.5) || 2 * r < least_diameter_mm - 1e-6 ||
                std::fabs(axis.z()) > std::sin(radians(lies_within_deg)) || !is_hollow(shape, f))
                continue;
            holes.push_back({b, f, axis, top[f], 2 * r, 2 * std::sqrt(h * (2 * r - h)), h + card.lying_sag_mm});
        }
    }
    std::stable_sort(holes.begin(), holes.end(),
                     [](const LyingHole& x, const LyingHole& y) { return x.diameter_mm > y.diameter_mm; });
    return holes;
}

std::vector<Vec3> bore_axes(const PartResult& made) {
    std::vector<Vec3> axes;
    for (const StepBody& body : made.bodies) {
        const Tessellation& shape = body.body.tessellation();
        for (size_t f = 0; f < shape.faces.size(); ++f)
            if (shape.faces[f].kind == SurfaceKind::Cylinder &&
                2 * shape.faces[f].radius_mm >= least_diameter_mm - 1e-6 && is_hollow(shape, f))
                axes.push_back(shape.faces[f].direction);
    }
    return axes;
}

std::string lying_hole_words(const std::vector<LyingHole>& holes) {
    if (holes.empty()) return "";
    const LyingHole& hole = holes.front();
    return std::string(holes.size() > 1 ? "The largest, ⌀ " : "⌀ ") + format_number(hole.diameter_mm, 1) + " mm " +
           way_of(hole.axis) + (holes.size() > 1 ? ", comes" : ": it comes") + " out flat over " +
           format_number(hole.flat_mm, 1) + " mm at its top and up to " + format_number(hole.low_mm, 2) + " mm low.";
}

} // namespace lp
