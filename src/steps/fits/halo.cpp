// A halo: bodies carry an envelope at a fit's gap.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "base/turn_between.h"
#include "mesh/grow.h"
#include "shape/exact_solids.h"
#include "steps/find_edges.h"
#include "steps/fits/envelope.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

struct Envelope {
    Body body;
    std::string note;
};

/// A remade body is believed when it is the same one, and as much larger as the gap says: at least by its area times
/// the gap less what hollow edges take, and on every side of its box.
bool believable(const Body& nominal, const Body& grown, double gap) {
    if (!grown.is_exact() || grown.pieces() != nominal.pieces()) return false;
    const Box3 &a = nominal.box(), &b = grown.box();
    Vec3 below = a.min() - b.min(), above = b.max() - a.max();
    double least = std::min(below.minCoeff(), above.minCoeff()), most = std::max(below.maxCoeff(), above.maxCoeff());
    double more = grown.mass().volume_mm3 - nominal.mass().volume_mm3;
    return least > gap * 0.99 - 1e-4 && most < gap * 3 && more > 0;
}

Expected<Envelope> envelope_of(const std::vector<StepBody>& before, size_t i, double gap, const StepContext& context) {
    const Body& body = before[i].body;
    if (context.remade && body.is_exact())
        if (auto grown = context.remade(gap); grown && grown->size() == before.size())
            if ((*grown)[i].made_by == before[i].made_by && believable(body, (*grown)[i].body, gap))
                return Envelope{(*grown)[i].body, {}};
    if (auto grown = exact_envelope(body, gap, context)) return Envelope{std::move(*grown), {}};
    if (context.cancelled()) return cancelled();
    auto grown = grow_mesh(body.mesh(), gap, {}, context.task);
    if (!grown) return pass_on(grown);
    return Envelope{Body::from_mesh(std::move(grown->mesh)),
                    "The halo is made of facets, within " + format_fixed(grown->largest_deviation_mm, 3) +
                        " mm: this body can neither be remade larger by its numbers nor offset exactly."};
}

/// Keeps the envelope behind flat faces that carry no gap. The body must lie wholly behind each.
Expected<Body> without_faces(Body envelope, const Body& body, const FoundFaces& bare, const StepContext& context) {
    for (size_t f : bare.faces) {
        const FaceInfo& face = body.tessellation().faces[f];
        double farthest = -1e300;
        for (const Vec3& v : body.mesh().vertices) farthest = std::max(farthest, face.direction.dot(v - face.centre));
        if (face.kind != SurfaceKind::Plane || farthest > tolerance::same_mm)
            return problem(ProblemCode::Geometry,
                           "Only a flat face with all of the body behind it can go without a gap.",
                           "Choose another, or let the halo go all round.");
        double reach = 2 * envelope.box().diagonal().norm() + 10;
        Transform at = frame_along(face.direction);
        at.translation() = face.centre;
        at.translate(Vec3(-reach, -reach, 0));
        auto space = make_block({2 * reach, 2 * reach, reach}, at, context.source());
        if (!space) return pass_on(space);
        auto cut = combine(Operation::Cut, envelope, {*space}, context.task);
        if (!cut) return pass_on(cut);
        envelope = cut->body;
    }
    return envelope;
}

Expected<StepResult> give_halo(const std::vector<StepBody>& before, const StepContext& context) {
    auto chosen = pick_bodies(before, context.word("what"), "give a halo");
    if (!chosen) return pass_on(chosen);
    StepResult result{before, {}, {}};
    if (context.growth_mm != 0) return result; // a part remade larger is a halo itself
    auto gap = context.fit_gap(context.word("fit"), "");
    if (!gap) return pass_on(gap);
    if (*gap < 0.02 || *gap > 20)
        return problem(ProblemCode::Range,
                       "A halo of " + format_quantity(*gap, QuantityKind::Length) + " cannot be made.",
                       "Use a fit with a gap of 0.02 to 20 mm.");
    auto bare = find_faces(before, context, context.value("bare").geometry());
    if (!bare) return pass_on(bare);
    const std::string& along = context.word("along");
    for (size_t i : *chosen) {
        if (context.cancelled()) return cancelled();
        const Body& body = before[i].body;
        Expected<Envelope> envelope = Envelope{};
        if (along == "none") {
            envelope = envelope_of(before, i, *gap, context);
        } else {
            Vec3 axis = along == "x" ? Vec3::UnitX() : along == "y" ? Vec3::UnitY() : Vec3::UnitZ();
            auto grown = grow_mesh_along(body.mesh(), *gap, context.number("along_gap"), axis, context.task);
            if (!grown) return pass_on(grown);
            envelope = Envelope{Body::from_mesh(std::move(grown->mesh)),
                                "The halo is made of facets: its gap along " + along + " is another than across."};
        }
        if (!envelope) return pass_on(envelope);
        Body shape = envelope->body;
        if (!bare->faces.empty() && bare->body == i) {
            auto kept = without_faces(shape, body, *bare, context);
            if (!kept) return pass_on(kept);
            shape = *kept;
        }
        CarriedHalo halo{context.step_id, context.word("fit"), *gap, shape};
        if (along != "none") halo.along_gap_mm = context.number("along_gap");
        result.bodies[i].halos.push_back(std::move(halo));
        if (!envelope->note.empty()) result.note = envelope->note;
    }
    return result;
}

} // namespace

StepKind halo_kind() {
    StepKind kind;
    kind.id = "halo";
    kind.title = "Halo";
    kind.purpose = "Gives bodies an envelope at a fit's gap; it travels with them and opens what they go into.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"fit", FieldKind::Fit, "in-place", 0, 0, {}, "a named fit, or a gap a face in mm"},
                   StepField{"bare", FieldKind::Faces, "", 0, 0, {}, "flat outer faces that carry no gap"}.optional(),
                   {"along", FieldKind::Choice, "none", 0, 0, {"none", "x", "y", "z"}, "axis with a gap of its own"},
                   {"along_gap", FieldKind::Length, "0.5 mm", 0.02, 20, {}, "the gap along that axis"}};
    kind.sentence = "Give {what} a halo, fit {fit}[, bare at {bare}][, along {along} by {along_gap}]";
    kind.group = StepGroup::Fits;
    kind.synonyms = {"clearance", "envelope"};
    kind.offers = {{.when = Chosen::Body, .place = 10, .words = "Give a halo", .any_body = true}};
    kind.evaluate = give_halo;
    return kind;
}

} // namespace lp
