#include "project/contact_situation.h"
#include "shape/mesh_distance.h"

namespace lp {

ContactSituation contact_situation(const Project& project, const Part& host, const std::vector<StepBody>& host_bodies,
                                   const Part& tool, const std::vector<StepBody>& tool_bodies,
                                   const Transform& to_host) {
    const PrinterCard& card = project.printer;
    if (card.hole_shrinks.empty() && card.lying_sag_mm == 0)
        return {!tool.stand_in, {}, false}; // nothing asks for more
    Vec3 down = to_host.inverse().linear() * host.pose.down;
    std::vector<std::optional<DistanceTree>> trees(host_bodies.size());
    HasMaterial material = [&](const Vec3& at) {
        Vec3 there = to_host * at;
        for (size_t i = 0; i < host_bodies.size(); ++i) {
            if (!host_bodies[i].body.box().contains(there)) continue;
            if (!trees[i]) trees[i].emplace(host_bodies[i].body.mesh());
            if (trees[i]->inside(there)) return true;
        }
        return false;
    };
    std::vector<Body> bodies;
    for (const StepBody& body : tool_bodies) bodies.push_back(body.body);
    return situation_of(bodies, down, !tool.stand_in, card.lying_sag_mm != 0 ? material : HasMaterial());
}

} // namespace lp
