// The lines of one layer. Used by line_plan.cpp alone.
#pragma once
#include "layers/centre_lines.h"
#include "layers/facing_walls.h"
#include "layers/hatching.h"
#include "layers/lines.h"

namespace lp {

struct LayerInput {
    Region part, below;
    Region covered; ///< what all layers that make the skins hold, above and below
    Region solid;   ///< wanted filled
    Region support;
    Region support_floor; ///< of it, what is filled whole
    size_t index = 0;
};

class LayerPlanner {
  public:
    LayerPlanner(const LineOptions& options, const LayerInput& input, LayerLines& out);
    void run();

  private:
    void island(const Region& island, const Region& air);
    /// What of `rest` is solid; bridges are laid here.
    void solid_and_bridges(const Region& rest, const Region& air, Region& solid, Region& bridge);
    /// n closed lines inside each other, from the border of `rest` inward, with the thin places between them; `rest` is
    /// what is left inside.
    void walls(Region& rest, int n, LineKind outermost, LineKind inner);
    /// Takes every place narrower than 1.5 lines from `rest` and puts middle lines there.
    void take_thin(Region& rest, double least_mm, std::vector<CentreLine>& thin) const;
    void lay_walls(const Region& middles, LineKind kind, bool may_be_thin);
    /// Passes of a wall nearer than 1.5 lines share what is there.
    void lay_shared_wall(const Polyline& loop, LineKind kind, bool round_hole, const FacingWalls& facing);
    void fill_solid(const Region& region);
    void rows(const Region& region, double angle, LineKind kind);
    void sparse(const Region& rest, const Region& solid, const Region& bridge);
    void support();
    /// Hidden in a hollow corner, else near the seam before; sharp outer corners come second.
    size_t seam_of(const ClipperLib::Path& loop) const;
    double diagonal() const;
    template <class Line> std::vector<Line> nearest_first(std::vector<Line> lines) const;
    void put(const Polyline& places, double width, LineKind kind, bool closed, bool round_hole = false);

    const LineOptions& options_;
    const LayerInput& input_;
    LayerLines& out_;
    double width_, height_, top_;
    Vec2 at_;   ///< where the nozzle is
    Vec2 seam_; ///< of the outer wall before
};

} // namespace lp
