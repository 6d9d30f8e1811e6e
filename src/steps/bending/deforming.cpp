#include "steps/bending/deforming.h"
#include "base/quantity.h"
#include "mesh/refine.h"
#include "steps/pick_bodies.h"

namespace lp {

double chord_for(double radius, double tolerance_mm) {
    return std::sqrt(8 * std::max(radius, tolerance_mm) * tolerance_mm);
}

int axis_index(const std::string& name) {
    return name == "x" ? 0 : name == "y" ? 1 : 2;
}

namespace {

/// None where facets would be parted here and there: that leaves wrinkles. The first that go are the fewest.
std::optional<TriMesh> in_even_strips(const TriMesh& mesh, const PointMap& map, double within_mm, const Kinks& kinks,
                                      const Task& task) {
    for (const std::vector<double>& places : kinks.strips) {
        const TriMesh parted = parted_in_strips(mesh, kinks.axis, places);
        auto fine = refined_for(parted, map, within_mm, task);
        if (fine && fine->triangles.size() * 20 <= parted.triangles.size() * 21) return std::move(*fine);
    }
    return std::nullopt;
}

} // namespace

Expected<StepResult> deform(const std::vector<StepBody>& before, const StepContext& context, const PointMap& map,
                            const EdgeLimit& limit, const Kinks& kinks, const char* verb) {
    if (context.growth_mm != 0)
        return problem(ProblemCode::Geometry, "What is bent cannot carry a gap by its numbers.",
                       "Bend it after the fit, or use a body that is not bent as the tool.");
    auto chosen = pick_bodies(before, context.word("what"), verb);
    if (!chosen) return pass_on(chosen);
    StepResult result{before, {}, {}};
    const double tolerance_mm = context.number("tolerance");
    for (size_t i : *chosen) {
        auto fine = tessellate(before[i].body, tolerance_mm / 2);
        if (!fine) return pass_on(fine);
        // Flat faces leave all of the tolerance to the map.
        const bool flat = !before[i].body.is_exact() ||
                          std::all_of(fine->faces.begin(), fine->faces.end(),
                                      [](const FaceInfo& face) { return face.kind == SurfaceKind::Plane; });
        const double within_mm = flat ? tolerance_mm : tolerance_mm / 2;
        auto mesh = [&]() -> Expected<TriMesh> {
            if (auto strips = in_even_strips(fine->mesh, map, within_mm, kinks, context.task)) return *strips;
            const TriMesh parted = parted_at(fine->mesh, kinks.axis, kinks.at);
            return limit ? refined(parted, limit, context.task) : refined_for(parted, map, within_mm, context.task);
        }();
        if (!mesh) return pass_on(mesh);
        for (Vec3& v : mesh->vertices) {
            v = map(v);
            if (!v.allFinite())
                return problem(ProblemCode::Geometry, "Part of the body goes through the axis it is bent about.",
                               "Use a smaller angle, or move the axis away.");
        }
        Body body = Body::from_mesh(std::move(*mesh));
        if (!(body.mass().volume_mm3 > 0))
            return problem(ProblemCode::Geometry, "The body is turned inside out by this.",
                           "Use a smaller angle, or move the axis away.");
        result.bodies[i].body = body;
        if (before[i].body.is_exact())
            result.note = "The body is faceted from here, within " + format_number(tolerance_mm, 3) + " mm.";
    }
    return result;
}

std::vector<StepField> bending_fields(std::vector<StepField> own) {
    std::vector<StepField> all{{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"}};
    for (StepField& f : own) all.push_back(std::move(f));
    all.push_back({"tolerance", FieldKind::Length, "0.02 mm", 0.001, 1, {}, "how near the facets keep to the curve"});
    return all;
}

std::vector<std::string> axis_names() {
    return {"x", "y", "z"};
}

} // namespace lp
