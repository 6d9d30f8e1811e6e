// Faces of a mesh moved until they stand at a typed distance from another face: pegs 30 mm from middle to middle.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/find_plane.h"
#include "steps/meshes/mesh_faces.h"
#include <algorithm>

namespace lp {
namespace {

/// From one form to another: across parallel axes, between centres, along the normal of a flat face.
std::optional<Vec3> between(const Feature& from, const Feature& to) {
    using Kind = Feature::Kind;
    Vec3 d = to.at - from.at;
    for (const Feature* f : {&from, &to})
        if (f->kind == Kind::Plane) return Vec3(d.dot(f->axis) * f->axis);
    const bool axes = from.kind != Kind::Sphere && to.kind != Kind::Sphere;
    if (axes && from.axis.cross(to.axis).norm() > 0.02) return std::nullopt; // a degree off parallel
    const Feature& along = from.kind != Kind::Sphere ? from : to;
    if (along.kind != Kind::Sphere) d -= d.dot(along.axis) * along.axis;
    return d;
}

Expected<StepResult> set_apart(const std::vector<StepBody>& before, const StepContext& context) {
    if (auto wrong = refuse_growth(context)) return pass_on(*wrong);
    auto chosen = chosen_faces(before, context);
    if (!chosen) return pass_on(chosen);
    auto stays = find_face(before, context, context.value("from"), true);
    if (!stays) return pass_on(stays);
    if (stays->body == chosen->body) std::erase(chosen->faces, stays->face);
    const StepBody& mine = before[chosen->body];
    if (chosen->faces.empty() || mine.body.is_exact())
        return problem(ProblemCode::Missing, "No face of a body of triangles is chosen that could move.",
                       "Choose the faces that move, and last the one that stays.");
    const Facets facets = facets_of(mine.body, chosen->faces);
    const TriMesh& mesh = mine.body.mesh();
    auto moving = form_of(mesh, facets, context.task);
    if (!moving) { // a peg with its top and its fillet: the largest round face says where it stands
        size_t largest = chosen->faces.front();
        for (size_t f : chosen->faces) {
            const auto& faces = mine.body.tessellation().faces;
            const bool round = faces[f].kind != SurfaceKind::Plane, was = faces[largest].kind != SurfaceKind::Plane;
            if (std::pair(round, faces[f].area_mm2) > std::pair(was, faces[largest].area_mm2)) largest = f;
        }
        moving = form_of(mesh, facets_of(mine.body, {largest}), context.task);
    }
    const Body& other = before[stays->body].body;
    auto still = form_of(other.mesh(), facets_of(other, {stays->face}), context.task);
    if (!moving || !still)
        return problem(ProblemCode::Geometry, "These faces are no one form whose middle could be measured.",
                       "Choose a round, a ball-shaped or a flat face.");
    const auto apart = between(*still, *moving);
    if (!apart)
        return problem(ProblemCode::Geometry, "Their axes are not parallel: no one distance lies between them.",
                       "Choose others.");
    const double wanted = context.number("distance");
    const std::string now = format_quantity(apart->norm(), QuantityKind::Length, 3);
    if (wanted == 0) return StepResult{before, "They stand " + now + " apart. Type what it should be.", {}, {}};
    if (apart->norm() < tolerance::same_mm)
        return problem(ProblemCode::Geometry, "They lie on each other: it is not known which way to move.",
                       "Move the faces by x, y and z instead.");
    Transform shift = Transform::Identity();
    shift.translation() = apart->normalized() * (wanted - apart->norm());
    auto result = with_moved_facets(before, chosen->body, facets, shift, context);
    if (result && result->note.empty()) result->note = "They stood " + now + " apart.";
    return result;
}

} // namespace

StepKind set_apart_kind() {
    StepKind kind;
    kind.id = "set_apart";
    kind.title = "Set apart";
    kind.purpose = "Moves faces of a mesh until they stand at a distance from another face, middle to middle.";
    kind.fields = {
        StepField{"faces", FieldKind::Faces, "", 0, 0, {}, "what moves: a peg, a hole"}.filled_by(Filler::Faces),
        StepField{"from", FieldKind::Face, "", 0, 0, {}, "what stays"}.filled_by(Filler::LastFace),
        {"distance", FieldKind::Length, "0 mm", 0, tolerance::largest_mm, {}, "middle to middle; 0: as it is"}};
    kind.sentence = "Set {faces} {distance} apart from {from}";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"distance", "spacing", "pitch", "between", "centres", "measure"};
    kind.reports = true;
    kind.offers = {{.when = Chosen::Faces, .place = 36, .on_mesh = true}};
    kind.evaluate = set_apart;
    return kind;
}

} // namespace lp
