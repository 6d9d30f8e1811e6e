// A coarse picture of the room round a part: how far it is to the part, and from where a branch that leans no more than
// it may can still reach the bed.
#pragma once
#include "base/task.h"
#include "bed/tree_rules.h"
#include "shape/tri_mesh.h"

namespace lp {

class TreeField {
  public:
    /// Of the part up to a height. Cells of 0.8 mm, larger for very large parts. An open mesh is filled as far as its
    /// facets say.
    TreeField(const TriMesh& posed, const TreeRules& rules, double top, const Task& task);
    int levels() const { return levels_; }
    /// Whether the bed can be reached by a thin branch from a place on a level; true off the field.
    bool to_bed(const Vec3& p, int level) const;

  private:
    size_t at(int x, int y, int z) const { return (size_t(z) * size_t(ny_) + size_t(y)) * size_t(nx_) + size_t(x); }
    void mark_facet(const TriMesh& mesh, size_t i, std::vector<uint8_t>& solid) const;
    void fill_inside(const TriMesh& mesh, std::vector<uint8_t>& solid) const;
    void measure_distances(const std::vector<uint8_t>& solid);
    void find_ways_down(const Task& task);
    double distance(int x, int y, double z) const;

    TreeRules rules_;
    Vec3 origin_;
    double cell_ = 0.8;
    int nx_ = 1, ny_ = 1, nz_ = 1, levels_ = 0;
    std::vector<float> distance_;            ///< to the part, of each cell's middle
    std::vector<std::vector<uint8_t>> open_; ///< by level and column: the bed can be reached
};

} // namespace lp
