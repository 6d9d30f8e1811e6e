#include "project/standing.h"
#include "base/quantity.h"
#include "project/seating.h"
#include <algorithm>

namespace lp {

Standing::Led Standing::led_by(const Evaluation& made, const KeptMovement& movement) {
    Led led;
    led.id = movement.id;
    const bool left = !movement.stands.empty();
    const auto moving = find_participant(made, movement.moving);
    if (!moving) {
        if (left)
            led.wrong = Problem{ProblemCode::Missing, "There is no body called \"" + movement.moving + "\" to move.",
                                "Choose another."};
        return led;
    }
    led.moving = *moving;
    auto path = found_path(made, movement);
    if (!path) {
        if (left) led.wrong = path.error();
        return led;
    }
    led.path = *path;
    auto at = stands_at(movement, *path, made.values);
    if (at)
        led.at = *at;
    else
        led.wrong = at.error();
    return led;
}

Standing::Standing(const Evaluation& made) {
    for (const KeptMovement& movement : made.project->movements) led_.push_back(led_by(made, movement));
    for (const PartPtr& part : made.project->parts) {
        if (part->place.seats.empty()) continue;
        const PartPtr on = made.project->part_named(part->place.seats.front().on);
        const PartResult *its = made.part(part->id), *below = on ? made.part(on->id) : nullptr;
        if (!its || !below || its->place_problem) continue;
        carriers_[part->id] = {on->id, seated_on_body(*on, *below, part->place.seats.front(), made.values)};
    }
}

bool Standing::as_drawn() const {
    return std::none_of(led_.begin(), led_.end(), [](const Led& led) { return led.path && led.at; });
}

const Standing::Led* Standing::led(MovementId movement) const {
    for (const Led& one : led_)
        if (one.id == movement) return &one;
    return nullptr;
}

const Standing::Carrier* Standing::carrier_of(PartId part) const {
    const auto found = carriers_.find(part);
    return found == carriers_.end() ? nullptr : &found->second;
}

Transform Standing::of(PartId part, size_t body) const {
    Transform by = Transform::Identity();
    // Seats go in no circle: a part that is seated in one has no place.
    for (;;) {
        for (const Led& one : led_)
            if (one.at && one.moves(part, body)) by = one.path->at(*one.at) * by;
        const Carrier* below = carrier_of(part);
        if (!below) return by;
        part = below->part;
        body = below->body;
    }
}

Standing Standing::with(MovementId movement, std::optional<double> position) const {
    Standing other = *this;
    for (Led& one : other.led_)
        if (one.id == movement) one.at = position;
    return other;
}

Standing Standing::before(const Evaluation& made, const KeptMovement& movement) const {
    Standing other = *this;
    Led its = led_by(made, movement);
    its.at.reset();
    for (Led& one : other.led_)
        if (one.id == movement.id) {
            one = its;
            return other;
        }
    other.led_.push_back(std::move(its));
    return other;
}

bool Standing::leads(MovementId movement, PartId part, size_t body) const {
    const Led* it = led(movement);
    if (!it) return false;
    for (;;) {
        if (it->moves(part, body)) return true;
        const Carrier* below = carrier_of(part);
        if (!below) return false;
        part = below->part;
        body = below->body;
    }
}

std::optional<MovementPath> Standing::path_of(MovementId movement) const {
    const Led* it = led(movement);
    if (!it || !it->path) return std::nullopt;
    // What leads the body after this movement leads its axis too: later ones of its own, then what it lies on.
    const PartId part = it->moving.part;
    const size_t body = it->moving.body.value_or(0);
    Transform after = Transform::Identity();
    bool later = false;
    for (const Led& one : led_) {
        if (later && one.at && one.moves(part, body)) after = one.path->at(*one.at) * after;
        later = later || &one == it;
    }
    if (const Carrier* below = carrier_of(part)) after = of(below->part, below->body) * after;
    MovementPath path = *it->path;
    path.point = after * path.point;
    path.axis = after.linear() * path.axis;
    return path;
}

std::optional<double> Standing::position_of(MovementId movement) const {
    const Led* it = led(movement);
    return it && it->path ? it->at : std::nullopt;
}

const Problem* Standing::problem_of(MovementId movement) const {
    const Led* it = led(movement);
    return it && it->wrong ? &*it->wrong : nullptr;
}

std::vector<Problem> Standing::problems_of(PartId part) const {
    std::vector<Problem> all;
    for (const Led& one : led_)
        if (one.wrong && one.moving.part == part) all.push_back(*one.wrong);
    return all;
}

std::vector<std::string> Standing::words() const {
    std::vector<std::string> all;
    for (const Led& one : led_)
        if (one.path && one.at) all.push_back(one.moving.name + " at " + position_words(*one.path, *one.at));
    return all;
}

const Standing& standing_of(const Evaluation& evaluation) {
    static const Standing drawn;
    return evaluation.standing ? *evaluation.standing : drawn;
}

TriMesh mesh_where_it_stands(const PartResult& part, const Standing& standing, std::optional<size_t> body) {
    TriMesh all;
    for (size_t i = 0; i < part.bodies.size(); ++i)
        if (!body || *body == i)
            append(all, transformed(part.bodies[i].body.mesh(), standing.of(part.part, i) * part.place));
    return all;
}

std::string position_words(const MovementPath& path, double position) {
    if (path.kind == MovementPath::Kind::Slide) return format_number(position, 2) + " mm";
    if (path.kind == MovementPath::Kind::Legs) return "leg " + format_number(position, 2);
    return format_number(position, 1) + "°";
}

} // namespace lp
