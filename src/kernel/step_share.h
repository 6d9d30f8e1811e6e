// A STEP file cut into shares, so that several processes read a large one side by side: the library does it on one core
// alone.
#pragma once
#include "kernel/step_text.h"

namespace lp {

/// Of each instance of the text.
struct StepShare {
    std::vector<char> foreign; ///< a solid of another share: it stays, without its shell, so that all find their places
    std::vector<char> unused;  ///< only foreign solids refer to it
    /// The instance to take in place of it: points, directions and axes that are word for word the same are one.
    std::vector<uint32_t> stands_for;
};

/// Share number `share` of `of`, 0 of 1 for the whole: products, places, units and names, and those solids with their
/// faces that belong to it, neighbours in the file.
StepShare step_share(const StepText& step, size_t share, size_t of);

} // namespace lp
