// A hole or a pocket told by what goes in: into a face, along its normal.
#include "base/tolerance.h"
#include "steps/pick_bodies.h"
#include "steps/solids/hole_room.h"
#include "steps/solids/placed_solid.h"
#include <numbers>

namespace lp {
namespace {

Expected<StepResult> make_hole(const std::vector<StepBody>& before, const StepContext& context) {
    auto piece = piece_called(context.word("piece"));
    if (!piece) return pass_on(piece);
    auto chosen = pick_bodies(before, context.word("what"), "cut");
    if (!chosen) return pass_on(chosen);
    auto place = place_in_face(before, context);
    if (!place) return pass_on(place);
    Transform at = place->at;
    at.rotate(Eigen::AngleAxisd(radians(context.number("turned")), Vec3::UnitZ()));
    Box3 all;
    for (size_t i : *chosen) all.extend(before[i].body.box());
    const RoomWish wish{
        context.word("how"),          context.word("fit"),    context.word("head"),   context.number("deep"),
        context.number("ease"),       context.number("skin"), context.number("slot"), 2 * all.diagonal().norm() + 10,
        above_face(context.growth_mm)};
    if (!piece->is_screw() && wish.how != "seats")
        return problem(ProblemCode::Wording, "A " + piece->name + " goes through nothing: it lies in a pocket.",
                       "Choose seats.");
    if (piece->is_screw() && wish.how == "seats")
        return problem(ProblemCode::Wording, "A screw goes through or bites; it lies in no pocket.",
                       "Choose clears or bites.");
    auto room = wish.how == "seats" ? room_for_seat(*piece, wish) : room_for_screw(*piece, wish);
    if (!room) return pass_on(room);
    auto tool = room_tool(*room, -context.growth_mm, at, context);
    if (!tool) return pass_on(tool);
    StepResult result{before, {}, {}};
    double widest = room->prism.flats_mm / 2;
    for (const Vec2& p : room->turned) widest = std::max(widest, p.x());
    bool any = false;
    for (size_t i : *chosen) {
        const Body& body = before[i].body;
        if (context.growth_mm == 0 && i == chosen->front())
            if (auto wrong = no_room(*room, body, at)) return pass_on(*wrong);
        const double volume = body.mass().volume_mm3;
        auto cut = combine(Operation::Cut, body, {*tool}, context.task);
        if (!cut) return pass_on(cut);
        // More than what reaches above the face: a hole into the ground takes that off the part's foot alone.
        const double above = std::numbers::pi * widest * widest * 1.5 * above_face(0);
        any = any || volume - cut->body.mass().volume_mm3 > tolerance::overlap_mm3 + above;
        result.bodies[i].body = cut->body;
        if (!cut->note.empty()) result.note = cut->note;
    }
    if (!any)
        return problem(ProblemCode::Geometry, "There is nothing to cut below that place.",
                       "Move it onto the face, or choose the face it goes into.");
    result.tools.push_back({Operation::Cut, [tool = *tool]() -> Expected<Body> { return tool; }});
    result.place = StepPlace{place->plane, {}, {}};
    if (result.note.empty()) result.note = piece->name + (piece->sure ? "" : "; sizes from memory: measure yours");
    return result;
}

} // namespace

StepKind hole_for_kind() {
    const double far = tolerance::largest_mm;
    StepKind kind;
    kind.id = "hole_for";
    kind.title = "Hole by what goes in";
    kind.purpose = "A hole or a pocket told by the screw, nut, insert, magnet or bearing that goes in: into a face, "
                   "along its normal, with the room that such a thing needs when it is printed.";
    kind.fields = {
        {"piece", FieldKind::Text, "M3 x 12 countersunk", 0, 0, {}, "M4 nut, M3 insert, magnet 7x2, 608 bearing"},
        {"how",
         FieldKind::Choice,
         "clears",
         0,
         0,
         {"clears", "bites", "seats"},
         "clears: a screw passes and its head has room; bites: it cuts its thread there; seats: it lies in a pocket"},
        {"fit", FieldKind::Choice, "medium", 0, 0, {"close", "medium", "free"}, "of a hole that clears: ISO 273"},
        {"head",
         FieldKind::Choice,
         "flush",
         0,
         0,
         {"flush", "on the face", "sunk"},
         "where the head lies; sunk: below the face by the skin"},
        {"deep", FieldKind::Length, "0 mm", 0, far, {}, "of the hole or pocket; 0: as it needs, or all through"},
        {"ease", FieldKind::Length, "0 mm", -1, 5, {}, "a side, besides what is usual for it"},
        {"skin", FieldKind::Length, "0 mm", 0, 100, {}, "between the face and the pocket; a head is sunk by it"},
        {"slot", FieldKind::Length, "0 mm", 0, far, {}, "a way in from the side, so long, along the face's x"},
        {"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies it goes through"}};
    for (const StepField& field : face_place_fields("it goes into")) kind.fields.push_back(field);
    kind.fields.push_back({"turned", FieldKind::Angle, "0 deg", -360, 360, {}, "flats and slot, about the hole"});
    kind.sentence = "Hole {how} {piece}[, {fit} fit][, head {head}][, {deep} deep][, eased by {ease}][, {skin} below "
                    "the face][, slot of {slot}] at {at_x}, {at_y}, {at_z} on {on}[, turned {turned}][, in {what}]";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"screw",  "countersink", "counterbore", "nut",       "pocket", "insert",
                     "magnet", "bearing",     "tap",         "clearance", "bolt"};
    kind.takes_away = true;
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Face,
                    .place = 61,
                    .words = "Screw hole here",
                    .hint = "By the screw that goes in: its shaft passes, its head lies flush",
                    .stands_there = true,
                    .any_body = true,
                    .folded = true},
                   {.when = Chosen::Face,
                    .place = 62,
                    .words = "Pocket for a nut here",
                    .hint = "By the nut, magnet, bearing or insert that lies in it",
                    .fields = {{"piece", "M3 nut"}, {"how", "seats"}},
                    .stands_there = true,
                    .any_body = true,
                    .folded = true}};
    kind.evaluate = make_hole;
    return kind;
}

} // namespace lp
