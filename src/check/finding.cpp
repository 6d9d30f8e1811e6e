#include "check/finding.h"

namespace lp {

const std::vector<FindingRow>& finding_rows() {
    using K = FindingKind;
    using M = FindingMark;
    using S = FindingStage;
    using C = Counted;
    static const std::vector<FindingRow> rows{
        {K::NonFinite, "nonfinite", "No place", M::Crossing, S::Check, C::Always, true, true,
         "A corner has no place: the file it came from is damaged. Mending drops its facets."},
        {K::Degenerate, "degenerate", "No area", M::Crossing, S::Check, C::Always, true, true,
         "A facet without area. Harmless to look at, it makes slicers and booleans guess. Mending drops it."},
        {K::Duplicate, "duplicate", "Twice there", M::Sheets, S::Check, C::Always, true, true,
         "The same facet there twice. Mending keeps one."},
        {K::Open, "open", "Open edges", M::Broken, S::Check, C::Always, true, true,
         "Edges with a facet on one side only: the skin has a hole, and what is inside is a guess. Mending welds what "
         "lies near and closes the rest."},
        {K::CrowdedEdge, "crowded_edge", "Crowded edges", M::Crossing, S::Check, C::Always, true, true,
         "More than two facets meet at an edge: which side is inside is not certain there. Mending parts them."},
        {K::Pinch, "pinch", "Pinched", M::Crossing, S::Check, C::Always, true, true,
         "Two stretches of skin touch in a point. Mending parts them by a copy of the corner."},
        {K::Flipped, "flipped", "Flipped", M::Turned, S::Check, C::Always, true, true,
         "Facets that face the other way than their neighbours. Mending turns them."},
        {K::InsideOut, "inside_out", "Inside out", M::Turned, S::Check, C::Always, true, false,
         "The whole skin faces inward: solid and air are exchanged. Mending turns it."},
        {K::Crossing, "crossing", "Crossing", M::Crossing, S::Check, C::Always, true, true,
         "Facets pass through each other, so that the inside is not certain. Mending parts them where they meet, once "
         "the "
         "mesh is closed."},
        {K::Overlap, "overlap", "Overlapping shells", M::Sheets, S::Check, C::Always, true, true,
         "Two shells fill the same place. Mending makes one of them; or move one."},
        {K::Inner, "inner", "Hidden inside", M::Sheets, S::Check, C::Always, true, true,
         "A shell lies wholly inside another. As a cavity it must face inward; else nothing comes of it, and mending "
         "takes it away."},
        {K::Cavity, "cavity", "Closed void", M::Crossing, S::Check, C::Never, false, true,
         "A closed hollow inside: it is printed, but nothing gets out of it. A hole to the outside lets support and "
         "powder out."},
        {K::Small, "small", "Very small", M::Crossing, S::Check, C::Always, false, false,
         "The size looks like another unit than the one that was taken. Scale it by 25.4 (inches) or 1000 (metres) if "
         "so."},
        {K::Thin, "thin", "Thin", M::Sheets, S::Check, C::Always, false, true,
         "A wall is thinner than two lines of this nozzle: one line breaks easily, less than one is not printed at "
         "all. Make it thicker, or use a finer nozzle."},
        {K::FineStroke, "fine_stroke", "Fine strokes", M::Sheets, S::Shape, C::Always, false, false,
         "Strokes of letters are finer than one line of this nozzle: they are left out or blotted. Write larger, in a "
         "bolder font, or thicken the letters."},
        {K::Narrow, "narrow", "Narrow gap", M::Sheets, S::Check, C::Always, false, true,
         "A slot or the air between two shells is narrower than the smallest gap this printer keeps open: the print "
         "closes it. Make it wider, or close it in the drawing."},
        {K::Hanging, "hanging", "Hangs", M::Lintel, S::Bed, C::WithoutSupports, false, false,
         "Faces lean out further than the printer card says this printer can without support. Lay the part another "
         "way, lean the face less, chamfer instead of rounding underneath, or put supports in."},
        {K::LyingHole, "lying_hole", "Lying hole", M::Lintel, S::Bed, C::Never, false, true,
         "The roof of a round hole that lies is laid into the air: its top comes out flat and low, and what goes in "
         "may jam. Lay the part so that the hole stands, or give the hole a pointed roof or one cut flat."},
        {K::LyingJoint, "lying_joint", "Joint lies wrongly", M::Lintel, S::Bed, C::Always, false, true,
         "Bodies of the part move in each other, and the gap between them hangs as the part lies: what droops there "
         "closes it, and no support can be taken out of it. Lay the part the way the joint was made for."},
        {K::Bridge, "bridge", "Wide bridge", M::Lintel, S::Bed, C::WithoutSupports, false, true,
         "A flat roof that is held at both ends is printed as a bridge; this one is wider than the printer card says "
         "its lines stay up. Make it narrower, give it a pointed roof of 45°, lay the part another way, or put "
         "supports "
         "in."},
        {K::Tipping, "tipping", "Tips over", M::Leaning, S::Check, C::Always, false, false,
         "Its weight is not over what stands on the bed. Lay it on a larger face, or give it a foot."},
        {K::Lifting, "lifting", "Corners may lift", M::Leaning, S::Bed, C::Never, false, true,
         "Sharp corners of a large flat bottom pull up from the bed as the plastic shrinks. Round them, or give them a "
         "brim at the corners."},
        {K::Flared, "flared", "Flares at the bed", M::PastEdge, S::Bed, C::Never, false, true,
         "The first layer is pressed wider than it is drawn: a hole that stands on the bed has a narrower mouth, a peg "
         "a "
         "wider foot, and what should slide jams there. A chamfer at the foot takes the flare."},
        {K::ClosedAtBed, "closed_at_bed", "Closed at the bed", M::PastEdge, S::Fit, C::Never, false, true,
         "The first layer is pressed wider than it is drawn, and closes the gap between two bodies that are printed in "
         "each other; above it they are apart. It breaks loose with some force, or holds. A chamfer at the foot of "
         "both, as the printer card asks for it, keeps them apart."},
        {K::Slender, "slender", "Slender", M::Leaning, S::Bed, C::WithoutSupports, false, false,
         "It is tall for the foot it stands on: while it grows the nozzle may knock it over. Lay it down, give it a "
         "wider foot or a brim, or put supports in."},
        {K::AcrossLayers, "across_layers", "Bends across its layers", M::Leaning, S::Bed, C::Always, false, false,
         "A hook, a clip or a hinge is meant to bend, and as the part lies its layers run across it: bent, it parts "
         "between two of them at a fraction of the load. Lay the part so that the lines run along what bends."},
        {K::TooBig, "too_big", "Too big", M::PastEdge, S::Check, C::Always, false, false,
         "It does not fit the bed of the printer card, however it is turned about the upright. Split it, or lay it "
         "another way."},
        {K::MidAir, "mid_air", "Starts in mid-air", M::Drop, S::Bed, C::WithoutSupports, false, true,
         "A piece of a layer begins with nothing below it. It would be printed into the air. Turn the part, join the "
         "piece to what is below, or put supports in."},
        {K::UnsoundStop, "unsound_stop", "Stops in vain", M::Lintel, S::Bed, C::Always, false, false,
         "The print stops so that something can be laid in or changed, and that does not work as it is: it does not go "
         "in, stands out above the layer, what is printed over it has nothing to lie on, or no layer is left. Make the "
         "pocket wider or deeper, its roof narrower, or stop lower."},
        {K::NotLaid, "not_laid", "No layers", M::Crossing, S::Check, C::Always, false, false,
         "No plan of layers could be made of it: the reason stands beside it. Mend the mesh, or change the layer "
         "height of the printer card."},
        {K::LostPose, "lost_pose", "Pose lost", M::Turned, S::Bed, C::Always, false, false,
         "The face it was laid on is gone since a change. Click a flat face and lay it on the bed anew."},
        {K::LostMark, "lost_mark", "Mark lost", M::Turned, S::Bed, C::Always, false, false,
         "A face that was marked is gone since a change: poses and supports go without it. Mark what is there now, or "
         "take the mark off."},
        {K::LostPlace, "lost_place", "Place lost", M::Turned, S::Fit, C::Always, false, false,
         "A number of its place in the assembly cannot be worked out; it stands where it was drawn until then."},
        {K::PastBorder, "past_border", "Past the border", M::PastEdge, S::Bed, C::Always, false, true,
         "Where it was put it reaches past the border of its bed. Push it back by its cross, type where its middle "
         "stands, or arrange everything."},
        {K::InAnother, "in_another", "In another", M::Sheets, S::Bed, C::Always, false, true,
         "Where it was put it stands in another thing: both would be printed into each other. Push one away by its "
         "cross, or arrange everything."},
        {K::UnderHead, "under_head", "In the head's way", M::Sheets, S::Bed, C::Always, false, true,
         "Each thing is printed whole before the next: this one stands nearer to another than the head reaches out, or "
         "is taller than what the head passes over and not the last of its bed. Arrange everything, or print the bed "
         "together."},
        {K::FailedStep, "failed_step", "Failed", M::Crossing, S::Shape, C::Always, false, false,
         "The step could not be made; why stands under its sentence. What follows is made without it."},
        {K::Fused, "fused", "Fuses", M::Sheets, S::Fit, C::Never, false, false,
         "Two bodies of the part come nearer than this printer keeps apart, so they print as one. Open the gap to more "
         "than the card's smallest, or join them."}, // its contact is counted
    };
    return rows;
}

const FindingRow& row_of(FindingKind kind) {
    return finding_rows()[size_t(kind)];
}

std::string Finding::title_and_count() const {
    const FindingRow& row = row_of(kind);
    std::string words = title.empty() ? row.title : title;
    if (row.counts_things && count > 1) words += " · " + std::to_string(count);
    return words;
}

} // namespace lp
