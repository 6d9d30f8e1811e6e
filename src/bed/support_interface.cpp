#include "bed/support_interface.h"
#include "base/union_find.h"
#include "bed/stacked_mesh.h"
#include "mesh/arrange_meshes.h"
#include <cmath>
#include <numbers>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr double line_mm = 0.4;     ///< narrower places of a floor are left out
constexpr double fine_mm = 0.02;    ///< of round corners: nothing fits there
constexpr double kept_off_mm = 0.6; ///< from faces that no tip may touch

ClipperLib::IntPoint on_grid(const Vec3& p) {
    return {std::llround(p.x() * clipper_grid), std::llround(p.y() * clipper_grid)};
}

/// The floors of one part, layer by layer.
class Floor {
  public:
    Floor(const TriMesh& posed, const SupportOptions& options, const FacetMarks& marks, const Supports& made,
          const Task& task)
        : posed_(posed), options_(options), marks_(marks), task_(task), heights_(options.heights),
          gap_(size_t(std::ceil(options.gap_mm() / heights_.layer_mm - 0.01))), reach_mm_(options.spacing_mm) {
        double top = 0;
        for (const Vec3& at : made.carried) top = std::max(top, at.z());
        count_ = heights_.count(top + reach_mm_) + 1;
        cut(made);
    }

    /// A region for every layer.
    std::vector<Region> layers() {
        const auto floors = size_t(options_.interface_layers);
        std::vector<Region> laid(count_);
        tbb::parallel_for(size_t(0), count_, [&](size_t k) {
            if (task_.stopped()) return;
            Region floor;
            for (size_t j = k + gap_ + 1; j < std::min(count_, k + gap_ + 1 + floors); ++j)
                floor = unite_regions(floor, hanging_[j]);
            const double beside_mm = std::max(options_.gap_mm(), 0.2) + fine_mm; // its chords cut corners
            for (size_t j = k; j <= std::min(count_ - 1, k + gap_) && !floor.empty(); ++j)
                floor = subtract_regions(floor, offset_region(part_[j], beside_mm, fine_mm));
            laid[k] = swept_by_disc(floor, line_mm / 2, fine_mm);
        });
        return laid;
    }
    double hanging_mm2() const {
        double area = 0;
        for (const Region& region : hanging_) area += region_area_mm2(region);
        return area;
    }
    double bottom(size_t layer) const { return heights_.bottom(layer); }

  private:
    /// All a layer touches at its bottom or its top: a roof between two layers' borders counts as at the lower one.
    void cut(const Supports& made) {
        const double half = heights_.layer_mm / 2 - 1e-4;
        const auto low = slice(posed_, heights_, -half, count_, task_),
                   high = slice(posed_, heights_, half, count_, task_);
        part_.resize(count_);
        hanging_.resize(count_);
        if (task_.stopped()) return;
        tbb::parallel_for(size_t(0), count_, [&](size_t k) {
            part_[k] = unite_regions(low[k], high[k]);
            ClipperLib::CleanPolygons(part_[k], 0.003 * clipper_grid);
        });
        const double step = heights_.layer_mm * std::tan(radians(std::min(options_.overhang_limit_deg, 89.0)));
        tbb::parallel_for(size_t(1), count_, [&](size_t k) {
            if (task_.stopped()) return;
            const Region near = near_tips(made, bottom(k));
            if (near.empty() || part_[k].empty()) return;
            hanging_[k] = intersect_regions(
                subtract_regions(part_[k], offset_region(part_[k - 1], step * 1.01 + 0.002, fine_mm)), near);
            if (!hanging_[k].empty()) hanging_[k] = subtract_regions(hanging_[k], kept_off(k));
        });
    }
    Region near_tips(const Supports& made, double z) const {
        Region discs;
        constexpr int sides = 24;
        for (const Vec3& at : made.carried) {
            if (std::fabs(at.z() - z) > reach_mm_) continue;
            ClipperLib::Path disc;
            for (int i = 0; i < sides; ++i) {
                const double angle = 2 * std::numbers::pi * i / sides;
                disc.push_back(on_grid(at + reach_mm_ * Vec3(std::cos(angle), std::sin(angle), 0)));
            }
            discs.push_back(std::move(disc));
        }
        return discs.empty() ? discs : unite_regions(discs, {});
    }
    Region kept_off(size_t k) const {
        Region off;
        const double low = bottom(k) - heights_.layer_mm, high = bottom(k + 1) + heights_.layer_mm;
        for (size_t i = 0; i < marks_.of.size(); ++i) {
            if (!marks_.keeps_tips_off(i)) continue;
            const Vec3 &a = posed_.corner(i, 0), &b = posed_.corner(i, 1), &c = posed_.corner(i, 2);
            if (std::max({a.z(), b.z(), c.z()}) < low || std::min({a.z(), b.z(), c.z()}) > high) continue;
            ClipperLib::Path facet{on_grid(a), on_grid(b), on_grid(c)};
            if (!ClipperLib::Orientation(facet)) std::reverse(facet.begin(), facet.end());
            off.push_back(std::move(facet));
        }
        return off.empty() ? off : offset_region(unite_regions(off, {}), kept_off_mm, fine_mm);
    }

    const TriMesh& posed_;
    const SupportOptions& options_;
    const FacetMarks& marks_;
    const Task& task_;
    const LayerHeights heights_;
    const size_t gap_;      ///< layers of air over the floor
    const double reach_mm_; ///< from a tip; half the diagonal of their grid leaves none between them
    size_t count_ = 0;
    std::vector<Region> part_, hanging_;
};

/// Pieces of floors that no tip goes into, or that lie on no such piece, are taken out.
void drop_what_nothing_holds(std::vector<Region>& layers, const Supports& made, const LayerHeights& heights) {
    struct Piece {
        size_t layer;
        Region region;
        bool held = false;
    };
    std::vector<Vec3> tips;
    for (const Post& post : made.posts) tips.push_back(post.tip);
    for (const TreeSupport& tree : made.trees) tips.insert(tips.end(), tree.tips.begin(), tree.tips.end());
    std::vector<Piece> pieces;
    std::vector<size_t> first(layers.size() + 1, 0);
    for (size_t k = 0; k < layers.size(); ++k) {
        for (Region& region : pieces_of(layers[k])) pieces.push_back({k, std::move(region)});
        first[k + 1] = pieces.size();
    }
    UnionFind joined(pieces.size());
    for (Piece& piece : pieces) {
        const double low = heights.bottom(piece.layer), high = heights.bottom(piece.layer + 2);
        for (const Vec3& tip : tips)
            if (tip.z() > low && tip.z() < high && ClipperLib::PointInPolygon(on_grid(tip), piece.region.front()) != 0)
                piece.held = true;
        if (piece.layer == 0) continue;
        for (size_t below = first[piece.layer - 1]; below < first[piece.layer]; ++below)
            if (region_area_mm2(intersect_regions(pieces[below].region, piece.region)) > 0.01)
                joined.join(uint32_t(below), uint32_t(&piece - pieces.data()));
    }
    std::vector<char> held(pieces.size(), 0);
    for (size_t i = 0; i < pieces.size(); ++i)
        if (pieces[i].held) held[joined.find(uint32_t(i))] = 1;
    for (size_t k = 0; k < layers.size(); ++k) {
        layers[k].clear();
        for (size_t i = first[k]; i < first[k + 1]; ++i)
            if (held[joined.find(uint32_t(i))])
                layers[k].insert(layers[k].end(), pieces[i].region.begin(), pieces[i].region.end());
    }
}

} // namespace

void add_interface(const TriMesh& posed, const SupportOptions& options, const FacetMarks& marks, Supports& made,
                   const Task& task) {
    if (made.carried.empty()) return;
    Floor floor(posed, options, marks, made, task);
    std::vector<Region> layers = floor.layers();
    if (task.stopped()) return;
    drop_what_nothing_holds(layers, made, options.heights);
    std::vector<double> z;
    for (size_t k = 0; k <= layers.size(); ++k) z.push_back(floor.bottom(k));
    TriMesh plates = stacked_mesh(layers, z, task);
    if (plates.empty() || task.stopped()) return;
    made.interface_mm2 = floor.hanging_mm2();
    auto whole = arrange_meshes(Operation::Join, {made.mesh, plates}, task);
    if (task.stopped()) return;
    if (whole && !whole->empty())
        made.mesh = std::move(*whole);
    else
        append(made.mesh, plates); // shells that overlap print as one
}

} // namespace lp
