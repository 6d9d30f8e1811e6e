#include "bed/trees.h"
#include "base/union_find.h"
#include "bed/tree_mesh.h"
#include "mesh/arrange_meshes.h"
#include "mesh/soundness.h"
#include <map>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

TreeRules rules_of(const SupportOptions& options) {
    constexpr double usual_spacing_mm = 4, thin_share = 0.25;
    TreeRules rules;
    rules.limit_deg = options.overhang_limit_deg;
    rules.gap = options.gap_mm();
    rules.tip_radius = options.tip_mm / 2;
    rules.neck = options.neck_mm;
    rules.zone = std::max(rules.zone, rules.neck);
    rules.foot_flare = options.foot_mm;
    rules.thin_radius = std::max(options.post_mm * thin_share, rules.tip_radius);
    rules.clearance = std::max(rules.clearance, rules.gap);
    rules.reach_flat *= options.spacing_mm / usual_spacing_mm;
    rules.reach_steep *= options.spacing_mm / usual_spacing_mm;
    return rules;
}

struct Grown {
    TreeSupport tree;
    TriMesh mesh;
};

void collect(const Forest& forest, int i, std::vector<int>& tips) {
    const TreeNode& node = forest.nodes[size_t(i)];
    if (node.above.empty()) tips.push_back(i);
    for (int above : node.above) collect(forest, above, tips);
}

/// Trees that reach into each other become one body. What cannot be united stays as it is: closed shells that overlap,
/// which print as one.
std::vector<Grown> united(std::vector<Grown> grown, const Task& task) {
    TriMesh all;
    std::vector<uint32_t> owner;
    for (uint32_t i = 0; i < grown.size(); ++i) {
        append(all, grown[i].mesh);
        owner.resize(all.triangles.size(), i);
    }
    UnionFind joined(grown.size());
    std::vector<uint8_t> crosses(grown.size(), 0);
    for (const auto& [p, q] : intersecting_pairs(all, task)) {
        crosses[owner[p]] = crosses[owner[q]] = 1;
        joined.join(owner[p], owner[q]);
    }
    std::map<uint32_t, std::vector<uint32_t>> groups;
    for (uint32_t i = 0; i < grown.size(); ++i) groups[joined.find(i)].push_back(i);
    std::vector<Grown> result;
    for (const auto& [first, members] : groups) {
        Grown one;
        std::vector<TriMesh> operands;
        for (uint32_t i : members) {
            one.tree.tips.insert(one.tree.tips.end(), grown[i].tree.tips.begin(), grown[i].tree.tips.end());
            one.tree.on_part = one.tree.on_part || grown[i].tree.on_part;
            append(one.mesh, grown[i].mesh);
            operands.push_back(std::move(grown[i].mesh));
        }
        if (crosses[first] || members.size() > 1)
            if (auto mesh = arrange_meshes(Operation::Join, operands, task); mesh && !mesh->empty())
                one.mesh = std::move(*mesh);
        result.push_back(std::move(one));
    }
    return result;
}

} // namespace

Supports make_trees(const TriMesh& posed, const SupportOptions& options, const Task& task,
                    const SupportWishes& wishes) {
    Supports result;
    if (posed.empty()) return result;
    const TreeRules rules = rules_of(options);
    const DistanceTree part(posed);
    const ContactPlan plan = plan_contacts(posed, part, rules, task, wishes);
    double top = 0;
    for (const TreeContact& c : plan.contacts) top = std::max(top, c.at.z());
    result.not_put = plan.not_put;
    if (plan.contacts.empty()) result.out_of_reach_mm2 = area_out_of_reach(plan, {}, rules); // all left out by hand
    if (plan.contacts.empty() || task.stopped()) return result;
    const TreeField field(posed, rules, top + 1, task);
    const Forest forest = grow_forest(plan, part, field, rules, task, wishes.marks);
    std::vector<Grown> grown(forest.roots.size());
    std::vector<uint8_t> cross(grown.size(), 0);
    tbb::parallel_for(size_t(0), grown.size(), [&](size_t i) {
        TreeMesh made = tree_mesh(forest, forest.roots[i]);
        grown[i].mesh = std::move(made.mesh);
        cross[i] = made.needs_uniting;
    });
    std::vector<Vec3>& carried = result.carried;
    for (size_t i = 0; i < grown.size(); ++i) {
        std::vector<int> tips;
        collect(forest, forest.roots[i], tips);
        for (int tip : tips) {
            grown[i].tree.tips.push_back(forest.nodes[size_t(tip)].at);
            carried.push_back(plan.contacts[forest.contacts[size_t(tip)]].at);
        }
        grown[i].tree.on_part = forest.nodes[size_t(forest.roots[i])].foot_on_part;
    }
    if (forest.crossing || std::count(cross.begin(), cross.end(), 1)) grown = united(std::move(grown), task);
    for (Grown& one : grown) {
        result.trees.push_back(std::move(one.tree));
        append(result.mesh, one.mesh);
    }
    result.left_out = forest.without_room + forest.without_foot;
    result.out_of_reach_mm2 = area_out_of_reach(plan, carried, rules);
    return result;
}

} // namespace lp
