#include "handoff/edge_view.h"
#include "mesh/topology.h"
#include "shape/ray_scene.h"
#include <cmath>
#include <map>
#include <set>

namespace lp {
namespace {

using Piece = std::pair<Vec2, Vec2>;

using PlaceKey = std::pair<long long, long long>;
PlaceKey key(const Vec2& p) {
    constexpr double same_mm = 1e-4;
    return {std::llround(p.x() / same_mm), std::llround(p.y() / same_mm)};
}

/// Without those that lie where one of `drawn` does already, which grows by them: edges one behind the other.
std::vector<Piece> once(const std::vector<Piece>& pieces, std::set<std::pair<PlaceKey, PlaceKey>>& drawn) {
    std::vector<Piece> kept;
    for (const Piece& piece : pieces)
        if (drawn.insert(std::minmax(key(piece.first), key(piece.second))).second) kept.push_back(piece);
    return kept;
}

/// Pieces that follow each other as one line, so that dashes run through.
std::vector<std::vector<Vec2>> chained(const std::vector<Piece>& pieces) {
    std::multimap<PlaceKey, size_t> at;
    for (size_t i = 0; i < pieces.size(); ++i) {
        at.emplace(key(pieces[i].first), i);
        at.emplace(key(pieces[i].second), i);
    }
    std::vector<bool> used(pieces.size(), false);
    // The next piece goes on least bent; edges that only meet are no one line.
    auto follow = [&](std::vector<Vec2>& line) {
        for (bool on = true; on;) {
            on = false;
            const Vec2 end = line.back(), way = (end - line[line.size() - 2]).normalized();
            const auto [from, to] = at.equal_range(key(end));
            for (auto it = from; it != to && !on; ++it) {
                if (used[it->second]) continue;
                const Piece& piece = pieces[it->second];
                const Vec2 next = key(piece.first) == key(end) ? piece.second : piece.first;
                if ((next - end).normalized().dot(way) < std::cos(radians(30))) continue;
                used[it->second] = true;
                line.push_back(next);
                on = true;
            }
        }
    };
    std::vector<std::vector<Vec2>> lines;
    for (size_t i = 0; i < pieces.size(); ++i) {
        if (used[i]) continue;
        used[i] = true;
        std::vector<Vec2> line{pieces[i].first, pieces[i].second};
        follow(line);
        std::reverse(line.begin(), line.end());
        follow(line);
        lines.push_back(std::move(line));
    }
    return lines;
}

class EdgeLooker {
  public:
    EdgeLooker(const TriMesh& mesh, const ViewAxes& axes) : mesh_(mesh), axes_(axes) {
        scene_.add(mesh);
        scene_.commit();
        for (size_t t = 0; t < mesh.triangles.size(); ++t) normals_.push_back(mesh.area_vector(t).normalized());
        const double size = bounding_box(mesh).diagonal().norm();
        step_mm_ = std::max(1e-3, size / 300);
        off_mm_ = size * 1e-5;
    }

    EdgeView look(const Task& task) {
        const Topology topology = build_topology(mesh_);
        for (const MeshEdge& edge : topology.edges) {
            if (task.stopped()) break;
            Vec3 out = Vec3::Zero();
            bool drawn = edge.count != 2;
            for (uint32_t k = 0; k < edge.count; ++k) out += normals_[topology.half_edges[edge.first + k].triangle];
            bool outline = false;
            if (edge.count == 2) {
                const Vec3 &a = normals_[topology.half_edges[edge.first].triangle],
                           &b = normals_[topology.half_edges[edge.first + 1].triangle];
                drawn = a.dot(b) < std::cos(radians(25));
                outline = faces_eye(a) != faces_eye(b);
            }
            if (drawn || outline) add(mesh_.vertices[edge.a], mesh_.vertices[edge.b], out.normalized());
        }
        EdgeView view;
        std::set<std::pair<PlaceKey, PlaceKey>> drawn;
        view.seen = chained(once(seen_, drawn));
        view.hidden = chained(once(hidden_, drawn));
        for (const Vec3& v : mesh_.vertices) view.box.extend(axes_.flat(v));
        return view;
    }

  private:
    bool faces_eye(const Vec3& normal) const { return normal.dot(axes_.toward()) > 1e-6; }

    /// `out`: away from the body there.
    void add(const Vec3& a, const Vec3& b, const Vec3& out) {
        const Vec2 from = axes_.flat(a), to = axes_.flat(b);
        if ((to - from).norm() < 1e-6) return;
        const int pieces = std::clamp(int(std::ceil((to - from).norm() / step_mm_)), 1, 2000);
        auto at = [&](int i) { return Vec2(from + (to - from) * (double(i) / pieces)); };
        int begin = 0;
        bool before = is_seen(a, b, out, 0.5 / pieces);
        for (int i = 1; i <= pieces; ++i) {
            const bool now = i < pieces && is_seen(a, b, out, (i + 0.5) / pieces);
            if (i < pieces && now == before) continue;
            (before ? seen_ : hidden_).emplace_back(at(begin), at(i));
            begin = i;
            before = now;
        }
    }
    bool is_seen(const Vec3& a, const Vec3& b, const Vec3& out, double share) const {
        const Vec3 from = a + (b - a) * share + (out + axes_.toward()) * off_mm_;
        return !scene_.cast(from, axes_.toward());
    }

    const TriMesh& mesh_;
    const ViewAxes& axes_;
    RayScene scene_;
    std::vector<Vec3> normals_;
    std::vector<Piece> seen_, hidden_;
    double step_mm_ = 1, off_mm_ = 0;
};

} // namespace

EdgeView edge_view(const TriMesh& mesh, const ViewAxes& axes, const Task& task) {
    if (mesh.empty()) return {};
    return EdgeLooker(mesh, axes).look(task);
}

} // namespace lp
