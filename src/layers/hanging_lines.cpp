#include "layers/hanging_lines.h"
#include "layers/region_tools.h"
#include <algorithm>

namespace lp {
namespace {

uint64_t cell_of(const Vec2& p) {
    constexpr double cell_mm = 0.5;
    return uint64_t(uint32_t(int32_t(std::floor(p.x() / cell_mm)))) << 32 |
           uint32_t(int32_t(std::floor(p.y() / cell_mm)));
}

struct Sample {
    Vec2 place;
    bool held = false;
    double droop = 0;
    double below = 0; ///< how far what it lies on drooped
};

/// Places of a line every 0.3 mm; a closed one ends where it begins.
std::vector<Sample> samples_of(const LayerLines& layer, const PlannedLine& line) {
    constexpr double apart_mm = 0.3;
    std::vector<Sample> samples;
    const uint32_t n = line.count + (line.closed ? 1 : 0);
    for (uint32_t i = 0; i < n; ++i) {
        const Vec2& b = layer.places[line.first + i % line.count];
        if (i > 0) {
            const Vec2& a = layer.places[line.first + i - 1];
            const int k = int((b - a).norm() / apart_mm);
            for (int j = 1; j <= k; ++j) samples.push_back({.place = a + (b - a) * (double(j) / (k + 1))});
        }
        samples.push_back({.place = b});
    }
    return samples;
}

class Hanging {
  public:
    Hanging(const LayerLines& lines, const Region& held, double layer_mm, double z_mm, const DroopField& before,
            const PracticeModel& model)
        : lines_(lines), held_(held), layer_(layer_mm), z_(z_mm), before_(before), model_(model) {}
    HangingLayer run() {
        for (size_t i = 0; i < lines_.lines.size(); ++i) one(i);
        return std::move(out_);
    }

  private:
    void one(size_t index) {
        const PlannedLine& line = lines_.lines[index];
        std::vector<Sample> s = samples_of(lines_, line);
        bool loose = false;
        for (Sample& x : s) {
            x.held = holds(held_, grid_place(x.place));
            loose |= !x.held;
            x.below = before_.at(x.place);
            x.droop = model_.passed_on * x.below;
        }
        if (loose) let_hang(s, line.closed);
        part_by_height(s, index);
        for (const Sample& x : s) out_.field.deepen(x.place, x.droop);
    }
    void let_hang(std::vector<Sample>& s, bool closed) {
        size_t start = 0; // a closed line begins where it is held, so that no run wraps
        if (closed)
            while (start < s.size() && !s[start].held) ++start;
        const bool nothing_holds = start == s.size();
        if (closed && start > 0 && !nothing_holds) {
            s.pop_back();
            std::rotate(s.begin(), s.begin() + long(start), s.end());
            s.push_back(s.front());
        }
        for (size_t i = 0; i < s.size();) {
            size_t j = i;
            while (j < s.size() && !s[j].held) ++j;
            if (j > i) hang(s, i, j, nothing_holds);
            i = std::max(j, i + 1);
        }
    }
    /// Samples i to j hang.
    void hang(std::vector<Sample>& s, size_t i, size_t j, bool nothing_holds) {
        const bool first = i > 0 && !nothing_holds, last = j < s.size() && !nothing_holds;
        double length = first ? (s[i].place - s[i - 1].place).norm() / 2 : 0;
        std::vector<double> at;
        for (size_t k = i; k < j; ++k) {
            if (k > i) length += (s[k].place - s[k - 1].place).norm();
            at.push_back(length);
        }
        if (last) length += (s[j].place - s[j - 1].place).norm() / 2;
        const double limit = model_.card.bridge_limit_mm, per_mm = 4 * layer_ / (limit * limit);
        double deepest = 0;
        size_t where = i;
        for (size_t k = i; k < j; ++k) {
            const double a = at[k - i], beyond = distance_to_border(held_, s[k].place);
            double strand = 1e9;
            if (first && last)
                strand = per_mm * a * (length - a);
            else if (first)
                strand = model_.free_end * per_mm * a * a;
            else if (last)
                strand = model_.free_end * per_mm * (length - a) * (length - a);
            // Neither its ends nor its neighbours are wasted.
            const double own = std::min(strand, model_.beside_per_mm * beyond * beyond);
            s[k].droop = std::max(s[k].droop, std::min(own, 1e3));
            if (own > deepest) {
                deepest = own;
                where = k;
            }
        }
        constexpr double told_from_mm = 0.01;
        if (deepest > told_from_mm)
            out_.droops.push_back(
                {{s[where].place.x(), s[where].place.y(), z_}, deepest, length, deepest > model_.lost_from_mm});
    }
    void part_by_height(const std::vector<Sample>& s, size_t index) {
        auto slabs = [&](double mm) { return int(std::lround(mm / layer_ * model_.slabs_a_layer)); };
        auto heights = [&](const Sample& x) {
            const int down = slabs(x.droop);
            return std::pair(down, std::max(0, slabs(x.below) - down));
        };
        for (size_t i = 0; i < s.size();) {
            const auto here = heights(s[i]);
            LaidRun run{{}, index, here.first, here.second};
            size_t j = i;
            while (j < s.size() && heights(s[j]) == here) run.path.push_back(grid_place(s[j++].place));
            if (j < s.size()) run.path.push_back(grid_place(s[j].place));
            if (run.path.size() > 1) out_.runs.push_back(std::move(run));
            i = j;
        }
    }

    const LayerLines& lines_;
    const Region& held_;
    double layer_, z_;
    const DroopField& before_;
    const PracticeModel& model_;
    HangingLayer out_;
};

} // namespace

double DroopField::at(const Vec2& p) const {
    auto it = cells_.find(cell_of(p));
    return it == cells_.end() ? 0 : double(it->second);
}

void DroopField::deepen(const Vec2& p, double droop_mm) {
    constexpr double least_mm = 0.005;
    if (droop_mm <= least_mm) return;
    float& cell = cells_[cell_of(p)];
    cell = std::max(cell, float(droop_mm));
}

HangingLayer hang_lines(const LayerLines& lines, const Region& held, double layer_mm, double z_mm,
                        const DroopField& before, const PracticeModel& model) {
    return Hanging(lines, held, layer_mm, z_mm, before, model).run();
}

} // namespace lp
