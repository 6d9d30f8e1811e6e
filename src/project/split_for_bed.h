// A part that is too large for the bed, in two halves with pins: where the cut is large and goes through nothing fine.
#pragma once
#include "project/cures.h"

namespace lp {

struct BedSplit {
    int axis = 2;     ///< of the design: the plane lies square to it
    double at_mm = 0; ///< along that axis
    double section_mm2 = 0;
};
/// Both pieces go on the bed, in whatever way they are turned by right angles. Nothing where no one cut does that.
/// The larger the cut the better, and the fewer faces it goes through: letters and ornaments have many.
std::optional<BedSplit> best_bed_split(const TriMesh& design, const Vec3& bed_mm, const Task& task = {});

/// The step with its pins, as wide as the cut has room for.
std::optional<FindingCure> split_for_bed(const Evaluation& evaluation, PartId part, const Task& task = {});
/// After it: how many bodies of the part still do not go on the bed.
size_t too_big_for_bed(const Evaluation& evaluation, PartId part);
/// What is to be done after such a step, in the same edit: the other half and the pins become parts of their own, the
/// halves lie on their glue faces, and the pins' fit is kept as wanted. `made` is what came of the edit so far.
void take_halves_out(const Evaluation& made, PartId part, Edit& edit);
/// "Two halves with 2 pins, glued over 412 mm²."
std::string halves_words(const Evaluation& made, PartId part);

} // namespace lp
