#include "check/finding.h"

namespace lp {

const std::vector<FindingRow>& finding_rows() {
    using K = FindingKind;
    using M = FindingMark;
    using S = FindingStage;
    using C = Counted;
    static const std::vector<FindingRow> rows{
        {K::NonFinite, "nonfinite", "No place", M::Crossing, S::Check, C::Always, true, true},
        {K::Degenerate, "degenerate", "No area", M::Crossing, S::Check, C::Always, true, true},
        {K::Duplicate, "duplicate", "Twice there", M::Sheets, S::Check, C::Always, true, true},
        {K::Open, "open", "Open edges", M::Broken, S::Check, C::Always, true, true},
        {K::CrowdedEdge, "crowded_edge", "Crowded edges", M::Crossing, S::Check, C::Always, true, true},
        {K::Pinch, "pinch", "Pinched", M::Crossing, S::Check, C::Always, true, true},
        {K::Flipped, "flipped", "Flipped", M::Turned, S::Check, C::Always, true, true},
        {K::InsideOut, "inside_out", "Inside out", M::Turned, S::Check, C::Always, true, false},
        {K::Crossing, "crossing", "Crossing", M::Crossing, S::Check, C::Always, true, true},
        {K::Overlap, "overlap", "Overlapping shells", M::Sheets, S::Check, C::Always, true, true},
        {K::Inner, "inner", "Hidden inside", M::Sheets, S::Check, C::Always, true, true},
        {K::Cavity, "cavity", "Closed void", M::Crossing, S::Check, C::Never, false, true},
        {K::Small, "small", "Very small", M::Crossing, S::Check, C::Always, false, false},
        {K::Hanging, "hanging", "Hangs", M::Lintel, S::Bed, C::WithoutSupports, false, false},
        {K::Tipping, "tipping", "Tips over", M::Leaning, S::Check, C::Always, false, false},
        {K::TooBig, "too_big", "Too big", M::PastEdge, S::Check, C::Always, false, false},
        {K::MidAir, "mid_air", "Starts in mid-air", M::Drop, S::Bed, C::WithoutSupports, false, true},
        {K::NotLaid, "not_laid", "No layers", M::Crossing, S::Check, C::Always, false, false},
        {K::LostPose, "lost_pose", "Pose lost", M::Turned, S::Bed, C::Always, false, false},
        {K::LostPlace, "lost_place", "Place lost", M::Turned, S::Fit, C::Always, false, false},
        {K::FailedStep, "failed_step", "Failed", M::Crossing, S::Shape, C::Always, false, false},
        {K::Fused, "fused", "Fuses", M::Sheets, S::Fit, C::Never, false, false}, // its contact is counted
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
