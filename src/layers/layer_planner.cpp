#include "layers/layer_planner.h"
#include "layers/region_tools.h"
#include <algorithm>
#include <numbers>
#include <numeric>

namespace lp {
namespace {

constexpr double fine_arc_mm = 0.004, arc_mm = 0.01,
                 coarse_arc_mm = 0.03; ///< what fits are judged by; walls; where only
constexpr double fine_clean_mm = 0.002, clean_mm = 0.005;
const Vec2 rear(0, 1e3); ///< seams begin there

/// A wider or narrower wall keeps its outer edge: its middle moves inward or outward.
Polyline shifted(const Polyline& run, double by, bool closed) {
    if (std::fabs(by) < 0.002 || run.size() < 2) return run;
    Polyline out;
    const size_t n = run.size();
    for (size_t i = 0; i < n; ++i) {
        const Vec2 a = i > 0    ? run[i - 1]
                       : closed ? run[n - 1]
                                : run[i],
                   b = i + 1 < n ? run[i + 1]
                       : closed  ? run[0]
                                 : run[i];
        out.push_back((b - a).norm() > 1e-9 ? Vec2(run[i] + inward_normal(a, b) * by) : run[i]);
    }
    return out;
}

Polyline& places_of(Polyline& line) {
    return line;
}
Polyline& places_of(CentreLine& line) {
    return line.places;
}

} // namespace

LayerPlanner::LayerPlanner(const LineOptions& options, const LayerInput& input, LayerLines& out)
    : options_(options), input_(input), out_(out), width_(options.width_mm),
      height_(options.heights.thickness(input.index)), top_(options.heights.bottom(input.index) + height_), at_(rear),
      seam_(rear) {}

void LayerPlanner::run() {
    Region air;
    if (input_.index > 0) {
        const double step = height_ * std::tan(radians(std::min(options_.overhang_limit_deg, 89.0)));
        air = swept_by_disc(subtract_regions(input_.part, offset_region(input_.below, step)), width_ / 2);
    }
    for (const Region& piece : pieces_of(input_.part)) island(piece, air);
    if (!input_.support.empty()) support();
}

double LayerPlanner::diagonal() const {
    return (input_.index % 2 ? 1 : 3) * std::numbers::pi / 4;
}

void LayerPlanner::island(const Region& island, const Region& air) {
    Region rest = island, solid, bridge;
    walls(rest, options_.walls, LineKind::OuterWall, LineKind::InnerWall);
    if (rest.empty()) return;
    solid_and_bridges(rest, air, solid, bridge);
    fill_solid(solid);
    sparse(rest, solid, bridge);
}

void LayerPlanner::solid_and_bridges(const Region& rest, const Region& air, Region& solid, Region& bridge) {
    solid = subtract_regions(rest, input_.covered);
    // Crumbs go, the rest gets a rim to hold on and to lie under the walls above.
    solid = offset_region(offset_region(solid, -width_ / 4), width_ / 4 + 1.5 * width_);
    if (!input_.solid.empty())
        solid = unite_regions(solid, offset_region(input_.solid, width_)); // its rim would be ragged
    if (options_.infill_percent >= 99) solid = rest;
    solid = intersect_regions(solid, rest);
    constexpr double least_mm2 = 1, bed_mm = 1.2; // a bridge; how far it lies on what holds it
    if (air.empty()) return;
    const Region mine = intersect_regions(air, rest);
    if (region_area_mm2(mine) < least_mm2) return;
    for (const Region& piece : pieces_of(mine)) {
        if (region_area_mm2(piece) < least_mm2) continue;
        const BridgeDirection direction = best_bridge(piece, input_.below, width_);
        if (direction.loose_share > 0.5) continue; // no bridge: it hangs, and is filled as the rest
        const Region bed = intersect_regions(offset_region(piece, bed_mm), rest);
        bridge = unite_regions(bridge, bed);
        rows(bed, direction.angle_rad, LineKind::Bridge);
    }
    solid = subtract_regions(solid, bridge);
}

void LayerPlanner::walls(Region& rest, int n, LineKind outermost, LineKind inner) {
    std::vector<Region> loops;
    std::vector<char> shared;
    std::vector<CentreLine> thin;
    const double least = width_ / 2; // narrower gaps are taken by widening the walls beside them
    const double reach = (2 * std::min(n, 4) + 1.5) * width_;
    auto narrow = [&] { return FacingWalls(rest).narrowest(reach); };
    double gap = narrow(); // a lower bound of the narrowest place of `rest`
    const bool stout = gap >= reach && n <= 4;
    for (int i = 0; i < n && !rest.empty(); ++i) {
        const bool skin = i == 0 && outermost == LineKind::OuterWall;
        if (!stout && gap < 1.5 * width_) {
            take_thin(rest, skin ? options_.thinnest_mm : least, thin);
            gap = narrow();
        }
        Region middles = offset_region(rest, -width_ / 2, skin ? fine_arc_mm : arc_mm);
        ClipperLib::CleanPolygons(middles, (skin ? fine_clean_mm : clean_mm) * clipper_grid);
        const bool share = !stout && gap < 2.5 * width_; // two passes nearer than 1.5 lines somewhere
        rest = share ? offset_region(offset_region(middles, -(width_ + least) / 2, 0.02), least / 2, 0.02)
                     : offset_region(middles, -width_ / 2);
        ClipperLib::CleanPolygons(rest, 0.003 * clipper_grid);
        gap = share ? narrow() : gap - 2 * width_;
        loops.push_back(std::move(middles));
        shared.push_back(share);
    }
    if (!stout && gap < 1.5 * width_ && !rest.empty()) take_thin(rest, least, thin);
    for (size_t i = loops.size(); i-- > 0;) // inner ones first: they hold the outer over air
        lay_walls(loops[i], i == 0 ? outermost : inner, shared[i] != 0);
    for (const CentreLine& line : nearest_first(thin)) put(line.places, line.width_mm, LineKind::Gap, line.closed);
}

void LayerPlanner::take_thin(Region& rest, double least_mm, std::vector<CentreLine>& thin) const {
    Region narrow = subtract_regions(rest, swept_by_disc(rest, 0.75 * width_, coarse_arc_mm));
    if (narrow.empty()) return;
    ClipperLib::CleanPolygons(narrow, clean_mm * clipper_grid);
    narrow = intersect_regions(
        offset_region(offset_region(narrow, -least_mm / 2, coarse_arc_mm), least_mm / 2 + 0.002, coarse_arc_mm), rest);
    if (region_area_mm2(narrow) < least_mm * least_mm) return;
    rest = subtract_regions(rest, narrow);
    constexpr double step_of_width = 0.8;
    for (Region& piece : pieces_of(narrow)) {
        if (region_area_mm2(piece) < least_mm * least_mm) continue;
        ClipperLib::CleanPolygons(piece, 0.01 * clipper_grid);
        for (CentreLine& line : centre_lines(piece, step_of_width * width_)) thin.push_back(std::move(line));
    }
}

void LayerPlanner::lay_walls(const Region& middles, LineKind kind, bool may_be_thin) {
    std::vector<const ClipperLib::Path*> loops;
    for (const ClipperLib::Path& loop : middles)
        if (loop.size() >= 3) loops.push_back(&loop);
    const FacingWalls facing(may_be_thin ? middles : Region{});
    for (size_t done = 0; done < loops.size(); ++done) {
        auto away = [&](const ClipperLib::Path* loop) { return (place_of((*loop)[0]) - at_).squaredNorm(); };
        std::iter_swap(loops.begin() + long(done),
                       std::min_element(loops.begin() + long(done), loops.end(),
                                        [&](auto* a, auto* b) { return away(a) < away(b); }));
        const ClipperLib::Path& loop = *loops[done];
        const size_t n = loop.size(), start = seam_of(loop);
        if (kind == LineKind::OuterWall) seam_ = place_of(loop[start]);
        Polyline places;
        for (size_t i = 0; i < n; ++i) places.push_back(place_of(loop[(start + i) % n]));
        const bool round_hole = !ClipperLib::Orientation(loop);
        if (may_be_thin)
            lay_shared_wall(places, kind, round_hole, facing);
        else
            put(places, width_, kind, true, round_hole);
    }
}

void LayerPlanner::lay_shared_wall(const Polyline& loop, LineKind kind, bool round_hole, const FacingWalls& facing) {
    Polyline run{loop[0]};
    double run_width = 0;
    bool whole = true;
    for (size_t i = 0; i < loop.size(); ++i) {
        const Vec2 a = loop[i], b = loop[(i + 1) % loop.size()];
        const double length = (b - a).norm();
        if (length < 1e-9) continue;
        const Vec2 normal = inward_normal(a, b);
        const int steps = std::max(1, int(std::ceil(length / width_)));
        for (int j = 0; j < steps; ++j) {
            const double d = facing.distance(a + (b - a) * ((j + 0.5) / steps), normal, 1.5 * width_),
                         width = d < 1.5 * width_ ? (d + width_) / 2 : width_;
            if (run_width > 0 && std::fabs(width - run_width) > 0.08 * width_) {
                put(shifted(run, (run_width - width_) / 2, false), run_width, kind, false, round_hole);
                run = {run.back()};
                whole = false;
                run_width = 0;
            }
            if (run_width == 0) run_width = width;
            const Vec2 to = a + (b - a) * (double(j + 1) / steps);
            if (j > 0 && run.size() > 1)
                run.back() = to; // straight on
            else
                run.push_back(to);
        }
    }
    if (whole) run.pop_back();
    put(shifted(run, (run_width - width_) / 2, whole), run_width, kind, whole, round_hole);
}

size_t LayerPlanner::seam_of(const ClipperLib::Path& loop) const {
    size_t best = 0;
    const size_t n = loop.size();
    double least = 1e18;
    for (size_t i = 0; i < n; ++i) {
        const Vec2 b = place_of(loop[i]), u = b - place_of(loop[(i + n - 1) % n]), v = place_of(loop[(i + 1) % n]) - b;
        const double turn = std::atan2(u.x() * v.y() - u.y() * v.x(), u.dot(v)); // to the left: an outer corner
        const double cost =
            (b - seam_).norm() / 10 - (turn < 0 ? 2 : 1) * std::min(std::fabs(turn), std::numbers::pi / 2);
        if (cost < least) {
            least = cost;
            best = i;
        }
    }
    return best;
}

void LayerPlanner::fill_solid(const Region& region) {
    if (region.empty()) return;
    // Rings and ribs of a few lines: closed lines fill them evenly, rows do not.
    const Region wide = swept_by_disc(region, 3 * width_);
    const Region slim =
        wide.empty() ? region : swept_by_disc(subtract_regions(region, offset_region(wide, 0.1)), width_);
    Region rest = slim;
    if (!slim.empty()) walls(rest, 8, LineKind::Solid, LineKind::Solid);
    if (!wide.empty()) rows(slim.empty() ? region : subtract_regions(region, slim), diagonal(), LineKind::Solid);
}

void LayerPlanner::rows(const Region& region, double angle, LineKind kind) {
    for (const Region& piece : pieces_of(offset_region(region, -0.48 * width_)))
        for (const Polyline& line : nearest_first(hatch(piece, {angle, width_, true, RowSpacing::Fitted})))
            put(line, width_, kind, false);
}

void LayerPlanner::sparse(const Region& rest, const Region& solid, const Region& bridge) {
    Region region = subtract_regions(subtract_regions(rest, solid), bridge);
    if (options_.infill_percent <= 0 || region.empty()) return;
    region = offset_region(region, -0.35 * width_);
    const double spacing = width_ / (options_.infill_percent / 100);
    std::vector<Polyline> lines;
    switch (options_.infill) {
    case Infill::Gyroid:
        lines = gyroid(region, 2.43 * spacing, top_);
        break;
    case Infill::Grid:
        lines = hatch(region, {std::numbers::pi / 4, 2 * spacing, false, RowSpacing::OnAGrid});
        for (Polyline& line : hatch(region, {3 * std::numbers::pi / 4, 2 * spacing, false, RowSpacing::OnAGrid}))
            lines.push_back(std::move(line));
        break;
    case Infill::Lines:
        lines = hatch(region, {diagonal(), spacing, false, RowSpacing::OnAGrid});
        break;
    }
    for (const Polyline& line : nearest_first(std::move(lines))) put(line, width_, LineKind::Sparse, false);
}

void LayerPlanner::support() {
    constexpr double apart_mm = 2;
    for (const Region& piece : pieces_of(input_.support)) {
        const Region middle = offset_region(piece, -width_ / 2);
        for (const ClipperLib::Path& loop : middle) {
            Polyline places;
            for (const auto& p : loop) places.push_back(place_of(p));
            put(places, width_, LineKind::Support, true);
        }
        const Region inside = offset_region(middle, -width_ / 2),
                     floor = intersect_regions(inside, input_.support_floor);
        auto lay = [&](const Region& region, double apart) {
            for (const Polyline& line :
                 nearest_first(hatch(region, {std::numbers::pi / 2, apart, false, RowSpacing::OnAGrid})))
                put(line, width_, LineKind::Support, false);
        };
        lay(subtract_regions(inside, floor), apart_mm);
        lay(floor, width_);
    }
}

/// Greedy: the nearest end next, turned round where its other end is the nearer; looks 400 lines ahead.
template <class Line> std::vector<Line> LayerPlanner::nearest_first(std::vector<Line> lines) const {
    Vec2 here = at_;
    for (size_t i = 0; i < lines.size(); ++i) {
        size_t best = i;
        double least = 1e18;
        bool turn = false;
        for (size_t j = i; j < std::min(lines.size(), i + 400); ++j) {
            const double front = (places_of(lines[j]).front() - here).squaredNorm(),
                         back = (places_of(lines[j]).back() - here).squaredNorm();
            if (std::min(front, back) >= least) continue;
            least = std::min(front, back);
            best = j;
            turn = back < front;
        }
        std::swap(lines[i], lines[best]);
        if (turn) std::reverse(places_of(lines[i]).begin(), places_of(lines[i]).end());
        here = places_of(lines[i]).back();
    }
    return lines;
}

void LayerPlanner::put(const Polyline& places, double width, LineKind kind, bool closed, bool round_hole) {
    if (places.size() < 2) return;
    const double speed = input_.index == 0
                             ? options_.first_layer_speed
                             : std::min(options_.speeds[size_t(kind)], options_.most_flow_mm3_s / (width * height_));
    out_.lines.push_back({uint32_t(out_.places.size()), uint32_t(places.size()), float(width), float(height_),
                          float(speed), kind, closed, round_hole});
    out_.places.insert(out_.places.end(), places.begin(), places.end());
    at_ = closed ? places.front() : places.back();
}

} // namespace lp
