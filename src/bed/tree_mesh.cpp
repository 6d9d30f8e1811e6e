#include "bed/tree_mesh.h"
#include "mesh/flat_triangulation.h"

namespace lp {
namespace {

constexpr uint32_t sides = 12;
using std::numbers::pi;

class TreeMesher {
  public:
    explicit TreeMesher(const Forest& forest) : forest_(forest) {}

    TreeMesh run(int root) {
        todo_ = {{root, ring(root)}};
        cap(todo_[0].second, false);
        while (!todo_.empty()) {
            const auto [i, below] = todo_.back();
            todo_.pop_back();
            if (node(i).above.empty())
                cap(below, true);
            else
                rise(i, below);
        }
        return std::move(result_);
    }

  private:
    const TreeNode& node(int i) const { return forest_.nodes[size_t(i)]; }
    std::vector<Vec3>& vertices() { return result_.mesh.vertices; }
    void facet(uint32_t a, uint32_t b, uint32_t c) { result_.mesh.triangles.push_back({a, b, c}); }

    uint32_t ring(int i) {
        const auto first = uint32_t(vertices().size());
        for (uint32_t k = 0; k < sides; ++k) {
            const double angle = 2 * pi * k / sides;
            vertices().push_back(node(i).at + node(i).radius * Vec3(std::cos(angle), std::sin(angle), 0));
        }
        return first;
    }
    void cap(uint32_t first, bool up) {
        for (uint32_t k = 1; k + 1 < sides; ++k)
            up ? facet(first, first + k, first + k + 1) : facet(first, first + k + 1, first + k);
    }
    void tube(uint32_t below, uint32_t above) {
        for (uint32_t k = 0; k < sides; ++k) {
            const uint32_t j = (k + 1) % sides;
            facet(below + k, below + j, above + j);
            facet(below + k, above + j, above + k);
        }
    }

    /// From a ring to those above it.
    void rise(int i, uint32_t below) {
        std::vector<uint32_t> tops;
        std::vector<int> kept;
        for (int k : node(i).above) {
            const uint32_t top = ring(k);
            todo_.push_back({k, top});
            const bool overlaps = std::any_of(kept.begin(), kept.end(), [&](int o) {
                return (node(o).at - node(k).at).norm() < node(o).radius + node(k).radius + 0.01;
            });
            if (overlaps) {
                shell_of_its_own(i, below, top);
            } else {
                tops.push_back(top);
                kept.push_back(k);
            }
        }
        if (tops.size() == 1) return tube(below, tops[0]);
        if (!merge(below, tops)) {
            tube(below, tops[0]);
            for (size_t k = 1; k < tops.size(); ++k) shell_of_its_own(i, below, tops[k]);
        }
    }

    /// Ends within the ring below.
    void shell_of_its_own(int i, uint32_t below, uint32_t top) {
        const auto first = uint32_t(vertices().size());
        for (uint32_t k = 0; k < sides; ++k) {
            const Vec3 p = vertices()[below + k];
            vertices().push_back(node(i).at + 0.95 * (p - node(i).at) + Vec3(0, 0, 0.02));
        }
        cap(first, false);
        tube(first, top);
        result_.needs_uniting = true;
    }

    /// The level patch between the rings above, and from its outline down to the ring below.
    bool merge(uint32_t below, const std::vector<uint32_t>& tops) {
        std::vector<std::vector<Vec2>> lines;
        for (uint32_t top : tops) {
            lines.emplace_back();
            for (uint32_t k = 0; k < sides; ++k) lines.back().push_back(vertices()[top + k].head<2>());
        }
        const auto patch = patch_between(lines);
        if (!patch) return false;
        auto place = [&](uint32_t k) { return tops[k / sides] + k % sides; };
        for (const Triangle& t : patch->triangles) facet(place(t[0]), place(t[1]), place(t[2]));
        std::vector<uint32_t> outline, ring;
        for (uint32_t k : patch->hull) outline.push_back(place(k));
        for (uint32_t k = 0; k < sides; ++k) ring.push_back(below + k);
        join_outlines(from_lowest(ring), from_lowest(outline));
        return true;
    }

    /// Begun at its foremost corner.
    std::vector<uint32_t> from_lowest(std::vector<uint32_t> outline) {
        auto lower = [&](uint32_t a, uint32_t b) {
            const Vec3 &p = vertices()[a], &q = vertices()[b];
            return p.y() < q.y() - 1e-6 || (p.y() < q.y() + 1e-6 && p.x() > q.x());
        };
        std::rotate(outline.begin(), std::min_element(outline.begin(), outline.end(), lower), outline.end());
        return outline;
    }

    /// Two convex outlines, joined by the angle of their edges: the hull of both.
    void join_outlines(const std::vector<uint32_t>& low, const std::vector<uint32_t>& high) {
        auto angle = [&](const std::vector<uint32_t>& outline, size_t k) {
            const Vec3 e = vertices()[outline[(k + 1) % outline.size()]] - vertices()[outline[k % outline.size()]];
            const double a = std::atan2(e.y(), e.x());
            return a < -1e-6 ? a + 2 * pi : a;
        };
        size_t i = 0, j = 0; // edges of low and high that are done
        while (i < low.size() || j < high.size()) {
            const uint32_t a = low[i % low.size()], b = high[j % high.size()];
            if (i == low.size() || (j < high.size() && angle(high, j) < angle(low, i)))
                facet(a, high[++j % high.size()], b);
            else
                facet(a, low[++i % low.size()], b);
        }
    }

    const Forest& forest_;
    std::vector<std::pair<int, uint32_t>> todo_; ///< nodes and their rings
    TreeMesh result_;
};

} // namespace

TreeMesh tree_mesh(const Forest& forest, int root) {
    return TreeMesher(forest).run(root);
}

} // namespace lp
