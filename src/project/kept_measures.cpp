#include "project/kept_measures.h"
#include "project/evaluate.h"
#include "project/standing.h"
#include "steps/bodies_of.h"

namespace lp {
namespace {

bool is_home(const Transform& by) {
    return by.isApprox(Transform::Identity(), 0);
}

} // namespace

Expected<MeasurableEnd> find_measurable(const Evaluation& evaluation, const MeasuredThing& thing) {
    const PartResult* part = evaluation.part(thing.part);
    if (!part || part->bodies.empty())
        return problem(ProblemCode::Missing, "The part that was measured has no body.", "Measure again.");
    MeasurableEnd found;
    found.place = part->place;
    if (thing.reference.empty()) {
        found.body = part->bodies.size() == 1 ? part->bodies[0].body : Body::from_mesh(*part->mesh);
        return found;
    }
    const FaceReference* face = thing.reference.face();
    const EdgeReference* edge = thing.reference.edge();
    if (!face && !edge) return problem(ProblemCode::Wording, "What was measured cannot be read.", "Measure again.");
    const auto bodies = bodies_of(part->bodies);
    const auto there = face ? resolve_among(bodies, *face) : resolve_among(bodies, *edge);
    if (!there) return pass_on(there);
    found.body = *bodies[there->body];
    found.kind = face ? Measurable::Kind::Face : Measurable::Kind::Edge;
    found.index = there->index;
    found.number = there->body;
    return found;
}

MeasureResult measure_kept(const Evaluation& evaluation, const KeptMeasure& kept) {
    MeasureResult result{kept.id, {}, {}, {}};
    const Standing& standing = standing_of(evaluation);
    auto a = find_measurable(evaluation, kept.a);
    if (!a) {
        result.lost = a.error().text();
        return result;
    }
    if (kept.b) {
        auto b = find_measurable(evaluation, *kept.b);
        if (!b) {
            result.lost = b.error().text();
            return result;
        }
        result.found = measure_between(*a, *b);
        const Transform of_a = standing.of(kept.a.part, a->number), of_b = standing.of(kept.b->part, b->number);
        a->place = of_a * a->place;
        b->place = of_b * b->place;
        if (!is_home(of_a) || !is_home(of_b)) result.standing = measure_between(*a, *b);
        return result;
    }
    const FaceReference* face = kept.a.reference.face();
    if (a->kind != Measurable::Kind::Face || !face) {
        result.lost = "A wall is measured at a place on a face.";
        return result;
    }
    result.found = thickness_at(a->body, a->index, place_of(a->body, *face));
    if (!result.found) {
        result.lost = "There is no wall behind that place.";
        return result;
    }
    const Measured in_part = *result.found;
    auto put = [&](Measured& measured, const Transform& place) {
        measured = in_part;
        measured.at_a = place * in_part.at_a;
        measured.at_b = place * in_part.at_b;
    };
    put(*result.found, a->place);
    if (const Transform by = standing.of(kept.a.part, a->number); !is_home(by))
        put(result.standing.emplace(), by * a->place);
    return result;
}

} // namespace lp
