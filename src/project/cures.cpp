#include "project/cures.h"
#include "base/quantity.h"
#include "bed/raft.h"
#include "check/overhang.h"
#include "check/standing.h"
#include "project/flared_rims.h"
#include "project/pose_choices.h"
#include "shape/mesh_distance.h"
#include "steps/edges/face_between_walls.h"

namespace lp {
namespace {

/// The face of a part where a finding is.
struct Place {
    const Part* part = nullptr;
    const Body* body = nullptr;
    size_t face = 0;
    Vec3 at = Vec3::Zero();  ///< in the design
    Vec3 up = Vec3::UnitZ(); ///< in the design: what is up in print
    const FaceInfo& info() const { return body->tessellation().faces[face]; }
    GeometryItem reference() const { return GeometryItem(make_reference(*body, face, at)); }
};

/// "top of slot", "side 2 of step 4".
std::string words_of(const Place& place) {
    const auto meaning = tag_meaning(place.info().primary());
    std::string words = tag_words(place.info().primary());
    if (!meaning) return words;
    for (size_t i = 0; i < place.part->steps.size(); ++i)
        if (const Step& step = place.part->steps[i]; step.id == meaning->step)
            words += " of " + (step.name.empty() ? "step " + std::to_string(i + 1) : step.name);
    return words;
}

struct PosedPart {
    PartPtr part;
    const PartResult* made = nullptr;
    Transform pose; ///< the lowest place lies on z = 0
    Vec3 up() const { return pose.linear().transpose() * Vec3::UnitZ(); }
    TriMesh mesh() const { return transformed(*made->mesh, pose); }
};
std::optional<PosedPart> posed_of(const Evaluation& evaluation, PartId id) {
    PosedPart posed{evaluation.project->part(id), evaluation.part(id), {}};
    if (!posed.part || !posed.made || !posed.made->mesh) return std::nullopt;
    posed.pose = pose_of_part(*posed.part, *posed.made, evaluation.values);
    return posed;
}

/// The face of the part nearest to where a finding is.
std::optional<Place> place_of_finding(const PosedPart& posed, const Finding& finding) {
    Place place{posed.part.get(), nullptr, 0, {}, posed.up()};
    const Vec3 wanted = posed.pose.inverse() * finding.where;
    double nearest = 0.05; // facets stand off round faces
    for (const StepBody& body : posed.made->bodies) {
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

/// Faces that hang beyond the limit, the largest first.
std::vector<Place> hanging_places(const PosedPart& posed, double limit_deg) {
    constexpr size_t most = 6;
    constexpr double least_mm2 = 1;
    struct Hanging {
        double area_mm2, largest_mm2;
        Place place;
    };
    std::vector<Hanging> all;
    for (const StepBody& body : posed.made->bodies) {
        const Tessellation& t = body.body.tessellation();
        std::map<size_t, Hanging> faces;
        for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
            const Vec3 area = t.mesh.area_vector(i);
            if (hang_angle_deg((posed.pose.linear() * area).stableNormalized()) <= limit_deg) continue;
            const Vec3 middle = (t.mesh.corner(i, 0) + t.mesh.corner(i, 1) + t.mesh.corner(i, 2)) / 3;
            if ((posed.pose * middle).z() < 0.01) continue; // it lies on the bed
            const double mm2 = area.norm() / 2;
            auto [face, fresh] = faces.try_emplace(
                t.face_of[i], Hanging{0, 0, {posed.part.get(), &body.body, t.face_of[i], middle, posed.up()}});
            face->second.area_mm2 += mm2;
            if (mm2 > face->second.largest_mm2) face->second.largest_mm2 = mm2, face->second.place.at = middle;
        }
        for (auto& [face, hanging] : faces)
            if (hanging.area_mm2 > least_mm2) all.push_back(hanging);
    }
    std::stable_sort(all.begin(), all.end(),
                     [](const Hanging& a, const Hanging& b) { return a.area_mm2 > b.area_mm2; });
    std::vector<Place> places;
    for (size_t i = 0; i < all.size() && i < most; ++i) places.push_back(all[i].place);
    return places;
}

FindingCure adds(const Place& place, const std::string& words, const std::string& hint, const std::string& kind,
                 std::map<std::string, std::string> fields) {
    return {words, words_of(place), hint, AddStep{place.part->id, step_of_kind(kind, fields), {}}};
}

/// A flat roof between walls, or the top of a round hole that lies along an axis of the design's up.
void add_roofs(const Place& place, std::vector<FindingCure>& cures) {
    std::map<std::string, std::string> fields{{"face", place.reference().text()}};
    if (place.info().kind == SurfaceKind::Cylinder) {
        if (!is_hollow(place.body->tessellation(), place.face)) return;
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
void add_chamfer_for_round(const Place& place, std::vector<FindingCure>& cures) {
    static const char* instead = "Chamfer instead";
    const auto meaning = tag_meaning(place.info().primary());
    const Step* step = meaning ? place.part->step(meaning->step) : nullptr;
    if (!step || step->kind != "fillet") return;
    const std::string called = step->name.empty() ? "its edges" : step->name;
    if (std::any_of(cures.begin(), cures.end(),
                    [&](const FindingCure& c) { return c.words == instead && c.place == called; }))
        return; // by another face of the same round
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
    cures.push_back({instead, called, "Puts a flat of 45° where the round runs out level.", edit});
}

/// Under a ledge: the inner edges to the wall below it are filled at 45 degrees, as far as the ledge stands out.
void add_chamfer_under_ledge(const Place& place, std::vector<FindingCure>& cures) {
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

void add_push(const Place& place, double by, const char* words, const char* hint, std::vector<FindingCure>& cures) {
    if (!place.body->is_exact() || std::fabs(by) < 0.01) return;
    const double hundredths = (by > 0 ? std::ceil(by * 100) : std::floor(by * 100)) / 100;
    cures.push_back(adds(place, words, hint, "push",
                         {{"faces", place.reference().text()}, {"by", format_number(hundredths) + " mm"}}));
}

Standing standing_of(const PosedPart& posed, const Project& project) {
    const TriMesh mesh = posed.mesh();
    return check_standing(mesh, mass_properties(mesh).centre, project.printer.bed_mm);
}

/// As wide as it must be, of widths people use (common practice, no published source).
void add_brim(const PosedPart& posed, const Project& project, std::vector<FindingCure>& cures) {
    const Part& part = *posed.part;
    const Standing standing = standing_of(posed, project);
    for (double wide : {6.0, 10.0, 15.0}) {
        if (standing.slender(wide) || wide <= part.supports.options.border_mm()) continue;
        SupportSettings settings = part.supports;
        settings.options.brim_mm = wide;
        if (settings.options.border_mm() < wide) settings.options.brim_place = BrimPlace::Outside;
        settings.options.raft_layers = 0;
        Edit edit = SetSupports{part.id, settings};
        edit.sentence = "Gave " + part.name + " a brim of " + format_number(wide) + " mm";
        cures.push_back({"Brim of " + format_number(wide) + " mm", part.name,
                         "A border one layer high round its foot, to be torn off.", edit});
        break;
    }
    if (part.supports.options.raft_layers > 0 || standing.slender(raft_margin_mm)) return;
    SupportSettings settings = part.supports;
    settings.options.raft_layers = 3;
    Edit edit = SetSupports{part.id, settings};
    edit.sentence = "Put a raft under " + part.name;
    cures.push_back({"Raft of 3 layers", part.name,
                     "A flat body under everything, to be pulled off: holds on beds that a brim comes off.", edit});
}

void add_corner_brim(const Part& part, std::vector<FindingCure>& cures) {
    SupportSettings settings = part.supports;
    settings.options.brim_mm = 8; // common practice, no published source
    settings.options.brim_place = BrimPlace::Corners;
    Edit edit = SetSupports{part.id, settings};
    edit.sentence = "Gave the corners of " + part.name + " a brim";
    cures.push_back({"Brim at the corners", part.name, "Discs of 8 mm one layer high, to be torn off.", edit});
}

/// The rim on the bed nearest to the finding gets a chamfer that takes the flare.
void add_foot_chamfer(const PosedPart& posed, const Finding& finding, const PrinterCard& card,
                      std::vector<FindingCure>& cures) {
    const auto rims = flared_rims(*posed.made, posed.pose);
    const auto rim = std::min_element(rims.begin(), rims.end(), [&](const FlaredRim& a, const FlaredRim& b) {
        return (a.at - finding.where).norm() < (b.at - finding.where).norm();
    });
    if (rim == rims.end()) return;
    const Body& body = posed.made->bodies[rim->body].body;
    const Place place{posed.part.get(), &body, rim->face, posed.pose.inverse() * rim->at, posed.up()};
    // As deep and as wide as the flare, and a tenth more.
    const double distance = std::ceil((std::max(card.first_layer_flare_mm, card.first_layer_mm) + 0.1) * 10 - 1e-6) / 10;
    cures.push_back(adds(place, "Chamfer at the foot", "Takes what the first layer flares.", "chamfer",
                         {{"edges", GeometryItem(make_edge_reference(body, rim->edge, place.at)).text()},
                          {"distance", format_number(distance) + " mm"}}));
}

/// The best of the ways up that are compared.
void add_turn(const Evaluation& evaluation, const PosedPart& posed, const Task& task, std::vector<FindingCure>& cures) {
    PoseOptions options = pose_options(evaluation, *posed.part, *posed.made);
    options.best = 1;
    const auto best = best_poses(*posed.made->mesh, options, task);
    if (!best || best->empty() || best->front().as_it_lies) return;
    Edit edit = SetPose{posed.part->id, pose_with_up(best->front().up)};
    edit.sentence = "Turned " + posed.part->name + " to its best way up";
    cures.push_back({"Best way up", posed.part->name, "Lays the part so: the first when ways up are compared.", edit});
}

/// Walls or gaps that are too thin or too narrow.
Expected<Walls> narrow_places(const TriMesh& mesh, FindingKind kind, const PrinterCard& card, const Task& task) {
    return kind == FindingKind::Thin ? measure_walls(mesh, {.thin_mm = 2 * card.nozzle_mm}, task)
                                     : measure_gaps(mesh, card.smallest_open_gap_mm, task);
}

/// What a finding is measured by, the less the better: mm2, or the height over the foot.
Expected<double> measure_of(const Evaluation& evaluation, const PartFinding& finding, const Task& task) {
    const auto posed = posed_of(evaluation, finding.ref.part);
    if (!posed) return problem(ProblemCode::Missing, "There is no body left.");
    const PrinterCard& card = evaluation.project->printer;
    switch (finding.ref.kind) {
    case FindingKind::Thin:
    case FindingKind::Narrow: {
        auto found = narrow_places(posed->mesh(), finding.ref.kind, card, task);
        if (!found) return pass_on(found);
        return found->thin_area_mm2;
    }
    case FindingKind::Slender: {
        const Standing standing = standing_of(*posed, *evaluation.project);
        const double foot = standing.foot_width_mm + 2 * posed->part->supports.options.border_mm();
        return standing.height_mm / std::max(foot, 0.1);
    }
    case FindingKind::Flared:
        return double(flared_rims(*posed->made, posed->pose).size());
    default:
        return find_overhang(posed->mesh(), card.overhang_limit_deg).area_mm2;
    }
}

std::string says(FindingKind kind, double before, double after) {
    const std::string falls =
        " falls from " + format_number(before, before < 100) + " to " + format_number(after, after < 100);
    return kind == FindingKind::Slender  ? "Its height" + falls + " times its foot."
           : kind == FindingKind::Thin   ? "What is thin" + falls + " mm²."
           : kind == FindingKind::Narrow ? "What is narrow" + falls + " mm²."
           : kind == FindingKind::Flared ? "Rims of holes and pegs on the bed" + falls + "."
                                         : "What hangs" + falls + " mm².";
}

/// Whether a step of the part failed, or was made in part, that did not fail before.
bool fails_anew(const PartResult& made, const PartResult& before) {
    return std::any_of(made.steps.begin(), made.steps.end(), [&](const StepOutcome& s) {
        return (!s.ok || s.in_part) &&
               std::none_of(before.steps.begin(), before.steps.end(),
                            [&](const StepOutcome& was) { return was.step == s.step && !was.ok; });
    });
}

} // namespace

std::vector<FindingCure> cures_of(const Evaluation& evaluation, const PartFinding& finding, const Task& task) {
    std::vector<FindingCure> cures;
    const auto posed = posed_of(evaluation, finding.ref.part);
    if (!posed) return cures;
    const FindingKind kind = finding.ref.kind;
    const PrinterCard& card = evaluation.project->printer;
    switch (kind) {
    case FindingKind::Slender:
        add_brim(*posed, *evaluation.project, cures);
        break;
    case FindingKind::Lifting:
        add_corner_brim(*posed->part, cures);
        break;
    case FindingKind::Flared:
        add_foot_chamfer(*posed, finding.finding, card, cures);
        break;
    case FindingKind::Thin:
    case FindingKind::Narrow: {
        const auto found = narrow_places(*posed->made->mesh, kind, card, task);
        const auto place = place_of_finding(*posed, finding.finding);
        if (!found || !found->least_mm || !place) break;
        if (kind == FindingKind::Thin)
            add_push(*place, 2 * card.nozzle_mm - *found->least_mm, "Thicken this wall",
                     "Pushes the face out until two lines fit.", cures);
        else
            add_push(*place, *found->least_mm - card.smallest_open_gap_mm, "Widen this gap",
                     "Pushes the face back until the gap stays open.", cures);
        break;
    }
    case FindingKind::Hanging:
    case FindingKind::LyingHole:
    case FindingKind::Bridge:
        for (const Place& place : hanging_places(*posed, card.overhang_limit_deg)) {
            if (kind == FindingKind::Bridge && place.info().kind != SurfaceKind::Plane) continue;
            if (kind == FindingKind::LyingHole && place.info().kind != SurfaceKind::Cylinder) continue;
            add_roofs(place, cures);
            add_chamfer_for_round(place, cures);
            add_chamfer_under_ledge(place, cures);
        }
        add_turn(evaluation, *posed, task, cures);
        break;
    default:
        break;
    }
    return cures;
}

Expected<std::vector<TriedCure>> tried_cures(Evaluator& evaluator, const Evaluation& evaluation,
                                             const PartFinding& finding, const Task& task) {
    const std::vector<FindingCure> cures = cures_of(evaluation, finding, task);
    if (cures.empty()) return std::vector<TriedCure>{};
    auto before = measure_of(evaluation, finding, task);
    if (!before) return pass_on(before);
    std::vector<std::pair<double, TriedCure>> better; // by what is left after it
    for (const FindingCure& cure : cures) {
        task.tell("Trying what would help", double(&cure - cures.data()) / double(cures.size()));
        if (task.stopped()) return cancelled();
        auto edited = apply_edit(*evaluation.project, cure.edit);
        if (!edited) continue;
        auto made = evaluator.evaluate(edited->project, task);
        if (!made) return pass_on(made);
        const PartResult* part = made->part(finding.ref.part);
        if (!part || !part->mesh || fails_anew(*part, *evaluation.part(finding.ref.part))) continue;
        auto after = measure_of(*made, finding, task);
        if (!after) return pass_on(after);
        if (*after > 0.95 * *before) continue; // it helps next to nothing
        better.push_back({*after, {cure, says(finding.ref.kind, *before, *after)}});
    }
    std::stable_sort(better.begin(), better.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    // Another way up changes everything else too: what changes the part alone comes before it.
    std::stable_partition(better.begin(), better.end(), [](const std::pair<double, TriedCure>& b) {
        return b.second.cure.edit.parts.front().get_if<SetPose>() == nullptr;
    });
    std::vector<TriedCure> told;
    for (auto& [left, cure] : better) told.push_back(std::move(cure));
    return told;
}

} // namespace lp
