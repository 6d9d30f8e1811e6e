// A part that is split, printed in its pieces or in one: what each takes, every piece in its own best way up.
#pragma once
#include "project/evaluate.h"

namespace lp {

struct PrintedWay {
    size_t pieces = 1;
    double supports_mm3 = 0; ///< of all pieces
    double time_s = 0, mass_g = 0;
};
struct SplitComparison {
    PrintedWay whole, split;
};

/// Nothing for a part without a split that is on, for one that comes out in one piece all the same, and where it cannot
/// be made whole. Evaluates the project anew without the split: as long as that takes, and ways up beside.
std::optional<SplitComparison> compare_split(const Evaluation& evaluation, PartId part, const Task& task = {});

/// "One piece with supports: 34 g, 3 h 10 min; two pieces without: 29 g, 2 h 40 min."
std::string split_words(const SplitComparison& comparison);

} // namespace lp
