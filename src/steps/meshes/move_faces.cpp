// Faces of a mesh moved, turned or scaled where they are; what stands beside them follows.
#include "base/tolerance.h"
#include "steps/bending/deforming.h"
#include "steps/meshes/mesh_faces.h"

namespace lp {
namespace {

Vec3 middle_of(const TriMesh& mesh, const Facets& facets) {
    Vec3 sum = Vec3::Zero();
    double area = 0;
    for (uint32_t f : facets) {
        const double a = mesh.area_vector(f).norm();
        sum += a * (mesh.corner(f, 0) + mesh.corner(f, 1) + mesh.corner(f, 2)) / 3;
        area += a;
    }
    return area > 0 ? Vec3(sum / area) : mesh.corner(facets.front(), 0);
}

} // namespace

StepKind move_faces_kind() {
    StepKind kind;
    kind.id = "move_faces";
    kind.title = "Move faces";
    kind.purpose = "Moves, turns or scales faces of a mesh: a peg, a hole, a rim; what stands beside them follows.";
    const double far = tolerance::largest_mm;
    kind.fields = {
        StepField{"faces", FieldKind::Faces, "", 0, 0, {}, "faces of a body of triangles"}.filled_by(Filler::Faces),
        {"x", FieldKind::Length, "0 mm", -far, far, {}, "to the right"},
        {"y", FieldKind::Length, "0 mm", -far, far, {}, "to the back"},
        {"z", FieldKind::Length, "0 mm", -far, far, {}, "up"},
        {"turn", FieldKind::Angle, "0 deg", -360, 360, {}, "about their middle"},
        {"about", FieldKind::Choice, "z", 0, 0, axis_names(), "the axis they turn about"},
        {"scale", FieldKind::Number, "1", 0.01, 100, {}, "times as large, about their middle"},
        {"over",
         FieldKind::Length,
         "0 mm",
         0,
         far,
         {},
         "how far round them the surface follows; 0: only what touches"}};
    kind.sentence = "Move {faces} by {x}, {y}, {z}[, turned by {turn} about {about}][, {scale}:1 as large][, the rest "
                    "follows over {over}]";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"region", "shift", "edit", "peg", "drag", "turn", "scale", "soft"};
    kind.offers = {{.when = Chosen::Face, .place = 34, .on_mesh = true},
                   {.when = Chosen::Faces, .place = 34, .on_mesh = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = chosen_mesh_faces(before, context);
        if (!chosen) return pass_on(chosen);
        const TriMesh& mesh = before[chosen->body].body.mesh();
        const Vec3 middle = middle_of(mesh, chosen->facets);
        const Vec3 by(context.number("x"), context.number("y"), context.number("z"));
        const double turn = radians(context.number("turn")), scale = context.number("scale"),
                     over = context.number("over");
        if (by.isZero() && turn == 0 && scale == 1)
            return StepResult{before, "Nothing is moved yet: give a distance, an angle or a scale.", {}, {}};
        const Eigen::AngleAxisd turned(turn, Vec3::Unit(axis_index(context.word("about"))));
        if (over == 0 && scale == 1) {
            Transform rigid = Transform::Identity();
            rigid.translate(middle + by);
            rigid.rotate(turned);
            rigid.translate(-middle);
            return with_moved_facets(before, chosen->body, chosen->facets, rigid, context);
        }
        auto map = [&](const Vec3& p) -> Vec3 { return middle + by + turned * (scale * (p - middle)); };
        auto moved = moved_region(mesh, chosen->facets, moved_by(map), over, context.task);
        if (!moved) return pass_on(moved);
        return with_mesh(before, chosen->body, std::move(*moved), context);
    };
    return kind;
}

} // namespace lp
