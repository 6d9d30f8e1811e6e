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
    return std::none_of(led_.begin(), led_.end(), [](const Led& led) { return led.at.has_value(); });
}

const Standing::Led* Standing::led(MovementId movement) const {
    for (const Led& one : led_)
        if (one.id == movement) return &one;
    return nullptr;
}

bool Standing::go_below(BodyOf& it) const {
    const auto below = carriers_.find(it.part);
    if (below == carriers_.end()) return false;
    it = below->second;
    return true;
}

Transform Standing::of(PartId part, size_t body) const {
    Transform by = Transform::Identity();
    BodyOf it{part, body};
    do {
        for (const Led& one : led_)
            if (one.at && one.moves(it)) by = one.path->at(*one.at) * by;
    } while (go_below(it));
    return by;
}

Standing Standing::with(MovementId movement, std::optional<double> position) const {
    Standing other = *this;
    for (Led& one : other.led_)
        if (one.id == movement && one.path) one.at = position;
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
    const Led* one = led(movement);
    BodyOf it{part, body};
    do {
        if (one && one->moves(it)) return true;
    } while (go_below(it));
    return false;
}

std::optional<MovementPath> Standing::path_of(MovementId movement) const {
    const Led* it = led(movement);
    if (!it || !it->path) return std::nullopt;
    // What leads the body after this movement leads its axis too: later ones of its own, then what it lies on.
    BodyOf body{it->moving.part, it->moving.body.value_or(0)};
    Transform after = Transform::Identity();
    bool later = false;
    for (const Led& one : led_) {
        if (later && one.at && one.moves(body)) after = one.path->at(*one.at) * after;
        later = later || &one == it;
    }
    if (go_below(body)) after = of(body.part, body.body) * after;
    MovementPath path = *it->path;
    path.point = after * path.point;
    path.axis = after.linear() * path.axis;
    return path;
}

std::optional<double> Standing::position_of(MovementId movement) const {
    const Led* it = led(movement);
    return it ? it->at : std::nullopt;
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
        if (one.at) all.push_back(one.moving.name + " at " + position_words(*one.path, *one.at));
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
