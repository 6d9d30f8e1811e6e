// Kept measurements: their ends found again in the newest bodies, and what lies between them.
#pragma once
#include "fit/measuring.h"
#include "project/project.h"

namespace lp {

struct Evaluation;

/// A kept measurement as it is now.
struct MeasureResult {
    MeasureId id;
    std::optional<Measured> found;    ///< places in the assembly, as drawn
    std::string lost;                 ///< why there is none
    std::optional<Measured> standing; ///< between parts that a movement left elsewhere than drawn
};
MeasureResult measure_kept(const Evaluation& evaluation, const KeptMeasure& kept);

struct MeasurableEnd : Measurable {
    size_t number = 0; ///< of its body within the part; 0 for all of a part
};
/// A kept end found again in the newest bodies, as drawn.
Expected<MeasurableEnd> find_measurable(const Evaluation& evaluation, const MeasuredThing& thing);

} // namespace lp
