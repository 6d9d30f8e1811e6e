#include "steps/step_bodies.h"

namespace lp {

Expected<std::vector<CarriedHalo>> mapped_halos(const std::vector<CarriedHalo>& halos, const Affine& map) {
    std::vector<CarriedHalo> result;
    Eigen::Matrix3d squared = map.linear().transpose() * map.linear();
    if (!squared.isIdentity(1e-9)) return result;
    for (CarriedHalo halo : halos) {
        auto envelope = mapped(halo.envelope, map);
        if (!envelope) return pass_on(envelope);
        halo.envelope = *envelope;
        result.push_back(std::move(halo));
    }
    return result;
}

Expected<std::vector<SolidInside>> mapped_solids(const std::vector<SolidInside>& solids, const Affine& map) {
    std::vector<SolidInside> result;
    for (const SolidInside& solid : solids) {
        auto where = mapped(solid.where, map);
        if (!where) return pass_on(where);
        result.push_back({*where, solid.around_mm});
    }
    return result;
}

std::vector<Bending> mapped_bends(std::vector<Bending> bends, const Affine& map) {
    for (Bending& bend : bends) {
        bend.root = map * bend.root;
        bend.along = (map.linear() * bend.along).normalized();
    }
    return bends;
}

Expected<StepBody> moved_with_halos(const StepBody& body, const Transform& move) {
    auto shifted = moved(body.body, move);
    if (!shifted) return pass_on(shifted);
    auto halos = mapped_halos(body.halos, Affine(move));
    if (!halos) return pass_on(halos);
    auto solids = mapped_solids(body.solids, Affine(move));
    if (!solids) return pass_on(solids);
    return StepBody{body.made_by, body.name, *shifted, *halos, *solids, mapped_bends(body.bends, Affine(move))};
}

} // namespace lp
