#include "project/seating.h"
#include "base/turn_between.h"
#include "project/evaluate.h"
#include "shape/face_reference.h"
#include "steps/find_plane.h"
#include <algorithm>
#include <numbers>

namespace lp {
namespace {

constexpr double still_mm = 1e-4, still_rad = 1e-5; ///< what seats may contradict each other by

/// A face, where its part stands.
struct SeatedFace {
    bool flat = true;
    Vec3 middle, direction; ///< of what can be seen of it; outward, or along the axis
    Vec3 on_axis;           ///< of a round one, beside its middle
    void move(const Transform& by) {
        middle = by * middle;
        on_axis = by * on_axis;
        direction = by.linear() * direction;
    }
};

/// The middle of what a flat face spans, seen square on: holes in it do not move it.
Vec3 middle_of_span(const Body& body, const FoundFace& found) {
    const Tessellation& all = body.tessellation();
    const auto own = face_frame(body, found.face, found.primary);
    if (!own) return all.faces[found.face].centre;
    const Transform to_face = own->inverse();
    Box3 span;
    for (size_t i = 0; i < all.face_of.size(); ++i)
        if (all.face_of[i] == found.face)
            for (int k = 0; k < 3; ++k) span.extend(to_face * all.mesh.corner(i, k));
    return span.isEmpty() ? all.faces[found.face].centre : Vec3(*own * Vec3(span.center()));
}

Expected<FoundFace> found_in(const Part& part, const std::vector<StepBody>& bodies, const GeometryItem& item,
                             const ParameterValues& values) {
    StepContext context;
    context.parameters = values;
    context.step_named = [&part](const std::string& name) -> std::optional<StepId> {
        const Step* step = step_called(part, name);
        return step ? std::optional(step->id) : std::nullopt;
    };
    return find_face(bodies, context, item, true);
}

Expected<SeatedFace> face_of(const Part& part, const std::vector<StepBody>& bodies, const GeometryItem& item,
                             const ParameterValues& values) {
    auto found = found_in(part, bodies, item, values);
    if (!found) {
        Problem why = found.error();
        why.sentence = part.name + ": " + why.sentence;
        why.advice = "Choose the faces again.";
        return tl::unexpected(why);
    }
    const Body& body = bodies[found->body].body;
    const FaceInfo& face = body.tessellation().faces[found->face];
    SeatedFace seated;
    seated.flat = face.kind == SurfaceKind::Plane;
    if (!seated.flat && !has_axis(face))
        return problem(ProblemCode::Geometry, part.name + ": that face is neither flat nor round about an axis.",
                       "Choose another.");
    seated.direction = face.direction;
    seated.middle = seated.flat ? middle_of_span(body, *found) : face.centre;
    seated.on_axis = face.axis_point + (face.centre - face.axis_point).dot(face.direction) * face.direction;
    return seated;
}

/// A place, and how it may still be changed: turned anyhow, about an axis or not at all; shifted anyhow, in a plane,
/// along a line or not at all.
class StillFree {
  public:
    explicit StillFree(const Transform& begin) : place_(begin) {}
    const Transform& place() const { return place_; }

    /// False where this seat and those before it cannot hold at once.
    bool seat(SeatedFace face, const SeatedFace& on, double gap_mm) {
        face.move(place_);
        return face.flat ? lay(face, on, gap_mm) : put_about(face, on);
    }

  private:
    void apply(const Transform& by, SeatedFace& face) {
        place_ = by * place_;
        face.move(by);
    }
    void shift(const Vec3& by, SeatedFace& face) {
        Transform move = Transform::Identity();
        move.translate(by);
        apply(move, face);
    }
    void turn(const Eigen::Quaterniond& by, const Vec3& about, SeatedFace& face) {
        Transform move = Transform::Identity();
        move.translate(about);
        move.rotate(by);
        move.translate(-about);
        apply(move, face);
    }
    void turn_about_axis(const Vec3& from, const Vec3& to, const Vec3& about, SeatedFace& face) {
        const double angle = std::atan2(axis_.dot(from.cross(to)), from.dot(to));
        turn(Eigen::Quaterniond(Eigen::AngleAxisd(angle, axis_)), about, face);
        turns_ = 0;
    }

    static Vec3 across(const Vec3& v, const Vec3& axis) { return v - v.dot(axis) * axis; }

    bool turn_to(const Vec3& to, SeatedFace& face) {
        if (turns_ == 3) {
            turn(turn_between(face.direction, to), face.middle, face);
            turns_ = 1;
            axis_ = to;
            either_way_ = !face.flat;
        } else if (turns_ == 1) {
            const Vec3 from = across(face.direction, axis_), goal = across(to, axis_);
            if (from.norm() > still_rad && goal.norm() > still_rad)
                turn_about_axis(from, goal, pivot_.value_or(face.middle), face);
            else if (face.flat && either_way_ && face.direction.dot(to) < 0)
                turn(Eigen::Quaterniond(Eigen::AngleAxisd(std::numbers::pi, axis_.unitOrthogonal())),
                     pivot_.value_or(face.middle), face);
            either_way_ = either_way_ && !face.flat;
        }
        return face.direction.cross(to).norm() < still_rad && face.direction.dot(to) > 0;
    }

    /// Moves by `distance` along `direction` as far as that is free.
    bool shift_along(const Vec3& direction, double distance, SeatedFace& face) {
        const Vec3 way = shifts_ == 3   ? direction
                         : shifts_ == 2 ? across(direction, line_)
                         : shifts_ == 1 ? Vec3(line_.dot(direction) * line_)
                                        : Vec3(Vec3::Zero());
        if (way.norm() < still_rad) return std::fabs(distance) < still_mm;
        shift(way * (distance / way.dot(direction)), face);
        line_ = shifts_ == 3 ? direction : line_.cross(direction).normalized();
        --shifts_;
        return true;
    }

    bool lay(SeatedFace& face, const SeatedFace& on, double gap_mm) {
        if (!turn_to(-on.direction, face)) return false;
        if (shifts_ == 3) shift(across(on.middle - face.middle, on.direction), face);
        return shift_along(on.direction, (on.middle - face.middle).dot(on.direction) + gap_mm, face);
    }

    bool put_about(SeatedFace& face, const SeatedFace& on) {
        // Axes have no sense: the shorter turn.
        if (!turn_to(face.direction.dot(on.direction) < 0 ? Vec3(-on.direction) : on.direction, face)) return false;
        if (shifts_ == 3) shift(on.on_axis - face.on_axis, face);
        auto left = [&] { return across(on.on_axis - face.on_axis, on.direction); };
        if (shifts_ == 0 && turns_ == 1 && pivot_ && axis_.cross(on.direction).norm() < still_rad) {
            const Vec3 from = across(face.on_axis - *pivot_, axis_), to = across(on.on_axis - *pivot_, axis_);
            if (from.norm() > still_mm && to.norm() > still_mm) turn_about_axis(from, to, *pivot_, face);
            return left().norm() < still_mm;
        }
        // Two directions across the axis: one of them as what is free lies.
        Vec3 first = across(line_, on.direction);
        first = shifts_ < 3 && first.norm() > still_rad ? Vec3(first.normalized()) : on.direction.unitOrthogonal();
        Vec3 second = on.direction.cross(first);
        if (shifts_ == 2) std::swap(first, second); // the plane's own direction is no way to go
        const bool held = shift_along(first, left().dot(first), face);
        if (!shift_along(second, left().dot(second), face) || !held) return false;
        if (turns_ == 1) pivot_ = on.on_axis;
        return left().norm() < still_mm;
    }

    Transform place_;
    int turns_ = 3, shifts_ = 3;
    Vec3 axis_ = Vec3::UnitZ(); ///< with one turn left: about this, through the pivot where there is one
    Vec3 line_ = Vec3::UnitZ(); ///< with two shifts left: across this; with one: along it
    std::optional<Vec3> pivot_;
    bool either_way_ = false; ///< the axis was laid along another without regard to which way it looks
};

} // namespace

Seating::Seating(const Project& project, const Evaluation& made)
    : Seating(project, made.values, [&made](const Part& part) -> Expected<std::vector<StepBody>> {
          const PartResult* its = made.part(part.id);
          return its ? its->bodies : std::vector<StepBody>{};
      }) {}

Expected<Transform> Seating::place_of(const Part& part) {
    auto typed = assembly_transform(part.place, values_);
    if (!typed || part.place.seats.empty()) return typed;
    if (auto known = known_.find(part.id); known != known_.end()) return known->second;
    if (std::find(seating_.begin(), seating_.end(), part.id) != seating_.end()) {
        std::string loop;
        for (PartId id : seating_) loop += project_.part(id)->name + " → ";
        return problem(ProblemCode::Missing,
                       "These parts are seated on each other in a circle: " + loop + part.name + ".",
                       "Take one of them off its seat.");
    }
    seating_.push_back(part.id);
    Transform turned = Transform::Identity();
    turned.linear() = typed->linear();
    auto place = seated(part, turned);
    seating_.pop_back();
    if (place) known_[part.id] = place->pretranslate(typed->translation());
    return place;
}

Expected<Transform> Seating::seated(const Part& part, const Transform& turned) {
    auto own = bodies_of_(part);
    if (!own) return pass_on(own);
    StillFree free(turned);
    for (const Seat& seat : part.place.seats) {
        const PartPtr on = project_.part_named(seat.on);
        if (!on)
            return problem(ProblemCode::Missing, "There is no part called \"" + seat.on + "\".", "Choose another.");
        auto stands = place_of(*on);
        if (!stands) return stands;
        auto theirs = bodies_of_(*on);
        if (!theirs) return pass_on(theirs);
        auto face = face_of(part, *own, seat.face, values_);
        if (!face) return pass_on(face);
        auto on_face = face_of(*on, *theirs, seat.on_face, values_);
        if (!on_face) return pass_on(on_face);
        auto gap = evaluate_expression(seat.gap, QuantityKind::Length, values_);
        if (!gap) return pass_on(gap);
        if (face->flat != on_face->flat)
            return problem(ProblemCode::Geometry,
                           part.name + " on " + on->name +
                               ": a flat face is seated on a flat one, a round one on a round one.",
                           "Choose two alike.");
        on_face->move(*stands);
        if (!free.seat(*face, *on_face, *gap))
            return problem(ProblemCode::Geometry,
                           part.name + " cannot be seated on " + on->name +
                               " as well: the seats before hold it elsewhere.",
                           "Take one of them off, or change a size until both can be.");
    }
    return free.place();
}

std::vector<std::pair<Vec3, Vec3>> Seating::rests(const Part& part, const Part& on) {
    std::vector<std::pair<Vec3, Vec3>> planes;
    for (const Seat& seat : part.place.seats) {
        const auto gap = evaluate_expression(seat.gap, QuantityKind::Length, values_);
        if (seat.on != on.name || !gap || std::fabs(*gap) > still_mm) continue;
        const auto stands = place_of(on);
        const auto bodies = bodies_of_(on);
        if (!stands || !bodies) continue;
        auto face = face_of(on, *bodies, seat.on_face, values_);
        if (!face || !face->flat) continue;
        face->move(*stands);
        planes.emplace_back(face->middle, face->direction);
    }
    return planes;
}

Expected<Transform> Seating::from_part_to_part(const Part& from, const Part& to) {
    if (from.place == to.place && from.place.seats.empty()) return Transform::Identity();
    auto a = place_of(from);
    if (!a) return a;
    auto b = place_of(to);
    if (!b) return b;
    return Transform(b->inverse() * *a);
}

size_t seated_on_body(const Part& on, const PartResult& made, const Seat& seat, const ParameterValues& values) {
    if (made.bodies.size() < 2) return 0;
    const auto found = found_in(on, made.bodies, seat.on_face, values);
    return found ? found->body : 0;
}

bool sits_flat(const Part& part, const PartResult& made, const Seat& seat, const ParameterValues& values) {
    const auto face = face_of(part, made.bodies, seat.face, values);
    return !face || face->flat;
}

AssemblyPlace place_without_seats(const Part& part, const Transform& stands) {
    return part.place.seats.empty() ? part.place : typed_place(stands);
}

Project without_seats(const Evaluation& made) {
    Project project = *made.project;
    for (PartPtr& part : project.parts) {
        const PartResult* its = made.part(part->id);
        if (part->place.seats.empty() || !its) continue;
        Part placed = *part;
        placed.place = place_without_seats(*part, its->place);
        part = std::make_shared<const Part>(std::move(placed));
    }
    return project;
}

} // namespace lp
