// Which runs of a layer's lines nothing carries, and how far they droop.
#pragma once
#include "layers/practice_printer.h"
#include <unordered_map>

namespace lp {

/// How far what was laid drooped, by squares of half a millimetre: the next layer lies on it.
class DroopField {
  public:
    double at(const Vec2& p) const;
    void deepen(const Vec2& p, double droop_mm);
    bool empty() const { return cells_.empty(); }

  private:
    std::unordered_map<uint64_t, float> cells_;
};

/// A stretch of a line that lies at one height.
struct LaidRun {
    ClipperLib::Path path;
    size_t line = 0;
    int slabs_down = 0;
    int slabs_deeper = 0; ///< what lies below drooped further: it is pressed down onto that
};
struct HangingLayer {
    std::vector<LaidRun> runs;
    std::vector<Droop> droops;
    DroopField field;
};

/// `held`: where the middle of a line rests well enough; `before`: how the layer below drooped.
HangingLayer hang_lines(const LayerLines& lines, const Region& held, double layer_mm, double z_mm,
                        const DroopField& before, const PracticeModel& model);

} // namespace lp
