#include "project/pauses.h"
#include "base/quantity.h"
#include "hardware/piece.h"
#include "mesh/soundness.h"
#include "mesh/topology.h"
#include "project/contact_ledger.h"
#include "project/layer_heights.h"
#include <algorithm>

namespace lp {
namespace {

struct Thing {
    std::string name;
    TriMesh mesh; ///< as the part is posed
};

/// Stand-ins near the part, brought into its print pose.
std::vector<Thing> stand_ins_in(const Evaluation& evaluation, const PartResult& made, const Transform& pose,
                                const Box3& box) {
    std::vector<Thing> things;
    const Transform to_print = pose * made.place.inverse();
    for (const PartResult& other : evaluation.parts) {
        if (!other.stand_in || !other.mesh || other.part == made.part) continue;
        const bool one = other.bodies.size() == 1;
        for (const StepBody& body : other.bodies) {
            TriMesh mesh = transformed(body.body.mesh(), to_print * other.place);
            if (box.intersects(bounding_box(mesh)))
                things.push_back({one ? other.name : other.name + ", " + body.called(), std::move(mesh)});
        }
    }
    return things;
}

/// What the pockets are for that a hole by what goes in closes by a skin; empty where no step makes one.
std::string pocketed_piece(const Part& part, const PartResult& made) {
    std::string name;
    for (size_t i = 0; i < part.steps.size() && i < made.steps.size(); ++i) {
        const Step& step = part.steps[i];
        const StepKind* kind = find_step_kind(step.kind);
        if (!kind || step.kind != "hole_for" || !step.on || !made.steps[i].ok) continue;
        if (field_text(step, *kind->field("how")) != "seats") continue;
        const auto piece = piece_called(field_text(step, *kind->field("piece")));
        if (!piece) continue;
        name = name.empty() || name == piece->name ? piece->name : "what belongs there";
    }
    return name;
}

/// Closed voids with nothing in them.
std::vector<Thing> empty_pockets(const TriMesh& posed, const std::string& name, const std::vector<Thing>& filled) {
    std::vector<Thing> things;
    const TriMesh mesh = welded(posed);
    for (TriMesh& shell : extract_shells(mesh, build_topology(mesh))) {
        if (mass_properties(shell).volume_mm3 >= 0) continue; // an outside
        const Box3 box = bounding_box(shell);
        if (std::any_of(filled.begin(), filled.end(),
                        [&](const Thing& thing) { return box.intersects(bounding_box(thing.mesh)); }))
            continue;
        for (Triangle& t : shell.triangles) std::swap(t[1], t[2]);
        things.push_back({name, std::move(shell)});
    }
    return things;
}

} // namespace

/// Before the first layer that begins at the height or above it; said to be wrong where there is none.
static PartPause stop_by_hand(const StopByHand& stop, double at_mm, size_t layers, const LayerHeights& heights) {
    PartPause found{.thing = stop.why, .pause = {}, .by_hand = true};
    size_t k = 0;
    constexpr double same_mm = 1e-6;
    while (k < layers && heights.bottom(k) < at_mm - same_mm) ++k;
    found.pause.needed = true;
    found.pause.after = k;
    found.pause.at_mm = k < layers ? heights.bottom(k) : at_mm;
    found.pause.sound = k < layers;
    return found;
}

std::string PartPause::words() const {
    if (by_hand) {
        const std::string what = thing.empty() ? "By hand: " : thing + ": ";
        if (!pause.sound)
            return what + "no layer is left at " + format_quantity(pause.at_mm, QuantityKind::Length, 2) +
                   ": the print is done before";
        return what + "stops after layer " + std::to_string(pause.after + raft_layers) + ", at " +
               format_quantity(pause.at_mm, QuantityKind::Length, 2);
    }
    if (!pause.enters) {
        std::string words = thing;
        return words.append(" does not go in from above: layer ")
            .append(std::to_string(pause.blocked_in + raft_layers))
            .append(" is in its way");
    }
    std::string words = thing;
    words.append(" goes in after layer ")
        .append(std::to_string(pause.after + raft_layers))
        .append(", at ")
        .append(format_quantity(pause.at_mm, QuantityKind::Length, 2));
    if (pause.proud_mm > 1e-6)
        words.append("; it stands ")
            .append(format_quantity(pause.proud_mm, QuantityKind::Length, 2))
            .append(" above that: the nozzle would meet it");
    else if (!pause.sound)
        words.append(pause.roof_loose_share >= 0.02 ? "; lines of its roof end in the air" : "; its roof spans ")
            .append(pause.roof_loose_share >= 0.02 ? std::string()
                                                   : format_quantity(pause.roof_span_mm, QuantityKind::Length, 1));
    return words;
}

std::vector<PartPause> pauses_of(const Evaluation& evaluation, PartId id, const Task& task) {
    const Project& project = *evaluation.project;
    const PartPtr part = project.part(id);
    const PartResult* made = evaluation.part(id);
    if (!part || part->stand_in || !made || !made->mesh || made->mesh->empty()) return {};
    const Transform pose = pose_of_part(*part, *made, evaluation.values);
    const TriMesh posed = transformed(*made->mesh, pose);
    const Box3 box = bounding_box(posed);
    std::vector<Thing> things = stand_ins_in(evaluation, *made, pose, box);
    if (const std::string piece = pocketed_piece(*part, *made); !piece.empty())
        for (Thing& pocket : empty_pockets(posed, piece, things)) things.push_back(std::move(pocket));
    if (things.empty() && part->stops.empty()) return {};
    const LayerHeights heights = layer_heights(evaluation, id);
    const size_t count = heights.count(box.sizes().z());
    // A pocket that ends at the very middle of a layer would be open or closed by rounding: open.
    const double floor_z = box.min().z() - 1e-4;
    const std::vector<Region> layers =
        things.empty() ? std::vector<Region>() : slice(posed, heights, floor_z, count, task);
    const PauseLimits limits{project.printer.bridge_limit_mm, project.printer.overhang_limit_deg,
                             project.printer.line_mm()};
    std::vector<PartPause> pauses;
    const auto raft = size_t(std::max(0, part->supports.options.raft_layers));
    for (const StopByHand& stop : part->stops)
        if (const auto at = evaluate_expression(stop.at, QuantityKind::Length, evaluation.values)) {
            pauses.push_back(stop_by_hand(stop, *at, count, heights));
            pauses.back().raft_layers = raft;
        }
    for (const Thing& thing : things) {
        if (task.stopped()) return {};
        const std::vector<Region> cut = slice(thing.mesh, heights, floor_z, count, task);
        const Pause pause =
            find_pause(layers, cut, bounding_box(thing.mesh).max().z() - box.min().z(), heights, limits);
        if (pause.needed && pause.enters) pauses.push_back({thing.name, pause, raft, false});
    }
    std::stable_sort(pauses.begin(), pauses.end(),
                     [](const PartPause& a, const PartPause& b) { return a.pause.after < b.pause.after; });
    return pauses;
}

} // namespace lp
