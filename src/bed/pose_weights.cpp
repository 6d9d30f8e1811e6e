#include "bed/pose_weights.h"

namespace lp {

const std::vector<PoseWeightRow>& pose_weight_rows() {
    using W = PoseWeights;
    static const std::vector<PoseWeightRow> rows{
        {"support_cm3", "Supports, a cm³", "points a cm³ of what stands under it", &W::support_cm3},
        {"overhang_cm2", "Carried faces, a cm²", "points a cm² that hangs: rough where supports stood",
         &W::overhang_cm2},
        {"height_cm", "Height, a cm", "points a cm: it takes longer", &W::height_cm},
        {"no_footing", "Small footing", "points without a foot, none from 1 cm²", &W::no_footing},
        {"tips", "Tips over", "points", &W::tips},
        {"seen_cm2", "Seen faces, a cm²", "points a cm² of them that is rough", &W::seen_cm2},
        {"mating_cm2", "Mating faces, a cm²", "points a cm² of them that is rough", &W::mating_cm2},
        {"never_cm2", "Hangs bare, a cm²", "points a cm² that hangs where no support may touch", &W::never_cm2},
        {"lying_bore", "Lying holes, each", "points for each round hole that lies", &W::lying_bore},
        {"joint_cm2", "Joints, a cm²", "points a cm² of a joint's gap that hangs: what droops there closes it",
         &W::joint_cm2},
        {"load_across", "Load across layers", "points when all of it pulls them apart", &W::load_across},
    };
    return rows;
}

std::optional<Problem> check_pose_weights(const PoseWeights& weights) {
    for (const PoseWeightRow& row : pose_weight_rows())
        if (!(weights.*row.member >= 0 && weights.*row.member <= 10000))
            return Problem{ProblemCode::Range, std::string("\"") + row.words + "\" cannot count so much.",
                           "Use 0 to 10000 points."};
    return std::nullopt;
}

} // namespace lp
