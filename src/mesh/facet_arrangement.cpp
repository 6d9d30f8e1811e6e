#include "mesh/facet_arrangement.h"
#include <algorithm>
#include <climits>
#include <cmath>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>
#include <tbb/parallel_sort.h>

namespace lp::arrangement {
namespace {

int shared_corners(const Corners& a, const Corners& b) {
    int shared = 0;
    for (int x : a)
        for (int y : b) shared += x == y;
    return shared;
}
bool has(const Corners& t, int p) {
    return t[0] == p || t[1] == p || t[2] == p;
}
/// The corners that are not shared lie two on one side: the facets meet only in the shared corner.
bool two_on_one_side(const int (&sides)[3], const Corners& of, const Corners& other) {
    int above = 0, below = 0;
    for (size_t i = 0; i < 3; ++i)
        if (!has(other, of[i])) (sides[i] > 0 ? above : below) += sides[i] != 0;
    return above == 2 || below == 2;
}

} // namespace

FacetArrangement::FacetArrangement(const std::vector<TriMesh>& operands, double scale, bool within_shells)
    : within_shells_(within_shells) {
    load(operands, scale);
    if (facets.empty()) return;
    find_shells();
    build_tree();
    // Which facets meet, and where.
    std::vector<std::pair<int, int>> work;
    tasks(0, 0, 7, work);
    tbb::enumerable_thread_specific<Found> found;
    tbb::parallel_for(size_t(0), work.size(), [&](size_t i) {
        Found& mine = found.local();
        auto call = [&](int s, int t) { meet(s, t, mine); };
        pairs(work[i].first, work[i].second, call);
    });
    std::vector<Mark> marks;
    UnionFind clusters(facets.size());
    std::vector<char> touched(facets.size(), 0);
    for (const Found& f : found) {
        marks.insert(marks.end(), f.marks.begin(), f.marks.end());
        for (auto [s, t] : f.flat) {
            clusters.join(uint32_t(s), uint32_t(t));
            touched[size_t(s)] = touched[size_t(t)] = 1;
        }
    }
    for (const Mark& m : marks) {
        const Corners& own = facets[size_t(m.facet)];
        bool its_own = m.b < 0 ? has(own, m.a) : has(own, m.a) && has(own, m.b);
        if (!its_own) touched[size_t(m.facet)] = 1;
    }
    cut_planes(marks, clusters, touched);
}

/// Clusters of facets in one plane are cut together.
void FacetArrangement::cut_planes(const std::vector<Mark>& marks, UnionFind& clusters,
                                  const std::vector<char>& touched) {
    struct Member {
        size_t cluster;
        int index;
    };
    std::vector<Member> members, mine;
    for (size_t t = 0; t < facets.size(); ++t)
        if (touched[t]) members.push_back({clusters.find(uint32_t(t)), int(t)});
    for (size_t i = 0; i < marks.size(); ++i)
        if (touched[size_t(marks[i].facet)]) mine.push_back({clusters.find(uint32_t(marks[i].facet)), int(i)});
    auto by_cluster = [](const Member& a, const Member& b) {
        return a.cluster != b.cluster ? a.cluster < b.cluster : a.index < b.index;
    };
    std::sort(members.begin(), members.end(), by_cluster);
    tbb::parallel_sort(mine.begin(), mine.end(), by_cluster);
    struct Group {
        size_t first, last, first_mark, last_mark;
    };
    std::vector<Group> groups;
    for (size_t i = 0, z = 0; i < members.size();) {
        Group g{i, i, 0, 0};
        while (g.last < members.size() && members[g.last].cluster == members[i].cluster) ++g.last;
        while (z < mine.size() && mine[z].cluster < members[i].cluster) ++z;
        g.first_mark = z;
        while (z < mine.size() && mine[z].cluster == members[i].cluster) ++z;
        g.last_mark = z;
        groups.push_back(g);
        i = g.last;
    }
    tbb::enumerable_thread_specific<Cut> cuts;
    tbb::parallel_for(tbb::blocked_range<size_t>(0, groups.size(), 1), [&](const tbb::blocked_range<size_t>& range) {
        for (size_t g = range.begin(); g < range.end(); ++g) {
            std::vector<int> cluster, places;
            std::vector<std::pair<int, int>> segments;
            for (size_t i = groups[g].first; i < groups[g].last; ++i) cluster.push_back(members[i].index);
            for (size_t i = groups[g].first_mark; i < groups[g].last_mark; ++i) {
                const Mark& m = marks[size_t(mine[i].index)];
                if (m.b < 0)
                    places.push_back(m.a);
                else
                    segments.push_back({m.a, m.b});
            }
            PlaneCluster(points, facets, normals, cluster).cut(std::move(segments), std::move(places), cuts.local());
        }
    });
    for (size_t t = 0; t < facets.size(); ++t)
        if (!touched[t]) pieces.push_back({facets[t], int(t)});
    for (const Cut& cut : cuts) {
        int base = int(sources.size());
        for (Piece piece : cut.pieces) {
            if (piece.first_source >= 0) {
                piece.first_source += base;
                piece.last_source += base;
            }
            pieces.push_back(piece);
        }
        sources.insert(sources.end(), cut.sources.begin(), cut.sources.end());
    }
}

void FacetArrangement::load(const std::vector<TriMesh>& operands, double scale) {
    size_t vertices = 0, count = 0;
    for (const TriMesh& mesh : operands) vertices += mesh.vertices.size(), count += mesh.triangles.size();
    points.reserve(vertices);
    facets.reserve(count);
    for (size_t o = 0; o < operands.size(); ++o) {
        std::vector<int> number;
        for (const Vec3& v : operands[o].vertices) {
            GridPoint p;
            for (size_t k = 0; k < 3; ++k) p[k] = std::nearbyint(v[long(k)] * scale) + 0.0;
            number.push_back(points.add_grid(p));
        }
        for (size_t i = 0; i < operands[o].triangles.size(); ++i) {
            const Triangle& t = operands[o].triangles[i];
            Corners c{number[t[0]], number[t[1]], number[t[2]]};
            if (c[0] == c[1] || c[1] == c[2] || c[0] == c[2]) continue;
            int64_t x[3], y[3];
            for (size_t k = 0; k < 3; ++k) {
                x[k] = int64_t(points.grid(c[1])[k] - points.grid(c[0])[k]);
                y[k] = int64_t(points.grid(c[2])[k] - points.grid(c[0])[k]);
            }
            Normal n;
            for (size_t k = 0; k < 3; ++k) n[k] = x[(k + 1) % 3] * y[(k + 2) % 3] - x[(k + 2) % 3] * y[(k + 1) % 3];
            if (n == Normal{0, 0, 0}) {
                within_shells_ = true; // its neighbours may now touch where they did not
                continue;
            }
            facets.push_back(c);
            normals.push_back(n);
            operand_of.push_back(int(o));
            source_of.push_back(int(i));
        }
    }
}

/// Facets of one operand that hang together by corners.
void FacetArrangement::find_shells() {
    UnionFind all(facets.size());
    std::vector<int> last(points.grid_count(), -1), operand(points.grid_count(), -1);
    for (size_t t = 0; t < facets.size(); ++t)
        for (int p : facets[t]) {
            if (operand[size_t(p)] == operand_of[t]) all.join(uint32_t(t), uint32_t(last[size_t(p)]));
            operand[size_t(p)] = operand_of[t];
            last[size_t(p)] = int(t);
        }
    for (size_t t = 0; t < facets.size(); ++t) shell_.push_back(int(all.find(uint32_t(t))));
}

void FacetArrangement::box_of(int facet, int (&low)[3], int (&high)[3]) const {
    for (size_t k = 0; k < 3; ++k) {
        const Corners& c = facets[size_t(facet)];
        double a = points.grid(c[0])[k], b = points.grid(c[1])[k], d = points.grid(c[2])[k];
        low[k] = int(std::min({a, b, d}));
        high[k] = int(std::max({a, b, d}));
    }
}

void FacetArrangement::build_tree() {
    double low[3] = {1e300, 1e300, 1e300}, extent = 1;
    double high[3] = {-1e300, -1e300, -1e300};
    for (size_t i = 0; i < points.grid_count(); ++i)
        for (size_t k = 0; k < 3; ++k) {
            low[k] = std::min(low[k], points.grid(int(i))[k]);
            high[k] = std::max(high[k], points.grid(int(i))[k]);
        }
    for (size_t k = 0; k < 3; ++k) extent = std::max(extent, high[k] - low[k]);
    auto spread = [](uint64_t x) {
        x &= 0x1fffff;
        x = (x | x << 32) & 0x1f00000000ffffull;
        x = (x | x << 16) & 0x1f0000ff0000ffull;
        x = (x | x << 8) & 0x100f00f00f00f00full;
        x = (x | x << 4) & 0x10c30c30c30c30c3ull;
        return (x | x << 2) & 0x1249249249249249ull;
    };
    std::vector<std::pair<uint64_t, int>> keys(facets.size());
    for (size_t t = 0; t < facets.size(); ++t) {
        uint64_t code = 0;
        for (size_t k = 0; k < 3; ++k) {
            double middle = 0;
            for (int p : facets[t]) middle += points.grid(p)[k] / 3;
            code |= spread(uint64_t(std::max(0.0, (middle - low[k]) / extent * 2097151))) << k;
        }
        keys[t] = {code, int(t)};
    }
    tbb::parallel_sort(keys.begin(), keys.end());
    for (auto& [code, t] : keys) order_.push_back(t);
    size_t size = 1;
    while ((facets.size() + size - 1) / size > size_t(leaf_size)) size *= 2;
    nodes_.resize(4 * size + 3);
    build(0, 0, int(facets.size()), 0);
}

void FacetArrangement::build(int i, int first, int last, int depth) {
    Node& n = nodes_[size_t(i)];
    n.first = first;
    n.last = last;
    if (last - first <= leaf_size) {
        for (size_t k = 0; k < 3; ++k) n.low[k] = INT_MAX, n.high[k] = INT_MIN;
        n.shell = shell_[size_t(order_[size_t(first)])];
        for (int j = first; j < last; ++j) {
            int low[3], high[3], t = order_[size_t(j)];
            box_of(t, low, high);
            for (size_t k = 0; k < 3; ++k)
                n.low[k] = std::min(n.low[k], low[k]), n.high[k] = std::max(n.high[k], high[k]);
            if (shell_[size_t(t)] != n.shell) n.shell = -1;
        }
        return;
    }
    int middle = (first + last) / 2;
    auto left = [&] { build(2 * i + 1, first, middle, depth + 1); };
    auto right = [&] { build(2 * i + 2, middle, last, depth + 1); };
    if (depth < 4) {
        tbb::parallel_invoke(left, right);
    } else {
        left();
        right();
    }
    const Node &l = nodes_[size_t(2 * i + 1)], &r = nodes_[size_t(2 * i + 2)];
    for (size_t k = 0; k < 3; ++k) n.low[k] = std::min(l.low[k], r.low[k]), n.high[k] = std::max(l.high[k], r.high[k]);
    n.shell = l.shell == r.shell ? l.shell : -1;
}

bool FacetArrangement::apart(const Node& a, const Node& b) {
    for (size_t k = 0; k < 3; ++k)
        if (a.low[k] > b.high[k] || b.low[k] > a.high[k]) return true;
    return false;
}

/// Pairs of subtrees that can be searched side by side.
void FacetArrangement::tasks(int i, int j, int depth, std::vector<std::pair<int, int>>& out) const {
    const Node &a = nodes_[size_t(i)], &b = nodes_[size_t(j)];
    if (skip(a, b) || apart(a, b)) return;
    if (depth == 0 || a.last - a.first <= leaf_size || b.last - b.first <= leaf_size) {
        out.push_back({i, j});
    } else if (i == j) {
        tasks(2 * i + 1, 2 * i + 1, depth - 1, out);
        tasks(2 * i + 2, 2 * i + 2, depth - 1, out);
        tasks(2 * i + 1, 2 * i + 2, depth - 1, out);
    } else {
        tasks(2 * i + 1, j, depth - 1, out);
        tasks(2 * i + 2, j, depth - 1, out);
    }
}

template <class Call> void FacetArrangement::pairs(int i, int j, Call& call) const {
    const Node &a = nodes_[size_t(i)], &b = nodes_[size_t(j)];
    if (skip(a, b) || apart(a, b)) return;
    bool leaf_a = a.last - a.first <= leaf_size, leaf_b = b.last - b.first <= leaf_size;
    if (leaf_a && leaf_b) {
        for (int x = a.first; x < a.last; ++x)
            for (int y = i == j ? x + 1 : b.first; y < b.last; ++y) {
                int s = order_[size_t(x)], t = order_[size_t(y)];
                if (!within_shells_ && shell_[size_t(s)] == shell_[size_t(t)]) continue;
                int low[3], high[3], low2[3], high2[3];
                box_of(s, low, high);
                box_of(t, low2, high2);
                bool near = true;
                for (size_t k = 0; k < 3; ++k) near = near && low[k] <= high2[k] && low2[k] <= high[k];
                if (near) call(s, t);
            }
    } else if (i == j) {
        pairs(2 * i + 1, 2 * i + 1, call);
        pairs(2 * i + 2, 2 * i + 2, call);
        pairs(2 * i + 1, 2 * i + 2, call);
    } else if (leaf_b || (!leaf_a && a.last - a.first > b.last - b.first)) {
        pairs(2 * i + 1, j, call);
        pairs(2 * i + 2, j, call);
    } else {
        pairs(i, 2 * j + 1, call);
        pairs(i, 2 * j + 2, call);
    }
}

bool FacetArrangement::in_facet(int point, int facet) const {
    int u, v;
    flat_axes(normals[size_t(facet)], u, v);
    const Corners& c = facets[size_t(facet)];
    for (size_t i = 0; i < 3; ++i)
        if (points.turn(c[i], c[(i + 1) % 3], point, u, v) < 0) return false;
    return true;
}

/// Facets of one plane: is there no edge that parts them?
bool FacetArrangement::flat_overlap(int s, int t) const {
    int u, v;
    flat_axes(normals[size_t(s)], u, v);
    for (int turn = 0; turn < 2; ++turn) {
        const Corners &a = facets[size_t(turn ? t : s)], &b = facets[size_t(turn ? s : t)];
        int way = points.turn(a[0], a[1], a[2], u, v);
        for (size_t i = 0; i < 3; ++i) {
            bool parts = true;
            for (size_t j = 0; j < 3 && parts; ++j) parts = points.turn(a[i], a[(i + 1) % 3], b[j], u, v) * way < 0;
            if (parts) return false;
        }
    }
    return true;
}

/// Corners and edges of s that meet facet t; `sides`: of the corners of s against the plane of t.
void FacetArrangement::edges_against(int s, int t, const int (&sides)[3], int (&found)[8], int& count) {
    auto add = [&](int p) {
        for (int i = 0; i < count; ++i)
            if (found[i] == p) return;
        if (count < 8) found[count++] = p;
    };
    const Corners &a = facets[size_t(s)], &b = facets[size_t(t)];
    for (size_t i = 0; i < 3; ++i)
        if (sides[i] == 0 && in_facet(a[i], t)) add(a[i]);
    for (size_t i = 0; i < 3; ++i) {
        size_t j = (i + 1) % 3;
        if (sides[i] * sides[j] >= 0) continue;
        int p = a[i], q = a[j];
        bool left = false, right = false;
        for (size_t e = 0; e < 3; ++e) {
            int side = points.side_of_plane(p, q, b[e], b[(e + 1) % 3]);
            left = left || side > 0;
            right = right || side < 0;
        }
        if (left && right) continue; // the edge passes beside the facet
        const GridPoint &o = points.grid(b[0]), &P = points.grid(p), &Q = points.grid(q);
        Wide sp = 0, sq = 0;
        for (size_t k = 0; k < 3; ++k) {
            sp += Wide(normals[size_t(t)][k]) * int64_t(P[k] - o[k]);
            sq += Wide(normals[size_t(t)][k]) * int64_t(Q[k] - o[k]);
        }
        mpz_class h[4], left_part, right_part, big_p, big_q;
        set_wide(big_p, sp);
        set_wide(big_q, sq);
        for (size_t k = 0; k < 3; ++k) {
            left_part = big_q * static_cast<long>(P[k]);
            right_part = big_p * static_cast<long>(Q[k]);
            h[k] = left_part - right_part;
        }
        h[3] = big_q - big_p;
        add(points.add_meeting(h));
    }
}

/// How two facets meet: in a point, along a segment, or lying on each other.
void FacetArrangement::meet(int s, int t, Found& out) {
    const Corners &a = facets[size_t(s)], &b = facets[size_t(t)];
    int shared = shared_corners(a, b);
    if (shared == 3) {
        out.flat.push_back({s, t});
        return;
    }
    int of_b[3], of_a[3];
    for (size_t j = 0; j < 3; ++j) of_b[j] = has(a, b[j]) ? 0 : -points.side_of_plane(a[0], a[1], a[2], b[j]);
    if (of_b[0] == 0 && of_b[1] == 0 && of_b[2] == 0) {
        if (shared == 2 && shell_[size_t(s)] == shell_[size_t(t)]) { // neighbours in one plane, one on either side
            int u, v, e[2], n = 0, other_a = -1, other_b = -1;
            flat_axes(normals[size_t(s)], u, v);
            for (int p : a) has(b, p) ? void(e[n++ & 1] = p) : void(other_a = p);
            for (int p : b)
                if (!has(a, p)) other_b = p;
            if (points.turn(e[0], e[1], other_a, u, v) * points.turn(e[0], e[1], other_b, u, v) < 0) return;
        }
        if (flat_overlap(s, t)) out.flat.push_back({s, t});
        return;
    }
    if (shared == 2) return;
    if (of_b[0] * of_b[1] > 0 && of_b[1] * of_b[2] > 0) return;
    if (shared == 1 && two_on_one_side(of_b, b, a)) return;
    for (size_t j = 0; j < 3; ++j) of_a[j] = has(b, a[j]) ? 0 : -points.side_of_plane(b[0], b[1], b[2], a[j]);
    if (of_a[0] * of_a[1] > 0 && of_a[1] * of_a[2] > 0) return;
    if (shared == 1 && two_on_one_side(of_a, a, b)) return;
    int found[8], count = 0;
    edges_against(s, t, of_a, found, count);
    edges_against(t, s, of_b, found, count);
    if (count == 0 || (count == 1 && shared == 1)) return;
    int end = count == 1 ? -1 : found[1];
    out.marks.push_back({s, found[0], end});
    out.marks.push_back({t, found[0], end});
}

} // namespace lp::arrangement
