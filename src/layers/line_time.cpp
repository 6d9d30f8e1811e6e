#include "layers/line_time.h"
#include <algorithm>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

class LayerClock {
  public:
    LayerClock(const LayerLines& layer, const LineTimeCard& card) : layer_(layer), card_(card) {}
    LineTimes run(Vec2 from) {
        for (const PlannedLine& line : layer_.lines) {
            hop(from, layer_.places[line.first]);
            lay(line);
            from = line.closed ? layer_.places[line.first] : layer_.places[line.first + line.count - 1];
        }
        const double busy = times_.laying_s + times_.hops_s + times_.drawing_back_s,
                     slowest = times_.path_mm / card_.slowest_mm_s + times_.hops_s + times_.drawing_back_s;
        if (busy > 0 && busy < card_.least_layer_s)
            times_.cooling_s = std::max(0.0, std::min(card_.least_layer_s, slowest) - busy);
        times_.changes_s = card_.layer_change_s;
        return times_;
    }

  private:
    void hop(const Vec2& from, const Vec2& to) {
        constexpr double none_mm = 0.05;
        const double way = (to - from).norm();
        if (way <= none_mm) return;
        MotionCard motion = card_.motion;
        motion.acceleration = card_.hop_acceleration;
        times_.hops_s += chain_time({{float(way), float(card_.hop_speed), 0}}, motion);
        ++times_.hops;
        if (way <= card_.draw_back_from_mm) return;
        times_.drawing_back_s += 2 * card_.draw_back_mm / card_.draw_back_speed;
        ++times_.drawn_back;
    }
    void lay(const PlannedLine& line) {
        MotionCard motion = card_.motion;
        if (line.kind == LineKind::OuterWall) motion.acceleration = card_.outer_acceleration;
        places_.clear();
        for (uint32_t i = 0; i < line.count + (line.closed ? 1 : 0); ++i) {
            const Vec2& p = layer_.places[line.first + i % line.count];
            places_.emplace_back(p.x(), p.y(), 0);
        }
        speeds_.assign(places_.size() - 1, double(line.speed_mm_s));
        const double t = path_time(places_, speeds_, motion);
        times_.laying_s += t;
        times_.by_kind_s[size_t(line.kind)] += t;
        times_.path_mm += layer_.length_mm(line);
    }
    const LayerLines& layer_;
    const LineTimeCard& card_;
    std::vector<Vec3> places_;
    std::vector<double> speeds_;
    LineTimes times_;
};

} // namespace

LineTimes line_times(const std::vector<LayerLines>& layers, const LineTimeCard& card) {
    std::vector<LineTimes> each(layers.size());
    tbb::parallel_for(size_t(0), layers.size(), [&](size_t k) {
        if (layers[k].lines.empty()) return;
        Vec2 from(0, 0);
        for (size_t j = k; j-- > 0;)
            if (!layers[j].places.empty()) {
                from = layers[j].places.back();
                break;
            }
        each[k] = LayerClock(layers[k], card).run(from);
    });
    LineTimes sum;
    sum.start_s = card.start_s;
    for (const LineTimes& t : each) {
        sum.laying_s += t.laying_s;
        sum.hops_s += t.hops_s;
        sum.drawing_back_s += t.drawing_back_s;
        sum.cooling_s += t.cooling_s;
        sum.changes_s += t.changes_s;
        sum.path_mm += t.path_mm;
        sum.hops += t.hops;
        sum.drawn_back += t.drawn_back;
        for (size_t k = 0; k < line_kinds; ++k) sum.by_kind_s[k] += t.by_kind_s[k];
    }
    return sum;
}

} // namespace lp
