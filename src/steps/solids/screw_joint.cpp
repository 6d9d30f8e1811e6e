// A screw through several bodies: every hole by what passes there, the last body holds it.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/pick_bodies.h"
#include "steps/solids/hole_room.h"
#include "steps/solids/placed_solid.h"

namespace lp {
namespace {

/// Where a body begins and ends below the face beside the axis, mm down; the first stretch of it alone.
struct Stretch {
    size_t body = 0;
    double from = 0, to = 0;
};

/// Beside a hole of this radius, so that holes that are there already are no gap; the most of eight places.
std::optional<Stretch> stretch_of(const Body& body, size_t number, const Transform& at, double radius, double reach) {
    const DistanceTree tree(body.mesh());
    if (tree.empty()) return std::nullopt;
    std::optional<Stretch> best;
    for (int k = 0; k < 8; ++k) {
        const double a = (k + 0.5) * std::numbers::pi / 4;
        const Vec3 top = at * Vec3(radius * std::cos(a), radius * std::sin(a), 0.02),
                   down = at.linear() * -Vec3::UnitZ();
        const bool inside = tree.inside(top);
        const ClosestPoint in = inside ? ClosestPoint{0, top, 0} : tree.first_hit(top, down);
        if (in.triangle == ~0u) continue;
        const double from = inside ? 0 : (in.point - top).norm() - 0.02;
        if (from > reach) continue;
        const ClosestPoint out = tree.first_hit(in.point + 1e-4 * down, down);
        if (out.triangle == ~0u) continue;
        const double to = (out.point - top).norm() - 0.02;
        if (!best || to - from > best->to - best->from) best = Stretch{number, std::max(from, 0.0), to};
    }
    return best;
}

Expected<Piece> screw_of(const StepContext& context) {
    auto screw = piece_called(context.word("screw"));
    if (!screw) return screw;
    if (!screw->is_screw() || screw->kind == Piece::Kind::Grub)
        return problem(ProblemCode::Wording, "A " + screw->name + " joins nothing.",
                       "Name a screw: M3 x 12 socket head.");
    if (!(screw->length_mm > 0))
        return problem(ProblemCode::Missing, "How long is the " + screw->name + "?", "Say M3 x 12.");
    return screw;
}

/// In the body that holds: bitten into, a nut's pocket at its far side, or an insert's hole where the screw comes in.
Expected<std::vector<Room>> rooms_that_hold(const Piece& screw, double tip, const Stretch& last,
                                            const StepContext& context) {
    const std::string& by = context.word("held_by");
    const double above_face_mm = above_face(context.growth_mm), ease = context.number("ease"),
                 room_to = tip + below_screw_mm;
    const double passes = clearance_hole(screw.across_mm, context.word("fit")) + 2 * ease;
    if (by == "its thread")
        return std::vector<Room>{round_room(screw.core_mm + 2 * ease, -last.from + above_face_mm, -room_to)};
    auto holder = piece_called(holder_words(screw, by));
    if (!holder) return pass_on(holder);
    if (by == "a nut") {
        if (tip < last.to - nut_above_mm)
            return problem(ProblemCode::Range,
                           "The screw ends " + format_number(last.to - nut_above_mm - tip, 1) +
                               " mm short of the nut's end.",
                           "Take a longer one.");
        Room pocket;
        const double high = holder->length_mm + nut_above_mm;
        pocket.prism = {6, holder->flats_mm + 2 * (nut_room_mm + ease), -last.to - above_face_mm, -last.to + high};
        return std::vector<Room>{round_room(passes, -last.from + above_face_mm, -last.to - above_face_mm), pocket};
    }
    return std::vector<Room>{round_room(holder->core_mm + 2 * ease, -last.from + above_face_mm,
                                        -last.from - holder->length_mm - below_screw_mm),
                             round_room(passes, -last.from + above_face_mm,
                                        -std::max(room_to, last.from + holder->length_mm + below_screw_mm))};
}

Expected<Body> cut_by(const Body& body, const std::vector<Room>& rooms, const Transform& at, const StepContext& context,
                      std::vector<StepTool>& tools) {
    Body cut = body;
    for (const Room& room : rooms) {
        auto tool = room_tool(room, -context.growth_mm, at, context);
        if (!tool) return pass_on(tool);
        auto next = combine(Operation::Cut, cut, {*tool}, context.task);
        if (!next) return pass_on(next);
        cut = next->body;
        tools.push_back({Operation::Cut, [tool = *tool]() -> Expected<Body> { return tool; }});
    }
    return cut;
}

Expected<StepResult> make_joint(const std::vector<StepBody>& before, const StepContext& context) {
    auto screw = screw_of(context);
    if (!screw) return pass_on(screw);
    auto chosen = pick_bodies(before, context.word("what"), "join");
    if (!chosen) return pass_on(chosen);
    auto place = place_in_face(before, context);
    if (!place) return pass_on(place);
    Transform at = place->at;
    RoomWish wish{"clears", context.word("fit"),          context.word("head"), 0, context.number("ease"), 0, 0,
                  0,        above_face(context.growth_mm)};
    // Flush, the seat of a round or hexagon head lies below the face.
    const bool sinks = context.word("head") == "flush" && screw->kind != Piece::Kind::Countersunk;
    const double tip = screw->length_mm + (sinks ? screw->head_high_mm : 0);
    const double widest = std::max({screw->head_mm, 1.16 * screw->flats_mm, screw->across_mm + 1});
    std::vector<Stretch> passed;
    for (size_t i : *chosen)
        if (auto found = stretch_of(before[i].body, i, at, widest / 2 + 0.4, tip)) passed.push_back(*found);
    std::sort(passed.begin(), passed.end(), [](const Stretch& a, const Stretch& b) { return a.from < b.from; });
    if (passed.size() < 2)
        return problem(ProblemCode::Geometry,
                       passed.empty() ? "The screw meets no body there." : "The screw meets one body only.",
                       "Move it over both, take a longer one, or make a hole by what goes in.");
    StepResult result{before, {}, {}};
    const double above_face_mm = wish.above;
    for (const Stretch& stretch : passed) {
        const bool last = &stretch == &passed.back(), first = &stretch == &passed.front();
        std::vector<Room> rooms;
        if (last) {
            auto held = rooms_that_hold(*screw, tip, stretch, context);
            if (!held) return pass_on(held);
            rooms = *held;
        } else if (first) {
            wish.deep = stretch.to + above_face_mm;
            auto room = room_for_screw(*screw, wish);
            if (!room) return pass_on(room);
            if (context.growth_mm == 0)
                if (auto wrong = no_room(*room, before[stretch.body].body, at)) return pass_on(*wrong);
            rooms = {*room};
        } else {
            rooms = {round_room(clearance_hole(screw->across_mm, wish.fit) + 2 * wish.ease,
                                -stretch.from + above_face_mm, -stretch.to - above_face_mm)};
        }
        auto cut = cut_by(before[stretch.body].body, rooms, at, context, result.tools);
        if (!cut) return pass_on(cut);
        result.bodies[stretch.body].body = *cut;
    }
    const double in_last = tip - passed.back().from;
    result.place = StepPlace{place->plane, {}, {}};
    result.note = screw->name + ": " + format_number(in_last, 1) + " mm of it in the body that holds it";
    if (context.word("held_by") == "its thread" && in_last < 2 * screw->across_mm)
        result.note += ", less than twice its diameter: it may tear out";
    return result;
}

} // namespace

StepKind screw_joint_kind() {
    StepKind kind;
    kind.id = "screw_joint";
    kind.title = "Screw joint";
    kind.purpose = "A screw through several bodies: its head has room in the first, its shaft passes, and the last is "
                   "bitten into, or has a nut or an insert.";
    kind.fields = {
        {"screw", FieldKind::Text, "M3 x 12 socket head", 0, 0, {}, "M3 x 12 countersunk, M5 x 20 hexagon head"},
        {"held_by", FieldKind::Choice, "its thread", 0, 0, {"its thread", "a nut", "an insert"}, "in the last body"},
        {"fit", FieldKind::Choice, "medium", 0, 0, {"close", "medium", "free"}, "of the holes it passes: ISO 273"},
        {"head", FieldKind::Choice, "flush", 0, 0, {"flush", "on the face"}, "where the head lies"},
        {"ease", FieldKind::Length, "0 mm", -1, 5, {}, "a side, besides what is usual"},
        {"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies it goes through"}};
    for (const StepField& field : face_place_fields("its head lies at")) kind.fields.push_back(field);
    kind.sentence = "Screw {screw} through {what}, held by {held_by}[, {fit} fit][, head {head}][, eased by {ease}] at "
                    "{at_x}, {at_y}, {at_z} on {on}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"bolt", "fasten", "nut", "insert", "clamp", "through"};
    kind.takes_away = true;
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Face,
                    .place = 63,
                    .words = "Screw joint here",
                    .hint = "Through every body below: each hole by what passes there",
                    .stands_there = true,
                    .any_body = true,
                    .folded = true}};
    kind.evaluate = make_joint;
    return kind;
}

} // namespace lp
