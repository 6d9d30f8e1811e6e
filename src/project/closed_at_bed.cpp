#include "project/closed_at_bed.h"
#include "base/quantity.h"
#include "bed/fused_layers.h"
#include "project/analysis.h"
#include "project/contact_words.h"
#include "project/cure_places.h"
#include "project/hanging_cures.h"
#include "project/layer_heights.h"

namespace lp {
namespace {

/// A flat face that lies on the bed.
std::optional<FacePlace> lying_face(const PosedPart& posed) {
    constexpr double on_bed_mm = 0.02;
    for (const StepBody& body : posed.made->bodies) {
        const Tessellation& shape = body.body.tessellation();
        for (size_t t = 0; t < shape.mesh.triangles.size(); ++t) {
            const size_t face = shape.face_of[t];
            if (shape.faces[face].kind != SurfaceKind::Plane) continue;
            const Triangle& corners = shape.mesh.triangles[t];
            const bool lies = std::all_of(corners.begin(), corners.end(), [&](uint32_t v) {
                return (posed.pose * shape.mesh.vertices[v]).z() < on_bed_mm;
            });
            if (lies) return FacePlace{posed.part.get(), &body.body, face, shape.mesh.vertices[corners[0]], posed.up()};
        }
    }
    return std::nullopt;
}

} // namespace

std::optional<Finding> closed_at_bed(const Evaluation& evaluation, const Analysis& analysis,
                                     const PartAnalysis& known) {
    const PartResult* made = evaluation.part(known.part);
    if (!made) return std::nullopt;
    std::optional<Finding> found;
    for (const ContactResult& c : analysis.contacts) {
        if (!c.closed_at_bed || c.part_a != known.part) continue;
        if (!found)
            found = Finding{.kind = FindingKind::ClosedAtBed,
                            .count = 0,
                            .where = known.pose * made->place.inverse() * *c.closed_at_bed,
                            .says = contact_title(c) + ": " + contact_warning(c) + ".",
                            .step = c.step};
        ++found->count;
    }
    return found;
}

size_t pairs_closed_at_bed(const Evaluation& evaluation, PartId part, const Task& task) {
    const auto posed = posed_of(evaluation, part);
    if (!posed) return 0;
    const double gap = evaluation.project->printer.first_layer_gap_mm();
    const LayerHeights heights = layer_heights(evaluation, part);
    std::vector<TriMesh> bodies;
    for (const StepBody& body : posed->made->bodies) bodies.push_back(transformed(body.body.mesh(), posed->pose));
    size_t closed = 0;
    for (size_t i = 0; i < bodies.size(); ++i)
        for (size_t j = i + 1; j < bodies.size() && !task.stopped(); ++j)
            if (bounding_box(bodies[i]).exteriorDistance(bounding_box(bodies[j])) < gap &&
                closed_in_first_layer(bodies[i], bodies[j], heights, gap, task))
                ++closed;
    return closed;
}

void add_chamfered_feet(const Evaluation& evaluation, const PartFinding& finding, std::vector<FindingCure>& cures) {
    const auto posed = posed_of(evaluation, finding.ref.part);
    if (!posed) return;
    const char *words = "Chamfer the feet",
               *hint = "Takes what the first layer flares, on both sides, as the printer card says.";
    if (const Step* joint = posed->part->step(finding.finding.step); joint && joint->fields.count("foot")) {
        Edit edit = SetField{posed->part->id, joint->id, "foot", std::string("chamfered")};
        edit.sentence = "Chamfered the feet of a joint of " + posed->part->name;
        cures.push_back({words, posed->part->name, hint, edit});
    }
    if (const auto face = lying_face(*posed))
        cures.push_back(cure_by_step(*face, words, hint, "chamfer_feet", {{"on", face->reference().text()}}));
}

} // namespace lp
