#include "layers/practice_printer.h"
#include "base/quantity.h"
#include "layers/hanging_lines.h"
#include "layers/region_tools.h"
#include <map>
#include <numbers>
#include <numeric>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr double bead_arc_mm = 0.004, bead_clean_mm = 0.002; ///< well below a step of a gap
constexpr double rounding_mm2 = 0.02;

class PracticePrinter {
  public:
    PracticePrinter(const std::vector<Region>& part, const std::vector<LayerLines>& lines,
                    const std::vector<Region>& carried, const LineOptions& options, const PracticeModel& model,
                    const Task& task)
        : part_(part), lines_(lines), carried_(carried), options_(options), model_(model), task_(task),
          slabs_(size_t(std::max(1, model.slabs_a_layer))) {}

    PrintedBody run() {
        look_for_air();
        let_hang();
        lay();
        join_slabs();
        return std::move(out_);
    }

  private:
    size_t count() const { return part_.size(); }
    double thickness(size_t k) const { return options_.heights.thickness(k); }

    void look_for_air() {
        held_.resize(count());
        in_air_.assign(count(), 0);
        const double slope = std::tan(radians(std::min(model_.card.overhang_limit_deg, 89.0)));
        constexpr double rests_mm = 0.03; // a middle line so far beyond what carries it still rests well enough
        tbb::parallel_for(size_t(0), count(), [&](size_t k) {
            if (k == 0 || part_[k].empty() || task_.stopped()) return;
            const double step = thickness(k) * slope;
            const Region below =
                k < carried_.size() && !carried_[k].empty() ? unite_regions(part_[k - 1], carried_[k]) : part_[k - 1];
            if (region_area_mm2(subtract_regions(part_[k], offset_region(below, step * 1.01 + 0.005))) < rounding_mm2)
                return;
            in_air_[k] = 1;
            held_[k] = offset_region(below, step - options_.width_mm / 2 + rests_mm);
        });
    }
    /// From the bed up: each layer lies on what the one below became.
    void let_hang() {
        runs_.resize(count());
        DroopField field;
        for (size_t k = 0; k < count() && !task_.stopped(); ++k) {
            if (!in_air_[k] && field.empty()) continue;
            HangingLayer layer = hang_lines(lines_[k], in_air_[k] ? held_[k] : part_[k], thickness(k),
                                            options_.heights.bottom(k), field, model_);
            for (const LaidRun& run : layer.runs)
                if (run.slabs_down > 0 || run.slabs_deeper > 0) {
                    runs_[k] = std::move(layer.runs);
                    break;
                }
            out_.droops.insert(out_.droops.end(), layer.droops.begin(), layer.droops.end());
            field = std::move(layer.field);
        }
    }
    void sweep(ClipperLib::Clipper& clipper, const ClipperLib::Path& path, bool closed, double half_mm) const {
        ClipperLib::ClipperOffset offset(2, bead_arc_mm * clipper_grid);
        offset.AddPath(path, ClipperLib::jtRound, closed ? ClipperLib::etClosedLine : ClipperLib::etOpenRound);
        Region bead;
        offset.Execute(bead, half_mm * clipper_grid);
        clipper.AddPaths(bead, ClipperLib::ptSubject, true);
    }
    static Region united(ClipperLib::Clipper& clipper) {
        Region result;
        clipper.Execute(ClipperLib::ctUnion, result, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
        return result;
    }
    double half_of(size_t k, const PlannedLine& line) const {
        double diameter = 0;
        if (line.round_hole) { // 4 area / perimeter is the diameter of a circle
            double area = 0;
            for (uint32_t i = 0; i < line.count; ++i) {
                const Vec2 &a = lines_[k].places[line.first + i],
                           &b = lines_[k].places[line.first + (i + 1) % line.count];
                area += (a.x() * b.y() - b.x() * a.y()) / 2;
            }
            const double around = lines_[k].length_mm(line);
            diameter = around > 0 ? std::max(0.0, 4 * std::fabs(area) / around - double(line.width_mm)) : 0;
        }
        return double(line.width_mm) / 2 + stands_out_mm(model_, line.round_hole, diameter, k == 0);
    }
    void lay() {
        layers_.resize(count());
        fallen_.resize(count());
        std::vector<double> without(count());
        tbb::parallel_for(size_t(0), count(), [&](size_t k) {
            if (part_[k].empty() || task_.stopped()) return;
            ClipperLib::Clipper clipper;
            if (runs_[k].empty())
                lay_plain(k, clipper);
            else
                lay_drooping(k, clipper);
            layers_[k] = united(clipper);
            Region laid = layers_[k];
            for (const Fallen& fallen : fallen_[k]) laid = unite_regions(laid, fallen.shape);
            without[k] = region_area_mm2(subtract_regions(part_[k], laid));
            clean_region(layers_[k], bead_clean_mm);
        });
        out_.without_line_mm2 = std::accumulate(without.begin(), without.end(), 0.0);
        constexpr double told_from_mm2 = 0.05;
        for (size_t k = 0; k < count(); ++k)
            if (without[k] > told_from_mm2) out_.thin_in.push_back(k);
    }
    Region behind_walls(size_t k) const { return offset_region(part_[k], -0.75 * options_.width_mm); }
    void lay_plain(size_t k, ClipperLib::Clipper& clipper) const {
        for (const PlannedLine& line : lines_[k].lines) {
            if (line.kind != LineKind::OuterWall && line.kind != LineKind::Gap && line.kind != LineKind::Support)
                continue;
            ClipperLib::Path path;
            for (uint32_t i = 0; i < line.count; ++i) path.push_back(grid_place(lines_[k].places[line.first + i]));
            sweep(clipper, path, line.closed, half_of(k, line));
        }
        clipper.AddPaths(behind_walls(k), ClipperLib::ptSubject, true);
    }
    void lay_drooping(size_t k, ClipperLib::Clipper& clipper) {
        std::map<std::pair<int, int>, ClipperLib::Clipper> down; // by slabs down and deeper
        Region stays = intersect_regions(behind_walls(k), in_air_[k] ? held_[k] : part_[k]);
        for (const LaidRun& run : runs_[k]) {
            const double half = half_of(k, lines_[k].lines[run.line]);
            if (run.slabs_down == 0 && run.slabs_deeper == 0)
                sweep(clipper, run.path, false, half);
            else if (run.slabs_down * thickness(k) / double(slabs_) < model_.lost_from_mm)
                sweep(down[{run.slabs_down, run.slabs_deeper}], run.path, false, half);
        }
        for (auto& [heights, laid] : down) {
            Region region = united(laid);
            if (!in_air_[k]) stays = subtract_regions(stays, region);
            const long top = long((k + 1) * slabs_) - heights.first,
                       foot = std::max(0L, top - long(slabs_) - heights.second);
            if (top > foot) fallen_[k].push_back({size_t(foot), size_t(top), std::move(region)});
        }
        clipper.AddPaths(stays, ClipperLib::ptSubject, true);
    }
    void join_slabs() {
        out_.slabs.resize(count() * slabs_);
        std::vector<std::vector<const Region*>> more(out_.slabs.size());
        for (const auto& layer : fallen_)
            for (const Fallen& fallen : layer)
                for (size_t s = fallen.from; s < std::min(fallen.to, more.size()); ++s)
                    more[s].push_back(&fallen.shape);
        tbb::parallel_for(size_t(0), out_.slabs.size(), [&](size_t s) {
            if (task_.stopped()) return;
            out_.slabs[s] = layers_[s / slabs_];
            if (more[s].empty()) return;
            ClipperLib::Clipper clipper;
            clipper.AddPaths(out_.slabs[s], ClipperLib::ptSubject, true);
            for (const Region* region : more[s]) clipper.AddPaths(*region, ClipperLib::ptSubject, true);
            out_.slabs[s] = united(clipper);
            clean_region(out_.slabs[s], bead_clean_mm);
        });
    }

    const std::vector<Region>& part_;
    const std::vector<LayerLines>& lines_;
    const std::vector<Region>& carried_;
    const LineOptions& options_;
    const PracticeModel& model_;
    const Task& task_;
    size_t slabs_;
    std::vector<Region> held_, layers_;
    std::vector<char> in_air_;
    std::vector<std::vector<LaidRun>> runs_;
    struct Fallen {
        size_t from, to; ///< slabs
        Region shape;
    };
    std::vector<std::vector<Fallen>> fallen_; ///< what drooped
    PrintedBody out_;
};

} // namespace

std::vector<std::string> practice_assumptions(const PracticeModel& model) {
    return {"A line across a gap sags with the square of its span; a span of the card's bridge limit (" +
                format_quantity(model.card.bridge_limit_mm, QuantityKind::Length, 1) + ") sags by one layer.",
            "A line held at one end droops " + format_number(model.free_end, 1) +
                " times as far as a bridge of twice its length.",
            "A line held only by the one beside it droops by the square of how far it stands out, in mm.",
            "A line laid on a drooped one takes half of its droop.",
            "What would droop more than " + format_quantity(model.lost_from_mm, QuantityKind::Length, 1) +
                " is not laid at all.",
            "Walls nearer than " + format_quantity(closes_by_itself_mm(model), QuantityKind::Length, 2) +
                " after they have grown fuse: the card's smallest open gap less the growth of a usual printer.",
            "What lies behind the outer walls is taken as full.",
            "Shrinking, warping, blobs and strings are left out. None of this has been compared with a real print."};
}

double stands_out_mm(const PracticeModel& model, bool in_hole, double hole_diameter_mm, bool first_layer) {
    const double side = in_hole ? model.card.hole_shrink_at(hole_diameter_mm) : model.card.outside_growth_mm;
    return first_layer ? std::max(side, model.card.first_layer_flare_mm) : side;
}

PrintedBody print_body(const std::vector<Region>& part, const std::vector<LayerLines>& lines,
                       const std::vector<Region>& carried, const LineOptions& options, const PracticeModel& model,
                       const Task& task) {
    return PracticePrinter(part, lines, carried, options, model, task).run();
}

double closes_by_itself_mm(const PracticeModel& model) {
    const PrinterCard typical;
    return std::max(0.0, model.card.smallest_open_gap_mm - typical.outside_growth_mm - typical.hole_shrink_mm);
}

std::vector<FusedBodies> fused_bodies(const std::vector<PrintedBody>& bodies, const PracticeModel& model,
                                      const Task& task) {
    const double closes = closes_by_itself_mm(model);
    constexpr double touching_mm = 0.002; // just touching is free, as the arithmetic of gaps says
    constexpr double beside_mm2 = 1e-3;
    const size_t slabs = size_t(std::max(1, model.slabs_a_layer));
    auto bounds = [](const PrintedBody& body) {
        Eigen::AlignedBox2d box;
        for (const Region& slab : body.slabs) box.extend(bounds_of(slab));
        return box;
    };
    std::vector<Eigen::AlignedBox2d> boxes;
    for (const PrintedBody& body : bodies) boxes.push_back(bounds(body));
    std::vector<FusedBodies> result;
    for (size_t a = 0; a < bodies.size(); ++a)
        for (size_t b = a + 1; b < bodies.size() && !task.stopped(); ++b) {
            if (boxes[a].isEmpty() || boxes[b].isEmpty() || boxes[a].exteriorDistance(boxes[b]) > closes) continue;
            const auto &p = bodies[a].slabs, &q = bodies[b].slabs;
            const size_t n = std::min(p.size(), q.size());
            std::vector<double> beside(n), above(n);
            tbb::parallel_for(size_t(0), n, [&](size_t k) {
                const bool same = k % slabs != 0 && p[k] == p[k - 1] && q[k] == q[k - 1];
                if (!p[k].empty() && !q[k].empty() && !same)
                    beside[k] = region_area_mm2(intersect_regions(closes > touching_mm
                                                                      ? offset_region(p[k], closes - touching_mm)
                                                                      : offset_region(p[k], -touching_mm),
                                                                  q[k]));
                if (k + 1 < n && (p[k + 1] != p[k] || q[k + 1] != q[k]))
                    above[k] = region_area_mm2(intersect_regions(p[k], q[k + 1])) +
                               region_area_mm2(intersect_regions(q[k], p[k + 1]));
            });
            FusedBodies fused{a, b, {}, 0, 0};
            for (size_t k = 0; k < n; ++k) {
                if (beside[k] <= beside_mm2 && above[k] <= rounding_mm2) continue;
                const size_t layer = k / slabs + 1;
                if (!fused.layers.empty() && fused.layers.back().second + 1 >= layer)
                    fused.layers.back().second = layer;
                else
                    fused.layers.push_back({layer, layer});
                fused.beside_mm2 += beside[k];
                fused.above_mm2 += above[k];
            }
            if (!fused.layers.empty()) result.push_back(std::move(fused));
        }
    return result;
}

} // namespace lp
