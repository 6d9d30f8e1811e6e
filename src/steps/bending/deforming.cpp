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
        const std::vector<FaceInfo>& faces = before[i].body.tessellation().faces;
        const bool facets_are_exact =
            !before[i].body.is_exact() ||
            std::all_of(faces.begin(), faces.end(), [](auto& f) { return f.kind == SurfaceKind::Plane; });
        const double within_mm = facets_are_exact ? tolerance_mm : tolerance_mm / 2;
        auto finer = [&](const TriMesh& from, const std::vector<double>& places) {
            const TriMesh parted = parted_at(from, kinks.axis, places);
            return limit ? refined(parted, limit, context.task) : refined_for(parted, map, within_mm, context.task);
        };
        auto fine = tessellate(before[i].body, tolerance_mm / 2);
        if (!fine) return pass_on(fine);
        auto mesh = finer(fine->mesh, kinks.at);
        for (const std::vector<double>& other : kinks.or_at)
            if (auto next = finer(fine->mesh, other);
                !mesh || (next && next->triangles.size() < mesh->triangles.size()))
                mesh = std::move(next);
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
