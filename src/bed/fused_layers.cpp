#include "bed/fused_layers.h"
#include "base/tolerance.h"
#include <mutex>
#include <tbb/parallel_for.h>

namespace lp {

std::optional<FusedLayers> fused_sections(const TriMesh& a, const TriMesh& b, const LayerHeights& heights,
                                          const PrinterCard& card, const Task& task) {
    Box3 box_a = bounding_box(a), box_b = bounding_box(b);
    double top = std::min(box_a.max().z(), box_b.max().z());
    size_t layers = top > 0 ? heights.count(top) : 0;
    auto of_a = slice(a, heights, 0, layers, task), of_b = slice(b, heights, 0, layers, task);
    const double limit = card.smallest_open_gap_mm - tolerance::same_mm;
    FusedLayers fused;
    std::mutex mutex;
    tbb::parallel_for(size_t(0), layers, [&](size_t k) {
        if (task.stopped() || of_a[k].empty() || of_b[k].empty()) return;
        Region both = intersect_regions(offset_region(of_a[k], limit), of_b[k]);
        if (region_area_mm2(both) < 1e-6) return;
        Vec2 at = region_centre(pieces_of(both).front());
        double z = heights.bottom(k) + heights.thickness(k) / 2;
        std::lock_guard lock(mutex);
        bool lowest = fused.layers.empty() || int(k) + 1 < *fused.layers.begin();
        fused.from_z_mm = fused.layers.empty() ? z : std::min(fused.from_z_mm, z);
        fused.to_z_mm = fused.layers.empty() ? z : std::max(fused.to_z_mm, z);
        if (lowest) fused.where = {at.x(), at.y(), z};
        fused.layers.insert(int(k) + 1);
    });
    if (fused.layers.empty() || task.stopped()) return std::nullopt;
    return fused;
}

std::optional<Vec3> closed_in_first_layer(const TriMesh& a, const TriMesh& b, const LayerHeights& heights,
                                          double gap_mm, const Task& task) {
    const auto of_a = slice(a, heights, 0, 1, task), of_b = slice(b, heights, 0, 1, task);
    if (task.stopped() || of_a[0].empty() || of_b[0].empty()) return std::nullopt;
    const Region both = intersect_regions(offset_region(of_a[0], gap_mm - tolerance::same_mm), of_b[0]);
    if (region_area_mm2(both) < 1e-6) return std::nullopt;
    const Vec2 at = region_centre(pieces_of(both).front());
    return Vec3(at.x(), at.y(), heights.first_mm / 2);
}

std::optional<FusedLayers> united(std::optional<FusedLayers> a, const std::optional<FusedLayers>& b) {
    if (!a || !b) return a ? a : b;
    a->layers.insert(b->layers.begin(), b->layers.end());
    a->from_z_mm = std::min(a->from_z_mm, b->from_z_mm);
    a->to_z_mm = std::max(a->to_z_mm, b->to_z_mm);
    return a;
}

} // namespace lp
