#include "steps/solids/hole_room.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/find_plane.h"
#include "steps/solids/profile_shape.h"
#include <algorithm>

namespace lp {

// Room that is usual besides the piece's own size, mm: common practice, no published source. A nut of 8 by 4 lies in
// 8.5 by 4.5, a magnet of 7 by 2 in 7.2 by 2.1.
static constexpr double disc_room_mm = 0.1, disc_above_mm = 0.1, head_room_mm = 0.2, cone_room_mm = 0.1;

static double as_deep_as(const Piece& p, const RoomWish& wish, double usual) {
    return wish.deep > 0 ? wish.deep : p.length_mm > 0 ? p.length_mm + usual : wish.through;
}

Expected<Room> room_for_screw(const Piece& p, const RoomWish& wish) {
    Room room;
    const bool bites = wish.how == "bites";
    const double r = (bites ? p.core_mm : clearance_hole(p.across_mm, wish.fit)) / 2 + wish.ease;
    const double deep = bites ? as_deep_as(p, wish, below_screw_mm) : wish.deep > 0 ? wish.deep : wish.through;
    if (bites) {
        room.turned = {{0, -deep}, {r, -deep}, {r, wish.above}, {0, wish.above}};
        return room;
    }
    const double sunk = wish.head == "sunk" ? wish.skin : 0;
    if (p.kind == Piece::Kind::Countersunk && wish.head != "on the face") {
        const double slope = std::tan(radians(p.cone_deg / 2)), top = p.head_mm / 2 + cone_room_mm + wish.ease,
                     cone = (top - r) / slope;
        room.turned = {{0, -deep}, {r, -deep}, {r, -sunk - cone}, {top, -sunk}, {top, wish.above}, {0, wish.above}};
        room.least_depth_mm = sunk + cone;
        room.needs = "The cone of the head is";
    } else if (wish.head == "on the face" || p.kind == Piece::Kind::Grub) {
        room.turned = {{0, -deep}, {r, -deep}, {r, wish.above}, {0, wish.above}};
    } else {
        const double seat = sunk + p.head_high_mm;
        room.least_depth_mm = seat;
        room.needs = "The head is";
        if (p.kind == Piece::Kind::HexScrew) {
            room.turned = {{0, -deep}, {r, -deep}, {r, wish.above}, {0, wish.above}};
            room.prism = {6, p.flats_mm + 2 * (nut_room_mm + wish.ease), -seat, wish.above};
        } else {
            const double head = p.head_mm / 2 + head_room_mm + wish.ease;
            room.turned = {{0, -deep}, {r, -deep}, {r, -seat}, {head, -seat}, {head, wish.above}, {0, wish.above}};
        }
    }
    if (deep <= room.least_depth_mm)
        return problem(ProblemCode::Range, "The hole is no deeper than the room for the head.",
                       "Make it deeper, or 0 for all through.");
    return room;
}

Expected<Room> room_for_seat(const Piece& p, const RoomWish& wish) {
    Room room;
    const bool nut = p.kind == Piece::Kind::Nut || p.kind == Piece::Kind::SquareNut;
    const double above = nut ? nut_above_mm : p.kind == Piece::Kind::Insert ? below_screw_mm : disc_above_mm;
    const double high = as_deep_as(p, wish, above), low = -wish.skin - high;
    const double top = wish.skin > 0 ? -wish.skin : wish.above;
    double across = 0;
    if (nut) {
        across = p.flats_mm + 2 * (nut_room_mm + wish.ease);
        room.prism = {p.kind == Piece::Kind::Nut ? 6 : 4, across, low, top};
    } else {
        const double r =
            p.kind == Piece::Kind::Insert ? p.core_mm / 2 + wish.ease : p.across_mm / 2 + disc_room_mm + wish.ease;
        across = 2 * r;
        room.turned = {{0, low}, {r, low}, {r, top}, {0, top}};
        room.wall_mm = p.wall_mm;
        room.wall_radius_mm = p.kind == Piece::Kind::Insert ? p.across_mm / 2 : 0;
    }
    if (wish.slot > 0) room.slot = Vec3(wish.slot, across, low);
    room.least_depth_mm = -low;
    room.needs = nut ? "The pocket of the nut is" : "The pocket is";
    return room;
}

Expected<Body> room_tool(const Room& room, double growth, const Transform& at, const StepContext& context) {
    std::vector<Body> parts;
    auto add = [&](Expected<Body> made) -> std::optional<Problem> {
        if (!made) return made.error();
        parts.push_back(*made);
        return std::nullopt;
    };
    auto source = [&] { return TagSource{context.step_id, context.copy ^ (uint64_t(parts.size()) << 40)}; };
    if (!room.turned.empty()) {
        TurnedForm form = room.turned;
        if (growth < 0) { // the axis is no wall: what is made smaller has its other side too, and is cut there again
            form.erase(std::remove_if(form.begin(), form.end(), [](const Vec2& p) { return p.x() <= 0; }), form.end());
            for (size_t i = form.size(); i-- > 0;) form.push_back({-form[i].x(), form[i].y()});
        }
        std::vector<Curve> curves;
        for (size_t i = 0; i < form.size(); ++i) curves.push_back(Curve::line(form[i], form[(i + 1) % form.size()]));
        if (auto wrong = add(turned_profile(curves, growth, at, source()))) return pass_on(*wrong);
    }
    if (room.prism.sides > 0) {
        Transform foot = at;
        foot.translate(Vec3(0, 0, room.prism.low_mm - growth));
        if (auto wrong = add(make_prism(room.prism.sides, room.prism.flats_mm / 2 + growth,
                                        room.prism.high_mm - room.prism.low_mm + 2 * growth, foot, source())))
            return pass_on(*wrong);
    }
    if (room.slot) {
        const double top = room.prism.sides > 0 ? room.prism.high_mm : room.turned[2].y();
        Transform corner = at;
        corner.translate(Vec3(0, -room.slot->y() / 2 - growth, room.slot->z() - growth));
        if (auto wrong = add(make_block(
                {room.slot->x(), room.slot->y() + 2 * growth, top - room.slot->z() + 2 * growth}, corner, source())))
            return pass_on(*wrong);
    }
    if (parts.size() == 1) return parts[0];
    const Body first = parts[0];
    parts.erase(parts.begin());
    auto joined = combine(Operation::Join, first, parts, context.task);
    if (!joined) return pass_on(joined);
    return joined->body;
}

double material_below(const DistanceTree& tree, const Transform& at, double radius) {
    double most = 0;
    for (int k = 0; k < 8; ++k) {
        const double a = k * std::numbers::pi / 4;
        const Vec3 from = at * Vec3(radius * std::cos(a), radius * std::sin(a), -0.02),
                   down = at.linear() * -Vec3::UnitZ();
        if (!tree.inside(from)) continue;
        const ClosestPoint out = tree.first_hit(from, down);
        if (out.triangle != ~0u) most = std::max(most, 0.02 + (out.point - from).norm());
    }
    return most;
}

double wall_round(const DistanceTree& tree, const Transform& at, double radius, double depth) {
    double least = std::numeric_limits<double>::infinity();
    for (int k = 0; k < 24; ++k) {
        const double a = k * std::numbers::pi / 12;
        const Vec3 out = at.linear() * Vec3(std::cos(a), std::sin(a), 0),
                   from = at * Vec3(0, 0, -depth / 2) + radius * out;
        if (!tree.inside(from)) return 0;
        const ClosestPoint hit = tree.first_hit(from, out);
        if (hit.triangle != ~0u) least = std::min(least, (hit.point - from).norm());
    }
    return least;
}

Expected<PlaceInFace> place_in_face(const std::vector<StepBody>& before, const StepContext& context) {
    auto plane = find_plane(before, context, context.value("on"));
    if (!plane) return pass_on(plane);
    if (context.nominal) *plane = context.nominal->plane; // a face that stands out has its corner elsewhere
    PlaceInFace place{*plane, *plane};
    place.at.translate(Vec3(context.number("at_x"), context.number("at_y"), context.number("at_z")));
    return place;
}

std::vector<StepField> face_place_fields(const std::string& what) {
    const double far = tolerance::largest_mm;
    return {
        StepField{"on", FieldKind::Plane, "xy", 0, 0, {}, "the face " + what + "; its coordinates are counted there"}
            .as(FieldRole::StandsOn),
        StepField{"at_x", FieldKind::Length, "0 mm", -far, far, {}, "left to right"}.as(FieldRole::AtX),
        StepField{"at_y", FieldKind::Length, "0 mm", -far, far, {}, "front to back"}.as(FieldRole::AtY),
        StepField{"at_z", FieldKind::Length, "0 mm", -far, far, {}, "up from the face"}.as(FieldRole::AtZ)};
}

Room round_room(double diameter_mm, double high_mm, double low_mm) {
    Room room;
    const double r = diameter_mm / 2;
    room.turned = {{0, low_mm}, {r, low_mm}, {r, high_mm}, {0, high_mm}};
    return room;
}

std::optional<Problem> no_room(const Room& room, const Body& body, const Transform& at) {
    const DistanceTree tree(body.mesh());
    if (tree.empty()) return std::nullopt;
    double widest = room.prism.flats_mm / std::sqrt(3.0);
    for (const Vec2& p : room.turned) widest = std::max(widest, p.x());
    if (room.least_depth_mm > 0) {
        const double there = material_below(tree, at, widest + 0.1);
        if (there > 0 && there < room.least_depth_mm - 1e-3)
            return Problem{ProblemCode::Range,
                           room.needs + " " + format_number(room.least_depth_mm, 2) +
                               " mm deep, and the material there " + format_number(there, 2) + " mm.",
                           "Make the plate thicker, or take a smaller one."};
    }
    if (room.wall_mm > 0) {
        const double wall = wall_round(tree, at, room.wall_radius_mm, room.least_depth_mm);
        if (wall < room.wall_mm - 1e-3)
            return Problem{ProblemCode::Range,
                           "The wall round it is " + format_number(wall, 2) + " mm; it needs " +
                               format_number(room.wall_mm, 2) + " mm to hold.",
                           "Make the boss wider, or move the hole inward."};
    }
    return std::nullopt;
}

} // namespace lp
