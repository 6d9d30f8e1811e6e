// The surfaces of two bodies that face each other, looked at place by place: mean and largest gap, how much of the
// contact is too tight, and where a print would fuse.
#pragma once
#include "fit/contacts.h"
#include <set>

namespace lp {

/// A place of the host's surface and what it faces.
struct FacingSample {
    Vec3 at, on_other, normal; ///< the host's unit normal there
    double gap_mm = 0, area_mm2 = 0;
};

struct FacingOptions {
    double reach_mm = 1.0;   ///< farther surfaces do not count as facing
    double spacing_mm = 0.7; ///< of the places on large facets
    size_t most_samples = 40000;
    bool any_direction = false; ///< also places whose nearest one is not ahead of them: for faces known to face
};

/// Places of `facets` of the host (all when empty) that face the other body: the nearest place of it is within reach,
/// ahead of the surface (within 60 degrees of its normal), and faces back (face_each_other). Proportional to the facets
/// near the other body.
std::vector<FacingSample> facing_samples(const MeasuredBody& host, const std::vector<uint32_t>& facets,
                                         const MeasuredBody& other, const FacingOptions& options);

struct FacingFigures {
    double mean_mm = 0, max_mm = 0, area_mm2 = 0;
    double tight_share = 0; ///< of the area, nearer than wanted; 0 when nothing is wanted
};
std::optional<FacingFigures> facing_figures(const std::vector<FacingSample>& samples, std::optional<double> wanted_mm);

/// Layers in which two bodies printed side by side grow together: places nearer than the printer's smallest open gap,
/// upright or lying. Layers count from 1 at the bed.
struct FusedLayers {
    std::set<int> layers;
    double from_z_mm = 0, to_z_mm = 0; ///< above the bed
    Vec3 where = Vec3::Zero();         ///< the nearest such place, in the frame of the bodies

    int first() const { return *layers.begin(); }
    int last() const { return *layers.rbegin(); }
};
std::optional<FusedLayers> fused_layers(const std::vector<FacingSample>& samples, const Transform& to_print,
                                        const PrinterCard& card);

} // namespace lp
