// Leans faces by an angle from where they meet a neutral plane or face.
#include "base/tolerance.h"
#include "steps/edges/on_faces.h"
#include "steps/find_plane.h"

namespace lp {

StepKind draft_kind() {
    StepKind kind;
    kind.id = "draft";
    kind.title = "Draft";
    kind.purpose = "Leans faces by an angle from where they meet a neutral plane or face.";
    kind.fields = {StepField{"faces", FieldKind::Faces, "", 0, 0, {}, "that lean"}.filled_by(Filler::Faces),
                   {"angle", FieldKind::Angle, "3 deg", -60, 60, {}, "inward as they leave the neutral plane"},
                   {"from", FieldKind::Plane, "xy", 0, 0, {}, "the neutral plane or face: nothing moves there"}};
    kind.sentence = "Draft {faces} by {angle} from {from}";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"taper", "lean"};
    kind.needs_exact = true;
    kind.offers = {{.when = Chosen::Faces, .place = 30}, {.when = Chosen::Face, .place = 30, .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = chosen_faces(before, context);
        if (!found) return pass_on(found);
        auto plane = find_plane(before, context, context.value("from"));
        if (!plane) return pass_on(plane);
        double angle = context.number("angle");
        if (std::fabs(angle) < 1e-9)
            return StepResult{before, "An angle of 0 leans nothing.", StepPlace{*plane, {}, {}}};
        const Body& body = before[found->body].body;
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

} // namespace lp
