#include "project/hanging_cures.h"
#include "base/quantity.h"
#include "steps/edges/face_between_walls.h"

namespace lp {

FindingCure cure_by_step(const FacePlace& place, const std::string& words, const std::string& hint,
                         const std::string& kind, std::map<std::string, std::string> fields) {
    return {words, place.words(), hint, AddStep{place.part->id, step_of_kind(kind, fields), {}}};
}

namespace {

/// A flat roof between walls, or the top of a round hole that lies along an axis of the design's up.
void add_roofs(const FacePlace& place, std::vector<FindingCure>& cures) {
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
        cure_by_step(place, "Pointed roof", "Cuts it to slopes that print without support.", "pointed_roof", fields));
    fields["form"] = "cut flat";
    cures.push_back(cure_by_step(place, "Roof cut flat",
                                 "Slopes with a narrow flat between them: lower than a pointed one.", "pointed_roof",
                                 fields));
}

/// A round that was put on an edge and runs out level prints into nothing: a flat of 45 degrees in its place does not.
void add_chamfer_for_round(const FacePlace& place, std::vector<FindingCure>& cures) {
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

/// Flanks of a standing thread of a steep profile hang; those of the round one, 45 degrees, do not.
void add_round_thread(const FacePlace& place, std::vector<FindingCure>& cures) {
    static const char* words = "Round profile";
    const auto meaning = tag_meaning(place.info().primary());
    const Step* step = meaning ? place.part->step(meaning->step) : nullptr;
    const StepKind* kind = step && step->kind == "thread" ? find_step_kind(step->kind) : nullptr;
    if (!kind || field_text(*step, *kind->field("profile")) == "round") return;
    const std::string called = step->name.empty() ? "its thread" : step->name;
    if (std::any_of(cures.begin(), cures.end(),
                    [&](const FindingCure& c) { return c.words == words && c.place == called; }))
        return; // by another of its flanks
    Edit edit = SetField{place.part->id, step->id, "profile", "round"};
    edit.sentence = "Gave a thread of " + place.part->name + " the round profile";
    cures.push_back(
        {words, called, "Flanks of 45°, which print standing. What it is screwed to needs the same profile.", edit});
}

/// A flat face that hangs beside walls that go down from it.
struct Ledge {
    std::vector<size_t> inner; ///< edges to those walls
    double wide_mm = 0;        ///< how far it stands out from them
};
std::optional<Ledge> ledge_of(const FacePlace& place) {
    if (place.info().kind != SurfaceKind::Plane || place.info().direction.dot(place.up) > -0.99) return std::nullopt;
    const Tessellation& t = place.body->tessellation();
    Ledge ledge;
    std::vector<Vec3> inner;
    for (size_t e = 0; e < t.edges.size(); ++e) {
        const EdgeInfo& edge = t.edges[e];
        if (edge.face_a != int(place.face) && edge.face_b != int(place.face)) continue;
        if (edge.face_a < 0 || edge.face_b < 0 || edge.face_a == edge.face_b) continue;
        const size_t wall = size_t(edge.face_a == int(place.face) ? edge.face_b : edge.face_a);
        const Vec3 middle = edge.points[edge.points.size() / 2];
        bool goes_down = false;
        for (size_t i = 0; i < t.mesh.triangles.size() && !goes_down; ++i)
            for (int k = 0; k < 3 && t.face_of[i] == wall; ++k)
                goes_down = goes_down || (t.mesh.corner(i, k) - middle).dot(place.up) < -0.2;
        // At an inner edge the wall looks along the ledge; a side that is flush with both looks away from it. The
        // direction of a round wall is its axis.
        const bool looks_along = t.faces[wall].kind == SurfaceKind::Cylinder ||
                                 (place.info().centre - middle).dot(t.faces[wall].direction) > 0;
        if (!goes_down || !looks_along) continue;
        inner.insert(inner.end(), edge.points.begin(), edge.points.end());
        ledge.inner.push_back(e);
    }
    if (inner.empty()) return std::nullopt;
    // By its corners; edges are finely divided where they are round.
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i)
        for (int k = 0; k < 3 && t.face_of[i] == place.face; ++k) {
            double near = 1e9;
            for (const Vec3& p : inner) near = std::min(near, (p - t.mesh.corner(i, k)).norm());
            ledge.wide_mm = std::max(ledge.wide_mm, near);
        }
    return ledge;
}

std::string edge_text(const FacePlace& place, size_t edge) {
    const EdgeInfo& info = place.body->tessellation().edges[edge];
    const Vec3 middle = (info.points[(info.points.size() - 1) / 2] + info.points[info.points.size() / 2]) / 2;
    return GeometryItem(make_edge_reference(*place.body, edge, middle)).text();
}

/// Under a ledge: the inner edges to the walls below it are filled at 45 degrees, as far as the ledge stands out.
void add_chamfer_under_ledge(const FacePlace& place, const Ledge& ledge, std::vector<FindingCure>& cures) {
    if (!place.body->is_exact()) return;
    std::string edges;
    for (size_t e : ledge.inner) edges += (edges.empty() ? "" : "; ") + edge_text(place, e);
    const double distance = std::floor((ledge.wide_mm - 0.05) * 100) / 100; // a hair stays: the kernel needs it
    if (distance < 0.2) return;
    cures.push_back(cure_by_step(place, "Chamfer under it", "Fills the corner below the ledge at 45°.", "chamfer",
                                 {{"edges", edges}, {"distance", format_number(distance) + " mm"}}));
}

/// Webs of 45 degrees under a straight ledge, as near to each other as the card's bridges are wide: what hangs between
/// them is held at both ends. Of triangles, which take no chamfer, one as wide as the ledge fills the corner too.
void add_gussets(const FacePlace& place, const Ledge& ledge, const PrinterCard& card, std::vector<FindingCure>& cures) {
    if (ledge.inner.size() != 1 || ledge.wide_mm < 1) return;
    const EdgeInfo& edge = place.body->tessellation().edges[ledge.inner[0]];
    const double length = (edge.points.back() - edge.points.front()).norm();
    if (!(std::fabs(edge.length_mm - length) < 1e-6)) return; // it bends
    const double thick = std::min(std::max(4 * card.nozzle_mm, 2.0), length);
    // A hair short of the rim: corners that coincide are hard on booleans.
    const std::string size = format_number(std::floor((ledge.wide_mm - 0.01) * 100) / 100) + " mm";
    std::map<std::string, std::string> fields{{"edges", edge_text(place, ledge.inner[0])}, {"size", size}};
    if (!place.body->is_exact()) {
        fields["thickness"] = format_number(std::floor((length - 0.01) * 100) / 100) + " mm";
        cures.push_back(cure_by_step(place, "Web under it",
                                     "Fills the corner below the ledge at 45°, as long as it is.", "gusset", fields));
    }
    const double room = std::max(card.bridge_limit_mm, 1.0);
    const size_t many = length <= thick ? 1 : 1 + size_t(std::ceil((length - thick) / (room + thick) - 1e-9));
    constexpr size_t most = 12;
    if (many < 2 || many > most) return;
    fields["thickness"] = format_number(thick) + " mm";
    fields["many"] = std::to_string(many);
    cures.push_back(cure_by_step(place, std::to_string(many) + " gussets",
                                 "Webs of 45° under the ledge: what is between them is bridged from one to the next.",
                                 "gusset", fields));
}

/// The ring round a narrower hole in a flat roof: a layer across the hole makes a bridge of it.
void add_closing_layer(const FacePlace& place, const PrinterCard& card, std::vector<FindingCure>& cures) {
    if (place.info().kind != SurfaceKind::Plane || place.info().direction.dot(place.up) > -0.99) return;
    const Tessellation& t = place.body->tessellation();
    const bool has_hole = std::any_of(t.edges.begin(), t.edges.end(), [&](const EdgeInfo& edge) {
        if (edge.face_a < 0 || edge.face_b < 0) return false;
        if (edge.face_a != int(place.face) && edge.face_b != int(place.face)) return false;
        const auto wall = size_t(edge.face_a == int(place.face) ? edge.face_b : edge.face_a);
        const FaceInfo& info = t.faces[wall];
        return info.kind == SurfaceKind::Cylinder && is_hollow(t, wall) && (info.centre - place.at).dot(place.up) > 0;
    });
    if (!has_hole) return;
    cures.push_back(cure_by_step(
        place, "Layer to drill through",
        "Closes the hole by one layer, so that lines are drawn across: drill or cut it out.", "closing_layer",
        {{"face", place.reference().text()}, {"thickness", format_number(card.layer_height_mm) + " mm"}}));
}

/// In two at the level of a flat face that hangs: both pieces lie flat.
void add_split(const FacePlace& place, std::vector<FindingCure>& cures) {
    if (place.info().kind != SurfaceKind::Plane || place.info().direction.dot(place.up) > -0.99) return;
    FindingCure cure =
        cure_by_step(place, "Split here", "In two parts at this face, each printed for itself. Glue or pin them.",
                     "split", {{"by", place.reference().text()}});
    cure.aside = true;
    cures.push_back(std::move(cure));
}

} // namespace

void add_hanging_cures(const PosedPart& posed, FindingKind kind, const PrinterCard& card,
                       std::vector<FindingCure>& cures) {
    bool split = kind != FindingKind::Hanging;
    for (const FacePlace& place : hanging_places(posed, card.overhang_limit_deg)) {
        if (kind == FindingKind::Bridge && place.info().kind != SurfaceKind::Plane) continue;
        if (kind == FindingKind::LyingHole && place.info().kind != SurfaceKind::Cylinder) continue;
        add_roofs(place, cures);
        add_chamfer_for_round(place, cures);
        add_round_thread(place, cures);
        if (const auto ledge = ledge_of(place)) {
            add_chamfer_under_ledge(place, *ledge, cures);
            add_gussets(place, *ledge, card, cures);
        }
        add_closing_layer(place, card, cures);
        const size_t before = cures.size();
        if (!split) add_split(place, cures); // at the largest alone: each is tried by laying both pieces
        split = split || cures.size() > before;
    }
}

} // namespace lp
