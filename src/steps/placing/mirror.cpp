// Mirrors what steps made, or bodies, in a plane or face.
#include "base/tolerance.h"
#include "steps/find_plane.h"
#include "steps/pick_bodies.h"
#include "steps/placing/repeating.h"
#include "steps/step_bodies.h"

namespace lp {

StepKind mirror_kind() {
    StepKind kind;
    kind.id = "mirror";
    kind.title = "Mirror";
    kind.purpose = "Mirrors what steps made, or bodies, in a plane or face.";
    const double far = tolerance::largest_mm;
    kind.fields = {
        StepField{"steps", FieldKind::Steps, "", 0, 0, {}, "steps whose solids are mirrored; empty: whole bodies"}
            .optional("whole bodies"),
        {"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies that are mirrored when no steps are named"},
        StepField{"in", FieldKind::Plane, "yz", 0, 0, {}, "the mirror"}.filled_by(Filler::LastFace),
        {"distance", FieldKind::Length, "0 mm", -far, far, {}, "of the mirror from that plane or face"},
        StepField{"does",
                  FieldKind::Choice,
                  "join",
                  0,
                  0,
                  {"join", "new", "instead"},
                  "joined to the original, a body of its own, or in its place"}
            .as(FieldRole::Does)};
    kind.sentence = "Mirror {steps}[ of {what}] in {in}[, {distance} from it], {does}";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"reflect", "symmetry"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Face, .place = 60, .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto plane = find_plane(before, context, context.value("in"));
        if (!plane) return pass_on(plane);
        Transform mirror = *plane;
        mirror.translate(Vec3(0, 0, context.number("distance")));
        Affine flip = Affine::Identity();
        flip.linear()(2, 2) = -1;
        Affine place = Affine(mirror) * flip * Affine(mirror.inverse());
        StepContext own = context;
        own.words["drop"] = "";
        own.words["many"] = "no";
        Expected<StepResult> result = StepResult{before, {}, {}};
        if (context.word("does") == "instead" && context.word("steps").empty()) {
            auto chosen = pick_bodies(before, context.word("what"), "mirror");
            if (!chosen) return pass_on(chosen);
            for (size_t i : *chosen) {
                auto body = mapped(before[i].body, place);
                if (!body) return pass_on(body);
                result->bodies[i].body = *body;
                auto halos = mapped_halos(before[i].halos, place);
                if (!halos) return pass_on(halos);
                result->bodies[i].halos = *halos;
                auto solids = mapped_solids(before[i].solids, place);
                if (!solids) return pass_on(solids);
                result->bodies[i].solids = *solids;
                result->bodies[i].bends = mapped_bends(before[i].bends, Affine(place));
            }
        } else {
            result = repeat_at(before, own, {place});
        }
        if (result) result->place = StepPlace{*plane, {}, {}};
        return result;
    };
    return kind;
}

} // namespace lp
