// Sizes of threads as people write them: M10, M10x1.25, UNC-1/4, G1/2, a diameter and a pitch, 58x4, or
// as it was measured: 27.4, 5 in 13.5.
#pragma once
#include "base/problem.h"

namespace lp {

struct ThreadSize {
    std::string name; ///< "M10", "58x4"
    double major_mm = 0, pitch_mm = 0;
};

/// A Problem that names the nearest sizes where no table has it, or the pitch is missing.
Expected<ThreadSize> thread_size(const std::string& text);

} // namespace lp
