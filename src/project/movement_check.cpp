#include "project/movement_check.h"
#include "base/text.h"
#include "project/analysis.h"

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

Expected<MovementPath> found_path(const Evaluation& evaluation, const KeptMovement& m) {
    auto path = movement_path(m, evaluation.values);
    if (!path || !m.axis) return path;
    auto thing = find_measurable(evaluation, *m.axis);
    if (!thing) return pass_on(thing);
    const Tessellation& t = thing->body.tessellation();
    if (thing->kind == Measurable::Kind::Face) {
        const FaceInfo& face = t.faces[thing->index];
        bool round = face.kind == SurfaceKind::Cylinder || face.kind == SurfaceKind::Cone;
        if (!round && face.kind != SurfaceKind::Plane)
            return problem(ProblemCode::Geometry, "The face that was chosen has no axis.",
                           "Choose a round or a flat face.");
        path->axis = thing->place.linear() * face.direction;
        path->point = thing->place * (round ? face.axis_point : face.centre);
    } else if (thing->kind == Measurable::Kind::Edge) {
        const auto& p = t.edges[thing->index].points;
        bool closed = (p.front() - p.back()).norm() < 1e-6;
        Vec3 middle = Vec3::Zero(), normal = Vec3::Zero();
        for (const Vec3& q : p) middle += q / double(p.size());
        for (size_t i = 0; i + 1 < p.size(); ++i) normal += (p[i] - middle).cross(p[i + 1] - middle);
        bool straight = !closed && p.size() >= 2 && normal.norm() < 1e-6 * (p.back() - p.front()).squaredNorm();
        if (!closed && !straight)
            return problem(ProblemCode::Geometry, "The edge that was chosen has no axis.",
                           "Choose a circle or a straight edge.");
        path->axis = thing->place.linear() * (straight ? Vec3(p.back() - p.front()) : normal).normalized();
        path->point = thing->place * (straight ? p.front() : middle);
    }
    return path;
}

namespace {

/// The space a body passes through on its way.
Box3 swept_box(const Box3& box, const MovementPath& path) {
    Box3 swept;
    for (double position : path.positions()) swept.extend(box.transformed(path.at(position)));
    return swept;
}

Box3 box_of(const Evaluation& evaluation, const Participant& who) {
    const PartResult& part = *evaluation.part(who.part);
    return (who.body ? part.bodies[*who.body].body.box() : part.box).transformed(part.place);
}

/// A body made ready for distances, as drawn or as printed; null without one.
std::shared_ptr<const MeasuredBody> body_of(const Evaluation& evaluation, const Participant& who, ContactLedger& ledger,
                                            const PrintedParts* printed) {
    const auto found = printed ? printed->find(who.part) : PrintedParts::const_iterator();
    if (!printed || found == printed->end()) return ledger.measured(evaluation, who);
    TriMesh mesh;
    for (size_t i = 0; i < found->second.bodies.size(); ++i)
        if (!who.body || *who.body == i) append(mesh, found->second.bodies[i]);
    return mesh.empty() ? nullptr : std::make_shared<const MeasuredBody>(std::move(mesh));
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
    auto path = found_path(evaluation, m);
    if (!path) return pass_on(path);
    ContactLedger ledger;
    MovementOutcome outcome;
    outcome.path = *path;
    outcome.moving = *moving;
    outcome.printed = printed != nullptr;
    auto body = body_of(evaluation, *moving, ledger, printed);
    if (!body) return problem(ProblemCode::Missing, m.moving + " has no body.", "Choose another.");
    std::vector<std::shared_ptr<const MeasuredBody>> still;
    auto add = [&](const Participant& who) {
        bool itself = who.part == moving->part && (!who.body || !moving->body || who.body == moving->body);
        if (itself) return;
        if (auto other = body_of(evaluation, who, ledger, printed)) {
            still.push_back(other);
            outcome.still.push_back(who.name);
        }
    };
    if (m.still.empty()) {
        // What the body never comes near is not made ready for distances. With nothing near, all of it is looked at:
        // the curve then says that nothing is.
        auto everyone = participants(evaluation);
        Box3 swept = swept_box(body->tree.box(), *path);
        for (const Participant& who : everyone)
            if (box_of(evaluation, who).exteriorDistance(swept) <= MovementOptions().look_mm) add(who);
        if (still.empty())
            for (const Participant& who : everyone) add(who);
    } else {
        for (const std::string& name : listed(m.still, ',')) {
            auto who = find_participant(evaluation, name);
            if (!who)
                return problem(ProblemCode::Missing, "There is no body called \"" + name + "\" to move beside.",
                               "Choose another.");
            add(*who);
        }
    }
    auto result = check_movement(*body, still, *path, MovementOptions(), task);
    if (!result) return pass_on(result);
    outcome.result = std::move(*result);
    if (auto play = measure_play(*body, still, path->axis, task)) outcome.play = *play;
    if (task.stopped()) return cancelled();
    return outcome;
}

} // namespace lp
