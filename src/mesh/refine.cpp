#include "mesh/refine.h"
#include <algorithm>
#include <map>
#include <memory>
#include <tuple>
#include <unordered_map>
#include <utility>

namespace lp {

namespace {

constexpr size_t most_facets = 2'000'000;

tl::unexpected<Problem> too_many() {
    return problem(ProblemCode::Range, "This needs more than two million facets.",
                   "Use a smaller angle or body, or a coarser tolerance.");
}

uint64_t edge_key(uint32_t a, uint32_t b) {
    return uint64_t(std::min(a, b)) << 32 | std::max(a, b);
}

/// Middles of edges by their ends. Open addressing: a node of the library's map for each edge took most of the time.
class EdgeMiddles {
  public:
    explicit EdgeMiddles(size_t edges) {
        size_t places = 64;
        while (places < 2 * edges) places *= 2;
        entries_.resize(places);
    }
    /// The middle of an edge, and whether it is asked for the first time.
    std::pair<uint32_t&, bool> of(uint32_t a, uint32_t b) {
        const uint64_t key = edge_key(a, b);
        size_t at = (key * 0x9e3779b97f4a7c15) >> 20;
        for (;; ++at) {
            Entry& entry = entries_[at & (entries_.size() - 1)];
            if (entry.key == key) return {entry.middle, false};
            if (entry.key != none) continue;
            entry.key = key;
            return {entry.middle, true};
        }
    }

  private:
    static constexpr uint64_t none = ~uint64_t(0);
    struct Entry {
        uint64_t key = none;
        uint32_t middle = ~0u;
    };
    std::vector<Entry> entries_;
};

enum class Edge { Stays, Parts, Tears };
using EdgeTest = std::function<Edge(uint32_t a, uint32_t b)>;

/// Whether facets whose edges are parted into so many each (`parts(facet, side)`, at least 1) would be far too many:
/// what cannot be done is refused before it is tried.
template <class Parts> bool asks_too_much(const TriMesh& mesh, Parts parts_of) {
    double wanted = 0;
    for (size_t i = 0; i < mesh.triangles.size() && wanted < 1.5 * most_facets; ++i) {
        double parts[3];
        for (int k = 0; k < 3; ++k) parts[k] = std::max(1.0, parts_of(i, k));
        std::sort(parts, parts + 3);
        wanted += parts[1] * parts[2];
    }
    return wanted >= 1.5 * most_facets;
}

/// Asked first, and of both facets of every edge: that costs far less than to remember each edge of a fine mesh.
bool all_stay(const TriMesh& mesh, const EdgeTest& test) {
    for (const Triangle& t : mesh.triangles)
        for (size_t k = 0; k < 3; ++k)
            if (test(std::min(t[k], t[(k + 1) % 3]), std::max(t[k], t[(k + 1) % 3])) != Edge::Stays) return false;
    return true;
}

/// Halves every edge the test names, round after round; the test is made anew for the mesh of each round.
Expected<TriMesh> halved(const TriMesh& mesh, const std::function<EdgeTest(const TriMesh&)>& test_of,
                         const Task& task) {
    TriMesh now = mesh;
    const bool tagged = mesh.tags.size() == mesh.triangles.size();
    for (int round = 0; round < 24; ++round) {
        if (task.stopped()) return cancelled();
        const EdgeTest test = test_of(now);
        if (all_stay(now, test)) return now;
        bool torn = false;
        EdgeMiddles middles(3 * now.triangles.size());          // of an open mesh each edge may be its facet's own
        auto middle = [&](uint32_t a, uint32_t b) -> uint32_t { // ~0u: the edge may stay
            auto [known, fresh] = middles.of(a, b);
            // Both sides ask in the same order: the answer must not depend on it.
            const Edge does = fresh ? test(std::min(a, b), std::max(a, b)) : Edge::Stays;
            torn = torn || does == Edge::Tears;
            if (does == Edge::Parts) {
                known = uint32_t(now.vertices.size());
                const Vec3 m = (now.vertices[a] + now.vertices[b]) / 2;
                now.vertices.push_back(m);
            }
            return known;
        };
        std::vector<Triangle> triangles;
        std::vector<Tag> tags;
        triangles.reserve(now.triangles.size() * 2);
        for (size_t i = 0; i < now.triangles.size(); ++i) {
            const Triangle t = now.triangles[i];
            uint32_t m[3];
            int count = 0;
            for (int k = 0; k < 3; ++k) {
                m[k] = middle(t[size_t(k)], t[size_t((k + 1) % 3)]);
                count += m[k] != ~0u;
            }
            auto add = [&](uint32_t a, uint32_t b, uint32_t c) {
                triangles.push_back({a, b, c});
                if (tagged) tags.push_back(now.tags[i]);
            };
            if (count == 0) {
                add(t[0], t[1], t[2]);
            } else if (count == 3) {
                add(t[0], m[0], m[2]);
                add(m[0], t[1], m[1]);
                add(m[2], m[1], t[2]);
                add(m[0], m[1], m[2]);
            } else {
                // Turned so that the first edge is parted and, of two, the second as well.
                int k = 0;
                while (m[k] == ~0u || (count == 2 && m[(k + 1) % 3] == ~0u)) ++k;
                uint32_t a = t[size_t(k)], b = t[size_t((k + 1) % 3)], c = t[size_t((k + 2) % 3)], ab = m[k];
                if (count == 1) {
                    add(a, ab, c);
                    add(ab, b, c);
                } else {
                    uint32_t bc = m[(k + 1) % 3];
                    add(ab, b, bc);
                    // The shorter diagonal of what is left.
                    if ((now.vertices[a] - now.vertices[bc]).squaredNorm() <
                        (now.vertices[ab] - now.vertices[c]).squaredNorm()) {
                        add(a, ab, bc);
                        add(a, bc, c);
                    } else {
                        add(a, ab, c);
                        add(ab, bc, c);
                    }
                }
            }
        }
        now.triangles.swap(triangles);
        now.tags.swap(tags);
        if (torn || now.triangles.size() > most_facets) return too_many();
    }
    return now;
}

} // namespace

Expected<TriMesh> refined(const TriMesh& mesh,
                          const std::function<double(const Vec3& at, const Vec3& along)>& longest_mm,
                          const Task& task) {
    auto parts_of = [&](size_t i, int k) {
        const Vec3 d = mesh.corner(i, (k + 1) % 3) - mesh.corner(i, k);
        const Vec3 middle = (mesh.corner(i, 0) + mesh.corner(i, 1) + mesh.corner(i, 2)) / 3;
        return d.norm() / std::max(longest_mm(middle, d.normalized()), 1e-9);
    };
    if (asks_too_much(mesh, parts_of)) return too_many();
    auto test_of = [&](const TriMesh& now) -> EdgeTest {
        return [&](uint32_t a, uint32_t b) {
            const Vec3 &p = now.vertices[a], &q = now.vertices[b];
            const Vec3 d = q - p;
            const double limit = longest_mm((p + q) / 2, d.normalized());
            if (d.norm() <= limit) return Edge::Stays;
            // No tolerance asks for that: the map has a place it tears at, and halving would go on there.
            return limit < 1e-3 ? Edge::Tears : Edge::Parts;
        };
    };
    return halved(mesh, test_of, task);
}

Expected<TriMesh> refined_between(const TriMesh& mesh, const std::vector<uint8_t>& marked, double longest_mm,
                                  const Task& task) {
    const auto is_marked = [&](uint32_t v) { return v >= marked.size() || marked[v]; };
    const auto parts_of = [&](size_t i, int k) {
        const Triangle& t = mesh.triangles[i];
        const uint32_t a = t[size_t(k)], b = t[size_t((k + 1) % 3)];
        return is_marked(a) && is_marked(b) ? (mesh.vertices[b] - mesh.vertices[a]).norm() / longest_mm : 1;
    };
    if (asks_too_much(mesh, parts_of)) return too_many();
    const auto test_of = [&](const TriMesh& now) -> EdgeTest {
        return [&](uint32_t a, uint32_t b) {
            const bool parts = is_marked(a) && is_marked(b) && (now.vertices[b] - now.vertices[a]).norm() > longest_mm;
            return parts ? Edge::Parts : Edge::Stays;
        };
    };
    return halved(mesh, test_of, task);
}

namespace {

/// How far a map moves the middles of edges off what their ends become.
class Departure {
  public:
    Departure(const TriMesh& mesh, const std::function<Vec3(const Vec3&)>& map) : mesh_(mesh), map_(map) {
        moved_.resize(mesh.vertices.size());
        std::transform(mesh.vertices.begin(), mesh.vertices.end(), moved_.begin(), map);
        edges_.reserve(mesh.triangles.size() * 3 / 2);
        for (const Triangle& t : mesh.triangles) {
            const Vec3 before = normal(t, mesh.vertices), after = normal(t, moved_);
            for (size_t k = 0; k < 3; ++k) {
                Beside& edge = edges_[edge_key(t[k], t[(k + 1) % 3])];
                if (edge.facets++ == 0) {
                    edge.before = before;
                    edge.after = after;
                }
                edge.flat = edge.flat && before.dot(edge.before) > 1 - 1e-12 && after.allFinite();
            }
        }
    }
    double of(uint32_t a, uint32_t b) const {
        const Vec3 off = map_((mesh_.vertices[a] + mesh_.vertices[b]) / 2) - (moved_[a] + moved_[b]) / 2;
        const Beside& edge = edges_.at(edge_key(a, b));
        // Within a flat place only what leaves the plane counts: where its corners slide in it tells nobody.
        return edge.flat && edge.facets > 1 ? std::fabs(off.dot(edge.after)) : off.norm();
    }

  private:
    struct Beside { // of an edge: the first facet's normal, and whether the others lie in its plane
        Vec3 before, after;
        int facets = 0;
        bool flat = true;
    };
    static Vec3 normal(const Triangle& t, const std::vector<Vec3>& at) {
        return (at[t[1]] - at[t[0]]).cross(at[t[2]] - at[t[0]]).normalized();
    }

    const TriMesh& mesh_;
    const std::function<Vec3(const Vec3&)>& map_;
    std::vector<Vec3> moved_;
    std::unordered_map<uint64_t, Beside> edges_;
};

} // namespace

Expected<TriMesh> refined_for(const TriMesh& mesh, const std::function<Vec3(const Vec3&)>& map, double within_mm,
                              const Task& task) {
    auto departure = std::make_shared<const Departure>(mesh, map);
    auto parts_of = [&](size_t i, int k) { // halving an edge leaves a quarter of its departure
        const Triangle& t = mesh.triangles[i];
        return std::sqrt(departure->of(t[size_t(k)], t[size_t((k + 1) % 3)]) / within_mm);
    };
    if (asks_too_much(mesh, parts_of)) return too_many();
    auto test_of = [&](const TriMesh& now) -> EdgeTest {
        if (!departure) departure = std::make_shared<const Departure>(now, map); // the first round has the first one
        return [its = std::exchange(departure, nullptr), within_mm](uint32_t a, uint32_t b) {
            return its->of(a, b) > within_mm ? Edge::Parts : Edge::Stays;
        };
    };
    return halved(mesh, test_of, task);
}

TriMesh parted_at(const TriMesh& mesh, int axis, std::vector<double> places) {
    constexpr double on_mm = 1e-6;
    std::sort(places.begin(), places.end());
    places.erase(std::unique(places.begin(), places.end(), [](double a, double b) { return b - a < 4 * on_mm; }),
                 places.end());
    TriMesh result;
    result.vertices = mesh.vertices;
    const bool tagged = mesh.tags.size() == mesh.triangles.size();
    // Twice the place's number for what lies on it, odd between places: 0 on the first, -1 below, 1 above it.
    auto level_of = [&](double d) {
        auto next = std::lower_bound(places.begin(), places.end(), d - on_mm);
        const long k = next - places.begin();
        return next != places.end() && *next <= d + on_mm ? 2 * k : 2 * k - 1;
    };
    std::vector<long> level(mesh.vertices.size());
    for (size_t v = 0; v < level.size(); ++v) level[v] = level_of(mesh.vertices[v][axis]);
    std::map<std::tuple<uint32_t, uint32_t, long>, uint32_t> crossings;
    auto crossing = [&](uint32_t a, uint32_t b, long at) { // both facets of an edge get the same vertex
        if (a > b) std::swap(a, b);
        auto [it, fresh] = crossings.try_emplace({a, b, at}, uint32_t(result.vertices.size()));
        if (fresh) {
            const Vec3 &p = mesh.vertices[a], &q = mesh.vertices[b];
            const double place = places[size_t(at / 2)];
            Vec3 x = p + (place - p[axis]) / (q[axis] - p[axis]) * (q - p);
            x[axis] = place;
            result.vertices.push_back(x);
        }
        return it->second;
    };
    std::vector<std::pair<uint32_t, long>> ring; // round the facet: its corners, and where it crosses
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        const Triangle& t = mesh.triangles[i];
        ring.clear();
        for (size_t k = 0; k < 3; ++k) {
            const uint32_t a = t[k], b = t[(k + 1) % 3];
            const long from = level[a], to = level[b];
            ring.emplace_back(a, from);
            if (from < to) {
                for (long l = from + 1 + ((from + 1) & 1); l < to; l += 2) ring.emplace_back(crossing(a, b, l), l);
            } else {
                for (long l = from - 1 - ((from - 1) & 1); l > to; l -= 2) ring.emplace_back(crossing(a, b, l), l);
            }
        }
        auto [lowest, highest] = std::minmax({level[t[0]], level[t[1]], level[t[2]]});
        auto add = [&](uint32_t a, uint32_t b, uint32_t c) {
            result.triangles.push_back({a, b, c});
            if (tagged) result.tags.push_back(mesh.tags[i]);
        };
        if (lowest == highest) {
            add(t[0], t[1], t[2]);
            continue;
        }
        // Each slab's share is convex and fanned: what lies between its two places or on them.
        for (long slab = lowest | 1; slab <= highest; slab += 2) {
            std::vector<uint32_t> share;
            for (auto [v, l] : ring)
                if (l >= slab - 1 && l <= slab + 1) share.push_back(v);
            for (size_t k = 2; k < share.size(); ++k) add(share[0], share[k - 1], share[k]);
        }
    }
    return result;
}

namespace {

/// Where a place crosses an edge between two facets of one plane, the corner only divides the line along the place: it
/// is drawn into its neighbour on that line. Corners up to `first` were there before and stay.
void drop_crossings_in_flat_places(TriMesh& mesh, size_t first, int axis) {
    constexpr double level_mm = 1e-9;
    std::vector<std::vector<uint32_t>> around(mesh.vertices.size()); // facets
    for (uint32_t i = 0; i < mesh.triangles.size(); ++i)
        for (uint32_t v : mesh.triangles[i]) around[v].push_back(i);
    std::vector<char> gone(mesh.triangles.size(), 0);
    const auto holds = [&](uint32_t facet, uint32_t v) {
        const Triangle& t = mesh.triangles[facet];
        return t[0] == v || t[1] == v || t[2] == v;
    };
    const auto draw_into = [&](uint32_t v, uint32_t into) {
        const Vec3 normal = mesh.area_vector(around[v][0]).normalized();
        size_t lost = 0;
        for (uint32_t facet : around[v]) {
            if (mesh.area_vector(facet).normalized().dot(normal) < 1 - 1e-12) return false;
            if (holds(facet, into)) {
                ++lost;
                continue;
            }
            Triangle t = mesh.triangles[facet];
            std::replace(t.begin(), t.end(), v, into);
            const Vec3 &a = mesh.vertices[t[0]], &b = mesh.vertices[t[1]], &c = mesh.vertices[t[2]];
            if ((b - a).cross(c - a).dot(normal) < 1e-9) return false;
        }
        if (lost != 2) return false; // an edge of the surface, or a place where it meets itself
        for (uint32_t facet : around[v]) {
            if (holds(facet, into)) {
                gone[facet] = 1;
                for (uint32_t other : mesh.triangles[facet])
                    if (other != v) std::erase(around[other], facet);
            } else {
                std::replace(mesh.triangles[facet].begin(), mesh.triangles[facet].end(), v, into);
                around[into].push_back(facet);
            }
        }
        around[v].clear();
        return true;
    };
    for (uint32_t v = uint32_t(first); v < mesh.vertices.size(); ++v) {
        std::vector<uint32_t> beside; // on the same place
        for (uint32_t facet : around[v])
            for (uint32_t other : mesh.triangles[facet])
                if (other != v && std::fabs(mesh.vertices[other][axis] - mesh.vertices[v][axis]) < level_mm)
                    beside.push_back(other);
        for (uint32_t other : beside)
            if (!around[v].empty() && draw_into(v, other)) break;
    }
    size_t kept = 0;
    const bool tagged = mesh.tags.size() == mesh.triangles.size();
    for (size_t i = 0; i < gone.size(); ++i) {
        if (gone[i]) continue;
        mesh.triangles[kept] = mesh.triangles[i];
        if (tagged) mesh.tags[kept] = mesh.tags[i];
        ++kept;
    }
    mesh.triangles.resize(kept);
    if (tagged) mesh.tags.resize(kept);
    mesh = welded(mesh); // without the corners nobody uses
}

} // namespace

TriMesh parted_in_strips(const TriMesh& mesh, int axis, const std::vector<double>& places) {
    TriMesh result = parted_at(mesh, axis, places);
    drop_crossings_in_flat_places(result, mesh.vertices.size(), axis);
    return result;
}

} // namespace lp
