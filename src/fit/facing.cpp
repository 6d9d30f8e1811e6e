#include "fit/facing.h"
#include "base/tolerance.h"
#include "shape/facet_parts.h"

namespace lp {

std::vector<FacingSample> facing_samples(const MeasuredBody& host, const std::vector<uint32_t>& facets,
                                         const MeasuredBody& other, const FacingOptions& options) {
    std::vector<FacingSample> samples;
    const TriMesh& mesh = host.mesh;
    std::vector<uint32_t> near;
    double area = 0;
    auto look = [&](uint32_t i) {
        Box3 box(mesh.corner(i, 0));
        box.extend(mesh.corner(i, 1)).extend(mesh.corner(i, 2));
        if (box.squaredExteriorDistance(other.tree.box()) > options.reach_mm * options.reach_mm) return;
        near.push_back(i);
        area += mesh.area_vector(i).norm() / 2;
    };
    if (facets.empty())
        for (uint32_t i = 0; i < mesh.triangles.size(); ++i) look(i);
    else
        for (uint32_t i : facets) look(i);
    // At least one place a facet, more on large ones, as many as may be.
    double spacing = std::max(options.spacing_mm, std::sqrt(area / double(options.most_samples)));
    for (uint32_t i : near) {
        Vec3 vector = mesh.area_vector(i);
        double twice = vector.norm();
        if (twice <= 0) continue;
        Vec3 normal = vector / twice;
        each_facet_part(mesh, i, 2 * spacing, 64, [&](const Vec3& p, double share) {
            ClosestPoint hit = other.tree.closest(p, options.reach_mm);
            if (hit.triangle == ~0u) return;
            Vec3 way = hit.point - p;
            bool ahead = way.dot(normal) >= 0.5 * hit.distance_mm || hit.distance_mm <= tolerance::touching_mm;
            if (!ahead && !options.any_direction) return;
            if (face_each_other(host, hit.point, hit.distance_mm))
                samples.push_back({p, hit.point, normal, hit.distance_mm, share});
        });
    }
    return samples;
}

std::optional<FacingFigures> facing_figures(const std::vector<FacingSample>& samples, std::optional<double> wanted_mm) {
    if (samples.empty()) return std::nullopt;
    FacingFigures figures;
    double sum = 0, tight = 0;
    for (const FacingSample& s : samples) {
        figures.area_mm2 += s.area_mm2;
        sum += s.gap_mm * s.area_mm2;
        figures.max_mm = std::max(figures.max_mm, s.gap_mm);
        if (wanted_mm && s.gap_mm < *wanted_mm - tolerance::gap_right_mm) tight += s.area_mm2;
    }
    figures.mean_mm = sum / figures.area_mm2;
    figures.tight_share = tight / figures.area_mm2;
    return figures;
}

std::optional<FusedLayers> fused_layers(const std::vector<FacingSample>& samples, const Transform& to_print,
                                        const PrinterCard& card) {
    FusedLayers fused;
    double nearest = 1e300;
    for (const FacingSample& s : samples) {
        bool lying = std::fabs((to_print.linear() * s.normal).z()) > 0.7071; // one above the other
        double limit = lying ? card.smallest_open_gap_lying_mm : card.smallest_open_gap_mm;
        if (s.gap_mm >= limit - tolerance::same_mm) continue;
        double z = std::max(0.0, (to_print * s.at).z());
        int layer = z < card.first_layer_mm ? 1 : 2 + int((z - card.first_layer_mm) / card.layer_height_mm);
        if (fused.layers.empty()) fused.from_z_mm = fused.to_z_mm = z;
        fused.layers.insert(layer);
        fused.from_z_mm = std::min(fused.from_z_mm, z);
        fused.to_z_mm = std::max(fused.to_z_mm, z);
        if (s.gap_mm < nearest) {
            nearest = s.gap_mm;
            fused.where = s.at;
        }
    }
    if (fused.layers.empty()) return std::nullopt;
    return fused;
}

} // namespace lp
