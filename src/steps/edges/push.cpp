// Moves a face outward or inward by a distance.
#include "base/tolerance.h"
#include "steps/edges/on_faces.h"
#include "steps/meshes/mesh_faces.h"
#include <algorithm>
#include <map>

namespace lp {

namespace {

/// All of them at once: where they meet, their planes meet again.
Expected<StepResult> push_facets(const std::vector<StepBody>& before, const FoundFaces& found, double by,
                                 const StepContext& context) {
    auto chosen = chosen_mesh_faces(before, context);
    if (!chosen) return pass_on(chosen);
    const Body& body = before[found.body].body;
    auto moved = moved_region(body.mesh(), chosen->facets, pushed_by(by), 0, context.task);
    if (!moved) return pass_on(moved);
    auto result = with_mesh(before, chosen->body, std::move(*moved), context);
    const FaceInfo& first = body.tessellation().faces[found.faces.front()];
    if (result && first.kind == SurfaceKind::Plane)
        result->handles = {{"by", SizeHandle::Shape::Arrow, first.centre, first.direction, 1}};
    return result;
}

} // namespace

StepKind push_kind() {
    StepKind kind;
    kind.id = "push";
    kind.title = "Push a face";
    kind.purpose = "Moves a face outward or inward by a distance.";
    const double far = tolerance::largest_mm;
    kind.fields = {
        StepField{"faces", FieldKind::Faces, "", 0, 0, {}, "the face, flat or round"}.filled_by(Filler::Faces),
        {"by", FieldKind::Length, "1 mm", -far, far, {}, "outward; inward with a minus"}};
    kind.sentence = "Push {faces} by {by}";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"pull", "offset", "face", "press"};
    kind.offers = {{.when = Chosen::Face, .place = 30, .words = "Push"},
                   {.when = Chosen::Faces, .place = 40, .words = "Push"},
                   {.when = Chosen::Face, .place = 38, .words = "Push", .on_mesh = true},
                   {.when = Chosen::Faces, .place = 38, .words = "Push", .on_mesh = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = chosen_faces(before, context);
        if (!found) return pass_on(found);
        double by = context.number("by");
        if (std::fabs(by) < tolerance::same_mm) return StepResult{before, "A push of 0 moves nothing.", {}, {}};
        if (!before[found->body].body.is_exact()) return push_facets(before, *found, by, context);
        std::vector<StepBody> now = before;
        const FaceInfo& first = before[found->body].body.tessellation().faces[found->faces.front()];
        std::vector<SizeHandle> handles;
        if (first.kind == SurfaceKind::Plane)
            handles = {{"by", SizeHandle::Shape::Arrow, first.centre, first.direction, 1}};
        // One after the other, each found again by its name after the one before. Round ones first: what a flat one
        // leaves beside them is no part of them, and the order of naming must not matter.
        std::vector<GeometryItem> items = context.value("faces").geometry();
        std::map<std::string, bool> flat;
        for (const GeometryItem& item : items) {
            auto one = find_faces(before, context, std::vector{item});
            if (!one) return pass_on(one);
            for (size_t f : one->faces)
                flat[item.text()] = before[one->body].body.tessellation().faces[f].kind == SurfaceKind::Plane;
        }
        std::stable_sort(items.begin(), items.end(), [&](const GeometryItem& a, const GeometryItem& b) {
            return std::pair(flat[a.text()], a.text()) < std::pair(flat[b.text()], b.text());
        });
        for (const GeometryItem& item : items) {
            auto one = find_faces(now, context, std::vector{item});
            if (!one) return pass_on(one);
            const Body& body = now[one->body].body;
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
        StepResult result{now, {}, {}};
        result.handles = std::move(handles);
        return result;
    };
    return kind;
}

} // namespace lp
