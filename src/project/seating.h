// Where the parts stand in the assembly: by numbers, and seated on faces of others, which follows their numbers.
#pragma once
#include "project/project.h"
#include <functional>
#include <map>

namespace lp {

struct Evaluation;
struct PartResult;

/// Flat on flat: the faces look at each other, the gap between them; middle on middle where that is the first seat.
/// Round in or on round: about one axis. A second and a third seat only take what is free still: a lid on a box goes by
/// its first hole over a post, and turns until its second one is over another.
class Seating {
  public:
    /// The bodies of a part, in its design frame, as far as it is made.
    using BodiesOf = std::function<Expected<std::vector<StepBody>>(const Part&)>;

    Seating(const Project& project, ParameterValues values, BodiesOf bodies_of)
        : project_(project), values_(std::move(values)), bodies_of_(std::move(bodies_of)) {}

    /// By the bodies that were made; both must outlive this.
    Seating(const Project& project, const Evaluation& made);

    /// From the part's design frame to the assembly. Refused: numbers that cannot be worked out, a face that is not
    /// there, seats that contradict each other or go in a circle.
    Expected<Transform> place_of(const Part& part);
    /// Where the part lies on that other one without a gap, as it is seated: a point and the normal of each plane, in
    /// the assembly.
    std::vector<std::pair<Vec3, Vec3>> rests(const Part& part, const Part& on);
    /// From the design frame of one part to that of another; exactly the identity where both stand alike.
    Expected<Transform> from_part_to_part(const Part& from, const Part& to);

  private:
    Expected<Transform> seated(const Part& part, const Transform& turned);

    const Project& project_;
    const ParameterValues values_;
    BodiesOf bodies_of_;
    std::vector<PartId> seating_; ///< the part whose place is asked for, and what it sits on
    std::map<PartId, Transform> known_;
};

/// The number of that part's body which the seat lies on; 0 where it is not found.
size_t seated_on_body(const Part& on, const PartResult& made, const Seat& seat, const ParameterValues& values);
/// Whether the seat is flat on flat, so that its gap says something; also where its face is not found.
bool sits_flat(const Part& part, const PartResult& made, const Seat& seat, const ParameterValues& values);
/// The place of a part that stands as told, by numbers alone: what is made out of it has other faces.
AssemblyPlace place_without_seats(const Part& part, const Transform& stands);
/// The same of all parts of a project.
Project without_seats(const Evaluation& made);

} // namespace lp
