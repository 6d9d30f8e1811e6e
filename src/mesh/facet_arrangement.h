// Facets of many meshes cut where they meet, exactly: no two of the resulting facets pass through each other, and
// facets that lie on each other become one that knows all it came from. Internal to mesh/arrange_meshes.h.
#pragma once
#include "base/union_find.h"
#include "mesh/plane_cluster.h"
#include "shape/tri_mesh.h"

namespace lp::arrangement {

class FacetArrangement {
  public:
    /// Snaps the operands to a grid of 1 / scale and cuts their facets. `scale` a power of two with all coordinates
    /// times scale below 2^26. Facets that vanish on the grid are passed over. `within_shells`: a shell may pass
    /// through itself.
    FacetArrangement(const std::vector<TriMesh>& operands, double scale, bool within_shells = false);

    ExactPoints points;
    std::vector<Corners> facets;            ///< input facets, on the grid
    std::vector<Normal> normals;            ///< twice the area times the normal, exact
    std::vector<int> operand_of, source_of; ///< operand and facet number in it, of each
    std::vector<Piece> pieces;
    std::vector<Source> sources;

    /// Input facets whose boxes a ray from a grid point along +x (turned aside by nothing) may cross.
    template <class Call> void along_x(int from, Call call) const;

  private:
    struct Node {
        int low[3], high[3];
        int shell; ///< of all facets below; -1 when they differ
        int first, last;
    };
    struct Mark { ///< facet gets the segment a-b, or the point a when b is -1
        int facet, a, b;
    };
    struct Found {
        std::vector<Mark> marks;
        std::vector<std::pair<int, int>> flat; ///< facets that lie on each other
    };
    void load(const std::vector<TriMesh>& operands, double scale);
    void cut_planes(const std::vector<Mark>& marks, UnionFind& clusters, const std::vector<char>& touched);
    void find_shells();
    void build_tree();
    void build(int node, int first, int last, int depth);
    void box_of(int facet, int (&low)[3], int (&high)[3]) const;
    static bool apart(const Node& a, const Node& b);
    bool skip(const Node& a, const Node& b) const { return !within_shells_ && a.shell >= 0 && a.shell == b.shell; }
    void tasks(int i, int j, int depth, std::vector<std::pair<int, int>>& out) const;
    template <class Call> void pairs(int i, int j, Call& call) const;
    bool in_facet(int point, int facet) const;
    bool flat_overlap(int s, int t) const;
    void edges_against(int s, int t, const int (&sides)[3], int (&found)[8], int& count);
    void meet(int s, int t, Found& out);

    std::vector<int> shell_, order_;
    std::vector<Node> nodes_;
    bool within_shells_ = false; ///< an operand may pass through itself: its own facets are tested too
    static constexpr int leaf_size = 4;
};

template <class Call> void FacetArrangement::along_x(int from, Call call) const {
    const GridPoint& p = points.grid(from);
    std::vector<int> stack{0};
    while (!stack.empty()) {
        int i = stack.back();
        stack.pop_back();
        const Node& n = nodes_[size_t(i)];
        if (n.high[0] < p[0] || n.low[1] > p[1] || n.high[1] < p[1] || n.low[2] > p[2] || n.high[2] < p[2]) continue;
        if (n.last - n.first > leaf_size) {
            stack.push_back(2 * i + 1);
            stack.push_back(2 * i + 2);
            continue;
        }
        for (int k = n.first; k < n.last; ++k) call(order_[size_t(k)]);
    }
}

} // namespace lp::arrangement
