// Seats a face of one body on a face of another; round faces go axis on axis.
#include "base/tolerance.h"
#include "base/turn_between.h"
#include "steps/find_plane.h"
#include "steps/placing/moving.h"

namespace lp {
StepKind seat_kind() {
    StepKind kind;
    kind.id = "seat";
    kind.title = "Seat";
    kind.purpose = "Moves a body until one of its faces lies on a face of another; round faces go axis on axis.";
    const double far = tolerance::largest_mm;
    kind.fields = {
        StepField{"face", FieldKind::Face, "", 0, 0, {}, "of the body that moves"}.filled_by(Filler::NextFace),
        StepField{"on", FieldKind::Face, "", 0, 0, {}, "of the body that stays"}.filled_by(Filler::NextFace),
        {"gap", FieldKind::Length, "0 mm", -far, far, {}, "left free between them"},
        {"angle", FieldKind::Angle, "0 deg", -3600, 3600, {}, "turned about the face's normal, or the axis"},
        {"shift_x", FieldKind::Length, "0 mm", -far, far, {}, "from the middle of the face that stays"},
        {"shift_y", FieldKind::Length, "0 mm", -far, far, {}, "from the middle of the face that stays"}};
    kind.sentence = "Seat {face} on {on}[ with {gap} between][, turned by {angle}][, shifted by {shift_x}, {shift_y}]";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"mate", "place", "on"};
    kind.offers = {{.when = Chosen::Face, .place = 80, .folded = true},
                   {.when = Chosen::TwoFaces, .place = 20, .words = "Seat the first on the second"}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        for (const char* name : {"face", "on"})
            if (context.word(name).empty())
                return problem(ProblemCode::Missing, "It is not said which face is seated on which.",
                               "Click the face in the sentence and choose.");
        auto face = find_face(before, context, context.value("face"), true);
        if (!face) return pass_on(face);
        if (context.nominal) return move_as_one(before, {face->body}, context.nominal->plane);
        auto on = find_face(before, context, context.value("on"), true);
        if (!on) return pass_on(on);
        if (face->body == on->body)
            return problem(ProblemCode::Geometry, "Both faces belong to one body.",
                           "Choose faces of two bodies; a solid stands alone when it \"does\" new.");
        const FaceInfo& a = before[face->body].body.tessellation().faces[face->face];
        const FaceInfo& b = before[on->body].body.tessellation().faces[on->face];
        bool flat = a.kind == SurfaceKind::Plane && b.kind == SurfaceKind::Plane;
        if (!flat && !(has_axis(a) && has_axis(b)))
            return problem(ProblemCode::Geometry, "A flat face is seated on a flat one, a round one on a round one.",
                           "Choose two alike.");
        Vec3 from = a.direction, to = flat ? Vec3(-b.direction) : b.direction;
        if (!flat && from.dot(to) < 0) to = -to; // axes have no sense: the shorter turn
        Vec3 pivot = a.centre, goal = b.centre, normal = flat ? b.direction : to;
        if (!flat) { // the point of each axis nearest to its face's middle
            pivot = a.axis_point + (a.centre - a.axis_point).dot(a.direction) * a.direction;
            goal = b.axis_point + (b.centre - b.axis_point).dot(b.direction) * b.direction;
        }
        Transform move = Transform::Identity();
        Transform frame = Transform::Identity(); // shifts are counted in the frame of the face that stays
        if (auto own = face_frame(before[on->body].body, on->face, on->primary)) frame.linear() = own->linear();
        move.translate(goal + context.number("gap") * normal +
                       frame.linear() * Vec3(context.number("shift_x"), context.number("shift_y"), 0));
        move.rotate(Eigen::AngleAxisd(radians(context.number("angle")), normal));
        move.rotate(turn_between(from, to));
        move.translate(-pivot);
        return move_as_one(before, {face->body}, move);
    };
    return kind;
}

} // namespace lp
