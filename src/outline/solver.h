// Constraints made true: damped Gauss-Newton on the points and radii of a drawing, smallest change first.
#pragma once
#include "base/problem.h"
#include "outline/drawing.h"
#include <memory>

namespace lp {

/// Values of dimensions by constraint id: mm, degrees.
using DimensionValues = std::map<DrawingId, double>;

/// Values of all dimensions from their texts. A Problem names the dimension that cannot be read or is out of range:
/// lengths above 0, at most 100 m; angles within a turn.
Expected<DimensionValues> dimension_values(const Drawing& drawing, const ParameterValues& parameters);

/// What a dimension measures now; for a drawing that need not be solved.
double measured(const Drawing& drawing, const Constraint& dimension);

/// The drawing with points and radii moved, as little as may be, until every constraint holds to 1e-9 mm. Large changes
/// of dimensions are taken in steps, so that the figure keeps its way round. Followed elements and fixed ones stay. A
/// Problem names the constraints that contradict each other, or an element that would vanish; the drawing given is
/// untouched.
Expected<Drawing> solve(const Drawing& drawing, const DimensionValues& values);

/// What may still move.
struct Freedom {
    int total = 0;                    ///< independent ways the drawing can still move
    std::map<DrawingId, int> of;      ///< by element and point: ways it can move; 0 is fully held
    std::vector<DrawingId> redundant; ///< constraints that say again what others say
};
/// By rank-revealing QR of the constraints' derivatives; for a solved drawing. Cubic in the size of each connected
/// group.
Freedom freedom(const Drawing& drawing, const DimensionValues& values);

/// The drawing with one more constraint, solved. Refused when it contradicts others or only repeats them: the
/// Problem names them all. An empty value of a dimension takes what it measures now.
Expected<Drawing> constrain(const Drawing& drawing, Constraint constraint, const ParameterValues& parameters);

/// Pulls points about while everything else holds. Set up once when the pointer goes down.
class Drag {
  public:
    /// `what`: points, or an element whose points are all pulled (a circle alone changes its radius).
    Drag(const Drawing& drawing, const DimensionValues& values, DrawingId what, const Vec2& from);
    ~Drag();
    /// The drawing with the thing pulled to `to` as far as the constraints let it. Never fails: at worst nothing moves.
    const Drawing& move(const Vec2& to);

  private:
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace lp
