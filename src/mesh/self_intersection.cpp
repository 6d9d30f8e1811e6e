// Facets that pass through each other, by CGAL's box sweep and exact predicates.
#include "mesh/soundness.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/box_intersection_d.h>
#include <algorithm>
#include <map>
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
    /// But for corners that are the other's too.
    bool apart(int shared) const { return shared < 3 && (above + shared == 3 || below + shared == 3); }
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
        // Wholly on one side but for corners they share: most other pairs are such.
        for (int k = 0; k < 3; ++k) of_a_.set(k, side(b_, a_[k], has(t_, s_[size_t(k)])));
        if (of_a_.apart(shared)) return std::nullopt;
        if (of_a_.flat()) return meet_flat();
        for (int k = 0; k < 3; ++k) of_b_.set(k, side(a_, b_[k], has(s_, t_[size_t(k)])));
        if (of_b_.apart(shared)) return std::nullopt;
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

namespace {

/// What a facet reaches on each axis.
struct Reach {
    Vec3 low, high;
    uint32_t facet;
};

Reach reach_of(const TriMesh& mesh, uint32_t i) {
    const Vec3 &a = mesh.corner(i, 0), &b = mesh.corner(i, 1), &c = mesh.corner(i, 2);
    return {a.cwiseMin(b).cwiseMin(c), a.cwiseMax(b).cwiseMax(c), i};
}

/// The facets in slices across an axis, about as many in each: sweeping one slice is a matter of its own. A facet is in
/// each slice that it reaches.
class Slices {
  public:
    explicit Slices(const TriMesh& mesh) : mesh_(mesh) {
        constexpr size_t facets_a_slice = 1500;
        const size_t wanted = std::max<size_t>(1, mesh.triangles.size() / facets_a_slice);
        size_t fewest = ~size_t(0);
        int best = 0;
        for (int axis = 0; axis < 3; ++axis) {
            cut(axis, wanted);
            if (const size_t all = memberships(); all < fewest) fewest = all, best = axis;
        }
        // Long facets would be in very many.
        for (size_t count = wanted;; count /= 2) {
            cut(best, count);
            if (count < 2 || memberships() < 2 * mesh.triangles.size()) break;
        }
        first_.resize(mesh.triangles.size());
        members_.resize(bounds_.size() + 1);
        for (uint32_t i = 0; i < first_.size(); ++i) {
            const Reach reach = reach_of(mesh, i);
            first_[i] = slice_at(reach.low[axis_]);
            for (uint32_t k = first_[i], last = slice_at(reach.high[axis_]); k <= last; ++k) members_[k].push_back(i);
        }
    }
    size_t count() const { return members_.size(); }
    const std::vector<uint32_t>& members(size_t slice) const { return members_[slice]; }
    /// The one slice in which two facets that may meet are looked at.
    size_t slice_of(uint32_t s, uint32_t t) const { return std::max(first_[s], first_[t]); }

  private:
    /// Into slices with about as many facets in each, by some of them.
    void cut(int axis, size_t count) {
        axis_ = axis;
        std::vector<double> begins;
        for (size_t i = 0; i < mesh_.triangles.size(); i += sampled()) begins.push_back(mesh_.corner(i, 0)[axis]);
        std::sort(begins.begin(), begins.end());
        bounds_.clear();
        for (size_t k = 1; k < count; ++k) bounds_.push_back(begins[k * begins.size() / count]);
    }
    /// About how many facets the slices hold together.
    size_t memberships() const {
        size_t all = 0;
        for (size_t i = 0; i < mesh_.triangles.size(); i += sampled()) {
            const Reach reach = reach_of(mesh_, uint32_t(i));
            all += 1 + slice_at(reach.high[axis_]) - slice_at(reach.low[axis_]);
        }
        return all * sampled();
    }
    size_t sampled() const { return std::max<size_t>(1, mesh_.triangles.size() / 16384); }
    uint32_t slice_at(double place) const {
        return uint32_t(std::upper_bound(bounds_.begin(), bounds_.end(), place) - bounds_.begin());
    }

    const TriMesh& mesh_;
    int axis_ = 0;
    std::vector<double> bounds_; ///< where each slice but the first begins
    std::vector<uint32_t> first_;
    std::vector<std::vector<uint32_t>> members_;
};

/// Calls for each pair of facets whose boxes meet, once or in either order. Few by a scan along one axis, many by
/// CGAL's sweep, which never compares all with all.
template <class Call> void each_meeting_box(const TriMesh& mesh, const std::vector<uint32_t>& facets, Call call) {
    constexpr size_t few = 6000;
    std::vector<Reach> reaches;
    reaches.reserve(facets.size());
    for (uint32_t i : facets) reaches.push_back(reach_of(mesh, i));
    if (facets.size() > few) {
        std::vector<Box> boxes;
        for (const auto& [low, high, i] : reaches)
            boxes.emplace_back(CGAL::Bbox_3(low.x(), low.y(), low.z(), high.x(), high.y(), high.z()), i);
        CGAL::box_self_intersection_d(boxes.begin(), boxes.end(),
                                      [&](const Box& x, const Box& y) { call(x.info(), y.info()); });
        return;
    }
    Box3 all;
    for (const Reach& r : reaches) all.extend(r.low), all.extend(r.high);
    int axis = 0;
    all.sizes().maxCoeff(&axis);
    std::sort(reaches.begin(), reaches.end(),
              [axis](const Reach& a, const Reach& b) { return a.low[axis] < b.low[axis]; });
    for (auto a = reaches.begin(); a != reaches.end(); ++a)
        for (auto b = a + 1; b != reaches.end() && b->low[axis] <= a->high[axis]; ++b)
            if ((a->low.array() <= b->high.array()).all() && (b->low.array() <= a->high.array()).all())
                call(a->facet, b->facet);
}

/// Every pair of facets whose boxes meet, looked at once, on all cores. Stops on request.
Found meetings(const TriMesh& mesh, const Task& task) {
    const Slices slices(mesh);
    tbb::enumerable_thread_specific<Found> found;
    tbb::parallel_for(size_t(0), slices.count(), [&](size_t k) {
        Found& mine = found.local();
        if (task.stopped()) throw Stop{};
        size_t looked = 0;
        each_meeting_box(mesh, slices.members(k), [&](uint32_t x, uint32_t y) {
            if (slices.slice_of(x, y) != k) return;
            if (++looked % 65536 == 0 && task.stopped()) throw Stop{};
            look_at(mesh, std::min(x, y), std::max(x, y), mine);
        });
    });
    Found all;
    for (Found& one : found) all.take(one);
    return all;
}

} // namespace

std::vector<MeetingPair> meeting_pairs(const TriMesh& mesh, const Task& task) {
    if (mesh.triangles.empty()) return {};
    Found all;
    try {
        all = meetings(mesh, task);
    } catch (const Stop&) {
        return {};
    }
    std::vector<MeetingPair> pairs = std::move(all.pairs);
    // The same every time, whichever core found what.
    std::sort(pairs.begin(), pairs.end(),
              [](const MeetingPair& x, const MeetingPair& y) { return std::tie(x.a, x.b) < std::tie(y.a, y.b); });
    tell_folds(mesh, pairs);
    // The surface goes through where it stands on both sides.
    for (const auto& [edge, standing] : all.laid) {
        if (standing.above.empty() || standing.below.empty()) continue;
        for (const auto* side : {&standing.above, &standing.below})
            pairs.push_back({edge.facet, *std::min_element(side->begin(), side->end()), Meeting::Through});
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
