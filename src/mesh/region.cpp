#include "mesh/region.h"
#include "base/tolerance.h"
#include "base/union_find.h"
#include "mesh/combine.h"
#include "mesh/flat_triangulation.h"
#include "mesh/mend.h"
#include "mesh/refine.h"
#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <queue>
#include <set>
#include <unordered_map>

namespace lp {
namespace {

std::vector<char> marked(const TriMesh& mesh, const Facets& facets) {
    std::vector<char> in(mesh.triangles.size(), 0);
    for (uint32_t f : facets) in[f] = 1;
    return in;
}

TriMesh only(const TriMesh& mesh, const std::vector<char>& in, char wanted) {
    TriMesh some;
    some.vertices = mesh.vertices;
    const bool tagged = mesh.tags.size() == mesh.triangles.size();
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        if (in[i] != wanted) continue;
        some.triangles.push_back(mesh.triangles[i]);
        if (tagged) some.tags.push_back(mesh.tags[i]);
    }
    return welded(some);
}

/// Closes the rims of an open mesh.
class Closer {
  public:
    Closer(TriMesh& mesh, Tag closing, const Task& task) : mesh_(mesh), closing_(closing), task_(task) {}

    std::optional<Problem> run() {
        const Topology topology = build_topology(mesh_);
        for (auto& loop : boundary_loops(mesh_, topology)) rims_.push_back(rim_of(std::move(loop)));
        for (const MeshEdge& e : topology.edges)
            if (e.count == 1) beside_[key(e.a, e.b)] = topology.half_edges[e.first].triangle;
        mesh_.tags.resize(mesh_.triangles.size(), closing_);
        std::sort(rims_.begin(), rims_.end(), [](const Rim& a, const Rim& b) { return a.area.norm() > b.area.norm(); });
        for (size_t i = 0; i < rims_.size(); ++i) {
            if (rims_[i].closed) continue;
            if (task_.stopped()) return cancelled().value();
            if (!close_flat(i) && !close_by_least_surface(rims_[i])) return open();
        }
        return is_closed(mesh_) ? std::nullopt : std::optional(open());
    }

  private:
    struct Rim {
        std::vector<uint32_t> loop;
        Vec3 area = Vec3::Zero(); ///< along the way a face that closes it looks
        Vec3 middle = Vec3::Zero();
        bool flat = false, closed = false;
    };
    static uint64_t key(uint32_t a, uint32_t b) { return uint64_t(std::min(a, b)) << 32 | std::max(a, b); }
    static Problem open() {
        return {ProblemCode::Geometry, "The rim of these faces cannot be closed.",
                "Choose faces whose rim goes round without crossing itself."};
    }

    Rim rim_of(std::vector<uint32_t> loop) const {
        Rim rim;
        for (uint32_t v : loop) rim.middle += mesh_.vertices[v] / double(loop.size());
        for (size_t k = 0; k < loop.size(); ++k)
            rim.area +=
                (mesh_.vertices[loop[k]] - rim.middle).cross(mesh_.vertices[loop[(k + 1) % loop.size()]] - rim.middle) /
                2;
        rim.loop = std::move(loop);
        rim.flat = lies_in(rim, rim);
        return rim;
    }
    /// Within what single precision leaves of a plane.
    bool lies_in(const Rim& rim, const Rim& plane) const {
        const Vec3 n = plane.area.stableNormalized();
        const double near = std::max(1e-4, 2e-5 * std::sqrt(plane.area.norm()));
        return std::all_of(rim.loop.begin(), rim.loop.end(),
                           [&](uint32_t v) { return std::fabs((mesh_.vertices[v] - plane.middle).dot(n)) < near; });
    }

    /// All rims in the plane of this one at once.
    bool close_flat(size_t first) {
        Rim& largest = rims_[first];
        if (!largest.flat || !(largest.area.norm() > 0)) return false;
        const Vec3 n = largest.area.normalized();
        const Vec3 x = (std::fabs(n.x()) < 0.9 ? Vec3::UnitX() : Vec3::UnitY()).cross(n).normalized(), y = n.cross(x);
        std::vector<std::vector<Vec2>> lines;
        std::vector<uint32_t> vertices;
        std::vector<Rim*> these;
        for (size_t i = first; i < rims_.size(); ++i) {
            Rim& rim = rims_[i];
            if (rim.closed || !rim.flat || !lies_in(rim, largest)) continue;
            these.push_back(&rim);
            lines.emplace_back();
            for (uint32_t v : rim.loop) {
                const Vec3 d = mesh_.vertices[v] - largest.middle;
                lines.back().emplace_back(d.dot(x), d.dot(y));
                vertices.push_back(v);
            }
        }
        const auto fill = filled(lines);
        if (!fill) return false;
        const Tag tag = tag_in_plane(largest, n);
        for (const Triangle& t : fill->triangles)
            add({vertices[fill->first_at[t[0]]], vertices[fill->first_at[t[1]]], vertices[fill->first_at[t[2]]]}, tag);
        for (Rim* rim : these) rim->closed = true;
        return true;
    }
    bool close_by_least_surface(Rim& rim) {
        std::vector<Vec3> points;
        for (uint32_t v : rim.loop) points.push_back(mesh_.vertices[v]);
        const auto patch = fill_loop(points);
        for (const Triangle& t : patch) add({rim.loop[t[0]], rim.loop[t[1]], rim.loop[t[2]]}, closing_);
        return rim.closed = !patch.empty();
    }
    void add(const Triangle& t, Tag tag) {
        mesh_.triangles.push_back(t);
        mesh_.tags.push_back(tag);
    }
    /// Of the face round the rim when it lies in the same plane.
    Tag tag_in_plane(const Rim& rim, const Vec3& n) const {
        const auto beside = beside_.find(key(rim.loop[0], rim.loop[1]));
        if (beside == beside_.end()) return closing_;
        const bool same = mesh_.area_vector(beside->second).stableNormalized().dot(n) > 1 - 1e-6;
        return same ? mesh_.tags[beside->second] : closing_;
    }

    TriMesh& mesh_;
    Tag closing_;
    const Task& task_;
    std::vector<Rim> rims_;
    std::unordered_map<uint64_t, uint32_t> beside_; ///< the facet along an open edge
};

} // namespace

std::optional<Feature> form_of(const TriMesh& mesh, const Facets& facets, const Task& task) {
    const TriMesh some = only(mesh, marked(mesh, facets), 1);
    auto features = recognise(some, {.least_plane_mm2 = 0}, task);
    if (!features || features->empty()) return std::nullopt;
    const double area = mass_properties(some).area_mm2;
    if (features->front().area_mm2 < 0.95 * area) return std::nullopt;
    return features->front();
}

Expected<ClosedPatch> closed_patch(const TriMesh& mesh, const Facets& facets, Tag closing, const Task& task) {
    ClosedPatch patch{only(mesh, marked(mesh, facets), 1), false};
    patch.first_closing = patch.mesh.triangles.size();
    if (auto wrong = Closer(patch.mesh, closing, task).run()) return pass_on(*wrong);
    const MassProperties mass = mass_properties(patch.mesh);
    if (std::fabs(mass.volume_mm3) < 1e-6 * mass.area_mm2)
        return problem(ProblemCode::Geometry, "These faces enclose nothing when they are closed.",
                       "Choose all faces of what stands out or goes in: its sides as well.");
    patch.hollow = mass.volume_mm3 < 0;
    if (patch.hollow)
        for (Triangle& t : patch.mesh.triangles) std::swap(t[1], t[2]);
    return patch;
}

Expected<TriMesh> without_region(const TriMesh& mesh, const Facets& facets, Tag closing, const Task& task) {
    TriMesh rest = only(mesh, marked(mesh, facets), 0);
    if (rest.empty())
        return problem(ProblemCode::Geometry, "Nothing would be left without these faces.", "Choose fewer.");
    if (auto wrong = Closer(rest, closing, task).run()) return pass_on(*wrong);
    return rest;
}

RegionMove moved_by(const std::function<Vec3(const Vec3&)>& map) {
    return [map](const TriMesh& mesh, const Facets& facets) {
        std::vector<Vec3> moves(mesh.vertices.size(), Vec3::Zero());
        for (uint32_t f : facets)
            for (uint32_t v : mesh.triangles[f]) moves[v] = map(mesh.vertices[v]) - mesh.vertices[v];
        return moves;
    };
}

RegionMove pushed_by(double by_mm) {
    return [by_mm](const TriMesh& mesh, const Facets& facets) {
        // Of the places on all moved planes the nearest: least squares by the normals of the facets round a vertex.
        std::vector<Eigen::Matrix3d> a(mesh.vertices.size(), Eigen::Matrix3d::Zero());
        std::vector<Vec3> b(mesh.vertices.size(), Vec3::Zero());
        for (uint32_t f : facets) {
            const Vec3 n = mesh.area_vector(f).stableNormalized();
            for (uint32_t v : mesh.triangles[f]) {
                a[v] += n * n.transpose();
                b[v] += n * by_mm;
            }
        }
        std::vector<Vec3> moves(mesh.vertices.size(), Vec3::Zero());
        for (size_t v = 0; v < moves.size(); ++v) {
            if (a[v].isZero()) continue;
            const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(a[v]);
            for (int k = 0; k < 3; ++k) // what no facet asks for does not happen
                if (const double l = solver.eigenvalues()[k]; l > 0.02)
                    moves[v] += solver.eigenvectors().col(k) * (solver.eigenvectors().col(k).dot(b[v]) / l);
        }
        return moves;
    };
}

namespace {

/// The mesh with facets near the region parted, and which of them are the region's.
struct Parted {
    TriMesh mesh;
    Facets facets;
};

Expected<Parted> parted_near(const TriMesh& mesh, const Facets& facets, double reach_mm, const Task& task) {
    constexpr double steps = 6; // of a reach: the slope over it is seen to be round
    Box3 near;
    for (uint32_t f : facets)
        for (uint32_t v : mesh.triangles[f]) near.extend(mesh.vertices[v]);
    near.min().array() -= reach_mm;
    near.max().array() += reach_mm;
    TriMesh numbered = mesh;
    numbered.tags.resize(mesh.triangles.size());
    for (size_t i = 0; i < numbered.tags.size(); ++i) numbered.tags[i] = Tag(i);
    auto fine = refined(
        numbered,
        [&](const Vec3& at, const Vec3&) {
            return std::max(near.exteriorDistance(at), reach_mm / steps); // coarser the farther it is away
        },
        task);
    if (!fine) return pass_on(fine);
    const std::vector<char> in = marked(mesh, facets);
    Parted parted{std::move(*fine), {}};
    const bool tagged = mesh.tags.size() == mesh.triangles.size();
    for (uint32_t i = 0; i < parted.mesh.triangles.size(); ++i) {
        const auto from = size_t(parted.mesh.tags[i]);
        if (in[from]) parted.facets.push_back(i);
        if (tagged) parted.mesh.tags[i] = mesh.tags[from];
    }
    if (!tagged) parted.mesh.tags.clear();
    return parted;
}

/// What is outside the region follows the nearest of its vertices, by the way along edges.
void let_follow(const TriMesh& mesh, const std::vector<char>& held, double reach_mm, std::vector<Vec3>& moves) {
    std::vector<std::vector<uint32_t>> beside(mesh.vertices.size());
    for (const Triangle& t : mesh.triangles)
        for (size_t k = 0; k < 3; ++k) beside[t[k]].push_back(t[(k + 1) % 3]);
    struct Reached {
        double mm;
        uint32_t vertex, from;
        bool operator<(const Reached& other) const { return mm > other.mm; }
    };
    std::priority_queue<Reached> open;
    std::vector<double> known(mesh.vertices.size(), std::numeric_limits<double>::infinity());
    for (uint32_t v = 0; v < held.size(); ++v)
        if (held[v]) open.push({known[v] = 0, v, v});
    const std::vector<Vec3> own = moves;
    while (!open.empty()) {
        const Reached at = open.top();
        open.pop();
        if (at.mm > known[at.vertex]) continue;
        if (!held[at.vertex]) moves[at.vertex] = own[at.from] * (1 + std::cos(std::numbers::pi * at.mm / reach_mm)) / 2;
        for (uint32_t v : beside[at.vertex]) {
            const double mm = at.mm + (mesh.vertices[v] - mesh.vertices[at.vertex]).norm();
            if (mm < reach_mm && mm < known[v]) open.push({known[v] = mm, v, at.from});
        }
    }
}

/// A facet that is turned over or has become a line.
bool folds(const TriMesh& before, const TriMesh& after, size_t i) {
    const Vec3 was = before.area_vector(i), is = after.area_vector(i);
    return was.norm() > 1e-12 && (is.norm() < 1e-9 * was.norm() || was.dot(is) <= 0);
}

} // namespace

Expected<TriMesh> moved_region(const TriMesh& mesh, const Facets& facets, const RegionMove& move, double reach_mm,
                               const Task& task) {
    Parted parted{mesh, facets};
    if (reach_mm > 0) {
        auto fine = parted_near(mesh, facets, reach_mm, task);
        if (!fine) return pass_on(fine);
        parted = std::move(*fine);
    }
    std::vector<char> held(parted.mesh.vertices.size(), 0);
    for (uint32_t f : parted.facets)
        for (uint32_t v : parted.mesh.triangles[f]) held[v] = 1;
    std::vector<Vec3> moves = move(parted.mesh, parted.facets);
    for (size_t v = 0; v < moves.size(); ++v)
        if (!held[v]) moves[v].setZero();
    if (reach_mm > 0) let_follow(parted.mesh, held, reach_mm, moves);
    TriMesh result = parted.mesh;
    for (size_t v = 0; v < moves.size(); ++v) result.vertices[v] += moves[v];
    const std::vector<char> in = marked(parted.mesh, parted.facets);
    for (size_t i = 0; i < result.triangles.size(); ++i) {
        if (in[i] || !folds(parted.mesh, result, i)) continue;
        Problem wrong{ProblemCode::Geometry, "What stands beside these faces would fold over.",
                      "Move them less far, or let the neighbours follow over more."};
        wrong.point = result.corner(i, 0);
        return pass_on(wrong);
    }
    return result;
}

namespace {

/// Every rim of a closed patch pushed on.
void push_rims(ClosedPatch& patch, const PastRim& past) {
    TriMesh& mesh = patch.mesh;
    UnionFind rims(mesh.vertices.size()); // corners of facets that close one rim are one group
    for (size_t i = patch.first_closing; i < mesh.triangles.size(); ++i)
        for (size_t k = 1; k < 3; ++k) rims.join(mesh.triangles[i][0], mesh.triangles[i][k]);
    std::map<uint32_t, Vec3> area;
    std::map<uint32_t, std::set<uint32_t>> corners;
    for (size_t i = patch.first_closing; i < mesh.triangles.size(); ++i) {
        const uint32_t rim = rims.find(mesh.triangles[i][0]);
        area.try_emplace(rim, Vec3::Zero()).first->second += mesh.area_vector(i);
        corners[rim].insert(mesh.triangles[i].begin(), mesh.triangles[i].end());
    }
    for (const auto& [rim, those] : corners) {
        const Vec3 n = area[rim].stableNormalized();
        Vec3 middle = Vec3::Zero();
        for (uint32_t v : those) middle += mesh.vertices[v] / double(those.size());
        double off = 0;
        for (uint32_t v : those) off = std::max(off, std::fabs((mesh.vertices[v] - middle).dot(n)));
        const double flat_mm = past.flat_mm / 2;
        const Vec3 push = past.along * (n.dot(past.along) > 0 ? 1 : -1) * (off < flat_mm ? past.flat_mm : past.bent_mm);
        for (uint32_t v : those) mesh.vertices[v] += push;
    }
}

} // namespace

Facets with_inner_ends(const TriMesh& mesh, const Facets& facets, const Vec3& at, const Vec3& axis) {
    std::vector<char> in = marked(mesh, facets);
    auto off_axis = [&](const Vec3& p) {
        const Vec3 d = p - at;
        return (d - d.dot(axis) * axis).norm();
    };
    auto middle = [&](size_t f) { return Vec3((mesh.corner(f, 0) + mesh.corner(f, 1) + mesh.corner(f, 2)) / 3); };
    const Topology topology = build_topology(mesh);
    std::vector<std::vector<uint32_t>> beside(mesh.triangles.size());
    std::vector<uint32_t> open;
    Facets all = facets;
    for (const MeshEdge& e : topology.edges) {
        if (e.count != 2) continue;
        const uint32_t s = topology.half_edges[e.first].triangle, t = topology.half_edges[e.first + 1].triangle;
        beside[s].push_back(t);
        beside[t].push_back(s);
        if (in[s] == in[t]) continue;
        const uint32_t outside = in[s] ? t : s;
        if (off_axis(middle(outside)) < off_axis((mesh.vertices[e.a] + mesh.vertices[e.b]) / 2))
            open.push_back(outside);
    }
    const double smooth = std::cos(radians(20.0)); // as faces of meshes are told apart
    while (!open.empty()) {
        const uint32_t f = open.back();
        open.pop_back();
        if (std::exchange(in[f], 1)) continue;
        all.push_back(f);
        for (uint32_t g : beside[f])
            if (!in[g] && mesh.area_vector(f).stableNormalized().dot(mesh.area_vector(g).stableNormalized()) > smooth)
                open.push_back(g);
    }
    return all;
}

Expected<TriMesh> set_in_again(const TriMesh& mesh, const Facets& facets, const std::function<Vec3(const Vec3&)>& move,
                               Tag closing, const Task& task, const PastRim& past) {
    auto rest = without_region(mesh, facets, closing, task);
    if (!rest) return pass_on(rest);
    TriMesh moved = mesh; // before it is closed: slivers among what closes it would be turned over by rounding
    std::vector<char> done(mesh.vertices.size(), 0);
    for (uint32_t f : facets)
        for (uint32_t v : mesh.triangles[f])
            if (!std::exchange(done[v], 1)) moved.vertices[v] = move(mesh.vertices[v]);
    auto patch = closed_patch(moved, facets, closing, task);
    if (!patch) return pass_on(patch);
    if (!past.along.isZero()) push_rims(*patch, past);
    return combine_meshes(patch->hollow ? Operation::Cut : Operation::Join, {*rest, patch->mesh}, task);
}

} // namespace lp
