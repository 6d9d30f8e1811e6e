#include "layers/practice_print.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "bed/stacked_mesh.h"
#include "layers/line_plan.h"
#include "layers/region_tools.h"
#include "shape/mesh_distance.h"
#include <algorithm>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

std::optional<Problem> refused(const Box3& box, const LineOptions& options) {
    if (box.isEmpty())
        return Problem{ProblemCode::Geometry, "There is nothing to print.", "Choose a part with a body."};
    if (!(options.heights.layer_mm > 0.005) || !(options.heights.first_mm > 0.005))
        return Problem{ProblemCode::Range, "Layers that thin cannot be printed.", "Use 0.02 mm or more."};
    if (box.sizes().maxCoeff() > tolerance::largest_mm)
        return Problem{ProblemCode::Range, "It reaches farther than 100 m.", "Check its unit."};
    constexpr double most_layers = 20'000;
    if (box.sizes().z() / options.heights.layer_mm > most_layers)
        return Problem{ProblemCode::Range, "That would take more than 20,000 layers.", "Use a larger layer height."};
    return {};
}

/// The middles of equal pieces of a facet of about a square millimetre, with the area each stands for: at its corners
/// alone a large flat facet would be measured where it ends.
void add_samples(const TriMesh& mesh, size_t facet, std::vector<Vec3>& places, std::vector<double>& areas) {
    const double area = mesh.area_vector(facet).norm() / 2;
    const int n = std::clamp(int(std::ceil(std::sqrt(area))), 1, 30);
    const Vec3 &a = mesh.corner(facet, 0), u = (mesh.corner(facet, 1) - a) / n, v = (mesh.corner(facet, 2) - a) / n;
    for (int i = 0; i < n; ++i)
        for (int j = 0; i + j < n; ++j) {
            places.push_back(a + u * (i + 1.0 / 3) + v * (j + 1.0 / 3));
            if (i + j + 1 < n) places.push_back(a + u * (i + 2.0 / 3) + v * (j + 2.0 / 3));
        }
    areas.resize(places.size(), area / n / n);
}

/// The mean over the surface, and the extremes.
void sum_up(PracticePrint& print, const TriMesh& design, const Task& task) {
    std::vector<Vec3> places;
    std::vector<double> areas;
    for (size_t t = 0; t < print.mesh.triangles.size(); ++t) add_samples(print.mesh, t, places, areas);
    const std::vector<double> deviation = deviation_from(design, places, task);
    double area = 0, sum = 0;
    for (size_t i = 0; i < places.size(); ++i) {
        area += areas[i];
        sum += areas[i] * std::fabs(deviation[i]);
    }
    print.mean_mm = area > 0 ? sum / area : 0;
    for (double d : print.deviation_mm) {
        print.most_out_mm = std::max(print.most_out_mm, d);
        print.most_in_mm = std::max(print.most_in_mm, -d);
    }
    print.max_mm = std::max(print.most_out_mm, print.most_in_mm);
}

std::vector<double> slab_heights(const LayerHeights& heights, size_t layers, size_t slabs_a_layer, double floor_z) {
    std::vector<double> z;
    for (size_t s = 0; s <= layers * slabs_a_layer; ++s) {
        const size_t k = s / slabs_a_layer;
        z.push_back(floor_z + heights.bottom(k) +
                    heights.thickness(k) * double(s % slabs_a_layer) / double(slabs_a_layer));
    }
    return z;
}

/// Planning, laying, joining and measuring, one body after the other.
class PracticeRun {
  public:
    PracticeRun(const std::vector<TriMesh>& bodies, const TriMesh& supports, const PracticeOptions& options,
                const Task& task)
        : bodies_(bodies), supports_(supports), options_(options), task_(task) {
        for (const TriMesh& body : bodies_)
            if (!body.empty()) box_.extend(bounding_box(body));
    }
    Expected<PracticePrint> run() {
        if (auto problem = refused(box_, options_.lines)) return tl::unexpected(*problem);
        print_.layers = heights().count(box_.sizes().z());
        find_carried();
        for (size_t i = 0; i < bodies_.size(); ++i)
            if (auto problem = lay(i)) return tl::unexpected(*problem);
        task_.tell("Looking for what fused", 0.6);
        print_.fused = fused_bodies(printed_, options_.model, task_);
        task_.tell("Making the printed body", 0.7);
        const size_t slabs = size_t(std::max(1, options_.model.slabs_a_layer));
        const std::vector<double> z = slab_heights(heights(), print_.layers, slabs, box_.min().z());
        for (size_t i = 0; options_.each_body && i < printed_.size() && !task_.stopped(); ++i)
            print_.bodies.push_back(stacked_mesh(printed_[i].slabs, z, task_));
        std::vector<Region> all = std::move(printed_.front().slabs); // bodies that touch become one
        tbb::parallel_for(size_t(0), all.size(), [&](size_t s) {
            for (size_t b = 1; b < printed_.size() && !task_.stopped(); ++b)
                if (!printed_[b].slabs[s].empty()) all[s] = unite_regions(all[s], printed_[b].slabs[s]);
        });
        print_.mesh = stacked_mesh(all, z, task_);
        task_.tell("Measuring it", 0.85);
        print_.deviation_mm = deviation_from(design_, print_.mesh.vertices, task_);
        std::sort(print_.droops.begin(), print_.droops.end(),
                  [](const Droop& a, const Droop& b) { return a.droop_mm > b.droop_mm; });
        sum_up(print_, design_, task_);
        if (task_.stopped()) return cancelled();
        return std::move(print_);
    }

  private:
    const LayerHeights& heights() const { return options_.lines.heights; }
    void find_carried() {
        if (supports_.empty()) return;
        const auto layers = slice(supports_, heights(), box_.min().z(), print_.layers, task_);
        carried_.resize(print_.layers);
        tbb::parallel_for(size_t(1), print_.layers, [&](size_t k) {
            carried_[k] = carried_by_supports(layers, k, heights(), options_.support_gap_mm);
        });
    }
    std::optional<Problem> lay(size_t i) {
        const double share = 0.6 / double(bodies_.size());
        task_.tell("Planning lines", share * double(i));
        append(design_, bodies_[i]);
        auto part = slice(bodies_[i], heights(), box_.min().z(), print_.layers, task_);
        for (Region& region : part) clean_region(region, 0.001); // fits are judged by it
        auto lines = plan_lines(part, options_.lines, {}, {}, task_);
        if (!lines) return lines.error();
        task_.tell("Laying them", share * (double(i) + 0.5));
        printed_.push_back(print_body(part, *lines, carried_, options_.lines, options_.model, task_));
        if (task_.stopped()) return cancelled().value();
        const PrintedBody& body = printed_.back();
        print_.droops.insert(print_.droops.end(), body.droops.begin(), body.droops.end());
        print_.without_line_mm2 += body.without_line_mm2;
        if (body.thin_in.empty()) return {};
        const double z = heights().bottom(body.thin_in.front());
        print_.thin_from_z_mm = std::min(print_.thin_from_z_mm.value_or(z), z);
        return {};
    }

    const std::vector<TriMesh>& bodies_;
    const TriMesh& supports_;
    const PracticeOptions& options_;
    const Task& task_;
    Box3 box_;
    TriMesh design_;
    std::vector<Region> carried_; ///< by supports, in each layer
    std::vector<PrintedBody> printed_;
    PracticePrint print_;
};

} // namespace

std::vector<std::string> practice_words(const std::string& name, const std::vector<std::string>& bodies,
                                        const PracticePrint& print) {
    auto mm = [](double value, int decimals = 2) { return format_quantity(value, QuantityKind::Length, decimals); };
    std::vector<std::string> words{name + " comes out " + mm(print.mean_mm, 3) +
                                   " from the design on average; it stands out by " + mm(print.most_out_mm) +
                                   " and in by " + mm(print.most_in_mm) + " at most."};
    for (const FusedBodies& fused : print.fused)
        for (const auto& [first, last] : fused.layers)
            words.push_back(bodies[fused.a] + " and " + bodies[fused.b] + " fuse in " +
                            (first == last ? "layer " + std::to_string(first)
                                           : "layers " + std::to_string(first) + " to " + std::to_string(last)) +
                            ".");
    if (!print.droops.empty()) {
        const Droop& deepest = print.droops.front();
        const auto lost =
            std::count_if(print.droops.begin(), print.droops.end(), [](const Droop& d) { return d.lost; });
        words.push_back(std::to_string(print.droops.size()) + " lines droop; the deepest by " + mm(deepest.droop_mm) +
                        " over a span of " + mm(deepest.span_mm, 1) + ", " + mm(deepest.at.z()) + " above the bed." +
                        (lost ? " " + std::to_string(lost) + " are not laid at all." : std::string()));
    }
    constexpr double told_from_mm2 = 0.05;
    if (print.without_line_mm2 > told_from_mm2)
        words.push_back(format_number(print.without_line_mm2, 1) + " mm² of its layers are too thin for a line, from " +
                        mm(print.thin_from_z_mm.value_or(0)) + " above the bed.");
    return words;
}

std::vector<double> deviation_from(const TriMesh& design, const std::vector<Vec3>& places, const Task& task) {
    const DistanceTree tree(design);
    std::vector<double> result(places.size(), 0);
    if (tree.empty()) return result;
    tbb::parallel_for(tbb::blocked_range<size_t>(0, places.size(), 256), [&](const tbb::blocked_range<size_t>& range) {
        if (task.stopped()) return;
        for (size_t i = range.begin(); i < range.end(); ++i) {
            const ClosestPoint near = tree.closest(places[i]);
            const Vec3 way = places[i] - near.point, normal = design.area_vector(near.triangle).normalized();
            const double cosine = near.distance_mm > 1e-9 ? way.dot(normal) / near.distance_mm : 1;
            // Seen slantwise the nearest place lies on an edge, where another facet may tell the side better.
            constexpr double square_enough = 0.9;
            const bool outside = std::fabs(cosine) > square_enough ? cosine > 0 : !tree.inside(places[i]);
            result[i] = outside ? near.distance_mm : -near.distance_mm;
        }
    });
    return result;
}

PracticeOptions practice_options(const PrinterCard& card) {
    PracticeOptions options;
    options.lines.heights = {card.layer_height_mm, card.first_layer_mm};
    options.lines.width_mm = card.line_mm();
    options.lines.walls = card.walls;
    options.lines.infill_percent = card.infill_percent;
    options.lines.infill = card.infill;
    options.lines.overhang_limit_deg = card.overhang_limit_deg;
    options.model.card = card;
    return options;
}

Expected<PracticePrint> practice_print(const std::vector<TriMesh>& bodies, const TriMesh& supports,
                                       const PracticeOptions& options, const Task& task) {
    return PracticeRun(bodies, supports, options, task).run();
}

} // namespace lp
