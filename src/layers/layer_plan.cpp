#include "layers/layer_plan.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "bed/raft.h"
#include "layers/region_tools.h"
#include "layers/skirt.h"
#include <cmath>
#include <numbers>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

// A desktop printer's honest averages with acceleration and travel in them (common practice, no published source).
constexpr double print_speed_mm_s = 38;
constexpr double layer_change_s = 1.5;
constexpr double start_s = plan_start_s;
constexpr double solid_skin_mm = 0.8;     ///< top and bottom printed solid
constexpr double island_least_mm2 = 0.02; ///< smaller crumbs are rounding, not material

struct LayerVolumes {
    double part_mm3 = 0, support_mm3 = 0;
};

class Planner {
  public:
    Planner(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options, const Task& task)
        : posed_(posed), supports_(supports), options_(options), task_(task) {}

    Expected<LayerPlan> run() {
        if (posed_.empty())
            return problem(ProblemCode::Geometry, "There is nothing to lay in layers.", "Choose a part with a body.");
        if (!(options_.heights.layer_mm > 0.005) || !(options_.heights.first_mm > 0.005))
            return problem(ProblemCode::Range,
                           "A layer of " + format_quantity(options_.heights.layer_mm, QuantityKind::Length, 4) +
                               " cannot be printed.",
                           "Use 0.02 mm or more.");
        Box3 box = bounding_box(posed_);
        if (box.min().minCoeff() < -tolerance::largest_mm || box.max().maxCoeff() > tolerance::largest_mm)
            return problem(ProblemCode::Range, "It reaches farther than 100 m.",
                           "Check its unit: it may have been drawn in micrometres.");
        double height = box.sizes().z();
        if (height / options_.heights.thinnest_mm() > 1e5)
            return problem(ProblemCode::Range, "That would take more than 100,000 layers.",
                           "Use a larger layer height.");
        size_t count = options_.heights.count(height);
        task_.tell("Cutting layers", 0.05);
        part_ = slice(posed_, options_.heights, box.min().z(), count, task_);
        carried_ = supports_.empty() ? std::vector<Region>(count)
                                     : slice(supports_, options_.heights, box.min().z(), count, task_);
        solid_ = solid_regions(options_.solids, options_.heights, box.min().z(), count, task_);
        if (task_.stopped()) return cancelled();
        plan_.layers.resize(count);
        plan_.height_mm = height;
        smooth();
        volumes_.resize(count);
        islands_.resize(count);
        task_.tell("Looking for material on nothing", 0.4);
        tbb::parallel_for(size_t(0), count, [&](size_t k) {
            if (!task_.stopped()) measure(k);
        });
        if (task_.stopped()) return cancelled();
        for (const auto& list : islands_) plan_.islands.insert(plan_.islands.end(), list.begin(), list.end());
        estimate();
        return std::move(plan_);
    }

  private:
    /// Areas are taken as they are; then corners that no line could follow go: finely parted parts have thousands a
    /// layer, and all that is cut and offset pays for each.
    void smooth() {
        constexpr double unseen_mm = 0.003; // far less than what carries reaches past the layer below
        tbb::parallel_for(size_t(0), plan_.layers.size(), [&](size_t k) {
            plan_.layers[k].area_mm2 = region_area_mm2(part_[k]);
            plan_.layers[k].support_area_mm2 = region_area_mm2(carried_[k]);
            for (Region* region : {&part_[k], &carried_[k]})
                ClipperLib::CleanPolygons(*region, unseen_mm * clipper_grid);
        });
    }
    void measure(size_t k) {
        Layer& layer = plan_.layers[k];
        layer.z_mm = options_.heights.bottom(k);
        layer.thickness_mm = options_.heights.thickness(k);
        if (k > 0 && layer.area_mm2 > 0) look_below(k, layer);
        volumes_[k] = {extruded_mm3(k), layer.support_area_mm2 * layer.thickness_mm};
    }

    void look_below(size_t k, Layer& layer) {
        Region below = part_[k - 1];
        Region held;
        if (!supports_.empty()) held = carried_by_supports(carried_, k, options_.heights, options_.support_gap_mm);
        double step = (layer.thickness_mm + options_.heights.thickness(k - 1)) / 2 *
                      std::tan(radians(std::min(options_.overhang_limit_deg, 89.0)));
        // A hundredth of a layer more, so that a wall at exactly the limit is carried after rounding.
        Region carrying = offset_region(below, step * 1.01 + 0.002);
        if (!held.empty()) carrying = unite_regions(carrying, held);
        Region loose = subtract_regions(part_[k], carrying);
        layer.unsupported_mm2 = region_area_mm2(loose);
        if (layer.unsupported_mm2 < island_least_mm2) layer.unsupported_mm2 = 0;
        if (layer.unsupported_mm2 == 0) return;
        if (!held.empty()) below = unite_regions(below, held);
        for (const Region& piece : pieces_of(part_[k])) {
            double area = region_area_mm2(piece);
            if (area < island_least_mm2 || region_area_mm2(intersect_regions(piece, below)) > 1e-6) continue;
            islands_[k].push_back({k, layer.z_mm, area, region_centre(piece)});
        }
    }

    /// Walls and skins solid, the rest at the infill share. Skins are judged by the layers one skin above and below.
    double extruded_mm3(size_t k) const {
        double area = plan_.layers[k].area_mm2;
        if (area <= 0) return 0;
        double sparse = 0;
        if (options_.infill_percent < 100) {
            Region inner = offset_region(part_[k], -options_.walls * options_.line_width_mm);
            auto skin = size_t(std::max(1.0, std::ceil(solid_skin_mm / options_.heights.layer_mm)));
            bool deep = k >= skin && k + skin < part_.size();
            if (deep && !inner.empty())
                inner = intersect_regions(intersect_regions(inner, part_[k - skin]), part_[k + skin]);
            if (deep && k < solid_.size() && !solid_[k].empty()) inner = subtract_regions(inner, solid_[k]);
            if (deep) sparse = region_area_mm2(inner);
        }
        return (area - sparse * (1 - options_.infill_percent / 100)) * options_.heights.thickness(k);
    }

    void estimate() {
        double volume = 0, time = start_s;
        for (size_t k = 0; k < plan_.layers.size(); ++k) {
            double laid = volumes_[k].part_mm3 + volumes_[k].support_mm3;
            volume += laid;
            double line = options_.line_width_mm * plan_.layers[k].thickness_mm;
            time += laid / line / print_speed_mm_s * (k == 0 ? 2 : 1) +
                    layer_change_s; // the first layer goes at half speed
        }
        plan_.raft_layers = std::max(0, options_.raft_layers);
        if (plan_.raft_layers > 0) {
            Region foot = offset_region(unite_regions(part_[0], carried_[0]), raft_margin_mm);
            double raft =
                region_area_mm2(foot) * options_.heights.layer_mm * plan_.raft_layers * 0.6; // open lines below
            volume += raft;
            time += raft / (options_.line_width_mm * options_.heights.layer_mm) / print_speed_mm_s +
                    layer_change_s * plan_.raft_layers;
        }
        const double skirt = skirt_mm3();
        volume += skirt;
        time += skirt / (options_.line_width_mm * options_.heights.first_mm) / print_speed_mm_s * 2;
        double filament_area = std::numbers::pi * options_.material.filament_mm * options_.material.filament_mm / 4;
        plan_.filament_mm = volume / filament_area;
        plan_.mass_g = volume / 1000 * options_.material.density_g_cm3;
        plan_.price = plan_.mass_g / 1000 * options_.material.price_per_kg;
        plan_.time_s = start_s + (time - start_s) * options_.time_factor;
        plan_.energy_kwh = options_.power_w * plan_.time_s / 3.6e6;
        plan_.energy_price = plan_.energy_kwh * options_.price_per_kwh;
    }

    double skirt_mm3() const {
        if (options_.skirt_loops <= 0 || part_.empty()) return 0;
        Region ground = unite_regions(part_[0], carried_[0]);
        if (options_.raft_layers > 0) ground = offset_region(ground, raft_margin_mm);
        double length = 0;
        for (const auto& loop : skirt_of(ground, options_.skirt_loops, options_.line_width_mm))
            for (size_t i = 0; i < loop.size(); ++i) length += (loop[i] - loop[(i + 1) % loop.size()]).norm();
        return length * options_.line_width_mm * options_.heights.first_mm;
    }

    const TriMesh& posed_;
    const TriMesh& supports_;
    LayerOptions options_;
    const Task& task_;
    std::vector<Region> part_, carried_;
    std::vector<Region> solid_; ///< filled whole
    std::vector<LayerVolumes> volumes_;
    std::vector<std::vector<Island>> islands_;
    LayerPlan plan_;
};

} // namespace

std::vector<Region> solid_regions(const std::vector<SolidPlace>& solids, const LayerHeights& heights, double floor_z,
                                  size_t layers, const Task& task) {
    std::vector<Region> all;
    if (solids.empty()) return all;
    all.resize(layers);
    for (const SolidPlace& solid : solids) {
        // Layers are counted from the lowest point of the part, which may lie above or below this one's.
        const auto cut = slice(*solid.posed, heights, floor_z, layers, task);
        tbb::parallel_for(size_t(0), layers, [&](size_t k) {
            if (task.stopped() || cut[k].empty()) return;
            all[k] = unite_regions(all[k], solid.around_mm > 0 ? offset_region(cut[k], solid.around_mm) : cut[k]);
        });
    }
    return all;
}

Expected<LayerPlan> plan_layers(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                                const Task& task) {
    return Planner(posed, supports, options, task).run();
}

} // namespace lp
