// Findings: what would go wrong with a part, each kind a row of one table. Tape, panel, ledger, offers, view, strip and
// the command line ask the table; a new kind is its row, and the file that finds it.
#pragma once
#include "base/geometry.h"
#include "base/ids.h"
#include <array>
#include <string>
#include <vector>

namespace lp {

enum class FindingKind {
    NonFinite,
    Degenerate,
    Duplicate,
    Open,
    CrowdedEdge,
    Pinch,
    Flipped,
    InsideOut,
    Crossing,
    Overlap,
    Inner,
    Cavity,
    Small,
    Thin,
    FineStroke, ///< strokes of letters finer than a line
    Narrow,     ///< a gap that the print closes
    Hanging,
    LyingHole,  ///< a round hole with a roof that hangs
    LyingJoint, ///< the gap of a joint that is printed in place hangs
    Bridge,     ///< held at both ends, but too wide
    Tipping,
    Lifting,     ///< sharp corners of a large flat bottom
    Flared,      ///< the first layer closes the mouth of a fit, or widens the foot of one
    ClosedAtBed, ///< the first layer closes the gap between two bodies of the part that is open above
    Slender,
    AcrossLayers, ///< a hook or a hinge that is meant to bend has its layers across
    TooBig,
    MidAir,
    UnsoundStop, ///< what the print stops for does not go in, the roof over it does not hold, or no layer is left
    NotLaid,     ///< no plan of layers could be made
    LostPose,    ///< the face it was laid on is gone
    LostMark,    ///< a marked face is gone
    LostPlace,   ///< its place in the assembly cannot be worked out
    PastBorder,  ///< a copy was put past the border of the bed
    InAnother,   ///< a copy was put into another thing
    UnderHead,   ///< printed one at a time, the head meets it while others are printed
    FailedStep,
    Fused ///< the print closes a gap between two of its bodies
};

/// The drawn shape that stands for a finding.
enum class FindingMark { Crossing, Broken, Turned, Sheets, Lintel, Drop, Leaning, PastEdge };

/// The stretch of the work where it is settled.
enum class FindingStage { Shape, Fit, Check, Bed };

/// Whether it is still open once supports stand under the part.
enum class Counted { Always, Never, WithoutSupports };

struct FindingRow {
    FindingKind kind;
    const char* id;    ///< of JSON: "mid_air"
    const char* title; ///< two or three words for a row; findings may say it more exactly
    FindingMark mark;
    FindingStage stage;
    Counted counted;
    bool of_mesh;       ///< a fault of a mesh that mending cures
    bool counts_things; ///< `count` is worth saying: three open edges, not three hanging facets
    const char* about;  ///< what it means for the print, and what helps: for who asks
};

const std::vector<FindingRow>& finding_rows();
const FindingRow& row_of(FindingKind kind);

struct Finding {
    FindingKind kind = FindingKind::Open;
    size_t count = 0;
    Vec3 where = Vec3::Zero(); ///< as posed
    std::string says;          ///< a sentence for people
    std::string title = {};    ///< of its row where it says no more
    StepId step = {};          ///< the step it is about, where it is about one
    /// Its places one by one, as posed, where they are told apart: facets, edges (the last corner twice), corners.
    std::vector<std::array<Vec3, 3>> places = {};

    /// "Open edges · 12".
    std::string title_and_count() const;
};

/// Which finding is meant, also after everything was looked at anew.
struct FindingRef {
    PartId part;
    FindingKind kind = FindingKind::Open;
    StepId step = {};
    size_t nth = 0; ///< among those of the part that agree in the rest
    bool operator==(const FindingRef&) const = default;
};

struct PartFinding {
    FindingRef ref;
    Finding finding;
};

} // namespace lp
