#include "bed/support_figures.h"
#include "check/overhang.h"
#include "shape/facet_parts.h"
#include "shape/mesh_distance.h"
#include <map>
#include <numbers>

namespace lp {

namespace {

constexpr double part_mm = 1;              // of hanging area
constexpr double touching_slack_mm = 0.05; // a tip is a facetted circle

/// Tips by the cell of a grid they lie in, so that only those near a place are looked at.
class Tips {
  public:
    Tips(const std::vector<Post>& posts, double reach_mm) : reach_mm_(reach_mm) {
        for (const Post& post : posts) cells_[cell_of(post.tip)].push_back(post.tip);
    }
    bool carry(const Vec3& at) const {
        auto near = [&](const Vec3& tip) {
            return (tip - at).head<2>().norm() <= reach_mm_ && std::fabs(tip.z() - at.z()) < 2 * reach_mm_;
        };
        const Cell middle = cell_of(at);
        for (long i = -1; i <= 1; ++i)
            for (long j = -1; j <= 1; ++j)
                if (auto cell = cells_.find({middle.first + i, middle.second + j}); cell != cells_.end())
                    if (std::any_of(cell->second.begin(), cell->second.end(), near)) return true;
        return false;
    }

  private:
    using Cell = std::pair<long, long>;
    Cell cell_of(const Vec3& p) const { return {std::lround(p.x() / reach_mm_), std::lround(p.y() / reach_mm_)}; }

    double reach_mm_;
    std::map<Cell, std::vector<Vec3>> cells_;
};

} // namespace

SupportFigures& SupportFigures::operator+=(const SupportFigures& other) {
    supports += other.supports;
    touching += other.touching;
    standing_on_part += other.standing_on_part;
    volume_mm3 += other.volume_mm3;
    unsupported_area_mm2 += other.unsupported_area_mm2;
    return *this;
}

SupportFigures support_figures(const TriMesh& posed, const Supports& supports, const SupportOptions& options) {
    SupportFigures figures;
    figures.supports = supports.count();
    if (options.kind == SupportKind::Trees) // of posts it is summed below
        figures.unsupported_area_mm2 = supports.out_of_reach_mm2 + supports.kept_off_mm2;
    figures.volume_mm3 = mass_properties(supports.mesh).volume_mm3;
    DistanceTree tree(posed);
    auto touches = [&](const Vec3& tip) {
        return tree.closest(tip).distance_mm <= options.gap_mm() + options.tip_mm / 2 + touching_slack_mm;
    };
    for (const Post& post : supports.posts) {
        figures.standing_on_part += post.on_part;
        figures.touching += tree.closest(post.tip).distance_mm <= options.gap_mm() + touching_slack_mm;
    }
    for (const TreeSupport& one : supports.trees) {
        figures.standing_on_part += one.on_part;
        figures.touching += std::all_of(one.tips.begin(), one.tips.end(), touches); // a slope meets the tip's rim
    }
    if (options.kind == SupportKind::Trees) return figures;
    const Tips tips(supports.posts, options.spacing_mm * std::numbers::sqrt2 / 2 + options.tip_mm / 2);
    for (uint32_t facet : find_overhang(posed, options.overhang_limit_deg).triangles)
        each_facet_part(posed, facet, part_mm, 400, [&](const Vec3& at, double area_mm2) {
            if (!tips.carry(at)) figures.unsupported_area_mm2 += area_mm2;
        });
    return figures;
}

} // namespace lp
