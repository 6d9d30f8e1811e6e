#include "bed/slicing.h"
#include <cmath>
#include <numeric>
#include <tbb/parallel_for.h>
#include <unordered_map>

namespace lp {
namespace {

using ClipperLib::IntPoint;
using ClipperLib::Path;
using ClipperLib::Paths;

Region clip(const Region& a, const Region& b, ClipperLib::ClipType type) {
    ClipperLib::Clipper clipper;
    clipper.AddPaths(a, ClipperLib::ptSubject, true);
    clipper.AddPaths(b, ClipperLib::ptClip, true);
    Paths result;
    clipper.Execute(type, result, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    return result;
}

struct Segment {
    uint64_t starts_on, ends_on; ///< mesh edges
    IntPoint start;
};

uint64_t edge_key(uint32_t a, uint32_t b) {
    return uint64_t(std::min(a, b)) << 32 | std::max(a, b);
}

IntPoint crossing(const TriMesh& mesh, uint32_t a, uint32_t b, double z) {
    if (a > b) std::swap(a, b); // both facets of an edge must compute the very same point
    const Vec3 &p = mesh.vertices[a], &q = mesh.vertices[b];
    double t = (z - p.z()) / (q.z() - p.z());
    return {std::llround((p.x() + (q.x() - p.x()) * t) * clipper_grid),
            std::llround((p.y() + (q.y() - p.y()) * t) * clipper_grid)};
}

/// Section of the listed facets at height z.
Region section(const TriMesh& mesh, const uint32_t* facets, size_t count, double z) {
    std::vector<Segment> segments;
    std::unordered_multimap<uint64_t, uint32_t> starting;
    starting.reserve(count * 2);
    for (size_t f = 0; f < count; ++f) {
        const Triangle& t = mesh.triangles[facets[f]];
        bool above[3];
        for (int k = 0; k < 3; ++k) above[k] = mesh.vertices[t[k]].z() >= z;
        Segment s{};
        bool started = false, ended = false;
        for (int k = 0; k < 3; ++k) {
            uint32_t a = t[k], b = t[(k + 1) % 3];
            if (above[k] == above[(k + 1) % 3]) continue;
            // Seen from above, material lies to the left when walking from the falling to the rising side.
            if (above[k]) {
                s.starts_on = edge_key(a, b);
                s.start = crossing(mesh, a, b, z);
                started = true;
            } else {
                s.ends_on = edge_key(a, b);
                ended = true;
            }
        }
        if (!started || !ended) continue;
        starting.emplace(s.starts_on, uint32_t(segments.size()));
        segments.push_back(s);
    }
    std::vector<char> used(segments.size(), 0);
    Paths loops;
    for (uint32_t i = 0; i < segments.size(); ++i) {
        if (used[i]) continue;
        Path loop;
        uint32_t j = i;
        while (true) {
            used[j] = 1;
            loop.push_back(segments[j].start);
            auto [from, to] = starting.equal_range(segments[j].ends_on);
            auto next = from;
            while (next != to && used[next->second]) ++next;
            if (next == to) break;
            j = next->second;
        }
        if (loop.size() > 2) loops.push_back(std::move(loop));
    }
    ClipperLib::CleanPolygons(loops, 50); // 0.5 micrometres: joins the crumbs of fine meshes
    // Not SimplifyPolygons: it also parts loops where they touch themselves, by looking at all pairs of corners.
    ClipperLib::Clipper clipper;
    clipper.AddPaths(loops, ClipperLib::ptSubject, true);
    Paths result;
    clipper.Execute(ClipperLib::ctUnion, result, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    return result;
}

} // namespace

double region_area_mm2(const Region& region) {
    double area = 0;
    for (const Path& path : region) area += ClipperLib::Area(path);
    return area / clipper_grid / clipper_grid;
}

Region unite_regions(const Region& a, const Region& b) {
    return clip(a, b, ClipperLib::ctUnion);
}
Region subtract_regions(const Region& a, const Region& b) {
    return clip(a, b, ClipperLib::ctDifference);
}
Region intersect_regions(const Region& a, const Region& b) {
    return clip(a, b, ClipperLib::ctIntersection);
}

Region offset_region(const Region& region, double by_mm, double arc_mm) {
    if (region.empty()) return {};
    ClipperLib::ClipperOffset offset(2, arc_mm * clipper_grid);
    offset.AddPaths(region, ClipperLib::jtRound, ClipperLib::etClosedPolygon);
    Paths result;
    offset.Execute(result, by_mm * clipper_grid);
    return result;
}

Region swept_by_disc(const Region& region, double radius_mm, double arc_mm) {
    return offset_region(offset_region(region, -radius_mm, arc_mm), radius_mm, arc_mm);
}

std::vector<Region> pieces_of(const Region& region) {
    ClipperLib::Clipper clipper;
    clipper.AddPaths(region, ClipperLib::ptSubject, true);
    ClipperLib::PolyTree tree;
    clipper.Execute(ClipperLib::ctUnion, tree, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    std::vector<Region> pieces;
    for (const ClipperLib::PolyNode* node = tree.GetFirst(); node; node = node->GetNext()) {
        if (node->IsHole()) continue;
        Region piece{node->Contour};
        for (const ClipperLib::PolyNode* hole : node->Childs) piece.push_back(hole->Contour);
        pieces.push_back(std::move(piece));
    }
    return pieces;
}

Vec2 region_centre(const Region& region) {
    double area = 0;
    Vec2 moment = Vec2::Zero(), sum = Vec2::Zero();
    size_t n = 0;
    for (const Path& path : region)
        for (size_t i = 0; i < path.size(); ++i) {
            Vec2 p(double(path[i].X), double(path[i].Y)),
                q(double(path[(i + 1) % path.size()].X), double(path[(i + 1) % path.size()].Y));
            double c = p.x() * q.y() - q.x() * p.y();
            area += c;
            moment += c * (p + q) / 3;
            sum += p;
            ++n;
        }
    if (std::fabs(area) > 1) return moment / area / clipper_grid;
    return n ? Vec2(sum / double(n) / clipper_grid) : Vec2(0, 0);
}

template <typename Before> LayerHeights::Run LayerHeights::run_where(const Before& before) const {
    Run run{1, first_mm, layer_mm}, found = run;
    auto go_to = [&](double z_mm, double next_mm) {
        const double layers = std::max(0.0, std::round((z_mm - run.z_mm) / run.layer_mm));
        run = {run.first + size_t(layers), run.z_mm + layers * run.layer_mm, next_mm};
        if (!before(run)) return false;
        found = run;
        return true;
    };
    for (const HeightBand& band : bands)
        if (!go_to(band.from_mm, band.layer_mm) || !go_to(band.to_mm, layer_mm)) break;
    return found;
}

size_t LayerHeights::count(double height) const {
    if (height <= 0) return 0;
    // A hundredth of a layer does not make another layer.
    if (height <= first_mm * 1.01) return 1;
    const Run run = run_where([&](const Run& next) { return next.z_mm < height - next.layer_mm * 0.01; });
    return run.first + size_t(std::ceil((height - run.z_mm) / run.layer_mm - 0.01));
}

double LayerHeights::bottom(size_t layer) const {
    if (layer == 0) return 0;
    const Run run = run_where([&](const Run& next) { return next.first <= layer; });
    return run.z_mm + double(layer - run.first) * run.layer_mm;
}

double LayerHeights::thickness(size_t layer) const {
    if (layer == 0) return first_mm;
    return run_where([&](const Run& next) { return next.first <= layer; }).layer_mm;
}

size_t LayerHeights::layer_at(double z_mm) const {
    if (z_mm < first_mm) return 0;
    const Run run = run_where([&](const Run& next) { return next.z_mm <= z_mm; });
    return run.first + size_t((z_mm - run.z_mm) / run.layer_mm);
}

double LayerHeights::thinnest_mm() const {
    double thinnest = layer_mm;
    for (const HeightBand& band : bands) thinnest = std::min(thinnest, band.layer_mm);
    return thinnest;
}

std::optional<Problem> check_bands(const std::vector<HeightBand>& bands) {
    double top = 0;
    for (const HeightBand& band : bands) {
        if (!(band.layer_mm >= 0.02 && band.layer_mm < 5))
            return Problem{ProblemCode::Range, "Layers of that height cannot be laid.", "Use 0.02 to 5 mm."};
        if (!(band.from_mm >= 0 && band.to_mm <= 10'000 && band.to_mm > band.from_mm))
            return Problem{ProblemCode::Range, "Layers of another height need room from below to above.",
                           "Give two heights above the foot: 4 mm to 9 mm."};
        if (band.from_mm < top - 1e-9)
            return Problem{ProblemCode::Range, "Two ranges of layers lie in each other.", "Let one end first."};
        top = band.to_mm;
    }
    return std::nullopt;
}

std::vector<Region> slice(const TriMesh& posed, const LayerHeights& heights, double floor_z, size_t layers,
                          const Task& task) {
    std::vector<Region> result(layers);
    if (posed.empty() || layers == 0) return result;
    std::vector<double> middles(layers);
    for (size_t k = 0; k < layers; ++k) middles[k] = floor_z + heights.bottom(k) + heights.thickness(k) / 2;
    auto middle = [&](size_t k) { return middles[k]; };
    // Layers whose middle plane a facet crosses: low < z <= high in the half-open rule "above means >= z".
    auto range = [&](const Triangle& t, size_t& from, size_t& to) {
        double a = posed.vertices[t[0]].z(), b = posed.vertices[t[1]].z(), c = posed.vertices[t[2]].z();
        double low = std::min({a, b, c}), high = std::max({a, b, c});
        auto first_at_or_above = [&](double z) { // smallest k with middle(k) > z
            if (!(z <= middles.back())) return layers;
            size_t k = std::min(layers, heights.layer_at(z - floor_z));
            while (k > 0 && middle(k - 1) > z) --k;
            while (k < layers && middle(k) <= z) ++k;
            return k;
        };
        from = first_at_or_above(low);
        to = first_at_or_above(high);
    };
    std::vector<uint32_t> start(layers + 1, 0);
    std::vector<std::pair<uint32_t, uint32_t>> ranges(posed.triangles.size());
    for (size_t i = 0; i < posed.triangles.size(); ++i) {
        size_t from, to;
        range(posed.triangles[i], from, to);
        ranges[i] = {uint32_t(from), uint32_t(to)};
        for (size_t k = from; k < to; ++k) ++start[k + 1];
    }
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<uint32_t> facets(start.back());
    {
        std::vector<uint32_t> next(start.begin(), start.end() - 1);
        for (uint32_t i = 0; i < ranges.size(); ++i)
            for (uint32_t k = ranges[i].first; k < ranges[i].second; ++k) facets[next[k]++] = i;
    }
    tbb::parallel_for(size_t(0), layers, [&](size_t k) {
        if (!task.stopped()) result[k] = section(posed, facets.data() + start[k], start[k + 1] - start[k], middle(k));
    });
    return result;
}

} // namespace lp
