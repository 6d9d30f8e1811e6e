#include "project/movement_check.h"
#include "base/hash.h"
#include "base/text.h"
#include "base/tolerance.h"
#include "project/analysis.h"
#include "project/seating.h"
#include "project/standing.h"
#include "shape/edge_circle.h"
#include "steps/find_plane.h"

namespace lp {

std::span<const MovementKind> movement_kinds() {
    using Kind = MovementPath::Kind;
    static constexpr MovementKind all[] = {
        {Kind::Turn, "turn", "Turn", QuantityKind::Angle, "0 deg", "180 deg", "2 deg"},
        {Kind::Slide, "slide", "Slide", QuantityKind::Length, "0 mm", "10 mm", "0.2 mm"},
        {Kind::Screw, "screw", "Screw", QuantityKind::Angle, "0 deg", "180 deg", "2 deg"},
        {Kind::Legs, "legs", "Lead along legs", QuantityKind::Number, "0", "1", "0.02"},
    };
    return all;
}

const MovementKind* find_movement_kind(std::string_view name) {
    for (const MovementKind& kind : movement_kinds())
        if (name == kind.name) return &kind;
    return nullptr;
}

Expected<MovementPath> movement_path(const KeptMovement& m, const ParameterValues& values) {
    const MovementKind* kind = find_movement_kind(m.kind);
    if (!kind)
        return problem(ProblemCode::Wording, "There is no movement called \"" + m.kind + "\".",
                       "Use turn, slide, screw or legs.");
    MovementPath path;
    path.kind = kind->kind;
    std::optional<Problem> wrong;
    auto number = [&](const std::string& text, QuantityKind kind) {
        auto value = evaluate_expression(text, kind, values);
        if (!value && !wrong) wrong = value.error();
        return value ? *value : 0.0;
    };
    for (int k = 0; k < 3; ++k) {
        path.point[k] = number(m.point[size_t(k)], QuantityKind::Length);
        path.axis[k] = number(m.direction[size_t(k)], QuantityKind::Number);
    }
    if (path.kind == MovementPath::Kind::Legs) {
        auto legs = legs_from_text(m.legs);
        if (!legs) return pass_on(legs);
        path.legs = *legs;
        path.from = 0;
        path.to = double(path.legs.size());
        path.step = 0.02;
    } else {
        path.from = number(m.from, kind->along);
        path.to = number(m.to, kind->along);
        path.step = number(m.step, kind->along);
    }
    if (path.kind == MovementPath::Kind::Screw) path.pitch_mm = number(m.pitch, QuantityKind::Length);
    if (wrong) return pass_on(*wrong);
    if (m.axis) path.axis = Vec3::UnitZ(); // found later
    if (auto nonsense = check_path(path)) return pass_on(*nonsense);
    return path;
}

namespace {

/// A place and a direction: of a circle or an arc its middle and what it runs round, of a straight edge itself, of
/// another closed one what it goes round on the whole.
std::optional<std::pair<Vec3, Vec3>> axis_of_edge(const std::vector<Vec3>& points) {
    if (const auto circle = circle_of(points)) return std::pair(circle->centre, circle->normal);
    if (points.size() < 2) return std::nullopt;
    constexpr double same_mm = 1e-6;
    const Vec3 begin = points.front(), along = points.back() - begin;
    Vec3 round = Vec3::Zero(), middle = Vec3::Zero();
    double bent = 0;
    for (size_t i = 0; i + 1 < points.size(); ++i) {
        round += (points[i] - begin).cross(points[i + 1] - begin);
        middle += points[i] / double(points.size() - 1);
        bent = std::max(bent, along.cross(points[i] - begin).norm());
    }
    if (along.norm() < same_mm)
        return round.isZero() ? std::nullopt : std::optional(std::pair(middle, round.normalized()));
    return bent < same_mm * along.squaredNorm() ? std::optional(std::pair(begin, along.normalized())) : std::nullopt;
}

} // namespace

Expected<MovementPath> found_path(const Evaluation& evaluation, const KeptMovement& m) {
    auto path = movement_path(m, evaluation.values);
    if (!path || !m.axis) return path;
    auto thing = find_measurable(evaluation, *m.axis);
    if (!thing) return pass_on(thing);
    const Tessellation& t = thing->body.tessellation();
    if (thing->kind == Measurable::Kind::Face) {
        const FaceInfo& face = t.faces[thing->index];
        const bool round = has_axis(face);
        if (!round && face.kind != SurfaceKind::Plane)
            return problem(ProblemCode::Geometry, "The face that was chosen has no axis.",
                           "Choose a round or a flat face.");
        path->axis = thing->place.linear() * face.direction;
        path->point = thing->place * (round ? face.axis_point : face.centre);
    } else if (thing->kind == Measurable::Kind::Edge) {
        const auto& p = t.edges[thing->index].points;
        const auto axis = axis_of_edge(p);
        if (!axis)
            return problem(ProblemCode::Geometry, "The edge that was chosen has no axis.",
                           "Choose a circle or a straight edge.");
        path->point = thing->place * axis->first;
        path->axis = thing->place.linear() * axis->second;
    }
    return path;
}

Expected<std::optional<double>> stands_at(const KeptMovement& movement, const MovementPath& path,
                                          const ParameterValues& values) {
    if (movement.stands.empty()) return std::optional<double>();
    const auto at = evaluate_expression(movement.stands, find_movement_kind(movement.kind)->along, values);
    if (!at) return pass_on(at);
    const auto [low, high] = std::minmax(path.from, path.to);
    constexpr double rounding = 1e-9;
    if (!(*at >= low - rounding && *at <= high + rounding))
        return problem(ProblemCode::Range,
                       movement.moving + " stands at " + position_words(path, *at) + ", but moves from " +
                           position_words(path, path.from) + " to " + position_words(path, path.to) + ".",
                       "Leave it in between, or move its ends.");
    return std::optional<double>(*at);
}

namespace {

/// The space a body passes through on its way.
Box3 swept_box(const Box3& box, const MovementPath& path) {
    Box3 swept;
    for (double position : path.positions()) swept.extend(box.transformed(path.at(position)));
    return swept;
}

/// The bodies of a movement where they stand before it: what moves, with what sits on it; and what it moves beside.
class Cast {
  public:
    Cast(const Evaluation& evaluation, const KeptMovement& movement, const PrintedParts* printed)
        : evaluation_(evaluation), id_(movement.id), standing_(standing_of(evaluation).before(evaluation, movement)),
          printed_(printed) {}

    std::optional<MovementPath> path() const { return standing_.path_of(id_); }

    /// It, or a body of it.
    bool moves(const Participant& who) const {
        for (size_t i = 0; i < evaluation_.part(who.part)->bodies.size(); ++i)
            if ((!who.body || *who.body == i) && standing_.leads(id_, who.part, i)) return true;
        return false;
    }

    Box3 box_of(const Participant& who) const {
        const PartResult& part = *evaluation_.part(who.part);
        Box3 all;
        for (size_t i = 0; i < part.bodies.size(); ++i)
            if (!who.body || *who.body == i)
                all.extend(part.bodies[i].body.box().transformed(standing_.of(who.part, i) * part.place));
        return all;
    }

    /// As drawn or as printed; empty without a body.
    TriMesh mesh_of(const Participant& who) const {
        const PartResult& part = *evaluation_.part(who.part);
        const auto found = printed_ ? printed_->find(who.part) : PrintedParts::const_iterator();
        if (!printed_ || found == printed_->end()) return mesh_where_it_stands(part, standing_, who.body);
        TriMesh all;
        for (size_t i = 0; i < found->second.bodies.size(); ++i)
            if (!who.body || *who.body == i)
                append(all, transformed(found->second.bodies[i], standing_.of(who.part, i)));
        return all;
    }

    /// Whether what moves, or sits on it, lies by its seat on that part, or that part on it, where this place is.
    bool rests_at(const Vec3& place, PartId other) {
        const Project& project = *evaluation_.project;
        const PartPtr still_part = project.part(other);
        Seating seating(project, evaluation_);
        for (const PartResult& made : evaluation_.parts) {
            const PartPtr part = project.part(made.part);
            if (!part || !still_part || part == still_part || !moves({made.part, {}, made.name})) continue;
            for (const auto& [on, planes] : {std::pair(other, seating.rests(*part, *still_part)),
                                             std::pair(made.part, seating.rests(*still_part, *part))})
                for (const auto& [point, normal] : planes) {
                    const Transform stands = standing_.of(on);
                    if (std::fabs((place - stands * point).dot(stands.linear() * normal)) < 2 * tolerance::touching_mm)
                        return true;
                }
        }
        return false;
    }

    void add_still(const Participant& who, MovementOutcome& outcome) {
        if (moves(who)) return;
        TriMesh mesh = mesh_of(who);
        if (mesh.empty()) return;
        still.push_back(std::make_shared<const MeasuredBody>(std::move(mesh)));
        outcome.still.push_back(who.name);
        still_parts.push_back(who.part);
    }
    std::vector<std::shared_ptr<const MeasuredBody>> still;
    std::vector<PartId> still_parts;

  private:
    const Evaluation& evaluation_;
    const MovementId id_;
    const Standing standing_;
    const PrintedParts* printed_;
};

/// What lies on its seat where it begins, and leaves it within a step, is free from there on.
void leave_seat(Cast& cast, MovementOutcome& outcome) {
    MovementResult& result = outcome.result;
    if (result.interferences.empty() || result.interferences.front().from != outcome.path.from) return;
    const Interference first = result.interferences.front();
    if (std::fabs(first.to - first.from) > std::fabs(outcome.path.step)) return;
    if (!cast.rests_at(first.at, cast.still_parts[first.with])) return;
    outcome.rests_on = outcome.still[first.with];
    result.interferences.erase(result.interferences.begin());
    result.first_contact =
        result.interferences.empty() ? std::nullopt : std::optional(result.interferences.front().from);
    result.smallest_gap_mm = std::numeric_limits<double>::infinity();
    const double way = outcome.path.to > outcome.path.from ? 1 : -1;
    for (const MovementSample& sample : result.curve)
        if (sample.gap_mm && way * (sample.position - first.to) > 0 && *sample.gap_mm < result.smallest_gap_mm) {
            result.smallest_gap_mm = *sample.gap_mm;
            result.smallest_at = sample.position;
        }
}

} // namespace

Expected<MovementOutcome> run_movement_as_printed(const Evaluation& evaluation, const Analysis& analysis,
                                                  const KeptMovement& movement, const Task& task) {
    std::set<PartId> parts;
    if (auto moving = find_participant(evaluation, movement.moving)) parts.insert(moving->part);
    if (movement.still.empty())
        for (const Participant& who : participants(evaluation)) parts.insert(who.part);
    for (const std::string& name : listed(movement.still, ','))
        if (auto who = find_participant(evaluation, name)) parts.insert(who->part);
    const Standing standing = standing_of(evaluation).before(evaluation, movement);
    for (const Participant& who : participants(evaluation))
        if (standing.leads(movement.id, who.part, who.body.value_or(0))) parts.insert(who.part);
    const auto printed = printed_parts(evaluation, analysis, parts, task);
    if (!printed) return pass_on(printed);
    return run_movement(evaluation, movement, task, &*printed);
}

Expected<MovementOutcome> run_movement(const Evaluation& evaluation, const KeptMovement& m, const Task& task,
                                       const PrintedParts* printed) {
    auto moving = find_participant(evaluation, m.moving);
    if (!moving)
        return problem(ProblemCode::Missing, "There is no body called \"" + m.moving + "\" to move.",
                       "Choose another.");
    Cast cast(evaluation, m, printed);
    const auto path = cast.path();
    if (!path) return pass_on(found_path(evaluation, m)); // why it is none
    MovementOutcome outcome;
    outcome.path = *path;
    outcome.moving = *moving;
    outcome.printed = printed != nullptr;
    outcome.key = movement_key(evaluation, m);
    TriMesh mesh = cast.mesh_of(*moving);
    if (mesh.empty()) return problem(ProblemCode::Missing, m.moving + " has no body.", "Choose another.");
    const auto everyone = participants(evaluation);
    for (const Participant& who : everyone)
        if (who.part != moving->part && cast.moves(who)) {
            append(mesh, cast.mesh_of(who));
            outcome.along.push_back(who.name);
        }
    const MeasuredBody body(std::move(mesh));
    if (m.still.empty()) {
        // What the body never comes near is not made ready for distances. With nothing near, all of it is looked at:
        // the curve then says that nothing is.
        Box3 swept = swept_box(body.tree.box(), outcome.path);
        for (const Participant& who : everyone)
            if (cast.box_of(who).exteriorDistance(swept) <= MovementOptions().look_mm) cast.add_still(who, outcome);
        if (cast.still.empty())
            for (const Participant& who : everyone) cast.add_still(who, outcome);
    } else {
        for (const std::string& name : listed(m.still, ',')) {
            auto who = find_participant(evaluation, name);
            if (!who)
                return problem(ProblemCode::Missing, "There is no body called \"" + name + "\" to move beside.",
                               "Choose another.");
            cast.add_still(*who, outcome);
        }
    }
    auto result = check_movement(body, cast.still, outcome.path, MovementOptions(), task);
    if (!result) return pass_on(result);
    outcome.result = std::move(*result);
    leave_seat(cast, outcome);
    if (auto play = measure_play(body, cast.still, outcome.path.axis, task)) outcome.play = *play;
    if (task.stopped()) return cancelled();
    return outcome;
}

uint64_t movement_key(const Evaluation& evaluation, const KeptMovement& movement) {
    const Standing standing = standing_of(evaluation).with(movement.id, std::nullopt);
    Hasher key(0x30fe);
    auto add_place = [&](const Transform& place) {
        for (int i = 0; i < 3; ++i)
            for (int j = 0; j < 4; ++j) key.add(place.matrix()(i, j));
    };
    key.add(movement.moving).add(movement.still);
    if (const auto path = standing.path_of(movement.id)) {
        key.add(path->kind).add(path->from).add(path->to).add(path->step).add(path->pitch_mm);
        for (int k = 0; k < 3; ++k) key.add(path->point[k]).add(path->axis[k]);
        for (const PathLeg& leg : path->legs) key.add(leg.turn_deg).add(leg.slide_mm);
    }
    for (const PartResult& part : evaluation.parts) {
        key.add(part.part).add(part.name).add(part.key);
        for (size_t i = 0; i < part.bodies.size(); ++i) {
            add_place(standing.of(part.part, i) * part.place);
            key.add(standing.leads(movement.id, part.part, i));
        }
    }
    return key.value();
}

} // namespace lp
