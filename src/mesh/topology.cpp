#include "mesh/topology.h"
#include "base/union_find.h"
#include <algorithm>
#include <numeric>

namespace lp {
namespace {

/// Edge index of each triangle's three sides (side k runs from corner k to k + 1).
std::vector<std::array<uint32_t, 3>> edges_of_triangles(const TriMesh& mesh, const Topology& topology) {
    std::vector<std::array<uint32_t, 3>> sides(mesh.triangles.size());
    for (uint32_t e = 0; e < topology.edges.size(); ++e) {
        const MeshEdge& edge = topology.edges[e];
        for (uint32_t h = edge.first; h < edge.first + edge.count; ++h) {
            const MeshHalfEdge& half = topology.half_edges[h];
            const Triangle& t = mesh.triangles[half.triangle];
            uint32_t from = half.forward ? edge.a : edge.b, to = half.forward ? edge.b : edge.a;
            for (int k = 0; k < 3; ++k)
                if (t[k] == from && t[(k + 1) % 3] == to) sides[half.triangle][k] = e;
        }
    }
    return sides;
}

} // namespace

Topology build_topology(const TriMesh& mesh) {
    struct Raw {
        uint64_t key;
        uint32_t triangle;
        bool forward;
    };
    std::vector<Raw> raw(mesh.triangles.size() * 3);
    for (uint32_t i = 0; i < mesh.triangles.size(); ++i)
        for (int k = 0; k < 3; ++k) {
            uint32_t a = mesh.triangles[i][k], b = mesh.triangles[i][(k + 1) % 3];
            raw[3 * i + k] = {uint64_t(std::min(a, b)) << 32 | std::max(a, b), i, a < b};
        }
    // Buckets by the smaller vertex, then a short sort in each: half the time of one big sort.
    std::vector<uint32_t> start(mesh.vertices.size() + 1, 0);
    for (const Raw& r : raw) ++start[(r.key >> 32) + 1];
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<Raw> sorted(raw.size());
    {
        std::vector<uint32_t> next(start.begin(), start.end() - 1);
        for (const Raw& r : raw) sorted[next[r.key >> 32]++] = r;
    }
    for (size_t v = 0; v + 1 < start.size(); ++v)
        std::sort(sorted.begin() + start[v], sorted.begin() + start[v + 1],
                  [](const Raw& x, const Raw& y) { return x.key != y.key ? x.key < y.key : x.triangle < y.triangle; });
    Topology result;
    result.edges.reserve(raw.size() / 2 + 1);
    result.half_edges.reserve(raw.size());
    UnionFind shells(mesh.triangles.size());
    for (size_t i = 0; i < sorted.size();) {
        MeshEdge edge{uint32_t(sorted[i].key >> 32), uint32_t(sorted[i].key), uint32_t(i), 0};
        size_t j = i;
        for (; j < sorted.size() && sorted[j].key == sorted[i].key; ++j) {
            result.half_edges.push_back({sorted[j].triangle, sorted[j].forward});
            shells.join(sorted[i].triangle, sorted[j].triangle);
        }
        edge.count = uint32_t(j - i);
        result.edges.push_back(edge);
        i = j;
    }
    result.shell_of.assign(mesh.triangles.size(), ~0u);
    std::vector<uint32_t> number(mesh.triangles.size(), ~0u);
    for (uint32_t i = 0; i < mesh.triangles.size(); ++i) {
        uint32_t root = shells.find(i);
        if (number[root] == ~0u) number[root] = result.shells++;
        result.shell_of[i] = number[root];
    }
    return result;
}

std::vector<std::vector<uint32_t>> boundary_loops(const TriMesh& mesh, const Topology& topology) {
    std::vector<uint32_t> open;
    for (uint32_t e = 0; e < topology.edges.size(); ++e)
        if (topology.edges[e].count == 1) open.push_back(e);
    if (open.empty()) return {};
    auto sides = edges_of_triangles(mesh, topology);
    // From an open edge, walk the fan around vertex v to the open edge on the fan's other side.
    auto across = [&](uint32_t edge, uint32_t v) -> uint32_t {
        uint32_t triangle = topology.half_edges[topology.edges[edge].first].triangle;
        for (size_t steps = 0; steps <= mesh.triangles.size(); ++steps) {
            uint32_t next = ~0u;
            for (uint32_t side : sides[triangle])
                if (side != edge && (topology.edges[side].a == v || topology.edges[side].b == v)) next = side;
            if (next == ~0u) return ~0u;
            const MeshEdge& e = topology.edges[next];
            if (e.count == 1) return next;
            if (e.count != 2) return ~0u;
            triangle = topology.half_edges[e.first].triangle == triangle ? topology.half_edges[e.first + 1].triangle
                                                                         : topology.half_edges[e.first].triangle;
            edge = next;
        }
        return ~0u;
    };
    std::vector<bool> used(topology.edges.size(), false);
    std::vector<std::vector<uint32_t>> loops;
    for (uint32_t start : open) {
        if (used[start]) continue;
        used[start] = true;
        // Against the facet's own direction, so that a filled hole faces the right way.
        bool forward = topology.half_edges[topology.edges[start].first].forward;
        const MeshEdge& s = topology.edges[start];
        std::vector<uint32_t> loop{forward ? s.b : s.a, forward ? s.a : s.b};
        for (uint32_t edge = start;;) {
            edge = across(edge, loop.back());
            if (edge == ~0u || used[edge]) break;
            used[edge] = true;
            const MeshEdge& e = topology.edges[edge];
            loop.push_back(e.a == loop.back() ? e.b : e.a);
        }
        if (loop.size() > 1 && loop.front() == loop.back()) loop.pop_back();
        loops.push_back(std::move(loop));
    }
    return loops;
}

std::vector<uint32_t> pinched_vertices(const TriMesh& mesh, const Topology& topology) {
    // Corners (3 * triangle + k) of one vertex are joined across shared edges; more than one group is a pinch.
    UnionFind corners(mesh.triangles.size() * 3);
    auto corner = [&](uint32_t triangle, uint32_t v) {
        const Triangle& t = mesh.triangles[triangle];
        return 3 * triangle + (t[0] == v ? 0 : t[1] == v ? 1 : 2);
    };
    for (const MeshEdge& edge : topology.edges)
        for (uint32_t h = edge.first + 1; h < edge.first + edge.count; ++h)
            for (uint32_t v : {edge.a, edge.b}) {
                corners.join(corner(topology.half_edges[edge.first].triangle, v),
                             corner(topology.half_edges[h].triangle, v));
            }
    std::vector<uint8_t> fans(mesh.vertices.size(), 0);
    for (uint32_t c = 0; c < mesh.triangles.size() * 3; ++c)
        if (corners.find(c) == c) {
            uint8_t& n = fans[mesh.triangles[c / 3][c % 3]];
            if (n < 2) ++n;
        }
    std::vector<uint32_t> result;
    for (uint32_t v = 0; v < fans.size(); ++v)
        if (fans[v] > 1) result.push_back(v);
    return result;
}

std::vector<bool> turned_against_neighbours(const TriMesh& mesh, const Topology& topology) {
    const size_t count = mesh.triangles.size();
    // Neighbour lists across two-facet edges: (triangle, must differ).
    std::vector<uint32_t> start(count + 1, 0);
    for (const MeshEdge& e : topology.edges)
        if (e.count == 2) {
            ++start[topology.half_edges[e.first].triangle + 1];
            ++start[topology.half_edges[e.first + 1].triangle + 1];
        }
    std::partial_sum(start.begin(), start.end(), start.begin());
    struct Link {
        uint32_t triangle;
        bool differ;
    };
    std::vector<Link> links(start.back());
    std::vector<uint32_t> next(start.begin(), start.end() - 1);
    for (const MeshEdge& e : topology.edges)
        if (e.count == 2) {
            const MeshHalfEdge &x = topology.half_edges[e.first], &y = topology.half_edges[e.first + 1];
            bool differ = x.forward == y.forward;
            links[next[x.triangle]++] = {y.triangle, differ};
            links[next[y.triangle]++] = {x.triangle, differ};
        }
    std::vector<int8_t> state(count, -1);
    std::vector<bool> turned(count, false);
    std::vector<uint32_t> patch;
    for (uint32_t seed = 0; seed < count; ++seed) {
        if (state[seed] >= 0) continue;
        patch.assign(1, seed);
        state[seed] = 0;
        size_t ones = 0;
        for (size_t i = 0; i < patch.size(); ++i) {
            uint32_t t = patch[i];
            ones += state[t];
            for (uint32_t l = start[t]; l < start[t + 1]; ++l)
                if (state[links[l].triangle] < 0) {
                    state[links[l].triangle] = int8_t(state[t] ^ int(links[l].differ));
                    patch.push_back(links[l].triangle);
                }
        }
        int8_t minority = ones * 2 > patch.size() ? 0 : 1;
        for (uint32_t t : patch) turned[t] = state[t] == minority;
    }
    return turned;
}

std::vector<TriMesh> extract_shells(const TriMesh& mesh, const Topology& topology) {
    std::vector<TriMesh> shells(topology.shells);
    bool tagged = mesh.tags.size() == mesh.triangles.size();
    // Sorted by shell, so that one vertex map serves all of them in turn.
    std::vector<uint32_t> order(mesh.triangles.size());
    std::iota(order.begin(), order.end(), 0u);
    std::stable_sort(order.begin(), order.end(),
                     [&](uint32_t a, uint32_t b) { return topology.shell_of[a] < topology.shell_of[b]; });
    std::vector<uint32_t> map(mesh.vertices.size(), ~0u), owner(mesh.vertices.size(), ~0u);
    for (uint32_t i : order) {
        uint32_t shell = topology.shell_of[i];
        TriMesh& target = shells[shell];
        Triangle t{};
        for (int k = 0; k < 3; ++k) {
            uint32_t v = mesh.triangles[i][k];
            if (owner[v] != shell) {
                owner[v] = shell;
                map[v] = uint32_t(target.vertices.size());
                target.vertices.push_back(mesh.vertices[v]);
            }
            t[k] = map[v];
        }
        target.triangles.push_back(t);
        if (tagged) target.tags.push_back(mesh.tags[i]);
    }
    return shells;
}

} // namespace lp
