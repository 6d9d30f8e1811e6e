// Does it move? One body turned, slid, screwed or led along legs beside others: the gap at every position, where it
// first touches, and how much play it has.
#pragma once
#include "fit/contacts.h"
#include "steps/fits/legs.h"

namespace lp {

struct MovementPath {
    enum class Kind { Turn, Slide, Screw, Legs };
    Kind kind = Kind::Turn;
    Vec3 point = Vec3::Zero(), axis = Vec3::UnitZ(); ///< in the assembly
    double from = 0, to = 180, step = 1;             ///< degrees (turn, screw), mm (slide); for legs 0 to their number
    double pitch_mm = 0;                             ///< screw: along the axis for each turn
    std::vector<PathLeg> legs;

    /// Where the body is at a position, from where it is drawn.
    Transform at(double position) const;
    /// The positions that are looked at, `from` and `to` among them.
    std::vector<double> positions() const;
    const char* unit() const; ///< "°", "mm" or "leg"
};
/// Problem when the path has no axis, no length or far too many positions.
std::optional<Problem> check_path(const MovementPath& path);
struct MovementSample {
    double position = 0;
    std::optional<double> gap_mm; ///< none when more than looked for; 0 when touching
    Vec3 at = Vec3::Zero();       ///< on the still bodies, where it is smallest
};

/// A stretch of the way on which the bodies touch or pass through each other.
struct Interference {
    double from = 0, to = 0;
    Vec3 at = Vec3::Zero(); ///< where it begins
    size_t with = 0;        ///< number of the still body
};

struct MovementResult {
    std::vector<MovementSample> curve;
    std::optional<double> first_contact; ///< position, found more closely than the step
    std::vector<Interference> interferences;
    double smallest_gap_mm = std::numeric_limits<double>::infinity();
    double smallest_at = 0;
};

struct MovementOptions {
    double look_mm = 5; ///< gaps above are not told apart
};

/// Moves `moving` through all positions. Positions are measured several at a time; stops on request. Bodies stand in
/// the assembly. A position in contact counts as such from 0.002 mm.
Expected<MovementResult> check_movement(const MeasuredBody& moving,
                                        const std::vector<std::shared_ptr<const MeasuredBody>>& still,
                                        const MovementPath& path, const MovementOptions& options = {},
                                        const Task& task = {});

/// How far the body can shift along each direction, and tilt about each axis through `centre`, before it touches;
/// up to 5 mm and 30 degrees.
struct Play {
    struct Way {
        Vec3 direction;
        double minus = 0, plus = 0; ///< mm, or degrees
    };
    std::vector<Way> shifts, tilts; ///< along and about three directions at right angles; the first is the axis
};
Expected<Play> measure_play(const MeasuredBody& moving, const std::vector<std::shared_ptr<const MeasuredBody>>& still,
                            const Vec3& axis, const Task& task = {});

} // namespace lp
