// What the practice printer does to planned lines: beads that grow, flare, droop and fuse. What it assumes beyond the
// printer card is told by practice_assumptions(), which the program shows beside every practice print.
#pragma once
#include "fit/cards.h"
#include "layers/lines.h"

namespace lp {

struct PracticeModel {
    PrinterCard card;
    /// A strand under a constant pull hangs as a parabola, sag = q l^2 / (8 T): it grows with the square of its length.
    /// The card's bridge limit is taken as the span that sags by one layer.
    double free_end = 4;      ///< held at one end it droops so many times as a bridge of twice its length
    double beside_per_mm = 1; ///< held only by the bead beside it: this x (distance beyond what carries it)^2
    double passed_on = 0.5;   ///< a line laid on a drooped one takes this share of its droop
    double lost_from_mm = 2;  ///< a line that would droop more is not laid
    int slabs_a_layer = 4;    ///< droop shows to a layer over this
};
/// A sentence each.
std::vector<std::string> practice_assumptions(const PracticeModel& model);

/// A run of a line that nothing carried.
struct Droop {
    Vec3 at = Vec3::Zero(); ///< its deepest place, before it drooped
    double droop_mm = 0, span_mm = 0;
    bool lost = false; ///< it was not laid
};

struct PrintedBody {
    std::vector<Region> slabs;   ///< slabs_a_layer for each layer, bottom first
    std::vector<Droop> droops;   ///< from a hundredth of a millimetre
    double without_line_mm2 = 0; ///< of the design that got no line, summed over the layers
    std::vector<size_t> thin_in; ///< layers, from 0, in which more than 0.05 mm2 got none
};

/// Lays the lines of one body (plan_lines of the same `part`). A layer is what the beads of its outer walls, thin
/// places and supports sweep, with what lies behind them taken as full. `carried`: what supports carry in each layer;
/// may be shorter than `part`. Nothing on request.
PrintedBody print_body(const std::vector<Region>& part, const std::vector<LayerLines>& lines,
                       const std::vector<Region>& carried, const LineOptions& options, const PracticeModel& model,
                       const Task& task = {});

/// How far the free side of a line stands out, mm a side: growth outside, shrink of the card's table in a round hole of
/// that diameter; the first layer by the flare where that is more.
double stands_out_mm(const PracticeModel& model, bool in_hole, double hole_diameter_mm, bool first_layer);

/// Grown walls nearer than this fuse, mm: the smallest open gap less what both sides of a usual printer grow, so that a
/// card with less growth keeps narrower gaps open.
double closes_by_itself_mm(const PracticeModel& model);

struct FusedBodies {
    size_t a = 0, b = 0;
    std::vector<std::pair<size_t, size_t>> layers; ///< ranges, from 1
    double beside_mm2 = 0, above_mm2 = 0;          ///< summed over slabs
};
/// Bodies whose printed shapes meet: nearer beside each other than what the printer closes by itself, or one laid on
/// the other by more than 0.02 mm2.
std::vector<FusedBodies> fused_bodies(const std::vector<PrintedBody>& bodies, const PracticeModel& model,
                                      const Task& task = {});

} // namespace lp
