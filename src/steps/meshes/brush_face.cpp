// What a brush went over on a mesh becomes a face of its own, that can be moved, pushed, deleted or closed as any
// other.
#include "steps/meshes/brush_face.h"
#include "base/quantity.h"
#include "base/text.h"
#include "steps/meshes/mesh_faces.h"
#include <algorithm>
#include <locale>
#include <sstream>

namespace lp {

std::string text_of(const std::vector<Dab>& dabs) {
    std::ostringstream text;
    text.imbue(std::locale::classic());
    text.precision(7);
    for (const Dab& dab : dabs) {
        const Vec3 out = dab.out.normalized();
        if (&dab != dabs.data()) text << "; ";
        text << dab.at.x() << ' ' << dab.at.y() << ' ' << dab.at.z() << ' ' << float(out.x()) << ' ' << float(out.y())
             << ' ' << float(out.z()) << ' ' << dab.radius_mm << (dab.wipes ? " off" : "");
    }
    return text.str();
}

Expected<std::vector<Dab>> read_dabs(const std::string& text) {
    std::vector<Dab> dabs;
    for (const std::string& one : listed(text)) {
        std::istringstream in(one);
        in.imbue(std::locale::classic());
        Dab dab;
        std::string rest;
        in >> dab.at.x() >> dab.at.y() >> dab.at.z() >> dab.out.x() >> dab.out.y() >> dab.out.z() >> dab.radius_mm;
        const bool read = !in.fail();
        in >> rest;
        dab.wipes = rest == "off";
        if (!read || (!rest.empty() && !dab.wipes))
            return problem(ProblemCode::Wording, quoted_start(one) + " is no place a brush went over.",
                           "It is x y z, the way out x y z and the radius, seven numbers.");
        dabs.push_back(dab);
        if (dabs.size() > most_face_dabs) break;
    }
    if (auto wrong = check_dabs(dabs, most_face_dabs)) return pass_on(*wrong);
    return dabs;
}

namespace {

/// With names for its facets, and those under the dabs named after the step; none when nothing lies under them.
Expected<std::optional<TriMesh>> brushed(const Body& body, const std::vector<Dab>& dabs, double finer_mm,
                                         const StepContext& context) {
    const Tessellation& shape = body.tessellation();
    TriMesh mesh = shape.mesh;
    mesh.tags.resize(mesh.triangles.size());
    for (size_t i = 0; i < mesh.tags.size(); ++i) mesh.tags[i] = shape.faces[shape.face_of[i]].primary();
    if (finer_mm > 0) {
        auto finer = finer_under(mesh, dabs, finer_mm, context.task);
        if (!finer) return pass_on(finer);
        mesh = std::move(*finer);
    }
    const Tag ours = closing_tag(context);
    const std::vector<Tag> before = mesh.tags;
    const auto last = last_dabs(mesh, 0, mesh.triangles.size(), dabs);
    for (size_t i = 0; i < last.size(); ++i)
        if (last[i] && !dabs[last[i] - 1].wipes) mesh.tags[i] = ours;
    if (std::count(mesh.tags.begin(), mesh.tags.end(), ours) == 0) return std::optional<TriMesh>();
    const Tessellation made = segment_mesh(mesh);
    double largest = 0;
    for (const FaceInfo& face : made.faces)
        if (face.primary() == ours) largest = std::max(largest, face.area_mm2);
    constexpr double crumb = 0.01; // facets at the border that hang on by a corner alone are no faces
    for (size_t i = 0; i < mesh.tags.size(); ++i)
        if (mesh.tags[i] == ours && made.faces[made.face_of[i]].area_mm2 < crumb * largest) mesh.tags[i] = before[i];
    return std::optional(std::move(mesh));
}

Expected<StepResult> brush_face(const std::vector<StepBody>& before, const StepContext& context) {
    if (auto wrong = refuse_growth(context)) return pass_on(*wrong);
    auto dabs = read_dabs(context.word("dabs"));
    if (!dabs) return pass_on(dabs);
    StepResult result{before, {}, {}};
    if (dabs->empty()) {
        result.note = "Nothing is brushed yet: take the brush and draw over the mesh.";
        return result;
    }
    if (std::all_of(before.begin(), before.end(), [](const StepBody& b) { return b.body.is_exact(); }))
        return problem(ProblemCode::Geometry, "There is no body of triangles here to brush.",
                       "Exact bodies have faces already: choose those.");
    double area = 0;
    for (StepBody& body : result.bodies) {
        if (body.body.is_exact()) continue;
        auto with = brushed(body.body, *dabs, context.number("finer"), context);
        if (!with) return pass_on(with);
        if (!*with) continue;
        body.body = Body::from_mesh(std::move(**with));
        for (const FaceInfo& face : body.body.tessellation().faces)
            if (face.primary() == closing_tag(context)) area += face.area_mm2;
    }
    if (area == 0)
        return problem(ProblemCode::Missing, "Nothing lies any more where the brush went.",
                       "Brush again, or take this step out.");
    result.note = "The brush went over " + format_quantity(area / 100, QuantityKind::Number, 2) + " cm².";
    return result;
}

} // namespace

StepKind brush_face_kind() {
    StepKind kind;
    kind.id = "brush_face";
    kind.title = "Brushed face";
    kind.purpose = "Makes what a brush went over on a mesh a face of its own: a patch to move, push, delete or close.";
    kind.fields = {
        StepField{"dabs", FieldKind::Text, "", 0, 0, {}, "x y z, way out x y z, radius; by semicolons"}.optional(
            "the brush"),
        {"finer",
         FieldKind::Length,
         "1 mm",
         0,
         100,
         {},
         "no facet under the brush is longer; 0: they stay as they are"}};
    kind.sentence = "A face of its own where {dabs} went[, in facets of {finer}]";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"paint", "region", "patch", "select", "free", "draw", "area"};
    kind.reports = true;
    kind.evaluate = brush_face;
    return kind;
}

} // namespace lp
