// Branching supports grown from their tips downward: branches lean towards each other, merge, keep off the part and
// come to stand on the bed where they can, else on the part.
#pragma once
#include "bed/tree_contacts.h"
#include "bed/tree_field.h"

namespace lp {

/// A level disc of a branch.
struct TreeNode {
    Vec3 at;
    double radius = 0;
    double path = 0;        ///< the longest way to a tip above
    int tips = 1;           ///< above
    std::vector<int> above; ///< those that rest on it; none: a tip
    bool foot_on_part = false;
    bool dropped = false; ///< a tip that could not be carried
};

struct Forest {
    std::vector<TreeNode> nodes;
    std::vector<int> roots;       ///< the feet
    std::vector<size_t> contacts; ///< of each tip, which are the first nodes: the number in the plan
    size_t without_room = 0;      ///< contacts that no tip fits under
    size_t without_foot = 0;      ///< tips from which no place to stand was found
    size_t crossing = 0;          ///< pairs of branches that had to be let through each other
};

Forest grow_forest(const ContactPlan& plan, const DistanceTree& part, const TreeField& field, const TreeRules& rules,
                   const Task& task, const FacetMarks& marks = {});

} // namespace lp
