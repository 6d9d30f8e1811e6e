#include "project/cures.h"
#include "base/quantity.h"
#include "check/overhang.h"
#include "shape/mesh_distance.h"

namespace lp {
namespace {

/// The face of a part where a finding is.
struct Place {
    const Part* part = nullptr;
    const PartResult* made = nullptr;
    const Body* body = nullptr;
    size_t face = 0;
    Vec3 at = Vec3::Zero();  ///< in the design
    Vec3 up = Vec3::UnitZ(); ///< in the design: what is up in print
    const FaceInfo& info() const { return body->tessellation().faces[face]; }
    GeometryItem reference() const { return GeometryItem(make_reference(*body, face, at)); }
};

std::optional<Place> place_of_finding(const Evaluation& evaluation, const PartFinding& finding) {
    Place place;
    const PartPtr part = evaluation.project->part(finding.ref.part);
    place.part = part.get(); // the project keeps it
    place.made = evaluation.part(finding.ref.part);
    if (!place.part || !place.made || !place.made->mesh) return std::nullopt;
    const Transform pose = pose_of_part(*part, *place.made, evaluation.values);
    const Vec3 wanted = pose.inverse() * finding.finding.where;
    place.up = pose.linear().transpose() * Vec3::UnitZ();
    double nearest = 0.05; // facets stand off round faces
    for (const StepBody& body : place.made->bodies) {
        const Tessellation& t = body.body.tessellation();
        for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
            const Vec3 on = closest_on_triangle(wanted, t.mesh.corner(i, 0), t.mesh.corner(i, 1), t.mesh.corner(i, 2));
            if ((on - wanted).norm() >= nearest) continue;
            nearest = (on - wanted).norm();
            place.body = &body.body;
            place.face = t.face_of[i];
            place.at = on;
        }
    }
    return place.body ? std::optional(place) : std::nullopt;
}

Cure adds(const Place& place, const std::string& words, const std::string& hint, const std::string& kind,
          std::map<std::string, std::string> fields) {
    return {words, hint, AddStep{place.part->id, step_of_kind(kind, fields), {}}};
}

bool looks_inward(const Place& place) { // the inside of a round
    const Tessellation& t = place.body->tessellation();
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
        if (t.face_of[i] != place.face) continue;
        const Vec3 off = t.mesh.corner(i, 0) - place.info().axis_point, axis = place.info().direction;
        return t.mesh.area_vector(i).dot(off - off.dot(axis) * axis) < 0;
    }
    return false;
}

/// A flat roof between walls, or the top of a round hole that lies along an axis of the design's up.
void add_roofs(const Place& place, std::vector<Cure>& cures) {
    std::map<std::string, std::string> fields{{"face", place.reference().text()}};
    if (place.info().kind == SurfaceKind::Cylinder) {
        if (!looks_inward(place)) return;
        int axis;
        place.up.cwiseAbs().maxCoeff(&axis);
        if (std::fabs(place.up[axis]) < std::cos(radians(1.0))) return; // no word for that way up
        fields["up"] = std::string(place.up[axis] < 0 ? "-" : "") + "xyz"[axis];
    } else if (place.info().kind != SurfaceKind::Plane || place.info().direction.dot(place.up) > -0.99) {
        return;
    }
    cures.push_back(
        adds(place, "Pointed roof", "Cuts it to slopes that print without support.", "pointed_roof", fields));
    fields["form"] = "cut flat";
    cures.push_back(adds(place, "Roof cut flat", "Slopes with a narrow flat between them: lower than a pointed one.",
                         "pointed_roof", fields));
}

/// A round that was put on an edge and runs out level prints into nothing: a flat of 45 degrees in its place does not.
void add_chamfer_for_round(const Place& place, std::vector<Cure>& cures) {
    const auto meaning = tag_meaning(place.info().primary());
    const Step* step = meaning ? place.part->step(meaning->step) : nullptr;
    if (!step || step->kind != "fillet") return;
    std::map<std::string, std::string> fields;
    auto text = [&](const char* name) {
        auto found = step->fields.find(name);
        return found == step->fields.end() ? std::string() : found->second.text();
    };
    fields["edges"] = text("edges");
    fields["distance"] = text("radius");
    size_t index = 0;
    while (place.part->steps[index].id != step->id) ++index;
    Step fresh = step_of_kind("chamfer", fields, step->name);
    fresh.group = step->group;
    Edit edit;
    edit.parts = {RemoveStep{place.part->id, step->id}, AddStep{place.part->id, fresh, index}};
    edit.sentence = "Made step " + std::to_string(index + 1) + " of " + place.part->name + " a chamfer";
    cures.push_back({"Chamfer instead of the round", "Puts a flat of 45° where the round runs out level.", edit});
}

/// Under a ledge: the inner edges to the wall below it are filled at 45 degrees, as far as the ledge stands out.
void add_chamfer_under_ledge(const Place& place, std::vector<Cure>& cures) {
    if (!place.body->is_exact() || place.info().kind != SurfaceKind::Plane) return;
    if (place.info().direction.dot(place.up) > -0.99) return;
    const Tessellation& t = place.body->tessellation();
    std::string edges;
    std::vector<Vec3> inner;
    for (size_t e = 0; e < t.edges.size(); ++e) {
        const EdgeInfo& edge = t.edges[e];
        if (edge.face_a != int(place.face) && edge.face_b != int(place.face)) continue;
        if (edge.face_a < 0 || edge.face_b < 0 || edge.face_a == edge.face_b) continue;
        const size_t wall = size_t(edge.face_a == int(place.face) ? edge.face_b : edge.face_a);
        // The wall below the ledge: it goes down from the edge.
        const Vec3 middle = edge.points[edge.points.size() / 2];
        bool goes_down = false;
        for (size_t i = 0; i < t.mesh.triangles.size() && !goes_down; ++i)
            for (int k = 0; k < 3 && t.face_of[i] == wall; ++k)
                goes_down = goes_down || (t.mesh.corner(i, k) - middle).dot(place.up) < -0.2;
        if (!goes_down) continue;
        inner.insert(inner.end(), edge.points.begin(), edge.points.end());
        edges += (edges.empty() ? "" : "; ") + GeometryItem(make_edge_reference(*place.body, e, middle)).text();
    }
    if (inner.empty()) return;
    double wide = 0; // how far the ledge stands out, by its corners; edges are finely divided where they are round
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i)
        for (int k = 0; k < 3 && t.face_of[i] == place.face; ++k) {
            double near = 1e9;
            for (const Vec3& p : inner) near = std::min(near, (p - t.mesh.corner(i, k)).norm());
            wide = std::max(wide, near);
        }
    const double distance = std::floor((wide - 0.05) * 100) / 100; // a hair of the ledge stays: the kernel needs it
    if (distance < 0.2) return;
    cures.push_back(adds(place, "Chamfer under it", "Fills the corner below the ledge at 45°.", "chamfer",
                         {{"edges", edges}, {"distance", format_number(distance) + " mm"}}));
}

void add_push(const Place& place, double by, const char* words, const char* hint, std::vector<Cure>& cures) {
    if (!place.body->is_exact() || std::fabs(by) < 0.01) return;
    const double hundredths = (by > 0 ? std::ceil(by * 100) : std::floor(by * 100)) / 100;
    cures.push_back(adds(place, words, hint, "push",
                         {{"faces", place.reference().text()}, {"by", format_number(hundredths) + " mm"}}));
}

TriMesh posed_part(const Evaluation& evaluation, PartId id) {
    const PartResult* made = evaluation.part(id);
    return transformed(*made->mesh, pose_of_part(*evaluation.project->part(id), *made, evaluation.values));
}

/// What a finding is measured by: less is better for what hangs, more for walls and gaps.
Expected<double> measure_of(const Evaluation& evaluation, const PartFinding& finding, const Task& task) {
    const PrinterCard& card = evaluation.project->printer;
    const TriMesh posed = posed_part(evaluation, finding.ref.part);
    if (finding.ref.kind == FindingKind::Thin || finding.ref.kind == FindingKind::Narrow) {
        auto found = finding.ref.kind == FindingKind::Thin ? measure_walls(posed, {.thin_mm = 2 * card.nozzle_mm}, task)
                                                           : measure_gaps(posed, card.smallest_open_gap_mm, task);
        if (!found) return pass_on(found);
        return found->thin_area_mm2;
    }
    return find_overhang(posed, card.overhang_limit_deg).area_mm2;
}

std::string what_of(FindingKind kind) {
    return kind == FindingKind::Thin ? "Too thin" : kind == FindingKind::Narrow ? "Too narrow" : "What hangs";
}

} // namespace

std::vector<Cure> cures_of(const Evaluation& evaluation, const PartFinding& finding) {
    std::vector<Cure> cures;
    const FindingKind kind = finding.ref.kind;
    if (kind != FindingKind::Hanging && kind != FindingKind::Bridge && kind != FindingKind::Thin &&
        kind != FindingKind::Narrow)
        return cures;
    const auto place = place_of_finding(evaluation, finding);
    if (!place) return cures;
    const PrinterCard& card = evaluation.project->printer;
    if (kind == FindingKind::Thin || kind == FindingKind::Narrow) {
        const bool thin = kind == FindingKind::Thin;
        auto found = thin ? measure_walls(*place->made->mesh, {.thin_mm = 2 * card.nozzle_mm})
                          : measure_gaps(*place->made->mesh, card.smallest_open_gap_mm);
        if (!found || !found->least_mm) return cures;
        if (thin)
            add_push(*place, 2 * card.nozzle_mm - *found->least_mm, "Thicken this wall",
                     "Pushes the face out until two lines fit.", cures);
        else
            add_push(*place, *found->least_mm - card.smallest_open_gap_mm, "Widen this gap",
                     "Pushes the face back until the gap stays open.", cures);
        return cures;
    }
    add_roofs(*place, cures);
    add_chamfer_for_round(*place, cures);
    add_chamfer_under_ledge(*place, cures);
    return cures;
}

Expected<std::vector<TriedCure>> tried_cures(Evaluator& evaluator, const Evaluation& evaluation,
                                             const PartFinding& finding, const Task& task) {
    struct Better {
        double after;
        TriedCure cure;
    };
    const std::vector<Cure> cures = cures_of(evaluation, finding);
    if (cures.empty()) return std::vector<TriedCure>{};
    auto before = measure_of(evaluation, finding, task);
    if (!before) return pass_on(before);
    std::vector<Better> better;
    for (const Cure& cure : cures) {
        task.tell("Trying what would help", double(&cure - cures.data()) / double(cures.size()));
        if (task.stopped()) return cancelled();
        auto edited = apply_edit(*evaluation.project, cure.edit);
        if (!edited) continue;
        auto made = evaluator.evaluate(edited->project, task);
        if (!made) return pass_on(made);
        const PartResult* part = made->part(finding.ref.part);
        const bool failed =
            !part || !part->mesh || std::any_of(part->steps.begin(), part->steps.end(), [&](const StepOutcome& s) {
                const PartResult* was = evaluation.part(finding.ref.part);
                const bool failed_before = std::any_of(was->steps.begin(), was->steps.end(),
                                                       [&](const StepOutcome& w) { return w.step == s.step && !w.ok; });
                return (!s.ok || s.in_part) && !failed_before;
            });
        if (failed) continue;
        auto after = measure_of(*made, finding, task);
        if (!after) return pass_on(after);
        if (*after > 0.9 * *before) continue; // it helps next to nothing
        better.push_back({*after,
                          {cure, what_of(finding.ref.kind) + ": from " + format_number(*before, 1) + " to " +
                                     format_number(*after, 1) + " mm²."}});
    }
    std::stable_sort(better.begin(), better.end(), [](const Better& a, const Better& b) { return a.after < b.after; });
    std::vector<TriedCure> told;
    for (Better& b : better) told.push_back(std::move(b.cure));
    return told;
}

} // namespace lp
