#include "mesh/soundness.h"
#include "base/tolerance.h"
#include "shape/mesh_distance.h"
#include <algorithm>
#include <cmath>
#include <numeric>
#include <tbb/parallel_invoke.h>
#include <unordered_set>

namespace lp {
namespace {

/// Zero area: two corners in one place, or a height lost in rounding (2e-12 of the longest side).
bool is_degenerate(const TriMesh& mesh, size_t i) {
    const Triangle& t = mesh.triangles[i];
    if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) return true;
    const Vec3 &a = mesh.corner(i, 0), &b = mesh.corner(i, 1), &c = mesh.corner(i, 2);
    double longest = std::max({(b - a).squaredNorm(), (c - b).squaredNorm(), (a - c).squaredNorm()});
    return mesh.area_vector(i).norm() <= 2e-12 * longest;
}

Vec3 middle(const TriMesh& mesh, size_t i) {
    return (mesh.corner(i, 0) + mesh.corner(i, 1) + mesh.corner(i, 2)) / 3;
}

void note(Fault& fault, const Fault::Place& place, const Vec3& where) {
    if (fault.count++ == 0) fault.where = where;
    if (fault.places.size() < Fault::most_places) fault.places.push_back(place);
}
void note(Fault& fault, const TriMesh& mesh, size_t i) {
    note(fault, {mesh.corner(i, 0), mesh.corner(i, 1), mesh.corner(i, 2)}, middle(mesh, i));
}
void note(Fault& fault, const Vec3& where) {
    note(fault, {where, where, where}, where);
}

/// Triangles that were seen, whichever way round and from whichever corner: open addressing, as in welded().
class Seen {
  public:
    explicit Seen(const std::vector<Triangle>& triangles) : triangles_(triangles) {
        size_t slots = 16;
        while (slots < triangles.size() * 2) slots *= 2;
        table_.assign(slots, none);
    }
    /// False when one with the same corners was there before.
    bool insert(uint32_t i) {
        const Triangle mine = sorted(i);
        uint64_t h = mine[0] * 0x9E3779B97F4A7C15ull;
        h = (h ^ mine[1]) * 0xC2B2AE3D27D4EB4Full;
        h = (h ^ mine[2]) * 0x165667B19E3779F9ull;
        for (size_t slot = (h ^ (h >> 29)) & (table_.size() - 1);; slot = (slot + 1) & (table_.size() - 1)) {
            if (table_[slot] == none) {
                table_[slot] = i;
                return true;
            }
            if (sorted(table_[slot]) == mine) return false;
        }
    }

  private:
    static constexpr uint32_t none = ~0u;
    Triangle sorted(uint32_t i) const {
        Triangle t = triangles_[i];
        if (t[0] > t[1]) std::swap(t[0], t[1]);
        if (t[1] > t[2]) std::swap(t[1], t[2]);
        if (t[0] > t[1]) std::swap(t[0], t[1]);
        return t;
    }
    const std::vector<Triangle>& triangles_;
    std::vector<uint32_t> table_;
};

/// Welds and sets aside; fills `kept`, `source` and the first three faults.
void sort_out(const TriMesh& mesh, Soundness& result) {
    TriMesh finite;
    std::vector<uint32_t> source;
    finite.vertices = mesh.vertices;
    finite.triangles.reserve(mesh.triangles.size());
    bool tagged = mesh.tags.size() == mesh.triangles.size();
    for (uint32_t i = 0; i < mesh.triangles.size(); ++i) {
        bool good = true;
        for (int k = 0; k < 3; ++k) good = good && mesh.corner(i, k).allFinite();
        if (!good) {
            Vec3 where = Vec3::Zero();
            for (int k = 0; k < 3; ++k)
                if (mesh.corner(i, k).allFinite()) where = mesh.corner(i, k);
            note(result.nonfinite, where);
            continue;
        }
        finite.triangles.push_back(mesh.triangles[i]);
        if (tagged) finite.tags.push_back(mesh.tags[i]);
        source.push_back(i);
    }
    TriMesh joined = welded(finite);
    result.vertices = joined.vertices.size();
    Seen seen(joined.triangles);
    result.kept.triangles.reserve(joined.triangles.size());
    result.source.reserve(joined.triangles.size());
    for (uint32_t i = 0; i < joined.triangles.size(); ++i) {
        if (is_degenerate(joined, i)) {
            note(result.degenerate, joined, i);
            continue;
        }
        if (!seen.insert(i)) {
            note(result.duplicate, joined, i);
            continue;
        }
        result.kept.triangles.push_back(joined.triangles[i]);
        if (tagged) result.kept.tags.push_back(joined.tags[i]);
        result.source.push_back(source[i]);
    }
    result.kept.vertices = std::move(joined.vertices);
}

uint64_t key(uint32_t a, uint32_t b) {
    return uint64_t(std::min(a, b)) << 32 | std::max(a, b);
}

/// Corners in one line within what single precision leaves: what they go round has no width.
bool is_slit(const TriMesh& mesh, const std::vector<uint32_t>& loop) {
    const Vec3& from = mesh.vertices[loop.front()];
    Vec3 longest = Vec3::Zero();
    for (uint32_t v : loop)
        if (const Vec3 d = mesh.vertices[v] - from; d.squaredNorm() > longest.squaredNorm()) longest = d;
    const double length = longest.norm(), near = 1e-6 * length + 2e-7 * from.cwiseAbs().maxCoeff();
    return std::all_of(loop.begin(), loop.end(),
                       [&](uint32_t v) { return (mesh.vertices[v] - from).cross(longest).norm() <= near * length; });
}

/// `slits`: edges that are open only because a corner lies on them, or because a facet without area was set aside.
void check_edges(Soundness& result, std::unordered_set<uint64_t>& slits) {
    std::vector<std::vector<uint32_t>> loops;
    const bool any_open = std::any_of(result.topology.edges.begin(), result.topology.edges.end(),
                                      [](const MeshEdge& e) { return e.count == 1; });
    if (any_open) loops = boundary_loops(result.kept, result.topology);
    for (const auto& loop : loops)
        if (is_slit(result.kept, loop))
            for (size_t k = 0; k < loop.size(); ++k) slits.insert(key(loop[k], loop[(k + 1) % loop.size()]));
    bool odd = false;
    for (const MeshEdge& edge : result.topology.edges) {
        const Vec3 &a = result.kept.vertices[edge.a], &b = result.kept.vertices[edge.b];
        const auto note_edge = [&](Fault& fault) { note(fault, {a, b, b}, (a + b) / 2); };
        odd = odd || (edge.count % 2 == 1 && !slits.count(key(edge.a, edge.b)));
        if (edge.count == 1)
            note_edge(result.open_edges);
        else if (edge.count > 2)
            note_edge(result.nonmanifold_edges);
        else if (result.topology.half_edges[edge.first].forward == result.topology.half_edges[edge.first + 1].forward)
            note_edge(result.inconsistent_edges);
    }
    result.closed = !odd && !result.kept.empty();
    for (uint32_t v : pinched_vertices(result.kept, result.topology))
        note(result.nonmanifold_vertices, result.kept.vertices[v]);
    size_t largest = 0;
    for (const auto& loop : loops) {
        ++result.holes.count;
        if (loop.size() <= largest) continue;
        largest = loop.size();
        Vec3 centre = Vec3::Zero();
        for (uint32_t v : loop) centre += result.kept.vertices[v];
        result.holes.where = centre / double(loop.size());
    }
}

/// The boxes in the order of their begin along the axis on which they are spread furthest for their size.
struct Sweep {
    int axis = 0;
    std::vector<size_t> order;
    explicit Sweep(const std::vector<Box3>& boxes) {
        Vec3 size = Vec3::Zero();
        Box3 begins;
        for (const Box3& box : boxes) {
            size += box.sizes();
            begins.extend(box.min());
        }
        if (!boxes.empty()) begins.sizes().cwiseQuotient(size + Vec3::Constant(1e-12)).maxCoeff(&axis);
        order.resize(boxes.size());
        std::iota(order.begin(), order.end(), size_t(0));
        std::sort(order.begin(), order.end(),
                  [&](size_t a, size_t b) { return boxes[a].min()[axis] < boxes[b].min()[axis]; });
    }
};

/// How many other closed shells each closed shell lies in; two of three sample points decide.
std::vector<int> nesting(const std::vector<TriMesh>& shells, const std::vector<bool>& closed, const Task& task) {
    std::vector<int> depth(shells.size(), 0);
    std::vector<Box3> boxes;
    for (const TriMesh& shell : shells) boxes.push_back(bounding_box(shell));
    const Sweep sweep(boxes);
    const int axis = sweep.axis;
    for (size_t outer = 0; outer < shells.size() && !task.stopped(); ++outer) {
        if (!closed[outer]) continue;
        std::unique_ptr<DistanceTree> tree;
        // Of a hundred thousand shells only those that begin within this one are looked at.
        auto next = std::lower_bound(sweep.order.begin(), sweep.order.end(), boxes[outer].min()[axis],
                                     [&](size_t i, double at) { return boxes[i].min()[axis] < at; });
        for (; next != sweep.order.end() && boxes[*next].min()[axis] <= boxes[outer].max()[axis]; ++next) {
            const size_t inner = *next;
            if (inner == outer || !closed[inner] || !boxes[outer].contains(boxes[inner])) continue;
            if (!tree) tree = std::make_unique<DistanceTree>(shells[outer]);
            const TriMesh& mesh = shells[inner];
            size_t n = mesh.vertices.size();
            int in = 0;
            for (size_t v : {size_t(0), n / 3, 2 * n / 3}) in += tree->inside(mesh.vertices[v]);
            if (in >= 2) ++depth[inner];
        }
    }
    for (size_t i = 0; i < shells.size(); ++i)
        if (!closed[i]) depth[i] = -1;
    return depth;
}

void check_shells(Soundness& result, const std::unordered_set<uint64_t>& slits, const Task& task) {
    const Topology& topology = result.topology;
    result.shells = topology.shells;
    std::vector<bool> closed(topology.shells, true), consistent(topology.shells, true);
    for (const MeshEdge& edge : topology.edges) {
        uint32_t shell = topology.shell_of[topology.half_edges[edge.first].triangle];
        if (edge.count % 2 && !slits.count(key(edge.a, edge.b))) closed[shell] = false;
        if (edge.count == 2 && topology.half_edges[edge.first].forward == topology.half_edges[edge.first + 1].forward)
            consistent[shell] = false;
    }
    std::vector<TriMesh> shells = extract_shells(result.kept, topology);
    result.depth = nesting(shells, closed, task);

    // Facets against their neighbours: the smaller set of each shell, or of a closed shell those that face inward.
    auto turned = turned_against_neighbours(result.kept, topology);
    std::vector<size_t> count(topology.shells, 0), total(topology.shells, 0);
    std::vector<double> volume(topology.shells, 0);
    std::vector<Vec3> base(topology.shells, Vec3::Zero());
    for (uint32_t s = 0; s < topology.shells; ++s)
        if (!shells[s].vertices.empty()) base[s] = shells[s].vertices[0];
    for (uint32_t i = 0; i < result.kept.triangles.size(); ++i) {
        uint32_t s = topology.shell_of[i];
        ++total[s];
        count[s] += turned[i];
        Vec3 a = result.kept.corner(i, 0) - base[s], b = result.kept.corner(i, 1) - base[s],
             c = result.kept.corner(i, 2) - base[s];
        volume[s] += a.dot(b.cross(c)) * (turned[i] ? -1 : 1);
    }
    std::vector<bool> other_side(topology.shells, false);
    for (uint32_t s = 0; s < topology.shells; ++s)
        if (!consistent[s] && closed[s] && volume[s] < 0 && result.depth[s] == 0) other_side[s] = true;
    for (uint32_t i = 0; i < result.kept.triangles.size(); ++i) {
        uint32_t s = topology.shell_of[i];
        if (!consistent[s] && turned[i] != other_side[s]) note(result.flipped, result.kept, i);
    }
    std::vector<bool> inward(topology.shells, false);
    bool any_outward = false;
    for (uint32_t s = 0; s < topology.shells; ++s) {
        if (!closed[s] || !consistent[s]) continue;
        double its = mass_properties(shells[s]).volume_mm3;
        inward[s] = result.depth[s] == 0 && its < 0;
        any_outward = any_outward || (result.depth[s] == 0 && its > 0);
        if (inward[s]) result.inside_out = true;
        // At an odd depth there is material all round: facing inward it bounds a void, facing outward it bounds
        // nothing.
        if (result.depth[s] % 2 == 1) note(its < 0 ? result.cavities : result.inner_shells, shells[s], 0);
    }
    if (!result.inside_out || !any_outward) return;
    // Beside shells that face outward it is these that are turned over.
    result.inside_out = false;
    for (uint32_t i = 0; i < result.kept.triangles.size(); ++i)
        if (inward[topology.shell_of[i]]) note(result.flipped, result.kept, i);
}

} // namespace

std::vector<TriMesh> separate_bodies(const Soundness& sound) {
    std::vector<TriMesh> shells = extract_shells(sound.kept, sound.topology);
    std::vector<bool> is_void(shells.size(), false);
    for (size_t i = 0; i < shells.size(); ++i)
        is_void[i] = sound.depth[i] % 2 == 1 && mass_properties(shells[i]).volume_mm3 < 0;
    std::vector<TriMesh> bodies;
    std::vector<size_t> shell_of_body;
    for (size_t i = 0; i < shells.size(); ++i)
        if (!is_void[i]) {
            bodies.push_back(shells[i]);
            shell_of_body.push_back(i);
        }
    for (size_t i = 0; i < shells.size(); ++i) {
        if (!is_void[i]) continue;
        // Its owner is the deepest shell around it.
        Box3 box = bounding_box(shells[i]);
        size_t owner = bodies.size();
        for (size_t b = 0; b < bodies.size(); ++b) {
            size_t s = shell_of_body[b];
            if (sound.depth[s] != sound.depth[i] - 1 || !bounding_box(shells[s]).contains(box)) continue;
            if (DistanceTree(shells[s]).inside(shells[i].vertices[0])) owner = b;
        }
        if (owner < bodies.size())
            append(bodies[owner], shells[i]);
        else
            bodies.push_back(shells[i]);
    }
    return bodies;
}

bool Soundness::sound() const {
    return closed && !nonfinite && !degenerate && !duplicate && !open_edges && !nonmanifold_edges &&
           !nonmanifold_vertices && !inconsistent_edges && !flipped && !inside_out && !inner_shells &&
           !(self_intersecting && self_intersecting->count) && !(overlapping_shells && overlapping_shells->count);
}

Soundness check_soundness(const TriMesh& mesh, const SoundnessOptions& options, const Task& task) {
    Soundness result;
    result.triangles = mesh.triangles.size();
    task.tell("Sorting facets", 0.05);
    sort_out(mesh, result);
    task.tell(options.self_intersections ? "Looking for facets that pass through each other" : "Looking at edges",
              0.25);
    // Neither needs what the other finds out.
    std::vector<MeetingPair> pairs;
    auto look_at_edges_and_shells = [&] {
        result.topology = build_topology(result.kept);
        std::unordered_set<uint64_t> slits;
        check_edges(result, slits);
        if (!task.stopped()) check_shells(result, slits, task);
    };
    auto look_for_meetings = [&] {
        if (options.self_intersections) pairs = meeting_pairs(result.kept, task);
    };
    tbb::parallel_invoke(look_at_edges_and_shells, look_for_meetings);
    if (!options.self_intersections || task.stopped()) return result;
    Fault crossing, overlapping, touching;
    std::vector<bool> hit(result.kept.triangles.size(), false), touches = hit, shell_hit(result.shells, false);
    for (const auto& [a, b, how] : pairs) {
        const bool through = how == Meeting::Through;
        for (uint32_t i : {a, b})
            if (auto& its = through ? hit : touches; !its[i]) {
                its[i] = true;
                note(through ? crossing : touching, result.kept, i);
            }
        if (!through) continue;
        uint32_t s = result.topology.shell_of[a], t = result.topology.shell_of[b];
        if (s == t) continue;
        for (uint32_t i : {s, t})
            if (!shell_hit[i]) {
                shell_hit[i] = true;
                note(overlapping, result.kept, i == s ? a : b);
            }
    }
    result.self_intersecting = crossing;
    result.overlapping_shells = overlapping;
    result.touching = touching;
    return result;
}

} // namespace lp
