// Round rims that stand on the bed, where the first layer is pressed wider than it is drawn: mouths of holes close,
// feet of pegs grow.
#pragma once
#include "project/evaluate.h"

namespace lp {

struct FlaredRim {
    size_t body = 0, face = 0, edge = 0; ///< of an exact body: its round face, the rim's edge
    bool hole = true;                    ///< else a peg
    double diameter_mm = 0;
    Vec3 at = Vec3::Zero(); ///< a place on the rim, as posed
};

/// Rims of upright round faces that lie on the bed, not chamfered, from 2 mm across.
std::vector<FlaredRim> flared_rims(const PartResult& made, const Transform& pose);

struct Analysis;
struct PartAnalysis;
struct Finding;
/// The first rim where the printer card's flare is as large as the gap that a contact of the part wants there; nothing
/// without one.
std::optional<Finding> flared_finding(const Evaluation& evaluation, const Analysis& analysis,
                                      const PartAnalysis& known);

} // namespace lp
