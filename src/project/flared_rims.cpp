#include "project/flared_rims.h"
#include "base/quantity.h"
#include "project/analysis.h"
#include "steps/edges/face_between_walls.h"

namespace lp {
namespace {

constexpr double on_bed_mm = 0.02, least_diameter_mm = 2;

/// Whether a place in the design lies on a round face, give or take its facets.
bool lies_on(const FaceInfo& face, const Vec3& place) {
    const Vec3 axis = face.direction.normalized(), from = place - face.axis_point;
    return std::fabs((from - from.dot(axis) * axis).norm() - face.radius_mm) < 0.05;
}

} // namespace

std::vector<FlaredRim> flared_rims(const PartResult& made, const Transform& pose) {
    static const double upright = std::cos(radians(1.0));
    std::vector<FlaredRim> rims;
    for (size_t b = 0; b < made.bodies.size(); ++b) {
        const Body& body = made.bodies[b].body;
        if (!body.is_exact()) continue;
        const Tessellation& shape = body.tessellation();
        for (size_t e = 0; e < shape.edges.size(); ++e) {
            const EdgeInfo& edge = shape.edges[e];
            if (edge.points.empty() || edge.face_a == edge.face_b) continue;
            for (int f : {edge.face_a, edge.face_b}) {
                if (f < 0) continue;
                const FaceInfo& face = shape.faces[size_t(f)];
                if (face.kind != SurfaceKind::Cylinder || 2 * face.radius_mm < least_diameter_mm) continue;
                if (std::fabs((pose.linear() * face.direction.normalized()).z()) < upright) continue;
                if (std::any_of(edge.points.begin(), edge.points.end(),
                                [&](const Vec3& p) { return (pose * p).z() > on_bed_mm; }))
                    continue;
                rims.push_back({b, size_t(f), e, is_hollow(shape, size_t(f)), 2 * face.radius_mm,
                                pose * edge.points[edge.points.size() / 2]});
            }
        }
    }
    return rims;
}

std::optional<Finding> flared_finding(const Evaluation& evaluation, const Analysis& analysis,
                                      const PartAnalysis& known) {
    const double flare = evaluation.project->printer.first_layer_flare_mm;
    const PartResult* made = evaluation.part(known.part);
    if (!made || !(flare > 0)) return std::nullopt;
    for (const ContactResult& c : analysis.contacts) {
        if (!c.wanted || !c.gap || flare < c.wanted->gap_mm - 1e-9) continue;
        for (const auto& [part, at] : {std::pair(c.part_a, c.gap->at_a), std::pair(c.part_b, c.gap->at_b)}) {
            if (part != known.part) continue;
            const Vec3 place = made->place.inverse() * at;
            for (const FlaredRim& rim : known.rims) {
                if (rim.body >= made->bodies.size()) continue;
                if (!lies_on(made->bodies[rim.body].body.tessellation().faces[rim.face], place)) continue;
                const std::string across = format_number(rim.diameter_mm, 2) + " mm";
                return Finding{.kind = FindingKind::Flared,
                               .count = 1,
                               .where = rim.at,
                               .says = (rim.hole ? "The mouth of the hole, ⌀ " + across + ", closes by "
                                                 : "The foot of the peg, ⌀ " + across + ", grows by ") +
                                       format_number(flare, 2) + " mm a wall on the bed; the fit's gap is " +
                                       format_fixed(c.wanted->gap_mm, 2) + " mm."};
            }
        }
    }
    return std::nullopt;
}

} // namespace lp
