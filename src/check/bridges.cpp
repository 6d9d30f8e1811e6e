#include "check/bridges.h"
#include "base/tolerance.h"
#include "mesh/topology.h"
#include <algorithm>
#include <numbers>

namespace lp {
namespace {

constexpr double straight_down = -0.99863; ///< cos 177 degrees
constexpr double held_share = 0.75;
constexpr size_t most_lines = 240; ///< across a roof, each way: text sunk from below has thousands of corners

struct Side {
    Vec2 a, b;
    bool held;
};

/// The facets beyond the sides of flat ones; with more than two at an edge, one of them.
class Beyond {
  public:
    static constexpr uint32_t none = ~0u;
    Beyond(const TriMesh& mesh, const std::vector<char>& flat) : sides_(3 * flat.size(), none) {
        const Topology topology = build_topology(mesh);
        for (const MeshEdge& edge : topology.edges) {
            const MeshHalfEdge* halves = topology.half_edges.data() + edge.first;
            for (uint32_t h = 0; h < edge.count && edge.count > 1; ++h) {
                const uint32_t f = halves[h].triangle;
                if (!flat[f]) continue;
                const Triangle& t = mesh.triangles[f];
                for (size_t k = 0; k < 3; ++k)
                    if (std::minmax(t[k], t[(k + 1) % 3]) ==
                        std::pair<const uint32_t&, const uint32_t&>(edge.a, edge.b))
                        sides_[3 * f + k] = halves[(h + 1) % edge.count].triangle;
            }
        }
    }
    uint32_t operator()(uint32_t facet, size_t side) const { return sides_[3 * facet + side]; }

  private:
    std::vector<uint32_t> sides_;
};

struct Reach {
    double span_mm = 0;
    double held = 0; ///< share of the area with lines held at both ends
};

/// Lines along a direction across a region: the longest one held at both ends, and how much of the region those cover.
Reach reach_along(const std::vector<Side>& sides, const Vec2& along) {
    struct Turned {
        double x0, y0, x1, y1;
        bool held;
    };
    std::vector<Turned> turned;
    std::vector<double> heights;
    for (const Side& s : sides) {
        Turned t{along.dot(s.a), along.x() * s.a.y() - along.y() * s.a.x(), along.dot(s.b),
                 along.x() * s.b.y() - along.y() * s.b.x(), s.held};
        if (t.y0 > t.y1) std::swap(t.x0, t.x1), std::swap(t.y0, t.y1);
        turned.push_back(t);
        heights.insert(heights.end(), {t.y0, t.y1});
    }
    std::sort(heights.begin(), heights.end());
    std::vector<double> bands{heights.front()};
    const double least = std::max(1e-6, (heights.back() - heights.front()) / double(most_lines));
    for (double y : heights)
        if (y - bands.back() > (bands.size() > most_lines ? least : 1e-6)) bands.push_back(y);
    Reach reach;
    double area = 0, held_area = 0;
    std::vector<std::pair<double, bool>> crossings;
    for (size_t i = 0; i + 1 < bands.size(); ++i) {
        const double low = bands[i], high = bands[i + 1];
        for (double part : {1e-4, 1 - 1e-4}) { // between two corners lengths are linear
            const double y = low + part * (high - low);
            crossings.clear();
            for (const Turned& t : turned)
                if (t.y0 < y && t.y1 >= y)
                    crossings.push_back({t.x0 + (t.x1 - t.x0) * (y - t.y0) / (t.y1 - t.y0), t.held});
            std::sort(crossings.begin(), crossings.end());
            for (size_t k = 0; k + 1 < crossings.size(); k += 2) {
                const double length = crossings[k + 1].first - crossings[k].first;
                area += length * (high - low) / 2;
                if (!crossings[k].second || !crossings[k + 1].second) continue;
                held_area += length * (high - low) / 2;
                reach.span_mm = std::max(reach.span_mm, length);
            }
        }
    }
    reach.held = area > 0 ? held_area / area : 0;
    return reach;
}

/// Every five degrees, and square to the longest sides that hold: exactly across.
std::vector<Vec2> directions(const std::vector<Side>& sides) {
    std::vector<Vec2> result;
    for (int deg = 0; deg < 180; deg += 5) result.emplace_back(std::cos(radians(deg)), std::sin(radians(deg)));
    std::vector<Vec2> long_ones;
    for (const Side& s : sides)
        if (s.held) long_ones.push_back(s.b - s.a);
    const size_t most = std::min<size_t>(12, long_ones.size());
    std::partial_sort(long_ones.begin(), long_ones.begin() + long(most), long_ones.end(),
                      [](const Vec2& a, const Vec2& b) { return a.squaredNorm() > b.squaredNorm(); });
    for (size_t i = 0; i < most; ++i) result.push_back(Vec2(-long_ones[i].y(), long_ones[i].x()).normalized());
    return result;
}

void find_span(const std::vector<Side>& sides, Roof& roof) {
    const bool any = std::any_of(sides.begin(), sides.end(), [](const Side& s) { return s.held; });
    roof.held_around = std::all_of(sides.begin(), sides.end(), [](const Side& s) { return s.held; });
    if (!any) return;
    for (const Vec2& along : directions(sides)) {
        const Reach reach = reach_along(sides, along);
        if (reach.held < held_share || (roof.span_mm && *roof.span_mm <= reach.span_mm)) continue;
        roof.span_mm = reach.span_mm;
        roof.along = Vec3(along.x(), along.y(), 0);
    }
}

} // namespace

std::vector<Roof> find_roofs(const TriMesh& posed, const Task& task) {
    std::vector<Roof> roofs;
    if (posed.empty()) return roofs;
    const double floor = bounding_box(posed).min().z();
    std::vector<char> flat(posed.triangles.size(), 0);
    for (size_t i = 0; i < flat.size(); ++i) {
        const Vec3 n = posed.area_vector(i);
        const double high = std::max({posed.corner(i, 0).z(), posed.corner(i, 1).z(), posed.corner(i, 2).z()});
        flat[i] = n.norm() > 0 && n.z() < straight_down * n.norm() && high - floor > tolerance::on_bed_mm;
    }
    if (std::find(flat.begin(), flat.end(), 1) == flat.end()) return roofs;
    const Beyond beyond(posed, flat);
    std::vector<uint32_t> roof_of(flat.size(), Beyond::none);
    for (uint32_t seed = 0; seed < flat.size() && !task.stopped(); ++seed) {
        if (!flat[seed]) continue;
        std::vector<uint32_t> facets{seed};
        std::vector<Side> sides;
        flat[seed] = 0;
        roof_of[seed] = uint32_t(roofs.size());
        Roof roof;
        for (size_t at = 0; at < facets.size(); ++at) {
            const uint32_t f = facets[at];
            const double area = posed.area_vector(f).norm() / 2;
            roof.area_mm2 += area;
            roof.middle += area / 3 * (posed.corner(f, 0) + posed.corner(f, 1) + posed.corner(f, 2));
            for (size_t k = 0; k < 3; ++k) {
                const uint32_t g = beyond(f, k);
                if (g != Beyond::none && roof_of[g] == roofs.size()) continue;
                if (g != Beyond::none && flat[g]) {
                    flat[g] = 0;
                    roof_of[g] = uint32_t(roofs.size());
                    facets.push_back(g);
                    continue;
                }
                const Vec3 &a = posed.corner(f, int(k)), &b = posed.corner(f, int((k + 1) % 3));
                bool held = false;
                if (g != Beyond::none)
                    for (int c = 0; c < 3; ++c) held = held || posed.corner(g, c).z() < std::min(a.z(), b.z()) - 1e-3;
                sides.push_back({a.head<2>(), b.head<2>(), held});
            }
        }
        roof.middle /= roof.area_mm2;
        find_span(sides, roof);
        roofs.push_back(roof);
    }
    std::sort(roofs.begin(), roofs.end(), [](const Roof& a, const Roof& b) { return a.area_mm2 > b.area_mm2; });
    return roofs;
}

} // namespace lp
