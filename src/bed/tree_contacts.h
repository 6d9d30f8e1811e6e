// Where branching supports carry what hangs: the lowest places, the rims of what hangs, and places spread over it.
#pragma once
#include "base/task.h"
#include "bed/support_wishes.h"
#include "bed/tree_rules.h"
#include "shape/mesh_distance.h"

namespace lp {

struct TreeContact {
    Vec3 at, normal; ///< on the part, outward
    double hang_deg = 90;
};

/// A piece of hanging surface that nothing but a support can carry.
struct HangingPlace {
    Vec3 at;
    double hang_deg = 90, area_mm2 = 0;
};

struct ContactPlan {
    std::vector<TreeContact> contacts;
    size_t not_put = 0;                ///< places where a support was put in by hand and nothing is carried
    std::vector<HangingPlace> hanging; ///< without what a wall beside it carries
};

/// Contacts as far apart as a tip reaches. The same mesh gives the same contacts.
ContactPlan plan_contacts(const TriMesh& posed, const DistanceTree& tree, const TreeRules& rules, const Task& task,
                          const SupportWishes& wishes = {});

/// Hanging surface further from every tip than a tip reaches, mm2.
double area_out_of_reach(const ContactPlan& plan, const std::vector<Vec3>& carried, const TreeRules& rules);

} // namespace lp
