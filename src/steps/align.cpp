// Putting bodies where others are: scaled about a point, aligned by their boxes to an anchor, seated face on face.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/find_plane.h"
#include "steps/pick_bodies.h"
#include "steps/step_bodies.h"
#include <algorithm>

namespace lp {
namespace {

/// Moves chosen bodies as one. Grown parts take the move of the part as it is, kept in the step's place.
Expected<StepResult> move_as_one(const std::vector<StepBody>& before, const std::vector<size_t>& chosen,
                                 const Transform& move) {
    StepResult result{before, {}, {}};
    for (size_t i : chosen) {
        auto body = moved_with_halos(before[i], move);
        if (!body) return tl::make_unexpected(body.error());
        result.bodies[i] = *body;
    }
    result.place = StepPlace{move, {}, {}};
    return result;
}

Box3 box_of(const std::vector<StepBody>& bodies, const std::vector<size_t>& which) {
    Box3 box;
    for (size_t i : which) box.extend(bodies[i].body.box());
    return box;
}

/// How far to go along an axis: "min", "centre" and "max" line both boxes up there; "before" and "after" put one beside
/// the other.
double along_axis(const std::string& how, double low, double high, double to_low, double to_high) {
    if (how == "min") return to_low - low;
    if (how == "centre") return (to_low + to_high - low - high) / 2;
    if (how == "max") return to_high - high;
    if (how == "before") return to_low - high;
    if (how == "after") return to_high - low;
    return 0;
}

bool is_round(const FaceInfo& face) {
    return face.kind == SurfaceKind::Cylinder || face.kind == SurfaceKind::Cone;
}

} // namespace

StepKind scale_kind() {
    StepKind kind;
    kind.id = "scale";
    kind.title = "Scale";
    kind.purpose = "Makes bodies larger or smaller, evenly or along an axis, about a point.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"by", FieldKind::Number, "1", 1e-3, 1e3, {}, "1.02 is two hundredths larger"},
                   {"by_x", FieldKind::Number, "1", 1e-3, 1e3, {}, "along x, besides"},
                   {"by_y", FieldKind::Number, "1", 1e-3, 1e3, {}, "along y, besides"},
                   {"by_z", FieldKind::Number, "1", 1e-3, 1e3, {}, "along z, besides"},
                   {"about_x", FieldKind::Length, "0 mm", -far, far, {}, "the point that stays"},
                   {"about_y", FieldKind::Length, "0 mm", -far, far, {}, "the point that stays"},
                   {"about_z", FieldKind::Length, "0 mm", -far, far, {}, "the point that stays"}};
    kind.sentence = "Scale {what} by {by}[, in x by {by_x}][, in y by {by_y}][, in z by {by_z}]"
                    "[, about {about_x}, {about_y}, {about_z}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "scale");
        if (!chosen) return tl::make_unexpected(chosen.error());
        Vec3 by = context.number("by") * Vec3(context.number("by_x"), context.number("by_y"), context.number("by_z"));
        if (context.growth_mm != 0 && !by.isOnes(1e-9))
            return problem(ProblemCode::Geometry, "A scaled body cannot carry a gap: the gap would scale with it.",
                           "Give it its size by its numbers instead.");
        Vec3 about(context.number("about_x"), context.number("about_y"), context.number("about_z"));
        Affine map = Affine::Identity();
        map.translate(about);
        map.scale(by);
        map.translate(-about);
        StepResult result{before, {}, {}};
        for (size_t i : *chosen) {
            auto body = mapped(before[i].body, map);
            if (!body) return tl::make_unexpected(body.error());
            result.bodies[i].body = *body;
            if (!by.isOnes(1e-9) && !before[i].halos.empty()) {
                result.bodies[i].halos.clear();
                result.note = "Its halo is gone: the gap would have scaled with it. Give it one after this.";
            }
        }
        return result;
    };
    return kind;
}

StepKind align_kind() {
    StepKind kind;
    kind.id = "align";
    kind.title = "Align";
    kind.purpose = "Moves bodies until their edges or middles line up with an anchor that stays.";
    const std::vector<std::string> ways{"as it is", "min", "centre", "max", "before", "after"};
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "", 0, 0, {}, "bodies that move, as one"},
                   {"to", FieldKind::Bodies, "origin", 0, 0, {}, "the anchor: bodies, or origin"},
                   {"x", FieldKind::Choice, "as it is", 0, 0, ways, "left sides, middles, right sides; beside it"},
                   {"y", FieldKind::Choice, "as it is", 0, 0, ways, "fronts, middles, backs; beside it"},
                   {"z", FieldKind::Choice, "as it is", 0, 0, ways, "bottoms, middles, tops; below or above it"},
                   {"gap", FieldKind::Length, "0 mm", -far, far, {}, "left free where it goes beside"}};
    kind.sentence = "Align {what} to {to}: x {x}, y {y}, z {z}[, {gap} apart]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "align");
        if (!chosen) return tl::make_unexpected(chosen.error());
        if (context.nominal) return move_as_one(before, *chosen, context.nominal->plane);
        Box3 anchor(Vec3(0, 0, 0), Vec3(0, 0, 0));
        if (context.word("to") != "origin") {
            auto to = pick_bodies(before, context.word("to"), "align to");
            if (!to) return tl::make_unexpected(to.error());
            for (size_t i : *to)
                if (std::find(chosen->begin(), chosen->end(), i) != chosen->end())
                    return problem(ProblemCode::Wording, "A body cannot be aligned to itself.",
                                   "Name the body that moves, and another that stays.");
            anchor = box_of(before, *to);
        }
        Box3 box = box_of(before, *chosen);
        Transform move = Transform::Identity();
        const char* names[] = {"x", "y", "z"};
        bool any = false;
        for (int k = 0; k < 3; ++k) {
            const std::string& how = context.word(names[k]);
            any = any || how != "as it is";
            move.translation()[k] = along_axis(how, box.min()[k], box.max()[k], anchor.min()[k], anchor.max()[k]);
            if (how == "before") move.translation()[k] -= context.number("gap");
            if (how == "after") move.translation()[k] += context.number("gap");
        }
        auto result = move_as_one(before, *chosen, move);
        if (result && !any) result->note = "No axis is aligned yet.";
        return result;
    };
    return kind;
}

StepKind seat_kind() {
    StepKind kind;
    kind.id = "seat";
    kind.title = "Seat";
    kind.purpose = "Moves a body until one of its faces lies on a face of another; round faces go axis on axis.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"face", FieldKind::Face, "", 0, 0, {}, "of the body that moves"},
                   {"on", FieldKind::Face, "", 0, 0, {}, "of the body that stays"},
                   {"gap", FieldKind::Length, "0 mm", -far, far, {}, "left free between them"},
                   {"angle", FieldKind::Angle, "0 deg", -3600, 3600, {}, "turned about the face's normal, or the axis"},
                   {"shift_x", FieldKind::Length, "0 mm", -far, far, {}, "from the middle of the face that stays"},
                   {"shift_y", FieldKind::Length, "0 mm", -far, far, {}, "from the middle of the face that stays"}};
    kind.sentence = "Seat {face} on {on}[ with {gap} between][, turned by {angle}][, shifted by {shift_x}, {shift_y}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        for (const char* name : {"face", "on"})
            if (context.word(name).empty())
                return problem(ProblemCode::Missing, "It is not said which face is seated on which.",
                               "Click the face in the sentence and choose.");
        auto face = find_face(before, context, context.word("face"), true);
        if (!face) return tl::make_unexpected(face.error());
        if (context.nominal) return move_as_one(before, {face->body}, context.nominal->plane);
        auto on = find_face(before, context, context.word("on"), true);
        if (!on) return tl::make_unexpected(on.error());
        if (face->body == on->body)
            return problem(ProblemCode::Geometry, "Both faces belong to one body.",
                           "Choose faces of two bodies; a solid stands alone when it \"does\" new.");
        const FaceInfo& a = before[face->body].body.tessellation().faces[face->face];
        const FaceInfo& b = before[on->body].body.tessellation().faces[on->face];
        bool flat = a.kind == SurfaceKind::Plane && b.kind == SurfaceKind::Plane;
        if (!flat && !(is_round(a) && is_round(b)))
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
        move.rotate(Eigen::Quaterniond::FromTwoVectors(from, to));
        move.translate(-pivot);
        return move_as_one(before, {face->body}, move);
    };
    return kind;
}

} // namespace lp
