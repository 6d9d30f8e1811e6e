// Steps on whole faces: leaning them (draft), pushing one, taking some away and healing.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/find_edges.h"
#include "steps/find_plane.h"
#include "steps/kernel_step.h"

namespace lp {
namespace {

const Body& body_of(const std::vector<StepBody>& before, const FoundFaces& found) {
    return before[found.body].body;
}

/// Runs the call for the faces of the `faces` field and puts the result in their body's place.
Expected<StepResult> on_faces(const std::vector<StepBody>& before, const StepContext& context, const FoundFaces& found,
                              KernelCall call, const char* what, double low, double high) {
    for (size_t f : found.faces) call.picks.push_back(int32_t(f));
    auto made = run_kernel_step(body_of(before, found), std::move(call), context, what, low, high);
    if (!made) return tl::make_unexpected(made.error());
    StepResult result{before, {}, {}};
    result.bodies[found.body].body = *made;
    return result;
}

Expected<FoundFaces> chosen_faces(const std::vector<StepBody>& before, const StepContext& context) {
    auto found = find_faces(before, context, context.word("faces"));
    if (found && found->faces.empty())
        return problem(ProblemCode::Missing, "No face is chosen.", "Click faces in the view.");
    return found;
}

} // namespace

StepKind draft_kind() {
    StepKind kind;
    kind.id = "draft";
    kind.title = "Draft";
    kind.purpose = "Leans faces by an angle from where they meet a neutral plane or face.";
    kind.fields = {{"faces", FieldKind::Faces, "", 0, 0, {}, "that lean"},
                   {"angle", FieldKind::Angle, "3 deg", -60, 60, {}, "inward as they leave the neutral plane"},
                   {"from", FieldKind::Plane, "xy", 0, 0, {}, "the neutral plane or face: nothing moves there"}};
    kind.sentence = "Draft {faces} by {angle} from {from}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = chosen_faces(before, context);
        if (!found) return tl::make_unexpected(found.error());
        auto plane = find_plane(before, context, context.word("from"));
        if (!plane) return tl::make_unexpected(plane.error());
        double angle = context.number("angle");
        if (std::fabs(angle) < 1e-9)
            return StepResult{before, "An angle of 0 leans nothing.", StepPlace{*plane, {}, {}}};
        const Body& body = body_of(before, *found);
        Vec3 at = plane->translation(), up = plane->linear().col(2);
        // Inward as they leave the plane, on whichever side of it most of the body lies.
        if ((body.mass().centre - at).dot(up) < 0) up = -up;
        KernelCall call;
        call.what = "draft";
        call.numbers = {at.x(), at.y(), at.z(), up.x(), up.y(), up.z(), radians(angle)};
        double reach = body.box().diagonal().norm(), area = 0;
        for (size_t f : found->faces) area += body.tessellation().faces[f].area_mm2;
        double change = 2 * area * reach * std::tan(radians(std::fabs(angle))), volume = body.mass().volume_mm3;
        auto result =
            on_faces(before, context, *found, call, "A draft", std::max(0.0, volume - change), volume + change);
        if (result) result->place = StepPlace{*plane, {}, {}};
        return result;
    };
    return kind;
}

StepKind push_kind() {
    StepKind kind;
    kind.id = "push";
    kind.title = "Push a face";
    kind.purpose = "Moves a face outward or inward by a distance.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"faces", FieldKind::Faces, "", 0, 0, {}, "the face, flat or round"},
                   {"by", FieldKind::Length, "1 mm", -far, far, {}, "outward; inward with a minus"}};
    kind.sentence = "Push {faces} by {by}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = chosen_faces(before, context);
        if (!found) return tl::make_unexpected(found.error());
        double by = context.number("by");
        if (std::fabs(by) < tolerance::same_mm) return StepResult{before, "A push of 0 moves nothing.", {}, {}};
        std::vector<StepBody> now = before;
        // One after the other, each found again by its name after the one before.
        auto items = listed(context.word("faces"));
        for (const std::string& item : items) {
            auto one = find_faces(now, context, item);
            if (!one) return tl::make_unexpected(one.error());
            const Body& body = body_of(now, *one);
            double area = body.tessellation().faces[one->faces[0]].area_mm2, volume = body.mass().volume_mm3;
            KernelCall call;
            call.what = "push";
            call.numbers = {by};
            double change = 3 * area * std::fabs(by) + std::pow(std::fabs(by), 3);
            auto next = on_faces(now, context, *one, call, "Pushing a face",
                                 by > 0 ? volume : std::max(0.0, volume - change), by > 0 ? volume + change : volume);
            if (!next) return next;
            if (std::fabs(next->bodies[one->body].body.mass().volume_mm3 - volume) < tolerance::overlap_mm3)
                return problem(ProblemCode::Geometry, "The push changed nothing.", "Choose another face or distance.");
            now = next->bodies;
        }
        return StepResult{now, {}, {}};
    };
    return kind;
}

StepKind remove_faces_kind() {
    StepKind kind;
    kind.id = "remove_faces";
    kind.title = "Remove faces";
    kind.purpose = "Takes a fillet, hole or boss away by its faces; the neighbours close over it.";
    kind.fields = {{"faces", FieldKind::Faces, "", 0, 0, {}, "all faces of what is to go"}};
    kind.sentence = "Remove {faces} and close over";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = chosen_faces(before, context);
        if (!found) return tl::make_unexpected(found.error());
        const Body& body = body_of(before, *found);
        KernelCall call;
        call.what = "remove";
        double volume = body.mass().volume_mm3;
        return on_faces(before, context, *found, call, "Removing faces", volume * 0.01,
                        std::max(volume, body.box().volume()) * 1.01);
    };
    return kind;
}

} // namespace lp
