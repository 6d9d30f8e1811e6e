// Closing layer: a thin layer across a hole in a roof, so that the lines of the roof have ends to be drawn between.
#include "base/tolerance.h"
#include "base/turn_between.h"
#include "shape/exact_solids.h"
#include "steps/edges/face_between_walls.h"
#include "steps/find_plane.h"
#include "steps/solids/profile_shape.h"
#include "steps/step_kind.h"
#include <algorithm>

namespace lp {
namespace {

/// Round holes that open into a flat face: walls at its edges whose axis runs along its normal.
std::vector<size_t> round_holes_in(const Tessellation& t, size_t face) {
    static const double square = std::cos(radians(1.0));
    std::vector<size_t> walls;
    for (const EdgeInfo& edge : t.edges) {
        if (edge.face_a < 0 || edge.face_b < 0 || edge.face_a == edge.face_b) continue;
        if (edge.face_a != int(face) && edge.face_b != int(face)) continue;
        const auto wall = size_t(edge.face_a == int(face) ? edge.face_b : edge.face_a);
        const FaceInfo& info = t.faces[wall];
        if (info.kind != SurfaceKind::Cylinder || !is_hollow(t, wall)) continue;
        if (std::fabs(info.direction.dot(t.faces[face].direction)) < square) continue;
        // It goes into the material, away from where the face looks: the wall round the face comes towards it.
        if ((info.centre - t.faces[face].centre).dot(t.faces[face].direction) > 0) continue;
        if (std::find(walls.begin(), walls.end(), wall) == walls.end()) walls.push_back(wall);
    }
    return walls;
}

Expected<StepResult> close_holes(const std::vector<StepBody>& before, const StepContext& context) {
    if (context.word("face").empty())
        return problem(ProblemCode::Missing, "It is not said which face the layer lies in.", "Choose it in the view.");
    auto found = find_face(before, context, context.value("face"), false);
    if (!found) return pass_on(found);
    const Body& body = before[found->body].body;
    const Tessellation& t = body.tessellation();
    const FaceInfo& face = t.faces[found->face];
    if (face.kind != SurfaceKind::Plane)
        return problem(ProblemCode::Geometry, "A layer lies in a flat face.", "Choose the flat ring round the hole.");
    const std::vector<size_t> walls = round_holes_in(t, found->face);
    if (walls.empty())
        return problem(ProblemCode::Geometry, "No round hole opens into that face.",
                       "Choose the flat ring round the hole that is to be closed.");
    constexpr double into_wall_mm = 0.05; // walls that coincide are hard on booleans
    const double thickness = context.number("thickness") + context.growth_mm;
    if (!(thickness > tolerance::smallest_mm))
        return problem(ProblemCode::Range, "Of such a layer nothing is left.", "Make it thicker.");
    std::vector<Body> layers;
    for (size_t wall : walls) {
        const FaceInfo& info = t.faces[wall];
        const Vec3 inward = -face.direction.normalized();
        const Vec3 centre = info.axis_point + (face.centre - info.axis_point).dot(inward) * inward;
        Transform at = frame_along(inward);
        at.translation() = centre - context.growth_mm * inward;
        auto layer = make_cylinder(info.radius_mm + into_wall_mm, thickness + context.growth_mm, at,
                                   {context.step_id, context.copy ^ (uint64_t(layers.size()) << 32)});
        if (!layer) return pass_on(layer);
        layers.push_back(*layer);
    }
    auto joined = combine(Operation::Join, body, layers, context.task);
    if (!joined) return pass_on(joined);
    StepResult result{before, joined->note, {}};
    result.bodies[found->body].body = joined->body;
    for (const Body& layer : layers)
        result.tools.push_back({Operation::Join, [layer]() -> Expected<Body> { return layer; }});
    return result;
}

} // namespace

StepKind closing_layer_kind() {
    StepKind kind;
    kind.id = "closing_layer";
    kind.title = "Closing layer";
    kind.purpose =
        "Closes round holes in a flat face by a thin layer: a counterbore that prints upside down gets a roof "
        "that lines can be drawn across. The layer is drilled or cut out after printing.";
    kind.fields = {
        StepField{"face", FieldKind::Face, "", 0, 0, {}, "the flat ring round the hole"}.filled_by(Filler::NextFace),
        {"thickness", FieldKind::Length, "0.2 mm", tolerance::smallest_mm, 10, {}, "of the layer: as high as one"}};
    kind.sentence = "Layer of {thickness} closes holes in {face}";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"sacrificial", "counterbore", "bridge", "membrane", "skin"};
    kind.repeatable = true;
    kind.evaluate = close_holes;
    return kind;
}

} // namespace lp
