// Facets that pass through each other, by CGAL's box sweep and exact predicates.
#include "mesh/soundness.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/box_intersection_d.h>
#include <map>
#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>
#include <unordered_map>

namespace lp {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Point = Kernel::Point_3;
using Box = CGAL::Box_intersection_d::Box_with_info_d<double, 3, uint32_t>;

struct Stop {};

Point point(const Vec3& v) {
    return {v.x(), v.y(), v.z()};
}

/// Which sides of a plane three points are on.
struct Sides {
    int of[3];
    int above = 0, below = 0;
    void set(int k, int side) {
        of[k] = side;
        above += side > 0;
        below += side < 0;
    }
    bool flat() const { return above == 0 && below == 0; }
    bool both() const { return above > 0 && below > 0; }
    bool apart() const { return above == 3 || below == 3; }
};

/// Two triangles and all that is asked of them.
class Pair {
  public:
    Pair(const TriMesh& mesh, uint32_t s, uint32_t t) : mesh_(mesh), s_(mesh.triangles[s]), t_(mesh.triangles[t]) {
        for (int k = 0; k < 3; ++k) {
            a_[k] = point(mesh.vertices[s_[size_t(k)]]);
            b_[k] = point(mesh.vertices[t_[size_t(k)]]);
        }
    }

    /// Nothing, or how they meet. `laid` is called for an edge of one that lies on the inside of the other: which one
    /// (0: of the first), its number, and the side its own triangle is on.
    template <class Laid> std::optional<Meeting> run(Laid laid) {
        int shared = 0, alone = 0;
        for (int k = 0; k < 3; ++k)
            if (has(t_, s_[size_t(k)]))
                ++shared;
            else
                alone = k;
        // Neighbours over an edge meet in nothing else, unless they lie in one plane: most pairs are such.
        if (shared == 2 && side(b_, a_[alone], false) != 0) return std::nullopt;
        for (int k = 0; k < 3; ++k) of_a_.set(k, side(b_, a_[k], has(t_, s_[size_t(k)])));
        if (of_a_.apart()) return std::nullopt;
        if (of_a_.flat()) return meet_flat();
        for (int k = 0; k < 3; ++k) of_b_.set(k, side(a_, b_[k], has(s_, t_[size_t(k)])));
        if (of_b_.apart()) return std::nullopt;
        if (of_a_.both() && of_b_.both()) return cross() ? std::optional(Meeting::Through) : std::nullopt;
        look_for_edges(of_a_, a_, b_, 0, laid);
        look_for_edges(of_b_, b_, a_, 1, laid);
        return std::nullopt;
    }

  private:
    static bool has(const Triangle& t, uint32_t v) { return t[0] == v || t[1] == v || t[2] == v; }
    static int side(const Point (&plane)[3], const Point& p, bool shared) {
        return shared ? 0 : int(CGAL::orientation(plane[0], plane[1], plane[2], p));
    }

    /// Devillers and Guigue, Faster triangle-triangle intersection tests (INRIA report 4488, 2002): each triangle with
    /// the corner first that is alone on its side, that side above; then the stretches they cut out of the common line
    /// overlap in more than a point.
    bool cross() const {
        Point a[3], b[3];
        turn(of_a_, a_, a);
        turn(of_b_, b_, b);
        // Seen from above each other: the order of the other's corners follows the side the first one is on.
        if (alone(of_a_) < 0) std::swap(b[1], b[2]);
        if (alone(of_b_) < 0) std::swap(a[1], a[2]);
        return CGAL::orientation(a[0], a[1], b[0], b[1]) == CGAL::NEGATIVE &&
               CGAL::orientation(a[0], a[2], b[2], b[0]) == CGAL::NEGATIVE;
    }
    /// The side with one corner on it, where the others are on the other side or in the plane.
    static int alone(const Sides& s) { return s.above == 1 ? 1 : -1; }
    static void turn(const Sides& s, const Point (&from)[3], Point (&to)[3]) {
        int first = 0;
        while (s.of[first] != alone(s)) ++first;
        for (int k = 0; k < 3; ++k) to[k] = from[(first + k) % 3];
    }

    /// In one plane: the insides meet unless the line of a side parts them.
    std::optional<Meeting> meet_flat() const {
        for (const auto& [x, y] : {std::pair(&a_, &b_), std::pair(&b_, &a_)})
            for (int k = 0; k < 3; ++k) {
                const Point &p = (*x)[k], &q = (*x)[(k + 1) % 3], &own = (*x)[(k + 2) % 3];
                bool parts = true;
                for (int j = 0; j < 3 && parts; ++j)
                    parts = CGAL::coplanar_orientation(p, q, own, (*y)[j]) != CGAL::POSITIVE;
                if (parts) return std::nullopt;
            }
        return normal(s_).dot(normal(t_)) > 0 ? Meeting::Through : Meeting::Against;
    }
    Vec3 normal(const Triangle& t) const {
        return (mesh_.vertices[t[1]] - mesh_.vertices[t[0]]).cross(mesh_.vertices[t[2]] - mesh_.vertices[t[0]]);
    }

    /// An edge in the other's plane, of a triangle that stands on one side of it.
    template <class Laid>
    static void look_for_edges(const Sides& sides, const Point (&mine)[3], const Point (&other)[3], int which,
                               Laid laid) {
        if (sides.above + sides.below != 1) return;
        int third = 0;
        while (sides.of[third] == 0) ++third;
        const Point &p = mine[(third + 1) % 3], &q = mine[(third + 2) % 3];
        // The open edge and the open triangle meet unless a line parts them: the edge's own, or one of a side.
        int left = 0, right = 0;
        for (int k = 0; k < 3; ++k) {
            const Point &u = other[k], &v = other[(k + 1) % 3], &w = other[(k + 2) % 3];
            if (CGAL::coplanar_orientation(u, v, w, p) != CGAL::POSITIVE &&
                CGAL::coplanar_orientation(u, v, w, q) != CGAL::POSITIVE)
                return;
        }
        // A point off the plane makes three points of the edge's line: which side of it the corners are on.
        for (int k = 0; k < 3; ++k) {
            const auto turn = CGAL::orientation(p, q, mine[third], other[k]);
            left += turn == CGAL::POSITIVE;
            right += turn == CGAL::NEGATIVE;
        }
        if (left > 0 && right > 0) laid(which, (third + 1) % 3, sides.of[third]);
    }

    const TriMesh& mesh_;
    const Triangle &s_, &t_;
    Point a_[3], b_[3];
    Sides of_a_, of_b_; ///< corners of each against the plane of the other
};

/// An edge laid on a facet, and the triangles that stand on it there.
struct LaidEdge {
    uint32_t facet, low, high;
    bool operator<(const LaidEdge& o) const { return std::tie(facet, low, high) < std::tie(o.facet, o.low, o.high); }
};
struct Standing {
    std::vector<uint32_t> above, below;
};

} // namespace

namespace {

uint64_t key(uint32_t a, uint32_t b) {
    return uint64_t(std::min(a, b)) << 32 | std::max(a, b);
}

/// Folded onto its neighbour a facet bounds nothing: that is no touching of bodies, whose edge there has four facets.
void tell_folds(const TriMesh& mesh, std::vector<MeetingPair>& pairs) {
    std::unordered_map<uint64_t, int> facets_at;
    std::vector<std::pair<MeetingPair*, uint64_t>> neighbours;
    for (MeetingPair& pair : pairs) {
        if (pair.how != Meeting::Against) continue;
        std::vector<uint32_t> shared;
        for (uint32_t v : mesh.triangles[pair.a])
            for (uint32_t w : mesh.triangles[pair.b])
                if (v == w) shared.push_back(v);
        if (shared.size() == 2) neighbours.emplace_back(&pair, key(shared[0], shared[1]));
    }
    if (neighbours.empty()) return;
    for (const auto& [pair, edge] : neighbours) facets_at[edge] = 0;
    for (const Triangle& t : mesh.triangles)
        for (size_t k = 0; k < 3; ++k)
            if (auto at = facets_at.find(key(t[k], t[(k + 1) % 3])); at != facets_at.end()) ++at->second;
    for (auto& [pair, edge] : neighbours)
        if (facets_at[edge] == 2) pair->how = Meeting::Through;
}

struct Found {
    std::vector<MeetingPair> pairs;
    std::map<LaidEdge, Standing> laid;

    void take(Found& other) {
        pairs.insert(pairs.end(), other.pairs.begin(), other.pairs.end());
        for (auto& [edge, standing] : other.laid) {
            Standing& there = laid[edge];
            there.above.insert(there.above.end(), standing.above.begin(), standing.above.end());
            there.below.insert(there.below.end(), standing.below.begin(), standing.below.end());
        }
    }
};

constexpr size_t batch = 1 << 18;

void look_at(const TriMesh& mesh, uint32_t s, uint32_t t, Found& found) {
    const auto how = Pair(mesh, s, t).run([&](int which, int edge, int side) {
        const uint32_t of = which == 0 ? s : t, on = which == 0 ? t : s;
        const uint32_t p = mesh.triangles[of][size_t(edge)], q = mesh.triangles[of][size_t(edge + 1) % 3];
        Standing& there = found.laid[{on, std::min(p, q), std::max(p, q)}];
        (side > 0 ? there.above : there.below).push_back(of);
    });
    if (how) found.pairs.push_back({s, t, *how});
}

} // namespace

std::vector<MeetingPair> meeting_pairs(const TriMesh& mesh, const Task& task) {
    std::vector<Box> boxes;
    boxes.reserve(mesh.triangles.size());
    for (uint32_t i = 0; i < mesh.triangles.size(); ++i) {
        Box3 box;
        for (int k = 0; k < 3; ++k) box.extend(mesh.corner(i, k));
        boxes.emplace_back(
            CGAL::Bbox_3(box.min().x(), box.min().y(), box.min().z(), box.max().x(), box.max().y(), box.max().z()), i);
    }
    Found all;
    std::vector<std::pair<uint32_t, uint32_t>> near; // a batch at a time, on all cores
    auto look = [&] {
        tbb::enumerable_thread_specific<Found> found;
        tbb::parallel_for(tbb::blocked_range<size_t>(0, near.size(), 1024), [&](const tbb::blocked_range<size_t>& r) {
            Found& mine = found.local();
            for (size_t i = r.begin(); i < r.end(); ++i) look_at(mesh, near[i].first, near[i].second, mine);
        });
        for (Found& one : found) all.take(one);
        near.clear();
    };
    try {
        CGAL::box_self_intersection_d(boxes.begin(), boxes.end(), [&](const Box& x, const Box& y) {
            near.emplace_back(x.info(), y.info());
            if (near.size() < batch) return;
            if (task.stopped()) throw Stop{};
            look();
        });
    } catch (const Stop&) {
        return {};
    }
    look();
    std::vector<MeetingPair> pairs = std::move(all.pairs);
    // The same every time, whichever core found what.
    std::sort(pairs.begin(), pairs.end(),
              [](const MeetingPair& x, const MeetingPair& y) { return std::tie(x.a, x.b) < std::tie(y.a, y.b); });
    tell_folds(mesh, pairs);
    // The surface goes through where it stands on both sides.
    for (const auto& [edge, standing] : all.laid) {
        if (standing.above.empty() || standing.below.empty()) continue;
        pairs.push_back({edge.facet, standing.above.front(), Meeting::Through});
        pairs.push_back({edge.facet, standing.below.front(), Meeting::Through});
    }
    return pairs;
}

std::vector<std::pair<uint32_t, uint32_t>> intersecting_pairs(const TriMesh& mesh, const Task& task) {
    std::vector<std::pair<uint32_t, uint32_t>> through;
    for (const MeetingPair& pair : meeting_pairs(mesh, task))
        if (pair.how == Meeting::Through) through.emplace_back(pair.a, pair.b);
    return through;
}

} // namespace lp
